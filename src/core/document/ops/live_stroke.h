#pragma once

#include "skin/skin.h"
#include "sculpt/stroke.h"

#include <memory>

namespace bonemoss::document {

/// A stroke on its way: works on a copy of the shown surface that shares every block it does not
/// touch. The window shows surface() as it grows; finish() writes it into a skin. Replaying the same
/// samples as a command gives the same bits.
class LiveStroke
{
public:
    /// A tool that changes faces needs a skin of one level.
    LiveStroke(const skin::Skin &skin, sculpt::StrokeSettings settings, std::uint32_t layer);

    void add(const sculpt::PenSample &sample) { m_stroke.add(sample); }
    std::vector<std::uint32_t> takeDirty() { return m_stroke.takeDirty(); }
    const mesh::Surface &surface() const { return *m_surface; }
    const mesh::BlockArray<std::uint8_t> &mask() const { return *m_mask; }
    const sculpt::Stroke &stroke() const { return m_stroke; }
    /// Everything on the skin as the stroke has it, of a tool that changes faces; else null.
    const skin::Skin *skin() const { return changesFaces(m_settings.tool) ? &m_skin : nullptr; }
    /// Of the skin it was begun on: finish() needs the same.
    const mesh::Topology *begunOn() const { return m_begunOn.get(); }
    /// Writes the result into the skin it was begun on. Fails as skin::takeSculpted.
    Status finish(skin::Skin &skin);

private:
    Status fold();
    std::vector<std::uint32_t> evenOut(const sculpt::DabSet &dabs);
    sculpt::StrokeNeeds needsOf(const skin::Skin &skin, std::uint32_t layer);

    std::shared_ptr<const mesh::Topology> m_begunOn;
    skin::Skin m_skin; ///< what the stroke has made of it, for tools that change faces
    Status m_folded = Done{};
    std::unique_ptr<mesh::Surface> m_surface;
    std::unique_ptr<mesh::BlockArray<std::uint8_t>> m_mask;
    std::uint32_t m_layer;
    sculpt::StrokeSettings m_settings;
    sculpt::Stroke m_stroke;
};

} // namespace bonemoss::document
