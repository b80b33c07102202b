// The least a Qt program with a GL view does: what `start` is measured against.
#include <QApplication>
#include <QMainWindow>
#include <QOpenGLWidget>
#include <QTimer>

class View : public QOpenGLWidget
{
protected:
    void paintGL() override { QTimer::singleShot(0, qApp, &QApplication::quit); }
};

int main(int argc, char **argv)
{
    QApplication app(argc, argv);
    QMainWindow window;
    window.setCentralWidget(new View);
    window.resize(1280, 800);
    window.show();
    return QApplication::exec();
}
