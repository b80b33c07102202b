// Outgrowths: what grows out of a skin by a rule.
#include "command/fields.h"
#include "command/finish_fields.h"
#include "command/named_items.h"
#include "command/outgrowths/outgrowth_fields.h"
#include "document/ops/portraits.h"
#include "document/ops/melting.h"
#include "document/ops/outgrowths.h"
#include "document/ops/standing.h"
#include "document/ops/surroundings.h"
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

/// Whether a command may be about an outgrowth that is part of the skin.
enum class Melted { Refused, Allowed };

/// A copy of an outgrowth, to be changed and put back. One that is part of the skin is taken out first: what it looks like tells where.
Outgrowth takeOutgrowth(const Creature &c, const ItemName &name, Melted melted = Melted::Refused)
{
    Creature after = c;
    Outgrowth o = *need(takeItemOf<Outgrowth>(after, "outgrowth", name));
    if (o.isMelted && melted == Melted::Refused)
        throw Failure{{ErrorCode::BadValue, o.name, "is part of the skin; take it out of the skin first (outgrowth.unmelt)"}};
    return o;
}

/// In place of the one with its id, or as a new one.
void put(Creature &c, Outgrowth o)
{
    auto made = std::make_shared<const Outgrowth>(std::move(o));
    for (auto &old : c.outgrowths)
        if (old->id == made->id) {
            old = std::move(made);
            return;
        }
    c.outgrowths.push_back(std::move(made));
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
    const std::uint32_t id = o.id;
    put(after, std::move(o));
    return withThoseBetween(std::move(after), {&id, 1}, context);
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
    if (o.roots.empty() && o.between.empty())
        throw Failure{{ErrorCode::BadValue, isLined ? "points" : "at", "say where on the skin it stands"}};
    if (points || at)
        o.between.clear();
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

/// What else can be said of an outgrowth, where its kind takes it.
void takeSettings(Outgrowth &o, const Creature &c, const Outgrow &p)
{
    for (std::size_t k = 0; k < p.values.size(); ++k)
        setIfGiven(o.values[k], p.values[k]);
    setIfGiven(o.seed, p.seed);
    setIfGiven(o.isMirrored, p.isMirrored);
    setIfGiven(o.profile, p.profile);
    if (std::any_of(o.profile.begin(), o.profile.end(), [](float v) { return !(v >= 0 && v <= 10); }) || o.profile.size() > 256)
        throw Failure{{ErrorCode::BadValue, "profile", "must be up to 256 sizes from 0 to 10"}};
    setIfGiven(o.section, p.section);
    if (!o.section.empty()
        && (o.section.size() < 4 || o.section.size() > 64
            || std::any_of(o.section.begin(), o.section.end(), [](float v) { return !(v > 0 && v <= 10); })))
        throw Failure{{ErrorCode::BadValue, "sectionCurve", "must be 4 to 64 radii above 0, up to 10"}};
    if (p.path) {
        o.path = *p.path;
        float whole = 0;
        for (std::size_t i = 1; i < o.path.size(); ++i)
            whole += length(o.path[i] - o.path[i - 1]);
        if (!o.path.empty() && (o.path.size() < 2 || o.path.size() > 500 || !(whole > 0.1f)))
            throw Failure{{ErrorCode::BadValue, "path", "must have two to 500 points and a length"}};
    }
    setIfGiven(o.colours, p.colours);
    const auto isColour = [](Vec3f v) { return std::min({v.x, v.y, v.z}) >= 0 && std::max({v.x, v.y, v.z}) <= 1; };
    if (!o.colours.empty() && (o.colours.size() != 2 || !isColour(o.colours[0]) || !isColour(o.colours[1])))
        throw Failure{{ErrorCode::BadValue, "colours", "must be two, of root and tip, each red, green and blue from 0 to 1"}};
    setIfGiven(o.skinColour, p.skinColour);
    if (p.isOfKind && *p.isOfKind)
        o.finish = {};
    const Finish finish = finishOf(p);
    for (std::size_t k = 0; k < kFinishes; ++k)
        setIfGiven(o.finish[k], finish[k]);
    if (p.look)
        o.look = *p.look;
    if (p.isLooking && !*p.isLooking)
        o.look.reset();
    if (p.seenFrom)
        o.seenFrom = *p.seenFrom;
    if (p.seenBy)
        o.seenFrom = need(keptCamera(c, *p.seenBy)).camera.eye();
    if (p.isEverywhere && *p.isEverywhere)
        o.seenFrom.reset();
    if (p.item)
        o.item = need(findAnyItem(c, *p.item, "item"));
    if (p.between) {
        o.between.clear();
        for (const ItemName &name : *p.between) {
            const std::uint32_t id = need(findItemOf(c, "outgrowth", name))->id;
            if (id == o.id)
                throw Failure{{ErrorCode::BadValue, "between", "it cannot stand between its own members"}};
            o.between.push_back(id);
        }
        if (!o.between.empty())
            o.roots.clear(), o.starts.clear();
    }
    for (std::size_t k = 0; k < o.maps.size(); ++k)
        if (p.maps[k]) {
            const Piece *piece = c.piece(o.parent);
            if (!p.maps[k]->empty() && (!piece || !piece->skin.keptMask(*p.maps[k])))
                throw Failure{{ErrorCode::Unknown, fmt::format("{}Map", outgrowth::kMapNames[k]),
                               fmt::format("there is no kept mask \"{}\"", *p.maps[k])}};
            o.maps[k] = *p.maps[k];
        }
}

void addRimLayer(Outgrowth &o, Creature &c, Piece &under)
{
    skin::Layer rim(under.skin.body.size());
    rim.id = o.rim.layer = c.nextId++;
    rim.name = fmt::format("Rim of {}", o.name);
    under.skin.layers.push_back(std::move(rim));
}

/// Takes the rim's layer from a piece, where it is not locked.
void removeRimLayer(const Outgrowth &o, Creature &c, std::uint32_t from)
{
    const Piece *piece = o.rim.layer ? c.piece(from) : nullptr;
    if (const skin::Layer *rim = piece ? piece->skin.layer(o.rim.layer) : nullptr; rim && !rim->isLocked) {
        auto without = std::make_shared<Piece>(*piece);
        skin::removeLayer(without->skin, o.rim.layer);
        c.put(std::move(without));
    }
}

/// Stands it on another piece; its rim goes with it.
void moveTo(Outgrowth &o, Creature &c, std::uint32_t piece)
{
    if (piece == o.parent)
        return;
    removeRimLayer(o, c, o.parent);
    o.parent = piece;
    if (o.rim.layer) {
        auto under = std::make_shared<Piece>(needPiece(c, piece));
        addRimLayer(o, c, *under);
        c.put(std::move(under));
    }
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
        o.corrections = old.corrections, o.section = old.section;
        if (isSame)
            o.look = old.look, o.seenFrom = old.seenFrom, o.between = old.between, o.colours = old.colours,
            o.skinColour = old.skinColour;
        o.finish = old.finish;
        if (old.kind->rooting == kind.rooting)
            o.roots = old.roots, o.starts = old.starts, o.path = old.path, o.mask = old.mask, o.maps = old.maps;
        if (p.name && *p.name != o.name)
            o.name = after.uniqueName(*p.name);
    } else {
        const auto under = need(takePiece(before, p.piece));
        o = outgrowthOf(kind, under->skin.isEmpty() ? outgrowth::kUsualSize : usualSizeOn(*under));
        o.id = after.nextId++;
        o.parent = under->id;
        o.name = after.uniqueName(p.name.value_or(std::string(kind.title)));
    }
    if (p.outgrowth && p.piece)
        moveTo(o, after, need(findPiece(before, p.piece)));
    takeSettings(o, before, p);
    if (kind.rooting == outgrowth::Rooting::Area)
        takeMask(o, after, p.mask);
    if (p.jaw) {
        o.roots = need(gumLine(after, needPiece(after, o.parent), need(findForm(before, *p.jaw)), p.isUpper.value_or(false)));
        o.starts.clear();
    }
    if (p.tips) {
        o.roots = toeTips(after, needPiece(after, o.parent), *p.tips);
        if (o.roots.empty())
            return Error{ErrorCode::Empty, "tips", "no limb of the armature ends there; say where it stands instead"};
        context.notes.push_back(fmt::format("{} tips were found", o.roots.size()));
    }
    if (p.isPosed && !before.posing.now.isRest() && (p.at || p.points)) {
        const Piece &piece = needPiece(after, o.parent);
        const pose::PosedSkin skin(piece.skin, skeletonOf(before), before.posing.now, pose::PosedSkin::Part::Seen);
        std::optional<Vec3f> at;
        if (p.at)
            at = restPlace(skin, *p.at);
        std::optional<std::vector<Vec3f>> points = p.points;
        for (std::size_t k = 0; points && k < points->size(); ++k)
            (*points)[k] = restPlace(skin, (*points)[k]);
        root(o, after, at, points, p.starts);
    } else {
        root(o, after, p.at, p.points, p.starts);
    }
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
        setIfGiven(it->thin, p.thin);
        setIfGiven(it->pull, p.pull);
        setIfGiven(it->isMissing, p.isMissing);
        if (p.item)
            it->item = need(findAnyItem(before, *p.item, "item"));
    }
    return withOutgrowth(before, std::move(o), context);
}

