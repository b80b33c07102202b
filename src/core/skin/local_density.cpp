#include "skin/local_density.h"

#include "base/parallel.h"
#include "skin/attributes.h"
#include "skin/mix_positions.h"
#include "mesh/even_patch.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <unordered_map>

namespace bonemoss::skin {

namespace {

using mesh::BlockArray;
using mesh::Face;
using mesh::kBlockSize;

constexpr int kPasses = 2;
constexpr float kInner = 0.6f; // of the radius: from there the wanted length goes over into what is there

/// The faces of some spots, with their vertices numbered from 0.
struct Cut {
    std::vector<Face> faces;
    std::vector<std::uint32_t> vertices; ///< of the skin
    std::vector<Face> local;             ///< the faces over them
};

/// Faces with a corner in a ball that hang together with the vertex nearest its middle.
void gather(const Skin &skin, const Spot &spot, std::vector<Face> &out)
{
    const mesh::Topology &t = *skin.shown.topology;
    const float limit = spot.radius * spot.radius;
    std::vector<Face> near;
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> about; // faces about each vertex inside
    std::uint32_t seed = kNone;
    float nearest = std::numeric_limits<float>::max();
    for (const std::uint32_t b : blocksNear(skin.shown, spot.centre, spot.radius))
        for (std::size_t i = 0; i < t.block(b).drawnFaces; ++i) {
            const Face f = t.faceOf(b, i);
            bool isNear = false;
            for (std::size_t k = 0; k < std::size_t(f.size()); ++k) {
                const float d = squaredLength(skin.shown.positions[f.v[k]] - spot.centre);
                if (d >= limit || skin.shown.hidden[f.v[k]])
                    continue;
                isNear = true;
                about[f.v[k]].push_back(std::uint32_t(near.size()));
                const float far = d + (dot(skin.shown.normals[f.v[k]].unpack(), spot.normal) < 0 ? limit : 0);
                if (far < nearest || (far == nearest && f.v[k] < seed))
                    nearest = far, seed = f.v[k];
            }
            if (isNear)
                near.push_back(f);
        }
    if (seed == kNone)
        return;
    std::vector<std::uint8_t> isTaken(near.size(), 0);
    std::deque<std::uint32_t> open{seed};
    std::vector<std::uint32_t> reached{seed};
    std::unordered_map<std::uint32_t, bool> isSeen{{seed, true}};
    while (!open.empty()) {
        const std::uint32_t v = open.front();
        open.pop_front();
        for (const std::uint32_t f : about[v]) {
            if (isTaken[f])
                continue;
            isTaken[f] = 1;
            for (std::size_t k = 0; k < std::size_t(near[f].size()); ++k)
                if (const std::uint32_t w = near[f].v[k]; about.contains(w) && !isSeen[w])
                    isSeen[w] = true, open.push_back(w);
        }
    }
    for (std::size_t f = 0; f < near.size(); ++f) // in the order of the blocks
        if (isTaken[f])
            out.push_back(near[f]);
}

Cut cutOut(const Skin &skin, std::span<const Spot> spots)
{
    Cut cut;
    for (const Spot &s : spots)
        gather(skin, s, cut.faces);
    const auto byCorners = [](const Face &a, const Face &b) { return a.v < b.v; };
    std::sort(cut.faces.begin(), cut.faces.end(), byCorners);
    cut.faces.erase(std::unique(cut.faces.begin(), cut.faces.end()), cut.faces.end());
    for (const Face &f : cut.faces)
        cut.vertices.insert(cut.vertices.end(), f.v.begin(), f.v.begin() + f.size());
    std::sort(cut.vertices.begin(), cut.vertices.end());
    cut.vertices.erase(std::unique(cut.vertices.begin(), cut.vertices.end()), cut.vertices.end());
    for (Face f : cut.faces) {
        for (std::size_t k = 0; k < std::size_t(f.size()); ++k)
            f.v[k] = std::uint32_t(std::lower_bound(cut.vertices.begin(), cut.vertices.end(), f.v[k]) - cut.vertices.begin());
        cut.local.push_back(f);
    }
    return cut;
}

/// Lengths wanted about each vertex; none when all edges are short (or long) enough already.
std::vector<float> wantedLengths(const mesh::EdgePatch &p, std::span<const Spot> spots, float edge, Evening how)
{
    std::vector<float> sum(p.positions.size(), 0), count = sum;
    for (const auto &t : p.triangles)
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t a = t[k], b = t[(k + 1) % 3];
            const float l = length(p.positions[a] - p.positions[b]);
            sum[a] += l, sum[b] += l, count[a] += 1, count[b] += 1;
        }
    bool isAny = false;
    for (std::size_t v = 0; v < sum.size(); ++v) {
        const float there = count[v] > 0 ? sum[v] / count[v] : edge;
        float in = 0; // how far it is inside
        for (const Spot &s : spots) {
            const float r = length(p.positions[v] - s.centre) / s.radius;
            in = std::max(in, std::clamp((1 - r) / (1 - kInner), 0.0f, 1.0f));
        }
        const float wanted = there + (edge - there) * in;
        sum[v] = how == Evening::Finer ? std::min(wanted, there) : how == Evening::Coarser ? std::max(wanted, there) : wanted;
        isAny = isAny || std::abs(sum[v] - there) > 0.1f * there;
    }
    return isAny || how == Evening::Both ? sum : std::vector<float>();
}

/// Where the vertices of an evened patch lie in the skin: old ones where they were, new ones in room left free in the
/// blocks about, then at the end. Returns how many vertices the skin has then.
std::size_t findRoom(const Skin &skin, const Cut &cut, const mesh::EvenedPatch &evened, std::vector<std::uint32_t> &place)
{
    const mesh::Topology &t = *skin.shown.topology;
    std::vector<std::uint32_t> free;
    std::uint32_t last = kNone;
    for (std::size_t i = 0; i < cut.vertices.size(); ++i) {
        if (evened.isGone[i])
            free.push_back(cut.vertices[i]);
        if (const auto b = std::uint32_t(cut.vertices[i] / kBlockSize); b != last) {
            last = b;
            for (const std::uint16_t v : t.block(b).unused())
                free.push_back(std::uint32_t(b * kBlockSize + v));
        }
    }
    std::sort(free.begin(), free.end());
    place = cut.vertices;
    place.resize(evened.positions.size(), kNone);
    std::size_t next = 0, needed = 0;
    for (std::size_t i = cut.vertices.size(); i < place.size(); ++i) {
        if (evened.isGone[i])
            continue;
        if (next < free.size())
            place[i] = free[next++];
        else
            ++needed;
    }
    // The last block takes more only where its skin lies about here: else a block of its own keeps new skin compact.
    std::size_t count = t.vertexCount();
    const std::size_t lastBlock = t.blockCount() - 1;
    const bool isAbout =
        std::binary_search(cut.vertices.begin(), cut.vertices.end(), std::uint32_t(count - 1))
        || std::any_of(cut.vertices.begin(), cut.vertices.end(), [&](std::uint32_t v) { return v / kBlockSize == lastBlock; });
    if (needed > 0 && !isAbout)
        count = (count + kBlockSize - 1) / kBlockSize * kBlockSize;
    for (std::size_t i = cut.vertices.size(); i < place.size(); ++i)
        if (!evened.isGone[i] && place[i] == kNone)
            place[i] = std::uint32_t(count++);
    return count;
}

template <typename T> auto mixed(const BlockArray<T> &from, std::span<const std::uint32_t> vertices, const mesh::NearestFace &at)
{
    auto sum = from[vertices[at.corners[0]]] * at.weights[0];
    for (std::size_t k = 1; k < 3; ++k)
        sum = sum + from[vertices[at.corners[k]]] * at.weights[k];
    return sum;
}

/// A value of what is carried, written where there is something to write.
template <typename T> void write(BlockArray<T> &to, std::uint32_t v, T value)
{
    if (value != T{} || to.has(v / kBlockSize))
        to.edit(v / kBlockSize)[v % kBlockSize] = value;
}

/// Values of an array at the places given, taken from the patch as it was.
template <typename T, typename Take>
void carry(BlockArray<T> &array, std::size_t size, std::span<const std::uint32_t> place, const mesh::EvenedPatch &evened,
           const Take &take)
{
    const BlockArray<T> before = array;
    array.grow(size);
    if (before.isBlank())
        return;
    for (std::size_t i = 0; i < place.size(); ++i)
        if (!evened.isGone[i] && evened.isMoved[i])
            write(array, place[i], take(before, evened.on[i]));
}

} // namespace

