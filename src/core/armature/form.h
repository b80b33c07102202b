#pragma once

#include "base/result.h"
#include "base/types.h"
#include "field/knit.h"
#include "mesh/poly_mesh.h"

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::armature {

enum class FormKind { Ball, Ellipsoid, Limb, Block, Cone, Tube };
/// What a form does when knitted.
enum class FormRole { Add, Cut, Apart };

std::string_view nameOf(FormKind kind);
std::optional<FormKind> kindNamed(std::string_view name);
std::string_view nameOf(FormRole role);
std::optional<FormRole> roleNamed(std::string_view name);

/// A point of a path with the radius there, mm.
struct PathPoint {
    Vec3f at;
    float radius = 1;
    friend bool operator==(const PathPoint &, const PathPoint &) = default;
};

/// One solid of the armature. Lengths in mm, in the form's own frame; its pivot is that frame's origin.
struct Form {
    std::uint32_t id = 0;
    std::uint32_t parent = 0; ///< 0: stands on its own
    std::string name;
    FormKind kind = FormKind::Ball;
    FormRole role = FormRole::Add;
    Transform place;             ///< relative to the parent
    Vec3f radii{10, 10, 10};     ///< ball: x; ellipsoid: all; block: half sizes
    float rounding = 2;          ///< block: radius of edges
    std::vector<PathPoint> path; ///< limb, cone: two points; tube: two or more
    float melt = 4;              ///< over how many mm it flows into what it touches
    bool isMirrored = false;     ///< has a twin across the middle plane
    bool isLocked = false, isHidden = false;
    friend bool operator==(const Form &, const Form &) = default;
};

/// The forms in order; a parent stands before its children.
struct Armature {
    std::vector<Form> forms;

    const Form *find(std::uint32_t id) const;
    Form *find(std::uint32_t id);
    /// Where a form stands in the creature: its parents' places composed.
    Transform worldPlace(const Form &form) const;
    bool isDescendant(std::uint32_t id, std::uint32_t ancestor) const;
    std::vector<std::uint32_t> branch(std::uint32_t id) const; ///< id and all below it
    friend bool operator==(const Armature &, const Armature &) = default;
};

/// Surface of one form in creature space for drawing and picking, without its twin.
mesh::PolyMesh tessellate(const Form &form, const Transform &world);

/// Centripetal Catmull-Rom curve through a path (Catmull & Rom 1974; Yuksel et al. 2011), `steps`
/// points to a span; radii follow the same curve and stay above 0.
std::vector<PathPoint> smoothPath(const std::vector<PathPoint> &path, int steps);

/// Distance to a whole armature: forms melted into one, twins included, cut forms taken away.
/// `only` limits it to those ids when not empty. The armature may be dropped afterwards.
std::unique_ptr<field::DistanceSource> makeDistance(const Armature &armature, std::span<const std::uint32_t> only = {});

} // namespace bonemoss::armature
