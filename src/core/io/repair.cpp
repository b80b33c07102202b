#include "io/mesh_file.h"

#include "base/parallel.h"

#include <algorithm>
#include <atomic>
#include <bit>
#include <fmt/format.h>
#include <numeric>

namespace bonemoss::io {

namespace {

/// A vertex with more faces than this would not fit the 16-bit corners of a block.
constexpr std::uint32_t kMostFacesAtVertex = 4000;
constexpr float kFarthest = 1e9f; // mm
constexpr const char *kTooFar = "a coordinate is beyond a thousand kilometres";

/// Spreads a point's bits; 0 and -0 are one.
std::uint64_t hashOf(Vec3f p)
{
    const auto bits = [](float v) { return std::uint64_t(std::bit_cast<std::uint32_t>(v + 0.0f)); };
    std::uint64_t h = (bits(p.x) | bits(p.y) << 32) * 0x9E3779B97F4A7C15ull;
    h = (h ^ h >> 32 ^ bits(p.z)) * 0xC2B2AE3D27D4EB4Full;
    return h ^ h >> 29;
}

/// Gives equal points one number; the first of them stays. Returns how many went. O(points) on average.
std::size_t mergeEqual(RawMesh &raw)
{
    const auto &p = raw.positions;
    const std::size_t slots = std::bit_ceil(p.size() * 2 + 1);
    std::vector<std::uint32_t> table(slots, kNone), target(p.size());
    std::vector<std::uint64_t> hashes(p.size());
    forEachBlock(p.size(), 65536, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i)
            hashes[i] = hashOf(p[i]) & (slots - 1);
    });
    constexpr std::size_t kAhead = 12; // slots fetched before their turn: each is a miss of the cache
    std::size_t merged = 0;
    for (std::size_t i = 0; i < p.size(); ++i) {
        if (i + kAhead < p.size())
            __builtin_prefetch(&table[hashes[i + kAhead]]);
        std::size_t at = hashes[i];
        while (table[at] != kNone && !(p[table[at]] == p[i]))
            at = (at + 1) & (slots - 1);
        if (table[at] == kNone)
            table[at] = std::uint32_t(i);
        else
            ++merged;
        target[i] = table[at];
    }
    for (std::uint32_t &c : raw.corners)
        c = target[c];
    return merged;
}

/// Splits vertices of enormous fans among several copies at the same place; the shape is unchanged. from: of which point of the
/// file each point is, when asked for.
std::size_t splitFans(mesh::PolyMesh &mesh, std::vector<std::uint32_t> &from)
{
    std::vector<std::uint32_t> uses(mesh.positions.size(), 0);
    std::vector<std::uint32_t> current(mesh.positions.size());
    std::iota(current.begin(), current.end(), 0u);
    std::size_t split = 0;
    for (mesh::Face &f : mesh.faces)
        for (std::uint32_t &v : f.v) {
            if (v == kNone)
                continue;
            if (++uses[v] % kMostFacesAtVertex == 0) {
                current[v] = std::uint32_t(mesh.positions.size());
                mesh.positions.push_back(mesh.positions[v]);
                if (!from.empty())
                    from.push_back(from[v]);
                uses.push_back(0);
                current.push_back(current[v]);
                ++split;
            }
            v = current[v];
        }
    return split;
}

void dropUnused(mesh::PolyMesh &mesh, const std::vector<std::uint32_t> &uses, std::vector<std::uint32_t> &from)
{
    std::vector<std::uint32_t> place(mesh.positions.size(), kNone);
    std::uint32_t next = 0;
    for (std::size_t v = 0; v < place.size(); ++v)
        if (uses[v] > 0) {
            mesh.positions[next] = mesh.positions[v];
            if (!from.empty())
                from[next] = from[v];
            place[v] = next++;
        }
    mesh.positions.resize(next);
    if (!from.empty())
        from.resize(next);
    for (mesh::Face &f : mesh.faces)
        for (std::uint32_t &v : f.v)
            if (v != kNone)
                v = place[v];
}

/// How many, and where the first of them is.
struct Met {
    std::size_t count = 0;
    std::optional<Vec3f> first;

    void add(Vec3f at)
    {
        if (count++ == 0)
            first = at;
    }
    void add(const Met &later)
    {
        count += later.count;
        first = first ? first : later.first;
    }
};

/// Faces made of a run of polygons, and what was met on the way.
struct Run {
    std::vector<mesh::Face> faces;
    std::vector<std::uint32_t> corners; ///< of the file that the faces' corners are, when asked for
    bool keepsCorners = false;
    Met fanned, degenerate, flat;

