#pragma once

#include "app/session/session.h"
#include "sculpt/stroke.h"

#include <QObject>

#include <array>

namespace bonemoss::app {

/// Tiles of the Armature bench: choose what is there, or draw a new form.
enum class FormTile { Choose, Ball, Ellipsoid, Limb, Block, Cone, Tube, Cylinder, Torus, Disc, Wedge, Turned, Body, Blob };
inline constexpr int kFormTileCount = int(armature::kFormKinds) + 1;
inline armature::FormKind kindOf(FormTile tile)
{
    return armature::FormKind(int(tile) - 1);
}

/// How the mouse presses when there is no pen.
enum class MousePressure { Full, Slider, Speed };

/// What the hand holds and how it is set. Not part of the creature; remembered between sessions.
class HandModel : public QObject
{
    Q_OBJECT
public:
    explicit HandModel(Session &session, QObject *parent = nullptr);

    sculpt::Tool tool() const; ///< of the bench in use
    void setTool(sculpt::Tool tool);
    void toolBefore(); ///< back to the tool held before this one
    std::vector<sculpt::Tool> toolsOf(Bench bench) const;
    FormTile formTile() const { return m_formTile; }
    void setFormTile(FormTile tile);
    void pickTile(int number); ///< by its number key, 1 first

    const sculpt::StrokeSettings &settings(sculpt::Tool tool) const { return m_settings[std::size_t(tool)]; }
    const sculpt::StrokeSettings &settings() const { return settings(tool()); }
    /// Changes the settings of the tool in hand.
    template <typename Change> void change(const Change &edit)
    {
        edit(m_settings[std::size_t(tool())]);
        emit settingsChanged();
    }
    bool isMirrored() const { return m_isMirrored; }
    void setMirrored(bool on);
    MousePressure mousePressure() const { return m_mousePressure; }
    void setMousePressure(MousePressure mode, float slider);
    float mouseSlider() const { return m_mouseSlider; }

    void load();
    void store() const;

signals:
    void toolChanged();
    void settingsChanged();

private:
    Session &m_session;
    std::array<sculpt::StrokeSettings, sculpt::kToolCount> m_settings;
    sculpt::Tool m_sculptTool = sculpt::Tool::Raise, m_detailTool = sculpt::Tool::Stamp, m_before = sculpt::Tool::Smooth;
    FormTile m_formTile = FormTile::Choose;
    bool m_isMirrored = true;
    MousePressure m_mousePressure = MousePressure::Full;
    float m_mouseSlider = 0.7f;
};

QString toolTitle(sculpt::Tool tool);
QString toolHint(sculpt::Tool tool); ///< what a stroke does, in words
QString formTileTitle(FormTile tile);
QString formTileHint(FormTile tile);

} // namespace bonemoss::app
