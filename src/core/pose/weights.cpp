#include "pose/weights.h"

#include "base/parallel.h"
#include "mesh/intrinsic.h"
#include "mesh/nearest_faces.h"

#include <Eigen/SparseCholesky>
#include <meshoptimizer.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace bonemoss::pose {

namespace {

using Triangle = std::array<std::uint32_t, 3>;
using Sparse = Eigen::SparseMatrix<double>;

struct Coarse {
    std::vector<Vec3f> points;
    std::vector<Triangle> triangles;
};

std::vector<Triangle> trianglesOf(const mesh::PolyMesh &mesh)
{
    std::vector<Triangle> out;
    out.reserve(mesh.faces.size() * 2);
    for (const mesh::Face &f : mesh.faces) {
        out.push_back({f.v[0], f.v[1], f.v[2]});
        if (f.v[3] != kNone)
            out.push_back({f.v[0], f.v[2], f.v[3]});
    }
    return out;
}

/// The surface with fewer triangles, whose vertices are some of its own.
Coarse simplified(const mesh::Surface &surface, std::size_t wanted)
{
    const mesh::PolyMesh mesh = toPolyMesh(surface);
    std::vector<Triangle> all = trianglesOf(mesh);
    Coarse out{mesh.positions, all};
    if (wanted > 0 && all.size() > wanted) {
        std::vector<unsigned> kept(all.size() * 3);
        const std::size_t n = meshopt_simplify(kept.data(), all[0].data(), all.size() * 3, &mesh.positions[0].x,
                                               mesh.positions.size(), sizeof(Vec3f), wanted * 3, 1e9f);
        out.triangles.clear();
        for (std::size_t i = 0; i + 2 < n; i += 3)
            out.triangles.push_back({kept[i], kept[i + 1], kept[i + 2]});
    }
    std::vector<std::uint32_t> number(out.points.size(), kNone); // without what no triangle uses
    std::vector<Vec3f> used;
    for (Triangle &t : out.triangles)
        for (std::uint32_t &v : t) {
            if (number[v] == kNone)
                number[v] = std::uint32_t(used.size()), used.push_back(out.points[v]);
            v = number[v];
        }
    out.points = std::move(used);
    return out;
}

mesh::Surface surfaceOf(const Coarse &coarse)
{
    mesh::PolyMesh mesh;
    mesh.positions = coarse.points;
    for (const Triangle &t : coarse.triangles)
        mesh.faces.push_back({{t[0], t[1], t[2], kNone}});
    return mesh::makeSurface(mesh);
}

/// Distance to a piece of flesh: from its surface on, no less than a share of its radius; and where on its line.
struct Near {
    float distance = 0;
    Vec3f at;
};
Near nearOf(const Flesh &f, Vec3f p)
{
    const Vec3f along = f.b - f.a;
    const float t = std::clamp(dot(p - f.a, along) / std::max(squaredLength(along), 1e-12f), 0.0f, 1.0f);
    const Vec3f at = f.a + along * t;
    return {std::max(length(p - at) - 0.75f * f.radius, 0.12f * f.radius), at};
}

/// Which bones warm a vertex, and how far they are.
struct Source {
    std::vector<std::uint32_t> bones;
    float distance = 1;
};
Source sourceOf(const Skeleton &skeleton, const mesh::Surface &skin, Vec3f p, Vec3f normal, float little)
{
    struct Found {
        std::uint32_t bone;
        Near near;
    };
    std::vector<Found> found;
    for (std::uint32_t b = 0; b < skeleton.bones.size(); ++b) {
        std::optional<Near> best;
        for (const Flesh &f : skeleton.bones[b].flesh)
            if (const Near n = nearOf(f, p); !best || n.distance < best->distance)
                best = n;
        if (best)
            found.push_back({b, *best});
    }
    std::stable_sort(found.begin(), found.end(),
                     [](const Found &a, const Found &b) { return a.near.distance < b.near.distance; });
    const Vec3f from = p - normal * little;
    const auto isSeen = [&](const Near &n) {
        const Vec3f way = n.at - from;
        const float far = length(way);
        if (far < little)
            return true;
        const auto hit = castRay(skin, {from, way * (1 / far)});
        return !hit || hit->distance >= far - little; // a bone may end on the skin
    };
    constexpr std::size_t kTried = 6;
    std::size_t first = 0;
    for (; first < std::min(found.size(), kTried); ++first)
        if (isSeen(found[first].near))
            break;
    if (first >= std::min(found.size(), kTried))
        first = 0; // none is seen: the nearest
    Source out;
    out.distance = found[first].near.distance;
    for (const Found &f : found) // as near as that, within rounding: bones in the middle plane, twins
        if (f.bone == found[first].bone || (std::abs(f.near.distance - out.distance) <= 1e-4f * out.distance && isSeen(f.near)))
            out.bones.push_back(f.bone);
    return out;
}

/// The Laplacian as a matrix, with the least weight that keeps it whole where an edge could not be turned.
Sparse heatMatrix(const Coarse &m, std::vector<double> &area)
{
    mesh::Laplacian laplacian = mesh::delaunayLaplacian(m.points, m.triangles);
    std::vector<Eigen::Triplet<double>> entries;
    for (const auto &[a, b, w] : laplacian.edges) {
        const double own = std::max(w, 1e-6);
        entries.emplace_back(a, b, -own), entries.emplace_back(b, a, -own);
        entries.emplace_back(a, a, own), entries.emplace_back(b, b, own);
    }
    area = std::move(laplacian.area);
    Sparse out(Eigen::Index(m.points.size()), Eigen::Index(m.points.size()));
    out.setFromTriplets(entries.begin(), entries.end());
    return out;
}

/// Shares of all bones at each coarse vertex, bone by bone.
std::vector<std::vector<float>> solved(const Coarse &m, const mesh::Surface &skin, const Skeleton &skeleton,
                                       const WeightSettings &settings, const Progress &progress)
{
    const std::size_t n = m.points.size(), bones = skeleton.bones.size();
    std::vector<Source> sources(n);
    const float little = 0.02f * std::max(meanEdgeLength(skin), 1e-6f);
    if (!forEachBlock(n, 64, progress.stop, [&](BlockRange r) {
            for (std::size_t v = r.begin; v < r.end; ++v)
                sources[v] = sourceOf(skeleton, skin, m.points[v], skin.normals[v].unpack(), little);
        }))
        return {};
    progress.say(0.3f, "warming the skin");
    std::vector<double> area;
    Sparse a = heatMatrix(m, area);
    std::vector<double> heat(n);
    for (std::size_t v = 0; v < n; ++v) {
        const double d = std::max(double(sources[v].distance), 1e-6);
        heat[v] = area[v] * double(settings.heat) / (d * d);
        a.coeffRef(Eigen::Index(v), Eigen::Index(v)) += std::max(heat[v], 1e-12);
    }
    Eigen::SimplicialLDLT<Sparse> solver(a);
    if (solver.info() != Eigen::Success)
        return {};
    progress.say(0.5f, "letting it spread");
    std::vector<std::vector<float>> out(bones);
    const bool isWhole = forEachBlock(bones, 1, progress.stop, [&](BlockRange r) {
        Eigen::VectorXd warm = Eigen::VectorXd::Zero(Eigen::Index(n));
        bool any = false;
        for (std::size_t v = 0; v < n; ++v)
            for (const std::uint32_t b : sources[v].bones)
                if (b == r.begin)
                    warm[Eigen::Index(v)] = std::max(heat[v], 1e-12) / double(sources[v].bones.size()), any = true;
        if (!any)
            return;
        const Eigen::VectorXd w = solver.solve(warm);
        out[r.begin].resize(n);
        for (std::size_t v = 0; v < n; ++v)
            out[r.begin][v] = float(std::clamp(w[Eigen::Index(v)], 0.0, 1.0));
    });
    return isWhole ? out : std::vector<std::vector<float>>{};
}

float shareAt(const std::vector<float> &shares, const mesh::NearestFace &f)
{
    if (shares.empty())
        return 0;
    return f.weights[0] * shares[f.corners[0]] + f.weights[1] * shares[f.corners[1]] + f.weights[2] * shares[f.corners[2]];
}

} // namespace

