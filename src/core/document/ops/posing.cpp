#include "document/ops/posing.h"

#include "base/parallel.h"
#include "mesh/nearest_faces.h"
#include "outgrowth/outgrowth.h"
#include "pose/blend.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::document {

using armature::Form;
using pose::Blend;
using pose::Rigid;
using pose::Skeleton;

Skeleton skeletonOf(const Creature &creature)
{
    return pose::skeletonOf(creature.armature, creature.posing.rigging);
}

namespace {

/// The one bone that a piece goes with as a whole; none for a skin that bends.
std::optional<std::uint32_t> carrierOf(const Creature &creature, const Skeleton &skeleton, const Piece &piece)
{
    const Box3f box = piece.skin.shown.box();
    if (creature.armature.find(piece.parent))
        return skeleton.carrierOf(creature.armature, piece.parent, box.centre().x < 0, box.centre());
    std::size_t inside = 0;
    std::uint32_t nearest = 0;
    float least = std::numeric_limits<float>::max();
    for (std::uint32_t b = 0; b < skeleton.bones.size(); ++b) {
        const Vec3f middle = (skeleton.bones[b].head + skeleton.bones[b].tail) * 0.5f;
        inside += squaredDistance(box, middle) == 0;
        for (const pose::Flesh &f : skeleton.bones[b].flesh) {
            const Vec3f along = f.b - f.a;
            const float t = std::clamp(dot(box.centre() - f.a, along) / std::max(squaredLength(along), 1e-9f), 0.0f, 1.0f);
            if (const float far = length(f.a + along * t - box.centre()) - f.radius; far < least)
                least = far, nearest = b;
        }
    }
    if (inside >= 2 || skeleton.bones.size() == 1)
        return {};
    return nearest;
}

} // namespace

Status bind(Creature &creature, std::uint32_t only, Operation &operation)
{
    const Skeleton skeleton = skeletonOf(creature);
    if (skeleton.bones.empty())
        return Error{ErrorCode::Empty, "armature", "there are no bones: the creature has no forms to turn"};
    const auto fits = [&](const Piece &p) { // bones that are gone would leave their skin behind
        return std::all_of(p.skin.boneWeights.begin(), p.skin.boneWeights.end(),
                           [&](const skin::KeptMask &m) { return skeleton.find(pose::boneKeyOf(m.name)) != kNone; });
    };
    for (auto &p : creature.pieces) {
        if (only ? p->id != only : p->skin.isEmpty() || (!p->skin.boneWeights.empty() && fits(*p)))
            continue;
        auto next = std::make_shared<Piece>(*p);
        if (const auto bone = carrierOf(creature, skeleton, *p)) {
            setWeights(next->skin, pose::rigidWeights(p->skin.body.size(), skeleton.bones[*bone].key));
        } else {
            pose::Weights weights = pose::heatWeights(p->skin.shown, skeleton, {}, operation.progress);
            if (weights.empty())
                return Error{ErrorCode::Cancelled, p->name, "no weights were made"};
            setWeights(next->skin, std::move(weights));
        }
        p = std::move(next);
    }
    return Done{};
}

void keepPins(Posing &posing, const Skeleton &skeleton)
{
    constexpr int kRounds = 3; // what holds one pin may move another
    for (int round = 0; round < kRounds; ++round) {
        float most = 0;
        for (const Pin &pin : posing.pins) {
            const std::uint32_t b = skeleton.find(pin.bone);
            if (b == kNone || placesOf(skeleton, posing.now)[b] == pin.place)
                continue;
            const pose::Bone &bone = skeleton.bones[b];
            if (bone.parent == kNone) { // the whole of it is held
                posing.now.whole = pin.place;
                continue;
            }
            const std::vector<std::uint32_t> limb = limbOf(skeleton, bone.parent);
            most = std::max(most, reach(skeleton, posing.now, limb, bone.head, pin.place.apply(bone.head)));
            const Quat above = placesOf(skeleton, posing.now)[bone.parent].turn;
            posing.now.set(bone.key, bone.frame.conjugate() * (above.conjugate() * pin.place.turn) * bone.frame);
        }
        if (most < 0.02f)
            break;
    }
}

