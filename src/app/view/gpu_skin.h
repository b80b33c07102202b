#pragma once

#include "app/view/map_keeper.h"
#include "skin/skin.h"
#include "mesh/surface.h"

#include <QOpenGLBuffer>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLVertexArrayObject>

#include <array>
#include <map>
#include <memory>
#include <span>
#include <vector>

namespace bonemoss::app {

/// The same block, or both none; a block that is gone is never taken for a new one at its address.
inline bool isSame(const std::shared_ptr<const void> &now, const std::weak_ptr<const void> &sent)
{
    return !now.owner_before(sent) && !sent.owner_before(now);
}

/// How many of its triangles a skin is drawn with: few while the view moves; as many as can be drawn in a moment when it is
/// still; or all of them.
enum class Fineness { Moving, Still, Full };

/// Fewer triangles over the same vertices, block by block, with block borders kept, so that light
/// and full blocks fit side by side. Depends on the topology and on what is hidden.
struct LightIndices {
    std::shared_ptr<const mesh::Topology> topology;
    mesh::BlockArray<std::uint8_t> hidden;
    std::vector<std::vector<std::uint16_t>> blocks; ///< local vertices
};
/// Made on any thread; aims at wantedTriangles in all. from: a lighter version to begin with, or null for all faces.
/// O(F log F) of what it begins with.
std::shared_ptr<const LightIndices> makeLightIndices(const mesh::Surface &surface, std::size_t wantedTriangles,
                                                     const LightIndices *from = nullptr);

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
    // What draw shows over the clay from now on. Each kind of tints is kept until dropTints, so that several views of one
    // skin cost no sending.
    void useNoTints() { m_tints = nullptr; }
    bool isTinted() const { return m_tints != nullptr; }
    /// Colour and finish.
    void usePaint(const skin::Paint &paint);
    void useGroups(const mesh::BlockArray<std::uint16_t> &groupOf);
    /// A map found block by block: stretched, neglected or the layer alone.
    void useMap(const skin::Skin &skin, Look look, std::uint32_t layer);
    /// A map that was worked out; scale brings its values to those of mapTint.
    void useValues(const MapValues &values, Look look, float scale);
    /// Forgets the tints of all looks but these.
    void dropTints(std::span<const Look> but);
    /// Light indices come later from a worker; ignored when the topology, or what is hidden, has changed since.
    void setLight(Fineness fineness, const LightIndices &light);
    bool hasLight(Fineness fineness) const { return fineness == Fineness::Full || light(fineness).isThere; }
    /// That a draw would draw: of the next finer version where the one asked for is not there.
    std::size_t triangles(Fineness fineness) const;
    /// Draws all blocks, those in `full` (sorted) with all their triangles.
    void draw(Fineness fineness, const std::vector<std::uint32_t> &full = {});
    /// Draws some of its copies, all with all triangles: of each, three rows of four numbers in the buffer, attributes 6 to 8 of the shader.
    void drawCopies(QOpenGLBuffer &places, std::size_t first, std::size_t count);
    bool isClosed() const; ///< O(blocks)
    /// Draws some of its vertices as points, evenly picked: what can be shown before a lighter version is made.
    void drawPoints(std::size_t most);
    /// Draws the edges of all faces, each once; their indices are made when first asked for.
    void drawEdges();
    const mesh::Topology *topology() const { return m_topology.get(); }

private:
    struct Range {
        std::uint32_t first = 0, count = 0; ///< indices
        std::uint32_t room = 0;             ///< that it may grow to
    };
    /// Tints of one look: red, green, blue, share of the clay; gloss, metal, wet, opaque.
    struct Tints {
        QOpenGLBuffer buffer{QOpenGLBuffer::VertexBuffer};
        std::vector<std::weak_ptr<const void>> madeOf; ///< block by block; empty when nothing was sent
        std::vector<std::array<std::weak_ptr<const void>, skin::kSeenChannels>> paintOf;
        MapValues values;
        std::uint32_t layer = 0;
        float scale = 0;
    };
    /// The tints of a look with room for all vertices; isNew: nothing in it counts.
    Tints &tintsOf(Look look, bool &isNew);
    void sendTints(Tints &to, std::size_t block, const std::vector<std::array<std::uint8_t, 8>> &tints);
    void bindTints(QOpenGLVertexArrayObject &array);
    void sendTopology(const mesh::Surface &surface);
    bool sendChangedFaces(const mesh::Surface &surface, const mesh::Topology &before);
    void sendBlocks(const mesh::Surface &surface, const mesh::BlockArray<std::uint8_t> &mask,
                    const std::vector<std::size_t> &blocks);

    // The buffer class counts bytes in 32 bits; a large skin has more.
    void allocate(QOpenGLBuffer &buffer, std::size_t bytes, const void *data = nullptr);
    void write(QOpenGLBuffer &buffer, std::size_t at, const void *data, std::size_t bytes);

    QOpenGLFunctions_3_3_Core &m_gl;
    /// One of the lighter versions.
    struct Light {
        QOpenGLVertexArrayObject array;
        QOpenGLBuffer indices{QOpenGLBuffer::IndexBuffer};
        std::vector<Range> ranges; ///< of each block
        std::size_t triangles = 0;
        bool isThere = false;
    };
    const Light &light(Fineness fineness) const { return m_lights[std::size_t(fineness)]; }
    Fineness drawn(Fineness wanted) const;
    void readVertices(QOpenGLVertexArrayObject &array, std::size_t each = 1);

    QOpenGLVertexArrayObject m_array, m_points;
    std::array<Light, 2> m_lights; ///< moving, still
    QOpenGLBuffer m_vertices{QOpenGLBuffer::VertexBuffer}, m_indices{QOpenGLBuffer::IndexBuffer},
        m_edges{QOpenGLBuffer::IndexBuffer};
    std::shared_ptr<const mesh::Topology> m_topology;
    mesh::BlockArray<std::uint8_t> m_hidden;         ///< as the indices were made
    std::map<Look, Tints> m_allTints;                ///< by the look they are for; Clay holds colour and finish
    Tints *m_tints = nullptr;                        ///< of those, what is drawn
    std::shared_ptr<const mesh::Topology> m_edgesOf; ///< whose edges are in m_edges
    std::size_t m_edgeIndices = 0;
    /// What was sent, without a share in it: a stroke edits its blocks in place only while it alone holds them.
    std::vector<std::weak_ptr<const void>> m_sentPositions, m_sentMask, m_sentNormals;
    /// 20 bytes: as the shader reads it.
    struct Vertex {
        Vec3f position;
        std::int16_t normal[3];
        std::uint8_t mask;
        std::int8_t cavity; ///< below 0 in hollows, above on ridges
    };
    static_assert(sizeof(Vertex) == 20);
    /// A block as it is sent, with how far each vertex stands out from the mean of its neighbours; scale is 500 over the
    /// edge length. O(faces).
    static void packBlock(const mesh::Surface &s, const mesh::BlockArray<std::uint8_t> &mask, std::size_t b, float scale,
                          std::vector<Vertex> &out);
    std::vector<std::vector<Vertex>> m_packed; ///< scratch, kept: new memory costs more than filling it
    std::vector<Range> m_full;
    float m_cavityScale = 1;
    std::size_t m_vertexCount = 0, m_vertexRoom = 0;
    std::size_t m_indexEnd = 0, m_indexRoom = 0; ///< indices in use (gaps are faces without area), and allocated
    std::size_t m_fullTriangles = 0;
};

} // namespace bonemoss::app
