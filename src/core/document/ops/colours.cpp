#include "document/ops/colours.h"

#include "armature/form.h"
#include "colour/rule_input.h"
#include "document/ops/outgrowths.h"
#include "document/ops/surroundings.h"
#include "outgrowth/outgrowth.h"
#include "skin/marks.h"

#include <algorithm>
#include <fmt/format.h>
#include <xxhash.h>

namespace bonemoss::document {

using colour::Rule;
using colour::Source;
using skin::Skin;

namespace {

template <typename T> std::uint64_t hashed(const mesh::BlockArray<T> &values, std::uint64_t seed)
{
    for (std::size_t b = 0; b < values.blockCount(); ++b)
        if (const T *v = values.data(b))
            seed = XXH3_64bits_withSeed(v, values.countIn(b) * sizeof(T), seed + b);
    return seed;
}

std::uint64_t shapeMark(const Piece &piece)
{
    std::uint64_t mark = hashed(piece.skin.shown.positions, 1);
    for (const growth::Guide &g : piece.guides)
        mark = XXH3_64bits_withSeed(g.points.data(), g.points.size() * sizeof(Vec3f), mark);
    return mark;
}

/// What a rule that goes by a place goes by.
struct Place {
    std::vector<Vec3f> points;
    skin::Bytes area;
};
Result<Place> placeNamed(const Creature &c, const Piece &piece, const std::string &name)
{
    Place out{{}, skin::Bytes(piece.skin.body.size())};
    if (name.empty() || name == "hand") {
        out.area = piece.skin.mask;
        if (out.area.isBlank())
            return Error{ErrorCode::BadValue, "source",
                         "nothing is masked; mask a place, or name a mask, a group, a form or an outgrowth"};
        return out;
    }
    if (const skin::KeptMask *kept = piece.skin.keptMask(name)) {
        out.area = kept->values;
        return out;
    }
    if (const skin::Group *group = piece.skin.group(name)) {
        out.area = skin::maskOfGroup(piece.skin, group->number);
        return out;
    }
    for (const armature::Form &f : c.armature.forms)
        if (f.name == name) {
            out.points.push_back(c.armature.worldPlace(f).translation);
            if (f.isMirrored)
                out.points.push_back(mirrored(out.points[0]));
            return out;
        }
    for (const auto &o : c.outgrowths)
        if (o->name == name) {
            for (const outgrowth::Member &m : o->made->members)
                out.points.push_back(m.root);
            return out;
        }
    return Error{ErrorCode::Unknown, "source", fmt::format("there is no mask, group, form or outgrowth \"{}\"", name)};
}

/// The detail layers a rule goes by: the one it names; without a name all growths with cells, or the first layer.
Result<std::vector<const skin::Layer *>> layersNamed(const Piece &piece, const Rule &rule)
{
    std::vector<const skin::Layer *> out;
    const bool wantsCells = rule.kind->source == Source::Growth;
    for (const skin::Layer &l : piece.skin.layers) {
        const bool fits = !wantsCells || (l.growth && growth::hasCells(*l.growth->kind));
        if (l.name == rule.source && !fits)
            return Error{ErrorCode::BadValue, l.name, "only scales, plates and spots have cells"};
        if (fits && (l.name == rule.source || (rule.source.empty() && (wantsCells || out.empty()))))
            out.push_back(&l);
    }
    if (out.empty())
        return Error{ErrorCode::Unknown, "source",
                     rule.source.empty()
                         ? fmt::format("{} has no {}", piece.name, wantsCells ? "growth of scales or spots" : "detail layer")
                         : fmt::format("{} has no detail layer \"{}\"", piece.name, rule.source)};
    return out;
}

/// The mark of a rule on a piece whose own mark is known.
std::uint64_t markOf(const Creature &c, const Piece &piece, const Rule &rule, std::uint64_t shape)
{
    if (rule.kind->source == Source::Place) {
        const auto place = placeNamed(c, piece, rule.source);
        if (!place)
            return rule.ground; // what it went by is gone: the colour stays as it is
        shape = hashed(place->area, shape);
        return XXH3_64bits_withSeed(place->points.data(), place->points.size() * sizeof(Vec3f), shape);
    }
    if (rule.kind->source == Source::Growth || rule.kind->source == Source::Layer) {
        const auto layers = layersNamed(piece, rule);
        if (!layers)
            return rule.ground;
        for (const skin::Layer *l : *layers)
            shape = hashed(l->offsets, shape);
    }
    return shape;
}

} // namespace

std::uint64_t colourMark(const Creature &creature, const Piece &piece, const Rule &rule)
{
    return markOf(creature, piece, rule, shapeMark(piece));
}

std::vector<std::uint32_t> staleColours(const Creature &creature, const Piece &piece)
{
    std::vector<std::uint32_t> stale;
    const auto &all = piece.skin.colourLayers;
    if (std::none_of(all.begin(), all.end(), [](const skin::ColourLayer &l) { return l.rule != nullptr; }))
        return stale;
    const std::uint64_t shape = shapeMark(piece);
    for (const skin::ColourLayer &l : all)
        if (l.rule && l.rule->ground != markOf(creature, piece, *l.rule, shape))
            stale.push_back(l.id);
    return stale;
}

std::string coarseness(const Skin &skin, const Rule &rule)
{
    const float needed = rule.kind->finest ? rule.kind->finest(rule) : 0, here = meanEdgeLength(skin.shown);
    if (needed <= 0 || here <= 1.15f * needed)
        return {};
    return fmt::format("{}: this needs {:.2g} mm from vertex to vertex to show clean, here it is {:.2g} mm; refine the skin, or "
                       "make it larger",
                       rule.kind->title, needed, here);
}

Status runRule(const Creature &creature, Piece &piece, std::uint32_t layer, Rule rule, Operation &context)
{
    if (piece.skin.isEmpty())
        return Error{ErrorCode::Empty, piece.name, "there is no skin to colour"};
    Place place;
    std::vector<const skin::Layer *> details;
    if (rule.kind->source == Source::Place) {
        auto found = placeNamed(creature, piece, rule.source);
        if (!found)
            return found.error();
        place = std::move(*found);
    } else if (rule.kind->source == Source::Growth || rule.kind->source == Source::Layer) {
        const auto found = layersNamed(piece, rule);
        if (!found)
            return found.error();
        details = *found;
    } else if (rule.kind->source == Source::Line && rule.points.size() < 2) {
        return Error{ErrorCode::BadValue, "points", "a line needs two points"};
    }
    if (const std::string why = coarseness(piece.skin, rule); !why.empty())
        context.notes.push_back(why);
    const growth::Surroundings about = surroundingsOf(creature, piece);
    const colour::RuleGround ground(piece.skin, about);
    const std::uint64_t shape = shapeMark(piece);
    const std::uint64_t flowMark = XXH3_64bits_withSeed(about.limbs.data(), about.limbs.size() * sizeof(growth::Limb), shape);
    rule.ground = markOf(creature, piece, rule, shape);
    colour::RuleInput in{
        rule,     piece.skin,      about, ground, {}, std::move(place.points), std::move(place.area), std::move(details),
        flowMark, context.progress};
    for (const auto &other : creature.pieces)
        if (other->id != piece.id && !other->isHidden)
            in.others.push_back(&other->skin.shown);
    return colour::run(piece.skin, layer, rule, in);
}

const skin::PaletteColour *paletteColour(const Creature &creature, std::uint32_t id)
{
    const auto at = std::find_if(creature.palette.begin(), creature.palette.end(), [&](const auto &c) { return c.id == id; });
    return at == creature.palette.end() ? nullptr : &*at;
}

void followPalette(Creature &creature, const std::vector<skin::PaletteColour> &changed)
{
    for (const auto &piece : std::vector(creature.pieces)) {
        std::vector<std::uint32_t> layers;
        auto next = std::make_shared<Piece>(*piece);
        for (const skin::PaletteColour &c : changed) {
            const auto known =
                std::find_if(next->skin.palette.begin(), next->skin.palette.end(), [&](const auto &p) { return p.id == c.id; });
            if (known == next->skin.palette.end() || *known == c)
                continue;
            const bool isSeen = !(known->colour == c.colour);
            *known = c;
            const auto with = isSeen ? skin::layersWith(next->skin, c.id) : std::vector<std::uint32_t>{};
            layers.insert(layers.end(), with.begin(), with.end());
        }
        if (next->skin.palette == piece->skin.palette)
            continue;
        std::vector<std::uint32_t> blocks;
        for (const std::uint32_t id : layers) {
            const auto of = skin::blocksOf(next->skin, id);
            blocks.insert(blocks.end(), of.begin(), of.end());
        }
        std::sort(blocks.begin(), blocks.end());
        blocks.erase(std::unique(blocks.begin(), blocks.end()), blocks.end());
        skin::composeColours(next->skin, blocks);
        creature.put(std::move(next));
    }
}

Scheme schemeOf(const Creature &creature, std::uint32_t id, std::string name)
{
    Scheme out{id, std::move(name), creature.palette, {}, {}};
    for (const auto &piece : creature.pieces)
        for (const skin::ColourLayer &l : piece->skin.colourLayers)
            out.layers.push_back({piece->id, l.id, l.isOn, l.opacity});
    for (const auto &o : creature.outgrowths) {
        Scheme::Outgrowth &at = out.outgrowths.emplace_back();
        at.id = o->id;
        if (o->colours.size() == 2)
            at.colours = {o->colours[0], o->colours[1]};
    }
    return out;
}

void useScheme(Creature &creature, const Scheme &scheme, Operation &context)
{
    creature.scheme = scheme.id;
    for (skin::PaletteColour &c : creature.palette)
        for (const skin::PaletteColour &its : scheme.colours)
            if (its.id == c.id)
                c.colour = its.colour;
    for (const auto &piece : std::vector(creature.pieces)) {
        auto next = std::make_shared<Piece>(*piece);
        bool isOther = false;
        for (skin::ColourLayer &l : next->skin.colourLayers)
            for (const Scheme::Layer &its : scheme.layers)
                if (its.piece == piece->id && its.layer == l.id && (its.isOn != l.isOn || its.opacity != l.opacity))
                    l.isOn = its.isOn, l.opacity = its.opacity, isOther = true;
        for (skin::PaletteColour &c : next->skin.palette)
            for (const skin::PaletteColour &now : creature.palette)
                if (now.id == c.id && !(now == c))
                    c = now, isOther = true;
        if (!isOther)
            continue;
        skin::composeColours(next->skin);
        creature.put(std::move(next));
    }
    for (auto &o : creature.outgrowths)
        for (const Scheme::Outgrowth &its : scheme.outgrowths) {
            if (its.id != o->id)
                continue;
            std::vector<Vec3f> wanted;
            if (its.colours)
                wanted.assign(its.colours->begin(), its.colours->end());
            if (wanted == o->colours)
                break;
            outgrowth::Outgrowth next = *o;
            next.colours = std::move(wanted);
            if (auto made = regrown(creature, std::move(next), context))
                o = std::make_shared<const outgrowth::Outgrowth>(std::move(*made));
            else
                context.notes.push_back(fmt::format("{} keeps its colours: {}", o->name, made.error().text()));
            break;
        }
}

} // namespace bonemoss::document
