#include "app/session/worker.h"

#include <QEventLoop>
#include <QMetaObject>
#include <QProgressDialog>
#include <QTimer>

#include <thread>

namespace bonemoss::app {

void runOnWorker(QWidget *window, const QString &what, const std::function<void(const Progress &)> &work)
{
    std::stop_source stop;
    QProgressDialog dialog(what, QObject::tr("Cancel"), 0, 1000, window);
    dialog.setObjectName(QStringLiteral("progressDialog"));
    dialog.setWindowModality(Qt::ApplicationModal);
    dialog.setMinimumDuration(500);
    dialog.setAutoClose(false);
    dialog.setAutoReset(false);
    dialog.setValue(0);
    QObject::connect(&dialog, &QProgressDialog::canceled, [&] {
        stop.request_stop();
        dialog.setLabelText(QObject::tr("Stopping…"));
    });
    QEventLoop loop;
    bool finished = false;
    Progress progress;
    progress.stop = stop.get_token();
    progress.report = [&](float fraction, std::string_view words) {
        const QString text = QString::fromUtf8(words.data(), qsizetype(words.size()));
        QMetaObject::invokeMethod(&dialog, [&dialog, &finished, fraction, text, what] {
            if (finished)
                return;
            dialog.setValue(int(fraction * 1000));
            dialog.setLabelText(what + QStringLiteral("\n") + text);
        });
    };
    std::thread worker([&] {
        work(progress);
        QMetaObject::invokeMethod(&loop, [&] {
            finished = true;
            loop.quit();
        });
    });
    if (!finished)
        loop.exec(QEventLoop::AllEvents);
    worker.join();
}

} // namespace bonemoss::app
