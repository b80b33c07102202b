#include "app/view/plates.h"

#include "app/view/shaders.h"

#include <QVector4D>

#include <cmath>

namespace bonemoss::app {

namespace {

/// What paint() paints, in points of the view, as premultiplied colours.
QImage painted(const QRectF &area, QSize pixels, double scale, const std::function<void(QPainter &)> &paint)
{
    QImage image(pixels, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    QPainter p(&image);
    p.setRenderHint(QPainter::Antialiasing);
    p.scale(scale, scale);
    p.translate(-area.topLeft());
    paint(p);
    return image;
}

} // namespace

Plates::Plates(QOpenGLFunctions_3_3_Core &gl) : m_gl(gl)
{
    m_empty.create();
}

void Plates::draw(const QString &name, const QString &says, const Place &place, const std::function<void(QPainter &)> &paint)
{
    const double scale = place.scale;
    const QPoint corner(int(std::floor(place.area.left() * scale)), int(std::floor(place.area.top() * scale)));
    const QSize size(int(std::ceil(place.area.width() * scale)), int(std::ceil(place.area.height() * scale)));
    if (size.isEmpty())
        return;
    if (!m_program.isLinked()) {
        m_program.addShaderFromSourceCode(QOpenGLShader::Vertex, kPlateVertex);
        m_program.addShaderFromSourceCode(QOpenGLShader::Fragment, kPlateFragment);
        if (!m_program.link())
            qWarning("shader: %s", qPrintable(m_program.log()));
    }
    Plate &plate = m_plates[name];
    if (!plate.texture || plate.says != says || plate.size != size) {
        const QImage image = painted({QPointF(corner) / scale, QSizeF(size) / scale}, size, scale, paint);
        if (!plate.texture || plate.size != size) {
            plate.texture = std::make_unique<QOpenGLTexture>(QOpenGLTexture::Target2D);
            plate.texture->setFormat(QOpenGLTexture::RGBA8_UNorm);
            plate.texture->setSize(size.width(), size.height());
            plate.texture->setMinMagFilters(QOpenGLTexture::Nearest, QOpenGLTexture::Nearest); // it lies on whole pixels
            plate.texture->setWrapMode(QOpenGLTexture::ClampToEdge);
            plate.texture->allocateStorage(QOpenGLTexture::BGRA, QOpenGLTexture::UInt8);
        }
        plate.texture->setData(QOpenGLTexture::BGRA, QOpenGLTexture::UInt8, image.constBits());
        plate.says = says, plate.size = size;
    }
    const double w = place.view.width() * scale, h = place.view.height() * scale;
    m_program.bind();
    m_program.setUniformValue("place", QVector4D(float(2 * corner.x() / w - 1), float(1 - 2 * corner.y() / h),
                                                 float(2 * size.width() / w), float(-2 * size.height() / h)));
    m_program.setUniformValue("plate", 0);
    plate.texture->bind(0);
    m_gl.glEnable(GL_BLEND);
    m_gl.glBlendFuncSeparate(GL_ONE, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE); // the picture stays opaque
    m_empty.bind();
    m_gl.glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
    m_empty.release();
    m_gl.glDisable(GL_BLEND);
    plate.texture->release(0);
    m_program.release();
}

} // namespace bonemoss::app
