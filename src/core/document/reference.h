#pragma once

#include "base/item.h"
#include "base/result.h"
#include "base/types.h"
#include "image/encoded_picture.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>

namespace bonemoss::document {

using PictureFile = image::EncodedPicture;

/// A place in a picture as shares of its width from the left and of its height from the top.
struct PicturePoint {
    float u = 0.5f, v = 0.5f;
    friend bool operator==(const PicturePoint &, const PicturePoint &) = default;
};

/// The view that means: not on a view, but loose on the board.
inline constexpr std::string_view kBoard = "board";

/// A picture to work from: on one of the six anatomical views, or loose on the board.
struct Reference : Item {
    std::string view{kBoard}; ///< key of portrait::anatomicalViews(), or kBoard
    std::shared_ptr<const PictureFile> file;
    float across = 0, up = 0; ///< mm: its middle along the view's right and up, from the creature's origin
    float heightMm = 100;     ///< how high the whole picture is
    float rotation = 0;       ///< radians counter-clockwise as seen in the view
    float opacity = 0.2f;     ///< 0 to 1
    bool isOver = false;      ///< drawn over the creature instead of behind it
    /// Where crown and ground are in it (from above or below: the ends at nose and tail); set by lining it up.
    std::optional<PicturePoint> crown, ground;

    float widthMm() const { return heightMm * float(file->width) / float(file->height); }
};

/// Creature space, on the plane through the origin that faces the reference's view, of a place in the picture.
Vec3f placeOf(const Reference &reference, PicturePoint point);
/// The place in the picture on which a point of the creature falls in its view.
PicturePoint pointOf(const Reference &reference, Vec3f place);

/// Scales and moves a picture so that ground lies at y = 0 and crown at heightMm; seen from nose or tail, both
/// come to the middle plane. From crown or belly the points are the ends at nose and tail: heightMm is then the
/// length between them, and they come to lie on the middle plane, halfway at z = middleZ.
/// Error: BadValue where the two points are less than a twentieth of the picture apart, or the wrong way round.
Status lineUp(Reference &reference, PicturePoint crown, PicturePoint ground, float heightMm, float middleZ = 0);

/// By how much a lined-up picture is off: of its crown and of its ground, mm upwards. Nothing where it was never
/// lined up, or is not seen from a side.
struct LineUpError {
    float crown = 0, ground = 0, across = 0; ///< across: from the middle plane, seen from nose or tail
};
std::optional<LineUpError> lineUpError(const Reference &reference, float heightMm);

} // namespace bonemoss::document
