#include "pose/blend.h"

#include "base/parallel.h"
#include "base/wide.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace bonemoss::pose {

namespace {

constexpr std::size_t kRun = 256; ///< vertices worked on at a time
using Row = std::array<float, kRun>;

/// Weights of a run as shares of one.
BONEMOSS_WIDE void sharesOf(const std::uint8_t *weights, std::size_t n, Row &out)
{
    for (std::size_t i = 0; i < n; ++i)
        out[i] = float(weights[i]) * (1.0f / 255);
}
/// A share of one dual quaternion, added to those of a run.
BONEMOSS_WIDE void addShare(const Row &share, const std::array<float, 8> &dual, std::size_t n, std::array<Row, 8> &sums)
{
    for (std::size_t k = 0; k < 8; ++k) {
        float *to = sums[k].data();
        const float by = dual[k];
        for (std::size_t i = 0; i < n; ++i)
            to[i] += share[i] * by;
    }
}
/// The same of one that goes from a to a + ab, by how far it has gone there.
BONEMOSS_WIDE void addShare(const Row &share, const Row &gone, const std::array<float, 8> &a, const std::array<float, 8> &ab,
                            std::size_t n, std::array<Row, 8> &sums)
{
    for (std::size_t k = 0; k < 8; ++k) {
        float *to = sums[k].data();
        const float by = a[k], more = ab[k];
        for (std::size_t i = 0; i < n; ++i)
            to[i] += share[i] * by + gone[i] * more;
    }
}

/// Places of a run, coordinate by coordinate.
struct RunPoints {
    Row x, y, z;
};

/// Brings the places of a run where dual quaternions that are not of unit length yet bring them.
BONEMOSS_WIDE void applyTo(const std::array<Row, 8> &q, std::size_t n, RunPoints &p)
{
    for (std::size_t i = 0; i < n; ++i) {
        const float by = 1 / std::max(q[0][i] * q[0][i] + q[1][i] * q[1][i] + q[2][i] * q[2][i] + q[3][i] * q[3][i], 1e-20f);
        const float x = q[0][i], y = q[1][i], z = q[2][i], w = q[3][i], dx = q[4][i], dy = q[5][i], dz = q[6][i], dw = q[7][i];
        const float px = p.x[i], py = p.y[i], pz = p.z[i];
        const float cx = y * pz - z * py + w * px, cy = z * px - x * pz + w * py, cz = x * py - y * px + w * pz;
        const float tx = w * dx - dw * x + y * dz - z * dy, ty = w * dy - dw * y + z * dx - x * dz,
                    tz = w * dz - dw * z + x * dy - y * dx;
        p.x[i] = px + 2 * by * (y * cz - z * cy + tx);
        p.y[i] = py + 2 * by * (z * cx - x * cz + ty);
        p.z[i] = pz + 2 * by * (x * cy - y * cx + tz);
    }
}

} // namespace

Blend::Dual Blend::dualOf(const Rigid &place)
{
    const Quat r = place.turn;
    const Quat d = Quat{place.move.x, place.move.y, place.move.z, 0} * r;
    return {{r.x, r.y, r.z, r.w, 0.5f * d.x, 0.5f * d.y, 0.5f * d.z, 0.5f * d.w}};
}

Rigid Blend::rigidOf(const Dual &dual)
{
    const auto &v = dual.v;
    const float size = std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2] + v[3] * v[3]), by = 1 / std::max(size, 1e-12f);
    const Quat r{v[0] * by, v[1] * by, v[2] * by, v[3] * by}, d{v[4] * by, v[5] * by, v[6] * by, v[7] * by};
    const Quat t = d * r.conjugate();
    return {r, {2 * t.x, 2 * t.y, 2 * t.z}};
}

namespace {

/// The part of a rotation about an axis, which is of unit length: its twist in the swing and twist of it.
Quat twistAbout(Quat q, Vec3f axis)
{
    const float along = dot(Vec3f{q.x, q.y, q.z}, axis);
    const Vec3f v = axis * along;
    const float size = std::sqrt(along * along + q.w * q.w);
    return size < 1e-6f ? Quat() : Quat{v.x / size, v.y / size, v.z / size, q.w / size};
}

constexpr float kLeastTwist = 0.05f * kRadiansPerDegree; ///< that is spread

} // namespace

