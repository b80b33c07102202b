// A mass: the skin under a mask, lifted off as a body of its own, and cut into locks by lines.
#include "outgrowth/coat.h"

#include "mesh/parts.h"

#include <algorithm>

namespace bonemoss::outgrowth {

namespace {

/// Leaves out faces about points where a patch would hang together by a corner alone, until there are none.
void dropCorners(std::vector<mesh::Face> &faces, std::size_t points)
{
    for (std::vector<std::uint8_t> open;;) { // border edges at a point: two where the border runs through once
        std::vector<std::uint64_t> edges;
        for (const mesh::Face &f : faces)
            for (int k = 0; k < f.size(); ++k) {
                const std::uint64_t a = f.v[std::size_t(k)], b = f.v[std::size_t((k + 1) % f.size())];
                edges.push_back(std::min(a, b) << 32 | std::max(a, b));
            }
        std::sort(edges.begin(), edges.end());
        open.assign(points, 0);
        for (std::size_t e = 0; e < edges.size(); ++e)
            if ((e == 0 || edges[e - 1] != edges[e]) && (e + 1 == edges.size() || edges[e + 1] != edges[e]))
                for (const auto v : {std::size_t(edges[e] >> 32), std::size_t(edges[e] & 0xffffffffu)})
                    open[v] = std::uint8_t(std::min(open[v] + 1, 9));
        const std::size_t before = faces.size();
        std::erase_if(faces, [&](const mesh::Face &f) {
            return std::any_of(f.v.begin(), f.v.begin() + f.size(), [&](std::uint32_t v) { return open[v] > 2; });
        });
        if (faces.size() == before)
            return;
    }
}

/// A patch of skin to be lifted off.
struct Sheet {
    mesh::PolyMesh skin;        ///< open
    std::vector<Vec3f> normals; ///< of each point, unit
    std::vector<float> share;   ///< of the mask there, 0 to 1
    std::vector<float> away;    ///< mm to the nearest cut
    std::uint32_t number = 0;

