#include "skin/skin_maps.h"

#include "base/parallel.h"
#include "skin/colour_layers.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>
#include <optional>
#include <numbers>

namespace bonemoss::skin {

namespace {

using mesh::kBlockSize;

/// Calls use(own local vertex, other local vertex) for each edge at the own vertices of a block, inner edges from both sides.
template <typename Use> void eachEdge(const mesh::BlockFaces &faces, const Use &use)
{
    for (const mesh::LocalFace &f : faces.faces)
        for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c) {
            const std::uint16_t a = f.v[c], d = f.v[c + 1 < n ? c + 1 : 0];
            if (a < faces.own)
                use(a, d);
            if (d < faces.own)
                use(d, a);
        }
}

/// Means of the neighbours of each vertex; the vertex's own value where it has none.
template <typename T> std::vector<T> means(const mesh::Topology &topology, const std::vector<T> &values)
{
    std::vector<T> out(values.size());
    forEachBlock(topology.blockCount(), 1, [&](BlockRange r) {
        const mesh::BlockFaces &faces = topology.block(r.begin);
        const std::size_t first = r.begin * kBlockSize;
        std::vector<float> count(faces.own, 0);
        T *sum = out.data() + first;
        eachEdge(faces, [&](std::uint16_t a, std::uint16_t d) {
            sum[a] = sum[a] + values[d < faces.own ? first + d : faces.borrowed[d - faces.own]];
            count[a] += 1;
        });
        for (std::size_t i = 0; i < faces.own; ++i)
            sum[i] = count[i] > 0 ? sum[i] * (1 / count[i]) : values[first + i];
    });
    return out;
}

/// Of the skin made even over the width, so that only forms of about that width count. The mean of a vertex's neighbours lies
/// H * d^2 / 2 along the normal, d their distance. M. Meyer et al., "Discrete Differential-Geometry Operators for Triangulated
/// 2-Manifolds", 2003, with even weights.
std::vector<float> hollows(const Skin &skin, float width)
{
    const mesh::Topology &topology = *skin.shown.topology;
    const float edge = std::max(meanEdgeLength(skin.shown), 1e-6f);
    const int passes = std::clamp(int(std::lround(width * width / (edge * edge) * 0.12f)), 0, 60);
    std::vector<Vec3f> p = skin.shown.positions.flatten();
    for (int k = 0; k < passes; ++k) {
        const std::vector<Vec3f> mean = means(topology, p);
        forEachBlock(p.size(), 16384, [&](BlockRange r) {
            for (std::size_t i = r.begin; i < r.end; ++i)
                p[i] = (p[i] + mean[i]) * 0.5f;
        });
    }
    const std::vector<Vec3f> mean = means(topology, p);
    std::vector<float> out(p.size());
    forEachBlock(topology.blockCount(), 1, [&](BlockRange r) {
        const mesh::BlockFaces &faces = topology.block(r.begin);
        const std::size_t first = r.begin * kBlockSize;
        std::vector<float> square(faces.own, 0), count(faces.own, 0);
        eachEdge(faces, [&](std::uint16_t a, std::uint16_t d) {
            square[a] += squaredLength(p[d < faces.own ? first + d : faces.borrowed[d - faces.own]] - p[first + a]);
            count[a] += 1;
        });
        const mesh::PackedNormal *n = skin.shown.normals.data(r.begin);
        for (std::size_t i = 0; i < faces.own; ++i)
            if (square[i] > 0)
                out[first + i] = dot(mean[first + i] - p[first + i], n[i].unpack()) * 2 * count[i] / square[i] * width;
    });
    return out;
}

constexpr int kSides = 96;

/// Even directions over the sphere: a spiral by the golden section (common practice, no source).
Vec3f sideOf(int k)
{
    const float z = 1 - (2 * float(k) + 1) / kSides, r = std::sqrt(1 - z * z);
    const float turn = float(k) * 2.399963f;
    return {r * std::cos(turn), z, r * std::sin(turn)};
}

/// Share of the light from all sides, weighed by how squarely it falls, that other skin keeps away: skin is looked at from
/// every side, and each vertex asks in each picture whether it is seen. Sums of whole numbers, so the order does not matter.
std::vector<float> covered(const Skin &skin, const MapSettings &settings, const Progress &progress)
{
    const mesh::Surface &s = skin.shown;
    Box3f box = s.box();
    for (const mesh::Surface *o : settings.others)
        box.add(o->box());
    const float half = box.diagonal() * 0.505f;
    const int side = int(std::clamp(half / std::max(meanEdgeLength(s), 1e-6f), 64.0f, 1024.0f));
    std::vector<std::atomic<std::uint32_t>> lit(skin.body.size()), all(skin.body.size());
    int done = 0;
    std::mutex telling;
    const bool whole = forEachBlock(kSides, 1, progress.stop, [&](BlockRange r) {
        const Vec3f from = sideOf(int(r.begin));
        mesh::Sight sight;
        sight.forward = -from;
        sight.right = normalized(cross(std::abs(from.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, from));
        sight.up = cross(from, sight.right);
        sight.eye = box.centre() + from * half;
        sight.halfWidth = sight.halfHeight = half;
        mesh::DepthPicture picture(sight, side);
        picture.add(s);
        for (const mesh::Surface *o : settings.others)
            picture.add(*o);
        for (std::size_t b = 0; b < s.positions.blockCount(); ++b) {
            const Vec3f *p = s.positions.data(b);
            const mesh::PackedNormal *normals = s.normals.data(b);
            for (std::size_t i = 0; i < s.positions.countIn(b); ++i) {
                const Vec3f n = normals[i].unpack();
                const float square = dot(n, from);
                if (square <= 0)
                    continue;
                const auto share = std::uint32_t(square * 4096);
                all[b * kBlockSize + i].fetch_add(share, std::memory_order_relaxed);
                if (picture.sees(p[i], n))
                    lit[b * kBlockSize + i].fetch_add(share, std::memory_order_relaxed);
            }
        }
        const std::scoped_lock lock(telling);
        progress.say(float(++done) / kSides, "looking from all sides");
    });
    std::vector<float> out(whole ? lit.size() : 0);
    for (std::size_t v = 0; v < out.size(); ++v)
        out[v] = all[v] > 0 ? 1 - float(lit[v]) / float(all[v]) : 0;
    return out;
}

/// Of the face that a ray met; not of unit length.
Vec3f faceNormal(const mesh::Surface &s, const mesh::Hit &hit)
{
    const mesh::Face f = s.topology->faceOf(hit.block, hit.face);
    const auto at = [&](int k) { return s.positions[f.v[std::size_t(k)]]; };
    return f.size() == 4 ? cross(at(2) - at(0), at(3) - at(1)) : cross(at(1) - at(0), at(2) - at(0));
}

/// In how many bodies a place lies: a ray from it leaves each of them once more than it enters it.
float bodiesAbout(const mesh::Surface &surface, mesh::Ray ray, float little)
{
    int leaves = 0;
    for (int most = 0; most < 256; ++most) {
        const auto hit = castRay(surface, ray);
        if (!hit)
            break;
        leaves += dot(faceNormal(surface, *hit), ray.direction) > 0 ? 1 : -1;
        ray.origin = ray.origin + ray.direction * (hit->distance + little);
    }
    return float(std::max(leaves, 0));
}

} // namespace

void mapBlock(const Skin &skin, SkinMap map, const MapSettings &settings, std::size_t b, std::span<float> out)
{
    const std::size_t n = skin.body.countIn(b);
    const auto take = [&](const Bytes *values, float scale) {
        const std::uint8_t *v = values && values->size() ? values->data(b) : nullptr;
        for (std::size_t i = 0; i < n; ++i)
            out[i] = v ? float(v[i]) * scale : 0;
    };
    if (map == SkinMap::Work) {
        take(&skin.paint.of(Channel::Work), 1);
    } else if (map >= SkinMap::Gloss && map <= SkinMap::Grain) {
        take(&skin.paint.of(Channel(int(Channel::Gloss) + int(map) - int(SkinMap::Gloss))), 1.0f / 255);
    } else if (map == SkinMap::BoneWeight) {
        take(settings.layer < skin.boneWeights.size() ? &skin.boneWeights[settings.layer].values : nullptr, 1.0f / 255);
    } else if (map == SkinMap::ColourMask) {
        take(layerValues(skin, settings.layer, LayerChannel::Mask), 1.0f / 255);
    } else if (map == SkinMap::Layer) {
        const Layer *layer = skin.layer(settings.layer);
        const Vec3f *offset = layer ? layer->offsets.data(b) : nullptr;
        for (std::size_t i = 0; i < n; ++i)
            out[i] = offset ? length(offset[i]) * std::abs(layer->shownStrength()) : 0;
    } else if (map == SkinMap::Stretch) {
        const mesh::BlockFaces &faces = skin.shown.topology->block(b);
        const Vec3f *own = skin.shown.positions.data(b);
        std::vector<float> least(n, std::numeric_limits<float>::max()), most(n, 0);
        eachEdge(faces, [&](std::uint16_t a, std::uint16_t d) {
            const Vec3f to = d < faces.own ? own[d] : skin.shown.positions[faces.borrowed[d - faces.own]];
            const float square = squaredLength(to - own[a]);
            least[a] = std::min(least[a], square), most[a] = std::max(most[a], square);
        });
        for (std::size_t i = 0; i < n; ++i)
            out[i] = most[i] > 0 ? std::sqrt(most[i] / std::max(least[i], 1e-12f)) : 1;
    }
}

std::vector<float> mapOf(const Skin &skin, SkinMap map, const MapSettings &settings, const Progress &progress)
{
    if (map == SkinMap::MeanCurvature)
        return hollows(skin, settings.width);
    if (map == SkinMap::AmbientOcclusion)
        return covered(skin, settings, progress);
    std::vector<float> out(skin.body.size());
    const mesh::Surface &s = skin.shown;
    std::optional<mesh::DepthPicture> picture;
    if (map == SkinMap::Seen)
        picture.emplace(settings.sight, 2048).add(s);
    if (map == SkinMap::Seen)
        for (const mesh::Surface *o : settings.others)
            picture->add(*o);
    const float little = 0.02f * std::max(meanEdgeLength(s), 1e-6f); // inside, clear of the faces about the vertex
    const bool whole = forEachBlock(s.positions.blockCount(), 1, progress.stop, [&](BlockRange r) {
        const std::size_t b = r.begin, n = s.positions.countIn(b);
        float *to = out.data() + b * kBlockSize;
        const Vec3f *p = s.positions.data(b);
        const mesh::PackedNormal *normals = s.normals.data(b);
        switch (map) {
        case SkinMap::Slope:
            for (std::size_t i = 0; i < n; ++i)
                to[i] = std::acos(std::clamp(normals[i].unpack().y, -1.0f, 1.0f)) * 180 / std::numbers::pi_v<float>;
            break;
        case SkinMap::Thickness:
            for (std::size_t i = 0; i < n; ++i) {
                const Vec3f in = -normals[i].unpack();
                const auto hit = castRay(s, {p[i] + in * little, in});
                to[i] = hit ? hit->distance : std::numeric_limits<float>::max();
            }
            break;
        case SkinMap::Mirror:
            for (std::size_t i = 0; i < n; ++i) {
                const Vec3f twin = p[i] - settings.normal * (2 * dot(p[i] - settings.point, settings.normal));
                const auto hit = nearestPoint(s, twin);
                to[i] = hit ? hit->distance : 0;
            }
            break;
        case SkinMap::Overlap:
            for (std::size_t i = 0; i < n; ++i) {
                const Vec3f outward = normals[i].unpack();
                const mesh::Ray ray{p[i] + outward * little, outward};
                to[i] = bodiesAbout(s, ray, little);
                for (const mesh::Surface *o : settings.others)
                    to[i] += bodiesAbout(*o, ray, little);
            }
            break;
        case SkinMap::Seen:
            for (std::size_t i = 0; i < n; ++i)
                to[i] = picture->sees(p[i], normals[i].unpack()) ? 1 : 0;
            break;
        case SkinMap::Colour:
            if (skin.paint.isSeen())
                for (std::size_t i = 0; i < n; ++i) {
                    const auto at = [&](Channel c) { return float(skin.paint.of(c)[b * kBlockSize + i]) / 255; };
                    to[i] =
                        0.2126f * at(Channel::Red) + 0.7152f * at(Channel::Green) + 0.0722f * at(Channel::Blue); // ITU-R BT.709
                }
            break;
        default: mapBlock(skin, map, settings, b, {to, n});
        }
    });
    return whole ? out : std::vector<float>{};
}

void growMask(Skin &skin, int rings)
{
    for (int ring = 0; ring < std::abs(rings); ++ring) {
        const mesh::BlockArray<std::uint8_t> before = skin.mask;
        const mesh::Topology &topology = *skin.shown.topology;
        for (std::size_t b = 0; b < before.blockCount(); ++b)
            skin.mask.edit(b); // so that the loop below only writes
        forEachBlock(before.blockCount(), 1, [&](BlockRange r) {
            const mesh::BlockFaces &faces = topology.block(r.begin);
            std::uint8_t *out = skin.mask.edit(r.begin);
            eachEdge(faces, [&](std::uint16_t a, std::uint16_t d) {
                const std::uint8_t other = before[topology.vertexOf(r.begin, d)];
                out[a] = rings > 0 ? std::max(out[a], other) : std::min(out[a], other);
            });
        });
    }
    dropBlank(skin.mask);
}

void sharpenMask(Skin &skin, float amount)
{
    const float steep = amount >= 1 ? 255 : 1 / (1 - std::max(amount, 0.0f));
    for (std::size_t b = 0; b < skin.mask.blockCount(); ++b) {
        if (!skin.mask.has(b))
            continue;
        std::uint8_t *m = skin.mask.edit(b);
        for (std::size_t i = 0; i < skin.mask.countIn(b); ++i)
            m[i] = std::uint8_t(std::clamp(std::lround((float(m[i]) - 127.5f) * steep + 127.5f), 0l, 255l));
    }
    dropBlank(skin.mask);
}

} // namespace bonemoss::skin