std::vector<std::uint32_t> evenOut(Skin &skin, std::span<const Spot> spots, float edge, Evening how)
{
    assert(edge > 0 && skin.links.empty());
    if (skin.isEmpty())
        return {};
    const Cut cut = cutOut(skin, spots);
    mesh::EdgePatch patch;
    mesh::PolyMesh local{{}, cut.local};
    for (const std::uint32_t v : cut.vertices) {
        patch.positions.push_back(skin.shown.positions[v]);
        patch.isFixed.push_back(skin.mask[v] > 127 || skin.shown.hidden[v]);
    }
    local.positions = patch.positions;
    patch.triangles = triangulate(local);
    patch.edge = wantedLengths(patch, spots, edge, how);
    if (patch.edge.empty())
        return {};
    const mesh::EvenedPatch evened = mesh::evenOut(patch, kPasses);
    if (!evened.isChanged)
        return {};
    std::vector<std::uint32_t> place;
    const std::size_t size = findRoom(skin, cut, evened, place);
    std::vector<Face> now;
    now.reserve(evened.triangles.size());
    for (const auto &t : evened.triangles)
        now.push_back({{place[t[0]], place[t[1]], place[t[2]], kNone}});
    const auto topology = mesh::Topology::replaced(*skin.shown.topology, size, cut.faces, now);

    const std::span<const std::uint32_t> was = cut.vertices;
    const auto blend = [&](const auto &from, const mesh::NearestFace &at) { return mixed(from, was, at); };
    const auto blendByte = [&](const auto &from, const mesh::NearestFace &at) {
        return std::uint8_t(mixed(from, was, at) + 0.5f);
    };
    const auto nearest = [&](const auto &from, const mesh::NearestFace &at) {
        return from[was[at.corners[std::size_t(std::max_element(at.weights.begin(), at.weights.end()) - at.weights.begin())]]];
    };
    carry(skin.body, size, place, evened, blend);
    for (Layer &l : skin.layers) {
        carry(l.offsets, size, place, evened, blend);
        carry(l.mask, size, place, evened, blendByte);
    }
    eachAttribute(skin, [&]<typename T>(const AttributeKind &kind, const std::string &, BlockArray<T> &values) {
        if constexpr (std::is_same_v<T, std::uint8_t>)
            if (kind.blend == Blend::Mix)
                return carry(values, size, place, evened, blendByte);
        carry(values, size, place, evened, nearest);
    });
    std::vector<std::uint32_t> changed;
    for (std::uint32_t b = 0; b < topology->blockCount(); ++b)
        if (b >= skin.shown.topology->blockCount() || topology->shareBlock(b) != skin.shown.topology->shareBlock(b))
            changed.push_back(b);
    skin.shown.topology = topology;
    skin.shown.positions.grow(size);
    skin.shown.normals.grow(size);
    skin.shown.bounds.resize(topology->blockCount());
    mixPositions(skin, changed);
    std::vector<std::uint32_t> stale = changed; // their faces are others, and those beside them have other neighbours
    for (const std::uint32_t b : changed) {
        const std::vector<std::uint32_t> &beside = topology->block(b).blocksBeside();
        stale.insert(stale.end(), beside.begin(), beside.end());
    }
    std::sort(stale.begin(), stale.end());
    stale.erase(std::unique(stale.begin(), stale.end()), stale.end());
    updateBlocks(skin.shown, stale);
    composeColours(skin, changed);
    return changed;
}