    Sheet some(const std::vector<bool> &which) const
    {
        std::vector<std::uint32_t> sources;
        Sheet out;
        out.skin = mesh::extract(skin, which, &sources);
        for (const std::uint32_t v : sources)
            out.normals.push_back(normals[v]), out.share.push_back(share[v]), out.away.push_back(away[v]);
        out.number = number;
        return out;
    }
    /// Its parts that hang together, the largest first.
    std::vector<Sheet> islands() const
    {
        std::uint32_t count = 0;
        const std::vector<std::uint32_t> of = mesh::islandsOf(skin, count);
        std::vector<std::vector<bool>> faces(count, std::vector<bool>(skin.faces.size(), false));
        for (std::size_t f = 0; f < skin.faces.size(); ++f)
            faces[of[skin.faces[f].v[0]]][f] = true;
        std::vector<Sheet> out;
        for (const auto &which : faces)
            if (std::find(which.begin(), which.end(), true) != which.end())
                out.push_back(some(which));
        std::stable_sort(out.begin(), out.end(),
                         [](const Sheet &a, const Sheet &b) { return a.skin.faces.size() > b.skin.faces.size(); });
        return out;
    }
};

/// New points of a sheet, which lie on its old edges: as the old points of their faces are, the nearer the more.
void fillIn(Sheet &sheet)
{
    const std::size_t old = sheet.normals.size(), all = sheet.skin.positions.size();
    sheet.normals.resize(all), sheet.share.resize(all, 0), sheet.away.resize(all, 1e6f);
    std::vector<float> weights(all, 0);
    for (const mesh::Face &f : sheet.skin.faces)
        for (int k = 0; k < f.size(); ++k)
            for (int j = 0; j < f.size(); ++j) {
                const std::uint32_t v = f.v[std::size_t(k)], o = f.v[std::size_t(j)];
                if (v < old || o >= old)
                    continue;
                const float w = 1 / (length(sheet.skin.positions[v] - sheet.skin.positions[o]) + 1e-4f);
                sheet.normals[v] += sheet.normals[o] * w, sheet.share[v] += sheet.share[o] * w, weights[v] += w;
            }
    for (std::size_t v = old; v < all; ++v)
        if (weights[v] > 0)
            sheet.normals[v] = normalized(sheet.normals[v]), sheet.share[v] /= weights[v];
}

/// Means of the shares over faces, some times over, so that the border of a hard mask does not follow the faces.
void evenShares(Sheet &sheet, int passes)
{
    struct Mean {
        float sum = 0, count = 0;
    };
    std::vector<Mean> means(sheet.share.size());
    for (int pass = 0; pass < passes; ++pass) {
        std::fill(means.begin(), means.end(), Mean());
        for (const mesh::Face &f : sheet.skin.faces) {
            float mean = 0;
            for (int k = 0; k < f.size(); ++k)
                mean += sheet.share[f.v[std::size_t(k)]] / float(f.size());
            for (int k = 0; k < f.size(); ++k) {
                Mean &m = means[f.v[std::size_t(k)]];
                m.sum += mean, ++m.count;
            }
        }
        for (std::size_t v = 0; v < means.size(); ++v)
            if (means[v].count > 0)
                sheet.share[v] = means[v].sum / means[v].count;
    }
}

/// The largest part of the area that hangs together, up to where a tenth of the mask lies.
Sheet wholeSheet(const Input &in)
{
    constexpr float kRim = 0.1f;
    constexpr int kRings = 3; // of faces about the mask that the border may come to lie in
    const mesh::Topology &t = *in.skin.topology;
    std::vector<bool> isNear(in.skin.positions.size());
    const std::vector<std::uint32_t> blocks = blocksNear(in, kRings + 1);
    for (const std::uint32_t b : blocks)
        for (std::size_t i = 0; i < in.area.countIn(b); ++i)
            if (const auto v = std::uint32_t(b * mesh::kBlockSize + i); in.area[v] > 0)
                isNear[v] = true;
    const auto eachFace = [&](const auto &use) {
        for (const std::uint32_t b : blocks)
            for (std::size_t f = 0; f < t.block(b).drawnFaces; ++f) {
                const mesh::Face face = t.faceOf(b, f);
                if (std::any_of(face.v.begin(), face.v.begin() + face.size(), [&](std::uint32_t v) { return isNear[v]; }))
                    use(face);
            }
    };
    for (int ring = 0; ring < kRings; ++ring) {
        std::vector<bool> wider = isNear;
        eachFace([&](const mesh::Face &face) {
            for (int k = 0; k < face.size(); ++k)
                wider[face.v[std::size_t(k)]] = true;
        });
        isNear = std::move(wider);
    }
    Sheet sheet;
    std::vector<std::uint32_t> numbers(in.skin.positions.size(), kNone);
    eachFace([&](mesh::Face face) {
        for (int k = 0; k < face.size(); ++k) {
            std::uint32_t &v = face.v[std::size_t(k)];
            if (numbers[v] == kNone) {
                numbers[v] = std::uint32_t(sheet.skin.positions.size());
                sheet.skin.positions.push_back(in.skin.positions[v]);
                sheet.normals.push_back(in.skin.normals[v].unpack());
                sheet.share.push_back(float(in.area[v]) / 255);
                sheet.away.push_back(1e6f);
            }
            v = numbers[v];
        }
        sheet.skin.faces.push_back(face);
    });
    evenShares(sheet, kRings);
    std::vector<float> values;
    for (const float share : sheet.share)
        values.push_back(share - kRim);
    mesh::CutMesh cut = mesh::cutAlong(sheet.skin, std::move(values));
    sheet.skin = std::move(cut.mesh);
    fillIn(sheet);
    std::size_t face = 0;
    std::erase_if(sheet.skin.faces, [&](const mesh::Face &) { return !cut.isIn[face++]; });
    dropCorners(sheet.skin.faces, sheet.skin.positions.size());
    std::vector<Sheet> parts = sheet.islands();
    return parts.empty() ? Sheet() : std::move(parts.front());
}

/// A line on the skin that cuts. It goes straight on beyond its ends.
class Cut
{
public:
    /// over: mm from it along the normal, farther than which the skin is another part of it that is not cut.
    Cut(std::vector<Root> line, float over) : m_line(std::move(line)), m_over(over) {}

