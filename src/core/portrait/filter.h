#pragma once

#include "base/progress.h"
#include "portrait/gathered.h"

namespace bonemoss::portrait {

enum class FilterQuality {
    Quick, ///< wavelets, for the view: worth five samples or so
    Full   ///< regression, for pictures
};

/// How many pixels beyond its own the full filter looks at.
inline constexpr int kFilterMargin = 24;

/// Takes the noise out of a picture that has been gathered, led by what is met first: normal, colour and depth.
/// Full: first-order regression about each pixel over 11 by 11 others, weighed by how alike patches of the other half of the samples are,
/// each giving its say on all of them (B. Bitterli et al. 2016, "Nonlinearly weighted first-order regression"; A. Buades, B. Coll &
/// J.-M. Morel 2005; F. Rousselle, C. Knaus & M. Zwicker 2012).
/// Quick: holes in the kernel grow from pass to pass (H. Dammertz et al. 2010), led by variance (C. Schied et al. 2017).
/// Full: pixels farther than kFilterMargin from the border of a part of a picture come out as in the whole.
/// Returns the mean light of each pixel; without it as it is where it was cancelled. O(pixels).
std::vector<Vec3f> filtered(const Gathered &gathered, FilterQuality quality, const Progress &progress = {});

} // namespace bonemoss::portrait
