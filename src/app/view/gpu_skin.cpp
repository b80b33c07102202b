#include "app/view/gpu_skin.h"

#include "app/view/gpu_strands.h"
#include "base/parallel.h"

#include <QOpenGLContext>
#include <QOpenGLFunctions>
#include <meshoptimizer.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>

namespace bonemoss::app {

namespace {

/// A place and a count, added up as one in a vector register.
using Sum = float __attribute__((vector_size(16)));

bool isSame(const mesh::BlockArray<std::uint8_t> &a, const mesh::BlockArray<std::uint8_t> &b)
{
    for (std::size_t k = 0; k < std::min(a.blockCount(), b.blockCount()); ++k)
        if (!a.sharesWith(b, k))
            return false;
    return a.size() == b.size();
}

} // namespace

std::shared_ptr<const LightIndices> makeLightIndices(const mesh::Surface &surface, std::size_t wanted, const LightIndices *from)
{
    auto light = std::make_shared<LightIndices>();
    light->topology = surface.topology;
    light->hidden = surface.hidden;
    const bool isWhole = surface.hidden.isBlank();
    const mesh::Topology &t = *surface.topology;
    light->blocks.resize(t.blockCount());
    std::size_t all = from ? 0 : t.faceCount() * 2;
    for (std::size_t b = 0; from && b < from->blocks.size(); ++b)
        all += from->blocks[b].size() / 3;
    const double share = std::min(1.0, double(wanted) / double(std::max<std::size_t>(1, all)));
    forEachBlock(t.blockCount(), 1, [&](BlockRange r) {
        const std::size_t b = r.begin;
        const mesh::BlockFaces &f = t.block(b);
        std::vector<std::uint32_t> indices;
        if (from)
            indices.assign(from->blocks[b].begin(), from->blocks[b].end());
        for (std::size_t i = 0; !from && i < f.drawnFaces; ++i) {
            const mesh::LocalFace &l = f.faces[i];
            if (!isWhole && mesh::isHidden(surface, t.faceOf(b, i)))
                continue;
            indices.insert(indices.end(), {l.v[0], l.v[1], l.v[2]});
            if (l.size() == 4)
                indices.insert(indices.end(), {l.v[0], l.v[2], l.v[3]});
        }
        if (indices.empty())
            return;
        std::vector<Vec3f> p;
        gatherPositions(surface, b, p);
        std::vector<std::uint32_t> out(indices.size());
        const std::size_t target = std::max<std::size_t>(std::size_t(double(indices.size()) * share) / 3 * 3, 12);
        out.resize(meshopt_simplify(out.data(), indices.data(), indices.size(), &p[0].x, p.size(), sizeof(Vec3f), target, 0.05f,
                                    meshopt_SimplifyLockBorder, nullptr));
        light->blocks[b].assign(out.begin(), out.end());
    });
    return light;
}

void GpuSkin::packBlock(const mesh::Surface &s, const mesh::BlockArray<std::uint8_t> &mask, std::size_t b, float scale,
                        std::vector<Vertex> &out)
{
    thread_local std::vector<Sum> position, sum; // scratch
    const mesh::BlockFaces &faces = s.topology->block(b);
    const std::size_t own = faces.own;
    position.resize(own + faces.borrowed.size());
    const Vec3f *p = s.positions.data(b);
    typedef std::int32_t Bits __attribute__((vector_size(16)));
    for (std::size_t i = 0; i + 1 < own; ++i) { // read at once, the next one's x taken out
        Bits bits;
        std::memcpy(&bits, p + i, sizeof bits);
        position[i] = std::bit_cast<Sum>((bits & Bits{-1, -1, -1, 0}) | std::bit_cast<Bits>(Sum{0, 0, 0, 1}));
    }
    if (own > 0)
        position[own - 1] = Sum{p[own - 1].x, p[own - 1].y, p[own - 1].z, 1};
    for (std::size_t i = 0; i < faces.borrowed.size(); ++i) {
        const Vec3f q = s.positions[faces.borrowed[i]];
        position[own + i] = Sum{q.x, q.y, q.z, 1};
    }
    sum.assign(position.size(), Sum{});
    for (const mesh::LocalFace &f : faces.faces) {
        const Sum a = position[f.v[0]], c = position[f.v[2]];
        if (f.size() == 4) { // each corner's neighbours are the two beside it
            const Sum ac = a + c, bd = position[f.v[1]] + position[f.v[3]];
            sum[f.v[0]] += bd, sum[f.v[2]] += bd;
            sum[f.v[1]] += ac, sum[f.v[3]] += ac;
        } else {
            const Sum d = position[f.v[1]];
            sum[f.v[0]] += c + d, sum[f.v[1]] += a + c, sum[f.v[2]] += a + d;
        }
    }
    const mesh::PackedNormal *normals = s.normals.data(b);
    const std::uint8_t *m = mask.data(b);
    const float perUnit = scale / 32767;
    out.resize(own);
    for (std::size_t i = 0; i < own; ++i) {
        const Sum s4 = sum[i];
        const float share = s4[3] > 0 ? 1 / s4[3] : 0;
        const mesh::PackedNormal n = normals[i];
        typedef std::int16_t Packed __attribute__((vector_size(8)));
        const Sum way = (position[i] - s4 * share) * __builtin_convertvector(std::bit_cast<Packed>(n), Sum);
        const float stands = s4[3] > 0 ? (way[0] + way[1] + way[2]) * perUnit : 0;
        out[i] = {p[i], {n.x, n.y, n.z}, m ? m[i] : std::uint8_t(0), std::int8_t(std::clamp(stands, -127.0f, 127.0f))};
    }
}

GpuSkin::GpuSkin(QOpenGLFunctions_3_3_Core &gl) : m_gl(gl)
{
    m_vertices.create();
    m_edges.create();
    const auto drawnBy = [&](QOpenGLVertexArrayObject &array, QOpenGLBuffer &indices) {
        readVertices(array);
        indices.create();
        array.bind();
        indices.bind();
        array.release();
    };
    drawnBy(m_array, m_indices);
    for (Light &l : m_lights)
        drawnBy(l.array, l.indices);
}

/// Has an array read one vertex of so many.
void GpuSkin::readVertices(QOpenGLVertexArrayObject &array, std::size_t each)
{
    if (!array.isCreated())
        array.create();
    array.bind();
    m_vertices.bind();
    const auto offset = [](std::size_t bytes) { return reinterpret_cast<const void *>(bytes); };
    const auto stride = GLsizei(each * sizeof(Vertex));
    for (GLuint a = 0; a < 4; ++a)
        m_gl.glEnableVertexAttribArray(a);
    m_gl.glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, stride, offset(0));
    m_gl.glVertexAttribPointer(1, 3, GL_SHORT, GL_TRUE, stride, offset(12));
    m_gl.glVertexAttribPointer(2, 1, GL_UNSIGNED_BYTE, GL_TRUE, stride, offset(18));
    m_gl.glVertexAttribPointer(3, 1, GL_BYTE, GL_TRUE, stride, offset(19));
    array.release();
}