Result<Creature> rootOutgrowth(const Creature &before, const RootOutgrowth &p, CommandContext &context)
{
    Outgrowth o = takeOutgrowth(before, p.outgrowth);
    Creature after = before;
    if (p.piece)
        moveTo(o, after, need(findPiece(before, p.piece)));
    const std::vector<outgrowth::Root> others = o.roots;
    root(o, after, p.at, p.points, p.starts);
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
    return withOutgrowth(std::move(after), std::move(o), context);
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
        addRimLayer(o, after, *piece);
    }
    after.put(std::move(piece));
    return withOutgrowth(std::move(after), std::move(o), context);
}

Result<Creature> removeOutgrowth(const Creature &before, const RemoveOutgrowth &p, CommandContext &)
{
    const Outgrowth o = takeOutgrowth(before, p.outgrowth, Melted::Allowed);
    Creature after = before;
    need(removeItems(after, {o.id}));
    removeRimLayer(o, after, o.parent);
    return after;
}

Result<Creature> cutOutgrowth(const Creature &before, const CutOutgrowth &p, CommandContext &context)
{
    Outgrowth o = takeOutgrowth(before, p.outgrowth);
    if (!o.kind->is(outgrowth::IsCut))
        return Error{ErrorCode::BadValue, o.name, "is no mass; only a mass is cut by lines"};
    const Piece &piece = needPiece(before, o.parent);
    std::vector<std::vector<outgrowth::Root>> lines;
    if (!o.roots.empty())
        for (const auto &line : linesOf(o))
            lines.emplace_back(line.begin(), line.end());
    if (p.remove) {
        if (*p.remove >= lines.size())
            return Error{ErrorCode::Unknown, "remove", fmt::format("{} has {} cuts, counted from 0", o.name, lines.size())};
        lines.erase(lines.begin() + std::ptrdiff_t(*p.remove));
    } else if (!p.points) {
        return Error{ErrorCode::BadValue, "points", "say where it is cut, or which cut is removed"};
    }
    const std::size_t was = o.made->members.size();
    if (p.points)
        lines.push_back(need(rootsAlong(piece, *p.points, std::max(kReach, 0.05f * piece.skin.shown.box().diagonal()))));
    o.roots.clear(), o.starts.clear();
    for (const auto &line : lines) {
        if (!o.roots.empty())
            o.starts.push_back(std::uint32_t(o.roots.size()));
        o.roots.insert(o.roots.end(), line.begin(), line.end());
    }
    const std::uint32_t id = o.id;
    Creature after = need(withOutgrowth(before, std::move(o), context));
    if (const std::size_t is = after.outgrowth(id)->made->members.size(); p.points && !p.remove && is == was)
        return Error{ErrorCode::Empty, "points", "the line does not run through the mass; draw it across"};
    else
        context.notes.push_back(fmt::format("{} parts", is));
    return after;
}

