#pragma once

#include "app/session/session.h"

#include <QTransform>
#include <QWidget>

namespace bonemoss::app {

class PictureShelf;

/// Loose pictures beside each other: drag one to move it, the ground to slide, wheel to come nearer; a
/// double click shows all.
class PictureBoard : public QWidget
{
    Q_OBJECT
public:
    PictureBoard(Session &session, PictureShelf &shelf, QWidget *parent = nullptr);
    QSize sizeHint() const override { return {300, 220}; }
    /// Where a picture is on the board's own screen.
    QRectF boxOf(const document::Reference &r) const;

protected:
    void paintEvent(QPaintEvent *e) override;
    void mousePressEvent(QMouseEvent *e) override;
    void mouseMoveEvent(QMouseEvent *e) override;
    void mouseReleaseEvent(QMouseEvent *e) override;
    void mouseDoubleClickEvent(QMouseEvent *e) override;
    void wheelEvent(QWheelEvent *e) override;

private:
    std::vector<document::Reference> shown() const;
    QTransform toScreen() const;

    Session &m_session;
    PictureShelf &m_shelf;
    bool m_fits = true; ///< shows all of it until one slides or comes nearer
    QTransform m_own;
    std::uint32_t m_dragged = 0;
    bool m_slides = false;
    QPointF m_last, m_moved;
};

} // namespace bonemoss::app
