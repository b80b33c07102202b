#include "app/window/pen_simulator.h"

#include "base/files.h"

#include <QCoreApplication>
#include <QFile>
#include <QInputDevice>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QPointingDevice>
#include <QTabletEvent>

#include <algorithm>

namespace bonemoss::app {

PenSimulator::PenSimulator(QWidget *view, QObject *parent) : QObject(parent), m_view(view)
{
    m_timer.setSingleShot(true);
    connect(&m_timer, &QTimer::timeout, this, &PenSimulator::next);
}

PenSimulator::Strokes PenSimulator::read(const QString &path, QString *trouble)
{
    const auto fail = [&](const QString &why) {
        *trouble = tr("%1: %2. Nothing was played.").arg(path, why);
        return Strokes{};
    };
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly))
        return fail(file.errorString());
    const QJsonObject doc = QJsonDocument::fromJson(file.readAll()).object();
    if (doc[QStringLiteral("format")].toString() != QStringLiteral("bonemoss-pen"))
        return fail(tr("is not a recording of pen strokes"));
    Strokes strokes;
    for (const auto &s : doc[QStringLiteral("strokes")].toArray()) {
        std::vector<Mark> marks;
        for (const auto &m : s.toArray()) {
            const QJsonArray row = m.toArray();
            if (row.size() != 4)
                return fail(tr("a mark needs four numbers"));
            marks.push_back({row[0].toDouble(), row[1].toDouble(), std::clamp(row[2].toDouble(), 0.0, 1.0), row[3].toDouble()});
        }
        if (!marks.empty())
            strokes.push_back(std::move(marks));
    }
    return strokes.empty() ? fail(tr("holds no strokes")) : strokes;
}

bool PenSimulator::write(const QString &path, const Strokes &strokes)
{
    QJsonArray all;
    for (const auto &s : strokes) {
        QJsonArray marks;
        for (const Mark &m : s)
            marks.append(QJsonArray{m.x, m.y, m.pressure, m.timeMs});
        all.append(marks);
    }
    const QByteArray text = QJsonDocument(QJsonObject{{QStringLiteral("format"), QStringLiteral("bonemoss-pen")},
                                                      {QStringLiteral("version"), 1},
                                                      {QStringLiteral("strokes"), all}})
                                .toJson(QJsonDocument::Compact);
    return bool(writeFile(QFile::encodeName(path).toStdString(), text.toStdString()));
}

void PenSimulator::send(QEvent::Type type, const Mark &m)
{
    if (!m_view)
        return;
    static const QPointingDevice pen(QStringLiteral("pen simulator"), 77, QInputDevice::DeviceType::Stylus,
                                     QPointingDevice::PointerType::Pen,
                                     QInputDevice::Capability::Position | QInputDevice::Capability::Pressure, 1, 1);
    const QPointF at(m.x * m_view->width(), m.y * m_view->height());
    const bool up = type == QEvent::TabletRelease;
    QTabletEvent event(type, &pen, at, m_view->mapToGlobal(at), up ? 0 : m.pressure, 0, 0, 0, 0, 0, Qt::NoModifier,
                       type == QEvent::TabletMove ? Qt::NoButton : Qt::LeftButton, up ? Qt::NoButton : Qt::LeftButton);
    QCoreApplication::sendEvent(m_view, &event);
}

void PenSimulator::play(const Strokes &strokes)
{
    m_strokes = strokes;
    m_stroke = m_mark = 0;
    m_timer.start(0);
}

void PenSimulator::next()
{
    if (m_stroke >= m_strokes.size())
        return;
    const auto &marks = m_strokes[m_stroke];
    send(m_mark == 0 ? QEvent::TabletPress : QEvent::TabletMove, marks[m_mark]);
    if (++m_mark < marks.size()) {
        m_timer.start(std::clamp(int(marks[m_mark].timeMs - marks[m_mark - 1].timeMs), 0, 1000));
        return;
    }
    send(QEvent::TabletRelease, marks.back());
    m_mark = 0;
    if (++m_stroke < m_strokes.size())
        m_timer.start(150);
    else
        emit finished();
}

void PenSimulator::playAtOnce(const Strokes &strokes)
{
    for (const auto &marks : strokes) {
        for (std::size_t i = 0; i < marks.size(); ++i)
            send(i == 0 ? QEvent::TabletPress : QEvent::TabletMove, marks[i]);
        send(QEvent::TabletRelease, marks.back());
    }
    emit finished();
}

} // namespace bonemoss::app
