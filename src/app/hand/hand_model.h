#pragma once

#include "app/session/session.h"
#include "base/space_map.h"
#include "growth/growth.h"
#include "sculpt/stroke.h"

#include <QObject>
#include <QPointF>

#include <array>
#include <utility>
#include <vector>

namespace bonemoss::app {

/// Tiles of the Armature bench: choose what is there, or draw a new form.
enum class FormTile {
    Choose,
    Ball,
    Ellipsoid,
    Limb,
    Block,
    Cone,
    Tube,
    Cylinder,
    Torus,
    Disc,
    Wedge,
    Turned,
    Body,
    Blob,
    Cage,
    Part,
    Tape
};
inline constexpr int kFormTileCount = int(FormTile::Tape) + 1;
inline bool isForm(FormTile tile)
{
    return tile != FormTile::Choose && tile < FormTile::Cage;
}
inline armature::FormKind kindOf(FormTile tile)
{
    return armature::FormKind(int(tile) - 1);
}

/// How deep a form begins that is drawn over another one.
enum class DrawDepth { Surface, Middle, Chosen };

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

/// A growth in the hand instead of a brush: a new one being set up, or one that stands.
struct Growing {
    const growth::GrowthKind *kind = nullptr; ///< null while a brush is in hand
    std::uint32_t layer = 0;                  ///< the growth that is changed; 0 for a new one
    bool picksScales = false;                 ///< a press picks one scale; else it draws a guide
    std::optional<Vec3f> scale;               ///< picked
    int guide = -1;                           ///< picked, by its number
};

/// What is chosen on a cage: faces, edges (as pairs of points, open ones as their face runs along them) or points.
struct CageChoice {
    std::vector<std::uint32_t> faces, points;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> edges;
    bool isEmpty() const { return faces.empty() && points.empty() && edges.empty(); }
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
    void toolBefore(); ///< back to the tool held before this one
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

    // Of the Detail bench
    bool harvests() const { return m_harvests; } ///< the next press takes a stamp from the skin
    void beginHarvest();
    void endHarvest();
    const Growing &growing() const { return m_growing; }
    void setGrowing(const Growing &growing);
    /// The rule in hand: of the layer that is changed, or of the new growth.
    growth::Growth rule() const;
    void setRule(const growth::Growth &rule);          ///< of a new growth of its kind
    bool growsInside() const { return m_growsInside; } ///< where the mask lies rather than where it does not
    void setGrowsInside(bool on) { m_growsInside = on; }
    bool showsFlow() const { return m_showsFlow; }
    void setShowsFlow(bool on);

    // Of the Armature bench
    bool snaps() const { return m_snaps; } ///< dragged joints go to middle plane, floor and other joints
    void setSnaps(bool on);
    DrawDepth drawDepth() const { return m_drawDepth; }
    void setDrawDepth(DrawDepth depth);
    float curveReach() const { return m_curveReach; } ///< share of a curve that follows a dragged point
    void setCurveReach(float share);
    std::size_t curvePoint() const { return m_curvePoint; } ///< the point of the chosen curve touched last
    void setCurvePoint(std::size_t point);

    const StencilPlan &stencil() const { return m_stencil; }
    void setStencil(const StencilPlan &plan);
    bool drawsCurves() const { return m_drawsCurves; } ///< presses set points of a curve that the stroke is laid along
    void setDrawsCurves(bool on);
    bool fadesEnds() const { return m_fadesEnds; } ///< of such a stroke: thin at both ends
    void setFadesEnds(bool on);

    const DeformPlan &deform() const { return m_deform; }
    void setDeform(const DeformPlan &plan);
    const QString &part() const { return m_part; } ///< name on the shelf, or a path to a part file
    void setPart(const QString &part);
    int cageKind() const { return m_cageKind; } ///< what a new one begins as: 0 box, 1 sheet, 2 strip
    void setCageKind(int kind) { m_cageKind = kind; }
    float cageReach() const { return m_cageReach; } ///< mm that follow faces that are moved
    void setCageReach(float mm) { m_cageReach = mm; }
    float cageWidth() const { return m_cageWidth; } ///< mm, of extrude, inset and bevel
    void setCageWidth(float mm) { m_cageWidth = mm; }
    const CageChoice &cageChoice() const { return m_cageChoice; } ///< on the chosen cage
    void setCageChoice(CageChoice choice);
    int tapeKind() const { return m_tapeKind; } ///< 0 length, 1 girth, 2 angle
    void setTapeKind(int kind);
    std::uint32_t copyInHand() const { return m_copyInHand; } ///< the one of a repeated form that is adjusted
    void setCopyInHand(std::uint32_t index) { m_copyInHand = index; }

    void load();
    void store();

signals:
    void toolChanged();
    void stencilAsked(bool isPress); ///< pressed into the layer, or added to the mask; as it is held
    void curveAsked(bool lays);      ///< the curve in the view shall be laid, or left
    void growingChanged();           ///< another scale or guide is picked, or presses do something else
    void settingsChanged();

private:
    void takeUpGrowth();

    Session &m_session;
    std::array<sculpt::StrokeSettings, sculpt::kToolCount> m_settings;
    /// Of each bench: the tool in hand, and the one before it.
    struct Held {
        sculpt::Tool now, before;
    };
    Held &held();
    std::vector<Held> m_held; ///< by bench
    FormTile m_formTile = FormTile::Choose;
    bool m_isMirrored = true, m_isSizeOnScreen = false, m_snaps = true, m_tintsTouch = false;
    DrawDepth m_drawDepth = DrawDepth::Surface;
    float m_curveReach = 0.25f;
    std::size_t m_curvePoint = 0;
    std::uint32_t m_copyInHand = 0;
    int m_tapeKind = 0, m_cageKind = 0;
    float m_cageReach = 0, m_cageWidth = 2;
    CageChoice m_cageChoice;
    DeformPlan m_deform;
    StencilPlan m_stencil;
    bool m_drawsCurves = false, m_fadesEnds = true;
    Growing m_growing;
    std::vector<growth::Growth> m_rules; ///< by kind, as last set
    bool m_harvests = false, m_growsInside = false, m_showsFlow = false;
    std::optional<std::pair<Vec3f, Vec3f>> m_lastPlane;
    QString m_part = QStringLiteral("paw");
    MousePressure m_mousePressure = MousePressure::Full;
    float m_mouseSlider = 0.7f;
};

QString toolTitle(sculpt::Tool tool);
QString toolHint(sculpt::Tool tool); ///< what a stroke does, in words
/// Where the parts that the person saved are kept; made when not there.
QString ownPartsFolder();
QString formTileTitle(FormTile tile);
QString formTileHint(FormTile tile);

} // namespace bonemoss::app
