#include "document/ops/rebuild.h"

#include "field/mesh_distance.h"
#include "solid/holes.h"

#include <algorithm>
#include <fmt/format.h>
#include <limits>

namespace bonemoss::document {

Result<mesh::PolyMesh> combined(std::span<const std::shared_ptr<const Piece>> pieces, solid::Boolean how, Operation &context)
{
    mesh::PolyMesh mesh = toPolyMesh(pieces.front()->skin.shown);
    for (std::size_t i = 1; i < pieces.size(); ++i) {
        const std::string &name = pieces[i]->name;
        context.progress.say(0.6f * float(i) / float(pieces.size()), name);
        auto made = solid::combine(mesh, toPolyMesh(pieces[i]->skin.shown), how, context.progress);
        if (!made)
            return Error{made.error().code, name, made.error().text()};
        if (context.progress.isCancelled())
            return Error{ErrorCode::Cancelled, "join", "stopped on request"};
        mesh = std::move(made->mesh);
        context.notes.insert(context.notes.end(), made->notes.begin(), made->notes.end());
    }
    return mesh;
}

mesh::CutMesh cutAtMask(const skin::Skin &skin)
{
    std::vector<float> values;
    for (const std::uint8_t m : skin.mask.flatten())
        values.push_back(float(m) - 127.5f);
    return cutAlong(toPolyMesh(skin.shown), std::move(values));
}

namespace {

/// The faces of one number.
mesh::PolyMesh facesOf(const mesh::PolyMesh &mesh, std::span<const std::uint32_t> numbers, std::uint32_t number)
{
    std::vector<bool> chosen(numbers.size());
    for (std::size_t f = 0; f < chosen.size(); ++f)
        chosen[f] = numbers[f] == number;
    return std::find(chosen.begin(), chosen.end(), true) == chosen.end() ? mesh::PolyMesh() : extract(mesh, chosen);
}

} // namespace

Result<std::vector<SkinPart>> partsByGroup(const skin::Skin &skin, const std::string &rest)
{
    const mesh::PolyMesh mesh = toPolyMesh(skin.shown);
    std::vector<std::uint32_t> groupOf(mesh.faces.size());
    for (std::size_t f = 0; f < groupOf.size(); ++f)
        for (int k = 0; k < mesh.faces[f].size(); ++k)
            groupOf[f] = std::max(groupOf[f], std::uint32_t(skin.groupOf[mesh.faces[f].v[std::size_t(k)]]));
    std::vector<SkinPart> parts{{facesOf(mesh, groupOf, 0), rest}};
    for (const skin::Group &g : skin.groups)
        parts.push_back({facesOf(mesh, groupOf, g.number), g.name});
    std::erase_if(parts, [](const SkinPart &p) { return p.mesh.isEmpty(); });
    if (parts.size() < 2)
        return Error{ErrorCode::BadValue, rest, "is all in one group, or in none; make groups first"};
    return parts;
}

Result<std::vector<SkinPart>> partsByIsland(const skin::Skin &skin, const std::string &name, std::size_t most)
{
    const mesh::PolyMesh mesh = toPolyMesh(skin.shown);
    std::uint32_t count = 0;
    const std::vector<std::uint32_t> ofVertex = islandsOf(mesh, count);
    if (count < 2)
        return Error{ErrorCode::BadValue, name, "is one island; there is nothing to split"};
    if (count > most)
        return Error{ErrorCode::TooLarge, name, fmt::format("has {} islands; that would be as many pieces", count)};
    std::vector<std::uint32_t> island;
    for (const mesh::Face &f : mesh.faces)
        island.push_back(ofVertex[f.v[0]]);
    std::vector<SkinPart> parts;
    for (std::uint32_t k = 0; k < count; ++k)
        parts.push_back({facesOf(mesh, island, k), {}});
    return parts;
}

Result<std::vector<SkinPart>> partsByMask(const skin::Skin &skin, const std::string &name)
{
    const mesh::CutMesh cut = cutAtMask(skin);
    std::vector<bool> isOut = cut.isIn;
    isOut.flip();
    std::vector<SkinPart> parts{{extract(cut.mesh, isOut), {}}, {extract(cut.mesh, cut.isIn), {}}};
    if (parts[0].mesh.isEmpty() || parts[1].mesh.isEmpty())
        return Error{ErrorCode::BadValue, name, "nothing, or everything, is masked; mask the part that shall go"};
    return parts;
}

mesh::PolyMesh closedFlat(const mesh::PolyMesh &mesh, const std::string &name, Operation &context)
{
    solid::Closed closed = solid::closeHoles(mesh, solid::Fill::Flat);
    if (closed.left > 0)
        context.notes.push_back(fmt::format("{}: {} borders touch themselves and stay open", name, closed.left));
    return std::move(closed.mesh);
}

mesh::PolyMesh plateOver(const mesh::PolyMesh &sheet, float thickness, float above, solid::Rim rim)
{
    const mesh::Surface surface = mesh::makeSurface(sheet);
    std::vector<Vec3f> normals;
    for (std::size_t v = 0; v < sheet.positions.size(); ++v)
        normals.push_back(surface.normals[v].unpack());
    const float top = thickness * above;
    return solid::plate(sheet, normals, top, top - thickness, rim);
}

std::size_t nearestBorder(const mesh::PolyMesh &mesh, const std::vector<std::vector<std::uint32_t>> &borders, Vec3f at)
{
    std::size_t best = 0;
    float least = std::numeric_limits<float>::max();
    for (std::size_t k = 0; k < borders.size(); ++k)
        for (const std::uint32_t v : borders[k])
            if (const float d = squaredLength(mesh.positions[v] - at); d < least)
                least = d, best = k;
    return best;
}

namespace {

Result<std::unique_ptr<field::DistanceSource>> offsetSolid(const Piece &piece, float by, float spacing)
{
    if (!solid::openBorders(toPolyMesh(piece.skin.shown)).empty())
        return Error{ErrorCode::BadValue, piece.name, "has open borders, so it has no inside; close its holes first"};
    auto distance = field::distanceOf(piece.skin.shown, spacing);
    if (!distance)
        return Error{distance.error().code, piece.name, distance.error().detail};
    return field::offsetBy(std::move(*distance), by);
}

Error nothingLeft(const Piece &piece, float by, const Error &why)
{
    return why.code == ErrorCode::Empty ? Error{ErrorCode::Empty, piece.name,
                                                fmt::format("is nowhere thicker than {:g} mm; nothing would be left", -2 * by)}
                                        : why;
}

} // namespace

Result<field::Knitted> offsetOf(const Piece &piece, float by, float spacing, Operation &context)
{
    const auto solid = offsetSolid(piece, by, spacing);
    if (!solid)
        return solid.error();
    auto knitted = field::knitSource(**solid, {spacing, 0}, context.progress);
    return knitted ? std::move(knitted) : Result<field::Knitted>(nothingLeft(piece, by, knitted.error()));
}

Result<std::size_t> offsetForecast(const Piece &piece, float by, float spacing)
{
    constexpr float kCells = 64; // along the longest side
    const Vec3f size = piece.skin.shown.box().size();
    const float coarse = std::max(spacing, (std::max({size.x, size.y, size.z}) + 2 * std::abs(by)) / kCells);
    const auto solid = offsetSolid(piece, by, coarse);
    if (!solid)
        return solid.error();
    const auto faces = field::forecastFaces(**solid, coarse);
    if (!faces)
        return nothingLeft(piece, by, faces.error());
    const double finer = double(coarse) / double(spacing);
    return std::size_t(double(*faces) * finer * finer);
}

std::vector<std::uint32_t> facesBy(const mesh::PolyMesh &mesh, const mesh::BlockArray<std::uint8_t> &mask, MaskedFaces which)
{
    std::vector<std::uint32_t> faces;
    for (std::uint32_t f = 0; f < mesh.faces.size(); ++f) {
        int masked = 0;
        for (int k = 0; k < mesh.faces[f].size(); ++k)
            masked += mask[mesh.faces[f].v[std::size_t(k)]] > 127;
        if (which == MaskedFaces::All || masked == (which == MaskedFaces::Inside ? mesh.faces[f].size() : 0))
            faces.push_back(f);
    }
    return faces;
}

double facesNeeded(const mesh::PolyMesh &mesh, std::span<const std::uint32_t> faces, float edge)
{
    double area = 0;
    for (const std::uint32_t f : faces) {
        const mesh::Face &q = mesh.faces[f];
        for (int k = 0; k + 2 < q.size(); ++k)
            area += double(length(cross(mesh.positions[q.v[std::size_t(k + 1)]] - mesh.positions[q.v[0]],
                                        mesh.positions[q.v[std::size_t(k + 2)]] - mesh.positions[q.v[0]])))
                    / 2;
    }
    return area / (double(edge) * double(edge) * 0.433); // an even triangle has sqrt(3) / 4 of its edge squared
}

} // namespace bonemoss::document
