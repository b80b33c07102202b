#pragma once

#include "armature/form.h"

#include <nlohmann/json.hpp>

namespace bonemoss::creature::detail_store {

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

} // namespace bonemoss::creature::detail_store