float reachTo(Posing &posing, const Skeleton &skeleton, std::uint32_t bone, std::optional<Vec3f> from, Vec3f to, bool keepsLimits)
{
    std::vector<std::uint32_t> pinned;
    for (const Pin &p : posing.pins)
        if (const std::uint32_t b = skeleton.find(p.bone); b != kNone && b != bone)
            pinned.push_back(b);
    std::erase_if(posing.pins, [&](const Pin &p) { return p.bone == skeleton.bones[bone].key; }); // the hand goes before a pin
    const std::vector<std::uint32_t> chain = limbOf(skeleton, bone, pinned);
    pose::Reach how;
    how.keepsLimits = keepsLimits;
    if (skeleton.bones[bone].parent == kNone) { // the body goes, and what is pinned stays
        const Vec3f now = placesOf(skeleton, posing.now)[bone].apply(from.value_or(skeleton.bones[bone].head));
        posing.now.whole.move += to - now;
        keepPins(posing, skeleton);
        return 0;
    }
    const float off = reach(skeleton, posing.now, chain, from.value_or(skeleton.bones[bone].tail), to, how);
    keepPins(posing, skeleton);
    return off;
}

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

/// Members go with the skin under their roots; what is one with the skin bends as it does.
std::shared_ptr<const outgrowth::Outgrowth> poseOutgrowth(const outgrowth::Outgrowth &rest, const Piece &skin, const Blend &blend)
{
    auto out = std::make_shared<outgrowth::Outgrowth>(rest);
    auto made = std::make_shared<outgrowth::Made>(*rest.made);
    const bool bends = rest.kind->is(outgrowth::ShapedByPlace);
    const mesh::Surface &surface = skin.skin.shown;
    const float reach = 4 * meanEdgeLength(surface);
    const auto vertexNear = [](const mesh::NearestFace &f) {
        return f.corners[std::size_t(std::max_element(f.weights.begin(), f.weights.end()) - f.weights.begin())];
    };
    if (bends) { // shapes in creature space, each member its own
        std::vector<std::shared_ptr<const mesh::PolyMesh>> shapes;
        for (outgrowth::Member &m : made->members) {
            auto shape = std::make_shared<mesh::PolyMesh>(*made->shapes[m.shape]);
            for (Vec3f &p : shape->positions)
                p = m.place.apply(p);
            const std::vector<mesh::NearestFace> near = mesh::nearestFaces(surface, shape->positions, reach);
            for (std::size_t i = 0; i < near.size(); ++i)
                shape->positions[i] = blend.at(vertexNear(near[i])).apply(shape->positions[i]);
            if (m.place.isMirroring())
                for (mesh::Face &f : shape->faces)
                    f = io::flipped(f);
            shapes.push_back(std::move(shape));
        }
        const auto spread = [&](auto &list) { // what goes with each shape, for each member
            std::remove_cvref_t<decltype(list)> each;
            for (const outgrowth::Member &m : made->members)
                each.push_back(list[m.shape]);
            list = std::move(each);
        };
        spread(made->curves), spread(made->attributes), spread(made->along), spread(made->materials), spread(made->variations);
        made->shapes = std::move(shapes);
        for (std::size_t k = 0; k < made->members.size(); ++k)
            made->members[k].shape = k, made->members[k].place = {};
    } else {
        std::vector<Vec3f> roots;
        for (const outgrowth::Member &m : made->members)
            roots.push_back(m.root);
        std::vector<mesh::NearestFace> near;
        if (std::any_of(made->members.begin(), made->members.end(), [](const auto &m) { return m.vertex == kNone; }))
            near = mesh::nearestFaces(surface, roots, reach);
        forEachBlock(made->members.size(), 256, [&](BlockRange r) {
            for (std::size_t k = r.begin; k < r.end; ++k) {
                outgrowth::Member &m = made->members[k];
                const std::uint32_t v = near.empty() ? m.vertex : vertexNear(near[k]);
                if (v >= surface.positions.size())
                    continue;
                const Rigid by = blend.at(v);
                m.place = placementOf(by) * m.place, m.root = by.apply(m.root);
            }
        });
    }
    made->box = {};
    for (const outgrowth::Member &m : made->members)
        for (const Vec3f p : made->shapes[m.shape]->positions)
            made->box.add(m.place.apply(p));
    for (outgrowth::Root &r : out->roots) {
        const std::vector<Vec3f> at{r.at};
        const Rigid by = blend.at(vertexNear(mesh::nearestFaces(surface, at, reach)[0]));
        r.at = by.apply(r.at), r.normal = rotate(by.turn, r.normal);
    }
    out->made = std::move(made);
    return out;
}

} // namespace

