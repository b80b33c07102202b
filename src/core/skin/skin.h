#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "skin/colour_layer.h"
#include "skin/layer_drive.h"
#include "skin/paint.h"
#include "mesh/surface.h"
#include "sculpt/stroke.h"

#include <functional>
#include <string>
#include <vector>

namespace bonemoss::growth {
struct Growth;
}

namespace bonemoss::skin {

/// Displacement kept apart from the body: mm offsets per vertex, shown at a strength where its mask lets it.
struct Layer {
    std::uint32_t id = 0;
    std::string name;
    float strength = 1; ///< -1 to 2
    bool isOn = true;
    bool isAside = false;                         ///< not shown because another layer is looked at alone
    bool isLocked = false;                        ///< no stroke or command changes it
    std::uint32_t handOver = 0;                   ///< the growth whose hand work this layer holds; 0 for none
    std::shared_ptr<const growth::Growth> growth; ///< the rule that made it; null when painted (see growth.h)
    LayerDrive drive;                             ///< what share of it shows in a pose
    float rigid = 0; ///< 0 to 1: how far its scales and plates keep their shape in a pose, while the skin between them stretches
    mesh::BlockArray<Vec3f> offsets;
    /// 255 keeps the layer from showing at a vertex, and a growth out of it; what a brush took away of a growth is 254 at
    /// most, so that it grows again on the same area.
    mesh::BlockArray<std::uint8_t> mask;

    explicit Layer(std::size_t vertices) : offsets(vertices), mask(vertices) {}
    float shownStrength() const { return isOn && !isAside ? strength * drive.shareAtRest() : 0; } ///< at rest
    /// How the layer shows, without what it holds: copies of a layer that agree in this differ in values only.
    bool isShownAs(const Layer &o) const
    {
        return id == o.id && name == o.name && strength == o.strength && isOn == o.isOn && isAside == o.isAside
               && isLocked == o.isLocked && handOver == o.handOver && growth == o.growth && drive == o.drive && rigid == o.rigid;
    }
};

/// A mask put by under a name.
struct KeptMask {
    std::string name;
    mesh::BlockArray<std::uint8_t> values;
};

/// Skin that was given a number and a name to be found again by.
struct Group {
    std::uint16_t number = 0; ///< from 1
    std::string name;
};

struct Skin;

/// Two neighbouring levels at a moment when they agreed. Neither has links itself. The one nearer to the level in hand is there
/// to tell changes by and may have no surface; the other can be taken in hand.
struct LevelLink {
    std::shared_ptr<const Skin> coarse, fine;
};

/// A surface one can sculpt: body, layers over it, mask, and what they add up to.
/// Invariant: shown = body + sum of strength times layer, block by block. A value; copies share blocks.
struct Skin {
    mesh::BlockArray<Vec3f> body;
    std::vector<Layer> layers;           ///< lowest first
    mesh::BlockArray<std::uint8_t> mask; ///< 255 keeps a vertex as it is
    std::vector<KeptMask> masks;
    std::vector<Group> groups;
    mesh::BlockArray<std::uint16_t> groupOf; ///< of each vertex, 0 for none
    Paint paint;                             ///< what the colour layers add up to, where there are any
    std::vector<ColourLayer> colourLayers;   ///< lowest first
    std::vector<KeptMask> colourValues;      ///< what they hold
    std::vector<PaletteColour> palette;      ///< colours of the creature's palette that they use
    std::vector<KeptMask> boneWeights;       ///< how much each bone moves each vertex (pose/weights.h)
    mesh::Surface shown;                     ///< with what of it is hidden
    std::vector<LevelLink> links;            ///< between its levels, from the coarsest (see levels.h)
    std::size_t level = 0;                   ///< the one in hand: what the members above are

    bool isEmpty() const { return shown.isEmpty(); }
    const Layer *layer(std::uint32_t id) const;
    Layer *layer(std::uint32_t id);
    bool hasMask() const { return !mask.isBlank(); }
    bool hasHidden() const { return !shown.hidden.isBlank(); }
    const KeptMask *keptMask(const std::string &name) const;
    const Group *group(const std::string &name) const;
    /// Whether it is only a surface: no layer, mask, group or hidden part that would have to be carried along.
    bool isBare() const;
    /// A number that no group has yet.
    std::uint16_t freeGroup() const;
    std::size_t memoryBytes() const;
    /// Calls visit with each block of memory that states may share, of all levels, and its size; one may come several times.
    void eachBlock(const std::function<void(const void *, std::size_t)> &visit) const;
};

/// A skin without layers from a mesh; vertices are put in spatial order unless they already are.
Skin makeSkin(const mesh::PolyMesh &mesh, bool isOrdered);

/// Adds what a layer shows in block b, that many times. to: the vertices of the block.
void addShown(const Layer &layer, std::size_t b, float times, std::span<Vec3f> to);
/// Takes out of a layer what its mask keeps from showing, and clears the mask.
void applyLayerMask(Layer &layer);
/// Brings `shown` of the given blocks, each named once, in line with body and layers. O(blocks * layers); normals of what came
/// out otherwise, and of what lies beside it, alone.
void mixBlocks(Skin &skin, const std::vector<std::uint32_t> &blocks);
/// Blocks in which a layer holds anything.
std::vector<std::uint32_t> blocksWith(const Layer &layer);

/// Takes a surface that differs from skin.shown in `blocks` only, and writes the difference to the
/// body (layer 0) or a layer, so that the skin shows that surface. A layer's mask weakens it; of a growth only the mask
/// changes: what the stroke took away of it is hidden. BadValue when the layer is off or
/// too weak (under 1 %) to show it.
Status takeSculpted(Skin &skin, const mesh::Surface &after, const std::vector<std::uint32_t> &blocks, std::uint32_t layer);

/// Moves the whole skin; layers, being offsets, stay as they are. O(vertices).
void shift(Skin &skin, Vec3f by);

void invertMask(Skin &skin);
void clearMask(Skin &skin);
/// Mean of each vertex and its neighbours, `passes` times.
void blurMask(Skin &skin, int passes);

} // namespace bonemoss::skin