void GpuSkin::drawCopies(QOpenGLBuffer &places, std::size_t first, std::size_t count)
{
    if (!m_topology || count == 0)
        return;
    bindTints(m_array);
    readPlaces(m_gl, places, first);
    m_gl.glDrawElementsInstanced(GL_TRIANGLES, GLsizei(m_indexEnd), GL_UNSIGNED_INT, nullptr, GLsizei(count));
    for (GLuint row = 0; row < kPlaceAttributes; ++row)
        m_gl.glDisableVertexAttribArray(6 + row);
    m_array.release();
}

bool GpuSkin::isClosed() const
{
    return !m_topology || mesh::isClosed(*m_topology);
}

void GpuSkin::drawPoints(std::size_t most)
{
    const std::size_t each = m_vertexCount / std::max<std::size_t>(1, most) + 1;
    readVertices(m_points, each);
    m_points.bind();
    m_gl.glPointSize(3);
    m_gl.glDrawArrays(GL_POINTS, 0, GLsizei(m_vertexCount / each));
    m_points.release();
}

void GpuSkin::allocate(QOpenGLBuffer &buffer, std::size_t bytes, const void *data)
{
    buffer.bind();
    m_gl.glBufferData(GLenum(buffer.type()), GLsizeiptr(bytes), data, GLenum(buffer.usagePattern()));
}

