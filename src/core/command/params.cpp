#include "command/params.h"

#include "base/files.h"

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
        if (const double x = std::abs(n.get<double>()); x < p.min || x > p.max)
            return fmt::format("{:g} is outside {:g} to {:g}", x, p.min, p.max);
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
        if (!std::isfinite(x) || x < p.min || x > p.max)
            return fmt::format("{:g} is outside {:g} to {:g} {}", x, p.min, p.max, p.unit);
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
    case ParamKind::Numbers:
        if (!v.is_array() || !std::all_of(v.begin(), v.end(), isNumber))
            return "must be a list of numbers";
        if (p.count != 0 && v.size() != p.count)
            return fmt::format("must be {} numbers", p.count);
        for (const json &n : v)
            if (const double x = n.get<double>(); x < p.min || x > p.max)
                return fmt::format("{:g} is outside {:g} to {:g}", x, p.min, p.max);
        return {};
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

Result<json> checkParams(const std::vector<ParamSpec> &specs, const json &command)
{
    const std::string name = command.at("do").get<std::string>();
    json out = json::object();
    for (const auto &[key, value] : command.items()) {
        if (key == "do")
            continue;
        const std::string &wanted = key;
        const auto p = std::find_if(specs.begin(), specs.end(), [&](const ParamSpec &s) { return s.name == wanted; });
        if (p == specs.end())
            return bad(name, fmt::format("has no parameter \"{}\"", key));
        if (const std::string why = complaint(*p, value); !why.empty())
            return bad(name + " " + key, why);
        out[key] = value;
    }
    for (const ParamSpec &p : specs)
        if (p.isRequired && !out.contains(p.name))
            return bad(name, fmt::format("needs \"{}\"", p.name));
    return out;
}

} // namespace bonemoss::command
