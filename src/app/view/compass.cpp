#include "app/view/compass.h"

#include "app/theme/table_words.h"
#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QPainter>

#include <vector>

namespace bonemoss::app {

namespace {

constexpr double kRadius = 44;

struct End {
    QString key, name;
    QPointF at;
    bool isFaint;
};

QPointF centreIn(QRectF view)
{
    return {view.right() - kRadius - 18, view.top() + kRadius + 16};
}

/// The ends that are shown: one that points at the viewer or away is told by its opposite.
std::vector<End> shownEnds(const portrait::Camera &camera, QRectF view)
{
    std::vector<End> out;
    for (const portrait::NamedView &v : portrait::anatomicalViews()) {
        const double x = double(dot(v.from, camera.right())), y = double(dot(v.from, camera.up()));
        const double away = double(dot(v.from, camera.forward()));
        if (std::hypot(x, y) < 0.45 || away > 0.4)
            continue;
        const QString title = tableWords("View", v.title);
        out.push_back(
            {textOf(v.key), title.section(QLatin1Char(' '), 0, 0), centreIn(view) + QPointF(x, -y) * (kRadius - 13), away > 0.3});
    }
    return out;
}

QRectF wordBox(QPointF at)
{
    return {at - QPointF(24, 8), QSizeF(48, 16)};
}

} // namespace

void paintCompass(QPainter &p, const portrait::Camera &camera, QRectF view)
{
    QColor disc = theme().field;
    disc.setAlpha(130);
    p.setPen(QPen(theme().line, 1));
    p.setBrush(disc);
    p.drawEllipse(centreIn(view), kRadius, kRadius);
    const QFont before = p.font();
    for (const End &e : shownEnds(camera, view)) {
        const bool isNose = e.key == QStringLiteral("nose");
        QColor ink = isNose ? (theme().isDark ? theme().moss : QColor("#3F5A26")) : theme().ink;
        ink.setAlphaF(e.isFaint ? 0.55f : 1.0f);
        p.setPen(ink);
        QFont f = before;
        f.setPointSizeF(8);
        f.setBold(isNose);
        p.setFont(f);
        p.drawText(wordBox(e.at), Qt::AlignCenter, e.name);
    }
    p.setPen(Qt::NoPen);
    p.setBrush(theme().moss);
    p.drawEllipse(centreIn(view), 2.5, 2.5);
    p.setFont(before);
}

QRectF compassArea(QRectF view)
{
    const double reach = kRadius - 13 + wordBox({}).width() / 2 + 2; // words may stand out of the disc
    return {centreIn(view) - QPointF(reach, reach), QSizeF(2 * reach, 2 * reach)};
}

QString compassKeyAt(const portrait::Camera &camera, QRectF view, QPointF at)
{
    for (const End &e : shownEnds(camera, view))
        if (wordBox(e.at).contains(at))
            return e.key;
    return {};
}

} // namespace bonemoss::app
