#pragma once

#include "command/field_list.h"
#include "command/params.h"

#include <array>
#include <concepts>
#include <functional>
#include <type_traits>

namespace bonemoss::command {

// A command's parameters as a struct with one description: a list of fields. Schema, check, reading, writing and dialog follow from
// it. A member that is a std::optional may be left out; any other has the default of a fresh struct.

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
template <> struct Of<std::filesystem::path> {
    static constexpr ParamKind kKind = ParamKind::Path;
    static std::filesystem::path read(const nlohmann::json &j) { return j.get<std::string>(); }
    static nlohmann::json write(const std::filesystem::path &v) { return v.native(); }
};
template <> struct Of<std::vector<float>> : Plain<std::vector<float>> {
    static constexpr ParamKind kKind = ParamKind::Numbers;
};
template <std::size_t N> struct Of<std::array<float, N>> : Plain<std::array<float, N>> {
    static constexpr ParamKind kKind = ParamKind::Numbers;
    static constexpr std::size_t kCount = N;
};
template <> struct Of<Vec3f> {
    static constexpr ParamKind kKind = ParamKind::Point;
    static Vec3f read(const nlohmann::json &j) { return {j[0].get<float>(), j[1].get<float>(), j[2].get<float>()}; }
    static nlohmann::json write(Vec3f v) { return {v.x, v.y, v.z}; }
};
/// Kinds that are lists of rows of numbers. Read<T> and Write<T> stand in fields.cpp.
template <typename T, ParamKind Kind> struct Rows {
    static constexpr ParamKind kKind = Kind;
    static T read(const nlohmann::json &j);
    static nlohmann::json write(const T &v);
};
template <> struct Of<std::vector<Vec3f>> : Rows<std::vector<Vec3f>, ParamKind::Points> {};
template <> struct Of<std::vector<armature::PathPoint>> : Rows<std::vector<armature::PathPoint>, ParamKind::Points> {};
template <> struct Of<std::vector<sculpt::PenSample>> : Rows<std::vector<sculpt::PenSample>, ParamKind::Samples> {};
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

/// How many numbers a list must have; 0 for any.
template <typename Value> constexpr std::size_t countOf = 0;
template <typename Value>
requires requires
{
    Value::kCount;
}
constexpr std::size_t countOf<Value> = Value::kCount;

template <typename T> constexpr bool isOptional = false;
template <typename T> constexpr bool isOptional<std::optional<T>> = true;

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
        f.spec.isRequired = true, f.spec.defaultJson.clear();
        return f;
    }
    Field requiredIf(bool isSo) const { return isSo ? required() : *this; }
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
/// A field from its member; kind and default follow from it. min, max: of numbers, and of each coordinate's size of points.
template <typename P, typename Q, typename T>
requires std::derived_from<P, Q> Field<P> fieldOf(T Q::*member, std::string name, std::string unit, std::string description,
                                                  double min = -std::numeric_limits<double>::infinity(),
                                                  double max = std::numeric_limits<double>::infinity())
{
    Field<P> f;
    const auto describe = [&](ParamKind kind) {
        f.spec = {std::move(name), kind, std::move(unit), std::move(description)};
        f.spec.min = min, f.spec.max = max;
    };
    if constexpr (value::isOptional<T>) {
        using Value = value::Of<typename T::value_type>;
        describe(Value::kKind);
        f.spec.count = value::countOf<Value>;
        f.read = [member](const nlohmann::json &j, P &to) { to.*member = Value::read(j); };
        f.write = [member](const P &p) { return p.*member ? Value::write(*(p.*member)) : nlohmann::json(); };
    } else {
        using Value = value::Of<T>;
        describe(Value::kKind);
        f.spec.count = value::countOf<Value>;
        f.read = [member](const nlohmann::json &j, P &to) { to.*member = Value::read(j); };
        f.write = [member](const P &p) { return Value::write(p.*member); };
        f.spec.defaultJson = f.write(P{}).dump();
    }
    return f;
}