void GpuSkin::write(QOpenGLBuffer &buffer, std::size_t at, const void *data, std::size_t bytes)
{
    buffer.bind();
    m_gl.glBufferSubData(GLenum(buffer.type()), GLintptr(at), GLsizeiptr(bytes), data);
}

GpuSkin::~GpuSkin() = default;

namespace {

/// The triangles that a block draws.
void addIndices(const mesh::Surface &surface, std::size_t b, bool isWhole, std::vector<std::uint32_t> &out)
{
    const mesh::Topology &t = *surface.topology;
    for (std::size_t i = 0; i < t.block(b).drawnFaces; ++i) {
        const mesh::Face f = t.faceOf(b, i);
        if (!isWhole && mesh::isHidden(surface, f))
            continue;
        out.insert(out.end(), {f.v[0], f.v[1], f.v[2]});
        if (f.size() == 4)
            out.insert(out.end(), {f.v[0], f.v[2], f.v[3]});
    }
}

constexpr std::size_t withRoom(std::size_t n)
{
    return n + n / 4 + 4096;
}

} // namespace

void GpuSkin::sendTopology(const mesh::Surface &surface)
{
    const mesh::Topology &t = *m_topology;
    const bool isWhole = surface.hidden.isBlank();
    m_hidden = surface.hidden;
    m_edgesOf.reset(); // those of hidden faces are not drawn
    m_full.resize(t.blockCount());
    std::vector<std::uint32_t> indices;
    indices.reserve(t.faceCount() * 6);
    for (std::size_t b = 0; b < t.blockCount(); ++b) {
        m_full[b].first = std::uint32_t(indices.size());
        addIndices(surface, b, isWhole, indices);
        m_full[b].count = m_full[b].room = std::uint32_t(indices.size()) - m_full[b].first;
    }
    m_fullTriangles = indices.size() / 3;
    m_indexEnd = indices.size();
    m_indexRoom = withRoom(m_indexEnd);
    m_array.bind();
    m_indices.bind();
    allocate(m_indices, m_indexRoom * 4);
    write(m_indices, 0, indices.data(), indices.size() * 4);
    m_array.release();
    for (Light &l : m_lights)
        l.isThere = false;
    if (m_sentPositions.size() == t.blockCount() && m_vertexCount == t.vertexCount())
        return; // only what is hidden changed
    m_vertexCount = t.vertexCount();
    m_vertexRoom = withRoom(m_vertexCount);
    m_vertices.bind();
    allocate(m_vertices, m_vertexRoom * sizeof(Vertex));
    m_allTints.clear();
    m_tints = nullptr;
    m_sentPositions.assign(t.blockCount(), {});
    m_sentMask = m_sentNormals = m_sentPositions;
}

