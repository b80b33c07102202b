// Outgrowths: what grows out of a skin by a rule.
#include "command/fields.h"
#include "command/named_items.h"
#include "command/outgrowths/outgrowth_fields.h"
#include "document/ops/melting.h"
#include "document/ops/outgrowths.h"
#include "document/ops/pieces.h"
#include "document/ops/reknit.h"
#include "skin/carry.h"
#include "skin/layers.h"
#include "skin/marks.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using nlohmann::json;
using outgrowth::Kind;
using outgrowth::Outgrowth;

namespace {

constexpr float kReach = 5; ///< mm: farther from the skin a place is no place on it

/// A copy of an outgrowth, to be changed and put back.
Outgrowth takeOutgrowth(const Creature &c, const ItemName &name)
{
    Creature after = c;
    return *need(takeItemOf<Outgrowth>(after, "outgrowth", name));
}

Result<Creature> withOutgrowth(Creature after, Outgrowth o, CommandContext &context)
{
    o = need(regrown(after, std::move(o), context));
    if (const Piece *under = after.piece(o.parent); under && o.rim.layer) {
        auto piece = std::make_shared<Piece>(*under);
        const skin::Layer *layer = piece->skin.layer(o.rim.layer);
        if (!layer)
            o.rim = {}; // its layer was deleted
        else if (!layer->isLocked) {
            raiseRim(piece->skin, o.rim.layer, o);
            after.put(std::move(piece));
        }
    }
    auto made = std::make_shared<const Outgrowth>(std::move(o));
    for (auto &old : after.outgrowths)
        if (old->id == made->id) {
            old = std::move(made);
            return after;
        }
    after.outgrowths.push_back(std::move(made));
    return after;
}

/// The piece something is rooted on, with its skin; errors name what is missing.
const Piece &needPiece(const Creature &c, std::uint32_t id)
{
    const Piece *piece = c.piece(id);
    if (!piece)
        throw Failure{{ErrorCode::Unknown, "piece", "stands on no skin; say which piece"}};
    if (piece->skin.isEmpty())
        throw Failure{{ErrorCode::Empty, piece->name, "has no skin to stand on"}};
    return *piece;
}

/// Roots on each of several lines; starts: the point at which each after the first begins.
void rootLines(Outgrowth &o, const Piece &piece, const std::vector<Vec3f> &points, const std::vector<float> &starts, float reach)
{
    std::vector<std::size_t> bounds{0};
    for (const float start : starts) {
        if (!(start >= float(bounds.back()) + 2) || start + 2 > float(points.size()) || start != std::floor(start))
            throw Failure{{ErrorCode::BadValue, "starts",
                           fmt::format("must be rising numbers of points, each line with two or more of the {}", points.size())}};
        bounds.push_back(std::size_t(start));
    }
    if (bounds.size() < 2)
        throw Failure{{ErrorCode::BadValue, "starts",
                       fmt::format("a {} needs two lines or more; say where the next begins", o.kind->name)}};
    bounds.push_back(points.size());
    o.roots.clear(), o.starts.clear();
    for (std::size_t k = 0; k + 1 < bounds.size(); ++k) {
        if (k > 0)
            o.starts.push_back(std::uint32_t(o.roots.size()));
        const std::vector<outgrowth::Root> line =
            need(rootsAlong(piece, std::span(points).subspan(bounds[k], bounds[k + 1] - bounds[k]), reach));
        o.roots.insert(o.roots.end(), line.begin(), line.end());
    }
}

/// Roots an outgrowth where a command says; it must be said for a new one.
void root(Outgrowth &o, const Creature &c, const std::optional<Vec3f> &at, const std::optional<std::vector<Vec3f>> &points,
          const std::optional<std::vector<float>> &starts)
{
    const Piece &piece = needPiece(c, o.parent);
    const float reach = std::max(kReach, 0.05f * piece.skin.shown.box().diagonal());
    if (o.kind->rooting == outgrowth::Rooting::Area) {
        if (at || points)
            throw Failure{{ErrorCode::BadValue, at ? "at" : "points", "it grows where a mask lies; give a mask"}};
        return;
    }
    const bool isLined = o.kind->rooting != outgrowth::Rooting::Point;
    if (isLined) {
        if (points && o.kind->rooting == outgrowth::Rooting::Lines)
            rootLines(o, piece, *points, starts.value_or(std::vector<float>{}), reach);
        else if (points)
            o.roots = need(rootsAlong(piece, *points, reach));
        else if (at)
            throw Failure{{ErrorCode::BadValue, "at", fmt::format("{} stand along a line; give its points", o.kind->title)}};
    } else if (at) {
        o.roots = {need(rootNear(piece, *at, reach))};
    } else if (points) {
        throw Failure{{ErrorCode::BadValue, "points", fmt::format("a {} stands at one place; give at", o.kind->name)}};
    }
    if (o.roots.empty())
        throw Failure{{ErrorCode::BadValue, isLined ? "points" : "at", "say where on the skin it stands"}};
}

/// The mask an area grows on: a kept one, or the one in hand, which is then kept under the outgrowth's name.
void takeMask(Outgrowth &o, Creature &c, const std::optional<std::string> &mask)
{
    if (!mask && !o.mask.empty())
        return; // as it was
    auto piece = std::make_shared<Piece>(needPiece(c, o.parent));
    if (mask && *mask != "hand") {
        if (!piece->skin.keptMask(*mask))
            throw Failure{{ErrorCode::Unknown, "mask", fmt::format("there is no kept mask \"{}\"", *mask)}};
        o.mask = *mask;
        return;
    }
    if (!piece->skin.hasMask())
        throw Failure{{ErrorCode::Empty, "mask", "nothing is masked; paint a mask where it shall grow"}};
    o.mask = o.name;
    for (int n = 2; piece->skin.keptMask(o.mask); ++n) // none that is kept already is replaced
        o.mask = fmt::format("{} {}", o.name, n);
    skin::keepMask(piece->skin, o.mask);
    skin::clearMask(piece->skin);
    c.put(std::move(piece));
}

Result<Creature> outgrow(const Kind &kind, const Creature &before, const Outgrow &p, CommandContext &context)
{
    Outgrowth o = outgrowthOf(kind);
    Creature after = before;
    if (p.outgrowth) {
        Outgrowth old = takeOutgrowth(before, *p.outgrowth);
        const bool isSame = old.kind == &kind;
        std::swap(static_cast<Item &>(o), static_cast<Item &>(old));
        if (isSame) // what is not said stays
            o.values = old.values, o.made = old.made;
        o.rim = old.rim;
        o.seed = old.seed, o.isMirrored = old.isMirrored, o.profile = old.profile, o.item = old.item;
        o.corrections = old.corrections;
        if (old.kind->rooting == kind.rooting)
            o.roots = old.roots, o.starts = old.starts, o.path = old.path, o.mask = old.mask;
        if (p.name && *p.name != o.name)
            o.name = after.uniqueName(*p.name);
    } else {
        o.id = after.nextId++;
        o.parent = need(takePiece(before, p.piece))->id;
        o.name = after.uniqueName(p.name.value_or(std::string(kind.title)));
    }
    if (p.outgrowth && p.piece)
        o.parent = need(findPiece(before, p.piece));
    for (std::size_t k = 0; k < p.values.size(); ++k)
        setIfGiven(o.values[k], p.values[k]);
    setIfGiven(o.seed, p.seed);
    setIfGiven(o.isMirrored, p.isMirrored);
    setIfGiven(o.profile, p.profile);
    if (std::any_of(o.profile.begin(), o.profile.end(), [](float v) { return !(v >= 0 && v <= 10); }) || o.profile.size() > 256)
        return Error{ErrorCode::BadValue, "profile", "must be up to 256 sizes from 0 to 10"};
    if (p.path) {
        o.path = *p.path;
        float whole = 0;
        for (std::size_t i = 1; i < o.path.size(); ++i)
            whole += length(o.path[i] - o.path[i - 1]);
        if (!o.path.empty() && (o.path.size() < 2 || o.path.size() > 500 || !(whole > 0.1f)))
            return Error{ErrorCode::BadValue, "path", "must have two to 500 points and a length"};
    }
    if (p.item)
        o.item = need(findAnyItem(before, *p.item, "item"));
    if (kind.rooting == outgrowth::Rooting::Area)
        takeMask(o, after, p.mask);
    if (p.tips) {
        o.roots = toeTips(after, needPiece(after, o.parent), *p.tips);
        if (o.roots.empty())
            return Error{ErrorCode::Empty, "tips", "no limb of the armature ends there; say where it stands instead"};
        context.notes.push_back(fmt::format("{} tips were found", o.roots.size()));
    }
    root(o, after, p.at, p.points, p.starts);
    return withOutgrowth(std::move(after), std::move(o), context);
}

CommandSpec commandOfKind(const Kind &kind)
{
    return {fmt::format("outgrow.{}", kind.name), fmt::format("Outgrow {}", kind.title), std::string(kind.text),
            specsOf(outgrowFields(kind)),
            [&kind, fields = outgrowFields(kind)](const Creature &before, const json &params, CommandContext &context) {
                return outgrow(kind, before, readFields(fields, params), context);
            }};
}

Result<Creature> correctMember(const Creature &before, const CorrectMember &p, CommandContext &context)
{
    Outgrowth o = takeOutgrowth(before, p.outgrowth);
    const auto isMeant = [&](const auto &m) { return m.member == p.member && m.isTwin == p.isTwin; };
    auto it = std::find_if(o.corrections.begin(), o.corrections.end(), isMeant);
    if (std::none_of(o.made->members.begin(), o.made->members.end(), [&](const auto &m) { return m.number == p.member; })
        && it == o.corrections.end())
        return Error{ErrorCode::Unknown, "member", fmt::format("{} has no member {}", o.name, p.member)};
    if (p.isReset) {
        std::erase_if(o.corrections, isMeant);
    } else {
        if (it == o.corrections.end())
            it = o.corrections.insert(it, outgrowth::Correction{.member = p.member, .isTwin = p.isTwin});
        setIfGiven(it->translation, p.move);
        setIfGiven(it->rotation, p.turn);
        setIfGiven(it->size, p.size);
        setIfGiven(it->bend, p.bend);
        setIfGiven(it->broken, p.broken);
        setIfGiven(it->isMissing, p.isMissing);
        if (p.item)
            it->item = need(findAnyItem(before, *p.item, "item"));
    }
    return withOutgrowth(before, std::move(o), context);
}

Result<Creature> rootOutgrowth(const Creature &before, const RootOutgrowth &p, CommandContext &context)
{
    Outgrowth o = takeOutgrowth(before, p.outgrowth);
    if (p.piece)
        o.parent = need(findPiece(before, p.piece));
    const std::vector<outgrowth::Root> others = o.roots;
    root(o, before, p.at, p.points, p.starts);
    if (p.at && others.size() > 1) { // of several places one moves: the one that is said, or the nearest
        const auto away = [&](const outgrowth::Root &r) { return squaredLength(r.at - *p.at); };
        const auto nearest =
            std::min_element(others.begin(), others.end(), [&](const auto &a, const auto &b) { return away(a) < away(b); });
        const std::size_t which = p.root.value_or(std::uint32_t(nearest - others.begin()));
        if (which >= others.size())
            return Error{ErrorCode::Unknown, "root", fmt::format("{} has {} roots, counted from 0", o.name, others.size())};
        const outgrowth::Root moved = o.roots.front();
        o.roots = others;
        o.roots[which] = moved;
    }
    return withOutgrowth(before, std::move(o), context);
}

Result<Creature> rimOutgrowth(const Creature &before, const RimOutgrowth &p, CommandContext &context)
{
    Outgrowth o = takeOutgrowth(before, p.outgrowth);
    const Piece &under = needPiece(before, o.parent);
    auto piece = std::make_shared<Piece>(under);
    Creature after = before;
    skin::Layer *layer = o.rim.layer ? piece->skin.layer(o.rim.layer) : nullptr;
    if (layer && layer->isLocked)
        return Error{ErrorCode::BadValue, layer->name, "this layer is locked; unlock it first"};
    // Usually: in proportion to a member.
    float size = 0;
    for (const auto &shape : o.made->shapes) {
        const Vec3f s = mesh::boundsOf(shape->positions).size();
        size = std::max(size, 0.5f * std::min({s.x, s.y, s.z}));
    }
    if (!layer)
        o.rim = {0.18f * size, 0.6f * size, 0};
    setIfGiven(o.rim.height, p.height);
    setIfGiven(o.rim.width, p.width);
    if (o.rim.height <= 0) {
        if (layer)
            skin::removeLayer(piece->skin, o.rim.layer);
        o.rim = {};
    } else if (!layer) {
        skin::Layer rim(piece->skin.body.size());
        rim.id = o.rim.layer = after.nextId++;
        rim.name = fmt::format("Rim of {}", o.name);
        piece->skin.layers.push_back(std::move(rim));
    }
    after.put(std::move(piece));
    return withOutgrowth(std::move(after), std::move(o), context);
}

Result<Creature> removeOutgrowth(const Creature &before, const RemoveOutgrowth &p, CommandContext &)
{
    const Outgrowth o = takeOutgrowth(before, p.outgrowth);
    Creature after = before;
    need(removeItems(after, {o.id}));
    const Piece *under = o.rim.layer ? after.piece(o.parent) : nullptr;
    if (const skin::Layer *rim = under ? under->skin.layer(o.rim.layer) : nullptr; rim && !rim->isLocked) {
        auto piece = std::make_shared<Piece>(*under);
        skin::removeLayer(piece->skin, o.rim.layer);
        after.put(std::move(piece));
    }
    return after;
}

mesh::PolyMesh meshOfMembers(const Outgrowth &o)
{
    io::Scene scene;
    o.show(scene);
    return joined(std::move(scene));
}

Result<Creature> outgrowthToPiece(const Creature &before, const OutgrowthToPiece &p, CommandContext &)
{
    const Outgrowth o = takeOutgrowth(before, p.outgrowth);
    Creature after = before;
    if (!p.isKept)
        need(removeItems(after, {o.id}));
    return withNewPiece(std::move(after), o.name, skin::makeSkin(meshOfMembers(o), false));
}

Result<Creature> meltOutgrowth(const Creature &before, const MeltOutgrowth &p, CommandContext &context)
{
    const Outgrowth o = takeOutgrowth(before, p.outgrowth);
    needPiece(before, o.parent);
    auto piece = need(takeWhole(before, ItemName(o.parent), context));
    auto members = std::make_shared<Piece>();
    members->name = o.name;
    members->skin = skin::makeSkin(meshOfMembers(o), false);
    Melting how;
    how.melt = p.flare, how.isSeamOnly = true;
    how.spacing = p.spacing.value_or(meanEdgeLength(piece->skin.shown));
    const std::shared_ptr<const Piece> both[] = {piece, members};
    const mesh::PolyMesh mesh = need(melted(both, how, context));
    const skin::Skin *skins[] = {&piece->skin, &members->skin};
    piece->skin = skinOn(mesh, skin::together(skins), context, true);
    Creature after = before;
    need(removeItems(after, {o.id}));
    return putBack(std::move(after), std::move(piece));
}

} // namespace

