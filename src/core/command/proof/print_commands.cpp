// Commands that make a print of a creature.
#include "command/command.h"
#include "command/fields.h"
#include "command/named_items.h"
#include "command/proof/print_fields.h"
#include "command/skin/piece_fields.h"
#include "document/ops/pieces.h"
#include "document/ops/reknit.h"
#include "export/shown_scene.h"
#include "mesh/measures.h"
#include "proof/printer_profile.h"
#include "proof/proof.h"
#include "proof/supports.h"
#include "skin/reshape.h"
#include "solid/seal.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

Result<Creature> setPrint(const Creature &before, const SetPrint &p, CommandContext &)
{
    Creature after = before;
    if (p.printer) {
        if (const auto profile = proof::printerProfile(*p.printer); !profile)
            return profile.error();
        after.print.printer = *p.printer;
    }
    setIfGiven(after.print.heightMm, p.height);
    return after;
}

/// All that is shown hidden, but for one piece.
void hideOthers(Creature &c, std::uint32_t kept, std::size_t &count)
{
    for (const ItemKind &kind : itemKinds())
        for (std::size_t k = 0; k < kind.count(c); ++k)
            if (kind.name != "picture" && kind.at(c, k).id != kept && !kind.at(c, k).isHidden && kind.isSeen(c, k, Shown::All))
                kind.edit(c, k).isHidden = true, ++count;
}

Result<Creature> sealBody(const Creature &before, const SealBody &p, CommandContext &context)
{
    io::Scene scene;
    if (p.pieces.empty()) {
        scene = proof::printable(exporting::printScene(before));
    } else {
        for (const ItemName &name : p.pieces) {
            const Piece &piece = *before.piece(need(findPiece(before, name, "pieces")));
            scene.add(io::Shape(piece.name, document::meshOf(piece)));
        }
    }
    if (scene.isEmpty())
        return Error{ErrorCode::Empty, "print.seal", "there is nothing to print: only surfaces can be"};
    auto sealed = solid::seal(io::joined(std::move(scene)), !p.keepsPockets, context.progress);
    if (!sealed)
        return sealed.error();
    context.notes.push_back(
        fmt::format("{} bodies are {} now; {} pairs of faces passed through each other, {} hidden pockets were filled",
                    sealed->bodies, sealed->left, sealed->crossings, sealed->pockets));
    for (std::string &note : sealed->notes)
        context.notes.push_back(std::move(note));
    if (p.drop > 0) {
        std::size_t dropped = 0;
        sealed->mesh = proof::withoutLoose(sealed->mesh, double(p.drop), dropped);
        sealed->left -= dropped;
        context.notes.push_back(fmt::format("{} loose bits smaller than {} mm3 were left out", dropped, p.drop));
    }
    if (sealed->left > 1)
        context.notes.push_back(fmt::format("{} bodies touch nothing: join them to the rest, or delete them", sealed->left - 1));
    Creature after = withNewPiece(before, p.name, skin::makeSkin(sealed->mesh, false));
    if (!p.keepsShown) {
        std::size_t hidden = 0;
        hideOthers(after, after.pieces.back()->id, hidden);
        context.notes.push_back(fmt::format("{} items are hidden", hidden));
    }
    return after;
}

/// A piece with other faces, and what lay on it carried over.
Creature withMesh(const Creature &before, std::shared_ptr<Piece> piece, const mesh::PolyMesh &mesh, CommandContext &context)
{
    const skin::Skin old = piece->skin;
    piece->skin = skinOn(mesh, old, context, true);
    Creature after = before;
    after.put(std::move(piece));
    return after;
}