void roundWeights(std::span<const float> shares, std::span<std::uint8_t> bytes)
{
    std::fill(bytes.begin(), bytes.end(), std::uint8_t(0));
    std::array<std::size_t, kMostBones> largest;
    std::size_t n = 0;
    for (std::size_t k = 0; k < shares.size(); ++k) {
        if (!(shares[k] > 0))
            continue;
        std::size_t at = n;
        while (at > 0 && shares[largest[at - 1]] < shares[k])
            --at;
        if (at >= kMostBones)
            continue;
        n = std::min(n + 1, kMostBones);
        for (std::size_t i = n - 1; i > at; --i)
            largest[i] = largest[i - 1];
        largest[at] = k;
    }
    float sum = 0;
    for (std::size_t i = 0; i < n; ++i)
        sum += shares[largest[i]];
    if (!(sum > 0))
        return;
    std::array<float, kMostBones> rest{};
    int left = 255;
    for (std::size_t i = 0; i < n; ++i) {
        const float whole = 255 * shares[largest[i]] / sum;
        bytes[largest[i]] = std::uint8_t(whole);
        rest[i] = whole - std::floor(whole), left -= int(bytes[largest[i]]);
    }
    for (; left > 0; --left) {
        const auto most = std::size_t(std::max_element(rest.begin(), rest.begin() + std::ptrdiff_t(n)) - rest.begin());
        ++bytes[largest[most]], rest[most] = -1;
    }
}

