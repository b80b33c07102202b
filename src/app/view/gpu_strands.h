#pragma once

#include "mesh/curves.h"

#include <QOpenGLBuffer>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLVertexArrayObject>

namespace bonemoss::app {

/// Hair on the graphics card: ribbons that the shader turns towards the eye. All calls need the view's context to be current.
class GpuStrands
{
public:
    GpuStrands(QOpenGLFunctions_3_3_Core &gl, const mesh::Curves &curves);
    GpuStrands(const GpuStrands &) = delete;
    GpuStrands &operator=(const GpuStrands &) = delete;

    /// Draws some of the copies, with that share of the hairs of each: as GpuSkin::drawCopies.
    void drawCopies(QOpenGLBuffer &places, std::size_t first, std::size_t count, float share);
    std::size_t triangles(float share) const { return indices(share) / 3; }
    float meanRadius() const { return m_meanRadius; } ///< mm

private:
    std::size_t indices(float share) const;

    QOpenGLFunctions_3_3_Core &m_gl;
    QOpenGLVertexArrayObject m_array;
    QOpenGLBuffer m_vertices{QOpenGLBuffer::VertexBuffer}, m_indices{QOpenGLBuffer::IndexBuffer};
    std::vector<std::uint32_t> m_upTo; ///< indices of the hairs up to each
    float m_meanRadius = 0;
};

/// Reads rows of where copies stand (three of four numbers each, then the tint) into attributes 6 to 9 of the array that is bound, one
/// for each copy.
inline constexpr GLuint kPlaceAttributes = 4;
inline constexpr std::size_t kPlaceBytes = 15 * sizeof(float);
void readPlaces(QOpenGLFunctions_3_3_Core &gl, QOpenGLBuffer &places, std::size_t first);

} // namespace bonemoss::app
