#include "command/params.h"

#include "document/items.h"
#include "base/files.h"
#include "skin/levels.h"
#include "skin/skin_maps.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

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

} // namespace

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

namespace {

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
        const std::string &wanted = key;
        const auto p =
            std::find_if(spec.params.begin(), spec.params.end(), [&](const ParamSpec &s) { return s.name == wanted; });
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
        out.push_back({vec(row), part(3, 1), part(4, 1), part(5, 0), part(6, 0) * kRadiansPerDegree});
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

namespace {

bool isMeant(const Item &item, const json &reference)
{
    return reference.is_string() ? item.name == reference.get_ref<const std::string &>()
                                 : item.id == reference.get<std::uint32_t>();
}

Result<ItemPlace> placeOf(const Creature &c, std::string_view kindName, const json &reference)
{
    for (const ItemKind &kind : itemKinds())
        for (std::size_t k = 0; kind.name == kindName && k < kind.count(c); ++k)
            if (isMeant(kind.at(c, k), reference))
                return ItemPlace{&kind, k};
    return Error{ErrorCode::Unknown, std::string(kindName), fmt::format("there is no {} {}", kindName, reference.dump())};
}

} // namespace

Result<const Item *> findItemOf(const Creature &c, std::string_view kind, const json &reference)
{
    const auto place = placeOf(c, kind, reference);
    return place ? Result<const Item *>(&place->in(c)) : Result<const Item *>(place.error());
}

Result<Item *> takeItem(Creature &after, std::string_view kind, const json &reference, Lock lock)
{
    const auto place = placeOf(after, kind, reference);
    if (!place)
        return place.error();
    if (lock == Lock::Refuses)
        if (const Status free = refuseLocked(place->in(after)); !free)
            return free.error();
    return &place->kind->edit(after, place->index);
}

Result<std::uint32_t> findForm(const Creature &c, const json &reference)
{
    const auto form = findItemOf(c, "form", reference);
    return form ? Result<std::uint32_t>((*form)->id) : Result<std::uint32_t>(form.error());
}

Result<std::uint32_t> findPiece(const Creature &c, const Params &params, const char *name)
{
    if (!params.has(name)) {
        if (c.pieces.size() == 1)
            return c.pieces.front()->id;
        return Error{ErrorCode::Unknown, name,
                     c.pieces.empty() ? "there is no skin yet; knit the forms first" : "say which piece: there is more than one"};
    }
    const auto piece = findItemOf(c, "piece", params.value(name));
    return piece ? Result<std::uint32_t>((*piece)->id) : Result<std::uint32_t>(piece.error());
}

Result<std::shared_ptr<Piece>> takePiece(const Creature &c, const Params &p)
{
    const auto id = findPiece(c, p);
    if (!id)
        return id.error();
    if (const Status free = refuseLocked(*c.piece(*id)); !free)
        return free.error();
    return std::make_shared<Piece>(*c.piece(*id));
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
    return {std::move(name), ParamKind::Number, std::move(unit), std::move(text), false, least, most, std::move(missing), {}, {}};
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

} // namespace bonemoss::command