Fields<Outgrow> outgrowFields(const Kind &kind)
{
    using P = Outgrow;
    const bool isLine = kind.rooting == outgrowth::Rooting::Line || kind.rooting == outgrowth::Rooting::Lines;
    Fields<Outgrow> fields{
        pieceField<P>(),
        fieldOf<P>(&P::outgrowth, "outgrowth", "", "one to make anew, keeping what is not said; left out: a new one"),
        fieldOf<P>(&P::name, "name", "", "made unique"),
        fieldOf<P>(&P::isMirrored, "mirror", "", "a twin across the piece's plane; left out: yes"),
        fieldOf<P>(&P::seed, "seed", "", "another seed, another one of its kind; usually 1", 0, 4294967295.0),
        fieldOf<P>(&P::item, "item", "", "a piece, cage or form that stands for its members; 0 for their own shape"),
        fieldOf<P>(&P::profile, "profile", "",
                   isLine ? "sizes along the row, from first to last" : "thickness from root to tip, times")};
    if (kind.rooting == outgrowth::Rooting::Area) {
        fields.push_back(fieldOf<P>(
            &P::mask, "mask", "",
            "where it grows, half as long where it lies by half: a kept one, or \"hand\" for the one in hand, which is kept "
            "under its name then"));
    } else if (isLine) {
        fields.push_back(fieldOf<P>(&P::points, "points", "mm", "of its line, on the skin"));
        if (kind.rooting == outgrowth::Rooting::Lines)
            fields.push_back(
                fieldOf<P>(&P::starts, "starts", "", "the point, counted from 0, at which each line after the first begins"));
    } else {
        fields.push_back(fieldOf<P>(&P::at, "at", "mm", "its root, on the skin"));
        fields.push_back(fieldOf<P>(&P::tips, "tips", "",
                                    "at all tips of toes and fingers instead: free ends of limbs within this share of the height",
                                    0.01, 1));
        if (kind.is(outgrowth::TakesPath))
            fields.push_back(fieldOf<P>(
                &P::path, "path", "mm",
                "a drawn middle line from the root on: x to its side, y out of the skin, z to the front; none: by rule"));
    }
    for (std::size_t k = 0; k < kind.settings.size(); ++k) {
        const outgrowth::Setting &s = kind.settings[k];
        Field<Outgrow> &f = fields.emplace_back();
        const std::string title(s.title);
        if (!s.choices.empty()) {
            f.spec = {std::string(s.name), ParamKind::Choice, "",
                      fmt::format("{}; usually {}", title, s.choices[std::size_t(kind.usual[k])])};
            f.spec.choices = {s.choices.begin() + std::ptrdiff_t(s.min), s.choices.end()};
        } else {
            f.spec = {std::string(s.name), s.isCount ? ParamKind::Integer : ParamKind::Number, std::string(s.unit),
                      fmt::format("{}: from {} to {}; usually {:g}", title, s.low, s.high, kind.usual[k])};
            f.spec.min = double(s.min), f.spec.max = double(s.max);
        }
        f.spec.title = title;
        f.read = [k, &s, count = kind.settings.size()](const json &j, Outgrow &to) {
            to.values.resize(count);
            if (s.choices.empty())
                to.values[k] = j.get<float>();
            else
                to.values[k] = float(std::find(s.choices.begin(), s.choices.end(), j.get<std::string>()) - s.choices.begin());
        };
        f.write = [k, &s](const Outgrow &from) {
            if (k >= from.values.size() || !from.values[k])
                return json();
            const float v = *from.values[k];
            return !s.choices.empty() ? json(s.choices[std::size_t(v)]) : s.isCount ? json(std::lround(v)) : json(v);
        };
    }
    return fields;
}