/// A choice among words, in the order of an enum.
template <typename P, typename T, typename Names>
Field<P> choiceOf(T P::*member, std::string name, std::string description, const Names &names)
{
    Field<P> f;
    f.spec = {std::move(name), ParamKind::Choice, "", std::move(description)};
    f.spec.choices = {std::begin(names), std::end(names)};
    f.read = [member, all = f.spec.choices](const nlohmann::json &j, P &to) {
        const auto at = std::size_t(std::find(all.begin(), all.end(), j.get<std::string>()) - all.begin());
        if constexpr (value::isOptional<T>)
            to.*member = typename T::value_type(at);
        else
            to.*member = T(at);
    };
    f.write = [member, all = f.spec.choices](const P &p) {
        if constexpr (value::isOptional<T>)
            return p.*member ? nlohmann::json(all[std::size_t(*(p.*member))]) : nlohmann::json();
        else
            return nlohmann::json(all[std::size_t(p.*member)]);
    };
    if constexpr (!value::isOptional<T>)
        f.spec.defaultJson = f.write(P{}).dump();
    return f;
}

/// A choice among words that is kept as a word.
template <typename P, typename T>
Field<P> wordOf(T P::*member, std::string name, std::string description, std::vector<std::string> words)
{
    Field<P> f = fieldOf<P>(member, std::move(name), "", std::move(description));
    f.spec.kind = ParamKind::Choice, f.spec.choices = std::move(words);
    return f;
}

/// The ids of a table's rows, as choices.
template <typename Rows> std::vector<std::string> idsOf(const Rows &rows)
{
    std::vector<std::string> out;
    for (const auto &row : rows)
        out.emplace_back(row.id);
    return out;
}

/// The fields of a struct inside the struct; in a command they stand beside the others.
template <typename P, typename Q> Fields<P> nested(Q P::*member, const Fields<Q> &inner)
{
    Fields<P> out;
    for (const Field<Q> &f : inner) {
        Field<P> &o = out.emplace_back();
        o.spec = f.spec, o.isAlways = f.isAlways;
        o.read = [member, read = f.read](const nlohmann::json &j, P &to) { read(j, to.*member); };
        o.write = [member, write = f.write](const P &p) { return write(p.*member); };
        if (f.isMeant)
            o.isMeant = [member, isMeant = f.isMeant](const P &p) { return isMeant(p.*member); };
    }
    return out;
}

/// Fields and lists of fields as one list.
template <typename P> Fields<P> fieldList(std::initializer_list<std::variant<Field<P>, Fields<P>>> parts)
{
    Fields<P> out;
    for (const auto &part : parts)
        if (const Field<P> *one = std::get_if<Field<P>>(&part))
            out.push_back(*one);
        else
            for (const Field<P> &f : std::get<Fields<P>>(part))
                out.push_back(f);
    return out;
}

// What many commands name, by members of these names.
template <typename P> Field<P> pieceField()
{
    return fieldOf<P>(&P::piece, "piece", "", "name or id; may be left out when there is one piece");
}
template <typename P> Field<P> layerField()
{
    return fieldOf<P>(&P::layer, "layer", "", "name or id").required();
}
template <typename P> Field<P> formField()
{
    return fieldOf<P>(&P::form, "form", "", "name or id").required();
}

template <typename P> std::vector<ParamSpec> specsOf(const Fields<P> &fields)
{
    std::vector<ParamSpec> out;
    for (const Field<P> &f : fields)
        out.push_back(f.spec);
    return out;
}

/// The struct that checked parameters describe.
template <typename P> P readFields(const Fields<P> &fields, const nlohmann::json &params)
{
    P out{};
    for (const Field<P> &f : fields)
        if (const auto at = params.find(f.spec.name); at != params.end())
            f.read(*at, out);
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
CommandSpec commandOf(Result<Creature> (*apply)(const Creature &, const P &, CommandContext &), bool isKeptWhole = false)
{
    static const Fields<P> fields = P::fields();
    return {P::kName,
            P::kTitle,
            P::kText,
            specsOf(fields),
            [apply](const Creature &before, const nlohmann::json &params, CommandContext &context) {
                return apply(before, readFields(fields, params), context);
            },
            isKeptWhole};
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
