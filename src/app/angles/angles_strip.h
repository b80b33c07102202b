#pragma once

#include "app/session/latest.h"
#include "app/session/session.h"

#include <QImage>
#include <QTimer>
#include <QWidget>

#include <array>

namespace bonemoss::app {

/// Six live silhouettes. A click flies to that view; a double click pins the present state to compare
/// against: what was there then and is gone shows in lichen.
class AnglesStrip : public QWidget
{
    Q_OBJECT
public:
    explicit AnglesStrip(Session &session, QWidget *parent = nullptr);
    QSize sizeHint() const override { return {600, 108}; }
    void setCurrent(const QString &viewName);

signals:
    void viewChosen(const QString &key);
    void viewTakenBack(); ///< the click that chose it was half of a double click

protected:
    void paintEvent(QPaintEvent *e) override;
    void mousePressEvent(QMouseEvent *e) override;
    void mouseDoubleClickEvent(QMouseEvent *e) override;
    void resizeEvent(QResizeEvent *e) override;

private:
    QRect tile(int i) const;
    void redraw();

    Session &m_session;
    QTimer m_later;
    using Pictures = std::array<QImage, 6>;
    Pictures m_pictures;
    Latest<Pictures> m_next;
    std::shared_ptr<const document::Creature> m_pinned;
    QString m_current;
};

} // namespace bonemoss::app
