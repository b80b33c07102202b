#pragma once

#include "mesh/topology.h"

#include <vector>

namespace bonemoss::mesh {

/// Mean of what lies beside each own vertex of a block along its edges; its own value where nothing does. O(vertices of the block).
template <typename T> std::vector<float> meansBeside(const Topology &topology, const BlockArray<T> &values, std::size_t b)
{
    const BlockFaces &f = topology.block(b);
    std::vector<float> value(f.own + f.borrowed.size()), sum(value.size(), 0), count(value.size(), 0);
    for (std::size_t i = 0; i < value.size(); ++i)
        value[i] = float(values[topology.vertexOf(b, std::uint16_t(i))]);
    for (const LocalFace &face : f.faces)
        for (std::size_t c = 0, n = std::size_t(face.size()); c < n; ++c) {
            const std::uint16_t a = face.v[c], d = face.v[c + 1 < n ? c + 1 : 0];
            sum[a] += value[d], count[a] += 1;
            sum[d] += value[a], count[d] += 1;
        }
    for (std::size_t i = 0; i < f.own; ++i)
        sum[i] = count[i] > 0 ? sum[i] / count[i] : value[i];
    sum.resize(f.own);
    return sum;
}

} // namespace bonemoss::mesh
