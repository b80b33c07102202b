#pragma once

#include "colour/finish.h"
#include "command/fields.h"

namespace bonemoss::command {

/// The finish that a command gives: a ready one, and single values before it.
Finish finishOf(const auto &p)
{
    Finish out;
    if (p.ready)
        for (std::size_t k = 0; k < out.size(); ++k)
            out[k] = colour::kReadyFinishes[*p.ready].values[k];
    const Finish given{p.gloss, p.metal, p.wet, p.translucent, p.grain};
    for (std::size_t k = 0; k < out.size(); ++k)
        setIfGiven(out[k], given[k]);
    return out;
}

template <typename P> Fields<P> finishFields()
{
    return {fieldOf<P>(&P::gloss, "gloss", "", "0 matt, 1 mirror-like", 0, 1),
            fieldOf<P>(&P::metal, "metal", "", "0 to 1", 0, 1),
            fieldOf<P>(&P::wet, "wet", "", "a clear coat, 0 to 1", 0, 1),
            fieldOf<P>(&P::translucent, "translucent", "", "0 to 1", 0, 1),
            fieldOf<P>(&P::grain, "grain", "", "fine relief that only pictures show, 0 to 1", 0, 1),
            choiceOf<P>(&P::ready, "finish", "a ready finish; single values given beside it go before it",
                        colour::kReadyFinishNames)};
}

} // namespace bonemoss::command
