#include "document/ops/live_stroke.h"

#include "base/random.h"
#include "colour/palette.h"
#include "skin/colour_layers.h"
#include "skin/local_density.h"

namespace bonemoss::document {

LiveStroke::LiveStroke(const skin::Skin &skin, sculpt::StrokeSettings settings, std::uint32_t layer)
    : m_begunOn(skin.shown.topology), m_surface(std::make_unique<mesh::Surface>(skin.shown)),
      m_mask(std::make_unique<mesh::BlockArray<std::uint8_t>>(
          paints(settings.tool) ? mesh::BlockArray<std::uint8_t>(skin.body.size()) : skin.mask)),
      m_layer(layer), m_settings(settings), m_stroke(*m_surface, *m_mask, std::move(settings), needsOf(skin, layer))
{
    if (changesFaces(m_settings.tool) || paints(m_settings.tool))
        m_skin = skin;
    if (paints(m_settings.tool))
        m_before = skin;
    if (mixes(m_settings.tool) && m_settings.tool != sculpt::Tool::Spray)
        m_mixer = std::make_unique<skin::ColourMixer>(m_skin, layer);
}

/// One dab of Smear or Soften: farther the larger the ring is against the faces.
void LiveStroke::mix(const sculpt::DabSet &dabs, const std::vector<std::uint32_t> &blocks, std::vector<std::vector<float>> shares)
{
    for (std::size_t k = 0; k < blocks.size(); ++k)
        if (const std::uint8_t *kept = m_before.mask.data(blocks[k]); kept)
            for (std::size_t i = 0; i < shares[k].size(); ++i)
                shares[k][i] *= 1 - float(kept[i]) / 255;
    if (m_settings.tool == sculpt::Tool::Spray)
        return spray(blocks, shares);
    const float edge = std::max(meanEdgeLength(m_skin.shown), 1e-6f), radius = dabs[0].radius;
    if (m_settings.tool == sculpt::Tool::Soften) {
        const int passes = std::clamp(int(0.02f * radius * radius / (edge * edge)), 1, 12);
        return m_mixer->mix(m_skin, blocks, shares, {}, passes);
    }
    if (dabs[0].along == Vec3f{})
        return; // the stroke has not moved yet
    const int passes = std::clamp(int(std::lround(1.5f * m_settings.spacing * radius / edge)), 1, 16);
    for (const sculpt::Dab &dab : dabs) { // each twin along its own way, where it is the nearest
        std::vector<std::vector<float>> own = shares;
        for (std::size_t k = 0; k < blocks.size(); ++k)
            for (std::size_t i = 0; i < own[k].size(); ++i) {
                const Vec3f p = m_skin.shown.positions.data(blocks[k])[i];
                for (const sculpt::Dab &other : dabs)
                    if (squaredLength(p - other.centre) < squaredLength(p - dab.centre))
                        own[k][i] = 0;
            }
        m_mixer->mix(m_skin, blocks, own, dab.along, passes);
    }
}

/// One dot, in a shade of its own.
void LiveStroke::spray(const std::vector<std::uint32_t> &blocks, const std::vector<std::vector<float>> &shares)
{
    mesh::BlockArray<std::uint8_t> share(m_skin.body.size());
    std::vector<std::uint32_t> reached;
    for (std::size_t k = 0; k < blocks.size(); ++k) {
        if (std::none_of(shares[k].begin(), shares[k].end(), [](float s) { return s > 0.002f; }))
            continue;
        reached.push_back(blocks[k]);
        std::uint8_t *out = share.edit(blocks[k]);
        for (std::size_t i = 0; i < shares[k].size(); ++i)
            out[i] = std::uint8_t(std::lround(255 * std::clamp(shares[k][i], 0.0f, 1.0f)));
    }
    skin::ColourCoat coat;
    coat.finish = m_settings.finish;
    if (m_settings.laysColour) {
        const float by = m_settings.colourScatter;
        const std::uint64_t k = m_dots++ * 3;
        if (m_settings.entry && by <= 0) {
            coat.colour = skin::Ink{m_settings.colour, m_settings.entry};
        } else {
            colour::Oklch c = colour::toOklch(m_settings.colour);
            c.l = std::clamp(c.l + 0.18f * by * randomSigned(m_settings.seed, k), 0.02f, 0.99f);
            c.c = std::max(0.0f, c.c * (1 + 0.6f * by * randomSigned(m_settings.seed, k + 1)));
            c.h += 30 * by * randomSigned(m_settings.seed, k + 2);
            coat.colour = skin::Ink{colour::fromOklch(c), 0};
        }
    }
    const skin::Skin from = m_skin;
    skin::layCoat(m_skin, from, m_layer, coat, share, reached);
}

/// What is masked keeps its colour.
void LiveStroke::paint(skin::Skin &skin, std::span<const std::uint32_t> blocks) const
{
    mesh::BlockArray<std::uint8_t> share = *m_mask;
    for (const std::uint32_t b : blocks)
        if (const std::uint8_t *kept = m_before.mask.data(b); kept && share.has(b)) {
            std::uint8_t *s = share.edit(b);
            for (std::size_t i = 0; i < share.countIn(b); ++i)
                s[i] = std::uint8_t(s[i] * (255 - kept[i]) / 255);
        }
    skin::ColourCoat coat;
    if (m_settings.laysColour)
        coat.colour = skin::Ink{m_settings.colour, m_settings.entry};
    coat.finish = m_settings.finish, coat.isWiping = m_settings.tool == sculpt::Tool::Wipe;
    skin::layCoat(skin, m_before, m_layer, coat, share, blocks);
}

std::vector<std::uint32_t> LiveStroke::takeDirty()
{
    std::vector<std::uint32_t> dirty = m_stroke.takeDirty();
    if (m_mixer)
        skin::composeColours(m_skin, dirty);
    else if (paints(m_settings.tool) && !mixes(m_settings.tool))
        paint(m_skin, dirty);
    return dirty;
}

sculpt::StrokeNeeds LiveStroke::needsOf(const skin::Skin &skin, std::uint32_t layer)
{
    sculpt::StrokeNeeds needs;
    needs.evenOut = [this](const sculpt::DabSet &dabs) { return evenOut(dabs); };
    needs.mix = [this](const sculpt::DabSet &dabs, const std::vector<std::uint32_t> &blocks,
                       const std::vector<std::vector<float>> &shares) { mix(dabs, blocks, shares); };
    if (const skin::Layer *l = skin.layer(layer); l && m_settings.tool == sculpt::Tool::Restore) {
        skin::Layer seen = *l;
        applyLayerMask(seen);
        needs.layer = seen.offsets, needs.layerStrength = l->shownStrength();
    }
    return needs;
}

/// Takes over what was moved since the last change of faces.
Status LiveStroke::fold()
{
    if (m_settings.tool != sculpt::Tool::Tendril)
        return Done{};
    const Status taken = skin::takeSculpted(m_skin, *m_surface, m_stroke.touched(), m_layer);
    if (taken)
        *m_surface = m_skin.shown;
    return taken;
}

std::vector<std::uint32_t> LiveStroke::evenOut(const sculpt::DabSet &dabs)
{
    if (m_folded)
        m_folded = fold();
    if (!m_folded)
        return {};
    std::vector<skin::Spot> spots;
    for (const sculpt::Dab &d : dabs)
        spots.push_back({d.centre, d.normal, d.radius});
    using skin::Evening;
    const Evening how = m_settings.tool == sculpt::Tool::Tendril                             ? Evening::Both
                        : (m_settings.tool == sculpt::Tool::Denser) != m_settings.isReversed ? Evening::Finer
                                                                                             : Evening::Coarser;
    const auto changed = skin::evenOut(m_skin, spots, dabs[0].amount, how);
    if (!changed.empty()) {
        *m_surface = m_skin.shown;
        *m_mask = m_skin.mask;
    }
    return changed;
}

Status LiveStroke::finish(skin::Skin &skin)
{
    if (changesFaces(m_settings.tool)) {
        if (m_folded)
            m_folded = fold();
        if (!m_folded)
            return m_folded;
        constexpr std::size_t kRoom = 8; // one part in so many may stay unused
        if (m_skin.shown.topology->unusedCount() * kRoom > m_skin.body.size())
            skin::compact(m_skin);
        skin = m_skin;
        return Done{};
    }
    if (m_settings.tool == sculpt::Tool::Mask) {
        skin.mask = *m_mask;
        return Done{};
    }
    if (paints(m_settings.tool)) {
        const skin::ColourLayer *layer = skin::colourLayer(skin, m_layer);
        if (!layer || layer->isLocked)
            return Error{ErrorCode::BadValue, layer ? layer->name : "paint", "is locked; unlock it first"};
        skin.palette = m_skin.palette;
        if (mixes(m_settings.tool)) {
            if (m_mixer)
                skin::composeColours(m_skin, m_stroke.touched());
            skin.colourValues = m_skin.colourValues, skin.paint = m_skin.paint;
            return Done{};
        }
        paint(skin, m_stroke.touched());
        return Done{};
    }
    return skin::takeSculpted(skin, *m_surface, m_stroke.touched(), m_layer);
}

} // namespace bonemoss::document