    /// The corners with the places i of c, which are numbered from first in the file.
    void add(const std::vector<Vec3f> &p, std::span<const std::uint32_t> corner, std::size_t first,
             std::initializer_list<std::size_t> places)
    {
        const auto *i = places.begin();
        const std::uint32_t a = corner[i[0]], b = corner[i[1]], c = corner[i[2]], d = places.size() == 4 ? corner[i[3]] : kNone;
        if (a == b || b == c || c == a || (d != kNone && (d == a || d == b || d == c)))
            return degenerate.add(p[a]);
        if (d == kNone && cross(p[b] - p[a], p[c] - p[a]) == Vec3f{})
            flat.add(p[a]);
        faces.push_back({{a, b, c, d}});
        if (keepsCorners)
            for (const std::size_t k : places)
                corners.push_back(std::uint32_t(first + k));
    }
    void addPolygon(const std::vector<Vec3f> &p, std::span<const std::uint32_t> c, std::size_t first)
    {
        if (c.empty())
            ++degenerate.count;
        else if (c.size() < 3)
            degenerate.add(p[c[0]]);
        else if (c.size() == 3)
            add(p, c, first, {0, 1, 2});
        else if (c.size() == 4)
            add(p, c, first, {0, 1, 2, 3});
        else {
            fanned.add(p[c[0]]);
            for (std::size_t k = 1; k + 1 < c.size(); ++k)
                add(p, c, first, {0, k, k + 1});
        }
    }
};

/// The polygons as triangles and quads, run by run side by side.
Run facesOf(const RawMesh &raw, bool keepsCorners)
{
    constexpr std::size_t kRun = 65536;
    std::vector<Run> runs((raw.faceEnds.size() + kRun - 1) / kRun);
    forEachBlock(raw.faceEnds.size(), kRun, [&](BlockRange r) {
        Run &run = runs[r.begin / kRun];
        run.keepsCorners = keepsCorners;
        run.faces.reserve(r.end - r.begin);
        for (std::size_t f = r.begin; f < r.end; ++f) {
            const std::uint32_t begin = f > 0 ? raw.faceEnds[f - 1] : 0;
            run.addPolygon(raw.positions, {raw.corners.data() + begin, raw.faceEnds[f] - begin}, begin);
        }
    });
    Run all;
    std::size_t count = 0;
    for (const Run &r : runs)
        count += r.faces.size();
    all.faces.reserve(count);
    for (Run &r : runs) {
        all.faces.insert(all.faces.end(), r.faces.begin(), r.faces.end());
        all.corners.insert(all.corners.end(), r.corners.begin(), r.corners.end());
        all.fanned.add(r.fanned), all.degenerate.add(r.degenerate), all.flat.add(r.flat);
        r.faces = {};
    }
    return all;
}

/// What is wrong with the numbers of a mesh, if anything; and turns it upright.
std::optional<std::string> check(RawMesh &raw)
{
    constexpr std::size_t kRun = 65536;
    std::atomic<bool> isNumber = true, isNear = true;
    forEachBlock(raw.positions.size(), kRun, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i) {
            Vec3f &p = raw.positions[i];
            if (!isFinite(p))
                isNumber = false;
            else if (std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)}) > kFarthest)
                isNear = false;
            if (raw.zUp)
                p = {p.x, p.z, -p.y};
        }
    });
    if (!isNumber)
        return "a coordinate is not a finite number";
    if (!isNear)
        return kTooFar;
    std::vector<std::uint32_t> most((raw.corners.size() + kRun - 1) / kRun, 0);
    forEachBlock(raw.corners.size(), kRun, [&](BlockRange r) {
        most[r.begin / kRun] =
            *std::max_element(raw.corners.begin() + std::ptrdiff_t(r.begin), raw.corners.begin() + std::ptrdiff_t(r.end));
    });
    for (const std::uint32_t c : most)
        if (c >= raw.positions.size())
            return fmt::format("a face refers to point {} of {}", c, raw.positions.size());
    return std::nullopt;
}

/// What was done to shapes, by its words.
class Notes
{
public:
    void add(const std::string &what, std::size_t n, std::optional<Vec3f> first = {})
    {
        if (n == 0)
            return;
        for (Repair &r : m_all)
            if (r.what == what) {
                r.count += n;
                return;
            }
        m_all.push_back({what, n, first});
    }
    std::vector<Repair> take() { return std::move(m_all); }

private:
    std::vector<Repair> m_all;
};

