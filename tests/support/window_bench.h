#pragma once

#include "app/view/creature_view.h"
#include "app/window/main_window.h"

#include <QAbstractButton>
#include <QAction>
#include <QDialog>
#include <QTemporaryDir>
#include <QtTest>

#include <functional>

namespace bonemoss::test {

/// Prepares the next dialog of that name that opens, once, from the event loop that it runs.
void answerNextDialog(const char *name, std::function<void(QDialog *)> prepare);

/// Drags from a to b in eight moves.
void drag(QWidget *w, QPoint a, QPoint b, Qt::MouseButton button = Qt::LeftButton);
/// The same through several points.
void dragAlong(QWidget *w, const std::vector<QPoint> &way, Qt::MouseButton button = Qt::LeftButton);

/// The real window with settings and rescue folder of its own.
class WindowBench
{
public:
    void prepare(); ///< once for all tests of a program
    void open();
    void close();

    app::MainWindow &window() { return *m_window; }
    app::Session &session() { return m_window->session(); }
    app::CreatureView &view() { return m_window->view(); }
    QPoint middle() { return view().rect().center(); }
    QString file(const char *name) const { return m_dir.filePath(QLatin1String(name)); }
    template <typename T> T *find(const char *name) { return m_window->findChild<T *>(QLatin1String(name)); }
    void click(const char *name);
    void trigger(const char *action);
    /// A key as a person presses it with the pointer over the view, shortcuts and all: several tests share a screen, so that none is
    /// the active one there.
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = {});
    const skin::Skin &skin() { return session().creature().piece(session().piece())->skin; }
    /// What the view shows once it has come to rest, without the ring of a hovering pen: a moving view, and one on a busy
    /// machine, draws its lighter version first.
    QImage stillPicture();
    /// The middle of it, 480 by 440 points, clear of words in the corners: what they say of drawing depends on the machine.
    QImage stillMiddle();
    /// A ball of 20 mm, knitted, on the Sculpt bench, seen from the left.
    void knitBall(double spacing = 1);

private:
    std::unique_ptr<app::MainWindow> m_window;
    QTemporaryDir m_dir;
};

} // namespace bonemoss::test
