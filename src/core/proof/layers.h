#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "base/types.h"

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace bonemoss::proof {

using Triangle = std::array<Vec3f, 3>;

/// Columns of a row that are inside.
struct Run {
    std::int32_t begin = 0, end = 0;
};

/// A solid as a printer sees it: layers of rows of cells, of each row the runs of cells whose middle lies inside. Inside is where more
/// faces have been gone in through than out, so that overlapping bodies are one.
struct Layers {
    float height = 0.1f, cell = 0.2f; ///< mm
    Vec3f origin;                     ///< of the first cell's corner; layers go up along y, rows along z, columns along x
    int columns = 0, rows = 0, count = 0;
    std::vector<std::uint32_t> starts; ///< of each row of each layer, in runs; one more than there are rows
    std::vector<Run> runs;
    std::vector<double> area;    ///< of each layer, mm^2, exact along rows
    std::vector<double> overlap; ///< of it what lies in more than one body

    std::span<const Run> row(int layer, int z) const
    {
        const std::size_t k = std::size_t(layer) * std::size_t(rows) + std::size_t(z);
        return std::span(runs).subspan(starts[k], starts[k + 1] - starts[k]);
    }
    Vec3f middleOf(int layer, int z, float column) const
    {
        return origin + Vec3f{(column + 0.5f) * cell, (float(layer) + 0.5f) * height, (float(z) + 0.5f) * cell};
    }
    double volume() const; ///< mm^3
};

/// Cuts triangles into layers. Triangles share their corners bit for bit where they meet. Errors: Empty, TooLarge (more than 400
/// million rows), Cancelled. O(triangles + rows met), parallel, the same bits on any number of threads.
Result<Layers> layersOf(std::span<const Triangle> triangles, float height, float cell, const Progress &progress = {});

/// What lies together in a layer or in all of them.
struct Region {
    enum class Kind : std::uint8_t {
        Island, ///< begins in the air
        Cup,    ///< closed all round and towards the plate, or by it, while it is printed; open later
        Pocket, ///< never open
        Loose   ///< a body that touches no other
    };
    Kind kind{};
    Vec3f at;          ///< in its middle, mm
    float area = 0;    ///< mm^2, the largest of any layer
    double volume = 0; ///< mm^3; of an island that of its layer
    int layer = 0;     ///< of an island where it begins; of the others where its area is largest
};

/// Islands, cups, pockets and loose bodies, largest first of each. Solid cells hang together over corners within a layer and over sides
/// between layers; empty ones over sides. O(runs), union by rank after R. Tarjan 1975.
std::vector<Region> regionsOf(const Layers &layers, const Progress &progress = {});

} // namespace bonemoss::proof
