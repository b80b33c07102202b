#include "document/ops/outgrowths.h"

#include "document/items.h"
#include "document/ops/reknit.h"
#include "document/ops/surroundings.h"
#include "mesh/parts.h"
#include "outgrowth/sweep.h"
#include "solid/holes.h"

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::document {

using outgrowth::Outgrowth;
using outgrowth::Root;

namespace {

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
    if (o.isMelted)
        return {}; // where it stood, its own flanks are the nearest
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
    if (was.skin.shown.topology != is.skin.shown.topology)
        return true;
    const auto isOther = [&](const std::string &mask) {
        const skin::KeptMask *before = was.skin.keptMask(mask), *after = is.skin.keptMask(mask);
        if (!before || !after)
            return before != after;
        for (std::size_t b = 0; b < after->values.blockCount(); ++b)
            if (!after->values.sharesWith(before->values, b))
                return true;
        return false;
    };
    const skin::KeptMask *area = is.skin.keptMask(o.mask);
    if (area && !outgrowth::isSameUnder(area->values, was.skin.shown.positions, is.skin.shown.positions))
        return true;
    return isOther(o.mask)
           || std::any_of(o.maps.begin(), o.maps.end(), [&](const std::string &map) { return !map.empty() && isOther(map); });
}

/// Middle lines of the members that an outgrowth stands between, one after the other; of twins those on its own side, and where there is
/// one line only, its twin too.
std::vector<std::vector<Root>> strandsOf(const Creature &c, const Outgrowth &o)
{
    std::vector<std::vector<Root>> own, twins;
    for (const std::uint32_t id : o.between)
        if (const Outgrowth *other = c.outgrowth(id); other && id != o.id)
            for (const outgrowth::Member &m : other->made->members) {
                const std::vector<Vec3f> middle = outgrowth::middleLine(*other->made->shapes[m.shape]);
                std::vector<Root> line;
                for (const Vec3f p : middle)
                    line.push_back({m.place.apply(p), {}});
                if (line.size() < 2)
                    continue;
                const Vec3f way = line.back().at - line.front().at, up{m.place.m[6], m.place.m[7], m.place.m[8]};
                Vec3f n = up - way * (dot(up, way) / std::max(squaredLength(way), 1e-6f));
                n = squaredLength(n) > 1e-6f ? normalized(n) : Vec3f{0, 1, 0};
                for (Root &r : line)
                    r.normal = n;
                (m.isTwin ? twins : own).push_back(std::move(line));
            }
    if (own.size() == 1 && o.between.size() == 1)
        own.insert(own.end(), twins.begin(), twins.end());
    return own;
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
        for (std::size_t k = 0; k < o.maps.size(); ++k)
            if (const skin::KeptMask *map = piece->skin.keptMask(o.maps[k]); map && !o.maps[k].empty())
                input.maps[k] = map->values;
            else if (!o.maps[k].empty())
                context.notes.push_back(fmt::format("{} is even in {} now: its kept mask \"{}\" is not there", o.name,
                                                    outgrowth::kMapNames[k], o.maps[k]));
    }
    if (!o.between.empty()) {
        input.strands = strandsOf(creature, o);
        if (input.strands.size() < 2)
            return Error{ErrorCode::Empty, o.name, "stands between members of other outgrowths, of which there are not two"};
    }
    auto made = make(input, context.progress);
    if (!made)
        return made.error();
    for (const Note &note : (*made)->notes)
        context.notes.push_back(note);
    o.made = std::move(*made);
    o.isStale = false;
    return o;
}

bool hasStaleOutgrowths(const Creature &creature)
{
    return std::any_of(creature.outgrowths.begin(), creature.outgrowths.end(), [](const auto &o) { return o->isStale; });
}

Creature withFreshOutgrowths(Creature creature, Operation &context)
{
    std::vector<std::uint32_t> changed;
    for (auto &o : creature.outgrowths) {
        if (!o->isStale)
            continue;
        Outgrowth next = *o;
        next.isStale = false;
        if (auto made = regrown(creature, next, context))
            next = std::move(*made);
        else
            context.notes.push_back(fmt::format("{} was not made anew: {}", o->name, made.error().detail));
        changed.push_back(o->id);
        o = std::make_shared<const Outgrowth>(std::move(next));
    }
    return changed.empty() ? creature : withThoseBetween(std::move(creature), changed, context);
}