Creature posed(const Creature &creature, const pose::Posture &posture, Posed what)
{
    Creature out = creature;
    out.posing.now = {};
    if (posture.isRest())
        return out;
    const Skeleton skeleton = skeletonOf(creature);
    const std::vector<Rigid> places = placesOf(skeleton, posture);
    std::vector<pose::Weights> weights(creature.pieces.size());
    std::vector<std::unique_ptr<Blend>> blends(creature.pieces.size());
    for (std::size_t k = 0; k < creature.pieces.size(); ++k) {
        const Piece &piece = *creature.pieces[k];
        if (piece.skin.isEmpty())
            continue;
        weights[k] = pose::weightsOf(piece.skin);
        blends[k] = std::make_unique<Blend>(skeleton, posture, weights[k]);
        auto next = std::make_shared<Piece>(piece);
        if (what == Posed::Whole)
            next->skin = pose::posed(piece.skin, *blends[k]);
        else
            next->skin.shown = pose::posed(piece.skin.shown, *blends[k]);
        out.pieces[k] = std::move(next);
    }
    poseForms(out, creature, skeleton, places);
    for (auto &o : out.outgrowths)
        for (std::size_t k = 0; k < creature.pieces.size(); ++k)
            if (creature.pieces[k]->id == o->parent && blends[k] && o->made && !o->made->members.empty())
                o = poseOutgrowth(*o, *creature.pieces[k], *blends[k]);
    return out;
}

std::vector<std::string> settle(Creature &creature)
{
    const auto lowest = [](const Creature &c) {
        float low = std::numeric_limits<float>::max();
        for (const auto &p : c.pieces)
            if (!p->isHidden && !p->skin.isEmpty())
                low = std::min(low, p->skin.shown.box().lo.y);
        return low;
    };
    const Creature now = posed(creature);
    const float low = lowest(now), floor = lowest(creature);
    const float near = 0.006f * creature.bounds().diagonal();
    creature.posing.now.whole.move.y += floor - low;
    for (Pin &pin : creature.posing.pins)
        pin.place.move.y += floor - low;
    const Skeleton skeleton = skeletonOf(creature);
    std::vector<bool> bears(skeleton.bones.size(), false);
    for (std::size_t k = 0; k < now.pieces.size(); ++k) {
        const mesh::Surface &shown = now.pieces[k]->skin.shown;
        const auto &weights = creature.pieces[k]->skin.boneWeights;
        for (std::size_t b = 0; b < shown.positions.blockCount() && !now.pieces[k]->isHidden; ++b) {
            if (shown.bounds[b]->box.lo.y > low + near)
                continue;
            for (std::size_t i = 0; i < shown.positions.countIn(b); ++i) {
                if (shown.positions.data(b)[i].y > low + near)
                    continue;
                int most = 0;
                std::uint32_t best = kNone;
                for (const skin::KeptMask &m : weights)
                    if (const std::uint8_t *w = m.values.data(b); w && int(w[i]) > most)
                        most = w[i], best = skeleton.find(pose::boneKeyOf(m.name));
                if (best != kNone)
                    bears[best] = true;
            }
        }
    }
    std::vector<std::string> out;
    for (std::size_t b = 0; b < bears.size(); ++b)
        if (bears[b])
            out.push_back(skeleton.bones[b].name);
    return out;
}

