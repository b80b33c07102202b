// What the commands of outgrowths take.
#include "command/outgrowths/outgrowth_fields.h"

#include "command/fields.h"
#include "command/finish_fields.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using nlohmann::json;
using outgrowth::Kind;
using outgrowth::Outgrowth;

namespace {

Field<Outgrow> settingField(const Kind &kind, std::size_t k)
{
    const outgrowth::Setting &s = kind.settings[k];
    Field<Outgrow> f;
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
    return f;
}

} // namespace

Fields<Outgrow> outgrowFields(const Kind &kind)
{
    const auto posed =
        fieldOf<Outgrow>(&Outgrow::isPosed, "posed", "", "its places are those of the creature as it stands in its pose");
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
        for (std::size_t k = 0; k < outgrowth::kMapNames.size(); ++k)
            if (kind.takes(outgrowth::Map(k))) {
                Field<P> &f = fields.emplace_back();
                f.spec = {fmt::format("{}Map", outgrowth::kMapNames[k]), ParamKind::Text, "",
                          fmt::format("a kept mask of its {}: half as set, none nothing, whole twice as much; empty for even",
                                      outgrowth::kMapNames[k])};
                f.read = [k](const json &j, P &to) { to.maps[k] = j.get<std::string>(); };
                f.write = [k](const P &from) { return from.maps[k] ? json(*from.maps[k]) : json(); };
            }
    } else if (isLine) {
        fields.push_back(posed);
        fields.push_back(fieldOf<P>(&P::points, "points", "mm", "of its line, on the skin"));
        if (kind.is(outgrowth::OnJaws)) {
            fields.push_back(fieldOf<P>(&P::jaw, "jaw", "", "a form along whose edge it stands instead, from the front on"));
            fields.push_back(fieldOf<P>(&P::isUpper, "upper", "", "of an upper jaw, pointing down"));
        }
        if (kind.is(outgrowth::Stretches))
            fields.push_back(fieldOf<P>(&P::between, "between", "",
                                        "outgrowths between whose members it stands instead, one after the other"));
        if (kind.rooting == outgrowth::Rooting::Lines)
            fields.push_back(
                fieldOf<P>(&P::starts, "starts", "", "the point, counted from 0, at which each line after the first begins"));
    } else {
        fields.push_back(posed);
        fields.push_back(fieldOf<P>(&P::at, "at", "mm", "its root, on the skin"));
        fields.push_back(fieldOf<P>(&P::tips, "tips", "",
                                    "at all tips of toes and fingers instead: free ends of limbs within this share of the height",
                                    0.01, 1));
        if (kind.is(outgrowth::TakesPath))
            fields.push_back(fieldOf<P>(
                &P::path, "path", "mm",
                "a drawn middle line from the root on: x to its side, y out of the skin, z to the front; none: by rule"));
    }
    if (kind.is(outgrowth::Sectioned))
        fields.push_back(fieldOf<P>(&P::section, "sectionCurve", "",
                                    "about its middle line at even angles, from its side on; where its section is drawn"));
    if (kind.is(outgrowth::Culled)) {
        fields.push_back(fieldOf<P>(&P::seenFrom, "seenFrom", "mm", "only what can be seen from there grows: a camera's place"));
        fields.push_back(fieldOf<P>(&P::seenBy, "seenBy", "", "only what that kept camera can see grows: its name or id"));
        fields.push_back(fieldOf<P>(&P::isEverywhere, "everywhere", "", "true: also what cannot be seen again"));
    }
    if (kind.is(outgrowth::Coloured)) {
        fields.push_back(fieldOf<P>(&P::colours, "colours", "",
                                    "of root and tip: two of red, green and blue, 0 to 1 (sRGB); none for that of its kind"));
        fields.push_back(
            fieldOf<P>(&P::skinColour, "skinColour", "", "how far its colour is that of the skin at each root, 0 to 1", 0, 1));
    }
    for (Field<P> &f : finishFields<P>())
        fields.push_back(std::move(f));
    fields.push_back(fieldOf<P>(&P::isOfKind, "plainFinish", "", "true: the finish of its kind again"));
    if (kind.is(outgrowth::Looks)) {
        fields.push_back(fieldOf<P>(&P::look, "look", "mm", "a point it looks at, in place of the angles"));
        fields.push_back(fieldOf<P>(&P::isLooking, "looks", "", "false: by the angles again"));
    }
    for (std::size_t k = 0; k < kind.settings.size(); ++k) {
        fields.push_back(settingField(kind, k));
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
    if (rule.kind->is(outgrowth::Sectioned) && (id || !rule.section.empty()))
        p.section = rule.section;
    if (rule.kind->is(outgrowth::Culled) && (id || rule.seenFrom)) {
        p.seenFrom = rule.seenFrom;
        p.isEverywhere = !rule.seenFrom;
    }
    if (rule.kind->is(outgrowth::Looks) && (id || rule.look)) {
        p.look = rule.look;
        p.isLooking = rule.look.has_value();
    }
    if (rule.kind->is(outgrowth::TakesPath) && (id || !rule.path.empty()))
        p.path = rule.path;
    if (rule.kind->is(outgrowth::Coloured) && (id || !rule.colours.empty()))
        p.colours = rule.colours;
    if (rule.kind->is(outgrowth::Coloured) && (id || rule.skinColour > 0))
        p.skinColour = rule.skinColour;
    p.gloss = rule.finish[0], p.metal = rule.finish[1], p.wet = rule.finish[2], p.translucent = rule.finish[3];
    p.grain = rule.finish[4];
    if (id && rule.finish == Finish())
        p.isOfKind = true;
    json c{{"do", fmt::format("outgrow.{}", rule.kind->name)}};
    writeFields(outgrowFields(*rule.kind), p, c);
    return c;
}