Result<skin::Skin> skinWithout(const skin::Skin &skin, const mesh::PolyMesh &members, float margin, Operation &context)
{
    const mesh::PolyMesh whole = toPolyMesh(skin.shown);
    const mesh::Surface about = mesh::makeSurface(members);
    const float reach = std::max(margin, 0.75f * meanEdgeLength(skin.shown));
    const Box3f box = mesh::boundsOf(members.positions);
    std::vector<bool> goes(whole.positions.size(), false);
    for (std::size_t v = 0; v < goes.size(); ++v)
        if (squaredDistance(box, whole.positions[v]) <= reach * reach)
            if (const auto hit = mesh::nearestPoint(about, whole.positions[v]))
                goes[v] = length(hit->point - whole.positions[v]) < reach;
    std::vector<bool> stays(whole.faces.size());
    for (std::size_t f = 0; f < stays.size(); ++f)
        stays[f] = std::none_of(whole.faces[f].v.begin(), whole.faces[f].v.begin() + whole.faces[f].size(),
                                [&](std::uint32_t v) { return goes[v]; });
    const auto left = std::size_t(std::count(stays.begin(), stays.end(), true));
    if (left == 0 || left == stays.size())
        return Error{ErrorCode::Empty, "margin",
                     left ? "no skin lies where it was melted in" : "no skin would be left; give a smaller margin"};
    const mesh::PolyMesh open = mesh::extract(whole, stays);
    std::vector<std::size_t> holes; // those that were open before stay open
    const auto borders = solid::openBorders(open);
    for (std::size_t k = 0; k < borders.size(); ++k) {
        const auto hit = mesh::nearestPoint(about, open.positions[borders[k].front()]);
        if (hit && length(hit->point - open.positions[borders[k].front()]) < 3 * reach)
            holes.push_back(k);
    }
    const solid::Closed closed = solid::closeHoles(open, solid::Fill::Smooth, holes);
    if (closed.left > 0)
        context.notes.push_back(fmt::format("{} holes could not be closed; close them by hand", closed.left));
    return skinOn(closed.mesh, skin, context, true);
}

Creature withThoseBetween(Creature creature, std::span<const std::uint32_t> changed, Operation &context)
{
    for (auto &o : creature.outgrowths) {
        const auto isChanged = [&](std::uint32_t id) { return std::find(changed.begin(), changed.end(), id) != changed.end(); };
        if (std::none_of(o->between.begin(), o->between.end(), isChanged))
            continue;
        if (auto made = regrown(creature, *o, context))
            o = std::make_shared<const Outgrowth>(std::move(*made));
        else
            context.notes.push_back(fmt::format("{} stays as it was: {}", o->name, made.error().detail));
    }
    return creature;
}

Creature withOutgrowthsRiding(const Creature &before, Creature after, Operation &context, Slow slow)
{
    float farthest = 0;
    std::string whose;
    std::vector<std::uint32_t> changed;
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
        const bool isArea = o->kind->rooting == outgrowth::Rooting::Area;
        if (isArea && was && !isAreaChanged(*was, *is, *o)) // its mask rides; it grows anew where the skin under it changed
            continue;
        if (!o->roots.empty()) {
            float far = 0;
            std::vector<Root> roots = was ? riddenRoots(*was, *is, *o, far) : std::vector<Root>();
            if (far > farthest)
                farthest = far, whose = o->name;
            if (roots.empty() && !isArea)
                continue;
            if (!roots.empty())
                next->roots = std::move(roots);
        } else if (!isArea) {
            continue; // it stands between others
        }
        if (slow == Slow::Later && o->kind->prepare) {
            next->isStale = true;
            after.outgrowths[k] = std::move(next);
            continue;
        }
        changed.push_back(o->id);
        if (auto made = regrown(after, std::move(*next), context))
            after.outgrowths[k] = std::make_shared<const Outgrowth>(std::move(*made));
        else
            context.notes.push_back(fmt::format("{} was not made anew: {}", o->name, made.error().detail));
    }
    if (farthest > 0.05f)
        context.notes.push_back(
            fmt::format("roots of outgrowths moved by up to {:.2g} mm on to the new faces ({})", farthest, whose));
    return changed.empty() ? after : withThoseBetween(std::move(after), changed, context);
}

} // namespace bonemoss::document
