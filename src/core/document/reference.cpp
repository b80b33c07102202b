#include "document/reference.h"

#include "portrait/camera.h"

#include <cmath>

namespace bonemoss::document {

namespace {

struct Axes {
    Vec3f right, up;
};

Axes axesOf(std::string_view view)
{
    const Quat turn = portrait::viewRotation(view).value_or(Quat{});
    return {rotate(turn, {1, 0, 0}), rotate(turn, {0, 1, 0})};
}

bool isFromSide(std::string_view view)
{
    return view == "nose" || view == "tail" || view == "left" || view == "right";
}

bool isFromEnd(std::string_view view)
{
    return view == "nose" || view == "tail";
}

} // namespace

Vec3f placeOf(const Reference &r, PicturePoint p)
{
    const Axes a = axesOf(r.view);
    const float x = (p.u - 0.5f) * r.widthMm(), y = (0.5f - p.v) * r.heightMm, c = std::cos(r.rotation), s = std::sin(r.rotation);
    return a.right * (r.across + c * x - s * y) + a.up * (r.up + s * x + c * y);
}

PicturePoint pointOf(const Reference &r, Vec3f place)
{
    const Axes a = axesOf(r.view);
    const float x = dot(place, a.right) - r.across, y = dot(place, a.up) - r.up, c = std::cos(r.rotation),
                s = std::sin(r.rotation);
    return {0.5f + (c * x + s * y) / r.widthMm(), 0.5f - (c * y - s * x) / r.heightMm};
}

Status lineUp(Reference &r, PicturePoint crown, PicturePoint ground, float heightMm, float middleZ)
{
    const auto bad = [&](const char *why) -> Status { return Error{ErrorCode::BadValue, r.name, why}; };
    if (r.view == kBoard)
        return bad("lies on the board; choose a view for it first");
    const Vec3f from = placeOf(r, ground), to = placeOf(r, crown);
    const bool fromSide = isFromSide(r.view);
    const float apart = fromSide ? to.y - from.y : to.z - from.z; // the height, or the length towards the nose
    if (std::abs(apart) < 0.05f * r.heightMm)
        return bad(fromSide ? "crown and ground are too near to each other" : "nose and tail are too near to each other");
    if (apart < 0)
        return bad(fromSide ? "the crown must lie above the ground" : "the nose must lie ahead of the tail");
    const float by = heightMm / apart;
    r.heightMm *= by, r.across *= by, r.up *= by; // about the origin: every place scales alike
    r.crown = crown, r.ground = ground;
    const Vec3f low = placeOf(r, ground), high = placeOf(r, crown);
    Vec3f off; // from where they should be
    if (fromSide)
        off = {isFromEnd(r.view) ? (low.x + high.x) / 2 : 0, low.y, 0};
    else
        off = {(low.x + high.x) / 2, 0, (low.z + high.z) / 2 - middleZ};
    const Axes a = axesOf(r.view);
    r.across -= dot(off, a.right), r.up -= dot(off, a.up);
    return Done{};
}

std::optional<LineUpError> lineUpError(const Reference &r, float heightMm)
{
    if (!r.crown || !r.ground || !isFromSide(r.view))
        return {};
    const Vec3f low = placeOf(r, *r.ground), high = placeOf(r, *r.crown);
    return LineUpError{high.y - heightMm, low.y, isFromEnd(r.view) ? (low.x + high.x) / 2 : 0};
}

} // namespace bonemoss::document
