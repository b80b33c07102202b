#include "creature/params.h"

#include "base/files.h"
#include "detail/levels.h"
#include "detail/skin_maps.h"

#include <algorithm>
#include <fmt/format.h>
#include <numbers>

namespace bonemoss::creature {

using nlohmann::json;

namespace {

Error bad(const std::string &subject, std::string why)
{
    return {ErrorCode::BadValue, subject, std::move(why)};
}

/// A number that is one as float too: what is kept of it.
bool isNumber(const json &v)
{
    return v.is_number() && std::isfinite(v.get<float>());
}

bool isRow(const json &v, std::initializer_list<std::size_t> sizes)
{
    return v.is_array() && std::find(sizes.begin(), sizes.end(), v.size()) != sizes.end()
           && std::all_of(v.begin(), v.end(), isNumber);
}

std::string pointComplaint(const ParamSpec &p, const json &v)
{
    if (!isRow(v, {3}))
        return "must be three finite numbers";
    for (const json &n : v)
        if (const double x = std::abs(n.get<double>()); x < p.least || x > p.most)
            return fmt::format("{:g} is outside {:g} to {:g}", x, p.least, p.most);
    return {};
}

bool areRows(const json &v, std::initializer_list<std::size_t> sizes)
{
    return v.is_array() && std::all_of(v.begin(), v.end(), [&](const json &row) { return isRow(row, sizes); });
}

bool isReference(const json &v)
{
    return v.is_string() || v.is_number_unsigned();
}

/// Empty when the value fits, else what is wrong with it.
std::string complaint(const ParamSpec &p, const json &v)
{
    switch (p.kind) {
    case ParamKind::Number:
    case ParamKind::Integer: {
        if (p.kind == ParamKind::Integer ? !v.is_number_integer() || v.get<double>() < 0 : !v.is_number())
            return "must be a number";
        const double x = v.get<double>();
        if (!std::isfinite(x) || x < p.least || x > p.most)
            return fmt::format("{:g} is outside {:g} to {:g} {}", x, p.least, p.most, p.unit);
        return isNumber(v) ? "" : fmt::format("{:g} is too large", x);
    }
    case ParamKind::Switch: return v.is_boolean() ? "" : "must be true or false";
    case ParamKind::Path:
    case ParamKind::Text: {
        if (!v.is_string() || v.get_ref<const std::string &>().size() >= 4096)
            return "must be text";
        const std::string &text = v.get_ref<const std::string &>();
        return p.kind == ParamKind::Path || shownPath(text) == text ? "" : "is not valid UTF-8 text";
    }
    case ParamKind::Choice:
        if (v.is_string() && std::find(p.choices.begin(), p.choices.end(), v.get<std::string>()) != p.choices.end())
            return {};
        return fmt::format("must be one of: {}", fmt::join(p.choices, ", "));
    case ParamKind::Point: return pointComplaint(p, v);
    case ParamKind::Points:
        return areRows(v, {3, 4, 5, 6, 7}) ? "" : "must be a list of points, with radius where it counts: [x, y, z, r]";
    case ParamKind::Numbers: return v.is_array() && std::all_of(v.begin(), v.end(), isNumber) ? "" : "must be a list of numbers";
    case ParamKind::Reference: return isReference(v) ? "" : "must be a name or a number";
    case ParamKind::References:
        return v.is_array() && std::all_of(v.begin(), v.end(), isReference) ? "" : "must be a list of names or numbers";
    case ParamKind::Samples:
        return areRows(v, {3, 4, 7, 8, 11}) ? ""
                                            : "must be a list of [x, y, z], [x, y, z, pressure] or "
                                              "[x, y, z, dx, dy, dz, pressure, time], with the pen's lean after it";
    }
    return {};
}

Vec3f vec(const json &row, std::size_t first = 0)
{
    return {row[first].get<float>(), row[first + 1].get<float>(), row[first + 2].get<float>()};
}

} // namespace

Result<Params> Params::check(const CommandSpec &spec, const json &command)
{
    Params out;
    for (const auto &[key, value] : command.items()) {
        if (key == "do")
            continue;
        const auto p = std::find_if(spec.params.begin(), spec.params.end(), [&](const ParamSpec &s) { return s.name == key; });
        if (p == spec.params.end())
            return bad(spec.name, fmt::format("has no parameter \"{}\"", key));
        if (const std::string why = complaint(*p, value); !why.empty())
            return bad(spec.name + " " + key, why);
        out.m_values[key] = value;
    }
    for (const ParamSpec &p : spec.params) {
        if (out.m_values.contains(p.name))
            continue;
        if (p.isRequired)
            return bad(spec.name, fmt::format("needs \"{}\"", p.name));
        if (!p.missing.empty())
            out.m_values[p.name] = json::parse(p.missing);
    }
    return out;
}

Vec3f Params::point(const char *name) const
{
    return vec(m_values.at(name));
}

std::vector<armature::PathPoint> Params::path(const char *name) const
{
    std::vector<armature::PathPoint> out;
    for (const json &row : m_values.at(name)) {
        const auto part = [&](std::size_t i, float missing) { return row.size() > i ? row[i].get<float>() : missing; };
        constexpr float kRadians = std::numbers::pi_v<float> / 180;
        out.push_back({vec(row), part(3, 1), part(4, 1), part(5, 0), part(6, 0) * kRadians});
    }
    return out;
}

std::vector<float> Params::numbers(const char *name) const
{
    return m_values.at(name).get<std::vector<float>>();
}

std::vector<sculpt::PenSample> Params::samples(const char *name) const
{
    std::vector<sculpt::PenSample> out;
    for (const json &row : m_values.at(name)) {
        sculpt::PenSample s;
        s.origin = vec(row);
        if (row.size() == 4)
            s.pressure = row[3].get<float>();
        if (row.size() >= 7) {
            const Vec3f d = vec(row, 3); // a unit direction keeps its bits, so that a replay is exact
            s.direction = std::abs(squaredLength(d) - 1) < 1e-4f ? d : normalized(d);
            s.pressure = row[6].get<float>();
        }
        if (row.size() >= 8)
            s.timeMs = row[7].get<float>();
        if (row.size() == 11)
            s.lean = vec(row, 8);
        out.push_back(s);
    }
    return out;
}

Result<std::uint32_t> findForm(const Creature &c, const json &reference)
{
    for (const auto &f : c.armature.forms)
        if (reference.is_string() ? f.name == reference.get_ref<const std::string &>() : f.id == reference.get<std::uint32_t>())
            return f.id;
    return Error{ErrorCode::Unknown, "form", fmt::format("there is no form {}", reference.dump())};
}

Result<std::uint32_t> findPiece(const Creature &c, const Params &params, const char *name)
{
    if (!params.has(name)) {
        if (c.pieces.size() == 1)
            return c.pieces.front()->id;
        return Error{ErrorCode::Unknown, name,
                     c.pieces.empty() ? "there is no skin yet; knit the forms first" : "say which piece: there is more than one"};
    }
    const json &r = params.value(name);
    for (const auto &p : c.pieces)
        if (r.is_string() ? p->name == r.get_ref<const std::string &>() : p->id == r.get<std::uint32_t>())
            return p->id;
    return Error{ErrorCode::Unknown, name, fmt::format("there is no piece {}", r.dump())};
}

Result<std::shared_ptr<Piece>> takePiece(const Creature &c, const Params &p)
{
    const auto id = findPiece(c, p);
    if (!id)
        return id.error();
    if (c.piece(*id)->isLocked)
        return Error{ErrorCode::BadValue, c.piece(*id)->name, "is locked; unlock it first"};
    return std::make_shared<Piece>(*c.piece(*id));
}

detail::Skin wholeSkin(const Piece &piece)
{
    return detail::finest(piece.skin);
}

Result<std::shared_ptr<Piece>> takeWhole(const Creature &c, const Params &p, CommandContext &context)
{
    auto taken = takePiece(c, p);
    if (!taken)
        return taken;
    if (!(*taken)->skin.links.empty())
        context.notes.push_back(fmt::format("{} had {} levels; the finest was taken, and is its only one now", (*taken)->name,
                                            (*taken)->skin.links.size() + 1));
    (*taken)->skin = wholeSkin(**taken);
    return taken;
}

Result<mesh::BlockArray<std::uint8_t>> maskNamed(const detail::Skin &skin, const std::string &from, bool isInverted)
{
    mesh::BlockArray<std::uint8_t> mask(skin.body.size());
    if (from == "hand")
        mask = skin.mask;
    else if (const detail::KeptMask *kept = skin.keptMask(from))
        mask = kept->values;
    else if (from != "none")
        return Error{ErrorCode::Unknown, "mask",
                     fmt::format("there is no kept mask \"{}\"; \"hand\" is the one in hand, \"none\" is none", from)};
    if (isInverted && from != "none")
        for (std::size_t b = 0; b < mask.blockCount(); ++b) {
            std::uint8_t *m = mask.edit(b);
            for (std::size_t i = 0; i < mask.countIn(b); ++i)
                m[i] = std::uint8_t(255 - m[i]);
        }
    detail::dropBlank(mask);
    return mask;
}

std::string layerName(const detail::Skin &skin, const std::string &wanted)
{
    std::string name = wanted;
    for (int n = 2; std::any_of(skin.layers.begin(), skin.layers.end(), [&](const auto &l) { return l.name == name; }); ++n)
        name = fmt::format("{} {}", wanted, n);
    return name;
}

bool needsHandLayer(const detail::Skin &skin, std::uint32_t layer, sculpt::Tool tool)
{
    const detail::Layer *l = skin.layer(layer);
    return l && l->growth && tool != sculpt::Tool::Mask && tool != sculpt::Tool::Restore;
}

std::uint32_t handLayer(detail::Skin &skin, std::uint32_t growth, std::uint32_t &nextId)
{
    for (const detail::Layer &l : skin.layers)
        if (l.handOver == growth)
            return l.id;
    const auto at = std::find_if(skin.layers.begin(), skin.layers.end(), [&](const auto &l) { return l.id == growth; });
    detail::Layer hand(skin.body.size());
    hand.id = nextId++, hand.handOver = growth;
    hand.name = layerName(skin, at->name + " by hand");
    return skin.layers.insert(at + 1, std::move(hand))->id;
}

Creature withNewPiece(Creature creature, const std::string &name, detail::Skin skin)
{
    auto piece = std::make_shared<Piece>();
    piece->id = creature.nextId++;
    piece->name = creature.uniqueName(name);
    piece->skin = std::move(skin);
    creature.pieces.push_back(std::move(piece));
    return creature;
}

Creature putBack(Creature creature, std::shared_ptr<const Piece> piece)
{
    creature.put(std::move(piece));
    return creature;
}

Result<std::uint32_t> findLayer(const Piece &piece, const json &r)
{
    if (r.is_number() && r.get<std::uint32_t>() == 0)
        return 0u;
    for (const auto &l : piece.skin.layers)
        if (r.is_string() ? l.name == r.get_ref<const std::string &>() : l.id == r.get<std::uint32_t>())
            return l.id;
    if (r == "body")
        return 0u;
    return Error{ErrorCode::Unknown, "layer", fmt::format("{} has no layer {}", piece.name, r.dump())};
}

ParamSpec numberParam(std::string name, std::string unit, std::string text, double least, double most, std::string missing)
{
    return {std::move(name), ParamKind::Number, std::move(unit), std::move(text), false, least, most, std::move(missing), {}};
}
ParamSpec switchParam(std::string name, std::string text, std::string missing)
{
    return plainParam(ParamKind::Switch, std::move(name), "", std::move(text), std::move(missing));
}
ParamSpec textParam(std::string name, std::string text, std::string missing)
{
    return plainParam(ParamKind::Text, std::move(name), "", std::move(text), std::move(missing));
}
ParamSpec pathParam(std::string name, std::string text)
{
    return plainParam(ParamKind::Path, std::move(name), "", std::move(text));
}
ParamSpec choiceParam(std::string name, std::string text, std::vector<std::string> choices, std::string missing)
{
    ParamSpec p = plainParam(ParamKind::Choice, std::move(name), "", std::move(text), std::move(missing));
    p.choices = std::move(choices);
    return p;
}
ParamSpec plainParam(ParamKind kind, std::string name, std::string unit, std::string text, std::string missing)
{
    ParamSpec p;
    p.name = std::move(name), p.kind = kind, p.unit = std::move(unit), p.description = std::move(text);
    p.missing = std::move(missing);
    return p;
}
ParamSpec required(ParamSpec spec)
{
    spec.isRequired = true;
    return spec;
}
ParamSpec scaleParam(std::string text, std::string missing)
{
    ParamSpec p = plainParam(ParamKind::Point, "scale", "", std::move(text), std::move(missing));
    p.least = 1e-6, p.most = 1e6; // beyond these nothing can be told apart any more in 32 bits
    return p;
}
ParamSpec pieceParam()
{
    return plainParam(ParamKind::Reference, "piece", "", "name or id; may be left out when there is one piece");
}

} // namespace bonemoss::creature