Result<Creature> brushOutgrowth(const Creature &before, const BrushOutgrowth &p, CommandContext &context)
{
    Outgrowth o = takeOutgrowth(before, p.outgrowth);
    const auto map = outgrowth::Map(p.what);
    if (!o.kind->takes(map))
        return Error{ErrorCode::BadValue, o.name,
                     fmt::format("a {} has no {} that could be brushed", o.kind->name, outgrowth::kMapNames[p.what])};
    auto piece = std::make_shared<Piece>(needPiece(before, o.parent));
    if (p.points.empty())
        return Error{ErrorCode::BadValue, "points", "a stroke needs a point"};
    std::string &name = o.maps[p.what];
    if (name.empty() || !piece->skin.keptMask(name)) {
        name = fmt::format("{} {}", o.name, outgrowth::kMapNames[p.what]);
        for (int n = 2; piece->skin.keptMask(name); ++n)
            name = fmt::format("{} {} {}", o.name, outgrowth::kMapNames[p.what], n);
    }
    bool isMet = brushMap(piece->skin, o.mask, name, p.points, p.radius, p.amount);
    const growth::Surroundings about = surroundingsOf(before, *piece);
    if (o.isMirrored && about.plane && about.planeNormal) { // only one side is made; the other is its twin
        std::vector<Vec3f> twin = p.points;
        bool isOnPlane = true;
        for (Vec3f &q : twin) {
            const float side = dot(q - *about.plane, *about.planeNormal);
            isOnPlane = isOnPlane && std::abs(side) < 0.05f * p.radius;
            q -= *about.planeNormal * (2 * side);
        }
        if (!isOnPlane)
            isMet = brushMap(piece->skin, o.mask, name, twin, p.radius, p.amount) || isMet;
    }
    if (!isMet)
        return Error{ErrorCode::Empty, "points", "the stroke does not touch where it grows"};
    Creature after = before;
    after.put(std::move(piece));
    return withOutgrowth(std::move(after), std::move(o), context);
}