    /// mm to the left of it (above 0) or to the right, as one goes along it on the skin; beyond: mm that the place lies beyond its ends.
    float side(Vec3f p, float &beyond) const
    {
        float least = std::numeric_limits<float>::max(), found = 0;
        beyond = 0;
        for (std::size_t k = 0; k + 1 < m_line.size(); ++k) {
            const Vec3f a = m_line[k].at, d = m_line[k + 1].at - a, n = m_line[k].normal + m_line[k + 1].normal;
            const float len = length(d);
            if (len < 1e-6f)
                continue;
            float t = dot(p - a, d) / (len * len);
            const bool isOpen = (k == 0 && t < 0) || (k + 2 == m_line.size() && t > 1);
            t = std::clamp(t, 0.0f, 1.0f);
            const Vec3f off = p - (a + d * t), along = d * (1 / len), across = normalized(cross(n, d));
            const float far = length(off);
            if (far >= least)
                continue;
            least = far;
            const float aside = dot(off, across), ahead = std::abs(dot(off, along));
            // In the surface: what a place lies over or under the line does not count.
            beyond = isOpen ? ahead : 0; // where the skin may curve away from it
            const float in = isOpen ? std::abs(aside) : std::sqrt(aside * aside + ahead * ahead);
            found = std::copysign(std::abs(dot(off, normalized(n))) > m_over + 0.5f * beyond ? far : in, aside);
        }
        return found;
    }
    /// Share of the line that lies on a sheet.
    float shareOn(const Sheet &sheet, float reach) const
    {
        std::size_t on = 0;
        for (const Root &r : m_line)
            on += std::any_of(sheet.skin.positions.begin(), sheet.skin.positions.end(),
                              [&](Vec3f p) { return squaredLength(p - r.at) < reach * reach; });
        return float(on) / float(m_line.size());
    }

private:
    std::vector<Root> m_line;
    float m_over;
};

float meanEdge(const mesh::PolyMesh &m)
{
    double sum = 0;
    for (const mesh::Face &f : m.faces)
        sum += double(length(m.positions[f.v[0]] - m.positions[f.v[1]]));
    return m.faces.empty() ? 1 : float(sum / double(m.faces.size()));
}

/// What the sheet becomes when a slot of that width is cut out of it along the line: its parts, the largest first.
std::vector<Sheet> cutSheet(const Sheet &sheet, const Cut &cut, float width)
{
    Sheet now = sheet;
    for (const float rim : {-width / 2, width / 2}) {
        std::vector<float> values;
        float beyond = 0;
        for (const Vec3f p : now.skin.positions)
            values.push_back(cut.side(p, beyond) - rim);
        now.skin = mesh::cutAlong(now.skin, std::move(values)).mesh;
        fillIn(now);
    }
    std::vector<float> aside;
    float beyond = 0;
    for (const Vec3f p : now.skin.positions)
        aside.push_back(std::abs(cut.side(p, beyond)) - width / 2);
    std::erase_if(now.skin.faces, [&](const mesh::Face &f) {
        Vec3f middle;
        for (int k = 0; k < f.size(); ++k)
            middle += now.skin.positions[f.v[std::size_t(k)]] * (1 / float(f.size()));
        return std::abs(cut.side(middle, beyond)) < width / 2;
    });
    for (std::size_t v = 0; v < aside.size(); ++v)
        now.away[v] = std::min(now.away[v], std::max(aside[v], 0.0f));
    dropCorners(now.skin.faces, now.skin.positions.size());
    return now.islands();
}

/// The lines that cut it, each followed by its twin.
std::vector<Cut> cutsOf(const Input &in, float over)
{
    std::vector<Cut> out;
    if (in.rule.roots.size() < 2)
        return out;
    for (const auto &line : linesOf(in.rule)) {
        std::vector<Root> own(line.begin(), line.end());
        out.emplace_back(own, over);
        if (!in.rule.isMirrored || !in.about.plane || !in.about.planeNormal)
            continue;
        float farthest = 0;
        for (Root &r : own) {
            farthest = std::max(farthest, std::abs(sideOf(in, r.at)));
            r.at -= *in.about.planeNormal * (2 * sideOf(in, r.at));
            r.normal -= *in.about.planeNormal * (2 * dot(r.normal, *in.about.planeNormal));
        }
        if (farthest > 0.6f) // one along the middle is its own twin
            out.emplace_back(std::move(own), over);
    }
    return out;
}

} // namespace

struct Mass : Prepared {
    std::vector<Sheet> parts;
    // What they were cut from.
    Standing ground; ///< without flow and places
    std::vector<Root> roots;
    std::vector<std::uint32_t> starts;
    float width = 0;
    bool isMirrored = false;
};

/// Cut by cut. Of a part that is cut, the largest keeps the number and the others get the next ones, so that a cut that is added
/// leaves the numbers of all as they are.
std::shared_ptr<const Prepared> prepareMass(const Input &in)
{
    if (in.rule.made && in.rule.made->key.kind == in.rule.kind)
        if (const auto old = std::static_pointer_cast<const Mass>(in.rule.made->prepared);
            old && old->ground.isOf(in) && old->roots == in.rule.roots && old->starts == in.rule.starts
            && old->width == in.value("cut") && old->isMirrored == in.rule.isMirrored)
            return old;
    auto out = std::make_shared<Mass>();
    out->ground.take(in);
    out->roots = in.rule.roots, out->starts = in.rule.starts, out->width = in.value("cut"), out->isMirrored = in.rule.isMirrored;
    Sheet whole = wholeSheet(in);
    if (whole.skin.faces.empty())
        return out;
    const float edge = meanEdge(whole.skin), width = std::max(in.value("cut"), 0.35f * edge);
    const std::size_t fewest = std::min<std::size_t>(12, whole.skin.faces.size());
    out->parts.push_back(std::move(whole));
    for (const Cut &cut : cutsOf(in, 2 * edge + 2 * width)) {
        std::vector<Sheet> next;
        std::uint32_t count = 0;
        for (const Sheet &s : out->parts)
            count = std::max(count, s.number + 1);
        for (Sheet &s : out->parts) {
            std::vector<Sheet> cuts;
            if (cut.shareOn(s, 1.2f * edge) > 0.12f)
                cuts = cutSheet(s, cut, width);
            std::erase_if(cuts, [&](const Sheet &c) { return c.skin.faces.size() < fewest; }); // crumbs beside the line
            if (cuts.size() < 2) {
                next.push_back(std::move(s));
                continue;
            }
            for (std::size_t k = 0; k < cuts.size(); ++k) {
                cuts[k].number = k == 0 ? s.number : count++;
                next.push_back(std::move(cuts[k]));
            }
        }
        out->parts = std::move(next);
    }
    std::sort(out->parts.begin(), out->parts.end(), [](const Sheet &a, const Sheet &b) { return a.number < b.number; });
    return out;
}

namespace {

/// Rooted at the point nearest to its middle; its own +Z along its length, downhill.
Spot spotOf(const Sheet &sheet, bool isCut)
{
    Vec3f middle;
    for (const Vec3f p : sheet.skin.positions)
        middle += p * (1 / float(sheet.skin.positions.size()));
    std::size_t nearest = 0;
    for (std::size_t v = 0; v < sheet.skin.positions.size(); ++v)
        if (squaredLength(sheet.skin.positions[v] - middle) < squaredLength(sheet.skin.positions[nearest] - middle))
            nearest = v;
    Spot s;
    s.root = {sheet.skin.positions[nearest], sheet.normals[nearest]};
    s.isOnPlane = true; // where the mask lies on both sides, so does it
    s.number = sheet.number;
    if (!isCut)
        return s;
    Vec3f way{1, 2, 3}; // the way it is longest: power iteration on its covariance
    for (int round = 0; round < 12; ++round) {
        Vec3f sum;
        for (const Vec3f p : sheet.skin.positions)
            sum += (p - middle) * dot(p - middle, way);
        way = squaredLength(sum) > 0 ? normalized(sum) : Vec3f{0, 0, 1};
    }
    s.forward = way.y > 0 ? -way : way;
    return s;
}

} // namespace

void massParts(const Input &in, std::vector<Spot> &out)
{
    const std::vector<Sheet> &parts = static_cast<const Mass &>(*in.prepared).parts;
    for (std::size_t k = 0; k < parts.size(); ++k) {
        out.push_back(spotOf(parts[k], parts.size() > 1));
        out.back().variant = std::uint32_t(k);
    }
}

/// Above: the skin plus its thickness, which softens to the border and to the cuts; below: a little under the skin; between them a strip.
mesh::PolyMesh massShape(const Input &in, const Variation &v)
{
    const std::vector<Sheet> &parts = static_cast<const Mass &>(*in.prepared).parts;
    const Sheet &sheet = parts[v.variant];
    const float thick = in.value("thickness"), deep = in.value("sink"), soft = in.value("soft"), lumps = in.value("lumps"),
                size = std::max(in.value("lumpSize"), 0.5f), flare = in.value("flare");
    const Spot spot = spotOf(sheet, parts.size() > 1);
    const io::Placement frame = frameAt(spot.root, spot.forward);
    const auto own = [&](Vec3f p) {
        const Vec3f d = p - spot.root.at;
        return Vec3f{dot(d, {frame.m[0], frame.m[1], frame.m[2]}), dot(d, {frame.m[3], frame.m[4], frame.m[5]}),
                     dot(d, {frame.m[6], frame.m[7], frame.m[8]})};
    };
    std::vector<std::uint32_t> numbers(sheet.skin.positions.size(), kNone);
    mesh::PolyMesh out;
    std::vector<Vec3f> below;
    std::vector<std::uint64_t> edges; // as faces run along them
    for (const mesh::Face &f : sheet.skin.faces)
        for (int k = 0; k < f.size(); ++k) {
            const std::uint32_t i = f.v[std::size_t(k)];
            if (numbers[i] != kNone)
                continue;
            numbers[i] = std::uint32_t(out.positions.size());
            const Vec3f p = sheet.skin.positions[i], n = sheet.normals[i];
            const float round = std::lerp(1.0f, smooth(0, 1, sheet.share[i]), soft);
            const float rise = std::min(1.0f, sheet.away[i] / std::max(1.2f * thick, 1e-3f)); // a quarter circle up from a cut
            const float cut = std::lerp(1.0f, std::sqrt(std::max(0.0f, 1 - (1 - rise) * (1 - rise))), flare * 0.85f);
            const float lump = 1
                               + 0.5f * lumps * waver(std::uint64_t(in.rule.seed), dot(p, {0.80f, 0.30f, 0.52f}) / size)
                                     * waver(in.rule.seed + 5u, dot(p, {-0.45f, 0.75f, 0.48f}) / size);
            out.positions.push_back(own(p + n * std::max(thick * round * lump * cut, 0.05f)));
            below.push_back(own(p - n * std::max(deep, 0.05f)));
        }
    const auto half = std::uint32_t(out.positions.size());
    out.positions.insert(out.positions.end(), below.begin(), below.end());
    for (const mesh::Face &f : sheet.skin.faces) {
        mesh::Face top = f, bottom = f;
        for (int k = 0; k < f.size(); ++k) {
            const std::uint32_t a = numbers[f.v[std::size_t(k)]], b = numbers[f.v[std::size_t((k + 1) % f.size())]];
            top.v[std::size_t(k)] = a;
            bottom.v[std::size_t(f.size() - 1 - k)] = a + half;
            edges.push_back(std::uint64_t(a) << 32 | b);
        }
        out.faces.push_back(top);
        out.faces.push_back(bottom);
    }
    std::sort(edges.begin(), edges.end());
    for (const std::uint64_t edge : edges) {
        const auto a = std::uint32_t(edge >> 32), b = std::uint32_t(edge);
        if (!std::binary_search(edges.begin(), edges.end(), std::uint64_t(b) << 32 | a))
            out.faces.push_back({{b, a, a + half, b + half}});
    }
    return out;
}

} // namespace bonemoss::outgrowth
