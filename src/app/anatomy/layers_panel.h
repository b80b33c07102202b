#pragma once

#include "app/session/session.h"

#include <QTimer>
#include <QWidget>

class QVBoxLayout;

namespace bonemoss::app {

/// The left side, below: detail layers of the chosen piece, topmost first, and its body.
class LayersPanel : public QWidget
{
    Q_OBJECT
public:
    explicit LayersPanel(Session &session, QWidget *parent = nullptr);
    void toggleChosen(); ///< switches the chosen layer off or on

signals:
    /// While a strength slider moves: what the piece would look like, without a step in the history.
    void previewChanged(std::shared_ptr<const creature::Piece> piece);

private:
    void rebuild();
    void preview(std::uint32_t layer, double strength);
    void addLayer();

    Session &m_session;
    QVBoxLayout *m_rows;
    QWidget *m_body = nullptr;
    QString m_builtAs;
};

} // namespace bonemoss::app
