#pragma once

#include "base/item.h"
#include "base/operation.h"
#include "base/result.h"
#include "growth/ground.h"
#include "io/scene.h"

#include <array>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::outgrowth {

/// One thing that can be set of an outgrowth.
struct Setting {
    std::string_view name, title;
    std::string_view unit;      ///< "mm", "deg" or ""
    std::string_view low, high; ///< what its ends look like, in a word or two
    float min = 0, max = 1;
    bool isCount = false;
    std::span<const std::string_view> choices{}; ///< by name, where its value is one of these from 0
};

/// What an outgrowth of a kind stands on.
enum class Rooting {
    Point, ///< a place on the skin
    Line,  ///< a line on it
    Lines, ///< two lines on it or more
    Area,  ///< where a mask lies
};

/// Usual lengths are for a creature of that size, mm.
inline constexpr float kUsualSize = 180;

struct Outgrowth;
struct Input;
struct Spot;
struct Prepared;

/// A raised rim of skin round each root, kept in a detail layer of the piece.
struct Rim {
    float height = 0, width = 0; ///< mm
    std::uint32_t layer = 0;     ///< 0: there is none
};

/// What can be set place by place over an area, each by a kept mask: at half it is as the settings have it, at none nothing of it, whole
/// twice as much (lift and curl: 70 degrees and 1 more or less).
enum class Map { Length, Lift, Curl, Density };
inline constexpr std::array<std::string_view, 4> kMapNames{"length", "lift", "curl", "density"};

/// What makes one member's shape differ from another's of the same outgrowth.
struct Variation {
    std::uint32_t variant = 0;   ///< which of the shapes that the rule makes
    float broken = 0;            ///< share of its length that is broken off
    float bend = 0;              ///< degrees, over its length, towards the local +Z
    float thin = 1;              ///< times, across its length
    std::array<float, 3> pull{}; ///< mm that its tip is drawn out by, in its own frame
    std::uint32_t item = 0;      ///< an item that stands in its place; 0 for none
    bool isItsOwn() const { return bend == 0 && thin == 1 && pull == std::array<float, 3>{}; } ///< as the rule or the item has it
    friend auto operator<=>(const Variation &, const Variation &) = default;
};

/// What else is true of a kind.
enum Trait : unsigned {
    ShapedByPlace = 1, ///< shapes follow the skin or the line, not the settings alone
    AtTips = 2,        ///< is usual at the tips of toes and fingers
    TakesPath = 4,     ///< its middle line can be drawn
    Bundle = 8,        ///< a member is several closed solids, which may cross each other
    Repeats = 16,      ///< an item can stand for its members
    Sectioned = 32,    ///< its section can be drawn
    Looks = 64,        ///< can look at a point
    IsCut = 128,       ///< lines on the skin cut it into members
    Stretches = 256,   ///< can stand between members of other outgrowths, too
    OnJaws = 512,      ///< is usual along the edge of a jaw
    Culled = 1024,     ///< can be left out where it is not seen
    Coloured = 2048,   ///< its root and tip colour can be set
};

/// A kind of outgrowth, as tables, commands, the bench and the manual know it. Adding one is one row.
struct Kind {
    std::string_view name, title, text, group;
    Rooting rooting = Rooting::Point;
    std::span<const Setting> settings;
    std::span<const float> usual; ///< of each setting; sizes for a creature of 180 mm
    /// Where members stand, on one side of the plane of symmetry.
    void (*layout)(const Input &, std::vector<Spot> &) = nullptr;
    /// A member in its own frame: mm, +Y out of the skin, rooted at the origin. A closed solid.
    mesh::PolyMesh (*shape)(const Input &, const Variation &) = nullptr;
    io::Material (*material)(const Input &, const Variation &) = nullptr; ///< null: horn
    /// What layout and shape have in common and is worked out once; null where there is nothing.
    std::shared_ptr<const Prepared> (*prepare)(const Input &) = nullptr;
    unsigned traits = 0; ///< of Trait, added up
    /// What is drawn and traced in place of a shape that thickens it; null for the shape itself.
    mesh::Curves (*curves)(const Input &, const Variation &) = nullptr;
    /// What the points of a shape carry, as texture coordinates; null for nothing.
    std::vector<io::Attribute> (*attributes)(const Input &, const Variation &) = nullptr;
    bool is(Trait trait) const { return (traits & trait) != 0; }
    bool takes(Map map) const; ///< of those over an area
};
std::span<const Kind> kinds();
const Kind *kindNamed(std::string_view name);

