// Colour layers that go by a rule.
#include "colour/rule.h"
#include "command/colours/colour_taking.h"
#include "document/ops/colours.h"

namespace bonemoss::command {

using skin::ColourLayer;
using skin::Skin;

namespace {

Result<Creature> settleRule(const Creature &before, const SettleRule &p, CommandContext &)
{
    auto taken = takeColourLayer(before, p.piece, p.layer);
    if (!taken.layer().ramp)
        return Error{ErrorCode::BadValue, taken.layer().name, "is painted already"};
    skin::settleColourLayer(taken.skin(), taken.id);
    return putBack(before, std::move(taken.piece));
}

/// The colours of a rule: those given, evenly along its value or at the stops given.
Result<skin::ColourRamp> rampOf(const Creature &before, Skin &skin, const ColourByRule &p, const skin::ColourRamp *was)
{
    skin::ColourRamp ramp = was ? *was : colour::rampOf({{0.36f, 0.30f, 0.22f}, 0});
    std::vector<skin::Ink> inks;
    if (p.colour || p.entry) {
        if (p.colour)
            if (const Status fine = checkColour(*p.colour, "colour"); !fine)
                return fine.error();
        ramp.stops = colour::rampOf(inkOf(before, skin, p.entry, p.colour)).stops;
    }
    for (const Vec3f c : p.colours.value_or(std::vector<Vec3f>{})) {
        if (const Status fine = checkColour(c, "colours"); !fine)
            return fine.error();
        inks.push_back({c, 0});
    }
    if (p.entries) { // none (0) among them leaves the colour that is given beside it
        inks.resize(p.entries->size());
        for (std::size_t k = 0; k < inks.size(); ++k)
            inks[k] = inkOf(before, skin, (*p.entries)[k], inks[k].colour);
    }
    if (!inks.empty()) {
        ramp.stops.clear();
        for (std::size_t k = 0; k < inks.size(); ++k)
            ramp.stops.push_back({inks.size() > 1 ? float(k) / float(inks.size() - 1) : 0.0f, inks[k], 1});
    }
    for (const auto &[given, what] : {std::pair{&p.stops, "stops"}, std::pair{&p.covers, "covers"}}) {
        if (!*given)
            continue;
        if ((*given)->size() != ramp.stops.size())
            return Error{ErrorCode::BadValue, what, fmt::format("there are {} colours; give as many numbers", ramp.stops.size())};
        for (std::size_t k = 0; k < ramp.stops.size(); ++k) {
            const float v = (**given)[k];
            if (!(v >= 0 && v <= 1))
                return Error{ErrorCode::BadValue, what, "must be from 0 to 1"};
            (given == &p.stops ? ramp.stops[k].at : ramp.stops[k].cover) = v;
        }
    }
    std::stable_sort(ramp.stops.begin(), ramp.stops.end(), [](const auto &a, const auto &b) { return a.at < b.at; });
    const auto finish = finishOf(p);
    for (std::size_t k = 0; k < finish.size(); ++k)
        setIfGiven(ramp.finish[k], finish[k]);
    if (p.isFinishOnly.value_or(false))
        ramp.stops.clear();
    return ramp;
}

Result<Creature> colourByRule(const colour::RuleKind &kind, const Creature &before, const ColourByRule &p,
                              CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    Creature after = before;
    Skin &skin = piece->skin;
    std::uint32_t id = 0;
    colour::Rule rule = colour::ruleOf(kind);
    std::shared_ptr<const skin::ColourRamp> was;
    if (p.layer) {
        id = need(findColourLayer(*piece, *p.layer));
        const ColourLayer &l = *skin::colourLayer(skin, id);
        if (l.isLocked)
            return Error{ErrorCode::BadValue, l.name, "this colour layer is locked; unlock it first"};
        was = l.ramp;
        if (l.rule && l.rule->kind == &kind)
            rule = *l.rule; // what is not said stays
        else if (l.rule)
            rule.seed = l.rule->seed, rule.isMirrored = l.rule->isMirrored;
    } else {
        id = skin::addColourLayer(skin, freeLayerName(skin, p.name.value_or(std::string(kind.title))), after.nextId);
    }
    for (std::size_t k = 0; k < p.values.size(); ++k)
        setIfGiven(rule.settings[k], p.values[k]);
    setIfGiven(rule.source, p.source), setIfGiven(rule.points, p.points), setIfGiven(rule.isReversed, p.isReversed);
    setIfGiven(rule.isMirrored, p.isMirrored), setIfGiven(rule.contrast, p.contrast), setIfGiven(rule.blur, p.blur);
    setIfGiven(rule.seed, p.seed);
    if (p.curve && p.curve->empty())
        rule.curve = std::nullopt;
    else if (p.curve && p.curve->size() != sculpt::DrawnFalloff{}.size())
        return Error{ErrorCode::BadValue, "curve", "must be seven heights from 0 to 1, or none for a straight line"};
    else if (p.curve)
        std::copy(p.curve->begin(), p.curve->end(), rule.curve.emplace().begin());
    ColourLayer &layer = *skin::colourLayer(skin, id);
    layer.ramp = std::make_shared<const skin::ColourRamp>(need(rampOf(before, skin, p, was.get())));
    setIfGiven(layer.opacity, p.opacity), setIfGiven(layer.blend, p.blend);
    need(document::runRule(after, *piece, id, std::move(rule), context));
    return putBack(std::move(after), std::move(piece));
}

CommandSpec commandOfKind(const colour::RuleKind &kind)
{
    return {fmt::format("rule.{}", kind.name), fmt::format("Colour by rule: {}", kind.title), std::string(kind.text),
            specsOf(ruleFields(kind)),
            [&kind, fields = ruleFields(kind)](const Creature &before, const nlohmann::json &params, CommandContext &context) {
                return colourByRule(kind, before, readFields(fields, params), context);
            }};
}

Result<Creature> runRules(const Creature &before, const RunRules &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    std::vector<std::uint32_t> ids;
    if (p.layer) {
        const ColourLayer &l = *skin::colourLayer(piece->skin, need(findColourLayer(*piece, *p.layer)));
        if (!l.rule)
            return Error{ErrorCode::BadValue, l.name, "goes by no rule"};
        if (l.isLocked)
            return Error{ErrorCode::BadValue, l.name, "this colour layer is locked; unlock it first"};
        ids.push_back(l.id);
    } else {
        for (const std::uint32_t id : document::staleColours(before, *piece))
            if (!skin::colourLayer(piece->skin, id)->isLocked)
                ids.push_back(id);
    }
    for (const std::uint32_t id : ids) {
        const colour::Rule rule = *skin::colourLayer(piece->skin, id)->rule;
        need(document::runRule(before, *piece, id, rule, context));
    }
    context.notes.push_back(ids.empty() ? std::string("all rules fit the skin") : fmt::format("{} rules ran again", ids.size()));
    return putBack(before, std::move(piece));
}

} // namespace

Fields<SettleRule> SettleRule::fields()
{
    return {pieceField<SettleRule>(), colourLayerField<SettleRule>()};
}

Fields<RunRules> RunRules::fields()
{
    using P = RunRules;
    return {pieceField<P>(), fieldOf<P>(&P::layer, "layer", "", "name or id; left out: all that do not fit")};
}

Fields<ColourByRule> ruleFields(const colour::RuleKind &kind)
{
    using P = ColourByRule;
    Fields<P> fields = fieldList<P>(
        {pieceField<P>(),
         fieldOf<P>(&P::layer, "layer", "", "a colour layer to run it in, keeping what is not said; left out: a new one"),
         fieldOf<P>(&P::name, "name", "", "of a new layer"), opacityField<P>(), blendField<P>(),
         fieldOf<P>(&P::colour, "colour", "", "one colour, fuller the higher the value: red, green and blue, 0 to 1 (sRGB)"),
         entryField<P>(), fieldOf<P>(&P::colours, "colours", "", "several, from the lowest value to the highest, each full"),
         fieldOf<P>(&P::entries, "entries", "", "the same of the palette, by name or id"),
         fieldOf<P>(&P::stops, "stops", "", "the value of each colour, 0 to 1; left out: evenly"),
         fieldOf<P>(&P::covers, "covers", "", "how full each colour is, 0 to 1"), finishFields<P>(),
         fieldOf<P>(&P::isFinishOnly, "finishOnly", "", "lays no colour"),
         fieldOf<P>(&P::isReversed, "reverse", "", "where it did not lie before"),
         fieldOf<P>(&P::contrast, "contrast", "", "0 as it is, 1 a hard edge", 0, 1),
         fieldOf<P>(&P::blur, "blur", "", "passes over neighbours", 0, 200),
         fieldOf<P>(&P::curve, "curve", "", "seven heights, 0 to 1, that the value is turned into at even steps; empty for none"),
         fieldOf<P>(&P::isMirrored, "mirror", "", "both sides of the piece's plane alike; left out: yes"),
         fieldOf<P>(&P::seed, "seed", "", "another seed, another pattern; usually 1", 0, 4294967295.0)});
    constexpr std::array<const char *, 5> kSources{
        "", "name of a kept mask, a group, a form (its joint) or an outgrowth (its roots); left out: the mask in hand",
        "name of a growth of scales or spots; left out: the first there is",
        "name of a detail layer; left out: the first there is", ""};
    if (kind.source == colour::Source::Line)
        fields.push_back(fieldOf<P>(&P::points, "points", "mm", "of the line, two or more"));
    else if (kind.source != colour::Source::None)
        fields.push_back(fieldOf<P>(&P::source, "source", "", kSources[std::size_t(kind.source)]));
    for (std::size_t k = 0; k < kind.settings.size(); ++k) {
        const colour::GrowthSetting &s = kind.settings[k];
        Field<P> &f = fields.emplace_back();
        f.spec = {std::string(s.name), ParamKind::Number, std::string(s.unit),
                  fmt::format("{}: from {} to {}; usually {:g}", s.title, s.low, s.high, kind.usual[k])};
        f.spec.min = double(s.min), f.spec.max = double(s.max);
        f.read = [k, count = kind.settings.size()](const nlohmann::json &j, P &to) {
            to.values.resize(count);
            to.values[k] = j.get<float>();
        };
        f.write = [k](const P &from) {
            return k < from.values.size() && from.values[k] ? nlohmann::json(*from.values[k]) : nlohmann::json();
        };
    }
    return fields;
}

nlohmann::json ruleCommand(std::uint32_t piece, std::uint32_t layer, const colour::Rule &rule, const skin::ColourRamp &ramp)
{
    ColourByRule p{.piece = piece};
    if (layer)
        p.layer = layer;
    std::vector<ItemName> entries;
    for (const skin::ColourRamp::Stop &s : ramp.stops) {
        if (!p.colours)
            p.colours.emplace(), p.stops.emplace(), p.covers.emplace();
        p.colours->push_back(s.ink.colour), p.stops->push_back(s.at), p.covers->push_back(s.cover);
        entries.emplace_back(s.ink.entry);
    }
    if (std::any_of(ramp.stops.begin(), ramp.stops.end(), [](const auto &s) { return s.ink.entry != 0; }))
        p.entries = entries;
    p.gloss = ramp.finish[0], p.metal = ramp.finish[1], p.wet = ramp.finish[2], p.translucent = ramp.finish[3],
    p.grain = ramp.finish[4];
    if (ramp.stops.empty())
        p.isFinishOnly = true;
    p.isReversed = rule.isReversed, p.isMirrored = rule.isMirrored, p.contrast = rule.contrast, p.blur = rule.blur;
    p.seed = rule.seed;
    p.curve.emplace();
    if (rule.curve)
        p.curve->assign(rule.curve->begin(), rule.curve->end());
    if (rule.kind->source == colour::Source::Line)
        p.points = rule.points;
    else if (rule.kind->source != colour::Source::None)
        p.source = rule.source;
    p.values.assign(rule.settings.begin(), rule.settings.end());
    nlohmann::json c{{"do", fmt::format("rule.{}", rule.kind->name)}};
    writeFields(ruleFields(*rule.kind), p, c);
    return c;
}

std::vector<CommandSpec> ruleCommands()
{
    std::vector<CommandSpec> rows{commandOf(settleRule), commandOf(runRules)};
    for (const colour::RuleKind &kind : colour::ruleKinds())
        rows.push_back(commandOfKind(kind));
    return rows;
}

} // namespace bonemoss::command
