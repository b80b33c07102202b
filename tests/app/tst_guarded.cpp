// What is thrown while an event is handled ends that event only (common practice, no source).
#include "app/session/guarded.h"

#include <QTimer>
#include <QtTest>

using namespace bonemoss;

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
    TestGuarded test;
    return QTest::qExec(&test, argc, argv);
}

#include "tst_guarded.moc"