/// A place on the skin.
struct Root {
    Vec3f at, normal{0, 1, 0}; ///< mm; unit
    friend bool operator==(const Root &, const Root &) = default;
};

/// What was done to one member by hand; numbers of members stay when the line moves.
struct Correction {
    std::uint32_t member = 0;
    bool isTwin = false;    ///< of the member across the plane of symmetry
    Vec3f translation;      ///< mm, in the member's own frame
    Vec3f rotation;         ///< degrees about its own axes
    float size = 1;         ///< times
    float bend = 0;         ///< degrees over its length
    float broken = 0;       ///< share of its length
    float thin = 1;         ///< times, across its length
    Vec3f pull;             ///< mm that its tip is drawn out by, in the member's own frame
    std::uint32_t item = 0; ///< a piece, cage or form that stands in its place
    bool isMissing = false;
    friend bool operator==(const Correction &, const Correction &) = default;
};

/// A member as it stands.
struct Member {
    std::uint32_t number = 0;
    bool isTwin = false;
    std::size_t shape = 0; ///< in Made::shapes
    io::Placement place;
    Vec3f root;                   ///< on the skin, mm
    std::uint32_t vertex = kNone; ///< of the skin, under it
};

/// What a rule made: members that are alike share a shape.
struct Made {
    std::vector<std::shared_ptr<const mesh::PolyMesh>> shapes;
    std::vector<std::shared_ptr<const mesh::Curves>> curves; ///< of each shape; null where it is drawn itself
    std::vector<std::vector<io::Attribute>> attributes;      ///< of each shape
    std::vector<std::vector<float>>
        along;                           ///< of each shape's points, 0 at the root to 1 at the tip; where it is coloured by that
    std::vector<io::Material> materials; ///< of each shape
    std::vector<Member> members;         ///< by number, each followed by its twin; several of one number are its parts
    std::vector<Variation> variations;   ///< of each shape
    std::shared_ptr<const Prepared> prepared;
    /// What the shapes were made with, to tell whether they still fit.
    struct Key {
        const Kind *kind = nullptr;
        std::vector<float> values, profile, section;
        std::vector<Vec3f> path;
        std::optional<Vec3f> look;
        std::uint32_t seed = 0;
        friend bool operator==(const Key &, const Key &) = default;
    } key;
    std::vector<Note> notes;       ///< what was left out or made smaller
    Box3f box;                     ///< of all members
    std::size_t faceCount() const; ///< as drawn: of all members
    std::size_t memoryBytes() const;
};

/// Something that grows out of a skin by a rule. What it looks like is a cache of the rule.
struct Outgrowth : Item { // its parent is the piece it stands on
    const Kind *kind = nullptr;
    std::vector<float> values; ///< of each setting of the kind
    std::uint32_t seed = 1;
    bool isMirrored = true;
    std::vector<Root> roots;            ///< one, or along a line from first to last
    std::vector<std::uint32_t> starts;  ///< of several lines: the root at which each after the first begins
    std::vector<std::uint32_t> between; ///< outgrowths whose members' middle lines are its lines, in place of roots
    std::vector<Vec3f> path;         ///< a drawn centre line in the root's frame, mm, from the origin; empty for the rule's own
    std::string mask;                ///< the kept mask of an area
    std::array<std::string, 4> maps; ///< kept masks of each Map; empty for even
    std::vector<Vec3f> colours;      ///< of root and tip, sRGB 0 to 1; empty for those of its kind
    float skinColour = 0;            ///< how far its colour is that of the skin at each root, 0 to 1
    Finish finish;                   ///< of all of it; the rest is as its kind has it
    std::vector<float> section;      ///< radii about its middle line, from its side on, where it is drawn
    std::optional<Vec3f> look;       ///< the point it looks at, mm
    std::optional<Vec3f> seenFrom;   ///< mm: over an area, only what can be seen from there grows
    std::vector<float> profile;      ///< sizes from root to tip of a single one, or from first to last of a row; empty for even
    std::vector<Correction> corrections;
    Rim rim;
    std::uint32_t item = 0;           ///< that is repeated, where the kind repeats one
    std::shared_ptr<const Made> made; ///< never null in a published creature
    bool isMelted = false;            ///< it is part of the skin now, and hidden, until it is taken out again
    bool isStale = false;             ///< the skin has changed since it was made, or its line; not kept in files

