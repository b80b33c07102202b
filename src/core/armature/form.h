#pragma once

#include "base/item.h"
#include "base/result.h"
#include "base/types.h"
#include "field/knit.h"
#include "mesh/poly_mesh.h"

#include <array>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::armature {

enum class FormKind { Ball, Ellipsoid, Limb, Block, Cone, Tube, Cylinder, Torus, Disc, Wedge, Turned, Body, Blob, Group };
inline constexpr std::array<std::string_view, 14> kKindNames{"ball",  "ellipsoid", "limb",  "block",  "cone", "tube", "cylinder",
                                                             "torus", "disc",      "wedge", "turned", "body", "blob", "group"};
/// What a form does when knitted; a bone turns and is nothing else.
enum class FormRole { Add, Cut, Apart, Bone };
inline constexpr std::array<std::string_view, 4> kRoleNames{"add", "cut", "apart", "bone"};

std::string_view nameOf(FormKind kind);
bool hasPath(FormKind kind); ///< limb, cone, cylinder, tube, turned
/// False for a group, which only carries others.
inline bool hasShape(FormKind kind)
{
    return kind != FormKind::Group;
}
std::optional<FormKind> kindNamed(std::string_view name);
std::string_view nameOf(FormRole role);
std::optional<FormRole> roleNamed(std::string_view name);

/// A point of a path with the cross-section there, mm.
struct PathPoint {
    Vec3f at;
    float radius = 1;
    float squash = 1;   ///< tube: half width over half height, 1 as high as wide
    float square = 0;   ///< tube: 0 round, 1 square
    float rotation = 0; ///< tube: radians that the section is turned about the path
    friend bool operator==(const PathPoint &, const PathPoint &) = default;
};

/// What one copy of a repeated form does otherwise than the rule says.
struct CopyChange {
    std::uint32_t index = 0; ///< 0 is the form itself
    Vec3f translation;       ///< mm, in creature space
    Quat rotation;
    float scale = 1;
    bool isHidden = false;
    friend bool operator==(const CopyChange &, const CopyChange &) = default;
};

enum class RepeatMode { None, Around, Along };
inline constexpr std::array<std::string_view, 3> kRepeatNames{"none", "around", "along"};

/// A form that stands several times: round an axis, or along the path of another form.
struct Repeat {
    RepeatMode mode = RepeatMode::None;
    std::uint32_t count = 1;
    Vec3f centre, axis{0, 1, 0}; ///< around: a point of the axis and its direction, in the parent's frame
    float spread = 6.2831853f;   ///< around: radians from the first copy to the last; a full turn closes evenly
    std::uint32_t guide = 0;     ///< along: the form whose path is followed
    float from = 0, to = 1;      ///< along: shares of that path's length
    /// Sizes at even steps from the first copy to the last, 1 being the form's own; empty for all alike.
    std::vector<float> sizes;
    std::vector<CopyChange> changes;
    friend bool operator==(const Repeat &, const Repeat &) = default;
};

/// How a form rests at its joint, against its parent, and how far from there it may turn: degrees about x, then y,
/// then z. Kept for posing.
struct Joint {
    Vec3f rest, low{-180, -180, -180}, high{180, 180, 180};
    friend bool operator==(const Joint &, const Joint &) = default;
};

/// One solid of the armature. Lengths in mm, in the form's own frame; its pivot is that frame's origin.
struct Form : Item {
    FormKind kind = FormKind::Ball;
    FormRole role = FormRole::Add;
    Transform place; ///< relative to the parent
    /// Ball, blob: x. Ellipsoid: all. Block, wedge: half sizes. Torus: x of the ring, y of its tube.
    /// Disc: x of the rim, y half its thickness.
    Vec3f radii{10, 10, 10};
    float rounding = 2; ///< block, wedge, disc, cylinder: radius of edges
    float bore = 0;     ///< cylinder: share of the radius that is hollow, 0 to 0.95
    float square = 0;   ///< body: 0 oval sections, 1 square ones
    /// Limb, cone, cylinder: two points. Tube: two or more. Turned: the profile along the form's own y axis,
    /// radius being the distance from it.
    std::vector<PathPoint> path;
    std::array<std::vector<Vec3f>, 4> sides; ///< body: its crown, belly, left and right curve, along its own z
    float melt = 4;                          ///< over how many mm it flows into what it touches
    bool isMirrored = false;                 ///< has a twin across the middle plane
    bool isKnitted = false;                  ///< a skin was knitted of it, which stands for it from then on
    Repeat repeat;
    Joint joint;
    std::uint32_t link = 0; ///< forms of one link share their shape; 0 for none
    friend bool operator==(const Form &, const Form &) = default;
};

/// A wanted length of a form or piece in units of the armature's unit.
struct ProportionTarget {
    std::uint32_t form = 0;
    float ratio = 1;
    float tolerance = 0.05f; ///< share of the ratio it may be off by
    friend bool operator==(const ProportionTarget &, const ProportionTarget &) = default;
};

/// The forms in order; a parent stands before its children.
struct Armature {
    std::vector<Form> forms;
    std::uint32_t unitForm = 0; ///< form or piece by whose length the others are measured; 0 for none
    std::vector<ProportionTarget> targets = {};

    const Form *find(std::uint32_t id) const;
    Form *find(std::uint32_t id);
    /// Where a form stands in the creature: its parents' places composed.
    Transform worldPlace(const Form &form) const;
    bool isDescendant(std::uint32_t id, std::uint32_t ancestor) const;
    std::vector<std::uint32_t> branch(std::uint32_t id) const; ///< id and all below it
    friend bool operator==(const Armature &, const Armature &) = default;
};

/// Where all copies of a form stand in the creature, hidden ones left out; one place for a form that is not
/// repeated. A guide that is gone or has no path leaves the form alone in its place.
std::vector<Transform> placesOf(const Armature &armature, const Form &form);

/// Surface of one form in creature space for drawing and picking, without its twin.
mesh::PolyMesh tessellate(const Form &form, const Transform &world);

/// All copies of a form, without their twins.
mesh::PolyMesh tessellateAll(const Armature &armature, const Form &form);

/// Centripetal Catmull-Rom curve through a path (Catmull & Rom 1974; Yuksel et al. 2011), `steps`
/// points to a span; radii follow the same curve and stay above 0.
std::vector<PathPoint> smoothPath(const std::vector<PathPoint> &path, int steps);

/// The names of a body's side curves, in the order of Form::sides.
inline constexpr std::array<std::string_view, 4> kSideNames{"crown", "belly", "left", "right"};

/// The path that a body's two to four side curves stand for: sections at even steps along its own z,
/// each as high as crown and belly are apart and as wide as left and right are. A missing side is the twin
/// of the other; with neither the body is 0.8 times as wide as high. Empty when crown or belly has
/// fewer than two points or they share no stretch of z.
std::vector<PathPoint> bodyPath(const Form &form, int steps);

/// Distance to a whole armature: forms melted into one, twins included, cut forms taken away.
/// `only` limits it to those ids when not empty. The armature may be dropped afterwards.
std::unique_ptr<field::DistanceSource> makeDistance(const Armature &armature, std::span<const std::uint32_t> only = {});

} // namespace bonemoss::armature
