#include "app/session/worker.h"

#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QEventLoop>
#include <QMetaObject>
#include <QProgressDialog>
#include <QTimer>

#include <exception>
#include <limits>
#include <thread>

namespace bonemoss::app {

namespace {

/// Context of its words.
struct WorkerWords {
    Q_DECLARE_TR_FUNCTIONS(Worker)
};
constexpr int kPatience = 500; // ms before the dialog is shown
} // namespace

void runOnWorker(QWidget *window, const QString &what, const std::function<void(const Progress &)> &work)
{
    std::stop_source stop;
    QProgressDialog dialog(what, WorkerWords::tr("Cancel"), 0, 1000, window);
    dialog.setObjectName(QStringLiteral("progressDialog"));
    dialog.setWindowModality(Qt::ApplicationModal);
    dialog.setMinimumDuration(std::numeric_limits<int>::max()); // it is shown below
    dialog.setAutoClose(false);
    dialog.setAutoReset(false);
    dialog.setValue(0);
    QObject::connect(&dialog, &QProgressDialog::canceled, [&] {
        stop.request_stop();
        dialog.setLabelText(WorkerWords::tr("Stopping…"));
    });
    QEventLoop loop;
    bool finished = false;
    Progress progress;
    progress.stop = stop.get_token();
    progress.report = [&](float fraction, std::string_view words) {
        const QString text = textOf(words);
        QMetaObject::invokeMethod(&dialog, [&dialog, &finished, fraction, text, what] {
            if (finished)
                return;
            dialog.setValue(int(fraction * 1000));
            dialog.setLabelText(what + QStringLiteral("\n") + text);
        });
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