    // What an item kind says of itself (document/items.h).
    static constexpr std::string_view kKind = "outgrowth", kKinds = "outgrowths";
    Box3f bounds() const { return made->box; }
    void shift(Vec3f by);
    void show(io::Scene &scene) const; ///< shares its shapes
    std::string notFinite(const Outgrowth *before) const;
    std::size_t memoryBytes() const { return sizeof *this + made->memoryBytes(); }
    std::string about() const;

    float value(std::string_view setting) const;
    const Correction *correction(std::uint32_t member, bool isTwin) const;
};
/// The roots line by line.
std::vector<std::span<const Root>> linesOf(const Outgrowth &rule);
/// With the usual values of its kind, for a creature of that size: its height, or 0.6 of its length or width where that is more, mm.
Outgrowth outgrowthOf(const Kind &kind, float size = kUsualSize);

/// The drawn profile at t from 0 to 1; 1 without one.
float profileAt(const Outgrowth &rule, float t);

/// A mask: 0 to 255 at each vertex.
using Bytes = mesh::BlockArray<std::uint8_t>;

/// A shape of another item that stands for a member; null where there is none of that id.
using ItemShape = std::function<std::shared_ptr<const mesh::PolyMesh>(std::uint32_t item)>;

/// What a rule works on.
struct Input {
    const Outgrowth &rule;
    const mesh::Surface &skin;
    const growth::Surroundings &about;
    ItemShape itemShape;
    Bytes area{};                               ///< 255: wholly grown over; of an area
    std::array<Bytes, 4> maps{};                ///< of each Map; empty for even
    std::vector<std::vector<Root>> strands{};   ///< the middle lines that it stands between, in place of its own
    std::shared_ptr<const Prepared> prepared{}; ///< by the kind
    float value(std::string_view setting) const { return rule.value(setting); }
    int count(std::string_view setting) const { return int(std::lround(rule.value(setting))); }
    /// Random in [0, 1), the same for the same seed.
    float random(std::uint64_t what, std::uint64_t k = 0) const;
    float randomSigned(std::uint64_t what, std::uint64_t k = 0) const { return 2 * random(what, k) - 1; }
    float profileAt(float t) const { return outgrowth::profileAt(rule, t); }
};

/// Where a member stands before corrections.
struct Spot {
    Root root;
    Vec3f forward{0, 0, 1}; ///< the member's own +Z: made square to the normal
    float size = 1;         ///< times
    Vec3f rotation;         ///< degrees about its own axes: lean, turn
    float lift = 0;         ///< mm along the normal; below 0 it is sunk
    std::uint32_t variant = 0;
    bool isOnPlane = false;       ///< stands on the plane of symmetry: has no twin
    bool isTwinAlone = false;     ///< of the two the twin alone stands
    std::uint32_t number = kNone; ///< of the member that it is part of; none: its place among the spots
    struct Twin {
        Vec3f rotation;
        std::uint32_t variant = 0;
    };
    std::optional<Twin> twin; ///< where the twin is not a mirrored copy: before it is mirrored
};

/// Makes an outgrowth anew. Of what the rule made before (rule.made) it takes over what still fits: shapes where settings, seed, profile
/// and path are the same, and places where skin and area are. The same rule, skin and surroundings give the same bits on any number of threads. O(faces made, and
/// O(log faces) of the skin for each member). Errors: BadValue, Empty where nothing would stand; Cancelled.
Result<std::shared_ptr<const Made>> make(const Input &input, const Progress &progress = {});

/// Whether a skin lies the same in both wherever a mask does. Cost follows the blocks that the two do not share.
bool isSameUnder(const mesh::BlockArray<std::uint8_t> &mask, const mesh::BlockArray<Vec3f> &before,
                 const mesh::BlockArray<Vec3f> &after);

/// A root's frame: +Y along the normal, +Z as near to forward as the skin allows.
io::Placement frameAt(const Root &root, Vec3f forward);

} // namespace bonemoss::outgrowth
