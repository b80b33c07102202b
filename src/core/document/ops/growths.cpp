#include "document/ops/growths.h"

#include "document/ops/surroundings.h"

#include <algorithm>
#include <fmt/format.h>
#include <xxhash.h>

namespace bonemoss::document {

using growth::Growth;
using growth::GrowthKind;
using skin::Layer;
using skin::Skin;

std::uint64_t groundMark(const Piece &piece)
{
    std::uint64_t mark = growth::fingerprint(piece.skin);
    for (const growth::Guide &g : piece.guides) {
        mark = XXH3_64bits_withSeed(g.points.data(), g.points.size() * sizeof(Vec3f), mark);
        mark = XXH3_64bits_withSeed(&g.size, sizeof g.size, mark);
    }
    return mark;
}

std::vector<std::uint32_t> staleGrowths(const Piece &piece)
{
    std::vector<std::uint32_t> stale;
    if (std::none_of(piece.skin.layers.begin(), piece.skin.layers.end(), [](const Layer &l) { return l.growth != nullptr; }))
        return stale;
    const std::uint64_t now = groundMark(piece);
    for (const Layer &l : piece.skin.layers)
        if (l.growth && l.growth->ground != now)
            stale.push_back(l.id);
    return stale;
}

namespace {

/// Mean edge length, over some ten thousand faces, where a mask does not lie.
float spacingBeside(const Skin &skin, const mesh::BlockArray<std::uint8_t> &masked)
{
    const mesh::Topology &t = *skin.shown.topology;
    double sum = 0;
    std::size_t count = 0;
    const std::size_t step = std::max<std::size_t>(1, t.faceCount() / 40000);
    for (std::size_t b = 0; b < t.blockCount(); ++b)
        for (std::size_t f = b % step; f < t.block(b).drawnFaces; f += step) {
            const mesh::Face face = t.faceOf(b, f);
            if (masked[face.v[0]] < 128)
                sum += double(length(skin.shown.positions[face.v[0]] - skin.shown.positions[face.v[1]])), ++count;
        }
    return count > 0 ? float(sum / double(count)) : 0;
}

} // namespace

std::string coarseness(const Skin &skin, const Growth &growth, const Layer *layer)
{
    const float needed = growth.kind->finest(growth);
    const float here = layer && !layer->mask.isBlank() ? spacingBeside(skin, layer->mask) : meanEdgeLength(skin.shown);
    if (here <= 1.15f * needed)
        return {};
    return fmt::format(
        "{}: this needs {:.2g} mm from vertex to vertex to show clean, here it is {:.2g} mm; refine the skin, or grow it larger",
        growth.kind->title, needed, here);
}

Result<growth::Surroundings> surroundingsOf(const Creature &c, const Piece &piece, const Growth &growth)
{
    growth::Surroundings about = surroundingsOf(c, piece);
    if (growth.kind->takesStamp && !(about.stamp = stampNamed(c, growth.stamp)))
        return Error{ErrorCode::Unknown, "stamp", fmt::format("there is no stamp \"{}\"", growth.stamp)};
    if (!growth.sizes.empty()) {
        const skin::KeptMask *kept = piece.skin.keptMask(growth.sizes);
        if (!kept)
            return Error{ErrorCode::Unknown, "sizes", fmt::format("there is no kept mask \"{}\"", growth.sizes)};
        about.sizes = kept->values;
    }
    return about;
}

Status growLayer(const Creature &c, Piece &piece, std::uint32_t layer, Growth growth, Operation &context)
{
    const auto about = surroundingsOf(c, piece, growth);
    if (!about)
        return about.error();
    if (const std::string why = coarseness(piece.skin, growth, piece.skin.layer(layer)); !why.empty())
        context.notes.push_back(why);
    growth.ground = groundMark(piece);
    return growth::grow(piece.skin, layer, std::move(growth), *about, context.progress);
}

} // namespace bonemoss::document