/// The values of those points or corners of the file.
std::vector<float> picked(const Attribute &a, const std::vector<std::uint32_t> &from)
{
    std::vector<float> out;
    out.reserve(from.size() * a.width);
    for (const std::uint32_t k : from)
        for (std::size_t i = 0; i < a.width; ++i)
            out.push_back(a.values[k * a.width + i]);
    return out;
}

/// Attributes whose number of values fits, with finite values.
void dropWrongAttributes(RawMesh &raw, Notes &notes)
{
    std::erase_if(raw.attributes, [&](const Attribute &a) {
        const std::size_t count = a.domain == mesh::Domain::Vertex ? raw.positions.size() : raw.corners.size();
        const bool isRight = a.width > 0 && a.values.size() == count * a.width
                             && std::all_of(a.values.begin(), a.values.end(), [](float v) { return std::isfinite(v); });
        if (!isRight)
            notes.add(a.name + " that are not whole left out", 1);
        return !isRight;
    });
}

/// An empty shape is left out: it has no faces.
Result<Shape> repaired(RawMesh raw, Notes &notes)
{
    if (const auto wrong = check(raw))
        return Error{ErrorCode::Malformed, "", *wrong};
    for (const Repair &r : raw.remarks)
        notes.add(r.what, r.count, r.first);
    dropWrongAttributes(raw, notes);
    const bool keeps = !raw.attributes.empty();
    if (raw.mergeEqualPoints)
        notes.add("equal points joined", mergeEqual(raw));
    Run made = facesOf(raw, keeps);
    notes.add("polygons of more than four corners cut into triangles", made.fanned.count, made.fanned.first);
    notes.add("faces without area (repeated corners) left out", made.degenerate.count, made.degenerate.first);
    notes.add("faces without area (corners in a line) kept, as their neighbours need them", made.flat.count, made.flat.first);
    mesh::PolyMesh mesh{std::move(raw.positions), std::move(made.faces)};
    if (mesh.faces.empty())
        return Shape(std::move(raw.name), mesh::PolyMesh());
    std::vector<std::uint32_t> uses(mesh.positions.size(), 0), from(keeps ? mesh.positions.size() : 0);
    std::iota(from.begin(), from.end(), 0u);
    for (const mesh::Face &f : mesh.faces)
        for (const std::uint32_t v : f.v)
            if (v != kNone)
                ++uses[v];
    const auto unused = std::size_t(std::count(uses.begin(), uses.end(), 0u));
    const bool hasFans = *std::max_element(uses.begin(), uses.end()) >= kMostFacesAtVertex;
    if (unused > 0)
        dropUnused(mesh, uses, from);
    notes.add("points without faces left out", unused);
    if (hasFans)
        notes.add("points of very large fans doubled in place", splitFans(mesh, from));
    Shape out(std::move(raw.name), std::move(mesh));
    for (Attribute &a : raw.attributes) {
        a.values = picked(a, a.domain == mesh::Domain::Vertex ? from : made.corners);
        out.attributes.push_back(std::move(a));
    }
    return out;
}

bool isWithinReach(const Scene &scene, const Object &object)
{
    const Box3f box = scene.shapeOf(object).box();
    return std::all_of(object.places.begin(), object.places.end(), [&](const Placement &place) {
        for (int k = 0; k < 8; ++k) {
            const Vec3f p = place.apply({k & 1 ? box.lo.x : box.hi.x, k & 2 ? box.lo.y : box.hi.y, k & 4 ? box.lo.z : box.hi.z});
            if (!isFinite(p) || std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)}) > kFarthest)
                return false;
        }
        return true;
    });
}

} // namespace

Result<ImportedScene> repair(RawScene raw, const Progress &progress)
{
    ImportedScene out;
    Notes notes;
    for (const Repair &r : raw.remarks)
        notes.add(r.what, r.count, r.first);
    for (RawMesh &shape : raw.shapes) {
        if (progress.isCancelled())
            return Error{ErrorCode::Cancelled, "", "stopped on request"};
        auto made = repaired(std::move(shape), notes);
        if (!made)
            return made.error();
        out.scene.shapes.push_back(std::move(*made));
    }
    out.scene.materials = std::move(raw.materials);
    for (Object &o : raw.objects)
        if (out.scene.shapeOf(o).faceCount() > 0) {
            if (!isWithinReach(out.scene, o))
                return Error{ErrorCode::Malformed, "", kTooFar};
            out.scene.objects.push_back(std::move(o));
        }
    if (out.scene.isEmpty())
        return Error{ErrorCode::Empty, "", "it holds no faces"};
    out.repairs = notes.take();
    return out;
}

} // namespace bonemoss::io
