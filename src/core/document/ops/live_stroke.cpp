#include "document/ops/live_stroke.h"

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
    if (paints(m_settings.tool))
        paint(m_skin, dirty);
    return dirty;
}

sculpt::StrokeNeeds LiveStroke::needsOf(const skin::Skin &skin, std::uint32_t layer)
{
    sculpt::StrokeNeeds needs;
    needs.evenOut = [this](const sculpt::DabSet &dabs) { return evenOut(dabs); };
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
        paint(skin, m_stroke.touched());
        return Done{};
    }
    return skin::takeSculpted(skin, *m_surface, m_stroke.touched(), m_layer);
}

} // namespace bonemoss::document
