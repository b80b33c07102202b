#include "document/ops/bending.h"

#include "base/parallel.h"
#include "mesh/nearest_faces.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::document {

using outgrowth::Made;
using outgrowth::Member;
using pose::Blend;

std::vector<std::uint32_t> verticesNear(const mesh::Surface &surface, const std::vector<Vec3f> &places)
{
    std::vector<std::uint32_t> out;
    for (const mesh::NearestFace &f : mesh::nearestFaces(surface, places, 4 * meanEdgeLength(surface)))
        out.push_back(f.corners[std::size_t(std::max_element(f.weights.begin(), f.weights.end()) - f.weights.begin())]);
    return out;
}

namespace {

/// By inverse distance (D. Shepard 1968, power 3) to the nearest of what is held.
void holdByAll(std::vector<Hold> &holds, const std::vector<Vec3f> &places, const mesh::Surface &skin)
{
    std::vector<std::size_t> held;
    float least = std::numeric_limits<float>::max();
    std::vector<float> off(places.size());
    for (std::size_t i = 0; i < places.size(); ++i)
        off[i] = length(places[i] - skin.positions[holds[i].vertex[0]]), least = std::min(least, off[i]);
    const float near = std::max(2 * least, 3 * meanEdgeLength(skin));
    for (std::size_t i = 0; i < places.size(); ++i)
        if (off[i] <= near)
            held.push_back(i);
    if (held.size() < 2)
        return;
    const std::vector<Hold> own = holds;
    forEachBlock(places.size(), 64, [&](BlockRange r) {
        std::vector<std::pair<float, std::size_t>> found;
        for (std::size_t i = r.begin; i < r.end; ++i) {
            found.clear();
            for (const std::size_t h : held)
                found.emplace_back(length(places[h] - places[i]), h);
            std::sort(found.begin(), found.end());
            // The nearest, and the nearest of each other side: a rib's own vertices would crowd out the rib across.
            Hold hold;
            hold.count = 0, hold.far = found[0].first;
            float sum = 0;
            for (const auto &[d, h] : found) {
                bool isBesideOne = false;
                for (std::size_t k = 0; k < hold.count && !isBesideOne; ++k)
                    isBesideOne = length(skin.positions[own[h].vertex[0]] - skin.positions[hold.vertex[k]]) < 0.7f * d;
                if (isBesideOne)
                    continue;
                const float w = 1 / std::pow(std::max(d, 1e-3f), 3.0f);
                hold.vertex[hold.count] = own[h].vertex[0], hold.weight[hold.count] = w, sum += w;
                if (++hold.count == Hold::kMost)
                    break;
            }
            for (std::size_t k = 0; k < hold.count; ++k)
                hold.weight[k] /= sum;
            holds[i] = hold;
        }
    });
}

/// How long edges at each vertex are against rest: the mean of those that shrink, 1 for none.
std::vector<float> shrinking(const mesh::PolyMesh &rest, const std::vector<Vec3f> &now)
{
    std::vector<float> was(now.size(), 0), is(now.size(), 0);
    for (const mesh::Face &f : rest.faces)
        for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c) {
            const std::uint32_t a = f.v[c], b = f.v[(c + 1) % n];
            const float before = length(rest.positions[a] - rest.positions[b]), after = length(now[a] - now[b]);
            if (after < before)
                for (const std::uint32_t v : {a, b})
                    was[v] += before, is[v] += after;
        }
    for (std::size_t v = 0; v < now.size(); ++v)
        is[v] = was[v] > 0 ? std::clamp(is[v] / was[v], 0.2f, 1.0f) : 1.0f;
    return is;
}

