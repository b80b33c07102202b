#pragma once

#include <array>
#include <cstdint>

namespace bonemoss::field::detail {

/// How the surface passes through one cell.
/// Corners: bit x + 2 y + 4 z of a configuration, set inside.
/// Edges: axis * 4 + b + 2 c, where b, c are the offsets along the other two axes in rising order.
struct Sheets {
    std::uint8_t count = 0;
    std::array<std::uint8_t, 12> of{}; ///< sheet of each edge; 255 where the surface does not cross it
};

/// Sheets of a configuration. Faces whose bit is set in flipped (axis * 2 + side) join their inside
/// corners across an ambiguous face instead of parting them.
Sheets makeSheets(unsigned configuration, unsigned flipped);
/// Table of makeSheets(configuration, 0).
const Sheets &sheetsOf(unsigned configuration);
/// Bits (axis * 2 + side) of ambiguous faces whose four crossed edges lie in one sheet.
unsigned knottedFaces(unsigned configuration);

} // namespace bonemoss::field::detail
