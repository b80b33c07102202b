#pragma once

#include "app/view/view_control.h"
#include "app/hand/hand_model.h"

#include <map>
#include <memory>

namespace bonemoss::app {

/// Turns pen samples into a stroke on the chosen piece and, at its end, into a command.
class StrokeControl : public ViewControl
{
public:
    Press press(const Pointer &pointer) override
    {
        const bool isBegun = begin(pointer.view.rayAt(pointer.at), pointer.pressure, pointer.held,
                                   pointer.modifiers & Qt::ShiftModifier, pointer.lean);
        return isBegun ? Press::Mine : Press::Camera;
    }
    void drag(const Pointer &pointer) override
    {
        move(pointer.view.rayAt(pointer.at), pointer.pressure, pointer.timeMs, pointer.lean);
    }
    void release(const Pointer &) override { end(); }

    StrokeControl(Session &session, HandModel &hand) : m_session(session), m_hand(hand) {}

    /// The tool a press would use now, with held keys taken into account.
    sculpt::StrokeSettings settingsFor(const HeldKeys &keys) const;
    /// False when there is nothing to stroke under the ray (or the piece is locked).
    /// isStraight: the stroke runs straight over the picture from the press to where the pen is.
    /// lean: of the pen, in creature space.
    bool begin(const mesh::Ray &ray, float pressure, const HeldKeys &keys, bool isStraight = false, Vec3f lean = {});
    /// What strokes that begin from now on go through; null for nothing.
    void holdStencil(std::shared_ptr<const sculpt::Stencil> stencil) { m_stencil = std::move(stencil); }
    /// Shows a whole stroke from the skin as it was; end() keeps it. False when the piece or layer cannot take it.
    bool show(const std::vector<sculpt::PenSample> &samples, const HeldKeys &keys);
    void move(const mesh::Ray &ray, float pressure, float timeMs, Vec3f lean = {});
    void end();
    void cancel() override;
    bool isActive() const { return m_live != nullptr; }
    const document::LiveStroke *live() const { return m_live.get(); }
    std::uint32_t piece() const { return m_piece; }
    std::vector<std::uint32_t> takeDirty();
    /// By piece, blocks that strokes changed after they were last drawn: their ends come between two frames.
    using Late = std::map<std::uint32_t, std::vector<std::uint32_t>>;
    Late takeLate();
    const std::vector<sculpt::PenSample> &samples() const { return m_samples; }

private:
    void add(const sculpt::PenSample &sample);
    void startLive();
    bool isWeighing() const; ///< strokes are laid on the weights of bones
    bool prepareWeights(const document::Piece *piece);
    bool prepareColour(const document::Piece *piece);
    bool prepare(const document::Piece *piece, const HeldKeys &keys);

    Session &m_session;
    HandModel &m_hand;
    std::unique_ptr<document::LiveStroke> m_live;
    Late m_late;
    sculpt::StrokeSettings m_settings;
    std::shared_ptr<const sculpt::Stencil> m_stencil;
    std::vector<sculpt::PenSample> m_samples;
    bool m_isPosed = false; ///< on the creature in its pose
    bool m_isStraight = false;
    bool m_takesWeights = false;
    std::string m_weighed; ///< the bone whose weights a stroke changes; empty for the skin itself
    std::uint32_t m_piece = 0, m_layer = 0, m_seed = 1;
};

extern const ControlRow kStrokeControl;

} // namespace bonemoss::app
