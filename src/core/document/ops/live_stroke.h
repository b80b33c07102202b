#pragma once

#include "skin/colour_layers.h"
#include "sculpt/stroke.h"

#include <memory>

namespace bonemoss::document {

/// A stroke on its way: works on a copy of the shown surface that shares every block it does not
/// touch. The window shows surface() as it grows; finish() writes it into a skin. Replaying the same
/// samples as a command gives the same bits.
class LiveStroke
{
public:
    /// A tool that changes faces needs a skin of one level. layer: of a tool that paints, the colour layer; it has to be there.
    LiveStroke(const skin::Skin &skin, sculpt::StrokeSettings settings, std::uint32_t layer);

    void add(const sculpt::PenSample &sample) { m_stroke.add(sample); }
    /// Blocks changed since the last call; of tools that paint, they are painted with it.
    std::vector<std::uint32_t> takeDirty();
    const mesh::Surface &surface() const { return *m_surface; }
    const mesh::BlockArray<std::uint8_t> &mask() const { return paints(m_settings.tool) ? m_skin.mask : *m_mask; }
    const sculpt::Stroke &stroke() const { return m_stroke; }
    /// Everything on the skin as the stroke has it, of a tool that changes faces or paints; else null.
    const skin::Skin *skin() const { return changesFaces(m_settings.tool) || paints(m_settings.tool) ? &m_skin : nullptr; }
    /// Of the skin it was begun on: finish() needs the same.
    const mesh::Topology *begunOn() const { return m_begunOn.get(); }
    /// Writes the result into the skin it was begun on. Fails as skin::takeSculpted, or where the colour layer is locked.
    Status finish(skin::Skin &skin);

private:
    Status fold();
    void paint(skin::Skin &skin, std::span<const std::uint32_t> blocks) const;
    std::vector<std::uint32_t> evenOut(const sculpt::DabSet &dabs);
    void mix(const sculpt::DabSet &dabs, const std::vector<std::uint32_t> &blocks, std::vector<std::vector<float>> shares);
    void spray(const std::vector<std::uint32_t> &blocks, const std::vector<std::vector<float>> &shares);
    sculpt::StrokeNeeds needsOf(const skin::Skin &skin, std::uint32_t layer);

    std::shared_ptr<const mesh::Topology> m_begunOn;
    skin::Skin m_skin;                          ///< what the stroke has made of it, for tools that change faces or paint
    skin::Skin m_before;                        ///< as it was, for tools that paint
    std::unique_ptr<skin::ColourMixer> m_mixer; ///< of tools that drag or blur
    std::uint64_t m_dots = 0;                   ///< of Spray, so far
    Status m_folded = Done{};
    std::unique_ptr<mesh::Surface> m_surface;
    std::unique_ptr<mesh::BlockArray<std::uint8_t>> m_mask; ///< of tools that paint: how much of the paint each vertex takes
    std::uint32_t m_layer;
    sculpt::StrokeSettings m_settings;
    sculpt::Stroke m_stroke;
};

} // namespace bonemoss::document