/// A pair of guides at each step of the line, from it to both sides.
Result<Creature> partOutgrowth(const Creature &before, const PartOutgrowth &p, CommandContext &context)
{
    Outgrowth o = takeOutgrowth(before, p.outgrowth);
    if (o.kind->rooting != outgrowth::Rooting::Area || o.kind->is(outgrowth::IsCut))
        return Error{ErrorCode::BadValue, o.name, "does not lie along a flow; it cannot be parted"};
    auto piece = std::make_shared<Piece>(needPiece(before, o.parent));
    const std::vector<outgrowth::Root> line = need(rootsAlong(*piece, p.points, std::max(kReach, p.reach)));
    float since = p.reach;
    for (std::size_t k = 0; k < line.size(); ++k) {
        since += k > 0 ? length(line[k].at - line[k - 1].at) : 0;
        if (since < 0.5f * p.reach)
            continue;
        since = 0;
        const Vec3f along = line[std::min(k + 1, line.size() - 1)].at - line[k > 0 ? k - 1 : 0].at;
        const Vec3f across = normalized(cross(line[k].normal, along));
        for (const float side : {1.0f, -1.0f}) {
            growth::Guide guide;
            for (const float t : {0.12f, 0.5f, 1.0f})
                if (const auto hit = mesh::nearestPoint(piece->skin.shown, line[k].at + across * (side * t * p.reach)))
                    guide.points.push_back(hit->point);
            if (guide.points.size() > 1)
                piece->guides.push_back(std::move(guide));
        }
    }
    Creature after = before;
    after.put(std::move(piece));
    return withOutgrowth(std::move(after), std::move(o), context);
}

