#pragma once

#include "app/view/look.h"
#include "detail/skin.h"
#include "mesh/surface.h"

#include <QOpenGLBuffer>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLVertexArrayObject>

#include <memory>
#include <vector>

namespace bonemoss::app {

/// Fewer triangles over the same vertices, block by block, with block borders kept, so that light
/// and full blocks fit side by side. Depends on the topology and on what is hidden.
struct LightIndices {
    std::shared_ptr<const mesh::Topology> topology;
    mesh::BlockArray<std::uint8_t> hidden;
    std::vector<std::vector<std::uint32_t>> blocks;
};
/// Made on any thread; aims at wantedTriangles in all. O(F log F).
std::shared_ptr<const LightIndices> makeLightIndices(const mesh::Surface &surface, std::size_t wantedTriangles);

/// A surface on the graphics card: one vertex buffer in block order, so that after a dab only the
/// blocks it touched are sent again. All calls need the view's context to be current.
class GpuSkin
{
public:
    explicit GpuSkin(QOpenGLFunctions_3_3_Core &gl);
    ~GpuSkin();
    GpuSkin(const GpuSkin &) = delete;
    GpuSkin &operator=(const GpuSkin &) = delete;

    /// Sends what differs from what is there: by block identity, and the blocks named dirty (those
    /// edited in place during a stroke).
    void update(const mesh::Surface &surface, const mesh::BlockArray<std::uint8_t> &mask,
                const std::vector<std::uint32_t> &dirty = {});
    /// Shows colour and finish, or (not null) tints by group instead.
    void updateTints(const detail::Paint &paint, const mesh::BlockArray<std::uint16_t> *groupOf);
    /// Shows a map of the skin in tints instead: stretched, neglected or the layer alone.
    void updateMap(const detail::Skin &skin, Look look, std::uint32_t layer);
    /// Light indices come later from a worker; ignored when the topology, or what is hidden, has changed since.
    void setLight(std::shared_ptr<const LightIndices> light);
    bool hasLight() const { return m_light != nullptr; }
    std::size_t triangles(bool light) const { return light && m_light ? m_lightTriangles : m_fullTriangles; }
    /// Draws all blocks, light where asked and not in `full` (sorted).
    void draw(bool light, const std::vector<std::uint32_t> &full = {});
    /// Draws the edges of all faces, each once; their indices are made when first asked for.
    void drawEdges();
    const mesh::Topology *topology() const { return m_topology.get(); }

private:
    struct Range {
        std::uint32_t first = 0, count = 0; ///< indices
        std::uint32_t room = 0;             ///< that it may grow to
    };
    void useTints();
    void sendTopology(const mesh::Surface &surface);
    bool sendChangedFaces(const mesh::Surface &surface, const mesh::Topology &before);
    void sendBlock(const mesh::Surface &surface, const mesh::BlockArray<std::uint8_t> &mask, std::size_t b);

    QOpenGLFunctions_3_3_Core &m_gl;
    QOpenGLVertexArrayObject m_array, m_lightArray;
    QOpenGLBuffer m_vertices{QOpenGLBuffer::VertexBuffer}, m_indices{QOpenGLBuffer::IndexBuffer},
        m_lightIndices{QOpenGLBuffer::IndexBuffer}, m_edges{QOpenGLBuffer::IndexBuffer}, m_tints{QOpenGLBuffer::VertexBuffer};
    std::shared_ptr<const mesh::Topology> m_topology;
    mesh::BlockArray<std::uint8_t> m_hidden;        ///< as the indices were made
    mesh::BlockArray<std::uint16_t> m_groupOf;      ///< as it is tinted; empty for not
    detail::Paint m_paint;                          ///< as it is shown; empty for not
    std::vector<std::weak_ptr<const void>> m_mapOf; ///< what the map was made of, block by block; empty for not
    Look m_mapLook = Look::Clay;
    std::uint32_t m_mapLayer = 0;
    float m_mapScale = 0;
    bool m_isTinted = false;
    std::shared_ptr<const mesh::Topology> m_edgesOf; ///< whose edges are in m_edges
    std::size_t m_edgeIndices = 0;
    std::shared_ptr<const LightIndices> m_light;
    /// What was sent, without a share in it: a stroke edits its blocks in place only while it alone holds them.
    std::vector<std::weak_ptr<const void>> m_sentPositions, m_sentMask, m_sentNormals;
    std::vector<Range> m_full, m_lightRanges;
    float m_cavityScale = 1;
    std::size_t m_vertexCount = 0, m_vertexRoom = 0;
    std::size_t m_indexEnd = 0, m_indexRoom = 0; ///< indices in use (gaps are faces without area), and allocated
    std::size_t m_fullTriangles = 0, m_lightTriangles = 0;
};

} // namespace bonemoss::app
