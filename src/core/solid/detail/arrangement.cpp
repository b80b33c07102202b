#include "solid/detail/arrangement.h"

#include "base/parallel.h"
#include "base/random.h"
#include "solid/crossings.h"
#include "solid/detail/cgal_mesh.h"

#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_exact_constructions_kernel.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>

#include <algorithm>
#include <atomic>
#include <unordered_map>

namespace bonemoss::solid::detail {

namespace {

using Exact = CGAL::Exact_predicates_exact_constructions_kernel;
using Place = Exact::Point_3;
using Triangle = Arrangement::Triangle;

/// The end of a line: an edge through a triangle, or a corner that two triangles share (then the others are kNone).
using End = std::array<std::uint32_t, 3>;
struct HashEnd {
    std::size_t operator()(const End &e) const
    {
        return std::size_t((e[0] * 0x9E3779B97F4A7C15ull) ^ (e[1] * 0xC2B2AE3D27D4EB4Full) ^ (e[2] * 0x165667B19E3779F9ull) >> 7);
    }
};

constexpr std::size_t kMostPairs = 4'000'000; ///< some kilobytes each

enum class Meets : std::uint8_t { Not, Line, Unclear };

struct Line {
    std::uint32_t a = 0, b = 0; ///< triangles
    End start{}, end{};
    std::vector<std::uint32_t> points; ///< numbers of all along it, ends with it
};

class Arranger
{
public:
    Arranger(std::vector<Vec3f> points, const std::vector<Triangle> &triangles, std::span<const std::uint32_t> bodyOf,
             const Progress &progress)
        : m_triangles(triangles), m_bodyOf(bodyOf), m_progress(progress), m_finder(std::move(points), triangles)
    {}

    Result<Arrangement> run();

private:
    Vec3f at(std::uint32_t v) const { return m_finder.points()[v]; }
    Point point(std::uint32_t v) const { return toCgal(at(v)); }
    Place exact(std::uint32_t p) const
    {
        if (p >= m_finder.points().size())
            return m_new[p - m_finder.points().size()];
        const Vec3f q = at(p);
        return {double(q.x), double(q.y), double(q.z)};
    }
    CGAL::Orientation side(const Triangle &t, std::uint32_t v) const
    {
        return CGAL::orientation(point(t[0]), point(t[1]), point(t[2]), point(v));
    }
    /// Whether an edge goes through a triangle: 1 from its front to its back, -1 the other way, 0 not, 2 unclear.
    int through(std::uint32_t u, std::uint32_t v, const Triangle &t) const;
    Meets meet(std::uint32_t a, std::uint32_t b, Line &line) const;
    std::vector<std::uint32_t> findLines(); ///< gives triangles where it is unclear
    void moveApart(std::span<const std::uint32_t> unclear);
    void numberEnds();
    std::vector<std::uint32_t> splitLines();
    void sortAlong(Line &line) const;
    std::vector<Arrangement::Part> partsOf(std::uint32_t t) const;
    Arrangement result() const;

