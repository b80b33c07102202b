#pragma once

#include "command/params.h"

#include <array>
#include <concepts>
#include <functional>
#include <optional>
#include <type_traits>
#include <variant>

namespace bonemoss::command {

// A command's parameters as a struct with one description: a list of fields. Schema, check, reading, writing and dialog follow from
// it. A member that is a std::optional may be left out; any other has the default of a fresh struct.

/// An item or a layer as a person names it: by id or by name.
using ItemName = std::variant<std::uint32_t, std::string>;

/// How members stand in a command: a kind for the schema, and both ways.
namespace value {

template <typename T> struct Of;
template <typename T> struct Plain { // as the JSON library has it
    static T read(const nlohmann::json &j) { return j.get<T>(); }
    static nlohmann::json write(const T &v) { return v; }
};
template <> struct Of<float> : Plain<float> {
    static constexpr ParamKind kKind = ParamKind::Number;
};
template <> struct Of<bool> : Plain<bool> {
    static constexpr ParamKind kKind = ParamKind::Switch;
};
template <std::integral T> struct Of<T> : Plain<T> {
    static constexpr ParamKind kKind = ParamKind::Integer;
};
template <> struct Of<std::string> : Plain<std::string> {
    static constexpr ParamKind kKind = ParamKind::Text;
};
template <> struct Of<std::vector<float>> : Plain<std::vector<float>> {
    static constexpr ParamKind kKind = ParamKind::Numbers;
};
template <std::size_t N> struct Of<std::array<float, N>> { // the command checks how many there are
    static constexpr ParamKind kKind = ParamKind::Numbers;
    static std::array<float, N> read(const nlohmann::json &j)
    {
        std::array<float, N> out{};
        for (std::size_t k = 0; k < std::min(N, j.size()); ++k)
            out[k] = j[k].get<float>();
        return out;
    }
    static nlohmann::json write(const std::array<float, N> &v) { return v; }
};
template <> struct Of<Vec3f> {
    static constexpr ParamKind kKind = ParamKind::Point;
    static Vec3f read(const nlohmann::json &j) { return {j[0].get<float>(), j[1].get<float>(), j[2].get<float>()}; }
    static nlohmann::json write(Vec3f v) { return {v.x, v.y, v.z}; }
};
template <> struct Of<ItemName> {
    static constexpr ParamKind kKind = ParamKind::Reference;
    static ItemName read(const nlohmann::json &j)
    {
        return j.is_string() ? ItemName(j.get<std::string>()) : ItemName(j.get<std::uint32_t>());
    }
    static nlohmann::json write(const ItemName &v)
    {
        return std::visit([](const auto &name) { return nlohmann::json(name); }, v);
    }
};
template <> struct Of<std::vector<ItemName>> {
    static constexpr ParamKind kKind = ParamKind::References;
    static std::vector<ItemName> read(const nlohmann::json &j)
    {
        std::vector<ItemName> out;
        for (const auto &name : j)
            out.push_back(Of<ItemName>::read(name));
        return out;
    }
    static nlohmann::json write(const std::vector<ItemName> &v)
    {
        nlohmann::json out = nlohmann::json::array();
        for (const ItemName &name : v)
            out.push_back(Of<ItemName>::write(name));
        return out;
    }
};

} // namespace value

/// One parameter: how it is described, and how it gets into the struct and out of it.
template <typename P> struct Field {
    ParamSpec spec;
    std::function<void(const nlohmann::json &, P &)> read; ///< of a value that was checked
    std::function<nlohmann::json(const P &)> write;        ///< null where a member that may be left out is
    bool isAlways = false;                                 ///< written though it is as in a fresh struct
    std::function<bool(const P &)> isMeant;                ///< whether it counts beside the other values; null: it does

    Field always() const
    {
        Field f = *this;
        f.isAlways = true;
        return f;
    }
    Field required() const
    {
        Field f = always();
        f.spec.isRequired = true, f.spec.missing.clear();
        return f;
    }
    Field onlyIf(std::function<bool(const P &)> condition) const
    {
        Field f = *this;
        f.isMeant = std::move(condition);
        return f;
    }
    Field titled(std::string title) const
    {
        Field f = *this;
        f.spec.title = std::move(title);
        return f;
    }
};
template <typename P> using Fields = std::vector<Field<P>>;

/// A field from its member; kind and default follow from it. least, most: of numbers, and of each coordinate's size of points.
template <typename P, typename Q, typename T>
requires std::derived_from<P, Q> Field<P> fieldOf(T Q::*member, std::string name, std::string unit, std::string description,
                                                  double least = -std::numeric_limits<double>::infinity(),
                                                  double most = std::numeric_limits<double>::infinity())
{
    Field<P> f;
    const auto describe = [&](ParamKind kind) {
        f.spec = plainParam(kind, std::move(name), std::move(unit), std::move(description));
        f.spec.least = least, f.spec.most = most;
    };
    if constexpr (requires {
                      typename T::value_type;
                      requires std::same_as<T, std::optional<typename T::value_type>>;
                  }) {
        using Value = value::Of<typename T::value_type>;
        describe(Value::kKind);
        f.read = [member](const nlohmann::json &j, P &to) { to.*member = Value::read(j); };
        f.write = [member](const P &p) { return p.*member ? Value::write(*(p.*member)) : nlohmann::json(); };
    } else {
        using Value = value::Of<T>;
        describe(Value::kKind);
        f.read = [member](const nlohmann::json &j, P &to) { to.*member = Value::read(j); };
        f.write = [member](const P &p) { return Value::write(p.*member); };
        f.spec.missing = f.write(P{}).dump();
    }
    return f;
}

/// A choice among words, in the order of an enum.
template <typename P, typename E, typename Names>
Field<P> choiceOf(E P::*member, std::string name, std::string description, const Names &names)
{
    Field<P> f;
    f.spec = choiceParam(std::move(name), std::move(description), {std::begin(names), std::end(names)});
    f.read = [member, all = f.spec.choices](const nlohmann::json &j, P &to) {
        to.*member = E(std::find(all.begin(), all.end(), j.get<std::string>()) - all.begin());
    };
    f.write = [member, all = f.spec.choices](const P &p) { return nlohmann::json(all[std::size_t(p.*member)]); };
    f.spec.missing = f.write(P{}).dump();
    return f;
}

template <typename P> std::vector<ParamSpec> specsOf(const Fields<P> &fields)
{
    std::vector<ParamSpec> out;
    for (const Field<P> &f : fields)
        out.push_back(f.spec);
    return out;
}

/// The struct that checked parameters describe.
template <typename P> P readFields(const Fields<P> &fields, const Params &params)
{
    P out{};
    for (const Field<P> &f : fields)
        if (params.has(f.spec.name.c_str()))
            f.read(params.value(f.spec.name.c_str()), out);
    return out;
}

/// What a command needs to say so that it reads as this struct.
template <typename P> void writeFields(const Fields<P> &fields, const P &from, nlohmann::json &command)
{
    const P fresh{};
    for (const Field<P> &f : fields) {
        if (f.isMeant && !f.isMeant(from))
            continue;
        if (nlohmann::json v = f.write(from); !v.is_null() && (f.isAlways || v != f.write(fresh)))
            command[f.spec.name] = std::move(v);
    }
}

/// A command whose parameters are a struct P: P::kName, kTitle and kText say what it is, P::fields() describes the members.
template <typename P>
CommandSpec commandOf(Result<Creature> (*apply)(const Creature &, const P &, CommandContext &), bool readsFile = false)
{
    static const Fields<P> fields = P::fields();
    return {P::kName,
            P::kTitle,
            P::kText,
            specsOf(fields),
            [apply](const Creature &before, const Params &params, CommandContext &context) {
                return apply(before, readFields(fields, params), context);
            },
            readsFile};
}

/// The command that such a struct stands for: {"do": NAME, parameters...}.
template <typename P> nlohmann::json toCommand(const P &params)
{
    static const Fields<P> fields = P::fields();
    nlohmann::json command{{"do", P::kName}};
    writeFields(fields, params, command);
    return command;
}

} // namespace bonemoss::command
