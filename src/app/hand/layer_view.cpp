#include "app/hand/layer_view.h"

#include "app/hand/proof_settings.h"
#include "app/theme/theme.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>

namespace bonemoss::app {

namespace {
constexpr int kCurve = 84; ///< height, pixels
}

LayerView::LayerView(QWidget *parent) : QWidget(parent)
{
    setObjectName(QStringLiteral("layerView"));
    setAccessibleName(tr("Layer"));
    setMinimumHeight(260);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Preferred);
}

void LayerView::setSliced(std::shared_ptr<const proof::Sliced> sliced)
{
    m_sliced = std::move(sliced);
    update();
}

void LayerView::setLayer(int layer)
{
    m_layer = layer;
    update();
}

QRectF LayerView::curveArea() const
{
    return {4, double(height() - kCurve + 18), double(width() - 8), double(kCurve - 34)};
}

void LayerView::pick(QMouseEvent *e)
{
    const QRectF area = curveArea().adjusted(-4, -14, 4, 14);
    if (!m_sliced || !(e->buttons() & Qt::LeftButton) || !area.contains(e->position()))
        return;
    const double at = (e->position().x() - curveArea().left()) / std::max(1.0, curveArea().width());
    emit layerPicked(std::clamp(int(at * m_sliced->layers.count), 0, m_sliced->layers.count - 1));
}

void LayerView::paintEvent(QPaintEvent *)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), palette().color(QPalette::Base));
    if (!m_sliced || m_sliced->layers.count == 0)
        return;
    paintLayer(p, QRectF(4, 4, width() - 8, height() - kCurve - 8));
    paintCurve(p, curveArea());
}

void LayerView::paintLayer(QPainter &p, const QRectF &area) const
{
    const proof::Layers &l = m_sliced->layers;
    QImage picture(l.columns, l.rows, QImage::Format_ARGB32_Premultiplied);
    picture.fill(Qt::transparent);
    const QRgb solid = palette().color(QPalette::Text).rgb();
    for (int z = 0; z < l.rows; ++z) {
        auto *line = reinterpret_cast<QRgb *>(picture.scanLine(l.rows - 1 - z)); // the nose up
        for (const proof::Run run : l.row(m_layer, z))
            std::fill(line + run.begin, line + run.end, solid);
    }
    const double scale = std::min(area.width() / l.columns, area.height() / l.rows);
    const QRectF at(area.center().x() - scale * l.columns / 2, area.center().y() - scale * l.rows / 2, scale * l.columns,
                    scale * l.rows);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.drawImage(at, picture);
    // What begins in the air: a ring with a cross, and the word.
    for (const proof::Region &r : m_sliced->islands) {
        if (r.layer != m_layer)
            continue;
        const QPointF c(at.left() + double((r.at.x - l.origin.x) / l.cell) * scale,
                        at.bottom() - double((r.at.z - l.origin.z) / l.cell) * scale);
        p.setPen(QPen(colourOf(proof::Severity::Spoils), 2));
        p.drawEllipse(c, 7, 7);
        p.drawLine(c + QPointF(-4, -4), c + QPointF(4, 4)), p.drawLine(c + QPointF(-4, 4), c + QPointF(4, -4));
        p.drawText(c + QPointF(10, 4), tr("begins in the air"));
    }
}

void LayerView::paintCurve(QPainter &p, const QRectF &area) const
{
    const proof::Layers &l = m_sliced->layers;
    const auto largest = std::max_element(l.area.begin(), l.area.end());
    const double most = std::max(*largest, 1e-9), force = m_sliced->peelForce(int(largest - l.area.begin()));
    QPainterPath curve(area.bottomLeft());
    for (int x = 0; x <= int(area.width()); ++x) { // the largest of the layers of a pixel
        const int from = std::min(int(x * double(l.count) / area.width()), l.count - 1),
                  to = std::clamp(int((x + 1) * double(l.count) / area.width()), from + 1, l.count);
        curve.lineTo(area.left() + x,
                     area.bottom() - *std::max_element(l.area.begin() + from, l.area.begin() + to) / most * area.height());
    }
    curve.lineTo(area.bottomRight());
    QColor fill = palette().color(QPalette::Highlight);
    fill.setAlpha(90);
    p.fillPath(curve, fill);
    p.setPen(QPen(palette().color(QPalette::Text), 1));
    const QFont font = p.font();
    QFont small = font;
    small.setPointSizeF(font.pointSizeF() * 0.85);
    p.setFont(small);
    p.drawText(QPointF(area.left(), area.top() - 5),
               tr("Area by layer, up to %L1 mm²: %L2 N to peel").arg(most, 0, 'f', 0).arg(force, 0, 'f', 1));
    p.setPen(Qt::NoPen);
    p.setBrush(colourOf(proof::Severity::Spoils));
    for (int k = 0; k < l.count; ++k) // islands as ticks below
        if (m_sliced->islandsIn[std::size_t(k)] > 0)
            p.drawRect(QRectF(area.left() + (k + 0.5) / l.count * area.width() - 1, area.bottom() + 2, 2, 5));
    p.setPen(QPen(palette().color(QPalette::Text), 1.5));
    const double here = area.left() + (m_layer + 0.5) / l.count * area.width();
    p.drawLine(QPointF(here, area.top()), QPointF(here, area.bottom() + 8));
    p.setFont(font);
}

} // namespace bonemoss::app
