#include "skin/attributes.h"

#include <algorithm>
#include <array>
#include <utility>

namespace bonemoss::skin {

namespace {

template <Channel C> Bytes &channel(Skin &skin)
{
    return skin.paint.of(C);
}

Bytes &maskOf(Skin &skin)
{
    return skin.mask;
}
std::vector<KeptMask> &keptOf(Skin &skin)
{
    return skin.masks;
}
std::vector<KeptMask> &colourValuesOf(Skin &skin)
{
    return skin.colourValues;
}
std::vector<KeptMask> &boneWeightsOf(Skin &skin)
{
    return skin.boneWeights;
}
Numbers &groupsOf(Skin &skin)
{
    return skin.groupOf;
}
Bytes &hiddenOf(Skin &skin)
{
    return skin.shown.hidden;
}

constexpr float kMixed = 0.005f, kTaken = 0.02f; // bounds on loss of what blends, and of what does not: its borders move

template <Channel C>
constexpr AttributeKind paintRow(std::string_view name, std::string_view loss, std::string_view key = "paint")
{
    return {name, key, loss, Blend::Mix, false, kMixed, channel<C>};
}

constexpr std::array kKinds{
    AttributeKind{"the mask", "mask", "mask", Blend::Mix, false, kMixed, maskOf},
    AttributeKind{"mask", "masks", "mask", Blend::Mix, false, kMixed, nullptr, nullptr, keptOf},
    paintRow<Channel::Red>("the colour", "colour"),
    paintRow<Channel::Green>("the colour", "colour"),
    paintRow<Channel::Blue>("the colour", "colour"),
    paintRow<Channel::Cover>("the colour", "colour"),
    paintRow<Channel::Gloss>("the gloss", "finish"),
    paintRow<Channel::Metal>("the metal", "finish"),
    paintRow<Channel::Clearcoat>("the wet", "finish"),
    paintRow<Channel::Translucency>("the translucency", "finish"),
    paintRow<Channel::Grain>("the grain", "finish", "grain"),
    paintRow<Channel::Work>("the count of strokes", ""),
    AttributeKind{"the colour layer", "colourValues", "colour layers", Blend::Mix, true, kMixed, nullptr, nullptr,
                  colourValuesOf},
    AttributeKind{"the bone", "boneWeights", "bone weights", Blend::Mix, true, kMixed, nullptr, nullptr, boneWeightsOf},
    AttributeKind{"the groups", "groupOf", "groups", Blend::Nearest, false, kTaken, nullptr, groupsOf},
    AttributeKind{"what is hidden", "hiddenSkin", "hidden parts", Blend::Nearest, false, kTaken, hiddenOf},
};

} // namespace

std::span<const AttributeKind> attributeKinds()
{
    return kKinds;
}

const Bytes *valuesOf(const Skin &skin, const AttributeKind &kind, const std::string &name, std::uint8_t)
{
    Skin &places = const_cast<Skin &>(skin); // only looked at
    if (!kind.named)
        return &kind.bytes(places);
    const auto &all = std::as_const(kind.named(places));
    const auto at = std::find_if(all.begin(), all.end(), [&](const KeptMask &m) { return m.name == name; });
    return at == all.end() ? nullptr : &at->values;
}

const Numbers *valuesOf(const Skin &skin, const AttributeKind &kind, const std::string &, std::uint16_t)
{
    return &kind.numbers(const_cast<Skin &>(skin));
}

Bytes &placeOf(Skin &skin, const AttributeKind &kind, const std::string &name, std::uint8_t)
{
    if (!kind.named)
        return kind.bytes(skin);
    auto &all = kind.named(skin);
    const auto at = std::find_if(all.begin(), all.end(), [&](const KeptMask &m) { return m.name == name; });
    return at == all.end() ? all.emplace_back(KeptMask{name, {}}).values : at->values;
}

Numbers &placeOf(Skin &skin, const AttributeKind &kind, const std::string &, std::uint16_t)
{
    return kind.numbers(skin);
}

void blankAttributes(Skin &skin)
{
    skin.groups.clear(), skin.colourLayers.clear(), skin.palette.clear();
    skin.masks.clear(), skin.colourValues.clear();
    eachAttribute(skin, [&](const AttributeKind &, const std::string &, auto &values) {
        values = std::remove_cvref_t<decltype(values)>(skin.body.size());
    });
}

} // namespace bonemoss::skin
