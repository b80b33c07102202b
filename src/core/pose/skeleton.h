#pragma once

#include "armature/form.h"

#include <string>
#include <vector>

namespace bonemoss::pose {

/// Which bone: the form it comes from, on which side, and of a chain which part.
struct BoneKey {
    std::uint32_t form = 0, part = 0;
    bool isTwin = false; ///< of the form's twin across the middle plane
    friend auto operator<=>(const BoneKey &, const BoneKey &) = default;
};
/// As attributes and files name it: "12", "12t", "12.3", "12t.3". And back; form 0 where it is none.
std::string textOf(BoneKey key);
BoneKey boneKeyOf(std::string_view text);

/// A capsule of flesh about a bone, at rest.
struct Flesh {
    Vec3f a, b;
    float radius = 1; ///< mm
};

/// A joint and what turns about it, at rest.
struct Bone {
    BoneKey key;
    std::string name;
    std::uint32_t parent = kNone;                     ///< in the skeleton, before it
    Vec3f head, tail;                                 ///< mm: the joint, and where it ends
    Quat frame;                                       ///< of its own axes in creature space
    Vec3f low{-180, -180, -180}, high{180, 180, 180}; ///< degrees that it may turn about its own x, then y, then z
    bool isLine = true;                               ///< it follows a path; else it is a mass
    std::vector<Flesh> flesh;                         ///< its own, and of the masses that ride on it
    float length() const { return bonemoss::length(tail - head); }
};

struct Skeleton {
    std::vector<Bone> bones; ///< parents first

    std::uint32_t find(BoneKey key) const; ///< kNone for none
    std::uint32_t find(std::string_view name) const;
    std::uint32_t twinOf(std::uint32_t bone) const; ///< the one across the middle plane; itself in the middle
    std::vector<std::uint32_t> childrenOf(std::uint32_t bone) const;
    /// The bone that a form rides on: its own, or its parents'. Of a chain the part nearest to a place.
    std::uint32_t carrierOf(const armature::Armature &armature, std::uint32_t form, bool isTwin, Vec3f at) const;
};

/// What a person has changed about the skeleton that follows from the armature.
struct Rigging {
    std::vector<std::uint32_t> leftOut; ///< forms that ride on their parents though they could turn
    struct Chain {
        std::uint32_t form = 0, parts = 1;
        friend bool operator==(const Chain &, const Chain &) = default;
    };
    std::vector<Chain> chains; ///< tubes of another number of parts than usual
    friend bool operator==(const Rigging &, const Rigging &) = default;
};
inline constexpr std::uint32_t kMostParts = 24;

/// The skeleton of an armature: forms with a path (limbs, tubes, cones), forms with limits set and masses from which several bones hang (a
/// foot with toes) are bones, and so is each form that hangs from nothing; tubes are chains. What is a mass alone rides on the bone
/// above it. Twins have bones of their own. O(forms).
Skeleton skeletonOf(const armature::Armature &armature, const Rigging &rigging = {});

} // namespace bonemoss::pose