struct PieceInPose::Blended {
    Skeleton skeleton;
    pose::Weights weights;
    Blend blend;
    Blended(const Creature &creature, const Piece &piece)
        : skeleton(skeletonOf(creature)), weights(pose::weightsOf(piece.skin)), blend(skeleton, creature.posing.now, weights)
    {}
};

PieceInPose::PieceInPose(const Creature &creature, const Piece &piece)
    : m_piece(piece), m_blended(std::make_unique<Blended>(creature, piece)), m_standing(pose::posed(piece.skin, m_blended->blend))
{}

PieceInPose::~PieceInPose() = default;

skin::Skin PieceInPose::atRest(const skin::Skin &worked) const
{
    return pose::atRest(worked, m_standing, m_piece.skin, m_blended->blend);
}

std::vector<sculpt::PenSample> PieceInPose::twins(const std::vector<sculpt::PenSample> &samples) const
{
    const mesh::Surface &rest = m_piece.skin.shown, &standing = m_standing.shown;
    const Vec3f normal = normalized(m_piece.symmetry.normal), through = m_piece.symmetry.point;
    const auto across = [&](Vec3f way) { return way - normal * (2 * dot(way, normal)); };
    const auto vertexOf = [](const mesh::Surface &s, const mesh::Hit &hit) {
        return s.topology->faceOf(hit.block, hit.face).v[0];
    };
    std::vector<sculpt::PenSample> out;
    for (const sculpt::PenSample &sample : samples) {
        const auto hit = castRay(standing, {sample.origin, sample.direction});
        if (!hit)
            continue;
        const Rigid here = m_blended->blend.at(vertexOf(standing, *hit));
        const Vec3f at = through + across(here.applyInverse(hit->point) - through);
        const auto other = nearestPoint(rest, at);
        if (!other)
            continue;
        const Rigid there = m_blended->blend.at(vertexOf(rest, *other));
        const auto turned = [&](Vec3f way) { return rotate(there.turn, across(rotate(here.turn.conjugate(), way))); };
        sculpt::PenSample twin = sample;
        twin.direction = turned(sample.direction), twin.lean = turned(sample.lean);
        twin.origin = there.apply(at) - twin.direction * hit->distance;
        out.push_back(twin);
    }
    return out;
}

PoseCheck checkPose(const Creature &creature)
{
    PoseCheck out;
    const Skeleton skeleton = skeletonOf(creature);
    for (const pose::Turn &t : creature.posing.now.turns)
        if (const std::uint32_t b = skeleton.find(t.bone); b != kNone && beyondLimits(skeleton.bones[b], t.turn) > 0.05f)
            out.beyond.push_back(skeleton.bones[b].name);
    const Creature now = posed(creature);
    for (std::size_t k = 0; k < creature.pieces.size(); ++k) {
        const skin::Skin &rest = creature.pieces[k]->skin;
        if (rest.isEmpty())
            continue;
        std::vector<int> sums(rest.body.size(), 0);
        for (const skin::KeptMask &m : rest.boneWeights)
            for (std::size_t v = 0; v < sums.size(); ++v)
                sums[v] += m.values[v];
        for (const int s : sums) {
            out.unmoved += s == 0;
            if (s != 0)
                out.weightError = std::max(out.weightError, std::abs(double(s) / 255 - 1));
        }
        const mesh::PolyMesh was = toPolyMesh(rest.shown), is = toPolyMesh(now.pieces[k]->skin.shown);
        const std::vector<Vec3f> &a = was.positions, &b = is.positions;
        const float least = 0.5f * meanEdgeLength(rest.shown);
        for (const mesh::Face &f : was.faces)
            for (int c = 0; c < f.size(); ++c) {
                const std::uint32_t u = f.v[std::size_t(c)], v = f.v[std::size_t((c + 1) % f.size())];
                if (const float before = length(a[u] - a[v]); before > least)
                    out.stretch = std::max(out.stretch, double(length(b[u] - b[v]) / before));
            }
    }
    return out;
}

} // namespace bonemoss::document
