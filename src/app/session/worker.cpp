#include "app/session/worker.h"

#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QMetaObject>
#include <QProgressDialog>
#include <QPushButton>
#include <QTimer>

#include <cmath>
#include <condition_variable>
#include <exception>
#include <limits>
#include <mutex>
#include <thread>

namespace bonemoss::app {

namespace {

/// Context of its words.
struct WorkerWords {
    Q_DECLARE_TR_FUNCTIONS(Worker)
};
constexpr int kPatience = 500; // ms before the dialog is shown

/// Holds work where it tells how far it is.
class Rest
{
public:
    void set(bool isResting)
    {
        {
            const std::scoped_lock lock(m_mutex);
            m_isResting = isResting;
        }
        m_changed.notify_all();
    }
    void wait()
    {
        std::unique_lock lock(m_mutex);
        m_changed.wait(lock, [&] { return !m_isResting; });
    }

private:
    std::mutex m_mutex;
    std::condition_variable m_changed;
    bool m_isResting = false;
};

/// How long it will take, by how far it came since a moment. Of the window's thread.
class TimeLeft
{
public:
    void begin() { m_isBegun = false; }
    QString told(float fraction)
    {
        if (!m_isBegun) {
            m_timer.start();
            m_from = fraction, m_isBegun = true;
        }
        const double seconds = double(m_timer.elapsed()) / 1000, done = double(fraction - m_from);
        if (seconds < 4 || done < 0.01) // too little to tell
            return {};
        const double left = seconds / done * double(1 - fraction);
        return left < 90 ? WorkerWords::tr("about %1 s left").arg(int(std::ceil(left / 5) * 5))
                         : WorkerWords::tr("about %1 min left").arg(int(std::lround(left / 60)));
    }

private:
    QElapsedTimer m_timer;
    float m_from = 0;
    bool m_isBegun = false;
};
} // namespace

void runOnWorker(QWidget *window, const QString &what, const std::function<void(const Progress &)> &work, bool canPause)
{
    std::stop_source stop;
    Rest rest;
    TimeLeft timeLeft;
    QProgressDialog dialog(what, WorkerWords::tr("Cancel"), 0, 1000, window);
    dialog.setObjectName(QStringLiteral("progressDialog"));
    dialog.setWindowModality(Qt::ApplicationModal);
    dialog.setMinimumDuration(std::numeric_limits<int>::max()); // it is shown below
    dialog.setAutoClose(false);
    dialog.setAutoReset(false);
    dialog.setValue(0);
    QObject::connect(&dialog, &QProgressDialog::canceled, [&] {
        stop.request_stop();
        rest.set(false);
        dialog.setLabelText(WorkerWords::tr("Stopping…"));
    });
    QEventLoop loop;
    bool finished = false;
    auto *pause = canPause ? new QPushButton(WorkerWords::tr("Pause"), &dialog) : nullptr;
    if (pause) {
        pause->setObjectName(QStringLiteral("progressPause"));
        pause->setCheckable(true);
        QObject::connect(pause, &QPushButton::toggled, [&](bool isPaused) {
            pause->setText(isPaused ? WorkerWords::tr("Go on") : WorkerWords::tr("Pause"));
            timeLeft.begin();
            rest.set(isPaused);
        });
    }
    Progress progress;
    progress.stop = stop.get_token();
    progress.report = [&](float fraction, std::string_view words) {
        const QString text = textOf(words);
        QMetaObject::invokeMethod(&dialog, [&dialog, &finished, &timeLeft, fraction, text, what] {
            if (finished)
                return;
            dialog.setValue(int(fraction * 1000));
            const QString left = timeLeft.told(fraction);
            dialog.setLabelText(what + QStringLiteral("\n") + (left.isEmpty() ? text : text + QStringLiteral(" · ") + left));
        });
        rest.wait();
    };
    std::exception_ptr thrown;
    std::thread worker([&] {
        try {
            work(progress);
        } catch (...) {
            thrown = std::current_exception();
        }
        QMetaObject::invokeMethod(&loop, [&] {
            finished = true;
            loop.quit();
        });
    });
    // What is done by hand meanwhile would be lost when the result comes: it waits until then, or, when the dialog is there,
    // is kept away by it.
    QTimer::singleShot(kPatience, &loop, &QEventLoop::quit);
    if (!finished)
        loop.exec(QEventLoop::ExcludeUserInputEvents);
    if (!finished) {
        const bool wasActive = window && window->isActiveWindow();
        dialog.show();
        if (pause) { // beside the button that cancels
            const QPushButton *cancel = pause;
            const auto buttons = dialog.findChildren<QPushButton *>();
            for (const QPushButton *b : buttons)
                cancel = b != pause ? b : cancel;
            pause->setGeometry(12, cancel->y(), cancel->width(), cancel->height());
            pause->show();
        }
        loop.exec(QEventLoop::AllEvents);
        dialog.hide();
        if (wasActive) // not every desktop gives it back by itself
            window->activateWindow();
    }
    worker.join();
    if (thrown)
        std::rethrow_exception(thrown);
}

} // namespace bonemoss::app
