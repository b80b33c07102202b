#include "mesh/nearest_faces.h"

#include "base/parallel.h"
#include "mesh/detail/triangle.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace bonemoss::mesh {

namespace {

constexpr std::size_t kRun = 64;  // points that share their candidates
constexpr std::size_t kGroup = 8; // of them that share the nearer ones
constexpr std::size_t kRunsPerTask = 16;
constexpr float kFirst = 0.3f;  // of the reach: most points of a knit lie that near
constexpr float kCompact = 120; // times that: a box of points larger than this is looked at in parts

/// A face with its corners; the fourth one of a triangle is its third again.
struct Corner4 {
    Face face;
    std::array<Vec3f, 4> p;
};

/// The nearer of best and the nearest point of a face, its quad cut along the shorter diagonal as everywhere.
void look(const Corner4 &c, Vec3f at, NearestFace &best)
{
    const bool isTurned = squaredLength(c.p[1] - c.p[3]) < squaredLength(c.p[0] - c.p[2]);
    const std::size_t halves[2][3] = {{0, 1, 2}, {0, 2, 3}}, turned[2][3] = {{0, 1, 3}, {1, 2, 3}};
    for (int half = 0; half < c.face.size() - 2; ++half) {
        const auto &k = isTurned && c.face.size() == 4 ? turned[half] : halves[half];
        const Vec3f u = c.p[k[0]], v = c.p[k[1]], w = c.p[k[2]];
        const auto weights = detail::nearestWeights(at, u, v, w);
        const float d = length(detail::blend(weights, u, v, w) - at);
        if (d < best.distance)
            best = {{c.face.v[k[0]], c.face.v[k[1]], c.face.v[k[2]]}, weights, d};
    }
}

/// Faces near some points, each in a ball about its middle; coordinates in rows for vector registers.
struct Candidates {
    std::vector<float> x, y, z, radius, scratch;
    std::vector<Corner4> faces;

    void clear() { x.clear(), y.clear(), z.clear(), radius.clear(), faces.clear(); }
    void add(const Corner4 &c)
    {
        const Vec3f m = (c.p[0] + c.p[1] + c.p[2] + c.p[3]) * 0.25f;
        float widest = 0;
        for (const Vec3f p : c.p)
            widest = std::max(widest, squaredLength(p - m));
        x.push_back(m.x), y.push_back(m.y), z.push_back(m.z);
        radius.push_back(std::sqrt(widest) * 1.0001f);
        faces.push_back(c);
    }

    /// Those whose balls reach into a box.
    void takeNear(Candidates &all, const Box3f &box)
    {
        clear();
        const std::size_t n = all.x.size();
        all.scratch.resize(n);
        const Vec3f m = box.centre(), half = box.size() * 0.5f;
        for (std::size_t i = 0; i < n; ++i) // how far the middle is outside
            all.scratch[i] = std::max(std::max(std::abs(all.x[i] - m.x) - half.x, std::abs(all.y[i] - m.y) - half.y),
                                      std::abs(all.z[i] - m.z) - half.z)
                             - all.radius[i];
        for (std::size_t i = 0; i < n; ++i)
            if (all.scratch[i] <= 0) {
                x.push_back(all.x[i]), y.push_back(all.y[i]), z.push_back(all.z[i]), radius.push_back(all.radius[i]);
                faces.push_back(all.faces[i]);
            }
    }