json copiedRule(const Outgrowth &rule)
{
    json c = outgrowCommand(0, 0, rule);
    c.erase("piece");
    for (const char *ofThisCreature : {"item", "look", "looks", "seenFrom", "everywhere"})
        c.erase(ofThisCreature);
    return {{"format", "bonemoss-recipe"}, {"version", 1}, {"commands", json::array({c})}};
}

std::optional<Outgrowth> pastedRule(const json &recipe)
{
    if (!recipe.is_object() || recipe.value("format", json()) != "bonemoss-recipe" || !recipe.contains("commands")
        || !recipe["commands"].is_array() || recipe["commands"].size() != 1 || !recipe["commands"][0].is_object())
        return {};
    json c = recipe["commands"][0];
    const std::string name = c.value("do", json()).is_string() ? c["do"].get<std::string>() : "";
    const Kind *kind = name.starts_with("outgrow.") ? outgrowth::kindNamed(name.substr(8)) : nullptr;
    if (!kind)
        return {};
    const Fields<Outgrow> fields = outgrowFields(*kind);
    const auto params = checkParams(specsOf(fields), c);
    if (!params)
        return {};
    const Outgrow p = readFields(fields, *params);
    Outgrowth o = outgrowthOf(*kind);
    for (std::size_t k = 0; k < p.values.size(); ++k)
        setIfGiven(o.values[k], p.values[k]);
    setIfGiven(o.seed, p.seed);
    setIfGiven(o.isMirrored, p.isMirrored);
    setIfGiven(o.profile, p.profile);
    setIfGiven(o.section, p.section);
    setIfGiven(o.path, p.path);
    setIfGiven(o.colours, p.colours);
    setIfGiven(o.skinColour, p.skinColour);
    o.finish = finishOf(p);
    return o;
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
            fieldOf<P>(&P::thin, "thin", "", "times, across its length", 0.1, 4),
            fieldOf<P>(&P::pull, "pull", "mm", "its tip drawn out, in its own frame", -1000, 1000),
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
            fieldOf<P>(&P::spacing, "spacing", "mm", "of new faces; left out: as the skin has them", 0.02, 10),
            fieldOf<P>(&P::isKept, "keep", "", "false: the rule is gone then")};
}

Fields<UnmeltOutgrowth> UnmeltOutgrowth::fields()
{
    using P = UnmeltOutgrowth;
    return {outgrowthField<P>(),
            fieldOf<P>(&P::margin, "margin", "mm", "of skin about it that goes too: the flare it had", 0, 100)};
}

Fields<CutOutgrowth> CutOutgrowth::fields()
{
    using P = CutOutgrowth;
    return {outgrowthField<P>(), fieldOf<P>(&P::points, "points", "mm", "of the line, on the skin"),
            fieldOf<P>(&P::remove, "remove", "", "a cut to be closed again, counted from 0", 0, 100000)};
}

Fields<BrushOutgrowth> BrushOutgrowth::fields()
{
    using P = BrushOutgrowth;
    return {outgrowthField<P>(), choiceOf<P>(&P::what, "what", "is changed", outgrowth::kMapNames).required(),
            fieldOf<P>(&P::points, "points", "mm", "of the stroke, on the skin").required(),
            fieldOf<P>(&P::radius, "radius", "mm", "of the stroke", 0.1, 500),
            fieldOf<P>(&P::amount, "amount", "", "in the middle of the stroke: more, or below 0 less", -1, 1)};
}

Fields<PartOutgrowth> PartOutgrowth::fields()
{
    using P = PartOutgrowth;
    return {outgrowthField<P>(), fieldOf<P>(&P::points, "points", "mm", "of the parting, on the skin").required(),
            fieldOf<P>(&P::reach, "reach", "mm", "to each side", 0.5, 200)};
}

} // namespace bonemoss::command
