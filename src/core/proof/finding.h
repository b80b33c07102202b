#pragma once

#include "base/types.h"

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::proof {

enum class Severity : std::uint8_t {
    Spoils, ///< the print will fail or fall apart
    Risky,  ///< it may
    Note    ///< good to know
};
inline constexpr std::string_view kSeverityNames[] = {"spoils", "risky", "note"};

/// What a check can find. Adding one is one row here and a line in the check that finds it.
struct FindingKind {
    std::string_view id, title, unit;
    Severity severity;
    std::string_view hint;      ///< what it means for the print
    std::string_view mend;      ///< what mends it, in words
    std::string_view command{}; ///< and at a click; empty where a hand is needed
    bool isOnPiece = true;      ///< the command is about the piece that shows it
};
std::span<const FindingKind> findingKinds();
/// The row of that id; it must be there.
const FindingKind &findingKind(std::string_view id);

struct Finding {
    const FindingKind *kind = nullptr;
    Severity severity{};     ///< that of its kind, or less where it is small
    double value = 0;        ///< in the unit of its kind, at the size of the print
    Vec3f at;                ///< mm, in the creature
    float radius = 1;        ///< mm about it that is concerned
    Vec3f outward;           ///< unit, out of the surface: from where it is best seen
    std::uint32_t item = 0;  ///< of the creature; 0 for none
    std::string piece;       ///< name of what shows it
    std::uint32_t count = 1; ///< places of this kind that lie together
};

} // namespace bonemoss::proof
