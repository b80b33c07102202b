#pragma once

#include "proof/sliced.h"

#include <QWidget>

#include <memory>

namespace bonemoss::app {

/// One layer of a print from above, and below it how large each layer is: the larger, the harder it is pulled off. A press there shows
/// that layer.
class LayerView : public QWidget
{
    Q_OBJECT
public:
    explicit LayerView(QWidget *parent = nullptr);
    void setSliced(std::shared_ptr<const proof::Sliced> sliced);
    void setLayer(int layer);
    QSize sizeHint() const override { return {260, 320}; }

signals:
    void layerPicked(int layer);

protected:
    void paintEvent(QPaintEvent *) override;
    void mousePressEvent(QMouseEvent *e) override { pick(e); }
    void mouseMoveEvent(QMouseEvent *e) override { pick(e); }

private:
    void pick(QMouseEvent *e);
    QRectF curveArea() const;
    void paintLayer(QPainter &p, const QRectF &area) const;
    void paintCurve(QPainter &p, const QRectF &area) const;

    std::shared_ptr<const proof::Sliced> m_sliced;
    int m_layer = 0;
};

} // namespace bonemoss::app
