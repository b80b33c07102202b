#include "document/ops/surroundings.h"

#include "armature/form.h"

namespace bonemoss::document {

namespace {

using armature::Form;
using armature::PathPoint;

constexpr float kStraight = 0.92f; ///< cosine of the bend that makes no joint

/// The path of a form in the creature, from its root on; empty when it has none.
std::vector<PathPoint> lineOf(const Form &form, const Transform &world)
{
    constexpr int kSteps = 4;
    std::vector<PathPoint> path = form.kind == armature::FormKind::Body ? bodyPath(form, 12)
                                  : hasPath(form.kind) && form.kind != armature::FormKind::Turned
                                      ? (form.path.size() > 2 ? smoothPath(form.path, kSteps) : form.path)
                                      : std::vector<PathPoint>{};
    const float scale = (world.scale.x + world.scale.y + world.scale.z) / 3;
    for (PathPoint &p : path)
        p.at = world.apply(p.at), p.radius *= scale;
    return path;
}

class Reader
{
public:
    explicit Reader(const armature::Armature &armature) : m_armature(armature) {}

    void read(growth::Surroundings &out)
    {
        for (const Form &f : m_armature.forms) {
            if (f.role != armature::FormRole::Add || !hasShape(f.kind))
                continue;
            for (const Transform &world : placesOf(m_armature, f)) {
                std::vector<PathPoint> line = lineOf(f, world);
                if (line.size() < 2)
                    continue;
                direct(f, line);
                add(f, line, out);
                if (f.isMirrored) {
                    for (PathPoint &p : line)
                        p.at = mirrored(p.at);
                    add(f, line, out);
                }
            }
        }
    }

private:
    /// Turns a line so that it leads away from the body: from the parent on, and along the middle towards the tail.
    void direct(const Form &f, std::vector<PathPoint> &line) const
    {
        const Vec3f way = line.back().at - line.front().at, middle = (line.back().at + line.front().at) * 0.5f;
        bool isTurned = dot(way, {0, -0.4f, -1}) < 0;
        const Form *parent = m_armature.find(f.parent);
        if (parent && std::abs(middle.x) > 0.5f * line.front().radius) {
            const Vec3f from = m_armature.worldPlace(*parent).translation;
            float front = std::numeric_limits<float>::max(), back = front;
            const std::vector<PathPoint> its = lineOf(*parent, m_armature.worldPlace(*parent));
            for (const PathPoint &p : its)
                front = std::min(front, length(p.at - line.front().at)), back = std::min(back, length(p.at - line.back().at));
            if (its.empty())
                front = length(from - line.front().at), back = length(from - line.back().at);
            isTurned = back < front;
        }
        if (isTurned)
            std::reverse(line.begin(), line.end());
    }

    void add(const Form &f, const std::vector<PathPoint> &line, growth::Surroundings &out) const
    {
        for (std::size_t k = 0; k + 1 < line.size(); ++k)
            out.limbs.push_back({line[k].at, line[k + 1].at, line[k].radius, line[k + 1].radius});
        const auto joint = [&](Vec3f at, Vec3f in, Vec3f on, float radius) {
            if (dot(in, on) < kStraight)
                out.joints.push_back({at, normalized(in + on), normalized(on - in), radius});
        };
        if (f.kind == armature::FormKind::Body)
            return;
        // Bends of the line itself, over two steps to either side; of those that crowd, the sharpest.
        const auto in = [&](std::size_t k) { return normalized(line[k].at - line[k - std::min<std::size_t>(k, 2)].at); };
        const auto on = [&](std::size_t k) { return normalized(line[std::min(k + 2, line.size() - 1)].at - line[k].at); };
        for (std::size_t k = 1; k + 1 < line.size(); ++k) {
            bool isSharpest = true;
            for (std::size_t j = 1; j + 1 < line.size(); ++j)
                isSharpest =
                    isSharpest
                    && (length(line[j].at - line[k].at) > 1.6f * line[k].radius || dot(in(j), on(j)) >= dot(in(k), on(k)));
            if (isSharpest)
                joint(line[k].at, in(k), on(k), line[k].radius);
        }
        const Form *parent = m_armature.find(f.parent);
        if (!parent)
            return;
        // Where it leaves its parent: against the parent's own line there.
        const std::vector<PathPoint> its = lineOf(*parent, m_armature.worldPlace(*parent));
        const Vec3f away = normalized(line[1].at - line[0].at);
        float least = std::numeric_limits<float>::max();
        Vec3f along;
        for (std::size_t k = 0; k + 1 < its.size(); ++k)
            for (const bool isTwin : {false, true}) {
                const auto place = [&](Vec3f p) { return isTwin && parent->isMirrored ? mirrored(p) : p; };
                const Vec3f a = place(its[k].at), b = place(its[k + 1].at);
                if (const float d = length((a + b) * 0.5f - line[0].at); d < least)
                    least = d, along = normalized(b - a);
            }
        if (least < std::numeric_limits<float>::max())
            joint(line[0].at, dot(along, away) < 0 ? -along : along, away, line[0].radius);
    }

    const armature::Armature &m_armature;
};

} // namespace

growth::Surroundings surroundingsOf(const Creature &creature, const Piece &piece)
{
    growth::Surroundings out;
    Reader(creature.armature).read(out);
    out.guides = piece.guides;
    if (piece.symmetry.hasPlane) {
        out.plane = piece.symmetry.point, out.planeNormal = normalized(piece.symmetry.normal);
        for (const growth::Guide &g : piece.guides) {
            growth::Guide twin = g;
            for (Vec3f &p : twin.points)
                p = p - *out.planeNormal * (2 * dot(p - *out.plane, *out.planeNormal));
            out.guides.push_back(std::move(twin));
        }
    }
    return out;
}

} // namespace bonemoss::document
