#pragma once

#include "armature/form.h"

#include <nlohmann/json.hpp>

namespace bonemoss::store::detail {

// What these read and write is JSON; reading throws what the JSON library throws.
inline nlohmann::json row(Vec3f v)
{
    return {v.x, v.y, v.z};
}
inline Vec3f vec(const nlohmann::json &j)
{
    return {j.at(0).get<float>(), j.at(1).get<float>(), j.at(2).get<float>()};
}

/// One form with all its numbers.
nlohmann::json writeForm(const armature::Form &form);
armature::Form readForm(const nlohmann::json &j);

/// The header of any item into its record, and from it; what older files do not have is as on a new item.
void writeItem(const Item &item, nlohmann::json &record);
void readItem(const nlohmann::json &record, Item &item);

} // namespace bonemoss::store::detail
