#pragma once

#include "app/hand/armature_hand.h"
#include "app/hand/detail_hand.h"
#include "app/session/session.h"
#include "base/space_map.h"
#include "growth/growth.h"
#include "sculpt/stroke.h"

#include <QObject>
#include <QPointF>

#include <array>
#include <map>
#include <memory>
#include <typeindex>
#include <utility>
#include <vector>

namespace bonemoss::app {

/// Which part of a piece is moved: what is not masked, of that one island, or one group.
enum class DeformPart { Free, Island, Group };

/// Moving by a handle, or bending and the like along an axis, while it is set up. Amount in degrees (bend, twist) or times
/// (taper, stretch).
struct DeformPlan {
    bool isOn = false;
    bool moves = false; ///< by the handle
    Vec3f pivot, by, scale{1, 1, 1};
    Quat turn;
    bool placesHandle = false; ///< drags of the handle move it alone
    bool isTwinned = false;    ///< the same beyond the piece's plane of symmetry
    bool isSoft = false;       ///< from nothing at the axis' beginning to all at its end
    DeformPart part = DeformPart::Free;
    std::optional<Vec3f> island;
    std::string group;
    SpaceMapKind kind = SpaceMapKind::Bend;
    Vec3f from, to{0, 1, 0};
    int side = 2; ///< bend: towards left, right, crown, belly, nose, tail
    float amount = 0;
};

/// A picture held before the view, for strokes to go through; its place in shares of the view, so that it stays where it is
/// while the camera moves.
struct StencilPlan {
    bool isOn = false, isInverted = false;
    std::string stamp = "scales";
    QPointF middle{0.5, 0.5};
    double size = 0.4; ///< its height, of the view's
    double angle = 0;  ///< radians
};

/// mm that the radius of a tool may have in the hand: its slider and its key go as far.
inline constexpr float kLeastToolSize = 0.2f, kMostToolSize = 100, kUsualToolSize = 12;

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
    bool strokes() const;      ///< a press on the skin begins a stroke, on the bench in use
    void toolBefore();         ///< back to the tool held before this one
    void pickTile(int number); ///< by its number key, 1 first

    const sculpt::StrokeSettings &settings(sculpt::Tool tool) const { return m_settings[std::size_t(tool)]; }
    const sculpt::StrokeSettings &settings() const { return settings(tool()); }
    /// Changes the settings of the tool in hand.
    template <typename Change> void change(const Change &edit)
    {
        edit(m_settings[std::size_t(tool())]);
        emit settingsChanged();
    }
    /// The colour that tools paint with; entry: of the palette, 0 for none.
    void setColour(Vec3f srgb, std::uint32_t entry);
    bool isMirrored() const { return m_isMirrored; }
    void setMirrored(bool on);
    /// Sizes keep their width on the screen: they follow when the view comes nearer or goes away.
    bool tintsTouch() const { return m_tintsTouch; } ///< what a stroke would touch is tinted before pressing
    void setTintsTouch(bool on);
    bool isSizeOnScreen() const { return m_isSizeOnScreen; }
    void setSizeOnScreen(bool on);
    void viewScaled(float factor); ///< mm in a pixel now against before
    MousePressure mousePressure() const { return m_mousePressure; }
    void setMousePressure(MousePressure mode, float slider);
    float mouseSlider() const { return m_mouseSlider; }

    /// Point and normal of the plane that the last stroke of Plane went to.
    const std::optional<std::pair<Vec3f, Vec3f>> &lastPlane() const { return m_lastPlane; }
    void setLastPlane(Vec3f point, Vec3f normal);

    ArmatureHand &armature() { return m_armature; }
    const ArmatureHand &armature() const { return m_armature; }
    DetailHand &detail() { return of<DetailHand>(); }
    const DetailHand &detail() const { return of<DetailHand>(); }
    /// What is held on a bench of its own.
    template <typename T> T &of() const
    {
        auto &made = m_benchHands[typeid(T)];
        if (!made) {
            made = std::make_unique<T>(m_session);
            follow(*made);
        }
        return static_cast<T &>(*made);
    }

    // Of the benches with brushes
    const StencilPlan &stencil() const { return m_stencil; }
    void setStencil(const StencilPlan &plan);
    bool drawsCurves() const { return m_drawsCurves; } ///< presses set points of a curve that the stroke is laid along
    void setDrawsCurves(bool on);
    bool fadesEnds() const { return m_fadesEnds; } ///< of such a stroke: thin at both ends
    void setFadesEnds(bool on);

    const DeformPlan &deform() const { return m_deform; }
    void setDeform(const DeformPlan &plan);

    void load();
    void store();

signals:
    void toolChanged();
    void stencilAsked(bool isPress); ///< pressed into the layer, or added to the mask; as it is held
    void curveAsked(bool lays);      ///< the curve in the view shall be laid, or left
    void settingsChanged();

private:
    Session &m_session;
    ArmatureHand m_armature;
    mutable std::map<std::type_index, std::unique_ptr<BenchHand>> m_benchHands;
    void follow(BenchHand &hand) const;
    std::array<sculpt::StrokeSettings, sculpt::kToolCount> m_settings;
    /// Of each bench: the tool in hand, and the one before it.
    struct Held {
        sculpt::Tool now, before;
    };
    Held &held();
    std::vector<Held> m_held; ///< by bench
    bool m_isMirrored = true, m_isSizeOnScreen = false, m_tintsTouch = false;
    DeformPlan m_deform;
    StencilPlan m_stencil;
    bool m_drawsCurves = false, m_fadesEnds = true;
    std::optional<std::pair<Vec3f, Vec3f>> m_lastPlane;
    MousePressure m_mousePressure = MousePressure::Full;
    float m_mouseSlider = 0.7f;
};

QString toolTitle(sculpt::Tool tool);
QString toolHint(sculpt::Tool tool); ///< what a stroke does, in words
/// Where the parts that the person saved are kept; made when not there.
QString ownPartsFolder();

} // namespace bonemoss::app