Blend::Blend(const Skeleton &skeleton, const Posture &posture, const Weights &weights, const mesh::BlockArray<Vec3f> *body)
    : m_whole(posture.whole), m_body(body)
{
    const std::vector<Rigid> places = placesOf(skeleton, posture);
    for (const BoneBytes &w : weights) {
        const std::uint32_t b = skeleton.find(w.bone);
        const Rigid place = b == kNone ? posture.whole : places[b];
        BoneMap map{.bone = w.bone, .dual = dualOf(place), .weights = &w.values, .isStill = place.isNone()};
        if (b != kNone && body && skeleton.bones[b].isLine && skeleton.bones[b].parent != kNone) {
            const Bone &bone = skeleton.bones[b];
            const Vec3f way = bone.tail - bone.head;
            const Vec3f axis = rotate(bone.frame.conjugate(), normalized(way));
            const Quat turn = posture.turnOf(w.bone), twist = twistAbout(turn, axis);
            if (squaredLength(Vec3f{twist.x, twist.y, twist.z}) > kLeastTwist * kLeastTwist / 4) {
                const Quat back = bone.frame * twist.conjugate() * bone.frame.conjugate();
                map.isTwisted = true, map.isStill = false;
                map.head = dualOf(place * Rigid{back, bone.head - rotate(back, bone.head)});
                map.from = bone.head, map.along = way * (1 / squaredLength(way));
            }
        }
        m_bones.push_back(map);
    }
}

bool Blend::isStill(std::size_t block) const
{
    return m_whole.isNone()
           && std::all_of(m_bones.begin(), m_bones.end(), [&](const BoneMap &b) { return b.isStill || !b.weights->has(block); });
}

bool Blend::isSame(const Blend &o, std::size_t block) const
{
    if (m_whole != o.m_whole || m_bones.size() != o.m_bones.size())
        return false;
    for (std::size_t k = 0; k < m_bones.size(); ++k) {
        const BoneMap &a = m_bones[k], &b = o.m_bones[k];
        if (a.bone != b.bone || !a.weights->sharesWith(*b.weights, block) || (a.weights->has(block) && !a.isSame(b)))
            return false;
    }
    return true;
}

namespace {

/// Shares times how far a bone's twist has come at each vertex of a run, 0 at its joint and whole at its end.
/// Returns whether it has begun at one of them, and whether it is not whole at one of them.
BONEMOSS_WIDE std::array<bool, 2> twistShares(const RunPoints &body, const Row &shares, Vec3f along, float start, std::size_t n,
                                              Row &out)
{
    unsigned begun = 0, open = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const float t = body.x[i] * along.x + body.y[i] * along.y + body.z[i] * along.z - start;
        begun |= unsigned(t > 0), open |= unsigned(t < 1);
        out[i] = shares[i] * std::min(std::max(t, 0.0f), 1.0f);
    }
    return {begun != 0, open != 0};
}

} // namespace

/// Calls use(first vertex, count, sums, whether each is moved by bones at all) for each run of a block.
template <typename Use> void Blend::eachRun(std::size_t block, std::size_t count, const Use &use) const
{
    std::vector<BoneMap> here; // on one side of the sphere of rotations
    const auto put = [&](Dual &dual) {
        float side = 0;
        for (std::size_t k = 0; k < 4; ++k)
            side += dual.v[k] * here.front().dual.v[k];
        for (float &x : dual.v)
            x = side < 0 ? -x : x;
    };
    for (const BoneMap &b : m_bones)
        if (b.weights->has(block)) {
            here.push_back(b);
            put(here.back().dual), put(here.back().head);
        }
    const Dual whole = dualOf(m_whole);
    std::array<std::array<float, kRun>, 8> sums;
    RunPoints body; // at rest, where a bone is twisted
    Row shares, twist;
    for (std::size_t first = 0; first < count; first += kRun) {
        const std::size_t n = std::min(kRun, count - first);
        for (auto &row : sums)
            row.fill(0);
        std::array<std::uint8_t, kRun> moved{};
        bool hasBody = false;
        for (const BoneMap &b : here) {
            const std::uint8_t *w = b.weights->data(block) + first;
            std::uint8_t any = 0;
            for (std::size_t i = 0; i < n; ++i)
                any |= w[i], moved[i] |= w[i];
            if (!any)
                continue;
            sharesOf(w, n, shares);
            if (!b.isTwisted) {
                addShare(shares, b.dual.v, n, sums);
                continue;
            }
            if (!hasBody)
                for (std::size_t i = 0; i < n; ++i) {
                    const Vec3f p = m_body->data(block)[first + i];
                    body.x[i] = p.x, body.y[i] = p.y, body.z[i] = p.z;
                }
            hasBody = true;
            const auto [hasBegun, isOpen] = twistShares(body, shares, b.along, dot(b.from, b.along), n, twist);
            if (!hasBegun || !isOpen) { // all beyond one end
                addShare(shares, hasBegun ? b.dual.v : b.head.v, n, sums);
                continue;
            }
            std::array<float, 8> turn; // from the joint's map to the end's
            for (std::size_t k = 0; k < 8; ++k)
                turn[k] = b.dual.v[k] - b.head.v[k];
            addShare(shares, twist, b.head.v, turn, n, sums);
        }
        for (std::size_t i = 0; i < n; ++i)
            if (!moved[i])
                for (std::size_t k = 0; k < 8; ++k)
                    sums[k][i] = whole.v[k];
        use(first, n, sums);
    }
}