    const std::vector<Triangle> &m_triangles;
    std::span<const std::uint32_t> m_bodyOf;
    const Progress &m_progress;
    CrossingFinder m_finder;
    std::vector<CrossingFinder::Pair> m_pairs;
    std::vector<Line> m_lines;
    std::vector<std::vector<std::uint32_t>> m_linesOf; ///< of each cut triangle
    std::vector<std::uint32_t> m_cut;                  ///< triangles
    std::vector<Place> m_new;
    std::vector<std::uint8_t> m_isMoved;
    int m_round = 0;
};

int Arranger::through(std::uint32_t u, std::uint32_t v, const Triangle &t) const
{
    const auto su = side(t, u), sv = side(t, v);
    if (su == CGAL::ZERO || sv == CGAL::ZERO)
        return 2;
    if (su == sv)
        return 0;
    bool isLeft = false, isRight = false, isOn = false;
    for (std::size_t k = 0; k < 3; ++k) {
        const auto s = CGAL::orientation(point(u), point(v), point(t[k]), point(t[(k + 1) % 3]));
        (s == CGAL::POSITIVE ? isLeft : s == CGAL::NEGATIVE ? isRight : isOn) = true;
    }
    if (isLeft && isRight)
        return 0;
    return isOn ? 2 : su == CGAL::POSITIVE ? 1 : -1;
}

Meets Arranger::meet(std::uint32_t a, std::uint32_t b, Line &line) const
{
    const Triangle &ta = m_triangles[a], &tb = m_triangles[b];
    int shared = 0;
    std::size_t cornerA = 0, cornerB = 0;
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t k = 0; k < 3; ++k)
            if (ta[i] == tb[k])
                ++shared, cornerA = i, cornerB = k;
    if (a == b || shared > 1)
        return Meets::Unclear;
    line = {a, b};
    int starts = 0, ends = 0;
    // From the front of `a` the line has what is behind `b` on its left: an edge of `a` that goes behind `b` ends it.
    const auto edges = [&](const Triangle &of, std::size_t corner, const Triangle &other, std::uint32_t otherNumber, int sign) {
        for (std::size_t k = 0; k < 3; ++k) {
            if (shared == 1 && k != (corner + 1) % 3)
                continue; // the edge across from the corner
            const std::uint32_t u = of[k], v = of[(k + 1) % 3];
            const int how = through(u, v, other);
            if (how == 2)
                return false;
            if (how == 0)
                continue;
            const End e{std::min(u, v), std::max(u, v), otherNumber};
            if (how * sign > 0)
                line.end = e, ++ends;
            else
                line.start = e, ++starts;
        }
        return true;
    };
    if (!edges(ta, cornerA, tb, b, 1) || !edges(tb, cornerB, ta, a, -1))
        return Meets::Unclear;
    if (starts + ends == 0)
        return Meets::Not;
    if (shared == 1 && starts + ends == 1) {
        (starts == 1 ? line.end : line.start) = {ta[cornerA], kNone, kNone};
        return Meets::Line;
    }
    return starts == 1 && ends == 1 ? Meets::Line : Meets::Unclear;
}

std::vector<std::uint32_t> Arranger::findLines()
{
    std::vector<Line> lines(m_pairs.size());
    std::vector<Meets> meets(m_pairs.size());
    forEachBlock(m_pairs.size(), 256, m_progress.stop, [&](BlockRange r) {
        for (std::size_t k = r.begin; k < r.end; ++k)
            meets[k] = meet(m_pairs[k].first, m_pairs[k].second, lines[k]);
    });
    m_lines.clear();
    std::vector<std::uint32_t> unclear;
    for (std::size_t k = 0; k < lines.size(); ++k)
        if (meets[k] == Meets::Line)
            m_lines.push_back(std::move(lines[k]));
        else if (meets[k] == Meets::Unclear)
            unclear.push_back(m_pairs[k].first), unclear.push_back(m_pairs[k].second);
    return unclear;
}

/// Of triangles whose meeting is unclear, corners of all but the first body of a pair go outwards by some millionths of the whole,
/// so that faces that lie on each other overlap, and all go a little anywhere, so that nothing lies in one plane.
void Arranger::moveApart(std::span<const std::uint32_t> unclear)
{
    const float step = 1e-6f * mesh::boundsOf(m_finder.points()).diagonal();
    std::unordered_map<std::uint32_t, Vec3f> way; // of each corner
    for (std::size_t k = 0; k + 1 < unclear.size(); k += 2) {
        const Triangle &a = m_triangles[unclear[k]], &b = m_triangles[unclear[k + 1]];
        const bool isApart = m_bodyOf[a[0]] != m_bodyOf[b[0]];
        for (const Triangle *t : {&a, &b}) {
            Vec3f out = cross(at((*t)[1]) - at((*t)[0]), at((*t)[2]) - at((*t)[0]));
            out = isApart && t == (m_bodyOf[a[0]] < m_bodyOf[b[0]] ? &b : &a) && length(out) > 0 ? normalized(out) : Vec3f{};
            for (const std::uint32_t v : *t)
                way[v] += out;
        }
    }
    std::vector<std::uint32_t> moved, touched;
    std::vector<Vec3f> places;
    for (const auto &[v, out] : way)
        moved.push_back(v);
    std::sort(moved.begin(), moved.end());
    for (const std::uint32_t v : moved) {
        const std::uint64_t seed = std::uint64_t(m_round) * 0x51ED27ull + v;
        const Vec3f shake{randomSigned(seed, 0), randomSigned(seed, 1), randomSigned(seed, 2)}, out = way[v];
        m_isMoved[v] = 1;
        places.push_back(at(v) + (length(out) > 0 ? normalized(out) * (2 * step) : Vec3f{}) + shake * step);
    }
    std::vector<std::uint8_t> isNow(m_isMoved.size());
    for (const std::uint32_t v : moved)
        isNow[v] = 1;
    for (std::uint32_t t = 0; t < m_triangles.size(); ++t)
        if (const Triangle &v = m_triangles[t]; isNow[v[0]] || isNow[v[1]] || isNow[v[2]])
            touched.push_back(t);
    m_finder.move(moved, places, touched);
    std::erase_if(m_pairs, [&](const auto &p) {
        return std::binary_search(touched.begin(), touched.end(), p.first)
               || std::binary_search(touched.begin(), touched.end(), p.second);
    });
    const auto again = m_finder.of(touched);
    m_pairs.insert(m_pairs.end(), again.begin(), again.end());
    std::sort(m_pairs.begin(), m_pairs.end());
}

/// Points where lines end, worked out exactly.
void Arranger::numberEnds()
{
    std::unordered_map<End, std::uint32_t, HashEnd> numbers;
    std::vector<End> ends;
    const auto first = std::uint32_t(m_finder.points().size());
    const auto numberOf = [&](const End &e) {
        if (e[1] == kNone)
            return e[0];
        const auto [it, isNew] = numbers.try_emplace(e, first + std::uint32_t(ends.size()));
        if (isNew)
            ends.push_back(e);
        return it->second;
    };
    for (Line &l : m_lines)
        l.points = {numberOf(l.start), numberOf(l.end)};
    m_new.assign(ends.size(), {});
    forEachBlock(ends.size(), 128, m_progress.stop, [&](BlockRange r) {
        for (std::size_t k = r.begin; k < r.end; ++k) {
            const Triangle &t = m_triangles[ends[k][2]];
            const Exact::Plane_3 plane(exact(t[0]), exact(t[1]), exact(t[2]));
            const auto found = CGAL::intersection(plane, Exact::Segment_3(exact(ends[k][0]), exact(ends[k][1])));
            if (const Place *p = found ? boost::get<Place>(&*found) : nullptr)
                m_new[k] = *p;
        }
    });
    m_linesOf.clear(), m_cut.clear();
    std::unordered_map<std::uint32_t, std::uint32_t> at;
    for (std::uint32_t k = 0; k < m_lines.size(); ++k)
        for (const std::uint32_t t : {m_lines[k].a, m_lines[k].b}) {
            const auto [it, isNew] = at.try_emplace(t, std::uint32_t(m_cut.size()));
            if (isNew)
                m_cut.push_back(t), m_linesOf.emplace_back();
            m_linesOf[it->second].push_back(k);
        }
}

/// Two of three axes in which a triangle runs the same way round.
std::array<int, 2> axesOf(Vec3f a, Vec3f b, Vec3f c)
{
    const double u[3] = {double(b.x) - a.x, double(b.y) - a.y, double(b.z) - a.z},
                 v[3] = {double(c.x) - a.x, double(c.y) - a.y, double(c.z) - a.z};
    const double n[3] = {u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]};
    int most = 0;
    for (int k = 1; k < 3; ++k)
        if (std::abs(n[k]) > std::abs(n[most]))
            most = k;
    return n[most] > 0 ? std::array{(most + 1) % 3, (most + 2) % 3} : std::array{(most + 2) % 3, (most + 1) % 3};
}

