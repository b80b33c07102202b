#include "skin/carry.h"

#include "base/parallel.h"
#include "skin/attributes.h"
#include "skin/colour_layers.h"
#include "mesh/nearest_faces.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::skin {

namespace {

using mesh::BlockArray;
using mesh::kBlockSize;
using mesh::NearestFace;

constexpr std::size_t kMeasured = 50000; // vertices at which losses are looked at: at most so many, of few an eighth
constexpr std::size_t kRun = 64;         // of them in a row

template <typename Values> auto blended(const Values &from, const NearestFace &at)
{
    auto sum = from[at.corners[0]] * at.weights[0];
    for (std::size_t k = 1; k < 3; ++k)
        sum = sum + from[at.corners[k]] * at.weights[k];
    return sum;
}

std::uint32_t nearestCorner(const NearestFace &at)
{
    return at.corners[std::size_t(std::max_element(at.weights.begin(), at.weights.end()) - at.weights.begin())];
}

/// Offsets on the new vertices; blocks where there is nothing stay missing.
BlockArray<Vec3f> carried(const BlockArray<Vec3f> &old, std::span<const NearestFace> nearest)
{
    BlockArray<Vec3f> out(nearest.size());
    if (old.isBlank())
        return out;
    forEachBlock(out.blockCount(), 1, [&](BlockRange r) {
        const std::size_t first = r.begin * kBlockSize, n = out.countIn(r.begin);
        const bool any = std::any_of(nearest.begin() + std::ptrdiff_t(first), nearest.begin() + std::ptrdiff_t(first + n),
                                     [&](const NearestFace &f) {
                                         return old.has(f.corners[0] / kBlockSize) || old.has(f.corners[1] / kBlockSize)
                                                || old.has(f.corners[2] / kBlockSize);
                                     });
        if (!any)
            return;
        auto block = std::make_shared<mesh::Block<Vec3f>>();
        block->values.resize(n);
        bool isBlank = true;
        for (std::size_t i = 0; i < n; ++i) {
            block->values[i] = blended(old, nearest[first + i]);
            isBlank = isBlank && block->values[i] == Vec3f{};
        }
        if (!isBlank)
            out.put(r.begin, std::move(block));
    });
    return out;
}

BlockArray<std::uint8_t> carried(const BlockArray<std::uint8_t> &old, std::span<const NearestFace> nearest)
{
    BlockArray<std::uint8_t> out(nearest.size());
    if (old.isBlank())
        return out;
    const std::vector<std::uint8_t> all = old.flatten();
    forEachBlock(out.blockCount(), 1, [&](BlockRange r) {
        auto block = std::make_shared<mesh::Block<std::uint8_t>>();
        block->values.resize(out.countIn(r.begin));
        for (std::size_t i = 0; i < block->values.size(); ++i) // a blend of bytes is a byte
            block->values[i] = std::uint8_t(blended(all, nearest[r.begin * kBlockSize + i]) + 0.5f);
        out.put(r.begin, std::move(block));
    });
    return out;
}

/// Numbers that do not blend: that of the nearest corner.
template <typename T> BlockArray<T> taken(const BlockArray<T> &old, std::span<const NearestFace> nearest)
{
    BlockArray<T> out(nearest.size());
    if (old.isBlank())
        return out;
    forEachBlock(out.blockCount(), 1, [&](BlockRange r) {
        auto block = std::make_shared<mesh::Block<T>>();
        block->values.resize(out.countIn(r.begin));
        bool isBlank = true;
        for (std::size_t i = 0; i < block->values.size(); ++i) {
            block->values[i] = old[nearestCorner(nearest[r.begin * kBlockSize + i])];
            isBlank = isBlank && block->values[i] == 0;
        }
        if (!isBlank)
            out.put(r.begin, std::move(block));
    });
    return out;
}

/// Runs of old vertices, evenly taken.
std::vector<std::uint32_t> measuredVertices(std::size_t n)
{
    std::vector<std::uint32_t> out;
    const std::size_t runs =
        std::max<std::size_t>(1, std::min(std::max<std::size_t>(n / 8, 4096), std::min(n, kMeasured)) / kRun);
    for (std::size_t k = 0; k < runs; ++k)
        for (std::size_t i = k * n / runs; i < std::min(n, k * n / runs + kRun); ++i)
            if (out.empty() || i > out.back())
                out.push_back(std::uint32_t(i));
    return out;
}

CarryLoss lossOf(std::string what, std::size_t n, const std::function<double(std::size_t)> &off)
{
    CarryLoss loss{std::move(what), 0, 0, false};
    for (std::size_t i = 0; i < n; ++i) {
        const double d = off(i);
        loss.mean += d;
        loss.largest = std::max(loss.largest, d);
    }
    loss.mean /= double(std::max<std::size_t>(1, n));
    return loss;
}

std::vector<CarryLoss> measured(const Skin &old, const Skin &now, float reach, bool isPart)
{
    std::vector<std::uint32_t> at = measuredVertices(old.body.size());
    std::vector<Vec3f> points;
    for (const std::uint32_t v : at)
        points.push_back(old.shown.positions[v]);
    std::vector<NearestFace> nearest =
        isPart ? mesh::nearestFacesWithin(now.shown, points, reach) : nearestFaces(now.shown, points, reach);
    if (isPart) {
        std::size_t stayed = 0;
        for (std::size_t i = 0; i < at.size(); ++i)
            if (nearest[i].distance <= reach / 8)
                at[stayed] = at[i], nearest[stayed++] = nearest[i];
        at.resize(stayed), nearest.resize(stayed);
    }
    std::vector<CarryLoss> out{lossOf("skin", at.size(), [&](std::size_t i) { return double(nearest[i].distance); })};
    for (std::size_t k = 0; k < old.layers.size(); ++k)
        out.push_back(lossOf(old.layers[k].name, at.size(), [&](std::size_t i) {
            return double(length(old.layers[k].offsets[at[i]] - blended(now.layers[k].offsets, nearest[i])));
        }));
    // Shares of what may be lost, rows of one word together: colour is off by the channel that is off most.
    std::vector<std::pair<std::string, std::vector<double>>> shares;
    eachAttribute(old, [&]<typename T>(const AttributeKind &kind, const std::string &name, const BlockArray<T> &was) {
        if (kind.loss.empty() || was.isBlank())
            return;
        const BlockArray<T> &is = *valuesOf(now, kind, name, T{});
        const std::string what =
            name.empty() || kind.isToldTogether ? std::string(kind.loss) : fmt::format("{} {}", kind.loss, name);
        auto share = std::find_if(shares.begin(), shares.end(), [&](const auto &s) { return s.first == what; });
        if (share == shares.end())
            share = shares.insert(shares.end(), {what, std::vector<double>(at.size(), 0)});
        for (std::size_t i = 0; i < at.size(); ++i) {
            const double off = kind.blend == Blend::Nearest
                                   ? double(was[at[i]] != is[nearestCorner(nearest[i])])
                                   : std::abs(double(was[at[i]]) - double(blended(is, nearest[i]))) / 255;
            share->second[i] = std::max(share->second[i], off);
        }
    });
    for (const auto &share : shares) {
        out.push_back(lossOf(share.first, at.size(), [&](std::size_t i) { return share.second[i]; }));
        out.back().isShare = true;
    }
    return out;
}

} // namespace

