#pragma once

#include "command/forms/form_fields.h"
#include "app/view/view_control.h"
#include "app/hand/hand_model.h"
#include "app/view/form_shapes.h"
#include "app/view/projection.h"

#include <QCoreApplication>
#include <nlohmann/json_fwd.hpp>

#include <memory>
#include <optional>
#include <vector>

class QPainter;

namespace bonemoss::app {

/// Choosing, drawing and handling forms in the view. A drag works on a preview; one command goes to the
/// session at its end.
class FormControl : public ViewControl
{
    Q_DECLARE_TR_FUNCTIONS(FormControl)
public:
    Press press(const Pointer &pointer) override
    {
        return press(pointer.view, pointer.at, pointer.modifiers) ? Press::Mine : Press::Camera;
    }
    void drag(const Pointer &pointer) override { drag(pointer.view, pointer.at, pointer.modifiers); }
    void release(const Pointer &pointer) override { release(pointer.view); }
    bool hover(const Pointer &pointer) override { return hover(pointer.view, pointer.at); }
    void paintOn(QPainter &painter, const Projection &view, const QString &) override { paintHandles(painter, view); }
    const document::Creature *tried() override { return m_preview.get(); }

    FormControl(Session &session, HandModel &hand);
    ~FormControl() override;

    /// The creature to show: the session's, or the preview of the drag in hand.
    const document::Creature &shown() const { return m_preview ? *m_preview : m_session.creature(); }
    /// Lights what a press here would take; true when that is something else than before.
    bool hover(const Projection &view, QPointF at);
    /// False when the press met nothing of ours: the camera may have it. With Shift a press adds to what is chosen, and
    /// off the forms draws a rectangle around what shall be.
    bool press(const Projection &view, QPointF at, Qt::KeyboardModifiers held);
    void drag(const Projection &view, QPointF at, Qt::KeyboardModifiers held);
    void release(const Projection &view);
    void cancel() override;
    bool isActive() const { return m_drag != Drag::None; }
    bool meetsHandle(const Projection &view, QPointF at) const { return nearestHandle(view, at).kind != Drag::None; }
    std::uint32_t lit() const { return m_lit; }
    std::optional<Vec3f> pointUnder(const Projection &view, QPointF at);
    void paintHandles(QPainter &painter, const Projection &view) const;

private:
    enum class Drag { None, Move, MoveAxis, Turn, Size, PathPoint, PathRadius, SidePoint, Param, NewForm, NewPart, Rectangle };
    struct Handle {
        Drag kind = Drag::None;
        int axis = 0;  ///< of MoveAxis, Turn; which curve of SidePoint
        int point = 0; ///< of PathPoint, PathRadius, SidePoint, Param
        QPointF at;
    };
    // form_handles.cpp
    std::vector<Handle> handles(const Projection &view) const;
    Handle nearestHandle(const Projection &view, QPointF at) const;
    Vec3f middleOfChosen() const;
    bool isLit(const Handle &h) const;
    // form_drawing.cpp
    Vec3f placeFor(const Projection &view, QPointF at, FormShapes::Hit &hit);
    void startNew(const Projection &view, QPointF at);
    void dragNew(const Projection &view, QPointF at);
    void insertAt(const Projection &view);
    bool startPart(const Projection &view, QPointF at);
    void addDrawn(Vec3f point, float mm);
    void drawSide(const Projection &view, Vec3f end);
    command::InsertPart m_newPart; ///< of Drag::NewPart
    command::AddForm newForm() const;
    nlohmann::json withName(nlohmann::json command) const;
    void finishNew(const nlohmann::json &command);
    // form_control.cpp
    const armature::Form *single() const; ///< the chosen form, when it is one alone
    void dragWhole(const Projection &view, QPointF at);
    void dragPart(const Projection &view, QPointF at);
    Vec3f snapped(const Projection &view, Vec3f p, float below);
    bool tryCommand(const nlohmann::json &command);

    Session &m_session;
    HandModel &m_hand;
    Drag m_drag = Drag::None;
    Handle m_handle, m_litHandle;
    std::uint32_t m_lit = 0;
    QPointF m_from, m_now;
    Vec3f m_start;
    FormShapes::Hit m_startHit;
    Transform m_world;
    float m_below = 0; ///< how far the chosen form reaches below its joint, mm
    bool m_snaps = true;
    QString m_snapWords;                           ///< what a drag snapped to, shown beside it
    std::vector<armature::PathPoint> m_path;       // creature space
    std::vector<Vec3f> m_drawn;                    // of a tube, profile or side curve
    std::vector<Vec3f> m_crownLine, m_pendingLine; // of a body that is still without its belly
    std::unique_ptr<document::Creature> m_preview;
    std::unique_ptr<nlohmann::json> m_command;
    FormShapes m_shapes;
};

extern const ControlRow kFormControl;

} // namespace bonemoss::app