/// Where lines of one triangle cross each other, three triangles have a point in common.
std::vector<std::uint32_t> Arranger::splitLines()
{
    struct Split {
        End of; ///< three triangles, sorted
        std::uint32_t line, other;
    };
    std::vector<std::vector<Split>> splits(m_cut.size());
    std::vector<std::vector<std::uint32_t>> unclear(m_cut.size());
    forEachBlock(m_cut.size(), 16, m_progress.stop, [&](BlockRange r) {
        for (std::size_t c = r.begin; c < r.end; ++c) {
            const auto &of = m_linesOf[c];
            if (of.size() < 2)
                continue;
            const std::uint32_t t = m_cut[c];
            const auto axes = axesOf(at(m_triangles[t][0]), at(m_triangles[t][1]), at(m_triangles[t][2]));
            struct Flat {
                Exact::Point_2 p, q;
                double lo[2], hi[2];
                std::uint32_t line;
            };
            std::vector<Flat> flat;
            for (const std::uint32_t l : of) {
                const Place p = exact(m_lines[l].points[0]), q = exact(m_lines[l].points[1]);
                Flat f{{p[axes[0]], p[axes[1]]}, {q[axes[0]], q[axes[1]]}, {}, {}, l};
                const CGAL::Bbox_2 box = f.p.bbox() + f.q.bbox();
                for (int k = 0; k < 2; ++k)
                    f.lo[k] = box.min(k), f.hi[k] = box.max(k);
                flat.push_back(std::move(f));
            }
            std::sort(flat.begin(), flat.end(),
                      [](const Flat &x, const Flat &y) { return std::pair(x.lo[0], x.line) < std::pair(y.lo[0], y.line); });
            for (std::size_t i = 0; i < flat.size(); ++i)
                for (std::size_t k = i + 1; k < flat.size() && flat[k].lo[0] <= flat[i].hi[0]; ++k) {
                    const Flat &x = flat[i], &y = flat[k];
                    if (x.lo[1] > y.hi[1] || y.lo[1] > x.hi[1])
                        continue;
                    const auto &px = m_lines[x.line].points, &py = m_lines[y.line].points;
                    if (px[0] == py[0] || px[0] == py[1] || px[1] == py[0] || px[1] == py[1])
                        continue;
                    const auto s0 = CGAL::orientation(x.p, x.q, y.p), s1 = CGAL::orientation(x.p, x.q, y.q),
                               s2 = CGAL::orientation(y.p, y.q, x.p), s3 = CGAL::orientation(y.p, y.q, x.q);
                    if (s0 * s1 > 0 || s2 * s3 > 0)
                        continue;
                    const auto other = [&](const Line &l) { return l.a == t ? l.b : l.a; };
                    End three{t, other(m_lines[x.line]), other(m_lines[y.line])};
                    if (s0 * s1 == 0 || s2 * s3 == 0) {
                        unclear[c].insert(unclear[c].end(), {three[0], three[1], three[0], three[2]});
                        continue;
                    }
                    std::sort(three.begin(), three.end());
                    splits[c].push_back({three, x.line, y.line});
                }
        }
    });
    std::vector<std::uint32_t> all;
    for (const auto &u : unclear)
        all.insert(all.end(), u.begin(), u.end());
    if (!all.empty())
        return all;
    std::unordered_map<End, std::uint32_t, HashEnd> numbers;
    std::vector<End> points;
    const auto first = std::uint32_t(m_finder.points().size() + m_new.size());
    for (const auto &some : splits)
        for (const Split &s : some) {
            const auto [it, isNew] = numbers.try_emplace(s.of, first + std::uint32_t(points.size()));
            if (isNew)
                points.push_back(s.of);
            for (const std::uint32_t l : {s.line, s.other})
                if (std::find(m_lines[l].points.begin() + 2, m_lines[l].points.end(), it->second) == m_lines[l].points.end())
                    m_lines[l].points.push_back(it->second);
        }
    const std::size_t before = m_new.size();
    m_new.resize(before + points.size());
    forEachBlock(points.size(), 64, m_progress.stop, [&](BlockRange r) {
        const auto plane = [this](std::uint32_t t) {
            const Triangle &v = m_triangles[t];
            return Exact::Plane_3(exact(v[0]), exact(v[1]), exact(v[2]));
        };
        for (std::size_t k = r.begin; k < r.end; ++k) {
            const auto found = CGAL::intersection(plane(points[k][0]), plane(points[k][1]), plane(points[k][2]));
            if (const Place *p = found ? boost::get<Place>(&*found) : nullptr)
                m_new[before + k] = *p;
        }
    });
    forEachBlock(m_lines.size(), 256, m_progress.stop, [&](BlockRange r) {
        for (std::size_t k = r.begin; k < r.end; ++k)
            sortAlong(m_lines[k]);
    });
    return {};
}

