#include "document/ops/standing.h"

#include "base/parallel.h"
#include "document/ops/bending.h"
#include "document/ops/outgrowths.h"
#include "outgrowth/outgrowth.h"

#include <algorithm>

namespace bonemoss::document {

using armature::Form;
using pose::Blend;
using pose::PosedSkin;
using pose::Rigid;
using pose::Skeleton;

Skeleton skeletonOf(const Creature &creature)
{
    return pose::skeletonOf(creature.armature, creature.posing.rigging);
}

/// A piece in the pose.
struct Standing::Stood {
    std::shared_ptr<const Piece> rest;
    std::shared_ptr<const PosedSkin> skin; ///< null without one
};

/// An outgrowth in the pose, and the vertices of the skin that its places go with, which stay while it and the faces of the skin do.
struct Standing::Rooted {
    std::shared_ptr<const outgrowth::Outgrowth> rest, posed;
    std::shared_ptr<const mesh::Topology> topology;
    std::vector<std::uint32_t> ofRoots, ofMembers;
    std::vector<std::vector<Hold>> ofShapes; ///< of each member's places, for those that bend
    std::shared_ptr<const PosedSkin> skin;   ///< by which it was posed last
};

namespace {

Transform moved(const Rigid &by, const Transform &world)
{
    Transform out = world;
    out.rotation = normalized(by.turn * world.rotation), out.translation = by.apply(world.translation);
    return out;
}

/// A form on the other side of the middle plane.
Form twinForm(const Form &f, const Transform &world)
{
    Form out = f;
    out.place = world;
    out.place.translation = mirrored(world.translation);
    out.place.rotation = {world.rotation.x, -world.rotation.y, -world.rotation.z, world.rotation.w};
    for (armature::PathPoint &p : out.path)
        p.at = mirrored(p.at), p.rotation = -p.rotation;
    for (auto &side : out.sides)
        for (Vec3f &p : side)
            p = mirrored(p);
    return out;
}

/// Forms at their places; those with a twin are two, since each side stands otherwise.
void poseForms(Creature &out, const Creature &rest, const Skeleton &skeleton, const std::vector<Rigid> &places)
{
    std::vector<Form> forms;
    for (const Form &f : rest.armature.forms) {
        const Transform world = rest.armature.worldPlace(f);
        const std::uint32_t on = skeleton.carrierOf(rest.armature, f.id, false, world.translation);
        Form own = f;
        own.parent = 0, own.isMirrored = false; // each stands by itself
        own.place = on == kNone ? world : moved(places[on], world);
        forms.push_back(own);
        if (!f.isMirrored)
            continue;
        Form twin = twinForm(f, world);
        twin.id = out.nextId++, twin.parent = 0, twin.isMirrored = false;
        twin.name = out.uniqueName(f.name);
        const std::uint32_t other = skeleton.carrierOf(rest.armature, f.id, true, twin.place.translation);
        if (other != kNone)
            twin.place = moved(places[other], twin.place);
        forms.push_back(std::move(twin));
    }
    out.armature.forms = std::move(forms);
}

io::Placement placementOf(const Rigid &r)
{
    const Vec3f x = rotate(r.turn, {1, 0, 0}), y = rotate(r.turn, {0, 1, 0}), z = rotate(r.turn, {0, 0, 1});
    return {{x.x, x.y, x.z, y.x, y.y, y.z, z.x, z.y, z.z, r.move.x, r.move.y, r.move.z}};
}

using Outgrown = std::shared_ptr<const outgrowth::Outgrowth>;

/// Members go with the skin under their roots; what is one with the skin bends as it does.
Outgrown poseOutgrowth(const outgrowth::Outgrowth &rest, const std::vector<std::uint32_t> &ofRoots,
                       const std::vector<std::uint32_t> &ofMembers, const std::vector<std::vector<Hold>> &ofShapes,
                       const Blend &blend)
{
    auto out = std::make_shared<outgrowth::Outgrowth>(rest);
    auto made = std::make_shared<outgrowth::Made>(*rest.made);
    if (!ofShapes.empty())
        bend(*made, ofShapes, rest.kind->is(outgrowth::Stretches), blend);
    else
        forEachBlock(made->members.size(), 256, [&](BlockRange r) {
            for (std::size_t k = r.begin; k < r.end; ++k) {
                outgrowth::Member &m = made->members[k];
                const Rigid by = blend.at(ofMembers[k]);
                m.place = placementOf(by) * m.place, m.root = by.apply(m.root);
            }
        });
    made->box = {};
    for (const outgrowth::Member &m : made->members)
        for (const Vec3f p : made->shapes[m.shape]->positions)
            made->box.add(m.place.apply(p));
    for (std::size_t k = 0; k < out->roots.size(); ++k) {
        const Rigid by = blend.at(ofRoots[k]);
        out->roots[k].at = by.apply(out->roots[k].at), out->roots[k].normal = rotate(by.turn, out->roots[k].normal);
    }
    out->made = std::move(made);
    return out;
}

} // namespace

std::shared_ptr<const Standing::Rooted> Standing::rootedOf(const Outgrown &o, const Piece &skin, const Standing *before) const
{
    if (before)
        for (const auto &known : before->m_outgrowths)
            if (known && known->rest == o && known->topology == skin.skin.shown.topology)
                return known;
    auto out = std::make_shared<Rooted>();
    out->rest = o, out->topology = skin.skin.shown.topology;
    const mesh::Surface &surface = skin.skin.shown;
    const outgrowth::Made &made = *o->made;
    std::vector<Vec3f> roots, members;
    for (const outgrowth::Root &r : o->roots)
        roots.push_back(r.at);
    out->ofRoots = verticesNear(surface, roots);
    if (o->kind->is(outgrowth::ShapedByPlace)) {
        out->ofShapes = holdsOf(*o, surface);
        return out;
    }
    for (const outgrowth::Member &m : made.members)
        members.push_back(m.root), out->ofMembers.push_back(m.vertex);
    if (std::any_of(out->ofMembers.begin(), out->ofMembers.end(), [&](std::uint32_t v) { return v >= surface.positions.size(); }))
        out->ofMembers = verticesNear(surface, members);
    return out;
}

/// As its settings are in the posture; what cannot be made so stays as it rests.
Outgrown Standing::withChanges(const Outgrown &o, const Standing *before)
{
    const pose::OutgrowthPose *by = m_posture.outgrowth(o->id);
    if (!by || o->isMelted)
        return o;
    if (before)
        for (const Changed &c : before->m_changed)
            if (c.rest == o && c.by == *by)
                return m_changed.emplace_back(c).made;
    outgrowth::Outgrowth rule = *o;
    for (const auto &[setting, change] : by->changes)
        for (std::size_t k = 0; k < rule.values.size(); ++k)
            if (const outgrowth::Setting &s = rule.kind->settings[k]; s.name == setting)
                rule.values[k] = std::clamp(rule.values[k] + change, s.min, s.max);
    if (by->look)
        rule.look = by->look;
    Operation operation;
    auto made = regrown(*m_rest, std::move(rule), operation);
    Outgrown out = made ? std::make_shared<const outgrowth::Outgrowth>(std::move(*made)) : o;
    m_changed.push_back({o, out, *by});
    return out;
}

Standing::~Standing() = default;

Standing::Standing(std::shared_ptr<const Creature> rest, const pose::Posture &posture, Part part, const Standing *before)
    : m_rest(std::move(rest)), m_posture(posture)
{
    auto out = std::make_shared<Creature>(*m_rest);
    out->posing.now = {};
    if (posture.isRest()) {
        m_creature = m_rest->posing.now.isRest() ? m_rest : out;
        return;
    }
    const Skeleton skeleton = skeletonOf(*m_rest);
    for (std::size_t k = 0; k < m_rest->pieces.size(); ++k) {
        const auto &piece = m_rest->pieces[k];
        Stood stood{piece, nullptr};
        const Stood *known = nullptr;
        std::shared_ptr<const Piece> knownPosed;
        for (std::size_t i = 0; before && i < before->m_pieces.size(); ++i)
            if (before->m_pieces[i].rest->id == piece->id && before->m_pieces[i].skin)
                known = &before->m_pieces[i], knownPosed = before->m_creature->pieces[i];
        if (!piece->skin.isEmpty()) {
            auto made = std::make_shared<PosedSkin>(piece->skin, skeleton, posture, part, known ? known->skin.get() : nullptr);
            if (known && known->rest == piece && made->isAsBefore()) {
                stood.skin = known->skin, out->pieces[k] = knownPosed;
            } else {
                auto next = std::make_shared<Piece>(*piece);
                next->skin = made->standing();
                stood.skin = std::move(made), out->pieces[k] = std::move(next);
            }
        }
        m_pieces.push_back(std::move(stood));
    }
    poseForms(*out, *m_rest, skeleton, placesOf(skeleton, posture));
    for (auto &o : out->outgrowths) {
        o = withChanges(o, before);
        std::shared_ptr<const Rooted> rooted;
        for (const Stood &s : m_pieces)
            if (s.rest->id == o->parent && s.skin && o->made && !o->made->members.empty()) {
                rooted = rootedOf(o, *s.rest, before);
                if (rooted->skin != s.skin) {
                    auto next = std::make_shared<Rooted>(*rooted);
                    next->posed = poseOutgrowth(*o, rooted->ofRoots, rooted->ofMembers, rooted->ofShapes, s.skin->blend());
                    next->skin = s.skin;
                    rooted = std::move(next);
                }
                break;
            }
        if (rooted)
            o = rooted->posed;
        m_outgrowths.push_back(std::move(rooted));
    }
    m_creature = std::move(out);
}

const PosedSkin *Standing::skin(std::uint32_t piece) const
{
    for (const Stood &s : m_pieces)
        if (s.rest->id == piece)
            return s.skin.get();
    return nullptr;
}

Creature posed(const Creature &creature, const pose::Posture &posture, Standing::Part part)
{
    Creature out = *Standing(std::make_shared<const Creature>(creature), posture, part).creature();
    out.posing.now = {};
    return out;
}

Vec3f restPlace(const PosedSkin &skin, Vec3f standing)
{
    const mesh::Surface &shown = skin.standing().shown;
    const auto hit = nearestPoint(shown, standing);
    if (!hit)
        return standing;
    // The corner of the face that is nearest moves it: the bend over one face does not count.
    const mesh::Face f = shown.topology->faceOf(hit->block, hit->face);
    std::uint32_t nearest = f.v[0];
    for (int k = 1; k < f.size(); ++k)
        if (const std::uint32_t v = f.v[std::size_t(k)];
            length(shown.positions[v] - standing) < length(shown.positions[nearest] - standing))
            nearest = v;
    return skin.blend().at(nearest).applyInverse(standing);
}

std::vector<sculpt::PenSample> twinsInPose(const Piece &piece, const PosedSkin &skin,
                                           const std::vector<sculpt::PenSample> &samples)
{
    const mesh::Surface &rest = piece.skin.shown, &standing = skin.standing().shown;
    const Vec3f normal = normalized(piece.symmetry.normal), through = piece.symmetry.point;
    const auto across = [&](Vec3f way) { return way - normal * (2 * dot(way, normal)); };
    const auto vertexOf = [](const mesh::Surface &s, const mesh::Hit &hit) {
        return s.topology->faceOf(hit.block, hit.face).v[0];
    };
    std::vector<sculpt::PenSample> out;
    for (const sculpt::PenSample &sample : samples) {
        const auto hit = castRay(standing, {sample.origin, sample.direction});
        if (!hit)
            continue;
        const Rigid here = skin.blend().at(vertexOf(standing, *hit));
        const Vec3f at = through + across(here.applyInverse(hit->point) - through);
        const auto other = nearestPoint(rest, at);
        if (!other)
            continue;
        const Rigid there = skin.blend().at(vertexOf(rest, *other));
        const auto turned = [&](Vec3f way) { return rotate(there.turn, across(rotate(here.turn.conjugate(), way))); };
        sculpt::PenSample twin = sample;
        twin.direction = turned(sample.direction), twin.lean = turned(sample.lean);
        twin.origin = there.apply(at) - twin.direction * hit->distance;
        out.push_back(twin);
    }
    return out;
}

} // namespace bonemoss::document