    /// The nearest of all to p: first the one with the nearest middle, then those whose balls reach nearer still.
    NearestFace nearest(Vec3f p)
    {
        NearestFace best;
        best.distance = std::numeric_limits<float>::max();
        const std::size_t n = x.size();
        scratch.resize(n);
        float least = std::numeric_limits<float>::max();
        for (std::size_t i = 0; i < n; ++i) {
            const float dx = x[i] - p.x, dy = y[i] - p.y, dz = z[i] - p.z;
            scratch[i] = dx * dx + dy * dy + dz * dz;
            least = scratch[i] < least ? scratch[i] : least;
        }
        if (n == 0)
            return best;
        look(faces[std::size_t(std::find(scratch.begin(), scratch.end(), least) - scratch.begin())], p, best);
        for (std::size_t i = 0; i < n; ++i) {
            const float far = best.distance + radius[i];
            if (scratch[i] < far * far)
                look(faces[i], p, best);
        }
        return best;
    }
};

/// Face i of a block with its corners.
Corner4 cornersOf(const Surface &s, std::size_t b, std::uint32_t i)
{
    const BlockFaces &block = s.topology->block(b);
    const LocalFace &f = block.faces[i];
    Corner4 c;
    for (std::size_t k = 0; k < std::size_t(f.size()); ++k) {
        c.face.v[k] = s.topology->vertexOf(b, f.v[k]);
        c.p[k] = s.positions[c.face.v[k]];
    }
    if (f.size() == 3)
        c.p[3] = c.p[2];
    return c;
}

void gather(const Surface &s, const Box3f &near, Candidates &out)
{
    out.clear();
    const Meets meets(near);
    const float limit = 0;
    s.blocks.visit(meets, limit, [&](std::span<const std::uint32_t> ids) {
        const std::uint32_t b = ids[0];
        s.bounds[b]->faces(s, b).tree.visit(meets, limit, [&](std::span<const std::uint32_t> faces) {
            for (const std::uint32_t i : faces)
                out.add(cornersOf(s, b, i));
        });
    });
}

/// Without candidates: every face whose box is nearer than the best so far, and than `most`.
NearestFace lookAlone(const Surface &s, Vec3f p, float most = std::numeric_limits<float>::max())
{
    const FromPoint from(p);
    NearestFace best;
    best.distance = std::numeric_limits<float>::max();
    float limit = most < 1e18f ? most * most : best.distance; // squared
    s.blocks.visit(from, limit, [&](std::span<const std::uint32_t> ids) {
        const std::uint32_t b = ids[0];
        s.bounds[b]->faces(s, b).tree.visit(from, limit, [&](std::span<const std::uint32_t> faces) {
            for (const std::uint32_t i : faces)
                look(cornersOf(s, b, i), p, best);
            limit = std::min(limit, best.distance * best.distance);
        });
    });
    return best;
}

/// One task: runs of points that share candidates, in parts where they jump through space.
class Finder
{
public:
    Finder(const Surface &s, std::span<const Vec3f> points, float reach, bool goesBeyond, std::vector<NearestFace> &out)
        : m_surface(s), m_points(points), m_reach(goesBeyond ? kFirst * reach : reach), m_wholeReach(reach),
          m_goesBeyond(goesBeyond), m_out(out)
    {}
    void find(std::size_t first, std::size_t end)
    {
        for (; first < end; first += kRun) {
            const std::size_t last = std::min(first + kRun, end);
            const Box3f near = boxOf(first, last);
            const bool isCompact = near.diagonal() < kCompact * m_reach;
            if (isCompact)
                gather(m_surface, near, m_all);
            for (std::size_t group = first; group < last; group += kGroup)
                findGroup(group, std::min(group + kGroup, last), isCompact);
        }
    }

private:
    Box3f boxOf(std::size_t from, std::size_t to) const
    {
        Box3f box;
        for (std::size_t i = from; i < to; ++i)
            box.add(m_points[i]);
        box.grow(m_reach);
        return box;
    }
    void findGroup(std::size_t first, std::size_t last, bool isGathered)
    {
        const Box3f near = boxOf(first, last);
        const bool isCompact = near.diagonal() < kCompact * m_reach;
        if (isGathered)
            m_near.takeNear(m_all, near);
        else if (isCompact)
            gather(m_surface, near, m_near);
        for (std::size_t i = first; i < last; ++i) {
            if (!isCompact)
                gather(m_surface, boxOf(i, i + 1), m_near);
            m_out[i] = m_near.nearest(m_points[i]);
            if (m_out[i].distance > m_reach && m_goesBeyond)
                lookFarther(i);
        }
    }