std::string CarryLoss::text() const
{
    constexpr double kRounding = 1e-5; // mm, and of the whole: what blending in floats leaves
    if (largest < kRounding)
        return fmt::format("{}: nothing lost", what);
    return isShare ? fmt::format("{}: {:.2g} % lost on average, {:.2g} % at most", what, mean * 100, largest * 100)
                   : fmt::format("{}: {:.2g} mm off on average, {:.2g} mm at most", what, mean, largest);
}

Carried carryOver(const Skin &old, const mesh::PolyMesh &mesh, float reach, const Progress &progress, CarryHints hints)
{
    Carried out;
    out.skin = makeSkin(mesh, true);
    Skin &now = out.skin;
    progress.say(0.75f, "looking up what lay there");
    // On a skin much finer than the mesh the crossings are too few to tell the nearest face.
    const bool isKnown = !hints.near.empty() && hints.from && meanEdgeLength(old.shown) > meanEdgeLength(now.shown) / 2;
    const std::vector<NearestFace> nearest = isKnown
                                                 ? nearestFaces(old.shown, *hints.from, mesh.positions, hints.near, hints.kept)
                                                 : nearestFaces(old.shown, mesh.positions, reach);
    progress.say(0.85f, "layers, masks and groups");
    for (const Layer &l : old.layers) {
        Layer moved = l;
        moved.offsets = carried(l.offsets, nearest);
        moved.mask = carried(l.mask, nearest);
        now.layers.push_back(std::move(moved));
    }
    makeAttributes(old, now, [&]<typename T>(const AttributeKind &kind, const BlockArray<T> &values) {
        if constexpr (std::is_same_v<T, std::uint8_t>)
            if (kind.blend == Blend::Mix)
                return carried(values, nearest);
        return taken(values, nearest);
    });
    for (std::size_t b = 0; b < now.body.blockCount(); ++b)
        if (std::any_of(now.layers.begin(), now.layers.end(), [&](const Layer &l) { return l.offsets.has(b); }))
            now.body.edit(b); // so that the loop below only writes
    forEachBlock(now.body.blockCount(), 1, [&](BlockRange r) {
        for (const Layer &l : now.layers)
            if (l.offsets.has(r.begin) && l.shownStrength() != 0)
                addShown(l, r.begin, -1, {now.body.edit(r.begin), now.body.countIn(r.begin)});
    });
    progress.say(0.95f, "measuring what was lost");
    if (hints.isMeasured)
        out.losses = measured(old, now, reach, hints.isPart);
    return out;
}

