#pragma once

#include "image/picture.h"
#include "mesh/surface.h"

#include <array>
#include <optional>
#include <vector>

namespace bonemoss::colour {

/// A picture held before a surface by its four corners, in any quadrilateral without a hollow corner.
struct PictureCard {
    std::array<Vec3f, 4> corners; ///< mm: top left, top right, bottom right, bottom left as its viewer sees it
    std::optional<Vec3f> eye;     ///< mm, of the viewer; none: sight is parallel, square to the card
};

/// What a surface is coloured by a picture that is thrown on it.
struct Thrown {
    std::vector<Vec3f> colours; ///< sRGB of each vertex
    std::vector<float> shares;  ///< 0 to 1: nothing beside the picture, where it is clear, and on what the viewer does not see
};
/// Throws a picture on a surface along the viewer's sight, warped by its corners (projective map between quadrilaterals: P. Heckbert,
/// "Fundamentals of Texture Mapping and Image Warping", 1989). soft: share of the picture over which its border fades, 0 to 0.5.
/// None where the corners are no such quadrilateral. O(vertices + pixels of a depth picture).
std::optional<Thrown> thrownOn(const mesh::Surface &surface, const image::ColourPicture &picture, const PictureCard &card,
                               float soft = 0);

} // namespace bonemoss::colour
