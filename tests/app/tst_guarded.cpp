// What is thrown while an event is handled ends that event only (common practice, no source).
#include "support/run.h"
#include "app/session/guarded.h"
#include "app/session/worker.h"

#include <QMouseEvent>
#include <QProgressDialog>
#include <QPushButton>
#include <QThread>
#include <QTimer>
#include <QWidget>
#include <QtTest>

using namespace bonemoss;

/// Keeps where the mouse was told to be, and takes its time.
class SlowPad : public QWidget
{
public:
    SlowPad() { setMouseTracking(true); }
    /// On the screen with the pointer in a corner of it.
    bool begin()
    {
        resize(300, 200);
        show();
        if (!QTest::qWaitForWindowExposed(this))
            return false;
        QCursor::setPos(mapToGlobal(QPoint(5, 5)));
        QTest::qWait(100);
        places.clear();
        return true;
    }
    std::vector<QPoint> places;

protected:
    void mouseMoveEvent(QMouseEvent *e) override
    {
        places.push_back(e->position().toPoint());
        QThread::msleep(5);
    }
};

class TestGuarded : public QObject
{
    Q_OBJECT
private slots:
    void aThrownErrorEndsItsEventOnly()
    {
        auto *guarded = qobject_cast<app::Guarded *>(QCoreApplication::instance());
        QVERIFY(guarded);
        QStringList told;
        guarded->tell = [&](const QString &words) { told << words; };
        bool isDoneAfter = false;
        QTimer::singleShot(0, this, [] { throw std::runtime_error("the moss dried up"); });
        QTimer::singleShot(1, this, [&] { isDoneAfter = true; });
        QTRY_VERIFY(isDoneAfter);
        QCOMPARE(told.size(), 1);
        QVERIFY2(told[0].contains(QStringLiteral("the moss dried up")), qPrintable(told[0]));
    }
    // Real events of the window system: the pointer goes on while the last place is being worked on.
    void everyPlaceOfThePointerArrives()
    {
        SlowPad pad;
        QVERIFY(pad.begin());
        std::vector<QPoint> sent;
        for (int k = 0; k < 40; ++k) {
            sent.emplace_back(10 + 6 * k, 10 + (k * k) % 150);
            QCursor::setPos(pad.mapToGlobal(sent.back()));
        }
        QTRY_VERIFY(!pad.places.empty() && pad.places.back() == sent.back());
        QCOMPARE(pad.places, sent);
    }
    // What is done by hand while a command is worked out comes after it: else it would be done to a state about to be replaced.
    void handsWaitForWork()
    {
        SlowPad pad;
        QVERIFY(pad.begin());
        int beats = 0;
        QTimer::singleShot(0, &pad, [&] { QCursor::setPos(pad.mapToGlobal(QPoint(50, 60))); });
        QTimer pulse;
        pulse.callOnTimeout([&] { ++beats; });
        pulse.start(10);
        app::runOnWorker(&pad, QStringLiteral("Waiting"), [](const Progress &) { QThread::msleep(200); });
        QVERIFY(beats > 3); // the window lives
        QVERIFY(pad.places.empty());
        QTRY_VERIFY(!pad.places.empty());
        QCOMPARE(pad.places.back(), QPoint(50, 60));
    }
    void longWorkShowsADialogThatStopsIt()
    {
        QWidget window;
        window.show();
        bool isStopped = false, wasCancelled = false;
        QTimer look;
        look.callOnTimeout([&] {
            if (auto *dialog = window.findChild<QProgressDialog *>(); dialog && dialog->isVisible())
                isStopped = true, dialog->findChild<QPushButton *>()->click();
        });
        look.start(20);
        app::runOnWorker(&window, QStringLiteral("Waiting"), [&](const Progress &p) {
            for (int k = 0; k < 500 && !p.isCancelled(); ++k)
                QThread::msleep(10);
            wasCancelled = p.isCancelled();
        });
        QVERIFY(isStopped && wasCancelled);
    }
    void nobodyToTellIsNoError()
    {
        auto *guarded = qobject_cast<app::Guarded *>(QCoreApplication::instance());
        guarded->tell = {};
        bool isDoneAfter = false;
        QTimer::singleShot(0, this, [] { throw std::bad_alloc(); });
        QTimer::singleShot(1, this, [&] { isDoneAfter = true; });
        QTRY_VERIFY(isDoneAfter);
    }
};

int main(int argc, char **argv)
{
    app::Guarded guarded(argc, argv);
    return bonemoss::test::runTests(argc, argv);
}

BONEMOSS_TEST(TestGuarded)

#include "tst_guarded.moc"
