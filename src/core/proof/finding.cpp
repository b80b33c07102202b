#include "proof/finding.h"

#include <algorithm>
#include <array>
#include <cassert>

namespace bonemoss::proof {

std::span<const FindingKind> findingKinds()
{
    static constexpr std::array<FindingKind, 16> all{{
        {"open", "Open edges", "edges", Severity::Spoils, "The surface has a hole: printers cannot tell inside from outside",
         "Close its holes", "piece.close"},
        {"non-manifold", "Edges with more than two faces", "edges", Severity::Spoils, "Faces meet where no solid has an edge",
         "Repair it", "piece.repair"},
        {"flipped", "Faces turned over", "edges", Severity::Spoils, "Inside and outside are swapped there", "Repair it",
         "piece.repair"},
        {"inverted", "Turned inside out", "mm3", Severity::Spoils, "All of it faces inwards and counts as a hole", "Repair it",
         "piece.repair"},
        {"crossing", "Self-crossings", "pairs", Severity::Risky, "Faces pass through each other", "Seal it into one body",
         "print.seal", false},
        {"overlap", "Overlapping bodies", "mm3", Severity::Note, "Parts of different bodies fill the same space",
         "Seal all into one body", "print.seal", false},
        {"pocket", "Hidden pockets", "mm3", Severity::Spoils, "Closed hollow: resin stays trapped in it",
         "Fill it: seal into one body; or drill a hole to drain it", "print.seal", false},
        {"cup", "Cups", "mm2", Severity::Risky, "Closed towards the plate while it is printed: it sucks at the film",
         "Vent it with a hole, or turn the print", "print.orient"},
        {"island", "Begins in the air", "mm2", Severity::Risky, "Nothing below carries the first layer of it",
         "Support it, or turn the print", "print.supports"},
        {"loose", "Loose bodies", "mm3", Severity::Spoils, "Touches nothing else and will come off",
         "Join it to the rest, or delete it"},
        {"wall", "Walls too thin", "mm", Severity::Spoils, "Thinner than the printer can make", "Thicken it", "print.thicken"},
        {"tip", "Tips and whiskers too thin", "mm", Severity::Risky, "Stands free and is thinner than lasts",
         "Blunt or thicken it", "print.thicken"},
        {"gap", "Gaps that will fuse", "mm", Severity::Risky, "Two faces are closer than stays open", "Widen or close the gap"},
        {"overhang", "Overhangs", "mm2", Severity::Note, "Looks down too steeply to be carried by what is below",
         "Support it, or turn the print", "print.supports"},
        {"stance", "Does not stand", "mm", Severity::Risky, "The weight falls outside of what touches the ground",
         "Set the feet apart, or give it a base", "print.base"},
        {"size", "Too large for the printer", "mm", Severity::Spoils, "Does not fit the build volume",
         "Make it smaller, or cut it"},
    }};
    return all;
}

const FindingKind &findingKind(std::string_view id)
{
    const auto all = findingKinds();
    const auto at = std::find_if(all.begin(), all.end(), [&](const FindingKind &k) { return k.id == id; });
    assert(at != all.end());
    return *at;
}

} // namespace bonemoss::proof
