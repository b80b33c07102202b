// What lies together in layers.
#include "proof/layers.h"

#include <algorithm>
#include <map>

namespace bonemoss::proof {

namespace {

/// Disjoint sets with what is known of each.
template <typename Known> class Sets
{
public:
    std::uint32_t add(const Known &known)
    {
        m_parent.push_back(std::uint32_t(m_parent.size()));
        m_known.push_back(known);
        return m_parent.back();
    }
    std::uint32_t find(std::uint32_t k)
    {
        while (m_parent[k] != k)
            k = m_parent[k] = m_parent[m_parent[k]];
        return k;
    }
    void join(std::uint32_t a, std::uint32_t b)
    {
        a = find(a), b = find(b);
        if (a == b)
            return;
        if (m_known[a].cells < m_known[b].cells)
            std::swap(a, b);
        m_parent[b] = a;
        m_known[a].add(m_known[b]);
    }
    Known &of(std::uint32_t k) { return m_known[find(k)]; }
    bool isRoot(std::uint32_t k) const { return m_parent[k] == k; }
    std::size_t size() const { return m_parent.size(); }

private:
    std::vector<std::uint32_t> m_parent;
    std::vector<Known> m_known;
};

struct Blob {
    std::int64_t cells = 0;
    double x = 0, y = 0, z = 0;                                   ///< sums over cells
    bool isOutside = false, isCarried = false, isOnPlate = false; ///< on the plate: it is open once the print is taken off
    float largest = 0;                                            ///< cells of its largest layer so far
    int layer = 0;

