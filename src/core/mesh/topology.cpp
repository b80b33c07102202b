#include "mesh/topology.h"

#include "base/parallel.h"

#include <algorithm>
#include <numeric>
#include <unordered_set>

namespace bonemoss::mesh {

namespace {

/// Calls visit(block) once for each distinct vertex block a face touches.
template <typename Visit> void forEachTouchedBlock(const Face &f, const Visit &visit)
{
    const int n = f.size();
    for (int c = 0; c < n; ++c) {
        const auto b = std::uint32_t(f.v[std::size_t(c)] / kBlockSize);
        bool seen = false;
        for (int d = 0; d < c; ++d)
            seen = seen || f.v[std::size_t(d)] / kBlockSize == b;
        if (!seen)
            visit(b);
    }
}

std::uint32_t leastOf(const Face &f)
{
    std::uint32_t least = f.v[0];
    for (int c = 1; c < f.size(); ++c)
        least = std::min(least, f.v[std::size_t(c)]);
    return least;
}
std::uint32_t ownerOf(const Face &f)
{
    return std::uint32_t(leastOf(f) / kBlockSize);
}

/// Faces touching each block as compressed rows, in face order within a row.
struct FacesByBlock {
    std::vector<std::uint32_t> start, faces;
};

FacesByBlock groupByBlock(std::size_t blocks, std::span<const Face> faces)
{
    // Chunks keep their own counts, so that the order within a row is the face order on any thread.
    const std::size_t chunk = std::max<std::size_t>(65536, faces.size() / 16 + 1);
    const std::size_t chunks = (faces.size() + chunk - 1) / chunk;
    std::vector<std::uint32_t> counts(chunks * blocks, 0);
    forEachBlock(faces.size(), chunk, [&](BlockRange r) {
        std::uint32_t *mine = &counts[(r.begin / chunk) * blocks];
        for (std::size_t f = r.begin; f < r.end; ++f)
            forEachTouchedBlock(faces[f], [&](std::uint32_t b) { ++mine[b]; });
    });
    FacesByBlock rows;
    rows.start.resize(blocks + 1);
    std::uint32_t sum = 0;
    for (std::size_t b = 0; b < blocks; ++b) {
        rows.start[b] = sum;
        for (std::size_t c = 0; c < chunks; ++c)
            sum += std::exchange(counts[c * blocks + b], sum);
    }
    rows.start[blocks] = sum;
    rows.faces.resize(sum);
    forEachBlock(faces.size(), chunk, [&](BlockRange r) {
        std::uint32_t *mine = &counts[(r.begin / chunk) * blocks];
        for (std::size_t f = r.begin; f < r.end; ++f)
            forEachTouchedBlock(faces[f], [&](std::uint32_t b) { rows.faces[mine[b]++] = std::uint32_t(f); });
    });
    return rows;
}

/// Global vertex to borrowed index, open addressing, cleared per block.
class BorrowTable
{
public:
    void reset(std::size_t expected)
    {
        std::size_t want = 1024;
        while (want < expected * 2)
            want *= 2;
        if (m_keys.size() < want) {
            m_keys.assign(want, kNone);
            m_values.resize(want);
        }
    }
    std::uint16_t find(std::uint32_t vertex, BlockFaces &out)
    {
        const std::size_t mask = m_keys.size() - 1;
        std::size_t i = (vertex * 2654435761u) & mask;
        while (m_keys[i] != kNone && m_keys[i] != vertex)
            i = (i + 1) & mask;
        if (m_keys[i] == kNone) {
            m_keys[i] = vertex;
            m_values[i] = std::uint16_t(out.own + out.borrowed.size());
            m_used.push_back(std::uint32_t(i));
            out.borrowed.push_back(vertex);
        }
        return m_values[i];
    }
    void clear()
    {
        for (const std::uint32_t i : m_used)
            m_keys[i] = kNone;
        m_used.clear();
    }

private:
    std::vector<std::uint32_t> m_keys, m_used;
    std::vector<std::uint16_t> m_values;
};

void fillBlock(std::size_t b, std::span<const std::uint32_t> row, std::span<const Face> faces, BlockFaces &out)
{
    thread_local BorrowTable table; // scratch, empty between calls
    table.reset(row.size() * 4);
    const std::uint32_t first = std::uint32_t(b * kBlockSize);
    out.faces.reserve(row.size());
    const auto add = [&](const Face &f) {
        LocalFace l;
        for (std::size_t c = 0; c < 4; ++c) {
            const std::uint32_t v = f.v[c];
            if (v == kNone)
                l.v[c] = kLocalNone;
            else if (v - first < out.own)
                l.v[c] = std::uint16_t(v - first);
            else
                l.v[c] = table.find(v, out);
        }
        out.faces.push_back(l);
    };
    thread_local std::vector<std::uint32_t> start, ordered; // scratch: how many faces have each own vertex as their lowest
    start.assign(out.own + 1, 0);
    for (const std::uint32_t f : row)
        if (ownerOf(faces[f]) == b)
            ++start[leastOf(faces[f]) - first + 1];
    std::partial_sum(start.begin(), start.end(), start.begin());
    ordered.resize(start.back());
    for (const std::uint32_t f : row)
        if (ownerOf(faces[f]) == b)
            ordered[start[leastOf(faces[f]) - first]++] = f;
    for (const std::uint32_t f : ordered)
        add(faces[f]);
    out.drawnFaces = std::uint32_t(out.faces.size());
    for (const std::uint32_t f : row)
        if (ownerOf(faces[f]) != b)
            add(faces[f]);
    table.clear();
}

} // namespace

std::shared_ptr<const Topology> Topology::build(std::size_t vertexCount, std::span<const Face> faces)
{
    auto topology = std::make_shared<Topology>();
    topology->m_vertexCount = vertexCount;
    topology->m_faceCount = faces.size();
    const std::size_t blocks = blockCountFor(vertexCount);
    topology->m_blocks.resize(blocks);
    const FacesByBlock rows = groupByBlock(blocks, faces);
    forEachBlock(blocks, 4, [&](BlockRange r) {
        for (std::size_t b = r.begin; b < r.end; ++b) {
            auto block = std::make_shared<BlockFaces>();
            block->own = std::uint32_t(std::min(kBlockSize, vertexCount - b * kBlockSize));
            fillBlock(b, {rows.faces.data() + rows.start[b], rows.start[b + 1] - rows.start[b]}, faces, *block);
            topology->m_blocks[b] = std::move(block);
        }
    });
    return topology;
}

std::shared_ptr<const Topology> Topology::fromBlocks(std::size_t vertexCount,
                                                     std::vector<std::shared_ptr<const BlockFaces>> blocks)
{
    auto topology = std::make_shared<Topology>();
    topology->m_vertexCount = vertexCount;
    topology->m_blocks = std::move(blocks);
    for (const auto &b : topology->m_blocks)
        topology->m_faceCount += b->drawnFaces;
    return topology;
}

namespace {

struct FaceHash {
    std::size_t operator()(const Face &f) const
    {
        std::uint64_t h = 0;
        for (const std::uint32_t v : f.v)
            h = (h ^ v) * 0x9e3779b97f4a7c15ull;
        return std::size_t(h ^ h >> 29);
    }
};

} // namespace

std::shared_ptr<const Topology> Topology::replaced(const Topology &old, std::size_t vertexCount, std::span<const Face> without,
                                                   std::span<const Face> with)
{
    assert(vertexCount >= old.vertexCount());
    auto topology = std::make_shared<Topology>();
    topology->m_vertexCount = vertexCount;
    topology->m_faceCount = old.m_faceCount - without.size() + with.size();
    topology->m_blocks = old.m_blocks;
    topology->m_blocks.resize(blockCountFor(vertexCount));
    std::vector<std::vector<Face>> added(topology->m_blocks.size());
    std::vector<std::uint8_t> isTouched(topology->m_blocks.size(), 0);
    const auto touch = [&](std::uint32_t b) { isTouched[b] = 1; };
    for (const Face &f : without)
        forEachTouchedBlock(f, touch);
    for (const Face &f : with)
        forEachTouchedBlock(f, [&](std::uint32_t b) { isTouched[b] = 1, added[b].push_back(f); });
    for (std::size_t b = old.blockCount() ? old.blockCount() - 1 : 0; b < topology->m_blocks.size(); ++b)
        if (b >= old.blockCount() || old.block(b).own != std::min(kBlockSize, vertexCount - b * kBlockSize))
            isTouched[b] = 1; // new, or the last one, which has grown
    const std::unordered_set<Face, FaceHash> gone(without.begin(), without.end());
    std::vector<std::uint32_t> touched;
    for (std::uint32_t b = 0; b < isTouched.size(); ++b)
        if (isTouched[b])
            touched.push_back(b);
    forEachBlock(touched.size(), 1, [&](BlockRange r) {
        const std::uint32_t b = touched[r.begin];
        std::vector<Face> faces;
        if (b < old.blockCount())
            for (std::size_t i = 0; i < old.block(b).faces.size(); ++i)
                if (const Face f = old.faceOf(b, i); !gone.contains(f))
                    faces.push_back(f);
        faces.insert(faces.end(), added[b].begin(), added[b].end());
        std::vector<std::uint32_t> row(faces.size());
        std::iota(row.begin(), row.end(), 0u);
        auto block = std::make_shared<BlockFaces>();
        block->own = std::uint32_t(std::min(kBlockSize, vertexCount - b * kBlockSize));
        fillBlock(b, row, faces, *block);
        topology->m_blocks[b] = std::move(block);
    });
    return topology;
}

std::size_t Topology::unusedCount() const
{
    std::size_t n = 0;
    for (const auto &b : m_blocks)
        n += b->unusedCount();
    return n;
}

Face Topology::faceOf(std::size_t b, std::size_t i) const
{
    const LocalFace &l = m_blocks[b]->faces[i];
    Face f;
    for (std::size_t c = 0; c < 4; ++c)
        f.v[c] = l.v[c] == kLocalNone ? kNone : vertexOf(b, l.v[c]);
    return f;
}

std::vector<Face> Topology::faces() const
{
    std::vector<Face> all;
    all.reserve(m_faceCount);
    for (std::size_t b = 0; b < m_blocks.size(); ++b)
        for (std::size_t i = 0; i < m_blocks[b]->drawnFaces; ++i)
            all.push_back(faceOf(b, i));
    return all;
}

std::size_t Topology::memoryBytes() const
{
    std::size_t bytes = 0;
    for (const auto &b : m_blocks)
        bytes += b->faces.size() * sizeof(LocalFace) + b->borrowed.size() * 4 + sizeof(BlockFaces);
    return bytes;
}

} // namespace bonemoss::mesh