/// Calls use(vertex of the block, map) for each.
template <typename Use> void Blend::each(std::size_t block, std::size_t count, const Use &use) const
{
    eachRun(block, count, [&](std::size_t first, std::size_t n, const auto &sums) {
        for (std::size_t i = 0; i < n; ++i) {
            Dual d;
            for (std::size_t k = 0; k < 8; ++k)
                d.v[k] = sums[k][i];
            use(first + i, rigidOf(d));
        }
    });
}

void Blend::apply(std::size_t block, std::span<Vec3f> points) const
{
    if (isStill(block))
        return;
    RunPoints run;
    eachRun(block, points.size(), [&](std::size_t first, std::size_t n, const auto &sums) {
        for (std::size_t i = 0; i < n; ++i)
            run.x[i] = points[first + i].x, run.y[i] = points[first + i].y, run.z[i] = points[first + i].z;
        applyTo(sums, n, run);
        for (std::size_t i = 0; i < n; ++i)
            points[first + i] = {run.x[i], run.y[i], run.z[i]};
    });
}
void Blend::turn(std::size_t block, std::span<Vec3f> directions) const
{
    if (!isStill(block))
        each(block, directions.size(), [&](std::size_t i, const Rigid &r) { directions[i] = rotate(r.turn, directions[i]); });
}
void Blend::undo(std::size_t block, std::span<Vec3f> points) const
{
    if (!isStill(block))
        each(block, points.size(), [&](std::size_t i, const Rigid &r) { points[i] = r.applyInverse(points[i]); });
}
void Blend::turnBack(std::size_t block, std::span<Vec3f> directions) const
{
    if (!isStill(block))
        each(block, directions.size(),
             [&](std::size_t i, const Rigid &r) { directions[i] = rotate(r.turn.conjugate(), directions[i]); });
}

Rigid Blend::at(std::size_t vertex) const
{
    Dual sum;
    sum.v.fill(0);
    const Dual *pivot = nullptr;
    float total = 0;
    for (const BoneMap &b : m_bones) {
        const float w = float((*b.weights)[vertex]) / 255;
        if (w <= 0)
            continue;
        if (!pivot)
            pivot = &b.dual;
        const auto add = [&](const Dual &dual, float share) {
            float side = 0;
            for (std::size_t k = 0; k < 4; ++k)
                side += dual.v[k] * pivot->v[k];
            for (std::size_t k = 0; k < 8; ++k)
                sum.v[k] += (side < 0 ? -share : share) * dual.v[k];
        };
        const float t = b.isTwisted ? std::clamp(dot((*m_body)[vertex] - b.from, b.along), 0.0f, 1.0f) : 1;
        if (t < 1)
            add(b.head, w * (1 - t));
        add(b.dual, w * t);
        total += w;
    }
    return total < 1e-3f ? m_whole : rigidOf(sum);
}

mesh::Surface posed(const mesh::Surface &rest, const Blend &blend)
{
    mesh::Surface out = rest;
    std::vector<std::uint32_t> moved;
    for (std::uint32_t b = 0; b < rest.positions.blockCount(); ++b)
        if (!blend.isStill(b))
            moved.push_back(b), out.positions.edit(b);
    forEachBlock(moved.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = moved[r.begin];
        blend.apply(b, {out.positions.edit(b), out.positions.countIn(b)});
    });
    std::vector<bool> isMoved(rest.positions.blockCount(), false);
    for (const std::uint32_t b : moved) {
        isMoved[b] = true;
        for (const std::uint32_t beside : rest.topology->block(b).blocksBeside())
            isMoved[beside] = true; // their borders borrow from it
    }
    std::vector<std::uint32_t> changed;
    for (std::uint32_t b = 0; b < isMoved.size(); ++b)
        if (isMoved[b])
            changed.push_back(b);
    updateBlocks(out, changed);
    return out;
}

} // namespace bonemoss::pose
