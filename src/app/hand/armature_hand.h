#pragma once

#include "armature/form.h"

#include <QObject>
#include <QString>

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

/// What is chosen on a cage: faces, edges (as pairs of points, open ones as their face runs along them) or points.
struct CageChoice {
    std::vector<std::uint32_t> faces, points;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> edges;
    bool isEmpty() const { return faces.empty() && points.empty() && edges.empty(); }
};

/// What the hand holds on the Armature bench, and how it is set.
class ArmatureHand : public QObject
{
    Q_OBJECT
public:
    FormTile formTile() const { return m_formTile; }
    void setFormTile(FormTile tile);
    bool snaps() const { return m_snaps; } ///< dragged joints go to middle plane, floor and other joints
    void setSnaps(bool on) { set(m_snaps, on); }
    DrawDepth drawDepth() const { return m_drawDepth; }
    void setDrawDepth(DrawDepth depth) { set(m_drawDepth, depth); }
    float curveReach() const { return m_curveReach; } ///< share of a curve that follows a dragged point
    void setCurveReach(float share) { set(m_curveReach, share); }
    std::size_t curvePoint() const { return m_curvePoint; } ///< the point of the chosen curve touched last
    void setCurvePoint(std::size_t point) { set(m_curvePoint, point); }
    const QString &part() const { return m_part; } ///< name on the shelf, or a path to a part file
    void setPart(const QString &part) { set(m_part, part); }
    int cageKind() const { return m_cageKind; } ///< what a new one begins as: 0 box, 1 sheet, 2 strip
    void setCageKind(int kind) { m_cageKind = kind; }
    float cageReach() const { return m_cageReach; } ///< mm that follow faces that are moved
    void setCageReach(float mm) { m_cageReach = mm; }
    float cageWidth() const { return m_cageWidth; } ///< mm, of extrude, inset and bevel
    void setCageWidth(float mm) { m_cageWidth = mm; }
    const CageChoice &cageChoice() const { return m_cageChoice; } ///< on the chosen cage
    void setCageChoice(CageChoice choice) { set(m_cageChoice, std::move(choice)); }
    int tapeKind() const { return m_tapeKind; } ///< 0 length, 1 girth, 2 angle
    void setTapeKind(int kind) { set(m_tapeKind, kind); }
    std::uint32_t copyInHand() const { return m_copyInHand; } ///< the one of a repeated form that is adjusted
    void setCopyInHand(std::uint32_t index) { m_copyInHand = index; }

signals:
    void tileChanged();
    void changed(); ///< a setting

private:
    template <typename T> void set(T &member, T value)
    {
        member = std::move(value);
        emit changed();
    }
    FormTile m_formTile = FormTile::Choose;
    bool m_snaps = true;
    DrawDepth m_drawDepth = DrawDepth::Surface;
    float m_curveReach = 0.25f;
    std::size_t m_curvePoint = 0;
    std::uint32_t m_copyInHand = 0;
    int m_tapeKind = 0, m_cageKind = 0;
    float m_cageReach = 0, m_cageWidth = 2;
    CageChoice m_cageChoice;
    QString m_part = QStringLiteral("paw");
};

QString formTileTitle(FormTile tile);
QString formTileHint(FormTile tile);

} // namespace bonemoss::app