Result<Creature> hollowPiece(const Creature &before, const HollowPiece &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const auto hollowed = proof::hollow(document::meshOf(*piece), p.job, context.progress);
    if (!hollowed)
        return hollowed.error();
    context.notes.push_back(
        fmt::format("{} hollows save {:.1f} cm3; {} holes", hollowed->hollows, hollowed->taken / 1000, hollowed->holes.size()));
    Creature after = withMesh(before, piece, hollowed->mesh, context);
    for (const mesh::PolyMesh &plug : hollowed->plugs)
        after = withNewPiece(std::move(after), piece->name + " plug", skin::makeSkin(plug, false));
    return after;
}

Result<Creature> partPiece(const Creature &before, const PartPiece &p, CommandContext &context)
{
    if (length(p.job.normal) <= 0)
        return Error{ErrorCode::BadValue, "normal", "has no length"};
    const auto piece = need(takeWhole(before, p.piece, context));
    const skin::Skin old = piece->skin;
    const std::string name = piece->name;
    const auto parted = proof::part(document::meshOf(*piece), p.job, context.progress);
    if (!parted)
        return parted.error();
    if (p.job.peg != proof::Peg::None)
        context.notes.push_back(parted->size > 0 ? fmt::format("a peg of {:.2f} mm, {:.2f} mm long", parted->size, parted->length)
                                                 : std::string("there is no room for a peg; the parts are cut without one"));
    CommandContext quiet;
    quiet.progress = context.progress;
    Creature after = withMesh(before, piece, parted->pegged, context);
    return withNewPiece(std::move(after), name + " part", skinOn(parted->socketed, old, quiet, true));
}

Result<Creature> addBase(const Creature &before, const AddBase &p, CommandContext &context)
{
    if (!p.isJoined) {
        const auto id = need(findPiece(before, p.piece));
        const Piece &piece = *before.piece(id);
        return withNewPiece(before, "Base", skin::makeSkin(proof::baseFor(document::meshOf(piece), p.job), false));
    }
    const auto piece = need(takeWhole(before, p.piece, context));
    mesh::PolyMesh both = document::meshOf(*piece);
    mesh::append(both, proof::baseFor(both, p.job));
    const auto sealed = solid::seal(both, false, context.progress);
    if (!sealed)
        return sealed.error();
    return withMesh(before, piece, sealed->mesh, context);
}

Result<Creature> flattenSoles(const Creature &before, const FlattenSoles &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const auto flat = proof::flattened(document::meshOf(*piece), p.by, context.progress);
    if (!flat)
        return flat.error();
    return withMesh(before, piece, *flat, context);
}

Result<Creature> thickenPiece(const Creature &before, const ThickenPiece &p, CommandContext &context)
{
    const auto piece = need(takeWhole(before, p.piece, context));
    const auto thick = proof::thickened(document::meshOf(*piece), p.wall, context.progress);
    if (!thick)
        return thick.error();
    context.notes.push_back(fmt::format("{} points moved by up to {:.2f} mm", thick->moved, thick->most));
    if (thick->left > 0)
        context.notes.push_back(
            fmt::format("{} points are thinner still: tips and edges; run it again, or sculpt them", thick->left));
    return withMesh(before, piece, thick->mesh, context);
}

Result<Creature> drillHole(const Creature &before, const DrillHole &p, CommandContext &context)
{
    if (length(p.direction) <= 0)
        return Error{ErrorCode::BadValue, "direction", "has no length"};
    const auto piece = need(takeWhole(before, p.piece, context));
    const Vec3f way = normalized(p.direction);
    const auto drilled =
        proof::without(document::meshOf(*piece), proof::prism(p.at - way * p.diameter, p.at + way * p.depth, p.diameter / 2, 24),
                       context.progress);
    if (!drilled)
        return drilled.error();
    return withMesh(before, piece, *drilled, context);
}