/// Sends the faces of those blocks only that are others than before, each in its place or at the end. False when there is
/// no room left.
bool GpuSkin::sendChangedFaces(const mesh::Surface &surface, const mesh::Topology &before)
{
    const mesh::Topology &t = *surface.topology;
    if (t.blockCount() < before.blockCount() || t.vertexCount() > m_vertexRoom || m_full.size() != before.blockCount())
        return false;
    const bool isWhole = surface.hidden.isBlank();
    std::vector<std::pair<std::size_t, std::vector<std::uint32_t>>> changed;
    std::size_t end = m_indexEnd;
    for (std::size_t b = 0; b < t.blockCount(); ++b)
        if (b >= before.blockCount() || t.shareBlock(b) != before.shareBlock(b)) {
            changed.push_back({b, {}});
            addIndices(surface, b, isWhole, changed.back().second);
            if (b >= m_full.size() || changed.back().second.size() > m_full[b].room)
                end += changed.back().second.size() * 5 / 4;
        }
    if (end > m_indexRoom)
        return false;
    m_full.resize(t.blockCount());
    m_array.bind();
    m_indices.bind();
    for (auto &[b, indices] : changed) {
        Range &r = m_full[b];
        const std::vector<std::uint32_t> nothing(r.room, 0);
        if (indices.size() > r.room) {
            if (r.room > 0)
                write(m_indices, std::size_t(r.first) * 4, nothing.data(), nothing.size() * 4);
            r.first = std::uint32_t(m_indexEnd);
            r.room = std::uint32_t(indices.size() * 5 / 4);
            m_indexEnd += r.room;
        }
        m_fullTriangles = m_fullTriangles + indices.size() / 3 - r.count / 3;
        r.count = std::uint32_t(indices.size());
        indices.resize(r.room, 0); // faces without area
        write(m_indices, std::size_t(r.first) * 4, indices.data(), indices.size() * 4);
    }
    m_array.release();
    for (Light &l : m_lights)
        l.isThere = false;
    m_hidden = surface.hidden;
    m_vertexCount = t.vertexCount();
    m_sentPositions.resize(t.blockCount());
    m_sentMask.resize(t.blockCount());
    m_sentNormals.resize(t.blockCount());
    return true;
}

/// Packed side by side, a handful at a time, and sent in order.
void GpuSkin::sendBlocks(const mesh::Surface &surface, const mesh::BlockArray<std::uint8_t> &mask,
                         const std::vector<std::size_t> &blocks)
{
    constexpr std::size_t kAtOnce = 64;
    m_packed.resize(std::max(m_packed.size(), std::min(kAtOnce, blocks.size())));
    m_vertices.bind();
    for (std::size_t first = 0; first < blocks.size(); first += kAtOnce) {
        const std::size_t n = std::min(kAtOnce, blocks.size() - first);
        forEachBlock(n, 1,
                     [&](BlockRange r) { packBlock(surface, mask, blocks[first + r.begin], m_cavityScale, m_packed[r.begin]); });
        for (std::size_t k = 0; k < n; ++k)
            write(m_vertices, blocks[first + k] * mesh::kBlockSize * sizeof(Vertex), m_packed[k].data(),
                  m_packed[k].size() * sizeof(Vertex));
    }
}

void GpuSkin::update(const mesh::Surface &surface, const mesh::BlockArray<std::uint8_t> &mask,
                     const std::vector<std::uint32_t> &dirty)
{
    const bool isHiddenSame = isSame(m_hidden, surface.hidden) || (m_hidden.isBlank() && surface.hidden.isBlank());
    if (m_topology != surface.topology || !isHiddenSame) {
        const auto before = std::exchange(m_topology, surface.topology);
        const bool isEdited = before && before != m_topology && isHiddenSame;
        if (!isEdited || !sendChangedFaces(surface, *before)) {
            if (before != m_topology)
                m_sentPositions.clear();
            sendTopology(surface);
            m_cavityScale = 500 / std::max(meanEdgeLength(surface), 1e-6f);
        }
    }
    std::vector<bool> wanted(m_topology->blockCount(), false);
    for (const std::uint32_t b : dirty)
        if (b < wanted.size())
            wanted[b] = true;
    std::vector<std::size_t> changed;
    for (std::size_t b = 0; b < wanted.size(); ++b) {
        const std::shared_ptr<const void> p = surface.positions.share(b), n = surface.normals.share(b), m = mask.share(b);
        if (!wanted[b] && isSame(p, m_sentPositions[b]) && isSame(n, m_sentNormals[b]) && isSame(m, m_sentMask[b]))
            continue;
        changed.push_back(b);
        m_sentPositions[b] = p, m_sentNormals[b] = n, m_sentMask[b] = m;
    }
    sendBlocks(surface, mask, changed);
}