mesh::PolyMesh meshOfMembers(const Outgrowth &o)
{
    io::Scene scene;
    o.show(scene);
    return joined(std::move(scene));
}

Result<Creature> outgrowthToPiece(const Creature &before, const OutgrowthToPiece &p, CommandContext &)
{
    const Outgrowth o = takeOutgrowth(before, p.outgrowth, Melted::Allowed);
    Creature after = before;
    if (!p.isKept)
        need(removeItems(after, {o.id}));
    return withNewPiece(std::move(after), o.name, skin::makeSkin(meshOfMembers(o), false));
}

Result<Creature> meltOutgrowth(const Creature &before, const MeltOutgrowth &p, CommandContext &context)
{
    Outgrowth o = takeOutgrowth(before, p.outgrowth);
    needPiece(before, o.parent);
    auto piece = need(takeWhole(before, ItemName(o.parent), context));
    auto members = std::make_shared<Piece>();
    members->name = o.name;
    members->skin = skin::makeSkin(meshOfMembers(o), false);
    if (!mesh::isClosed(*members->skin.shown.topology))
        return Error{ErrorCode::BadValue, o.name, "is thin and has no inside that could melt; make it solid first"};
    Melting how;
    how.melt = p.flare, how.isSeamOnly = true;
    how.spacing = p.spacing.value_or(meanEdgeLength(piece->skin.shown));
    const std::shared_ptr<const Piece> both[] = {piece, members};
    const mesh::PolyMesh mesh = need(melted(both, how, context));
    const skin::Skin *skins[] = {&piece->skin, &members->skin};
    piece->skin = skinOn(mesh, skin::together(skins), context, true);
    Creature after = before;
    if (p.isKept && !o.kind->prepare) {
        o.isMelted = o.isHidden = true;
        put(after, std::move(o));
    } else {
        if (p.isKept) // it would be laid over its own flanks
            context.notes.push_back(
                fmt::format("the rule of {} is gone: what grows along the skin cannot be taken out again", o.name));
        need(removeItems(after, {o.id}));
    }
    return putBack(std::move(after), std::move(piece));
}

Result<Creature> unmeltOutgrowth(const Creature &before, const UnmeltOutgrowth &p, CommandContext &context)
{
    Outgrowth o = takeOutgrowth(before, p.outgrowth, Melted::Allowed);
    if (!o.isMelted)
        return Error{ErrorCode::BadValue, o.name, "is not melted into a skin"};
    needPiece(before, o.parent);
    auto piece = need(takeWhole(before, ItemName(o.parent), context));
    piece->skin = need(skinWithout(piece->skin, meshOfMembers(o), p.margin, context));
    o.isMelted = o.isHidden = false;
    for (outgrowth::Root &r : o.roots) // on the skin that was closed
        if (const auto hit = mesh::nearestPoint(piece->skin.shown, r.at))
            r = {hit->point, hit->normal};
    Creature after = before;
    put(after, Outgrowth(o));
    after = putBack(std::move(after), std::move(piece));
    return withOutgrowth(std::move(after), std::move(o), context);
}

} // namespace

std::vector<CommandSpec> outgrowthCommands()
{
    std::vector<CommandSpec> rows{commandOf(correctMember),   commandOf(rootOutgrowth),    commandOf(rimOutgrowth),
                                  commandOf(removeOutgrowth), commandOf(outgrowthToPiece), commandOf(meltOutgrowth),
                                  commandOf(cutOutgrowth),    commandOf(brushOutgrowth),   commandOf(partOutgrowth),
                                  commandOf(unmeltOutgrowth)};
    for (const Kind &kind : outgrowth::kinds())
        rows.push_back(commandOfKind(kind));
    return rows;
}

} // namespace bonemoss::command
