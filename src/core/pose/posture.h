#pragma once

#include "base/item.h"
#include "pose/skeleton.h"

#include <map>
#include <optional>
#include <span>

namespace bonemoss::pose {

/// A rotation, then a translation (mm).
struct Rigid {
    Quat turn;
    Vec3f move;
    Vec3f apply(Vec3f p) const { return rotate(turn, p) + move; }
    Vec3f applyInverse(Vec3f p) const { return rotate(turn.conjugate(), p - move); }
    bool isNone() const { return *this == Rigid(); }
    /// b first.
    friend Rigid operator*(const Rigid &a, const Rigid &b) { return {a.turn * b.turn, a.apply(b.move)}; }
    friend bool operator==(const Rigid &, const Rigid &) = default;
};

/// How far one bone is turned from rest, about its own axes.
struct Turn {
    BoneKey bone;
    Quat turn;
    friend bool operator==(const Turn &, const Turn &) = default;
};

/// How an outgrowth differs from rest: lids that close, eyes that look somewhere.
struct OutgrowthPose {
    std::uint32_t outgrowth = 0;
    std::map<std::string, float, std::less<>> changes; ///< of settings, by name: what is added to their values at rest
    std::optional<Vec3f> look;                         ///< the point it looks at, mm, where that would be at rest
    bool isRest() const { return changes.empty() && !look; }
    friend bool operator==(const OutgrowthPose &, const OutgrowthPose &) = default;
};

/// How a creature is posed: the bones and outgrowths that do not rest, and how the whole of it stands.
struct Posture {
    std::vector<Turn> turns; ///< by key; none for a bone at rest
    Rigid whole;
    std::vector<OutgrowthPose> outgrowths; ///< by number; none for one at rest
    bool isRest() const { return turns.empty() && whole.isNone() && outgrowths.empty(); }
    Quat turnOf(BoneKey bone) const;
    void set(BoneKey bone, Quat turn); ///< rest is not kept
    const OutgrowthPose *outgrowth(std::uint32_t id) const;
    float changeOf(std::uint32_t outgrowth, std::string_view setting) const;
    void setChange(std::uint32_t outgrowth, std::string_view setting, float change);
    void setLook(std::uint32_t outgrowth, std::optional<Vec3f> at);
    friend bool operator==(const Posture &, const Posture &) = default;
};

/// A posture put by under a name.
struct Pose {
    std::uint32_t id = 0;
    std::string name;
    Posture posture;
    std::vector<BoneKey> bones; ///< that it is of, where it is not of all
    friend bool operator==(const Pose &, const Pose &) = default;
};

/// Where each bone brings what rests: of all bones. A bone at rest whose parents are is no map at all, bit for bit. O(bones).
std::vector<Rigid> placesOf(const Skeleton &skeleton, const Posture &posture);

/// Degrees about the bone's own x, then y, then z; and how far beyond its limits, 0 within.
Vec3f anglesOf(Quat turn);
Quat turnOfAngles(Vec3f degrees);
float beyondLimits(const Bone &bone, Quat turn);
Quat withinLimits(const Bone &bone, Quat turn);

/// The bones that move when a place on one is dragged: from the first below the body or below a pinned one down to it.
std::vector<std::uint32_t> limbOf(const Skeleton &skeleton, std::uint32_t bone, std::span<const std::uint32_t> pinned = {});

struct Reach {
    bool keepsLimits = true;
    int steps = 48;          ///< at most
    float tolerance = 0.01f; ///< mm
};
/// Turns the bones of a chain (each the parent of the next) so that a place that rests at `from` on the last comes to `to`, mm.
/// Lengths stay. Returns how far it is off in the end. Source: FABRIK, A. Aristidou & J. Lasenby 2011, with each bone's turn brought
/// within its limits in the forward pass. O(steps * bones).
float reach(const Skeleton &skeleton, Posture &posture, std::span<const std::uint32_t> chain, Vec3f from, Vec3f to,
            const Reach &how = {});

/// Bends a chain softly: a rotation about an axis of the bones' own, whose length is the angle in degrees, is shared among them.
void curl(const Skeleton &skeleton, Posture &posture, std::span<const std::uint32_t> chain, Vec3f axis);

/// The same on the other side of the middle plane.
Posture mirrored(const Skeleton &skeleton, const Posture &posture);
/// One side like the other: what is turned on the left, or on the right, is so on both.
Posture symmetrical(const Skeleton &skeleton, const Posture &posture, bool fromLeft);
/// The rotation a share of the way from one to another, by the shortest way.
Quat slerp(Quat a, Quat b, float share);
/// Between two, 0 the first, 1 the second; turns by slerp.
Posture between(const Skeleton &skeleton, const Posture &a, const Posture &b, float share);

} // namespace bonemoss::pose
