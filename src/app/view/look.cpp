#include "app/view/look.h"

#include "skin/colour_layers.h"

#include <QCoreApplication>

#include <algorithm>
#include <cassert>
#include <cmath>

namespace bonemoss::app {

namespace {

// Colours of meaning: docs/manual tells what each stands for.
std::uint8_t share(float s)
{
    return std::uint8_t(255 - std::lround(200 * std::clamp(s, 0.0f, 1.0f)));
}
Tint rust(float s)
{
    return {168, 69, 46, share(s)};
}
Tint lichen(float s)
{
    return {199, 154, 43, share(s)};
}
Tint slate(float s)
{
    return {62, 100, 112, share(s)};
}

Tint covered(float v) // what a rough skin keeps from itself is not told
{
    return {24, 21, 18, std::uint8_t(255 - std::lround(255 * std::clamp((v - 0.06f) * 1.4f, 0.0f, 1.0f)))};
}
Tint thin(float v)
{
    return rust(2 - 2 * v); // 1 is the greatest thickness told
}
Tint notSeen(float v)
{
    return slate(1 - v);
}
Tint stretched(float v)
{
    return rust((v - 2.2f) / 4);
}
Tint grey(float v)
{
    const auto g = std::uint8_t(std::lround(255 * std::clamp(v, 0.0f, 1.0f)));
    return {g, g, g, 0};
}
Tint dark(float v)
{
    return {24, 21, 18, share(v)};
}
Tint neglected(float v)
{
    return lichen(1 - std::log2(1 + v) / 3); // 7 strokes are enough
}

/// Greatest thickness (mm) that thin parts tell.
float thicknessTold(const document::Creature &c)
{
    return std::max(c.heightMm * 0.05f, 1e-3f);
}

/// Difference of left and right (mm) that is shown in full.
float unevennessTold(const document::Creature &c)
{
    return std::max(c.heightMm * 0.01f, 1e-3f);
}

std::shared_ptr<const void> shapeOf(const skin::Skin &skin, std::uint32_t, std::size_t b)
{
    return skin.shown.positions.share(b);
}
template <skin::Channel C> std::shared_ptr<const void> paintOf(const skin::Skin &skin, std::uint32_t, std::size_t b)
{
    const auto &values = skin.paint.of(C);
    return b < values.blockCount() ? std::shared_ptr<const void>(values.share(b)) : nullptr;
}
std::shared_ptr<const void> layerOf(const skin::Skin &skin, std::uint32_t id, std::size_t b)
{
    const skin::Layer *layer = skin.layer(id);
    return layer ? std::shared_ptr<const void>(layer->offsets.share(b)) : nullptr;
}
std::shared_ptr<const void> boneOf(const skin::Skin &skin, std::uint32_t bone, std::size_t b)
{
    return bone < skin.boneWeights.size() ? std::shared_ptr<const void>(skin.boneWeights[bone].values.share(b)) : nullptr;
}
std::shared_ptr<const void> colourMaskOf(const skin::Skin &skin, std::uint32_t layer, std::size_t b)
{
    const skin::Bytes *mask = skin::layerValues(skin, layer, skin::LayerChannel::Mask);
    return mask ? std::shared_ptr<const void>(mask->share(b)) : nullptr;
}

using skin::SkinMap;
using enum LookRow::Numbers;

/// One value of the finish, from dark to light.
template <skin::Channel C> constexpr LookRow finishLook(Look look, const char *id, const char *title, SkinMap map)
{
    return {.look = look,
            .id = id,
            .title = title,
            .shade = 6,
            .legend = QT_TRANSLATE_NOOP("Look", "black: none of it; white: all"),
            .numbers = BlockByBlock,
            .map = map,
            .tint = grey,
            .source = paintOf<C>};
}
constexpr LookRow kLooks[] = {
    {.look = Look::Clay, .id = "lookClay", .title = QT_TRANSLATE_NOOP("Look", "&Clay"), .showsPaint = true},
    {.look = Look::Groups, .id = "showGroups", .title = QT_TRANSLATE_NOOP("Look", "&Groups in colour")},
    {.look = Look::Facets, .id = "lookFacets", .title = QT_TRANSLATE_NOOP("Look", "&Facets"), .shade = 1, .showsPaint = true},
    {.look = Look::Wire, .id = "lookWire", .title = QT_TRANSLATE_NOOP("Look", "Clay with its &edges"), .showsPaint = true},
    {.look = Look::Silhouette, .id = "lookSilhouette", .title = QT_TRANSLATE_NOOP("Look", "&Silhouette"), .shade = 2},
    {.look = Look::Hollows, .id = "lookHollows", .title = QT_TRANSLATE_NOOP("Look", "&Hollows and ridges"), .shade = 3},
    {.look = Look::Covered,
     .id = "lookCovered",
     .title = QT_TRANSLATE_NOOP("Look", "Ambient &occlusion"),
     .shade = 5,
     .legend = QT_TRANSLATE_NOOP("Look", "dark: other skin keeps the light away"),
     .numbers = BesideTheWindow,
     .map = SkinMap::AmbientOcclusion,
     .tint = covered,
     .dependsOnOthers = true},
    {.look = Look::Thin,
     .id = "lookThin",
     .title = QT_TRANSLATE_NOOP("Look", "&Thin parts"),
     .legend = QT_TRANSLATE_NOOP("Look", "rust: thinner than %1 mm"),
     .numbers = BesideTheWindow,
     .map = SkinMap::Thickness,
     .tint = thin,
     .told = thicknessTold},
    {.look = Look::Through,
     .id = "lookThrough",
     .title = QT_TRANSLATE_NOOP("Look", "C&lear, overlaps tinted"),
     .legend = QT_TRANSLATE_NOOP("Look", "rust: inside another body"),
     .numbers = BesideTheWindow,
     .map = SkinMap::Overlap,
     .tint = rust,
     .dependsOnOthers = true},
    {.look = Look::Uneven,
     .id = "lookUneven",
     .title = QT_TRANSLATE_NOOP("Look", "&Left-right differences"),
     .legend = QT_TRANSLATE_NOOP("Look", "lichen: left and right differ, full at %1 mm"),
     .numbers = BesideTheWindow,
     .map = SkinMap::Mirror,
     .tint = lichen,
     .told = unevennessTold},
    {.look = Look::Seen,
     .id = "lookSeen",
     .title = QT_TRANSLATE_NOOP("Look", "Seen by the chosen ca&mera"),
     .legend = QT_TRANSLATE_NOOP("Look", "slate: not seen by the chosen camera"),
     .numbers = BesideTheWindow,
     .map = SkinMap::Seen,
     .tint = notSeen,
     .dependsOnOthers = true,
     .dependsOnCamera = true},
    {.look = Look::Stretched,
     .id = "lookStretched",
     .title = QT_TRANSLATE_NOOP("Look", "St&retched cells"),
     .legend = QT_TRANSLATE_NOOP("Look", "rust: cells much longer than wide"),
     .numbers = BlockByBlock,
     .map = SkinMap::Stretch,
     .tint = stretched,
     .source = shapeOf},
    {.look = Look::Neglected,
     .id = "lookNeglected",
     .title = QT_TRANSLATE_NOOP("Look", "&Neglected places"),
     .legend = QT_TRANSLATE_NOOP("Look", "lichen: no stroke has been here"),
     .numbers = BlockByBlock,
     .map = SkinMap::Work,
     .tint = neglected,
     .source = paintOf<skin::Channel::Work>},
    {.look = Look::LayerOnly,
     .id = "lookLayer",
     .title = QT_TRANSLATE_NOOP("Look", "What the chosen la&yer moves"),
     .legend = QT_TRANSLATE_NOOP("Look", "slate: what the chosen layer moves"),
     .numbers = BlockByBlock,
     .map = SkinMap::Layer,
     .tint = slate,
     .dependsOnLayer = true,
     .source = layerOf},
    {.look = Look::ColourOnly,
     .id = "lookColour",
     .title = QT_TRANSLATE_NOOP("Look", "C&olour without light"),
     .shade = 6,
     .showsPaint = true},
    {.look = Look::Values,
     .id = "lookValues",
     .title = QT_TRANSLATE_NOOP("Look", "&Values, without hue"),
     .shade = 7,
     .showsPaint = true},
    finishLook<skin::Channel::Gloss>(Look::Gloss, "lookGloss", QT_TRANSLATE_NOOP("Look", "Finish: gloss"), SkinMap::Gloss),
    finishLook<skin::Channel::Metal>(Look::Metal, "lookMetal", QT_TRANSLATE_NOOP("Look", "Finish: metal"), SkinMap::Metal),
    finishLook<skin::Channel::Clearcoat>(Look::Wet, "lookWet", QT_TRANSLATE_NOOP("Look", "Finish: wet"), SkinMap::Wet),
    finishLook<skin::Channel::Translucency>(Look::Translucency, "lookTranslucency",
                                            QT_TRANSLATE_NOOP("Look", "Finish: translucency"), SkinMap::Translucency),
    finishLook<skin::Channel::Grain>(Look::Grain, "lookGrain", QT_TRANSLATE_NOOP("Look", "Finish: grain"), SkinMap::Grain),
    {.look = Look::ColourMask,
     .id = "lookColourMask",
     .title = QT_TRANSLATE_NOOP("Look", "Mask of the chosen colour layer"),
     .legend = QT_TRANSLATE_NOOP("Look", "dark: the mask keeps the chosen colour layer from showing"),
     .numbers = BlockByBlock,
     .map = SkinMap::ColourMask,
     .tint = dark,
     .dependsOnColourLayer = true,
     .source = colourMaskOf},
    {.look = Look::BoneWeight,
     .id = "lookBoneWeight",
     .title = QT_TRANSLATE_NOOP("Look", "What the chosen bone moves"),
     .legend = QT_TRANSLATE_NOOP("Look", "slate: what the chosen bone moves"),
     .numbers = BlockByBlock,
     .map = SkinMap::BoneWeight,
     .tint = slate,
     .dependsOnBone = true,
     .source = boneOf},
};

} // namespace

std::span<const LookRow> looks()
{
    return kLooks;
}

const LookRow &rowOf(Look look)
{
    assert(kLooks[std::size_t(look)].look == look);
    return kLooks[std::size_t(look)];
}

QString lookTitle(const LookRow &row)
{
    return QCoreApplication::translate("Look", row.title);
}

QString lookLegend(const LookRow &row, const document::Creature &creature)
{
    if (!row.legend)
        return {};
    const QString words = QCoreApplication::translate("Look", row.legend);
    return row.told ? words.arg(double(row.told(creature)), 0, 'g', 2) : words;
}

} // namespace bonemoss::app
