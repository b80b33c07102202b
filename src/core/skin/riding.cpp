#include "skin/riding.h"

#include "base/parallel.h"

namespace bonemoss::skin {

using Offsets = mesh::BlockArray<Vec3f>;

namespace {

void normalsAndTangents(const mesh::BlockFaces &faces, const std::vector<Vec3f> &p, std::vector<Vec3f> &normal,
                        std::vector<Vec3f> &tangent)
{
    normal.assign(p.size(), {});
    tangent.assign(p.size(), {});
    for (const mesh::LocalFace &f : faces.faces) {
        const std::size_t n = std::size_t(f.size());
        const Vec3f cross4 =
            n == 4 ? cross(p[f.v[2]] - p[f.v[0]], p[f.v[3]] - p[f.v[1]]) : cross(p[f.v[2]] - p[f.v[0]], p[f.v[2]] - p[f.v[1]]);
        for (std::size_t c = 0; c < n; ++c) {
            normal[f.v[c]] += cross4;
            if (tangent[f.v[c]] == Vec3f{})
                tangent[f.v[c]] = p[f.v[c + 1 < n ? c + 1 : 0]] - p[f.v[c]];
        }
    }
}

/// The turn that takes one frame to the other; none where a frame has no room.
Quat turnBetween(Vec3f n0, Vec3f t0, Vec3f n1, Vec3f t1)
{
    const auto isFlat = [](Vec3f v) { return squaredLength(v) < 1e-24f; };
    if (isFlat(n0) || isFlat(n1))
        return {};
    n0 = normalized(n0), n1 = normalized(n1);
    const Quat first = rotationFromTo(n0, n1);
    const Vec3f a = rotate(first, t0 - n0 * dot(n0, t0)), b = t1 - n1 * dot(n1, t1);
    if (isFlat(a) || isFlat(b))
        return first;
    return normalized(rotationAbout(n1, std::atan2(dot(cross(a, b), n1), dot(a, b))) * first);
}

} // namespace

Turns turnsBetween(const mesh::Topology &t, const Offsets &before, const Offsets &after)
{
    Turns turns(t.blockCount());
    forEachBlock(t.blockCount(), 1, [&](BlockRange r) {
        const std::size_t b = r.begin;
        const mesh::BlockFaces &faces = t.block(b);
        std::vector<Vec3f> p(faces.own + faces.borrowed.size()), q(p.size());
        for (std::size_t i = 0; i < p.size(); ++i) {
            const std::uint32_t v = t.vertexOf(b, std::uint16_t(i));
            p[i] = before[v], q[i] = after[v];
        }
        if (p == q)
            return;
        std::vector<Vec3f> n0, t0, n1, t1;
        normalsAndTangents(faces, p, n0, t0);
        normalsAndTangents(faces, q, n1, t1);
        turns[b].resize(faces.own);
        for (std::size_t i = 0; i < faces.own; ++i)
            if (!(n0[i] == n1[i] && t0[i] == t1[i]))
                turns[b][i] = turnBetween(n0[i], t0[i], n1[i], t1[i]);
    });
    return turns;
}

Offsets ridden(const Offsets &fine, const Offsets *before, const Offsets *after, const Turns &turns, std::vector<bool> &changed)
{
    Offsets out = fine;
    std::vector<std::uint8_t> isChanged(fine.blockCount(), 0);
    forEachBlock(fine.blockCount(), 1, [&](BlockRange r) {
        const std::size_t b = r.begin;
        const Vec3f *was = before ? before->data(b) : nullptr, *is = after ? after->data(b) : nullptr, *f = fine.data(b);
        if ((turns[b].empty() || !f) && !was && !is)
            return;
        auto block = std::make_shared<mesh::Block<Vec3f>>();
        block->values.resize(fine.countIn(b));
        bool isBlank = true;
        for (std::size_t i = 0; i < block->values.size(); ++i) {
            const Vec3f from = was ? was[i] : Vec3f{}, to = is ? is[i] : Vec3f{};
            const Quat turn = turns[b].empty() ? Quat{} : turns[b][i];
            const Vec3f over = (f ? f[i] : Vec3f{}) - from;
            block->values[i] = from == to && turn == Quat{} ? (f ? f[i] : Vec3f{}) : to + rotate(turn, over);
            isBlank = isBlank && block->values[i] == Vec3f{};
        }
        isChanged[b] = 1;
        out.put(b, isBlank ? nullptr : std::move(block));
    });
    for (std::size_t b = 0; b < changed.size(); ++b)
        changed[b] = changed[b] || isChanged[b];
    return out;
}

} // namespace bonemoss::skin