namespace {

template <typename T> BlockArray<T> kept(const BlockArray<T> &old, std::span<const std::uint32_t> from)
{
    BlockArray<T> out(from.size());
    if (old.isBlank())
        return out;
    forEachBlock(out.blockCount(), 1, [&](BlockRange r) {
        const std::size_t first = r.begin * kBlockSize, n = out.countIn(r.begin);
        bool any = false;
        for (std::size_t i = 0; i < n && !any; i = (i / 64 + 1) * 64) // old blocks are whole, and follow each other
            any = old.has(from[first + i] / kBlockSize);
        any = any || old.has(from[first + n - 1] / kBlockSize);
        if (!any)
            return;
        auto block = std::make_shared<mesh::Block<T>>();
        block->values.resize(n);
        for (std::size_t i = 0; i < n; ++i)
            block->values[i] = old[from[first + i]];
        out.put(r.begin, std::move(block));
    });
    return out;
}

} // namespace

void compact(Skin &skin)
{
    if (skin.isEmpty() || skin.shown.topology->unusedCount() == 0)
        return;
    assert(skin.links.empty());
    const mesh::Topology &t = *skin.shown.topology;
    std::vector<std::uint32_t> from, to(t.vertexCount(), kNone);
    for (std::size_t b = 0; b < t.blockCount(); ++b) {
        const std::vector<std::uint16_t> unused = t.block(b).unused();
        std::size_t next = 0;
        for (std::uint32_t i = 0; i < t.block(b).own; ++i) {
            if (next < unused.size() && unused[next] == i) {
                ++next;
                continue;
            }
            to[b * kBlockSize + i] = std::uint32_t(from.size());
            from.push_back(std::uint32_t(b * kBlockSize + i));
        }
    }
    std::vector<Face> faces = t.faces();
    forEachBlock(faces.size(), 16384, [&](BlockRange r) {
        for (std::size_t f = r.begin; f < r.end; ++f)
            for (std::uint32_t &v : faces[f].v)
                v = v == kNone ? kNone : to[v];
    });
    Skin out;
    out.layers = skin.layers;
    for (Layer &l : out.layers)
        l.offsets = kept(l.offsets, from), l.mask = kept(l.mask, from);
    out.body = kept(skin.body, from);
    out.shown = mesh::makeSurface(mesh::Topology::build(from.size(), faces), kept(skin.shown.positions, from));
    makeAttributes(skin, out, [&](const AttributeKind &, const auto &values) { return kept(values, from); });
    for (std::uint32_t b = 0; b < out.body.blockCount(); ++b) // blocks without a layer over them share the body's
        if (std::none_of(out.layers.begin(), out.layers.end(),
                         [&](const Layer &l) { return l.offsets.has(b) && l.shownStrength() != 0; }))
            out.shown.positions.takeFrom(out.body, b);
    skin = std::move(out);
}

} // namespace bonemoss::skin
