#pragma once

#include "skin/skin.h"

namespace bonemoss::skin {

/// A round spot of skin about a point on it.
struct Spot {
    Vec3f centre, normal; ///< normal: of the skin there, so that a thin part's far side is not taken for it
    float radius = 1;     ///< mm
};

/// Which edges of a spot change.
enum class Evening {
    Finer,   ///< longer ones become as long as asked for
    Coarser, ///< shorter ones do
    Both
};

/// Gives the faces of some spots edges of a length in mm, fading out to what is there at their rims. Only skin that hangs
/// together with a spot's middle inside its ball; masked and hidden vertices stay. Body, layers, masks, groups and hidden
/// parts come along; vertices that are not moved keep their bits. The shown surface moves by no more than its faces were
/// flat. Its vertices keep their numbers, new ones use the room of those taken away or come last; what is left over stays
/// unused until compact().
/// Returns the blocks that changed, each once, in order; none when the edges were right already. One level only.
/// O(blocks + vertices of the blocks touched).
std::vector<std::uint32_t> evenOut(Skin &skin, std::span<const Spot> spots, float edge, Evening how);

/// Numbers the vertices anew without those that no face uses, in the order they had. O(vertices); nothing to do: O(blocks).
void compact(Skin &skin);

} // namespace bonemoss::skin
