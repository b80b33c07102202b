#include "document/ops/outgrowths.h"

#include "document/items.h"
#include "document/ops/surroundings.h"

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::document {

using outgrowth::Outgrowth;
using outgrowth::Root;

namespace {

constexpr std::size_t kMostRoots = 2000;

/// What an item looks like as a member: its own shape about its own middle, its lowest part at the origin.
std::shared_ptr<const mesh::PolyMesh> shapeOfItem(const Creature &c, std::uint32_t id)
{
    const auto place = findItem(c, id);
    if (!place || place->kind->name == Outgrowth::kKind)
        return nullptr;
    io::Scene scene;
    place->kind->show(c, place->index, scene);
    if (scene.isEmpty())
        return nullptr;
    mesh::PolyMesh mesh = meshOf(scene, io::Object{{}, scene.objects[0].shape, 0, {io::Placement()}});
    const Box3f box = mesh::boundsOf(mesh.positions);
    const Vec3f foot{box.centre().x, box.lo.y, box.centre().z};
    for (Vec3f &p : mesh.positions)
        p -= foot;
    return std::make_shared<const mesh::PolyMesh>(std::move(mesh));
}

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

/// Blocks in which two surfaces of one topology differ.
std::vector<std::uint32_t> changedBlocks(const mesh::Surface &before, const mesh::Surface &after)
{
    std::vector<std::uint32_t> out;
    for (std::uint32_t b = 0; b < after.positions.blockCount(); ++b)
        if (!after.positions.sharesWith(before.positions, b))
            out.push_back(b);
    return out;
}

/// Where a place of a face went with its corners.
std::optional<Root> ridden(const mesh::Surface &before, const mesh::Surface &after, const Root &root)
{
    const auto hit = mesh::nearestPoint(before, root.at);
    if (!hit)
        return {};
    const mesh::Face f = before.topology->faceOf(hit->block, hit->face);
    const std::size_t n = std::size_t(f.size());
    if (std::all_of(f.v.begin(), f.v.begin() + std::ptrdiff_t(n),
                    [&](std::uint32_t v) { return before.positions[v] == after.positions[v]; }))
        return root;
    // Mean-value coordinates of a point within a polygon (Floater 2003).
    std::array<float, 4> weight{};
    std::array<Vec3f, 4> to;
    std::array<float, 4> away{};
    float sum = 0;
    for (std::size_t k = 0; k < n; ++k) {
        to[k] = before.positions[f.v[k]] - hit->point;
        away[k] = length(to[k]);
        if (away[k] < 1e-6f) {
            weight = {}, weight[k] = sum = 1;
            break;
        }
    }
    if (sum == 0) {
        std::array<float, 4> half{}; // tangents of half the angles that the edges are seen under
        for (std::size_t k = 0; k < n; ++k) {
            const std::size_t next = (k + 1) % n;
            const float across = length(cross(to[k], to[next])), along = dot(to[k], to[next]);
            half[k] = across / std::max(away[k] * away[next] + along, 1e-9f);
        }
        for (std::size_t k = 0; k < n; ++k)
            sum += weight[k] = (half[(k + n - 1) % n] + half[k]) / away[k];
    }
    Vec3f now, normalNow, normalWas;
    for (std::size_t k = 0; k < n; ++k) {
        now += after.positions[f.v[k]] * (weight[k] / sum);
        normalNow += after.normals[f.v[k]].unpack() * (weight[k] / sum);
        normalWas += before.normals[f.v[k]].unpack() * (weight[k] / sum);
    }
    Root out{now + (root.at - hit->point), root.normal};
    if (squaredLength(normalNow) > 1e-6f && squaredLength(normalWas) > 1e-6f)
        out.normal = normalized(rotate(rotationFromTo(normalized(normalWas), normalized(normalNow)), root.normal));
    return out;
}

/// The roots after their piece changed; empty when none moved. farthest: grows to how far one had to look for the skin, mm.
std::vector<Root> riddenRoots(const Piece &was, const Piece &is, const Outgrowth &o, float &farthest)
{
    const mesh::Surface &before = was.skin.shown, &after = is.skin.shown;
    std::vector<Root> roots = o.roots;
    bool isMoved = false;
    if (before.topology == after.topology) {
        const std::vector<std::uint32_t> changed = changedBlocks(before, after);
        for (Root &r : roots) {
            const bool isNear = std::any_of(changed.begin(), changed.end(),
                                            [&](std::uint32_t b) { return squaredDistance(before.bounds[b]->box, r.at) < 4; });
            if (!isNear)
                continue;
            if (const auto to = ridden(before, after, r); to && !(*to == r))
                r = *to, isMoved = true;
        }
        return isMoved ? roots : std::vector<Root>();
    }
    for (Root &r : roots)
        if (const auto hit = mesh::nearestPoint(after, r.at)) {
            farthest = std::max(farthest, length(hit->point - r.at));
            r = {hit->point, normalized(r.normal + hit->normal)};
        }
    return roots;
}

/// Whether the skin under an area, its mask, or what combs it is another one.
bool isAreaChanged(const Piece &was, const Piece &is, const Outgrowth &o)
{
    if (!(was.guides == is.guides))
        return true;
    const skin::KeptMask *before = was.skin.keptMask(o.mask), *after = is.skin.keptMask(o.mask);
    if (!before || !after || was.skin.shown.topology != is.skin.shown.topology)
        return true;
    for (std::size_t b = 0; b < after->values.blockCount(); ++b)
        if (!after->values.sharesWith(before->values, b)
            || (after->values.has(b) && !is.skin.shown.positions.sharesWith(was.skin.shown.positions, b)))
            return true;
    return false;
}

/// The piece an outgrowth stands on when its own is gone: one that all its roots lie on.
std::uint32_t pieceUnder(const Creature &c, const Outgrowth &o)
{
    for (const auto &p : c.pieces)
        if (!o.roots.empty() && std::all_of(o.roots.begin(), o.roots.end(), [&](const Root &r) {
                const auto hit = mesh::nearestPoint(p->skin.shown, r.at);
                return hit && length(hit->point - r.at) < 1;
            }))
            return p->id;
    return 0;
}

/// Where a member meets the skin, in its own frame.
struct Foot {
    Vec3f middle;
    float x = 0, z = 0; ///< half extents
};

/// None of a part that stands clear of the skin, as the tines of an antler do.
std::optional<Foot> footOf(const mesh::PolyMesh &shape, float level)
{
    const Box3f box = mesh::boundsOf(shape.positions);
    for (float band = 0.06f * box.size().y + 1e-3f; band < 0.13f * box.size().y; band *= 2) {
        Box3f at;
        for (const Vec3f p : shape.positions)
            if (std::abs(p.y - level) < band)
                at.add(p);
        if (!at.isEmpty() && at.size().x > 0)
            return Foot{{at.centre().x, level, at.centre().z}, at.size().x / 2, at.size().z / 2};
    }
    return {};
}

/// From creature space into the frame of a placement without shear.
Vec3f into(const io::Placement &place, Vec3f p)
{
    const Vec3f x{place.m[0], place.m[1], place.m[2]}, y{place.m[3], place.m[4], place.m[5]},
        z{place.m[6], place.m[7], place.m[8]}, d = p - Vec3f{place.m[9], place.m[10], place.m[11]};
    return {dot(d, x) / squaredLength(x), dot(d, y) / squaredLength(y), dot(d, z) / squaredLength(z)};
}

} // namespace

void raiseRim(skin::Skin &skin, std::uint32_t layer, const Outgrowth &o)
{
    skin::Layer &rim = *skin.layer(layer);
    const std::vector<std::uint32_t> old = skin::blocksWith(rim);
    rim.offsets = mesh::BlockArray<Vec3f>(skin.body.size());
    skin::mixBlocks(skin, old);
    const mesh::Surface &shown = skin.shown;
    struct Near {
        const outgrowth::Member *member;
        Foot foot;
        float scale, reach; ///< mm to a unit of its frame; mm from the root
    };
    std::vector<Near> near;
    for (const outgrowth::Member &m : o.made->members) {
        const auto foot = footOf(*o.made->shapes[m.shape], into(m.place, m.root).y);
        if (!foot)
            continue;
        const float scale = length(Vec3f{m.place.m[0], m.place.m[1], m.place.m[2]});
        near.push_back({&m, *foot, scale,
                        scale * (std::max(foot->x, foot->z) + length(Vec3f{foot->middle.x, 0, foot->middle.z})) + o.rim.width});
    }
    std::vector<std::uint32_t> changed;
    for (std::uint32_t b = 0; b < shown.positions.blockCount(); ++b) {
        Vec3f *to = nullptr;
        const Vec3f *at = shown.positions.data(b);
        for (const Near &n : near) {
            if (squaredDistance(shown.bounds[b]->box, n.member->root) > n.reach * n.reach)
                continue;
            for (std::size_t i = 0; i < shown.positions.countIn(b); ++i) {
                if (squaredLength(at[i] - n.member->root) > n.reach * n.reach)
                    continue;
                const Vec3f q = into(n.member->place, at[i]) - n.foot.middle;
                const float x = n.foot.x > 0 ? q.x / n.foot.x : 0, z = n.foot.z > 0 ? q.z / n.foot.z : 0,
                            r = std::sqrt(x * x + z * z);
                // About how far outside the outline, mm: along the ray from its middle.
                const float flat = std::sqrt(q.x * q.x + q.z * q.z) * n.scale,
                            out = r > 1e-6f ? flat * (1 - 1 / r) : -flat - n.reach;
                const auto smooth = [](float t) {
                    t = std::clamp(t, 0.0f, 1.0f);
                    return t * t * (3 - 2 * t);
                };
                const float high = o.rim.height * (out > 0 ? 1 - smooth(out / o.rim.width) : smooth(2 * r - 0.9f));
                if (high <= 0)
                    continue;
                if (!to)
                    to = rim.offsets.edit(b), changed.push_back(b);
                if (const float was = length(to[i]); high > was) // where two meet: the higher
                    to[i] = shown.normals.data(b)[i].unpack() * high;
            }
        }
    }
    skin::mixBlocks(skin, changed);
}

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

Result<Outgrowth> regrown(const Creature &creature, Outgrowth o, Operation &context)
{
    static const Piece kNoPiece{}; // one whose skin is gone keeps what its roots alone make
    const Piece *piece = o.parent ? creature.piece(o.parent) : &kNoPiece;
    if (!piece)
        return Error{ErrorCode::Unknown, o.name, "stands on a piece that is not there"};
    const growth::Surroundings about = surroundingsOf(creature, *piece);
    outgrowth::Input input{o, piece->skin.shown, about, [&](std::uint32_t id) { return shapeOfItem(creature, id); }};
    if (o.kind->rooting == outgrowth::Rooting::Area) {
        const skin::KeptMask *kept = piece->skin.keptMask(o.mask);
        if (!kept)
            return Error{ErrorCode::Unknown, o.name,
                         fmt::format("grows where the kept mask \"{}\" lies, which is not there", o.mask)};
        input.area = kept->values;
    }
    auto made = make(input, context.progress);
    if (!made)
        return made.error();
    for (const Note &note : (*made)->notes)
        context.notes.push_back(note);
    o.made = std::move(*made);
    return o;
}

Creature withOutgrowthsRiding(const Creature &before, Creature after, Operation &context)
{
    float farthest = 0;
    std::string whose;
    for (std::size_t k = 0; k < after.outgrowths.size(); ++k) {
        const std::shared_ptr<const Outgrowth> o = after.outgrowths[k];
        const auto old = std::find_if(before.outgrowths.begin(), before.outgrowths.end(), [&](const auto &b) { return b == o; });
        if (old == before.outgrowths.end() || o->parent == 0)
            continue;
        const Piece *was = before.piece(o->parent), *is = after.piece(o->parent);
        if (was == is)
            continue;
        auto next = std::make_shared<Outgrowth>(*o);
        if (!is) {
            next->parent = pieceUnder(after, *o);
            if (!next->parent)
                context.notes.push_back(o->name + " stands on no skin now, and stays as it is; root it on another piece");
            after.outgrowths[k] = std::move(next);
            continue;
        }
        if (o->kind->rooting == outgrowth::Rooting::Area) { // its mask rides; it grows anew where the skin under it changed
            if (was && !isAreaChanged(*was, *is, *o))
                continue;
        } else {
            float far = 0;
            std::vector<Root> roots = was ? riddenRoots(*was, *is, *o, far) : std::vector<Root>();
            if (far > farthest)
                farthest = far, whose = o->name;
            if (roots.empty())
                continue;
            next->roots = std::move(roots);
        }
        if (auto made = regrown(after, std::move(*next), context))
            after.outgrowths[k] = std::make_shared<const Outgrowth>(std::move(*made));
        else
            context.notes.push_back(fmt::format("{} was not made anew: {}", o->name, made.error().detail));
    }
    if (farthest > 0.05f)
        context.notes.push_back(
            fmt::format("roots of outgrowths moved by up to {:.2g} mm on to the new faces ({})", farthest, whose));
    return after;
}

} // namespace bonemoss::document
