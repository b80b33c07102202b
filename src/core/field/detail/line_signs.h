#pragma once

#include "field/sign_grid.h"

namespace bonemoss::field::detail {

/// One crossing of a surface with a lattice edge.
struct Crossing {
    std::uint32_t block; ///< dense block index
    std::uint16_t edge;  ///< axis << 9 | x << 6 | z << 3 | y, and 0x8000 where the line enters a solid
    std::uint16_t part;  ///< 1/65536 of the spacing from the edge's start

    bool enters() const { return edge & 0x8000; }
    unsigned axis() const { return unsigned(edge >> 9) & 3; }
    unsigned x() const { return unsigned(edge >> 6) & 7; }
    unsigned bit() const { return unsigned(edge) & 63; }
};

/// Loose crossings, and the face each lies on where those are kept.
struct Records {
    std::vector<Crossing> crossings;
    std::vector<std::uint32_t> faces;
};

/// Fills blocks, signs and crossings of a grid from loose records. Results do not depend on the order
/// of records nor on threads. Lines are walked along x; where some do not pair up, along all three
/// axes, and the directions vote sample by sample.
void resolveLines(SignGrid &grid, const std::vector<Records> &records);

} // namespace bonemoss::field::detail
