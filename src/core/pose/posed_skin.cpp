#include "pose/posed_skin.h"

#include "base/parallel.h"
#include "pose/cells.h"
#include "pose/stretch.h"

#include <algorithm>

namespace bonemoss::pose {

using mesh::BlockArray;
using skin::Layer;
using skin::LayerDrive;

namespace {

/// Runs on each block of a list, on all threads.
template <typename Use> void eachOf(const std::vector<std::uint32_t> &blocks, const Use &use)
{
    forEachBlock(blocks.size(), 1, [&](BlockRange r) { use(blocks[r.begin]); });
}

std::vector<std::uint32_t> listOf(const std::vector<bool> &marks)
{
    std::vector<std::uint32_t> out;
    for (std::uint32_t b = 0; b < marks.size(); ++b)
        if (marks[b])
            out.push_back(b);
    return out;
}

/// Whether two states of a skin have the same layers, each shown likewise in a pose.
bool hasSameLayers(const skin::Skin &a, const skin::Skin &b)
{
    return std::equal(a.layers.begin(), a.layers.end(), b.layers.begin(), b.layers.end(), [](const Layer &x, const Layer &y) {
        return x.id == y.id && x.shownStrength() == y.shownStrength() && x.strength == y.strength && x.isOn == y.isOn
               && x.isAside == y.isAside && x.drive == y.drive && x.rigid == y.rigid;
    });
}

bool isDriven(const Layer &l)
{
    return l.drive.by != LayerDrive::By::None && l.isOn && !l.isAside && l.strength != 0;
}

} // namespace

PosedSkin::Points PosedSkin::standingOf(const BlockArray<Vec3f> &values, const BlockArray<Vec3f> *extra,
                                        std::uint32_t block) const
{
    auto out = std::make_shared<mesh::Block<Vec3f>>();
    auto &p = out->values;
    if (values.has(block))
        p.assign(values.data(block), values.data(block) + values.countIn(block));
    else
        p.resize(values.countIn(block));
    if (extra && extra->has(block))
        for (std::size_t i = 0; i < p.size(); ++i)
            p[i] += extra->data(block)[i];
    m_blend.apply(block, {p.data(), p.size()});
    return out;
}

/// Works out what driven layers add, and marks the blocks in which it changed as needed.
void PosedSkin::drive(const std::vector<float> &shares, std::vector<bool> &needed, const PosedSkin *before)
{
    const std::size_t blocks = needed.size();
    const auto &topology = *m_rest.shown.topology;
    std::vector<bool> bare = needed;
    m_bare = before ? before->m_bare : m_rest.shown.positions;
    for (std::uint32_t b = 0; b < blocks; ++b)
        if (bare[b] && m_blend.isStill(b))
            m_bare.takeFrom(m_rest.shown.positions, b), bare[b] = false;
    const std::vector<std::uint32_t> toPose = listOf(bare);
    eachOf(toPose, [&](std::uint32_t b) { m_bare.put(b, standingOf(m_rest.shown.positions, nullptr, b)); });

    std::vector<bool> again(blocks, false);
    for (std::uint32_t b = 0; b < blocks; ++b) {
        const auto &beside = topology.block(b).blocksBeside();
        const bool isNear = needed[b] || std::any_of(beside.begin(), beside.end(), [&](std::uint32_t o) { return needed[o]; });
        for (std::size_t k = 0; k < m_rest.layers.size() && !again[b]; ++k) {
            const Layer &l = m_rest.layers[k];
            if (isDriven(l) && l.offsets.has(b))
                again[b] = !before || (l.drive.isOfStretch() && isNear) || needed[b] || before->m_shares[k] != shares[k];
        }
        if (!again[b] && needed[b]) // it may have held some before
            m_stretch.put(b, nullptr), m_extra.put(b, nullptr);
    }
    std::vector<Layer> full; // without what drives them
    for (const Layer &l : m_rest.layers)
        if (full.emplace_back(l); isDriven(l))
            full.back().drive = {};
    const std::vector<std::uint32_t> list = listOf(again);
    eachOf(list, [&](std::uint32_t b) {
        const std::size_t n = m_rest.body.countIn(b);
        const auto ofStretch = std::make_shared<mesh::Block<Vec3f>>(), all = std::make_shared<mesh::Block<Vec3f>>();
        ofStretch->values.resize(n), all->values.resize(n);
        std::vector<Vec3f> own(n);
        std::vector<Stretch> stretch;
        for (std::size_t k = 0; k < m_rest.layers.size(); ++k) {
            const Layer &l = m_rest.layers[k];
            if (!isDriven(l) || !l.offsets.has(b))
                continue;
            std::fill(own.begin(), own.end(), Vec3f{});
            addShown(full[k], b, 1, own);
            if (l.drive.by == LayerDrive::By::Pose) {
                for (std::size_t i = 0; i < n; ++i)
                    all->values[i] += own[i] * shares[k];
                continue;
            }
            if (stretch.empty())
                stretch = stretchOf(m_rest.shown, m_bare, b);
            const float atRest = l.drive.shareAtRest();
            for (std::size_t i = 0; i < n; ++i)
                ofStretch->values[i] += own[i] * (l.drive.shareAt(stretch[i].of(l.drive.by)) - atRest);
        }
        for (std::size_t i = 0; i < n; ++i)
            all->values[i] += ofStretch->values[i];
        const auto orNone = [](const Points &p) {
            const auto &v = p->values;
            return std::all_of(v.begin(), v.end(), [](Vec3f x) { return x == Vec3f{}; }) ? Points() : p;
        };
        m_stretch.put(b, orNone(ofStretch)), m_extra.put(b, orNone(all));
    });
    for (const std::uint32_t b : list)
        needed[b] = true;
}

PosedSkin::Bound PosedSkin::boundOf(const skin::Skin &rest, const PosedSkin *before)
{
    const auto isShared = [](const auto &a, const auto &b) {
        for (std::size_t k = 0; k < a.blockCount(); ++k)
            if (!a.sharesWith(b, k))
                return false;
        return true;
    };
    if (!hasStiffLayers(rest))
        return {weightsOf(rest), rest.body};
    if (before && before->m_rest.shown.topology == rest.shown.topology && isShared(before->m_rest.body, rest.body)
        && before->m_rest.boneWeights.size() == rest.boneWeights.size() && hasSameLayers(before->m_rest, rest)) {
        bool isSame = true;
        for (std::size_t k = 0; k < rest.boneWeights.size() && isSame; ++k)
            isSame = before->m_rest.boneWeights[k].name == rest.boneWeights[k].name
                     && isShared(before->m_rest.boneWeights[k].values, rest.boneWeights[k].values);
        for (std::size_t k = 0; k < rest.layers.size() && isSame; ++k)
            isSame = rest.layers[k].rigid == 0
                     || (isShared(before->m_rest.layers[k].offsets, rest.layers[k].offsets)
                         && isShared(before->m_rest.layers[k].mask, rest.layers[k].mask));
        if (isSame)
            return before->m_bound;
    }
    Bound out{weightsOf(rest), rest.body};
    stiffen(rest, out.weights, out.body);
    return out;
}

PosedSkin::PosedSkin(const skin::Skin &rest, const Skeleton &skeleton, const Posture &posture, Part part, const PosedSkin *before)
    : m_rest(rest), m_bound(boundOf(rest, before)), m_blend(skeleton, posture, m_bound.weights, &m_bound.body), m_part(part),
      m_standing(rest), m_isDriven(std::any_of(rest.layers.begin(), rest.layers.end(), isDriven)),
      m_shares(poseShares(rest.layers, posture)), m_stretch(rest.body.size()), m_extra(rest.body.size())
{
    const std::size_t blocks = rest.body.blockCount();
    if (before
        && (before->m_rest.shown.topology != rest.shown.topology || before->m_part != part
            || !hasSameLayers(before->m_rest, rest)))
        before = nullptr;
    if (before && m_isDriven)
        m_stretch = before->m_stretch, m_extra = before->m_extra;
    std::vector<bool> needed(blocks, !before);
    for (std::uint32_t b = 0; b < blocks && before; ++b) {
        const skin::Skin &was = before->m_rest;
        needed[b] = !m_blend.isSame(before->m_blend, b) || !rest.shown.positions.sharesWith(was.shown.positions, b)
                    || !rest.body.sharesWith(was.body, b) || !m_bound.body.sharesWith(before->m_bound.body, b);
        for (std::size_t k = 0; k < rest.layers.size() && !needed[b] && (part == Part::Whole || m_isDriven); ++k)
            needed[b] = !rest.layers[k].offsets.sharesWith(was.layers[k].offsets, b)
                        || !rest.layers[k].mask.sharesWith(was.layers[k].mask, b);
    }
    if (m_isDriven)
        drive(m_shares, needed, before);
    // What stands as it rests is shared with it; what stands as before, with that.
    std::vector<bool> moves(blocks);
    for (std::uint32_t b = 0; b < blocks; ++b)
        moves[b] = !m_blend.isStill(b) || m_extra.has(b);
    const std::vector<std::uint32_t> changed = listOf(needed);
    mesh::Surface &shown = m_standing.shown;
    if (before) {
        const auto hidden = shown.hidden;
        shown = before->m_standing.shown;
        shown.hidden = hidden;
    }
    m_isAsBefore = before && changed.empty();
    for (const std::uint32_t b : changed)
        if (!moves[b])
            shown.positions.takeFrom(rest.shown.positions, b);
    eachOf(changed, [&](std::uint32_t b) {
        if (moves[b])
            shown.positions.put(b, standingOf(rest.shown.positions, &m_extra, b));
    });
    std::vector<bool> isNear = needed; // normals of borders follow what lies beside
    for (const std::uint32_t b : changed)
        for (const std::uint32_t o : rest.shown.topology->block(b).blocksBeside())
            isNear[o] = true;
    std::vector<std::uint32_t> anew, asRest;
    for (const std::uint32_t b : listOf(isNear)) {
        const auto &beside = rest.shown.topology->block(b).blocksBeside();
        const bool rests = !moves[b] && std::none_of(beside.begin(), beside.end(), [&](std::uint32_t o) { return moves[o]; });
        (rests ? asRest : anew).push_back(b);
    }
    if (before) {
        for (const std::uint32_t b : asRest)
            shown.normals.takeFrom(rest.shown.normals, b), shown.bounds[b] = rest.shown.bounds[b];
        updateTree(shown, asRest);
    }
    updateBlocks(shown, anew);
    if (part == Part::Seen)
        return;
    m_standing.links.clear(), m_standing.level = 0; // the other levels stay at rest
    for (std::size_t k = 0; k < m_standing.layers.size(); ++k)
        if (Layer &l = m_standing.layers[k]; l.drive.by == LayerDrive::By::Pose) // it stands in full as far as it shows
            l.strength *= m_shares[k], l.drive = {};
    if (before) {
        for (std::uint32_t b = 0; b < blocks; ++b)
            if (!needed[b]) {
                m_standing.body.takeFrom(before->m_standing.body, b);
                for (std::size_t k = 0; k < m_standing.layers.size(); ++k)
                    m_standing.layers[k].offsets.takeFrom(before->m_standing.layers[k].offsets, b);
            }
    }
    eachOf(changed, [&](std::uint32_t b) {
        if (!moves[b])
            return;
        m_standing.body.put(b, standingOf(rest.body, &m_stretch, b));
        for (std::size_t k = 0; k < m_standing.layers.size(); ++k)
            if (const auto &offsets = rest.layers[k].offsets; offsets.has(b)) {
                auto turned = std::make_shared<mesh::Block<Vec3f>>();
                turned->values.assign(offsets.data(b), offsets.data(b) + offsets.countIn(b));
                m_blend.turn(b, {turned->values.data(), turned->values.size()});
                m_standing.layers[k].offsets.put(b, std::move(turned));
            }
    });
}

skin::Skin PosedSkin::atRest(const skin::Skin &worked) const
{
    skin::Skin out = worked;
    out.links = m_rest.links, out.level = m_rest.level;
    std::vector<std::uint32_t> changed;
    for (std::uint32_t b = 0; b < m_rest.body.blockCount(); ++b) {
        bool isChanged = worked.layers.size() != m_standing.layers.size();
        if (worked.body.sharesWith(m_standing.body, b)) {
            out.body.takeFrom(m_rest.body, b);
        } else {
            isChanged = true;
            Vec3f *p = out.body.edit(b);
            m_blend.undo(b, {p, out.body.countIn(b)});
            for (std::size_t i = 0; i < out.body.countIn(b) && m_stretch.has(b); ++i)
                p[i] = p[i] - m_stretch.data(b)[i];
        }
        for (Layer &l : out.layers) {
            const Layer *before = m_standing.layer(l.id), *own = m_rest.layer(l.id);
            if (before && own && l.offsets.sharesWith(before->offsets, b)) {
                l.offsets.takeFrom(own->offsets, b);
            } else if (l.offsets.has(b)) {
                isChanged = true;
                m_blend.turnBack(b, {l.offsets.edit(b), l.offsets.countIn(b)});
            }
            isChanged = isChanged || !before || before->shownStrength() != l.shownStrength();
        }
        if (isChanged)
            changed.push_back(b);
    }
    for (Layer &l : out.layers)
        if (const Layer *before = m_standing.layer(l.id), *own = m_rest.layer(l.id);
            before && own && own->drive.by == LayerDrive::By::Pose && l.strength == before->strength)
            l.strength = own->strength, l.drive = own->drive;
    const auto hidden = out.shown.hidden;
    out.shown = m_rest.shown;
    out.shown.hidden = hidden;
    mixBlocks(out, changed);
    return out;
}

} // namespace bonemoss::pose
