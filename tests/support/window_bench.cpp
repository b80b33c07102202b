#include "support/window_bench.h"

#include "app/theme/theme.h"

#include <QApplication>
#include <QSettings>
#include <QTimer>
#include <nlohmann/json.hpp>

namespace bonemoss::test {

using namespace app;

void answerNextDialog(const char *name, std::function<void(QDialog *)> prepare)
{
    auto *timer = new QTimer(qApp);
    QObject::connect(timer, &QTimer::timeout, timer, [timer, prepare, wanted = QString::fromLatin1(name)] {
        for (QWidget *w : QApplication::topLevelWidgets())
            if (w->isVisible() && w->objectName() == wanted) {
                timer->deleteLater();
                timer->stop();
                prepare(qobject_cast<QDialog *>(w));
                return;
            }
    });
    timer->start(30);
}

void drag(QWidget *w, QPoint a, QPoint b, Qt::MouseButton button)
{
    dragAlong(w, {a, b}, button);
}

void dragAlong(QWidget *w, const std::vector<QPoint> &way, Qt::MouseButton button)
{
    QTest::mouseMove(w, way.front());
    QTest::mousePress(w, button, {}, way.front());
    for (std::size_t i = 1; i < way.size(); ++i)
        for (int k = 1; k <= 8; ++k) {
            const QPointF p = QPointF(way[i - 1]) + QPointF(way[i] - way[i - 1]) * k / 8.0;
            QMouseEvent move(QEvent::MouseMove, p, w->mapToGlobal(p), Qt::NoButton, button, {});
            QApplication::sendEvent(w, &move);
        }
    QTest::mouseRelease(w, button, {}, way.back());
    QTest::qWait(20);
}

void WindowBench::prepare()
{
    QCoreApplication::setOrganizationName("bonemoss-test");
    QCoreApplication::setApplicationName("window");
    qputenv("XDG_DATA_HOME", m_dir.filePath("data").toUtf8()); // what a person keeps stays out of it
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, m_dir.filePath("settings"));
    QSettings().setValue("view/smoothEdges", false); // the processor draws here
    QVERIFY(loadFonts());
    applyTheme(*qApp, false);
}

void WindowBench::open()
{
    m_window = std::make_unique<MainWindow>(m_dir.filePath("rescue"));
    m_window->setAsksBeforeClosing(false);
    m_window->resize(1280, 800);
    m_window->show();
    QVERIFY(QTest::qWaitForWindowExposed(m_window.get()));
    QTest::qWait(50);
}

void WindowBench::close()
{
    m_window->close();
    m_window.reset();
}

void WindowBench::click(const char *name)
{
    auto *b = find<QAbstractButton>(name);
    QVERIFY2(b, name);
    QTest::mouseClick(b, Qt::LeftButton);
    QTest::qWait(10);
}

void WindowBench::trigger(const char *action)
{
    auto *a = find<QAction>(action);
    QVERIFY2(a && a->isEnabled(), action);
    a->trigger();
    QTest::qWait(10);
}

void WindowBench::key(Qt::Key key, Qt::KeyboardModifiers modifiers)
{
    QApplication::setActiveWindow(m_window.get());
    QTest::keyClick(&view(), key, modifiers);
    QTest::qWait(10);
}

QImage WindowBench::stillPicture()
{
    QEvent leaves(QEvent::Leave);
    QApplication::sendEvent(&view(), &leaves);
    QImage last;
    for (int tries = 0; tries < 200; ++tries) {
        QImage now = view().grabFramebuffer();
        if (!view().isLight() && !view().worksOnLook() && now == last)
            return now;
        last = std::move(now);
        QTest::qWait(30);
    }
    qWarning("The view does not come to rest.");
    return last;
}

QImage WindowBench::stillMiddle()
{
    const QImage whole = stillPicture();
    return whole.copy(QRect(whole.rect().center() - QPoint(240, 220), QSize(480, 440)));
}

void WindowBench::knitBall(double spacing)
{
    session().run({{"do", "form.add"}, {"kind", "ball"}, {"radius", 20}});
    session().run({{"do", "knit.forms"}, {"spacing", spacing}});
    session().setBench(Bench::Sculpt);
    view().lookFrom("left");
    QTest::qWait(30);
}

} // namespace bonemoss::test
