#pragma once

#include "app/anatomy/layer_row.h"
#include "app/session/growth_keeper.h"

#include <QTimer>
#include <QWidget>

class QCheckBox;
class QFrame;
class QPushButton;
class QVBoxLayout;

namespace bonemoss::app {

/// The detail layers of the chosen piece, topmost first: switch, strength, what kind each is, and which strokes go to.
class LayersPanel : public QWidget
{
    Q_OBJECT
public:
    LayersPanel(Session &session, GrowthKeeper &growths, QWidget *parent = nullptr);

    /// Switches the chosen layer off and on.
    void toggleChosen();
    /// Shows the chosen layer alone, or all again.
    void soloChosen();
    void addLayer();

signals:
    /// A piece as it would be while a strength is dragged; null when that is over.
    void previewChanged(std::shared_ptr<const document::Piece> piece);

private:
    void rebuild();
    LayerRow *rowOf(const document::Piece &piece, const skin::Layer &layer);
    LayerFacts factsOf(const document::Piece &piece, const skin::Layer &layer) const;
    void showMenu(std::uint32_t layer, QPoint at);
    void rename(std::uint32_t layer, const QString &name);
    void preview(std::uint32_t layer, double strength);
    void showAgain();
    void dragRow(std::uint32_t layer, int y);
    const skin::Layer *chosen() const;
    template <typename P> void later(P params); ///< on the chosen piece, after the event that asked for it

    Session &m_session;
    GrowthKeeper &m_growths;
    QVBoxLayout *m_rows;
    QWidget *m_body = nullptr;
    QFrame *m_mark = nullptr; ///< where a dragged row would go
    QPushButton *m_again;
    QCheckBox *m_byItself;
    std::vector<std::pair<LayerFacts, double>> m_builtAs;
    std::vector<std::uint32_t> m_builtOf;
};

} // namespace bonemoss::app