void Arranger::sortAlong(Line &line) const
{
    if (line.points.size() == 2)
        return;
    std::vector<std::pair<Place, std::uint32_t>> all;
    for (const std::uint32_t p : line.points)
        all.emplace_back(exact(p), p);
    const bool isDown = all[1].first < all[0].first;
    std::sort(all.begin(), all.end(),
              [isDown](const auto &x, const auto &y) { return isDown ? y.first < x.first : x.first < y.first; });
    for (std::size_t k = 0; k < all.size(); ++k)
        line.points[k] = all[k].second;
}

std::vector<Arrangement::Part> Arranger::partsOf(std::uint32_t c) const
{
    using Base = CGAL::Triangulation_vertex_base_with_info_2<std::uint32_t, Exact>;
    using Data = CGAL::Triangulation_data_structure_2<Base, CGAL::Constrained_triangulation_face_base_2<Exact>>;
    using Flat =
        CGAL::Constrained_Delaunay_triangulation_2<Exact, Data, CGAL::No_constraint_intersection_requiring_constructions_tag>;
    const Triangle &t = m_triangles[m_cut[c]];
    const auto axes = axesOf(at(t[0]), at(t[1]), at(t[2]));
    Flat flat;
    std::vector<std::pair<std::uint32_t, Flat::Vertex_handle>> known;
    const auto put = [&](std::uint32_t p) {
        for (const auto &[number, handle] : known)
            if (number == p)
                return handle;
        const Place at = exact(p);
        const auto handle = flat.insert(Exact::Point_2(at[axes[0]], at[axes[1]]));
        handle->info() = p;
        if (known.size() < 64) // of long lists the triangulation finds it as quickly
            known.emplace_back(p, handle);
        return handle;
    };
    for (const std::uint32_t v : t)
        put(v);
    for (const std::uint32_t l : m_linesOf[c]) {
        Flat::Vertex_handle before;
        for (const std::uint32_t p : m_lines[l].points) {
            const auto handle = put(p);
            if (before != Flat::Vertex_handle() && before != handle)
                flat.insert_constraint(before, handle);
            before = handle;
        }
    }
    std::vector<Arrangement::Part> out;
    for (const auto f : flat.finite_face_handles())
        out.push_back({m_cut[c], {f->vertex(0)->info(), f->vertex(1)->info(), f->vertex(2)->info()}});
    return out;
}

