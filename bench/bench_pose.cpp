#include "bench/figure.h"

#include "base/parallel.h"
#include "base/random.h"
#include "pose/posed_skin.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

namespace bonemoss::bench {

namespace {

/// Bones inside a mesh: from places spread over it, as deep in as the flesh is thick there, each hung from the nearest before it.
pose::Skeleton bonesIn(const mesh::Surface &surface, int count)
{
    pose::Skeleton out;
    const Box3f box = surface.box();
    for (std::uint64_t k = 0; int(out.bones.size()) < count && k < 4000; ++k) {
        const auto v = std::size_t(randomUnit(3, k) * float(surface.positions.size() - 1));
        const Vec3f inward = -surface.normals[v].unpack(), at = surface.positions[v];
        const auto other = castRay(surface, {at + inward * (1e-4f * box.diagonal()), inward});
        if (!other || other->distance < 0.02f * box.diagonal())
            continue;
        const Vec3f middle = at + inward * (0.5f * other->distance);
        std::uint32_t nearest = kNone;
        for (std::uint32_t b = 0; b < out.bones.size(); ++b)
            if (nearest == kNone || length(out.bones[b].tail - middle) < length(out.bones[nearest].tail - middle))
                nearest = b;
        if (nearest != kNone && length(out.bones[nearest].tail - middle) < 0.05f * box.diagonal())
            continue; // too near to another
        pose::Bone bone;
        bone.key = {std::uint32_t(out.bones.size() + 1), 0, false}, bone.name = fmt::format("bone {}", out.bones.size());
        bone.parent = nearest, bone.tail = middle;
        bone.head = nearest == kNone ? middle - Vec3f{0, 0.02f * box.diagonal(), 0} : lerp(out.bones[nearest].tail, middle, 0.5f);
        bone.flesh = {{lerp(bone.head, bone.tail, 0.5f), bone.tail, 0.3f * other->distance}};
        out.bones.push_back(bone);
    }
    return out;
}

/// Weights of 40 bones over a large mesh, through 20,000 triangles, against the same heat solved on all of it.
Figure poseWeights()
{
    const mesh::PolyMesh mesh = largeMesh();
    const mesh::Surface surface = mesh::makeSurface(mesh);
    const pose::Skeleton skeleton = bonesIn(surface, 40);
    pose::Weights coarse, full;
    std::vector<double> times;
    for (int k = 0; k < 3; ++k)
        times.push_back(seconds([&] { coarse = pose::heatWeights(surface, skeleton); }));
    const double all = seconds([&] { full = pose::heatWeights(surface, skeleton, {.coarse = 0}); });
    std::vector<float> errors;
    for (std::size_t v = 0; v < mesh.positions.size(); v += 7) {
        int most = 0;
        for (const pose::Bone &b : skeleton.bones) {
            const auto of = [&](const pose::Weights &w) {
                const auto at = std::find_if(w.begin(), w.end(), [&](const auto &x) { return x.bone == b.key; });
                return at == w.end() ? 0 : int(at->values[v]);
            };
            most = std::max(most, std::abs(of(coarse) - of(full)));
        }
        errors.push_back(float(most) / 255);
    }
    std::sort(errors.begin(), errors.end());
    double mean = 0;
    for (const float e : errors)
        mean += double(e) / double(errors.size());
    const double own = median(times);
    return {"pose.weights",
            own * 1e3,
            "ms",
            "the same heat solved on all vertices, ms",
            all * 1e3,
            all / own,
            5,
            true,
            fmt::format(
                "{} bones, {} vertices; largest difference of a vertex's weights: mean {:.3f}, 99 % {:.3f}; the reference once",
                skeleton.bones.size(), mesh.positions.size(), mean, double(errors[errors.size() * 99 / 100]))};
}

/// A skin whose vertices four bones share.
pose::Weights shared(std::size_t n, std::size_t moving)
{
    pose::Weights out;
    for (std::uint32_t b = 0; b < 4; ++b) {
        mesh::BlockArray<std::uint8_t> values(n);
        for (std::size_t k = 0; k < moving; ++k)
            std::fill_n(values.edit(k), values.countIn(k), std::uint8_t(b == 3 ? 60 : 65));
        out.push_back({{b + 2, 0, false}, std::move(values)});
    }
    out.push_back({{1, 0, false}, mesh::BlockArray<std::uint8_t>(n)});
    for (std::size_t k = moving; k < out.back().values.blockCount(); ++k)
        std::fill_n(out.back().values.edit(k), out.back().values.countIn(k), std::uint8_t(255));
    return out;
}
pose::Skeleton fiveBones()
{
    pose::Skeleton s;
    for (std::uint32_t b = 0; b < 5; ++b) {
        pose::Bone bone;
        bone.key = {b + 1, 0, false}, bone.parent = b == 0 ? kNone : 0;
        bone.head = {float(b), 0, 0}, bone.tail = {float(b) + 1, 0, 0};
        s.bones.push_back(bone);
    }
    return s;
}
pose::Posture turnedBy(const pose::Skeleton &s, float angle)
{
    pose::Posture p;
    for (std::size_t b = 1; b < s.bones.size(); ++b)
        p.set(s.bones[b].key, rotationAbout(normalized(Vec3f{1, float(b), 0}), angle * float(b)));
    return p;
}

/// One move of bones that carry half of a million vertices, until positions and normals are there, against moving the same bytes.
Figure poseDrag()
{
    const ThreadLimit one(1);
    skin::Skin rest = skin::makeSkin(waves(1000, 300), true);
    const std::size_t n = rest.body.size(), blocks = rest.body.blockCount();
    setWeights(rest, shared(n, blocks / 2));
    const pose::Skeleton skeleton = fiveBones();
    float angle = 0;
    const std::size_t moved = blocks / 2 * mesh::kBlockSize;
    std::vector<float> a(moved * 10, 1), b(moved * 10, 2); // read: position, weights, faces; written: position, normal
    using pose::PosedSkin;
    std::unique_ptr<PosedSkin> last; // each after the one before, as in the window
    const Pair p = medians(
        9,
        [&] {
            last = std::make_unique<PosedSkin>(rest, skeleton, turnedBy(skeleton, angle += 0.01f), PosedSkin::Part::Seen,
                                               last.get());
        },
        [&] {
            for (std::size_t i = 0; i < a.size(); ++i)
                a[i] = b[i] + 0.5f * a[i];
        });
    return {"pose.drag",
            p.a * 1e3,
            "ms",
            "a triad over as many bytes, ms",
            p.b * 1e3,
            p.a / p.b,
            4,
            false,
            fmt::format("{} vertices, half of them moved by four bones, with normals, as the window poses them; one thread", n)};
}

/// A change of pose of four million vertices with ten layers, against reading and writing them.
Figure poseDetail()
{
    skin::Skin skin = skin::makeSkin(waves(2000, 300), true);
    for (std::uint32_t k = 0; k < 10; ++k) {
        skin::Layer layer(skin.body.size());
        layer.id = k + 1;
        for (std::size_t b = 0; b < layer.offsets.blockCount(); ++b)
            std::fill_n(layer.offsets.edit(b), layer.offsets.countIn(b), Vec3f{0, 0.01f, 0});
        skin.layers.push_back(std::move(layer));
    }
    skin::mixBlocks(skin, skin::blocksWith(skin.layers[0]));
    const pose::Weights weights = shared(skin.body.size(), skin.body.blockCount());
    const pose::Skeleton skeleton = fiveBones();
    float angle = 0;
    mesh::Surface out;
    const std::size_t bytes = skin.body.size() * (12 + 12 + 8 + 4);
    std::vector<std::uint8_t> a(bytes), b(bytes);
    const Pair p = medians(
        3, [&] { out = posed(skin.shown, pose::Blend(skeleton, turnedBy(skeleton, angle += 0.01f), weights)); },
        [&] { std::memcpy(a.data(), b.data(), bytes); });
    return {"pose.detail",
            p.a * 1e3,
            "ms",
            "copying as many bytes, ms",
            p.b * 1e3,
            p.b / p.a,
            0.3,
            true,
            fmt::format("{} vertices with ten layers, as they are shown: layers ride on the body, so that none is mixed anew",
                        skin.body.size())};
}

} // namespace

std::vector<Entry> poseFigures()
{
    return {{"pose.weights", poseWeights}, {"pose.drag", poseDrag}, {"pose.detail", poseDetail}};
}

} // namespace bonemoss::bench