LayerCopy copiedLayer(const Skin &from, const Layer &layer, const Skin &to, const sculpt::Isometry &place, float reach)
{
    std::vector<Vec3f> points = to.body.flatten();
    for (Vec3f &p : points)
        p = place.apply(p);
    // Between the bodies: what the layers make of them would skew what lies where.
    const std::vector<NearestFace> nearest = nearestFaces(mesh::makeSurface(from.shown.topology, from.body), points, reach);
    LayerCopy out{carried(layer.offsets, nearest), carried(layer.mask, nearest), 0};
    // The inverse of a turn or mirroring is its transpose.
    const auto turnBack = [&](Vec3f v) { return place.rows[0] * v.x + place.rows[1] * v.y + place.rows[2] * v.z; };
    std::size_t missed = 0;
    for (const NearestFace &f : nearest)
        missed += f.distance > reach;
    out.missed = double(missed) / double(std::max<std::size_t>(1, nearest.size()));
    forEachBlock(out.offsets.blockCount(), 1, [&](BlockRange r) {
        if (!out.offsets.has(r.begin))
            return;
        Vec3f *o = out.offsets.edit(r.begin);
        for (std::size_t i = 0; i < out.offsets.countIn(r.begin); ++i)
            o[i] = nearest[r.begin * kBlockSize + i].distance > reach ? Vec3f{} : turnBack(o[i]);
    });
    return out;
}

std::uint32_t copyColoursOver(Skin &to, const Skin &from, std::uint32_t layer, const std::string &name, std::uint32_t &nextId,
                              double &missed)
{
    const float reach = 8 * meanEdgeLength(from.shown);
    const std::vector<Vec3f> points = to.body.flatten();
    const std::vector<NearestFace> nearest = nearestFaces(mesh::makeSurface(from.shown.topology, from.body), points, reach);
    const std::uint32_t id = addColourLayer(to, name, nextId);
    ColourLayer copy = *colourLayer(from, layer);
    copy.id = id, copy.name = name, copy.isAside = false, copy.isLocked = false;
    *colourLayer(to, id) = copy;
    const std::string prefix = fmt::format("{}.", layer);
    for (const KeptMask &m : from.colourValues) {
        if (!m.name.starts_with(prefix))
            continue;
        Bytes values = carried(m.values, nearest);
        for (std::size_t v = 0; v < nearest.size(); ++v)
            if (nearest[v].distance > reach && values[v] != 0)
                values.edit(v / kBlockSize)[v % kBlockSize] = 0;
        to.colourValues.push_back({fmt::format("{}.{}", id, m.name.substr(prefix.size())), std::move(values)});
    }
    for (const PaletteColour &c : from.palette)
        if (const auto uses = layersWith(from, c.id); std::find(uses.begin(), uses.end(), layer) != uses.end())
            usePaletteColour(to, c);
    const auto far = std::count_if(nearest.begin(), nearest.end(), [&](const NearestFace &f) { return f.distance > reach; });
    missed = double(far) / double(std::max<std::size_t>(1, nearest.size()));
    composeColours(to);
    return id;
}

