// The least a Qt program with a GL view does: what `start` is measured against.
#include <QApplication>
#include <QMainWindow>
#include <QOpenGLWidget>

int main(int argc, char **argv)
{
    QApplication app(argc, argv);
    QMainWindow window;
    auto *view = new QOpenGLWidget;
    window.setCentralWidget(view);
    window.resize(1280, 800);
    QObject::connect(
        view, &QOpenGLWidget::frameSwapped, &app, [] { QApplication::exit(); }, Qt::QueuedConnection);
    window.show();
    return QApplication::exec();
}
