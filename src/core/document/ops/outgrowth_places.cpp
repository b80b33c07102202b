// Where outgrowths stand: places and lines on a skin, tips of toes, edges of jaws, and what is painted over their areas.
#include "document/ops/outgrowths.h"

#include "armature/form.h"
#include "document/ops/surroundings.h"

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::document {

using outgrowth::Root;

namespace {

constexpr std::size_t kMostRoots = 2000;

/// The two corners' mean of normals along a line, several times over, so that members do not rock on fine detail.
void evenNormals(std::vector<Root> &roots)
{
    for (int pass = 0; pass < 6; ++pass) {
        std::vector<Root> was = roots;
        for (std::size_t i = 0; i < roots.size(); ++i) {
            const Vec3f sum = was[i > 0 ? i - 1 : 0].normal + was[i].normal + was[std::min(i + 1, was.size() - 1)].normal;
            if (squaredLength(sum) > 1e-6f)
                roots[i].normal = normalized(sum);
        }
    }
}

} // namespace

Result<Root> rootNear(const Piece &piece, Vec3f at, float reach)
{
    const auto hit = mesh::nearestPoint(piece.skin.shown, at);
    if (!hit || length(hit->point - at) > reach)
        return Error{ErrorCode::BadValue, piece.name,
                     hit ? fmt::format("lies {:.3g} mm from there; give a place on the skin", length(hit->point - at))
                         : "has no skin to stand on"};
    return Root{hit->point, hit->normal};
}

Result<std::vector<Root>> rootsAlong(const Piece &piece, std::span<const Vec3f> points, float reach)
{
    const mesh::Surface &skin = piece.skin.shown;
    float whole = 0;
    for (std::size_t i = 1; i < points.size(); ++i)
        whole += length(points[i] - points[i - 1]);
    if (points.size() < 2 || whole < 1e-3f)
        return Error{ErrorCode::BadValue, "points", "a line needs two points that differ"};
    const float step = std::max({meanEdgeLength(skin), whole / float(kMostRoots), 0.05f});
    std::vector<Root> roots;
    for (std::size_t i = 1; i < points.size(); ++i) {
        const float stretch = length(points[i] - points[i - 1]);
        const auto n = std::max(1, int(std::lround(stretch / step)));
        for (int k = roots.empty() ? 0 : 1; k <= n; ++k) {
            auto root = rootNear(piece, lerp(points[i - 1], points[i], float(k) / float(n)), reach);
            if (!root)
                return root.error();
            if (roots.empty() || length(root->at - roots.back().at) > 1e-3f)
                roots.push_back(*root);
        }
    }
    if (roots.size() < 2)
        return Error{ErrorCode::BadValue, "points", "a line needs two places on the skin that differ"};
    evenNormals(roots);
    return roots;
}

std::vector<Root> toeTips(const Creature &creature, const Piece &piece, float low)
{
    const std::vector<growth::Limb> limbs = surroundingsOf(creature, piece).limbs;
    const Box3f box = piece.skin.shown.box();
    float thickest = 0;
    for (const growth::Limb &l : limbs)
        thickest = std::max({thickest, l.fromRadius, l.toRadius});
    std::vector<Root> out;
    for (const growth::Limb &l : limbs) {
        const bool goesOn =
            std::any_of(limbs.begin(), limbs.end(),
                        [&](const growth::Limb &o) { return &o != &l && length(o.from - l.to) < 1.2f * l.toRadius; })
            || std::any_of(creature.armature.forms.begin(), creature.armature.forms.end(),
                           [&](const armature::Form &f) { // a foot at its end
                               return length(creature.armature.worldPlace(f).translation - l.to) < 1.3f * l.toRadius;
                           });
        if (goesOn || l.toRadius > 0.4f * thickest || l.to.x < -0.1f || l.to.y - box.lo.y > low * box.size().y)
            continue;
        const Vec3f way = normalized(l.to - l.from);
        // From inside the toe out through its end.
        const auto hit = mesh::castRay(piece.skin.shown, {l.to - way * (0.2f * l.toRadius), way});
        if (hit && hit->distance < 4 * l.toRadius + 1)
            out.push_back({hit->point, normalized(way + hit->normal * 0.2f)});
    }
    std::sort(out.begin(), out.end(),
              [](const Root &a, const Root &b) { return a.at.z != b.at.z ? a.at.z > b.at.z : a.at.x < b.at.x; });
    return out;
}

Result<std::vector<Root>> gumLine(const Creature &creature, const Piece &piece, std::uint32_t form, bool isUpper)
{
    const armature::Form *jaw = creature.armature.find(form);
    if (!jaw || !hasShape(jaw->kind))
        return Error{ErrorCode::BadValue, "jaw", "a form with a shape is needed"};
    const mesh::PolyMesh shape = tessellate(*jaw, creature.armature.worldPlace(*jaw));
    const Box3f box = mesh::boundsOf(shape.positions);
    const Vec3f centre = box.centre();
    const bool isInMiddle = std::abs(centre.x) < 0.1f * box.size().x;
    // Its outline from above, from the front round to the back: of each bearing what is farthest out.
    constexpr int kBearings = 40;
    const float last = 0.78f * kPi; // beyond it is the joint
    std::vector<Vec3f> outline(kBearings);
    std::vector<float> farthest(kBearings, 0.0f);
    for (const Vec3f p : shape.positions) {
        const float x = isInMiddle ? std::abs(p.x - centre.x) : p.x - centre.x, z = p.z - centre.z;
        const float bearing = std::atan2(x, z) / last, far = std::hypot(x / box.size().x, z / box.size().z);
        const int k = int(bearing * float(kBearings));
        if (bearing < 0 || k >= kBearings || far <= farthest[std::size_t(k)])
            continue;
        farthest[std::size_t(k)] = far, outline[std::size_t(k)] = {centre.x + x, p.y, p.z};
    }
    std::vector<Root> roots;
    const float way = isUpper ? -1.0f : 1.0f, reach = 0.6f * std::max(box.size().y, 1.0f);
    for (std::size_t k = 0; k < outline.size(); ++k) {
        if (farthest[k] == 0)
            continue;
        Vec3f sum;
        float count = 0;
        for (std::size_t q = k > 1 ? k - 2 : 0; q < std::min(k + 3, outline.size()); ++q)
            if (farthest[q] > 0)
                sum += outline[q], ++count;
        const Vec3f at = sum * (1 / count) + Vec3f{0, way * 0.22f * box.size().y, 0};
        // The gum is a little inside the lip.
        const Vec3f inside{at.x + 0.12f * (centre.x - at.x), at.y, at.z + 0.12f * (centre.z - at.z)};
        const auto hit = mesh::nearestPoint(piece.skin.shown, inside);
        if (!hit || length(hit->point - inside) > reach)
            continue;
        const Root root{hit->point, normalized(Vec3f{0, way, 0} + hit->normal * 0.35f)};
        if (roots.empty() || length(root.at - roots.back().at) > 0.1f)
            roots.push_back(root);
    }
    if (roots.size() < 2)
        return Error{ErrorCode::Empty, jaw->name, "no skin lies along its edge"};
    return roots;
}

bool brushMap(skin::Skin &skin, const std::string &area, const std::string &map, std::span<const Vec3f> line, float radius,
              float amount)
{
    constexpr std::uint8_t kAsSet = 128;
    const skin::KeptMask *kept = skin.keptMask(area);
    auto it = std::find_if(skin.masks.begin(), skin.masks.end(), [&](const skin::KeptMask &m) { return m.name == map; });
    if (it == skin.masks.end())
        it = skin.masks.insert(it, {map, mesh::BlockArray<std::uint8_t>(skin.body.size())});
    kept = skin.keptMask(area);
    mesh::BlockArray<std::uint8_t> &values = it->values;
    const mesh::Surface &shown = skin.shown;
    Box3f about;
    for (const Vec3f p : line)
        about.add(p - Vec3f{radius, radius, radius}), about.add(p + Vec3f{radius, radius, radius});
    const auto away = [&](Vec3f p) { // mm from the line, squared
        float least = squaredLength(p - line.front());
        for (std::size_t k = 0; k + 1 < line.size(); ++k) {
            const Vec3f d = line[k + 1] - line[k];
            const float len = squaredLength(d), t = len > 0 ? std::clamp(dot(p - line[k], d) / len, 0.0f, 1.0f) : 0;
            least = std::min(least, squaredLength(p - (line[k] + d * t)));
        }
        return least;
    };
    bool isMet = false;
    for (std::uint32_t b = 0; b < shown.positions.blockCount(); ++b) {
        if (!kept || !kept->values.has(b))
            continue;
        if (!values.has(b)) {
            std::uint8_t *v = values.edit(b);
            std::fill(v, v + values.countIn(b), kAsSet);
        }
        const Box3f &box = shown.bounds[b]->box;
        if (box.lo.x > about.hi.x || box.lo.y > about.hi.y || box.lo.z > about.hi.z || box.hi.x < about.lo.x
            || box.hi.y < about.lo.y || box.hi.z < about.lo.z)
            continue;
        std::uint8_t *v = nullptr;
        for (std::size_t i = 0; i < values.countIn(b); ++i) {
            const float d = std::sqrt(away(shown.positions.data(b)[i])) / radius;
            if (d >= 1)
                continue;
            isMet = isMet || kept->values.data(b)[i] > 0;
            if (!v)
                v = values.edit(b);
            const float share = (1 - d * d) * (1 - d * d);
            v[i] = std::uint8_t(std::clamp(std::lround(float(v[i]) + 127 * amount * share), 1L, 255L));
        }
    }
    return isMet;
}

float usualSizeOn(const Piece &piece)
{
    const Vec3f size = piece.skin.shown.box().size();
    return std::max(size.y, 0.6f * std::max(size.x, size.z));
}

} // namespace bonemoss::document