namespace {

/// What each group of a skin is called among those of several, which get it where they have none of its name.
std::vector<std::uint16_t> numbersAmong(std::vector<Group> &groups, const Skin &skin)
{
    std::vector<std::uint16_t> number(std::size_t(skin.freeGroup()), 0);
    for (const Group &g : skin.groups) {
        auto it = std::find_if(groups.begin(), groups.end(), [&](const Group &x) { return x.name == g.name; });
        if (it == groups.end())
            it = groups.insert(groups.end(), {std::uint16_t(groups.size() + 1), g.name});
        number[g.number] = it->number;
    }
    return number;
}

} // namespace

namespace {

/// What has an id that is not there yet.
template <typename T> void addById(const std::vector<T> &from, std::vector<T> &to)
{
    for (const T &x : from)
        if (std::none_of(to.begin(), to.end(), [&](const T &there) { return there.id == x.id; }))
            to.push_back(x);
}

} // namespace

Skin together(std::span<const Skin *const> skins)
{
    mesh::PolyMesh all;
    struct Whole {
        Layer layer;
        std::vector<Vec3f> offsets;
        std::vector<std::uint8_t> mask;
    };
    std::vector<Whole> layers;
    std::vector<Vec3f> body;
    /// Values of one attribute of all skins, of any width.
    struct Values {
        const AttributeKind *kind;
        std::string name;
        std::vector<std::uint16_t> values;
    };
    std::vector<Values> attributes;
    std::vector<Group> groups;
    std::vector<ColourLayer> colours; // each holds something on its own part alone
    std::vector<PaletteColour> palette;
    const auto append = [](auto &to, const auto &blocks) {
        const auto values = blocks.flatten();
        to.insert(to.end(), values.begin(), values.end());
    };
    for (const Skin *s : skins) {
        const std::size_t first = all.positions.size();
        mesh::append(all, toPolyMesh(s->shown));
        const std::size_t n = all.positions.size();
        append(body, s->body);
        for (const Layer &l : s->layers) {
            auto it = std::find_if(layers.begin(), layers.end(), [&](const Whole &w) {
                return w.layer.name == l.name && w.layer.strength == l.strength && w.layer.isOn == l.isOn
                       && w.offsets.size() <= first;
            });
            if (it == layers.end())
                it = layers.insert(layers.end(), Whole{l, {}, {}});
            it->offsets.resize(first), it->mask.resize(first);
            append(it->offsets, l.offsets), append(it->mask, l.mask);
        }
        for (Whole &w : layers)
            w.offsets.resize(n), w.mask.resize(n);
        const std::vector<std::uint16_t> number = numbersAmong(groups, *s);
        eachAttribute(*s, [&]<typename T>(const AttributeKind &kind, const std::string &name, const BlockArray<T> &values) {
            auto it = std::find_if(attributes.begin(), attributes.end(),
                                   [&](const Values &v) { return v.kind == &kind && v.name == name; });
            if (it == attributes.end())
                it = attributes.insert(attributes.end(), {&kind, name, {}});
            it->values.resize(first);
            append(it->values, values);
            if (kind.numbers) // numbers of groups
                for (std::size_t v = first; v < n; ++v)
                    it->values[v] = it->values[v] < number.size() ? number[it->values[v]] : std::uint16_t(0);
        });
        for (Values &v : attributes)
            v.values.resize(n);
        addById(s->colourLayers, colours), addById(s->palette, palette);
    }
    const auto blocksOf = [](const auto &values) {
        using T = typename std::decay_t<decltype(values)>::value_type;
        const bool isBlank = std::all_of(values.begin(), values.end(), [](T v) { return v == T{}; });
        return isBlank ? BlockArray<T>(values.size()) : BlockArray<T>(values);
    };
    Skin out;
    out.shown = mesh::makeSurface(all);
    out.body = BlockArray<Vec3f>(body);
    blankAttributes(out);
    out.groups = std::move(groups);
    for (const Values &v : attributes)
        if (v.kind->numbers)
            placeOf(out, *v.kind, v.name, std::uint16_t{}) = blocksOf(v.values);
        else
            placeOf(out, *v.kind, v.name, std::uint8_t{}) = blocksOf(std::vector<std::uint8_t>(v.values.begin(), v.values.end()));
    for (Whole &w : layers) {
        w.layer.offsets = blocksOf(w.offsets), w.layer.mask = blocksOf(w.mask);
        out.layers.push_back(std::move(w.layer));
    }
    out.colourLayers = std::move(colours), out.palette = std::move(palette);
    composeColours(out);
    return out;
}

} // namespace bonemoss::skin