/// Lifts folds of waves that run along the ribs: a wave of length l that is squeezed to s l keeps its length at a height of
/// s l / pi * sqrt(1 / s - 1) (arc length of a low sine: l (1 + (pi h / l)^2), worked out here).
void fold(mesh::PolyMesh &shape, const mesh::PolyMesh &rest, const std::vector<Hold> &holds)
{
    float farthest = 0;
    for (const Hold &h : holds)
        farthest = std::max(farthest, h.far);
    if (farthest <= 0)
        return;
    const std::vector<float> squeezed = shrinking(rest, shape.positions);
    std::vector<Vec3f> normals(shape.positions.size());
    for (const mesh::Face &f : shape.faces) {
        const Vec3f n =
            cross(shape.positions[f.v[1]] - shape.positions[f.v[0]], shape.positions[f.v[2]] - shape.positions[f.v[0]]);
        for (int k = 0; k < f.size(); ++k)
            normals[f.v[std::size_t(k)]] += n;
    }
    // Both sides of a sheet move the same way: by the side that faces one half of space.
    Vec3f facing;
    for (const Vec3f &n : normals)
        facing += dot(n, Vec3f{0.31f, 0.87f, 0.38f}) >= 0 ? n : -n;
    const float wave = 2 * farthest / 2.5f;
    for (std::size_t v = 0; v < shape.positions.size(); ++v) {
        const float s = squeezed[v];
        if (s > 0.995f || squaredLength(normals[v]) <= 0)
            continue;
        const Vec3f n = normalized(dot(normals[v], facing) >= 0 ? normals[v] : -normals[v]);
        const float height = s * wave / kPi * std::sqrt(1 / s - 1), ease = std::min(1.0f, 4 * holds[v].far / farthest);
        shape.positions[v] += n * (height * ease * std::sin(2 * kPi * holds[v].far / wave));
    }
}

} // namespace

std::vector<std::vector<Hold>> holdsOf(const outgrowth::Outgrowth &rule, const mesh::Surface &skin)
{
    std::vector<std::vector<Hold>> out;
    for (const Member &m : rule.made->members) {
        std::vector<Vec3f> places = rule.made->shapes[m.shape]->positions;
        for (Vec3f &p : places)
            p = m.place.apply(p);
        std::vector<Hold> holds;
        for (const std::uint32_t v : verticesNear(skin, places))
            holds.emplace_back().vertex[0] = v;
        if (rule.kind->is(outgrowth::Stretches))
            holdByAll(holds, places, skin);
        out.push_back(std::move(holds));
    }
    return out;
}

void bend(Made &made, const std::vector<std::vector<Hold>> &holds, bool isStretched, const Blend &blend)
{
    std::vector<std::shared_ptr<const mesh::PolyMesh>> shapes;
    for (std::size_t k = 0; k < made.members.size(); ++k) {
        const Member &m = made.members[k];
        auto shape = std::make_shared<mesh::PolyMesh>(*made.shapes[m.shape]);
        for (Vec3f &p : shape->positions)
            p = m.place.apply(p);
        const mesh::PolyMesh rest = isStretched ? *shape : mesh::PolyMesh();
        forEachBlock(shape->positions.size(), 256, [&](BlockRange r) {
            for (std::size_t i = r.begin; i < r.end; ++i) {
                const Hold &h = holds[k][i];
                const Vec3f p = shape->positions[i];
                Vec3f sum;
                for (std::size_t j = 0; j < h.count; ++j)
                    sum += blend.at(h.vertex[j]).apply(p) * h.weight[j];
                shape->positions[i] = sum;
            }
        });
        if (isStretched)
            fold(*shape, rest, holds[k]);
        if (m.place.isMirroring())
            for (mesh::Face &f : shape->faces)
                f = io::flipped(f);
        shapes.push_back(std::move(shape));
    }
    const auto spread = [&](auto &list) { // what goes with each shape, for each member
        std::remove_cvref_t<decltype(list)> each;
        for (const Member &m : made.members)
            each.push_back(list[m.shape]);
        list = std::move(each);
    };
    spread(made.curves), spread(made.attributes), spread(made.along), spread(made.materials), spread(made.variations);
    made.shapes = std::move(shapes);
    for (std::size_t k = 0; k < made.members.size(); ++k)
        made.members[k].shape = k, made.members[k].place = {};
}

} // namespace bonemoss::document