    /// For a point with nothing near: within the whole reach, then anywhere.
    void lookFarther(std::size_t i)
    {
        Box3f box;
        box.add(m_points[i]);
        box.grow(m_wholeReach);
        gather(m_surface, box, m_alone);
        m_out[i] = m_alone.nearest(m_points[i]);
        if (m_out[i].distance > m_wholeReach)
            m_out[i] = lookAlone(m_surface, m_points[i]);
    }

    const Surface &m_surface;
    std::span<const Vec3f> m_points;
    float m_reach, m_wholeReach;
    bool m_goesBeyond;
    std::vector<NearestFace> &m_out;
    Candidates m_all, m_near, m_alone; // scratch
};

} // namespace

std::vector<NearestFace> nearestFaces(const Surface &s, std::span<const Vec3f> points, float reach)
{
    std::vector<NearestFace> out(points.size());
    forEachBlock(points.size(), kRun * kRunsPerTask,
                 [&](BlockRange task) { Finder(s, points, reach, true, out).find(task.begin, task.end); });
    return out;
}

namespace {

/// Whether p lies straight above a triangle; then fills best.
bool isAbove(Vec3f p, const Face &f, const std::array<std::size_t, 3> &k, const Vec3f *at, NearestFace &best)
{
    const Vec3f a = at[f.v[k[0]]], e = at[f.v[k[1]]] - a, g = at[f.v[k[2]]] - a, r = p - a;
    const float ee = dot(e, e), eg = dot(e, g), gg = dot(g, g), re = dot(r, e), rg = dot(r, g);
    const float v = gg * re - eg * rg, w = ee * rg - eg * re, whole = ee * gg - eg * eg;
    if (!(v > 0 && w > 0 && v + w < whole))
        return false;
    const float y = v / whole, z = w / whole;
    best = {{f.v[k[0]], f.v[k[1]], f.v[k[2]]}, {1 - y - z, y, z}, length(e * y + g * z - r)};
    return true;
}

Corner4 cornersOf(const Face &f, const Vec3f *at)
{
    Corner4 c{f, {}};
    for (std::size_t k = 0; k < 4; ++k)
        c.p[k] = at[f.v[f.v[k] == kNone ? 2 : k]];
    return c;
}

/// The nearest of the faces about a point. One that it lies straight above has none nearer but by a fold, and is looked for
/// from the face with the nearest middle on.
NearestFace nearestOf(Vec3f p, const FacesNear &near, const PolyMesh &mesh)
{
    NearestFace best;
    const Vec3f *at = mesh.positions.data();
    std::array<float, 4> far;
    std::size_t count = 0;
    for (; count < 4 && near[count] != kNone; ++count) {
        const Face &f = mesh.faces[near[count]];
        far[count] = squaredLength((at[f.v[0]] + at[f.v[2]]) * 0.5f - p);
    }
    for (std::size_t n = 0; n < count; ++n) {
        const auto k = std::size_t(std::min_element(far.begin(), far.begin() + std::ptrdiff_t(count)) - far.begin());
        far[k] = std::numeric_limits<float>::max();
        const Face &f = mesh.faces[near[k]];
        if (f.size() == 3) {
            if (isAbove(p, f, {0, 1, 2}, at, best))
                return best;
            continue;
        }
        const bool isTurned = squaredLength(at[f.v[1]] - at[f.v[3]]) < squaredLength(at[f.v[0]] - at[f.v[2]]);
        if (isTurned ? isAbove(p, f, {0, 1, 3}, at, best) || isAbove(p, f, {1, 2, 3}, at, best)
                     : isAbove(p, f, {0, 1, 2}, at, best) || isAbove(p, f, {0, 2, 3}, at, best))
            return best;
    }
    best.distance = std::numeric_limits<float>::max();
    for (std::size_t n = 0; n < count; ++n)
        look(cornersOf(mesh.faces[near[n]], at), p, best);
    return best;
}

} // namespace

