#pragma once

#include "store/store.h"

#include <string>

namespace bonemoss::bench {

/// The creature of a file, with its largest piece first. Throws std::runtime_error when it cannot be read or has no skin.
inline document::Creature creatureGiven(const std::string &file)
{
    auto loaded = store::loadStore(file);
    if (!loaded)
        throw std::runtime_error(loaded.error().text());
    document::Creature c = std::move(loaded->creature);
    const auto size = [](const auto &piece) { return piece->skin.body.size(); };
    std::sort(c.pieces.begin(), c.pieces.end(), [&](const auto &a, const auto &b) { return size(a) > size(b); });
    if (c.pieces.empty() || size(c.pieces[0]) == 0)
        throw std::runtime_error(file + " holds no skin");
    return c;
}

} // namespace bonemoss::bench
