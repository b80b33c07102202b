#pragma once

#include <QEvent>
#include <QObject>
#include <QPointer>
#include <QTimer>
#include <QWidget>

#include <vector>

namespace bonemoss::app {

class CreatureView;

/// Plays recorded strokes as a pen tablet would: real tablet events with pressure, at their own pace
/// or at once. File: {"format": "bonemoss-pen", "version": 1, "strokes": [[[x, y, pressure, timeMs], ...]]}
/// with x and y as shares of the view.
class PenSimulator : public QObject
{
    Q_OBJECT
public:
    struct Mark {
        double x, y, pressure, timeMs;
    };
    using Strokes = std::vector<std::vector<Mark>>;

    explicit PenSimulator(QWidget *view, QObject *parent = nullptr);
    /// Empty and a message in trouble when the file cannot be used.
    static Strokes read(const QString &path, QString *trouble);
    static bool write(const QString &path, const Strokes &strokes);
    void play(const Strokes &strokes); ///< at the recorded pace
    void playAtOnce(const Strokes &strokes);
    bool isPlaying() const { return m_timer.isActive(); }

signals:
    void finished();

private:
    void send(QEvent::Type type, const Mark &mark);
    void next();

    QPointer<QWidget> m_view;
    Strokes m_strokes;
    std::size_t m_stroke = 0, m_mark = 0;
    QTimer m_timer;
};

} // namespace bonemoss::app
