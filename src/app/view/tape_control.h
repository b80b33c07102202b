#pragma once

#include "app/hand/hand_model.h"
#include "app/view/view_control.h"
#include "app/view/projection.h"
#include "mesh/surface.h"

#include <QString>

#include <optional>
#include <vector>

class QPainter;

namespace bonemoss::app {

enum class TapeKind { Length, Girth, Angle };

/// The measuring tape: a length between two places, the girth where a line is drawn across a part, or the angle at
/// the second of three places. What was measured last stays shown until the next or until it is cleared.
class TapeControl : public ViewControl
{
public:
    explicit TapeControl(const HandModel &hand) : m_hand(hand) {}
    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override { drag(pointer.view, pointer.at, pointer.place()); }
    void release(const Pointer &pointer) override { release(pointer.view, pointer.surfaces()); }
    void cancel() override { clear(); }
    QString hintFor(const HeldKeys &) const override
    {
        return m_hand.armature().formTile() == FormTile::Tape ? hint() : QString();
    }

    TapeKind kind() const { return m_kind; }
    void setKind(TapeKind kind);
    /// under: the place on what lies under the pointer, if anything.
    void press(const Projection &view, QPointF at, std::optional<Vec3f> under);
    void drag(const Projection &view, QPointF at, std::optional<Vec3f> under);
    /// Finishes a line; girths are measured on these surfaces.
    void release(const Projection &view, const std::vector<const mesh::Surface *> &surfaces);
    void clear();
    void paint(QPainter &painter, const Projection &view) const;
    /// The result in words; unitMm is how long one unit of proportion is, 0 for none.
    QString words(float unitMm) const;
    QString hint() const;
    std::optional<float> value() const { return m_value; } ///< mm, or degrees

private:
    const HandModel &m_hand;
    TapeKind m_kind = TapeKind::Length;
    std::vector<Vec3f> m_places;
    std::vector<Vec3f> m_ring; ///< of a girth
    bool m_isClosed = true;
    float m_ringArea = 0;
    QPointF m_from, m_to;
    std::optional<float> m_value;
};

extern const ControlRow kTapeControl;

} // namespace bonemoss::app
