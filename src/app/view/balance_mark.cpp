#include "app/view/balance_mark.h"

#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QPainter>
#include <QPainterPath>

#include <cmath>

namespace bonemoss::app {

namespace {

QString tr(const char *words)
{
    return QCoreApplication::translate("Balance", words);
}

} // namespace

QString balanceWords(const armature::Balance &b)
{
    if (b.contact.size() < 3)
        return tr(QT_TRANSLATE_NOOP("Balance", "touches the floor at a point: it would tip"));
    if (b.stands())
        return tr(QT_TRANSLATE_NOOP("Balance", "stands, %1 mm to spare")).arg(double(b.margin), 0, 'f', 1);
    const Vec3f t = b.tip;
    const QString where = std::abs(t.z) > std::abs(t.x)
                              ? (t.z > 0 ? tr(QT_TRANSLATE_NOOP("Balance", "nose")) : tr(QT_TRANSLATE_NOOP("Balance", "tail")))
                          : t.x > 0 ? tr(QT_TRANSLATE_NOOP("Balance", "left"))
                                    : tr(QT_TRANSLATE_NOOP("Balance", "right"));
    return tr(QT_TRANSLATE_NOOP("Balance", "would tip towards %1, %2 mm outside its feet"))
        .arg(where)
        .arg(double(-b.margin), 0, 'f', 1);
}

void paintBalance(QPainter &p, const Projection &view, const armature::Balance &b)
{
    QPainterPath area;
    for (std::size_t i = 0; i < b.contact.size(); ++i)
        i == 0 ? area.moveTo(view.toScreen(b.contact[i])) : area.lineTo(view.toScreen(b.contact[i]));
    area.closeSubpath();
    const QColor colour = b.stands() ? theme().moss : theme().rust;
    QColor wash = colour;
    wash.setAlpha(46);
    p.setBrush(wash);
    p.setPen(QPen(colour, 1.4, b.stands() ? Qt::SolidLine : Qt::DashLine));
    p.drawPath(area);
    const QPointF weight = view.toScreen(b.weightPoint), foot = view.toScreen({b.weightPoint.x, b.floor, b.weightPoint.z});
    p.setPen(QPen(colour, 1.2, Qt::DotLine));
    p.drawLine(weight, foot);
    p.setPen(QPen(theme().field, 1.5));
    p.setBrush(colour);
    p.drawEllipse(weight, 4.5, 4.5);
    p.drawEllipse(foot, 3, 3);
}

} // namespace bonemoss::app