Arrangement Arranger::result() const
{
    Arrangement out;
    out.points = m_finder.points();
    out.given = out.points.size();
    for (const Place &p : m_new)
        out.points.push_back({float(CGAL::to_double(p.x())), float(CGAL::to_double(p.y())), float(CGAL::to_double(p.z()))});
    out.isCut.resize(m_triangles.size());
    std::vector<std::vector<Arrangement::Part>> parts(m_cut.size());
    forEachBlock(m_cut.size(), 16, m_progress.stop, [&](BlockRange r) {
        for (std::size_t c = r.begin; c < r.end; ++c)
            parts[c] = partsOf(std::uint32_t(c));
    });
    for (std::size_t c = 0; c < m_cut.size(); ++c) {
        out.isCut[m_cut[c]] = 1;
        out.parts.insert(out.parts.end(), parts[c].begin(), parts[c].end());
    }
    for (const Line &l : m_lines) {
        for (std::size_t k = 0; k + 1 < l.points.size(); ++k)
            out.seams.push_back({l.points[k], l.points[k + 1], l.a, l.b});
        for (const End *e : {&l.start, &l.end})
            if ((*e)[1] == kNone)
                out.corners.push_back((*e)[0]);
    }
    std::sort(out.corners.begin(), out.corners.end());
    out.corners.erase(std::unique(out.corners.begin(), out.corners.end()), out.corners.end());
    out.pairs = m_lines.size();
    out.moved = std::size_t(std::count(m_isMoved.begin(), m_isMoved.end(), 1));
    return out;
}

Result<Arrangement> Arranger::run()
{
    const std::vector<Vec3f> before = m_finder.points();
    m_isMoved.resize(before.size());
    m_pairs = m_finder.all(m_progress, kMostPairs);
    for (m_round = 0; m_round < 12; ++m_round) {
        if (m_progress.isCancelled())
            return Error{ErrorCode::Cancelled, "solid", "stopped on request"};
        if (m_pairs.size() > kMostPairs)
            return Error{
                ErrorCode::TooLarge, "solid",
                "more than four million pairs of faces pass through each other: hide what overlaps much, or knit it anew"};
        std::vector<std::uint32_t> unclear = findLines();
        if (unclear.empty()) {
            numberEnds();
            unclear = splitLines();
        }
        if (unclear.empty()) {
            Arrangement out = result();
            for (std::size_t k = 0; k < before.size(); ++k)
                out.most = std::max(out.most, length(out.points[k] - before[k]));
            if (m_progress.isCancelled())
                return Error{ErrorCode::Cancelled, "solid", "stopped on request"};
            return out;
        }
        moveApart(unclear);
    }
    return Error{ErrorCode::BadValue, "solid", "faces lie in each other so that they cannot be told apart"};
}

} // namespace

Result<Arrangement> arranged(std::vector<Vec3f> points, const std::vector<Triangle> &triangles,
                             std::span<const std::uint32_t> bodyOf, const Progress &progress)
{
    return Arranger(std::move(points), triangles, bodyOf, progress).run();
}

} // namespace bonemoss::solid::detail
