// A mass: the skin under a mask, lifted off as a body of its own.
#include "outgrowth/coat.h"

#include <algorithm>

namespace bonemoss::outgrowth {

namespace {

/// Faces wholly or partly under the mask, without those about points where the area would hang together by a corner alone, and of
/// these the largest part that hangs together.
std::vector<mesh::Face> facesOf(const Input &in)
{
    const mesh::Topology &t = *in.skin.topology;
    std::vector<mesh::Face> faces;
    for (std::size_t b = 0; b < t.blockCount(); ++b)
        for (std::size_t f = 0; f < t.block(b).drawnFaces; ++f) {
            const mesh::Face face = t.faceOf(b, f);
            if (std::all_of(face.v.begin(), face.v.begin() + face.size(), [&](std::uint32_t v) { return in.area[v] > 24; }))
                faces.push_back(face);
        }
    const std::size_t n = in.skin.positions.size();
    for (std::vector<std::uint8_t> open;;) { // border edges at a point: two where the border runs through once
        std::vector<std::uint64_t> edges;
        for (const mesh::Face &f : faces)
            for (int k = 0; k < f.size(); ++k) {
                const std::uint64_t a = f.v[std::size_t(k)], b = f.v[std::size_t((k + 1) % f.size())];
                edges.push_back(std::min(a, b) << 32 | std::max(a, b));
            }
        std::sort(edges.begin(), edges.end());
        open.assign(n, 0);
        for (std::size_t e = 0; e < edges.size(); ++e)
            if ((e == 0 || edges[e - 1] != edges[e]) && (e + 1 == edges.size() || edges[e + 1] != edges[e]))
                for (const auto v : {std::size_t(edges[e] >> 32), std::size_t(edges[e] & 0xffffffffu)})
                    open[v] = std::uint8_t(std::min(open[v] + 1, 9));
        const std::size_t before = faces.size();
        std::erase_if(faces, [&](const mesh::Face &f) {
            return std::any_of(f.v.begin(), f.v.begin() + f.size(), [&](std::uint32_t v) { return open[v] > 2; });
        });
        if (faces.size() == before)
            break;
    }
    // Parts by joining the corners of each face.
    std::vector<std::uint32_t> parent(n);
    for (std::uint32_t v = 0; v < n; ++v)
        parent[v] = v;
    const auto rootOf = [&](std::uint32_t v) {
        while (parent[v] != v)
            v = parent[v] = parent[parent[v]];
        return v;
    };
    for (const mesh::Face &f : faces)
        for (int k = 1; k < f.size(); ++k)
            parent[rootOf(f.v[std::size_t(k)])] = rootOf(f.v[0]);
    std::vector<std::uint32_t> sizes(n, 0);
    std::uint32_t largest = 0;
    for (const mesh::Face &f : faces)
        if (const std::uint32_t root = rootOf(f.v[0]); ++sizes[root] > sizes[largest])
            largest = root;
    std::erase_if(faces, [&](const mesh::Face &f) { return rootOf(f.v[0]) != largest; });
    return faces;
}

} // namespace

struct Mass : Prepared {
    std::vector<mesh::Face> faces;
};

std::shared_ptr<const Prepared> prepareMass(const Input &in)
{
    auto out = std::make_shared<Mass>();
    out->faces = facesOf(in);
    return out;
}

void oneMass(const Input &in, std::vector<Spot> &out)
{
    const auto &faces = static_cast<const Mass &>(*in.prepared).faces;
    if (faces.empty())
        return;
    Spot s;
    const std::uint32_t v = faces[faces.size() / 2].v[0];
    s.root = {in.skin.positions[v], in.skin.normals[v].unpack()};
    s.isOnPlane = true; // where the mask lies on both sides, so does it
    out.push_back(s);
}

/// Above: the skin plus its thickness, which softens to the border; below: a little under the skin; between them a strip.
mesh::PolyMesh massShape(const Input &in, const Variation &)
{
    const auto &faces = static_cast<const Mass &>(*in.prepared).faces;
    const float thick = in.value("thickness"), deep = in.value("sink"), soft = in.value("soft"), lumps = in.value("lumps"),
                size = std::max(in.value("lumpSize"), 0.5f);
    std::vector<Spot> spots;
    oneMass(in, spots);
    const io::Placement frame = frameAt(spots[0].root, spots[0].forward);
    const auto own = [&](Vec3f p) {
        const Vec3f d = p - spots[0].root.at;
        return Vec3f{dot(d, {frame.m[0], frame.m[1], frame.m[2]}), dot(d, {frame.m[3], frame.m[4], frame.m[5]}),
                     dot(d, {frame.m[6], frame.m[7], frame.m[8]})};
    };
    std::vector<std::uint32_t> numbers(in.skin.positions.size(), kNone);
    mesh::PolyMesh out;
    std::vector<Vec3f> below;
    for (const mesh::Face &f : faces)
        for (int k = 0; k < f.size(); ++k) {
            const std::uint32_t v = f.v[std::size_t(k)];
            if (numbers[v] != kNone)
                continue;
            numbers[v] = std::uint32_t(out.positions.size());
            const Vec3f p = in.skin.positions[v], n = in.skin.normals[v].unpack();
            const float t = float(in.area[v]) / 255, round = std::lerp(1.0f, smooth(0, 1, t), soft);
            const float lump = 1
                               + 0.5f * lumps * waver(std::uint64_t(in.rule.seed), (p.x + 2.3f * p.z) / size)
                                     * waver(in.rule.seed + 5u, (p.y - 1.7f * p.z) / size);
            out.positions.push_back(own(p + n * std::max(thick * round * lump, 0.05f)));
            below.push_back(own(p - n * std::max(deep, 0.05f)));
        }
    const auto half = std::uint32_t(out.positions.size());
    out.positions.insert(out.positions.end(), below.begin(), below.end());
    std::vector<std::uint64_t> edges; // as faces run along them
    for (const mesh::Face &f : faces) {
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
