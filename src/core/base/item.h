#pragma once

#include <cstdint>
#include <string>

namespace bonemoss {

/// The header of every thing in a creature that can be picked, named, hidden and locked.
struct Item {
    std::uint32_t id = 0; ///< of the document, never reused
    std::string name;
    std::uint32_t parent = 0; ///< item it hangs from; 0: stands on its own
    bool isHidden = false, isLocked = false;
    std::uint32_t colour = 0; ///< 0xRRGGBB to tell items apart; 0 for none
    friend bool operator==(const Item &, const Item &) = default;
};

} // namespace bonemoss
