#pragma once

#include "app/view/form_control.h"
#include "creature/reference.h"

#include <QObject>

namespace bonemoss::app {

/// Pictures in the view: moving, sizing and turning the chosen one, and lining one up by its crown and ground.
class ReferenceControl : public QObject
{
    Q_OBJECT
public:
    explicit ReferenceControl(Session &session, QObject *parent = nullptr);

    /// Pictures of an anatomical view, as they are to be shown now.
    std::vector<creature::Reference> shown(const QString &viewKey) const;
    /// Asks for two presses: crown and ground (from above or below: nose and tail).
    void beginLineUp(std::uint32_t picture);
    bool isLiningUp() const { return m_lineUp != 0; }
    QString hint() const; ///< what the next press means; empty when it means nothing here

    /// False when the press met nothing of ours.
    bool press(const Projection &view, QPointF at, const QString &viewKey);
    void drag(const Projection &view, QPointF at);
    void release();
    void cancel();
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
    const creature::Reference *chosen(const QString &viewKey) const;
    std::vector<Handle> handles(const creature::Reference &r, const Projection &view) const;
    static Vec3f onItsPlane(const creature::Reference &r, const Projection &view, QPointF at);

    Session &m_session;
    Drag m_drag = Drag::None;
    QPointF m_from;
    std::optional<creature::Reference> m_start, m_changed;
    std::uint32_t m_lineUp = 0;
    std::optional<creature::PicturePoint> m_crown;
};

} // namespace bonemoss::app