Result<Creature> orientPiece(const Creature &before, const OrientPiece &p, CommandContext &context)
{
    const auto piece = need(takePiece(before, p.piece));
    const auto profile = proof::printerProfile(before.print.printer);
    if (!profile)
        return profile.error();
    const mesh::PolyMesh mesh = document::meshOf(*piece);
    const auto ways = proof::orientations(mesh, *profile, context.progress);
    if (ways.empty())
        return Error{ErrorCode::Cancelled, "print.orient", "stopped on request"};
    const proof::Orientation &way = ways[std::min(std::size_t(p.choice - 1), ways.size() - 1)];
    const Box3f box = mesh::boundsOf(mesh.positions);
    float low = std::numeric_limits<float>::max();
    for (const Vec3f q : mesh.positions)
        low = std::min(low, box.centre().y + rotate(way.turn, q - box.centre()).y);
    skin::Motion m; // with all that lies on it
    m.pivot = box.centre(), m.by = {0, box.lo.y - low, 0};
    if (const Vec3f sine{way.turn.x, way.turn.y, way.turn.z}; length(sine) > 1e-7f)
        m.axis = normalized(sine), m.angle = 2 * std::atan2(length(sine), way.turn.w);
    move(piece->skin, std::vector<float>(piece->skin.body.size(), 1.0f), m);
    context.notes.push_back(
        fmt::format("{:.0f} mm2 of overhangs, {} islands, {:.1f} mm high", way.overhangMm2, way.islands, way.heightMm));
    return putBack(before, piece);
}

Result<Creature> addSupports(const Creature &before, const AddSupports &p, CommandContext &context)
{
    const auto id = need(findPiece(before, p.piece));
    const auto profile = proof::printerProfile(before.print.printer);
    if (!profile)
        return profile.error();
    const auto made = proof::supportsFor(document::meshOf(*before.piece(id)), *profile, p.apart, context.progress);
    if (!made)
        return made.error();
    if (made->members.empty())
        return Error{ErrorCode::Empty, "print.supports", "nothing needs support"};
    const auto onBody =
        std::count_if(made->members.begin(), made->members.end(), [](const proof::Support &s) { return s.standsOnBody; });
    context.notes.push_back(fmt::format("{} supports, {} of them stand on the piece; {:.2f} cm3, {:.1f} mm2 of contact",
                                        made->members.size(), onBody, made->volumeMm3 / 1000, made->contactMm2));
    return withNewPiece(before, p.name, skin::makeSkin(made->mesh, false));
}

} // namespace

Fields<SetPrint> SetPrint::fields()
{
    using P = SetPrint;
    std::vector<std::string> ready;
    for (const proof::PrinterProfile &p : proof::printerProfiles())
        ready.push_back(p.id);
    return {fieldOf<P>(&P::printer, "printer", "", fmt::format("{}, or a .json file", fmt::join(ready, ", "))),
            fieldOf<P>(&P::height, "height", "mm", "of the print; 0: as the creature is", 0, 100000)};
}

Fields<SealBody> SealBody::fields()
{
    using P = SealBody;
    return {fieldOf<P>(&P::pieces, "pieces", "", "of which it is made; left out: everything that is shown"),
            fieldOf<P>(&P::name, "name", "", "of the new piece"),
            fieldOf<P>(&P::keepsShown, "keepShown", "", "what it is made of stays visible"),
            fieldOf<P>(&P::drop, "drop", "mm3", "bodies that touch nothing and are smaller are left out", 0, 1e9),
            fieldOf<P>(&P::keepsPockets, "keepPockets", "", "closed hollows are not filled")};
}

Fields<HollowPiece> HollowPiece::fields()
{
    using P = HollowPiece;
    using J = proof::HollowJob;
    return fieldList<P>(
        {pieceField<P>(),
         nested<P>(&P::job,
                   Fields<J>{fieldOf<J>(&J::wall, "wall", "mm", "thickness that stays", 0.1, 1000),
                             fieldOf<J>(&J::hole, "hole", "mm", "diameter of drain holes", 0.1, 1000),
                             fieldOf<J>(&J::holes, "holes", "", "how many; 0: none, and resin stays inside", 0, 20),
                             fieldOf<J>(&J::spacing, "spacing", "mm", "of the faces inside; 0: a quarter of the wall", 0, 100),
                             fieldOf<J>(&J::makesPlugs, "plugs", "", "a plug for each hole, as a piece")})});
}

