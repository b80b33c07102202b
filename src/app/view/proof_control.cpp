#include "app/view/proof_control.h"

#include "app/hand/proof_settings.h"

#include <QPainter>
#include <QWidget>

#include <cmath>

namespace bonemoss::app {

namespace {
constexpr double kMark = 5; ///< radius of a mark, pixels
constexpr int kMostMarks = 150;
} // namespace

ProofControl::ProofControl(HandModel &hand, QWidget *view) : m_hand(hand)
{
    const auto show = [view] { view->update(); };
    QObject::connect(&held(), &ProofHand::reportChanged, view, show);
    QObject::connect(&held(), &ProofHand::findingChosen, view, show);
    QObject::connect(&held(), &ProofHand::slicedChanged, view, show);
    QObject::connect(&held(), &ProofHand::layerChanged, view, show);
}

int ProofControl::markAt(const Projection &view, QPointF at) const
{
    const auto &report = held().report();
    int best = -1;
    double nearest = 3 * kMark;
    for (int k = 0; report && k < std::min(int(report->findings.size()), kMostMarks); ++k) {
        const QPointF d = view.toScreen(report->findings[std::size_t(k)].at) - at;
        if (const double away = std::hypot(d.x(), d.y()); away < nearest)
            nearest = away, best = k;
    }
    return best;
}

ViewControl::Press ProofControl::press(const Pointer &pointer)
{
    if (!pointer.held.isNone())
        return Press::NotMine;
    if (held().sliced()) // no marks are shown then
        return Press::Camera;
    const int k = markAt(pointer.view, pointer.at);
    if (k < 0)
        return Press::Camera;
    held().choose(k);
    return Press::Mine;
}

/// The layer that is looked at, where it lies in the creature.
void ProofControl::paintLayer(QPainter &p, const Projection &view) const
{
    const proof::Sliced &s = *held().sliced();
    const proof::Layers &l = s.layers;
    const int k = held().layer();
    QList<QLineF> lines;
    const int step = std::max(1, l.rows / 250);
    for (int z = 0; z < l.rows; z += step)
        for (const proof::Run run : l.row(k, z))
            lines << QLineF(view.toScreen(s.toCreature(l.middleOf(k, z, float(run.begin) - 0.5f))),
                            view.toScreen(s.toCreature(l.middleOf(k, z, float(run.end) - 0.5f))));
    p.setPen(QPen(QColor(255, 226, 170, 150), 1.6));
    p.drawLines(lines);
    p.setPen(QPen(colourOf(proof::Severity::Spoils), 2));
    for (const proof::Region &r : s.islands)
        if (r.layer == k) {
            const QPointF at = view.toScreen(s.toCreature(r.at));
            p.drawEllipse(at, 8, 8);
            p.drawLine(at + QPointF(-4, -4), at + QPointF(4, 4)), p.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4));
        }
}

void ProofControl::paintOn(QPainter &p, const Projection &view, const QString &)
{
    p.setRenderHint(QPainter::Antialiasing);
    if (held().sliced())
        return paintLayer(p, view); // findings again once the creature changes
    const auto &report = held().report();
    if (!report)
        return;
    const auto &all = report->findings;
    for (int k = std::min(int(all.size()), kMostMarks); k-- > 0;) { // the worst on top
        const proof::Finding &f = all[std::size_t(k)];
        const QPointF at = view.toScreen(f.at);
        if (!view.area.contains(at))
            continue;
        const QColor colour = colourOf(f.severity);
        const bool isChosen = k == held().chosen();
        p.setPen(QPen(QColor(20, 18, 16, 200), 3.5)), p.setBrush(Qt::NoBrush);
        p.drawEllipse(at, kMark, kMark);
        p.setPen(QPen(colour, 2)), p.setBrush(isChosen ? QBrush(colour) : QBrush(Qt::NoBrush));
        p.drawEllipse(at, kMark, kMark);
        if (!isChosen)
            continue;
        const QPointF edge = view.toScreen(f.at + view.camera.right() * f.radius);
        const double ring = std::hypot(edge.x() - at.x(), edge.y() - at.y());
        if (ring > 2 * kMark) {
            p.setBrush(Qt::NoBrush), p.setPen(QPen(colour, 1.5, Qt::DashLine));
            p.drawEllipse(at, ring, ring);
        }
    }
}

QString ProofControl::hintFor(const HeldKeys &) const
{
    if (held().sliced())
        return tr("The layer is drawn where it lies; rings are what begins in the air");
    return held().report() ? tr("Press a mark to see what was found there") : tr("Check what a printer will make of it");
}

const ControlRow kProofControl{
    [](const ControlHost &host) -> std::unique_ptr<ViewControl> { return std::make_unique<ProofControl>(host.hand, host.view); }};

} // namespace bonemoss::app