json outgrowCommand(std::uint32_t piece, std::uint32_t id, const Outgrowth &rule)
{
    Outgrow p{.isMirrored = rule.isMirrored, .seed = rule.seed};
    p.values.assign(rule.values.begin(), rule.values.end());
    if (id)
        p.outgrowth = id;
    else
        p.piece = piece;
    if (rule.item || id)
        p.item = rule.item;
    if (id || !rule.profile.empty())
        p.profile = rule.profile;
    if (rule.kind->is(outgrowth::TakesPath) && (id || !rule.path.empty()))
        p.path = rule.path;
    json c{{"do", fmt::format("outgrow.{}", rule.kind->name)}};
    writeFields(outgrowFields(*rule.kind), p, c);
    return c;
}

namespace {

template <typename P> Field<P> outgrowthField()
{
    return fieldOf<P>(&P::outgrowth, "outgrowth", "", "name or id").required();
}

} // namespace

Fields<CorrectMember> CorrectMember::fields()
{
    using P = CorrectMember;
    return {outgrowthField<P>(),
            fieldOf<P>(&P::member, "member", "", "which, counted from 0", 0, 1000000).required(),
            fieldOf<P>(&P::isTwin, "twin", "", "the one across the plane of symmetry"),
            fieldOf<P>(&P::move, "move", "mm", "in its own frame: x to its side, y out of the skin, z to the front", -1000, 1000),
            fieldOf<P>(&P::turn, "turn", "deg", "about its own axes"),
            fieldOf<P>(&P::size, "size", "", "times", 0.05, 20),
            fieldOf<P>(&P::bend, "bend", "deg", "over its length", -180, 180),
            fieldOf<P>(&P::broken, "broken", "", "share of its length that is broken off", 0, 0.9),
            fieldOf<P>(&P::item, "item", "", "a piece, cage or form in its place; 0 for its own shape"),
            fieldOf<P>(&P::isMissing, "missing", "", "leave it out"),
            fieldOf<P>(&P::isReset, "reset", "", "forget what was done to it")};
}

