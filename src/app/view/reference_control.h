#pragma once

#include "app/view/view_control.h"
#include "app/view/form_control.h"
#include "document/reference.h"

#include <QObject>

namespace bonemoss::app {

/// Pictures in the view: moving, sizing and turning the chosen one, and lining one up by its crown and ground.
class ReferenceControl : public QObject, public ViewControl
{
    Q_OBJECT
public:
    Press press(const Pointer &pointer) override
    {
        return press(pointer.view, pointer.at, pointer.viewKey) ? Press::Mine : Press::NotMine;
    }
    void drag(const Pointer &pointer) override { drag(pointer.view, pointer.at); }
    void release(const Pointer &) override { release(); }
    void paintOn(QPainter &painter, const Projection &view, const QString &viewKey) override { paint(painter, view, viewKey); }
    QString hintFor(const HeldKeys &) const override { return hint(); }

    explicit ReferenceControl(Session &session, QObject *parent = nullptr);

    /// Pictures of an anatomical view, as they are to be shown now.
    std::vector<document::Reference> shown(const QString &viewKey) const;
    /// Asks for two presses: crown and ground (from above or below: nose and tail).
    void beginLineUp(std::uint32_t picture);
    bool isLiningUp() const { return m_lineUp != 0; }
    QString hint() const; ///< what the next press means; empty when it means nothing here

    /// False when the press met nothing of ours.
    bool press(const Projection &view, QPointF at, const QString &viewKey);
    void drag(const Projection &view, QPointF at);
    void release();
    void cancel() override;
    void paint(QPainter &painter, const Projection &view, const QString &viewKey) const;

signals:
    void linedUp(); ///< it stands as wanted now
    void changed(); ///< another picture or another step is shown

private:
    enum class Drag { None, Move, Size, Turn };
    struct Handle {
        Drag kind = Drag::None;
        QPointF at;
    };
    const document::Reference *chosen(const QString &viewKey) const;
    std::vector<Handle> handles(const document::Reference &r, const Projection &view) const;
    static Vec3f onItsPlane(const document::Reference &r, const Projection &view, QPointF at);

    Session &m_session;
    Drag m_drag = Drag::None;
    QPointF m_from;
    std::optional<document::Reference> m_start, m_changed;
    std::uint32_t m_lineUp = 0;
    std::optional<document::PicturePoint> m_crown;
};

extern const ControlRow kReferenceControl;

} // namespace bonemoss::app
