#pragma once

#include "base/types.h"

#include <cstdint>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace bonemoss::command {

/// An item or a layer as a person names it: by id or by name.
using ItemName = std::variant<std::uint32_t, std::string>;

inline std::vector<ItemName> namesOf(const std::vector<std::uint32_t> &ids)
{
    return {ids.begin(), ids.end()};
}

// The parameters of a command are a struct: kName, kTitle and kText say what the command is, fields() describes the members
// (fields.h). A member that is a std::optional may be left out; any other has the default of a fresh struct.
template <typename P> struct Field;
template <typename P> using Fields = std::vector<Field<P>>;

/// A member takes over what is given, and stays as it is where nothing is.
template <typename T, typename U> void setIfGiven(T &member, const std::optional<U> &given)
{
    if (given)
        member = *given;
}

} // namespace bonemoss::command