std::vector<NearestFace> nearestFaces(const Surface &s, const PolyMesh &mesh, std::span<const Vec3f> points,
                                      std::span<const FacesNear> near, std::span<const std::uint32_t> kept)
{
    std::vector<NearestFace> out(points.size());
    forEachBlock(points.size(), kRun * kRunsPerTask, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i)
            out[i] = kept[i] != kNone      ? NearestFace{{kept[i], kept[i], kept[i]}, {1, 0, 0}, 0}
                     : near[i][0] == kNone ? lookAlone(s, points[i])
                                           : nearestOf(points[i], near[i], mesh);
    });
    return out;
}

namespace {

/// Points one by one, each bounded by the place found for the one before. Far away that is a far closer bound than the way
/// between the two points: one across the distance hardly lengthens it.
void findOneByOne(const Surface &s, std::span<const Vec3f> points, float reach, std::span<NearestFace> out)
{
    for (std::size_t i = 0; i < points.size(); ++i) {
        float most = reach;
        if (i > 0 && out[i - 1].distance < reach)
            most = std::min(most, 1.00001f * length(points[i] - pointOf(s, out[i - 1])) + 1e-6f);
        out[i] = lookAlone(s, points[i], most);
    }
}

/// About points.
struct Ball {
    Vec3f middle;
    float radius = 0;
    explicit Ball(std::span<const Vec3f> points)
    {
        Box3f box;
        for (const Vec3f p : points)
            box.add(p);
        middle = box.centre(), radius = 0.50001f * box.diagonal();
    }
};

/// Flat cylinders about faces: seen from afar the way to one is a close bound where a ball's is not. Rows for vector registers.
class Cylinders
{
public:
    std::size_t size() const { return m_x.size(); }
    void clear()
    {
        for (auto *row : rows())
            row->clear();
    }
    /// One about some faces that lie next to each other.
    void add(std::span<const Corner4> faces)
    {
        Vec3f m, n;
        for (const Corner4 &c : faces) {
            m += (c.p[0] + c.p[1] + c.p[2] + c.p[3]) * (0.25f / float(faces.size()));
            n += cross(c.p[2] - c.p[0], c.p[3] - c.p[1]);
        }
        n = normalized(n);
        float widest = 0, highest = 0;
        for (const Corner4 &c : faces)
            for (const Vec3f p : c.p) {
                widest = std::max(widest, squaredLength(p - m));
                highest = std::max(highest, std::abs(dot(p - m, n)));
            }
        const float values[] = {m.x, m.y, m.z, n.x, n.y, n.z, std::sqrt(widest) * 1.0001f, highest * 1.0001f};
        for (std::size_t k = 0; k < 8; ++k)
            rows()[k]->push_back(values[k]);
    }
    void dropLast()
    {
        for (auto *row : rows())
            row->pop_back();
    }
    /// Squared, from p to each of some cylinders, and how many are within a limit.
    template <std::size_t N> int ways(Vec3f p, std::size_t first, float limit, float *out) const
    {
        int hits = 0;
        for (std::size_t k = 0, i = first; k < N; ++k, ++i) {
            out[k] = way(p, i);
            hits += out[k] <= limit;
        }
        return hits;
    }
    float way(Vec3f p, std::size_t i) const
    {
        const float dx = p.x - m_x[i], dy = p.y - m_y[i], dz = p.z - m_z[i];
        const float up = std::abs(dx * m_nx[i] + dy * m_ny[i] + dz * m_nz[i]);
        const float over = std::max(0.0f, up - m_height[i]), across = std::max(0.0f, dx * dx + dy * dy + dz * dz - up * up);
        const float off = std::max(0.0f, std::sqrt(across) - m_radius[i]);
        return over * over + off * off;
    }
    /// Up to whole groups of n; what fills the last one is never near.
    void fill(std::size_t n)
    {
        for (auto *row : rows())
            row->resize((row->size() + n - 1) / n * n, row == &m_x ? 1e18f : 0.0f);
    }

private:
    std::array<std::vector<float> *, 8> rows() { return {&m_x, &m_y, &m_z, &m_nx, &m_ny, &m_nz, &m_radius, &m_height}; }
    std::vector<float> m_x, m_y, m_z, m_nx, m_ny, m_nz, m_radius, m_height;
};

/// Faces that may hold the nearest place of some points far away, in the order of the skin: neighbours stand together.
struct DistantFaces {
    static constexpr std::size_t kChunk = 16;
    std::vector<Corner4> faces;
    Cylinders each, chunks;