Fields<RootOutgrowth> RootOutgrowth::fields()
{
    using P = RootOutgrowth;
    return {outgrowthField<P>(),
            fieldOf<P>(&P::piece, "piece", "", "another piece to stand on"),
            fieldOf<P>(&P::at, "at", "mm", "its place, where it stands at places"),
            fieldOf<P>(&P::root, "root", "", "which of several places, counted from 0; left out: the nearest"),
            fieldOf<P>(&P::points, "points", "mm", "its line, where it stands along one"),
            fieldOf<P>(&P::starts, "starts", "", "of several lines: the point at which each after the first begins")};
}

Fields<RimOutgrowth> RimOutgrowth::fields()
{
    using P = RimOutgrowth;
    return {outgrowthField<P>(),
            fieldOf<P>(&P::height, "height", "mm", "0 takes it away; left out: as it is, or in proportion to a member", 0, 50),
            fieldOf<P>(&P::width, "width", "mm", "left out: as it is, or in proportion to a member", 0.05, 100)};
}

Fields<RemoveOutgrowth> RemoveOutgrowth::fields()
{
    return {outgrowthField<RemoveOutgrowth>()};
}

Fields<OutgrowthToPiece> OutgrowthToPiece::fields()
{
    using P = OutgrowthToPiece;
    return {outgrowthField<P>(), fieldOf<P>(&P::isKept, "keep", "", "the outgrowth stays too")};
}

Fields<MeltOutgrowth> MeltOutgrowth::fields()
{
    using P = MeltOutgrowth;
    return {outgrowthField<P>(), fieldOf<P>(&P::flare, "flare", "mm", "how far the join reaches round each root", 0, 100),
            fieldOf<P>(&P::spacing, "spacing", "mm", "of new faces; left out: as the skin has them", 0.02, 10)};
}

std::vector<CommandSpec> outgrowthCommands()
{
    std::vector<CommandSpec> rows{commandOf(correctMember),   commandOf(rootOutgrowth),    commandOf(rimOutgrowth),
                                  commandOf(removeOutgrowth), commandOf(outgrowthToPiece), commandOf(meltOutgrowth)};
    for (const Kind &kind : outgrowth::kinds())
        rows.push_back(commandOfKind(kind));
    return rows;
}

} // namespace bonemoss::command