    void add(const Blob &b)
    {
        cells += b.cells, x += b.x, y += b.y, z += b.z;
        isOutside = isOutside || b.isOutside, isCarried = isCarried || b.isCarried, isOnPlate = isOnPlate || b.isOnPlate;
        if (b.largest > largest)
            largest = b.largest, layer = b.layer;
    }
};

Blob blobOf(Run r, int layer, int z)
{
    const std::int64_t n = r.end - r.begin;
    return {n, double(n) * (double(r.begin) + double(r.end) - 1) / 2, double(n) * layer, double(n) * z};
}

/// Calls use(i, j) for runs of two rows that overlap, by `wider` cells more for those that meet at corners.
template <typename Use> void eachPair(std::span<const Run> a, std::span<const Run> b, int wider, const Use &use)
{
    for (std::size_t i = 0, j = 0; i < a.size() && j < b.size();) {
        if (a[i].begin < b[j].end + wider && b[j].begin < a[i].end + wider)
            use(i, j);
        if (a[i].end < b[j].end)
            ++i;
        else
            ++j;
    }
}

/// The runs of a layer, row by row, and the number of each in a table of sets.
struct Plane {
    std::vector<std::size_t> starts{0};
    std::vector<Run> runs;
    std::vector<std::uint32_t> own, body; ///< sets: of this layer alone, of all so far
    std::span<const Run> row(int z) const
    {
        return std::span(runs).subspan(starts[std::size_t(z)], starts[std::size_t(z) + 1] - starts[std::size_t(z)]);
    }
};

Plane solidPlane(const Layers &l, int layer)
{
    Plane p;
    for (int z = 0; z < l.rows; ++z) {
        const auto row = l.row(layer, z);
        p.runs.insert(p.runs.end(), row.begin(), row.end());
        p.starts.push_back(p.runs.size());
    }
    return p;
}

Plane emptyPlane(const Layers &l, int layer)
{
    Plane p;
    for (int z = 0; z < l.rows; ++z) {
        std::int32_t at = 0;
        for (const Run r : l.row(layer, z)) {
            if (r.begin > at)
                p.runs.push_back({at, r.begin});
            at = r.end;
        }
        if (at < l.columns)
            p.runs.push_back({at, l.columns});
        p.starts.push_back(p.runs.size());
    }
    return p;
}

/// Finds what of a layer hangs together by itself. own: set numbers within sets.
void joinWithin(Plane &p, int rows, int wider, Sets<Blob> &sets, int layer)
{
    p.own.reserve(p.runs.size());
    for (int z = 0; z < rows; ++z)
        for (const Run r : p.row(z))
            p.own.push_back(sets.add(blobOf(r, layer, z)));
    for (int z = 0; z + 1 < rows; ++z)
        eachPair(p.row(z), p.row(z + 1), wider, [&](std::size_t i, std::size_t j) {
            sets.join(p.own[p.starts[std::size_t(z)] + i], p.own[p.starts[std::size_t(z) + 1] + j]);
        });
}

Region regionOf(Region::Kind kind, const Blob &b, const Layers &l, int layer)
{
    const double n = double(std::max<std::int64_t>(1, b.cells)), cell = double(l.cell) * double(l.cell);
    Region out{kind};
    out.at = l.origin
             + Vec3f{float((b.x / n + 0.5) * double(l.cell)), float((b.y / n + 0.5) * double(l.height)),
                     float((b.z / n + 0.5) * double(l.cell))};
    out.volume = double(b.cells) * cell * double(l.height);
    out.area = float(double(b.largest) * cell), out.layer = layer;
    return out;
}

} // namespace

std::vector<Region> regionsOf(const Layers &l, const Progress &progress)
{
    std::vector<Region> out;
    Sets<Blob> bodies, hollows;
    const std::uint32_t outside = hollows.add({.isOutside = true});
    Plane solidBelow, emptyBelow;
    for (int k = 0; k < l.count && !progress.isCancelled(); ++k) {
        Plane solid = solidPlane(l, k), empty = emptyPlane(l, k);
        // Solid: what nothing below carries begins in the air.
        Sets<Blob> flat;
        joinWithin(solid, l.rows, 1, flat, k);
        std::vector<std::uint32_t> bodyOf(flat.size(), kNone);
        for (std::size_t i = 0; i < solid.runs.size(); ++i)
            if (const std::uint32_t root = flat.find(solid.own[i]); bodyOf[root] == kNone) {
                Blob b = flat.of(root);
                b.largest = float(b.cells), b.layer = k;
                bodyOf[root] = bodies.add(b);
            }
        solid.body.resize(solid.runs.size());
        for (std::size_t i = 0; i < solid.runs.size(); ++i)
            solid.body[i] = bodyOf[flat.find(solid.own[i])];
        if (k > 0)
            for (int z = 0; z < l.rows; ++z)
                eachPair(solid.row(z), solidBelow.row(z), 0, [&](std::size_t i, std::size_t j) {
                    const std::size_t a = solid.starts[std::size_t(z)] + i, b = solidBelow.starts[std::size_t(z)] + j;
                    flat.of(solid.own[a]).isCarried = true;
                    bodies.join(solid.body[a], solidBelow.body[b]);
                });
        if (k > 0)
            for (std::uint32_t s = 0; s < flat.size(); ++s)
                if (flat.isRoot(s) && !flat.of(s).isCarried) {
                    Blob b = flat.of(s);
                    b.largest = float(b.cells);
                    out.push_back(regionOf(Region::Kind::Island, b, l, k));
                }
        // Empty: what lies together with the border, or with something below that does, is outside.
        Sets<Blob> holes;
        joinWithin(empty, l.rows, 0, holes, k);
        std::vector<std::uint32_t> hollowOf(holes.size(), kNone);
        for (int z = 0; z < l.rows; ++z)
            for (std::size_t i = empty.starts[std::size_t(z)]; i < empty.starts[std::size_t(z) + 1]; ++i)
                if (empty.runs[i].begin == 0 || empty.runs[i].end == l.columns || z == 0 || z == l.rows - 1)
                    holes.of(empty.own[i]).isOutside = true;
        for (std::size_t i = 0; i < empty.runs.size(); ++i)
            if (const std::uint32_t root = holes.find(empty.own[i]); hollowOf[root] == kNone) {
                Blob b = holes.of(root);
                b.largest = float(b.cells), b.layer = k, b.isOnPlate = k == 0;
                hollowOf[root] = b.isOutside ? outside : hollows.add(b);
            }
        empty.body.resize(empty.runs.size());
        for (std::size_t i = 0; i < empty.runs.size(); ++i)
            empty.body[i] = hollowOf[holes.find(empty.own[i])];
        if (k > 0)
            for (int z = 0; z < l.rows; ++z)
                eachPair(empty.row(z), emptyBelow.row(z), 0, [&](std::size_t i, std::size_t j) {
                    const std::uint32_t a = hollows.find(empty.body[empty.starts[std::size_t(z)] + i]),
                                        b = hollows.find(emptyBelow.body[emptyBelow.starts[std::size_t(z)] + j]);
                    if (a == b)
                        return;
                    for (const std::uint32_t side : {a, b}) { // a cup that opens: as large as it was until now
                        const Blob &other = hollows.of(side == a ? b : a);
                        if (other.isOutside && !hollows.of(side).isOutside && hollows.of(side).isCarried)
                            out.push_back(regionOf(Region::Kind::Cup, hollows.of(side), l, hollows.of(side).layer));
                    }
                    hollows.join(a, b);
                });
        for (const std::uint32_t h : hollowOf)
            if (h != kNone && !hollows.of(h).isOutside)
                hollows.of(h).isCarried = true; // it has been printed closed
        solidBelow = std::move(solid), emptyBelow = std::move(empty);
        if (k % 16 == 0)
            progress.say(float(k) / float(l.count), "islands");
    }
    for (const std::uint32_t h : emptyBelow.body) // above the last layer all is open
        if (!hollows.of(h).isOutside) {
            out.push_back(regionOf(Region::Kind::Cup, hollows.of(h), l, hollows.of(h).layer));
            hollows.join(h, outside);
        }
    for (std::uint32_t h = 0; h < hollows.size(); ++h)
        if (hollows.isRoot(h) && !hollows.of(h).isOutside)
            out.push_back(regionOf(hollows.of(h).isOnPlate ? Region::Kind::Cup : Region::Kind::Pocket, hollows.of(h), l,
                                   hollows.of(h).layer));
    std::vector<std::uint32_t> roots;
    for (std::uint32_t b = 0; b < bodies.size(); ++b)
        if (bodies.isRoot(b))
            roots.push_back(b);
    std::sort(roots.begin(), roots.end(), [&](std::uint32_t a, std::uint32_t b) {
        return bodies.of(a).cells != bodies.of(b).cells ? bodies.of(a).cells > bodies.of(b).cells : a < b;
    });
    for (std::size_t k = 1; k < roots.size(); ++k)
        out.push_back(regionOf(Region::Kind::Loose, bodies.of(roots[k]), l, bodies.of(roots[k]).layer));
    std::stable_sort(out.begin(), out.end(), [](const Region &a, const Region &b) {
        return a.kind != b.kind ? a.kind < b.kind : a.kind == Region::Kind::Island ? a.area > b.area : a.volume > b.volume;
    });
    return out;
}

} // namespace bonemoss::proof