Fields<PartPiece> PartPiece::fields()
{
    using P = PartPiece;
    using J = proof::PartJob;
    return fieldList<P>(
        {pieceField<P>(),
         nested<P>(&P::job,
                   Fields<J>{fieldOf<J>(&J::point, "point", "mm", "of the plane", -1e6, 1e6).required(),
                             fieldOf<J>(&J::normal, "normal", "", "of the plane, towards the part with the socket", -1e6, 1e6),
                             choiceOf<J>(&J::peg, "peg", "shape; keyed fits one way only", proof::kPegNames),
                             fieldOf<J>(&J::size, "size", "mm", "diameter of the peg; 0: by the room there is", 0, 1000),
                             fieldOf<J>(&J::length, "length", "mm", "of the peg; 0: as long as it is wide", 0, 1000),
                             fieldOf<J>(&J::clearance, "clearance", "mm", "all round the peg", 0, 10)})});
}

Fields<AddBase> AddBase::fields()
{
    using P = AddBase;
    using J = proof::BaseJob;
    return fieldList<P>(
        {pieceField<P>(),
         nested<P>(&P::job, Fields<J>{choiceOf<J>(&J::shape, "shape", "of the base", proof::kBaseNames),
                                      fieldOf<J>(&J::height, "thickness", "mm", "of the base", 0.1, 10000),
                                      fieldOf<J>(&J::margin, "margin", "mm", "beyond what stands on it", 0, 10000),
                                      fieldOf<J>(&J::sink, "sink", "mm", "how deep the feet go into it", 0, 1000),
                                      fieldOf<J>(&J::seed, "seed", "", "of a rock: another number, another rock", 0, 1000000)}),
         fieldOf<P>(&P::isJoined, "joined", "", "one body with the piece")});
}

Fields<FlattenSoles> FlattenSoles::fields()
{
    using P = FlattenSoles;
    return {pieceField<P>(), fieldOf<P>(&P::by, "by", "mm", "above the lowest point", 0.01, 1000)};
}

Fields<ThickenPiece> ThickenPiece::fields()
{
    using P = ThickenPiece;
    return {pieceField<P>(), fieldOf<P>(&P::wall, "wall", "mm", "thickness that all shall have", 0.05, 1000)};
}

Fields<DrillHole> DrillHole::fields()
{
    using P = DrillHole;
    return {pieceField<P>(), fieldOf<P>(&P::at, "at", "mm", "where it begins", -1e6, 1e6).required(),
            fieldOf<P>(&P::direction, "direction", "", "into the piece", -1e6, 1e6).required(),
            fieldOf<P>(&P::diameter, "diameter", "mm", "of the hole", 0.05, 1000),
            fieldOf<P>(&P::depth, "depth", "mm", "of the hole", 0.05, 10000)};
}

Fields<OrientPiece> OrientPiece::fields()
{
    using P = OrientPiece;
    return {pieceField<P>(), fieldOf<P>(&P::choice, "choice", "", "1: the best way to stand, 2: the next best", 1, 8)};
}

Fields<AddSupports> AddSupports::fields()
{
    using P = AddSupports;
    return {pieceField<P>(), fieldOf<P>(&P::apart, "apart", "mm", "between supports; 0: by the printer", 0, 1000),
            fieldOf<P>(&P::name, "name", "", "of the new piece")};
}

std::vector<CommandSpec> printCommands()
{
    return {commandOf(setPrint),           commandOf(sealBody, true),  commandOf(hollowPiece, true),
            commandOf(partPiece, true),    commandOf(addBase, true),   commandOf(flattenSoles, true),
            commandOf(thickenPiece, true), commandOf(drillHole, true), commandOf(orientPiece, true),
            commandOf(addSupports, true)};
}

} // namespace bonemoss::command