Weights rigidWeights(std::size_t vertices, BoneKey bone)
{
    return {{bone, mesh::BlockArray<std::uint8_t>(std::vector<std::uint8_t>(vertices, 255))}};
}

Weights heatWeights(const mesh::Surface &surface, const Skeleton &skeleton, const WeightSettings &settings,
                    const Progress &progress)
{
    if (skeleton.bones.empty() || surface.isEmpty())
        return {};
    if (skeleton.bones.size() == 1)
        return rigidWeights(surface.positions.size(), skeleton.bones[0].key);
    progress.say(0, "simplifying");
    const Coarse coarse = simplified(surface, settings.coarse);
    const mesh::Surface skin = surfaceOf(coarse);
    const std::vector<std::vector<float>> shares = solved(coarse, skin, skeleton, settings, progress);
    if (shares.empty())
        return {};
    progress.say(0.8f, "carrying the weights");
    const std::vector<Vec3f> points = surface.positions.flatten();
    const float reach = 2 * meanEdgeLength(skin);
    const std::vector<mesh::NearestFace> near = mesh::nearestFaces(skin, points, reach);
    // Where the skin has a mirror image the mean of both is taken, so that the coarse mesh need not be symmetrical itself.
    std::vector<std::uint32_t> twin(skeleton.bones.size());
    for (std::uint32_t b = 0; b < twin.size(); ++b)
        twin[b] = skeleton.twinOf(b);
    const bool hasTwins = std::any_of(twin.begin(), twin.end(), [&](const std::uint32_t &t) { return t != &t - twin.data(); });
    std::vector<mesh::NearestFace> across;
    if (hasTwins) {
        across.resize(points.size());
        forEachBlock(surface.positions.blockCount(), 1, [&](BlockRange r) {
            std::vector<Vec3f> images;
            const std::size_t first = r.begin * mesh::kBlockSize;
            for (std::size_t i = 0; i < surface.positions.countIn(r.begin); ++i)
                images.push_back(mirrored(points[first + i]));
            const std::vector<mesh::NearestFace> found = mesh::nearestFacesWithin(skin, images, reach);
            std::copy(found.begin(), found.end(), across.begin() + std::ptrdiff_t(first));
        });
    }
    Weights out;
    for (const Bone &b : skeleton.bones)
        out.push_back({b.key, mesh::BlockArray<std::uint8_t>(points.size())});
    std::vector<std::vector<std::shared_ptr<mesh::Block<std::uint8_t>>>> made(out.size());
    for (auto &m : made)
        m.resize(surface.positions.blockCount());
    forEachBlock(surface.positions.blockCount(), 1, [&](BlockRange r) {
        const std::size_t count = surface.positions.countIn(r.begin), bones = out.size();
        std::vector<float> own(bones);
        std::vector<std::uint8_t> bytes(bones);
        for (std::size_t i = 0; i < count; ++i) {
            const mesh::NearestFace &f = near[r.begin * mesh::kBlockSize + i];
            const mesh::NearestFace *image = hasTwins ? &across[r.begin * mesh::kBlockSize + i] : nullptr;
            const bool hasImage = image && image->distance < std::max(0.5f * reach, 2 * f.distance);
            for (std::size_t b = 0; b < bones; ++b) {
                own[b] = shareAt(shares[b], f);
                if (hasImage)
                    own[b] = (own[b] + shareAt(shares[twin[b]], *image)) / 2;
            }
            roundWeights(own, bytes);
            for (std::size_t b = 0; b < bones; ++b) {
                if (bytes[b] == 0)
                    continue;
                auto &block = made[b][r.begin];
                if (!block) {
                    block = std::make_shared<mesh::Block<std::uint8_t>>();
                    block->values.resize(count);
                }
                block->values[i] = bytes[b];
            }
        }
    });
    for (std::size_t b = 0; b < out.size(); ++b)
        for (std::size_t k = 0; k < made[b].size(); ++k)
            if (made[b][k])
                out[b].values.put(k, std::move(made[b][k]));
    std::erase_if(out, [](const BoneBytes &b) { return b.values.isBlank(); });
    return out;
}

Weights weightsOf(const skin::Skin &skin)
{
    Weights out;
    for (const skin::KeptMask &m : skin.boneWeights)
        out.push_back({boneKeyOf(m.name), m.values});
    return out;
}

void setWeights(skin::Skin &skin, Weights weights)
{
    skin.boneWeights.clear();
    for (BoneBytes &b : weights)
        skin.boneWeights.push_back({textOf(b.bone), std::move(b.values)});
}

} // namespace bonemoss::pose
