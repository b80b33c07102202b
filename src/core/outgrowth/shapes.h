#pragma once

// Shapes and layouts that rows of the table of kinds put together.

#include "base/random.h"
#include "outgrowth/outgrowth.h"
#include "outgrowth/sweep.h"

namespace bonemoss::outgrowth {

constexpr int kMostInRow = 2000;
constexpr std::size_t kMostOnArea = 20000;

/// A line on the skin by arc length.
struct Track {
    std::span<const Root> roots;
    std::vector<float> upTo; ///< mm to each root

    explicit Track(std::span<const Root> line);
    float whole() const { return upTo.empty() ? 0 : upTo.back(); }
    /// Place and direction at so many mm, of a line of two roots or more. O(log roots).
    Root at(float mm, Vec3f &forward) const;
};

/// Height of a hanging chain over its lowest point at x from -1 to 1, between ends that are 2 apart, with that sag.
float chainHeight(float x, float sag);

// Where members stand.
void onePlace(const Input &in, std::vector<Spot> &out);        ///< the root, with settings lean, turn, splay and sink
void atRoots(const Input &in, std::vector<Spot> &out);         ///< one at each root
void aroundRoot(const Input &in, std::vector<Spot> &out);      ///< in a ring about the root
void antlerParts(const Input &in, std::vector<Spot> &out);     ///< a beam and its tines at the root
void eyeParts(const Input &in, std::vector<Spot> &out);        ///< an eye at each root
std::shared_ptr<const Prepared> prepareLocks(const Input &in); ///< of locks on an area
std::shared_ptr<const Prepared> prepareMane(const Input &in);  ///< of locks along a line
std::shared_ptr<const Prepared> prepareCrown(const Input &in); ///< of locks about a place
std::shared_ptr<const Prepared> prepareMass(const Input &in);  ///< of the one below
void massParts(const Input &in, std::vector<Spot> &out);       ///< what lines cut the mass of an area into
std::shared_ptr<const Prepared> prepareArea(const Input &in);  ///< of what is spread over an area
void preparedLocks(const Input &in, std::vector<Spot> &out);   ///< those of the coat
void overArea(const Input &in, std::vector<Spot> &out);        ///< spread over an area, laid along the flow
void oneMembrane(const Input &in, std::vector<Spot> &out);     ///< a single one between the lines
void oneFin(const Input &in, std::vector<Spot> &out);          ///< a single one along the whole line
void alongLine(const Input &in, std::vector<Spot> &out);       ///< a row along the roots

// Members.
mesh::PolyMesh hornShape(const Input &in, const Variation &v);
mesh::PolyMesh plateShape(const Input &in, const Variation &v);
mesh::PolyMesh toothShape(const Input &in, const Variation &v);
mesh::PolyMesh clawShape(const Input &in, const Variation &v);
mesh::PolyMesh antlerShape(const Input &in, const Variation &v);
mesh::PolyMesh quillShape(const Input &in, const Variation &v);
mesh::PolyMesh featherShape(const Input &in, const Variation &v);
std::vector<io::Attribute> featherTexture(const Input &in, const Variation &v); ///< of a thin one
mesh::PolyMesh tuftShape(const Input &in, const Variation &v);
mesh::Curves tuftCurves(const Input &in, const Variation &v); ///< the middle lines of the same
mesh::PolyMesh pebbleShape(const Input &in, const Variation &v);
mesh::PolyMesh massShape(const Input &in, const Variation &v);
mesh::PolyMesh lockShape(const Input &in, const Variation &v);
mesh::PolyMesh finShape(const Input &in, const Variation &v);
mesh::PolyMesh membraneShape(const Input &in, const Variation &v);
mesh::PolyMesh eyeShape(const Input &in, const Variation &v);
io::Material rowMaterial(const Input &in, const Variation &v); ///< horn, or soft skin between
io::Material hairMaterial(const Input &in, const Variation &v);
io::Material eyeMaterial(const Input &in, const Variation &v);

/// An arc of that length from the origin along +Y that turns towards +Z by so many degrees over it.
std::vector<Vec3f> arc(float length, float degrees, std::size_t n);

/// A corner of a section at an angle, by the choice: round, flattened, three-edged, keeled, or as it is drawn (a closed
/// Catmull-Rom curve through the radii, the largest being 1; none under a quarter).
Corner sectionCorner(int section, float angle, std::span<const float> drawn = {});

} // namespace bonemoss::outgrowth
