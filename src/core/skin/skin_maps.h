#pragma once

#include "base/progress.h"
#include "skin/skin.h"
#include "mesh/depth_picture.h"

namespace bonemoss::skin {

/// Numbers over a skin that are looked at, or made into masks.
enum class SkinMap {
    MeanCurvature,    ///< mean curvature times the width: about 1 in a hollow as wide as it is round, below 0 on a ridge
    Slope,            ///< degrees between the normal and straight up: 0 crown side, 180 belly side
    Thickness,        ///< mm to the skin on the other side, straight in
    Colour,           ///< lightness of the paint times its cover, 0 to 1
    Stretch,          ///< longest edge about a vertex against the shortest
    Work,             ///< how often strokes have changed the place, up to 255
    Layer,            ///< mm that a layer moves the skin here
    Mirror,           ///< mm to the mirror image of the skin
    AmbientOcclusion, ///< 0 to 1: how much of the light from all sides is kept away by other skin (ambient occlusion)
    Overlap,          ///< in how many bodies besides its own the place lies
    Seen,             ///< 1 where it is seen from a place, else 0
    Gloss,            ///< finish, 0 to 1
    Metal,
    Wet,
    Translucency,
    Grain,
    BoneWeight, ///< how much a bone moves it, 0 to 1; the layer is the bone's place in Skin::boneWeights
    ColourMask, ///< how much the mask of a colour layer keeps it from showing, 0 to 1
};

struct MapSettings {
    float width = 2;                           ///< mm, of hollows and ridges: finer form does not count
    std::uint32_t layer = 0;                   ///< of Layer and ColourMask
    Vec3f point, normal{1, 0, 0};              ///< of Mirror's plane
    std::vector<const mesh::Surface *> others; ///< of Overlap and AmbientOcclusion: the other pieces about
    mesh::Sight sight;                         ///< of Seen
};

/// The value of every vertex. O(vertices), MeanCurvature times (width / edge)^2; Thickness, Mirror and Overlap times log faces; AmbientOcclusion
/// by depth pictures from 96 sides, so O(96 (faces + pixels)) and true to a few hundredths. Parallel, the
/// same on any number of threads. Cancelled gives an empty one.
std::vector<float> mapOf(const Skin &skin, SkinMap map, const MapSettings &settings, const Progress &progress = {});

/// Of one block, for the maps that need no more than the block and what it borrows: Stretch, Work, Layer, the finish, ColourMask.
void mapBlock(const Skin &skin, SkinMap map, const MapSettings &settings, std::size_t block, std::span<float> out);

/// Forgets blocks in which all is zero, as where a mask masks nothing.
template <typename T> void dropBlank(mesh::BlockArray<T> &values)
{
    for (std::size_t b = 0; b < values.blockCount(); ++b)
        if (const T *v = values.data(b); v && std::all_of(v, v + values.countIn(b), [](const T &x) { return x == T{}; }))
            values.put(b, nullptr);
}
/// The mask's border outward (rings above 0) or inward by rings of vertices.
void growMask(Skin &skin, int rings);
/// The mask's soft border made narrower; 1 is a hard edge.
void sharpenMask(Skin &skin, float amount);

} // namespace bonemoss::skin
