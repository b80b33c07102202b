// Pictures on colour layers.
#include "base/files.h"
#include "colour/projected.h"
#include "colour/tiled.h"
#include "command/colours/colour_taking.h"
#include "document/ops/surroundings.h"
#include "image/picture_file.h"

namespace bonemoss::command {

using skin::ColourLayer;
using skin::Skin;

namespace {

Result<image::ColourPicture> pictureAt(const std::filesystem::path &path)
{
    const auto bytes = image::readPictureFile(path);
    if (!bytes)
        return bytes.error();
    auto picture = image::decodePicture(*bytes, 2048);
    if (!picture)
        return Error{picture.error().code, shownPath(path), picture.error().detail};
    return picture;
}

/// The layer that a picture goes to: the one named, or a new one called after the file.
Result<std::uint32_t> layerFor(Piece &piece, const std::optional<ItemName> &layer, const std::filesystem::path &path,
                               std::uint32_t &nextId)
{
    const std::uint32_t id = layer ? need(findColourLayer(piece, *layer))
                                   : skin::addColourLayer(piece.skin, freeLayerName(piece.skin, shownPath(path.stem())), nextId);
    if (const ColourLayer *l = skin::colourLayer(piece.skin, id); l->isLocked)
        return Error{ErrorCode::BadValue, l->name, "this colour layer is locked; unlock it first"};
    return id;
}

Result<Creature> tilePicture(const Creature &before, const TilePicture &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    Skin &skin = piece->skin;
    const image::ColourPicture picture = need(pictureAt(context.folder / p.path));
    const std::uint32_t id = need(layerFor(*piece, p.layer, p.path, after.nextId));
    const growth::Ground ground = growth::groundOf(skin);
    const growth::Flow flow(ground, document::surroundingsOf(before, *piece));
    const std::vector<Vec3f> colours =
        colour::tiledOver(ground, flow, picture, {p.size, p.turn, p.seam, p.seed}, context.progress);
    if (colours.size() != skin.body.size())
        return Error{ErrorCode::Cancelled, piece->name, "the picture was not laid"};
    skin::layColours(skin, id, colours, [&](std::size_t v) { return p.amount * (1 - float(skin.mask[v]) / 255); });
    return putBack(std::move(after), std::move(piece));
}

Result<Creature> projectPicture(const Creature &before, const ProjectPicture &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    Skin &skin = piece->skin;
    if (p.corners.size() != 4)
        return Error{ErrorCode::BadValue, "corners", "must be four: top left, top right, bottom right, bottom left"};
    const image::ColourPicture picture = need(pictureAt(context.folder / p.path));
    colour::PictureCard card{{p.corners[0], p.corners[1], p.corners[2], p.corners[3]}, p.eye};
    const auto thrown = colour::thrownOn(skin.shown, picture, card, p.soft);
    if (!thrown)
        return Error{ErrorCode::BadValue, "corners",
                     "must be the corners of a quadrilateral with no hollow corner, clockwise as its viewer sees it"};
    const auto share = [&](std::size_t v) { return p.amount * thrown->shares[v] * (1 - float(skin.mask[v]) / 255); };
    const bool isAny = std::any_of(thrown->shares.begin(), thrown->shares.end(), [](float s) { return s > 0; });
    if (!isAny)
        return Error{ErrorCode::Empty, shownPath(p.path), "falls beside the skin: nothing was laid"};
    const std::uint32_t id = need(layerFor(*piece, p.layer, p.path, after.nextId));
    skin::layColours(skin, id, thrown->colours, share);
    return putBack(std::move(after), std::move(piece));
}

} // namespace

Fields<TilePicture> TilePicture::fields()
{
    using P = TilePicture;
    return {pieceField<P>(),
            fieldOf<P>(&P::layer, "layer", "", "a colour layer by name or id; left out: a new one"),
            fieldOf<P>(&P::path, "path", "", "a picture file").required(),
            fieldOf<P>(&P::size, "size", "mm", "that the picture is wide", 0.5, 2000),
            fieldOf<P>(&P::turn, "turn", "", "0 patches follow the flow, 1 they are turned at random", 0, 1),
            fieldOf<P>(&P::seam, "seam", "", "how broadly patches blend, 0 to 1", 0, 1),
            fieldOf<P>(&P::amount, "amount", "", "how much of it, 0 to 1", 0, 1),
            fieldOf<P>(&P::seed, "seed", "", "another seed, other patches", 0, 4294967295.0)};
}

Fields<ProjectPicture> ProjectPicture::fields()
{
    using P = ProjectPicture;
    return {pieceField<P>(),
            fieldOf<P>(&P::layer, "layer", "", "a colour layer by name or id; left out: a new one"),
            fieldOf<P>(&P::path, "path", "", "a picture file").required(),
            fieldOf<P>(&P::corners, "corners", "mm",
                       "where its corners are held: top left, top right, bottom right, bottom left as its viewer sees it")
                .required(),
            fieldOf<P>(&P::eye, "eye", "mm", "where it is looked from; left out: sight is parallel, square to it"),
            fieldOf<P>(&P::soft, "soft", "", "share of the picture over which its border fades", 0, 0.5),
            fieldOf<P>(&P::amount, "amount", "", "how much of it, 0 to 1", 0, 1)};
}

std::vector<CommandSpec> colourPictureCommands()
{
    return {commandOf(tilePicture, true), commandOf(projectPicture, true)};
}

} // namespace bonemoss::command
