#include "document/ops/skeletons.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <queue>

namespace bonemoss::document {

namespace {

/// The shown skins that bend.
std::vector<const mesh::Surface *> skinsOf(const Creature &creature)
{
    std::vector<const mesh::Surface *> out;
    for (const auto &p : creature.pieces)
        if (!p->isHidden && !p->skin.isEmpty())
            out.push_back(&p->skin.shown);
    return out;
}

/// Even directions over a half sphere (a spiral by the golden section: common practice, no source).
Vec3f wayOf(int k, int n)
{
    const float z = (float(k) + 0.5f) / float(n), r = std::sqrt(1 - z * z), turn = float(k) * 2.399963f;
    return {r * std::cos(turn), z, r * std::sin(turn)};
}

} // namespace

std::optional<Middle> middleOf(const Creature &creature, Vec3f near)
{
    const mesh::Surface *skin = nullptr;
    mesh::Hit at;
    float least = 0;
    for (const mesh::Surface *s : skinsOf(creature))
        if (const auto hit = nearestPoint(*s, near); hit && (!skin || length(hit->point - near) < least))
            skin = s, at = *hit, least = length(hit->point - near);
    if (!skin)
        return {};
    const float little = 1e-4f * std::max(skin->box().diagonal(), 1e-3f);
    const auto across = [&](Vec3f from, Vec3f way) -> std::optional<float> {
        const auto hit = castRay(*skin, {from, way});
        return hit ? std::optional(hit->distance) : std::nullopt;
    };
    Vec3f q = near;
    if (dot(near - at.point, at.normal) > -little) { // on the skin or before it
        q = at.point - at.normal * little;
        q += -at.normal * (across(q, -at.normal).value_or(0) / 2);
    }
    constexpr int kRounds = 4, kWays = 24;
    float radius = 0;
    for (int round = 0; round < kRounds; ++round) {
        Vec3f rows[3], pull; // the place whose distance to the middle of each way, along it, is least in the mean of squares
        float weight = 0;
        radius = std::numeric_limits<float>::max();
        for (int k = 0; k < kWays; ++k) {
            const Vec3f way = wayOf(k, kWays);
            const auto ahead = across(q, way), behind = across(q, -way);
            if (!ahead || !behind)
                continue;
            const float width = std::max(*ahead + *behind, little), w = 1 / (width * width * width);
            pull += way * ((*ahead - *behind) / 2 * w), weight += w;
            rows[0] += way * (w * way.x), rows[1] += way * (w * way.y), rows[2] += way * (w * way.z);
            radius = std::min({radius, *ahead, *behind});
        }
        if (weight <= 0)
            break;
        const float hold = 0.03f * weight; // along a pipe it stays where it was
        rows[0].x += hold, rows[1].y += hold, rows[2].z += hold;
        const Vec3f bc = cross(rows[1], rows[2]), ca = cross(rows[2], rows[0]), ab = cross(rows[0], rows[1]);
        q += (bc * pull.x + ca * pull.y + ab * pull.z) * (1 / dot(rows[0], bc));
    }
    if (!isFinite(q) || radius > skin->box().diagonal())
        return Middle{near, 0.01f * skin->box().diagonal()};
    return Middle{q, std::max(radius, little)};
}

std::vector<Landmark> landmarksOf(const Creature &creature, const SkeletonPlan &plan)
{
    Box3f box;
    for (const mesh::Surface *s : skinsOf(creature))
        box.add(s->box());
    if (box.isEmpty())
        box = {{-40, 0, -60}, {40, 80, 60}};
    const Vec3f size = box.hi - box.lo;
    const bool isUpright = plan.legs == 2 && size.y > 0.8f * size.z;
    const auto place = [&](float x, float y, float z) { // shares: of half the width, of the height, of the length
        return Vec3f{(box.lo.x + box.hi.x) / 2 + x * size.x / 2, box.lo.y + y * size.y, box.lo.z + z * size.z};
    };
    std::vector<Landmark> out;
    const auto find = [&](const char *name) {
        return std::uint32_t(std::find_if(out.begin(), out.end(), [&](const Landmark &l) { return l.name == name; })
                             - out.begin());
    };
    const auto add = [&](std::string name, std::string bone, std::uint32_t parent, Vec3f at, bool isMirrored = false,
                         bool endsLimb = false) {
        out.push_back({std::move(name), std::move(bone), parent, isMirrored, endsLimb, at});
    };
    if (isUpright) {
        add("hips", "", kNone, place(0, 0.48f, 0.45f)), add("chest", "trunk", 0, place(0, 0.72f, 0.45f));
        add("neck", "chest", 1, place(0, 0.82f, 0.5f)), add("head", "neck", 2, place(0, 0.88f, 0.55f));
        add("crown", "head", 3, place(0, 0.94f, 0.75f));
    } else {
        const float front = plan.legs == 2 ? 0.62f : 0.68f, back = plan.legs == 2 ? 0.45f : 0.3f;
        add("hips", "", kNone, place(0, 0.62f, back)), add("chest", "trunk", 0, place(0, 0.62f, front));
        add("neck", "chest", 1, place(0, 0.72f, front + 0.1f)), add("head", "neck", 2, place(0, 0.82f, front + 0.18f));
        add("nose", "head", 3, place(0, 0.8f, 0.97f));
    }
    const auto limb = [&](const std::string &of, std::uint32_t root, const std::array<const char *, 4> &joints,
                          const std::array<const char *, 3> &bones, const std::array<Vec3f, 4> &at) {
        add(of + joints[0], "", root, at[0], true);
        for (std::size_t k = 1; k < 4; ++k)
            add(of + joints[k], of + bones[k - 1], std::uint32_t(out.size() - 1), at[k], true, k == 3);
    };
    const auto leg = [&](const std::string &of, std::uint32_t root, float y, float z) {
        limb(of, root, {"hip", "knee", "ankle", "toe"}, {"thigh", "shank", "foot"},
             {place(0.3f, y, z), place(0.32f, y * 0.55f, z + 0.02f), place(0.32f, y * 0.2f, z), place(0.32f, 0.03f, z + 0.06f)});
    };
    const float top = isUpright ? 0.46f : 0.55f;
    if (plan.legs == 2)
        leg("", find("hips"), top, isUpright ? 0.45f : 0.45f);
    if (plan.legs >= 4)
        leg("front ", find("chest"), top, 0.68f), leg("hind ", find("hips"), top, 0.28f);
    if (plan.legs == 6)
        leg("middle ", find("hips"), top, 0.5f);
    const auto arm = [&](const std::string &of, const std::array<const char *, 4> &joints,
                         const std::array<const char *, 3> &bones, float y) {
        const float z = isUpright ? 0.45f : 0.62f;
        limb(of, find("chest"), joints, bones,
             {place(0.3f, y, z), place(0.55f, y - 0.06f, z), place(0.8f, y - 0.1f, z), place(0.95f, y - 0.12f, z)});
    };
    if (plan.hasArms)
        arm("", {"shoulder", "elbow", "wrist", "hand"}, {"upper arm", "forearm", "hand"}, isUpright ? 0.74f : 0.6f);
    if (plan.hasWings)
        arm("wing ", {"root", "elbow", "wrist", "tip"}, {"arm", "forearm", "hand"}, isUpright ? 0.78f : 0.75f);
    if (plan.hasTail) {
        add("tail root", "", find("hips"), place(0, isUpright ? 0.46f : 0.6f, isUpright ? 0.3f : 0.22f));
        add("tail middle", "tail 1", std::uint32_t(out.size() - 1), place(0, isUpright ? 0.3f : 0.55f, 0.12f));
        add("tail tip", "tail 2", std::uint32_t(out.size() - 1), place(0, isUpright ? 0.15f : 0.5f, 0.03f));
    }
    return out;
}

std::vector<Vec3f> tipsAround(const Creature &creature, Vec3f root, Vec3f place, float radius, std::size_t most)
{
    const mesh::Surface *skin = nullptr;
    std::optional<mesh::Hit> start;
    for (const mesh::Surface *s : skinsOf(creature))
        if (const auto hit = nearestPoint(*s, root); hit && (!start || length(hit->point - root) < length(start->point - root)))
            skin = s, start = hit;
    if (!skin)
        return {};
    // The ways over the skin from the root, along edges, to what lies within the radius of the place or between both.
    const float far = radius + length(root - place);
    std::map<std::uint32_t, std::vector<std::uint32_t>> beside;
    for (const std::uint32_t b : blocksNear(*skin, place, far))
        for (const mesh::LocalFace &f : skin->topology->block(b).faces)
            for (std::size_t k = 0, n = std::size_t(f.size()); k < n; ++k) {
                const std::uint32_t u = skin->topology->vertexOf(b, f.v[k]), v = skin->topology->vertexOf(b, f.v[(k + 1) % n]);
                if (length(skin->positions[u] - place) < far && length(skin->positions[v] - place) < far)
                    beside[u].push_back(v), beside[v].push_back(u);
            }
    std::map<std::uint32_t, float> way;
    using Step = std::pair<float, std::uint32_t>;
    std::priority_queue<Step, std::vector<Step>, std::greater<>> next;
    next.push({0, skin->topology->faceOf(start->block, start->face).v[0]});
    const float about = 1.4f * length(start->point - root); // from all sides of the limb at once
    for (const auto &[v, others] : beside)
        if (length(skin->positions[v] - root) < about)
            next.push({0, v});
    while (!next.empty()) {
        const auto [d, v] = next.top();
        next.pop();
        if (!way.emplace(v, d).second)
            continue;
        for (const std::uint32_t o : beside[v])
            if (!way.contains(o))
                next.push({d + length(skin->positions[o] - skin->positions[v]), o});
    }
    std::vector<Step> peaks; // farther than all beside
    for (const auto &[v, d] : way)
        if (length(skin->positions[v] - place) < radius
            && std::all_of(beside[v].begin(), beside[v].end(), [&](std::uint32_t o) { return way[o] <= d; }))
            peaks.push_back({d, v});
    std::sort(peaks.begin(), peaks.end(), std::greater<>());
    std::vector<Vec3f> out;
    const float apart = 0.2f * radius;
    for (const auto &[d, v] : peaks) {
        const Vec3f p = skin->positions[v];
        const bool sticksOut = d > 0.55f * peaks[0].first;
        if (out.size() < most && sticksOut && std::all_of(out.begin(), out.end(), [&](Vec3f o) { return length(o - p) > apart; }))
            out.push_back(p);
    }
    if (out.size() < 2)
        return {};
    // From one side to the other: along the line from the first to the one farthest from it.
    const Vec3f first =
        *std::max_element(out.begin(), out.end(), [&](Vec3f a, Vec3f b) { return length(a - out[0]) < length(b - out[0]); });
    const Vec3f side = normalized(out[0] - first);
    std::sort(out.begin(), out.end(), [&](Vec3f a, Vec3f b) { return dot(a, side) < dot(b, side); });
    return out;
}

} // namespace bonemoss::document
