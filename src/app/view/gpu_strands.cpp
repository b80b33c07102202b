#include "app/view/gpu_strands.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

namespace {

/// As the shader reads it.
struct Vertex {
    Vec3f position, tangent;
    float radius, along, side; ///< mm; 0 at the root to 1 at the tip; -1 or 1
};

} // namespace

void readPlaces(QOpenGLFunctions_3_3_Core &gl, QOpenGLBuffer &places, std::size_t first)
{
    places.bind();
    for (GLuint row = 0; row < kPlaceAttributes; ++row) {
        gl.glEnableVertexAttribArray(6 + row);
        gl.glVertexAttribPointer(6 + row, row < 3 ? 4 : 3, GL_FLOAT, GL_FALSE, kPlaceBytes,
                                 reinterpret_cast<const void *>(first * kPlaceBytes + row * 16));
        gl.glVertexAttribDivisor(6 + row, 1);
    }
}

GpuStrands::GpuStrands(QOpenGLFunctions_3_3_Core &gl, const mesh::Curves &curves) : m_gl(gl)
{
    std::vector<Vertex> vertices;
    std::vector<std::uint32_t> corners;
    vertices.reserve(curves.points.size() * 2);
    for (std::size_t k = 0; k < curves.count(); ++k) {
        const std::uint32_t begin = curves.begin(k), end = curves.end(k);
        for (std::uint32_t i = begin; i < end; ++i) {
            const Vec3f before = curves.points[i > begin ? i - 1 : i], after = curves.points[i + 1 < end ? i + 1 : i];
            const auto at = std::uint32_t(vertices.size());
            for (const float side : {-1.0f, 1.0f})
                vertices.push_back({curves.points[i], normalized(after - before), curves.radii[i],
                                    float(i - begin) / float(end - begin - 1), side});
            if (i + 1 < end)
                corners.insert(corners.end(), {at, at + 1, at + 2, at + 2, at + 1, at + 3});
            m_meanRadius += curves.radii[i] / float(curves.points.size());
        }
        m_upTo.push_back(std::uint32_t(corners.size()));
    }
    m_array.create();
    m_array.bind();
    m_vertices.create();
    m_vertices.bind();
    m_vertices.allocate(vertices.data(), int(vertices.size() * sizeof(Vertex)));
    m_indices.create();
    m_indices.bind();
    m_indices.allocate(corners.data(), int(corners.size() * sizeof(std::uint32_t)));
    const std::pair<int, std::size_t> parts[] = {
        {3, offsetof(Vertex, position)}, {3, offsetof(Vertex, tangent)}, {3, offsetof(Vertex, radius)}};
    for (GLuint k = 0; k < 3; ++k) {
        m_gl.glEnableVertexAttribArray(k);
        m_gl.glVertexAttribPointer(k, parts[k].first, GL_FLOAT, GL_FALSE, sizeof(Vertex),
                                   reinterpret_cast<const void *>(parts[k].second));
    }
    m_array.release();
}

std::size_t GpuStrands::indices(float share) const
{
    if (m_upTo.empty())
        return 0;
    const auto hairs = std::size_t(std::ceil(std::clamp(share, 0.0f, 1.0f) * float(m_upTo.size())));
    return m_upTo[std::max<std::size_t>(hairs, 1) - 1];
}

void GpuStrands::drawCopies(QOpenGLBuffer &places, std::size_t first, std::size_t count, float share)
{
    if (count == 0 || m_upTo.empty())
        return;
    m_array.bind();
    readPlaces(m_gl, places, first);
    m_gl.glDrawElementsInstanced(GL_TRIANGLES, GLsizei(indices(share)), GL_UNSIGNED_INT, nullptr, GLsizei(count));
    m_array.release();
}

} // namespace bonemoss::app