void GpuSkin::drawEdges()
{
    if (!m_topology)
        return;
    m_array.bind();
    m_edges.bind();
    if (m_edgesOf != m_topology) {
        std::vector<std::uint32_t> ends;
        ends.reserve(m_topology->faceCount() * 4);
        const bool isWhole = m_hidden.isBlank();
        const auto isHiddenAt = [&](std::uint32_t v) { return m_hidden[v] != 0; };
        const auto isOpen = [&](std::uint32_t v) {
            const auto &open = m_topology->block(v / mesh::kBlockSize).openVertices();
            return std::binary_search(open.begin(), open.end(), std::uint16_t(v % mesh::kBlockSize));
        };
        for (std::size_t b = 0; b < m_topology->blockCount(); ++b)
            for (std::size_t i = 0; i < m_topology->block(b).drawnFaces; ++i) {
                const mesh::Face f = m_topology->faceOf(b, i);
                const std::size_t n = std::size_t(f.size());
                if (!isWhole && std::any_of(f.v.begin(), f.v.begin() + std::ptrdiff_t(n), isHiddenAt))
                    continue;
                // Met from its other face as (d, a), where that is there and shown.
                for (std::size_t c = 0; c < n; ++c)
                    if (const std::uint32_t a = f.v[c], d = f.v[(c + 1) % n]; a < d || !isWhole || (isOpen(a) && isOpen(d)))
                        ends.insert(ends.end(), {a, d});
            }
        allocate(m_edges, ends.size() * 4, ends.data());
        m_edgeIndices = ends.size();
        m_edgesOf = m_topology;
    }
    m_gl.glDrawElements(GL_LINES, GLsizei(m_edgeIndices), GL_UNSIGNED_INT, nullptr);
    m_indices.bind(); // what the array draws faces from
    m_array.release();
}

void GpuSkin::setLight(Fineness fineness, const LightIndices &made)
{
    if (made.topology != m_topology || !isSame(made.hidden, m_hidden) || fineness == Fineness::Full)
        return;
    Light &l = m_lights[std::size_t(fineness)];
    std::vector<std::uint32_t> indices;
    l.ranges.resize(made.blocks.size());
    for (std::size_t b = 0; b < made.blocks.size(); ++b) {
        l.ranges[b] = {std::uint32_t(indices.size()), std::uint32_t(made.blocks[b].size())};
        for (const std::uint16_t v : made.blocks[b])
            indices.push_back(m_topology->vertexOf(b, v));
    }
    l.triangles = indices.size() / 3;
    l.isThere = true;
    l.array.bind();
    l.indices.bind();
    allocate(l.indices, indices.size() * 4, indices.data());
    l.array.release();
}

Fineness GpuSkin::drawn(Fineness wanted) const
{
    if (wanted == Fineness::Moving && !light(wanted).isThere)
        wanted = Fineness::Still;
    return wanted == Fineness::Still && !light(wanted).isThere ? Fineness::Full : wanted;
}

std::size_t GpuSkin::triangles(Fineness fineness) const
{
    fineness = drawn(fineness);
    return fineness == Fineness::Full ? m_fullTriangles : light(fineness).triangles;
}

void GpuSkin::draw(Fineness fineness, const std::vector<std::uint32_t> &full)
{
    if (!m_topology)
        return;
    const auto range = [&](const Range &r) {
        if (r.count)
            m_gl.glDrawElements(GL_TRIANGLES, GLsizei(r.count), GL_UNSIGNED_INT,
                                reinterpret_cast<const void *>(std::size_t(r.first) * 4));
    };
    fineness = drawn(fineness);
    if (fineness == Fineness::Full) {
        bindTints(m_array);
        range({0, std::uint32_t(m_indexEnd)});
        m_array.release();
        return;
    }
    Light &l = m_lights[std::size_t(fineness)];
    bindTints(l.array);
    std::size_t next = 0;
    Range run;
    for (std::size_t b = 0; b < l.ranges.size(); ++b) { // neighbouring light blocks in one call
        if (next < full.size() && full[next] == b) {
            ++next;
            range(run);
            run = {l.ranges[b].first + l.ranges[b].count, 0};
        } else {
            run.count += l.ranges[b].count;
        }
    }
    range(run);
    l.array.release();
    if (full.empty())
        return;
    bindTints(m_array);
    for (const std::uint32_t b : full)
        range(m_full[b]);
    m_array.release();
}

} // namespace bonemoss::app
