#pragma once

#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLTexture>
#include <QOpenGLVertexArrayObject>
#include <QPainter>

#include <functional>
#include <map>
#include <memory>

namespace bonemoss::app {

/// Words and small pictures over the view: each is painted once and drawn from a texture until it says something else, so a
/// frame does not pay for letters. Lives with the view's context.
class Plates
{
public:
    explicit Plates(QOpenGLFunctions_3_3_Core &gl);

    /// Draws over all that is there. name: which of the plates; says: told apart by it, it is painted anew when this changes.
    /// area: where, in points of the view, of which `view` is the size; scale: pixels in a point.
    struct Place {
        QRectF area;
        QSizeF view;
        double scale = 1;
    };
    void draw(const QString &name, const QString &says, const Place &place, const std::function<void(QPainter &)> &paint);

private:
    struct Plate {
        QString says;
        QSize size;
        std::unique_ptr<QOpenGLTexture> texture;
    };
    QOpenGLFunctions_3_3_Core &m_gl;
    QOpenGLShaderProgram m_program;
    QOpenGLVertexArrayObject m_empty;
    std::map<QString, Plate> m_plates;
};

} // namespace bonemoss::app
