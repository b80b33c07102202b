#pragma once

#include "base/progress.h"
#include "mesh/surface.h"

#include <array>
#include <functional>
#include <span>
#include <vector>

namespace bonemoss::colour::detail {

/// A mesh of triangles to work numbers out on.
struct Cloth {
    std::vector<Vec3f> at, normal;
    std::vector<std::array<std::uint32_t, 3>> faces;
    std::vector<std::uint32_t> first, about; ///< neighbours of v: about[first[v]] to about[first[v + 1]]

    std::size_t size() const { return at.size(); }
    std::span<const std::uint32_t> neighbours(std::size_t v) const { return {about.data() + first[v], first[v + 1] - first[v]}; }
    void findNeighbours();
};
/// The faces of a surface, quads as two triangles; vertices that no face uses have no neighbours.
Cloth clothOf(const mesh::Surface &surface);

/// Where a point lies in a coarser cloth: three nodes and their weights.
struct Held {
    std::array<std::uint32_t, 3> node{};
    std::array<float, 3> weight{1, 0, 0};
};
struct CoarseCloth {
    Cloth cloth;
    std::vector<Held> held; ///< of each vertex of the finer one
};
/// Nodes over a cloth, apart(vertex) mm from each other and hardly room for another, over the skin: what is near in space only is not
/// near. Each vertex goes to the node it is nearest to; faces join nodes whose parts meet. O(vertices log vertices), the same on any
/// number of threads.
CoarseCloth coarser(const Cloth &fine, const std::function<float(std::size_t)> &apart,
                    std::vector<std::uint32_t> *which = nullptr); ///< which: of the vertices are nodes

/// Values and their gradients at the nodes of a cloth.
struct NodeField {
    std::vector<float> value;
    std::vector<Vec3f> slope; ///< per mm
};
/// The same at the vertices of a finer cloth, without the facets of a linear blend.
NodeField carried(const NodeField &from, const CoarseCloth &coarse, const Cloth &fine);
/// The field with its gradients: means of those of the faces about.
NodeField withSlopes(const Cloth &cloth, std::vector<float> values);

/// How a pattern grows.
struct PatternSettings {
    float bias = 0;       ///< below 0 spots, 0 stripes, above 0 a net
    float even = 2;       ///< 1 organic, 4 even
    float stretch = 1;    ///< of marks along the flow, 1 to 4
    float order = 0;      ///< how firmly stripes follow the flow or its normal, 0 to 1.5
    bool isAlong = false; ///< they run along the flow, else across
    float sharpness = 2.5f;
    float cell = 1;     ///< mm, of the noise it begins at
    float mirrored = 0; ///< 0 each side its own, 1 both alike
    std::uint64_t seed = 1;
};
struct PatternInput {
    const Cloth &cloth;
    std::span<const Vec3f> along;         ///< flow at each node, unit, in the surface
    std::span<const float> wavelength;    ///< mm, at each node
    std::span<const float> bias;          ///< added to the settings'; empty for none
    std::span<const std::uint32_t> twins; ///< nearest node to the mirror image of each; empty without a plane
    std::span<const Vec3f> noiseAt;       ///< places for the noise it begins at
    std::span<const Vec3f> besideAt{};    ///< others for noise that is mixed in, so much of it; empty for none
    float beside = 0;
};
/// A pattern of a wavelength, by a band-pass filter of the surface's Laplace operator and a bounded growth, again and again until it
/// stands: the kernel form of reaction and diffusion (A. M. Turing, "The Chemical Basis of Morphogenesis", 1952; S. Kondo, "How animals get
/// their skin patterns: a kernel-based Turing model", 2009). The filter (a e^(1-a))^m passes most at the wavelength itself; it is a
/// Chebyshev series. Stretching along a flow after A. Witkin & M. Kass, "Reaction-Diffusion Textures", 1991. Smooth values about 0, with
/// marks above; empty when cancelled. O(nodes * degree * steps), the same bits on any number of threads.
std::vector<float> grownPattern(const PatternInput &in, const PatternSettings &settings, const Progress &progress);

/// Area about each node, mm^2.
std::vector<float> areasOf(const Cloth &cloth);

} // namespace bonemoss::colour::detail