    /// All whose cylinders may come nearer to m than `far`.
    void gather(const Surface &s, Vec3f m, float far)
    {
        faces.clear(), each.clear();
        std::vector<std::uint64_t> found;
        const FromPoint from(m);
        const float limit = far * far;
        s.blocks.visit(from, limit, [&](std::span<const std::uint32_t> ids) {
            const std::uint32_t b = ids[0];
            s.bounds[b]->faces(s, b).tree.visit(from, limit, [&](std::span<const std::uint32_t> some) {
                for (const std::uint32_t i : some)
                    found.push_back(std::uint64_t(b) << 32 | i);
            });
        });
        std::sort(found.begin(), found.end());
        for (const std::uint64_t id : found) {
            const Corner4 c = cornersOf(s, std::size_t(id >> 32), std::uint32_t(id));
            each.add({&c, 1});
            if (each.way(m, each.size() - 1) <= limit)
                faces.push_back(c);
            else
                each.dropLast();
        }
        each.fill(kChunk);
        chunks.clear();
        for (std::size_t first = 0; first < faces.size(); first += kChunk)
            chunks.add(std::span(faces).subspan(first, std::min(kChunk, faces.size() - first)));
        chunks.fill(4);
    }
    /// The nearest of all to p, if it is within a bound.
    NearestFace nearest(Vec3f p, float bound) const
    {
        NearestFace best;
        best.distance = std::numeric_limits<float>::max();
        float limit = bound * bound, toChunk[4], toFace[kChunk];
        for (std::size_t four = 0; four < chunks.size(); four += 4) {
            if (chunks.ways<4>(p, four, limit, toChunk) == 0)
                continue;
            for (std::size_t c = 0; c < 4; ++c) {
                const std::size_t first = (four + c) * kChunk;
                if (toChunk[c] > limit || each.ways<kChunk>(p, first, limit, toFace) == 0)
                    continue;
                for (std::size_t k = 0; k < kChunk; ++k)
                    if (toFace[k] <= limit) {
                        look(faces[first + k], p, best);
                        limit = std::min(limit, 1.00001f * best.distance * best.distance);
                    }
            }
        }
        return best;
    }
};

} // namespace

std::vector<NearestFace> nearestFacesWithin(const Surface &s, std::span<const Vec3f> points, float reach)
{
    constexpr std::size_t kFewest = 16; // points that are worth candidates of their own
    std::vector<NearestFace> out(points.size());
    for (NearestFace &o : out)
        o.distance = std::numeric_limits<float>::max();
    const Ball whole(points);
    if (points.size() < kFewest || whole.radius > reach) {
        findOneByOne(s, points, reach, out);
        return out;
    }
    const NearestFace middle = lookAlone(s, whole.middle, reach + whole.radius);
    if (middle.distance > reach + whole.radius)
        return out; // then nothing is within reach of any: distances differ by no more than points are apart
    DistantFaces near;
    near.gather(s, whole.middle, 1.00001f * std::min(middle.distance + 2 * whole.radius, reach + whole.radius) + 1e-6f);
    Vec3f place = pointOf(s, middle); // near one point it is near the next: a close bound
    for (std::size_t i = 0; i < points.size(); ++i) {
        out[i] = near.nearest(points[i], std::min(reach, 1.00001f * length(points[i] - place) + 1e-6f));
        if (out[i].distance < std::numeric_limits<float>::max())
            place = pointOf(s, out[i]);
    }
    return out;
}

} // namespace bonemoss::mesh
