#pragma once

#include "skin/colour_layers.h"

#include <concepts>
#include <type_traits>

namespace bonemoss::skin {

// What lies on the vertices of a skin beside its shape. Adding an attribute is a member of Skin (or a channel of Paint) and a row
// of the table in attributes.cpp; refining, levels, carrying over, cutting, symmetry, local density, compacting, the clipboard,
// the history and the store follow from the row. All lie at vertices: the faces of a skin are made anew by every re-knit, so
// nothing at their corners could be kept; meshes that are handed over have attributes at face corners too (io/scene.h).

using Numbers = mesh::BlockArray<std::uint16_t>;

/// How the values of several vertices become one.
enum class Blend {
    Mix,    ///< weighted mean, rounded
    Nearest ///< that of the largest weight: numbers and switches do not mix
};

struct AttributeKind {
    std::string_view name;    ///< "the mask", as messages call it
    std::string_view fileKey; ///< in files; rows of one key are written as a list, in their order
    std::string_view loss; ///< what its loss in carrying over is told under; rows of one word are told together, empty: not told
    Blend blend = Blend::Mix;
    bool isToldTogether = false; ///< arrays with a name are told together too
    float bound = 0; ///< share that a re-knit at the same density may lose on average of values that change over many vertices
    // Where a skin keeps it: one of these.
    Bytes &(*bytes)(Skin &) = nullptr;
    Numbers &(*numbers)(Skin &) = nullptr;
    std::vector<KeptMask> &(*named)(Skin &) = nullptr; ///< any number of them, each with a name
};
/// All rows; values are 0 to 255 or numbers, blank where nothing was ever done.
std::span<const AttributeKind> attributeKinds();

/// Calls use(kind, name, array) for each attribute there is; name is that of a kept mask, else empty. O(kinds).
template <typename AnySkin, typename Use>
requires std::same_as<std::remove_const_t<AnySkin>, Skin>
void eachAttribute(AnySkin &skin, const Use &use)
{
    static const std::string none;
    const auto asIs = [](auto &array) -> auto &
    {
        if constexpr (std::is_const_v<AnySkin>)
            return std::as_const(array);
        else
            return array;
    };
    Skin &mutableSkin = const_cast<Skin &>(skin); // the rows give places; asIs gives them back as they may be used
    for (const AttributeKind &kind : attributeKinds()) {
        if (kind.bytes)
            use(kind, none, asIs(kind.bytes(mutableSkin)));
        else if (kind.numbers)
            use(kind, none, asIs(kind.numbers(mutableSkin)));
        else
            for (auto &[name, values] : kind.named(mutableSkin))
                use(kind, name, asIs(values));
    }
}

/// The array of a kind (and name) on a skin; null where there is no such.
const Bytes *valuesOf(const Skin &skin, const AttributeKind &kind, const std::string &name, std::uint8_t);
const Numbers *valuesOf(const Skin &skin, const AttributeKind &kind, const std::string &name, std::uint16_t);
/// Where to write it; a kept mask is added with its name.
Bytes &placeOf(Skin &skin, const AttributeKind &kind, const std::string &name, std::uint8_t);
Numbers &placeOf(Skin &skin, const AttributeKind &kind, const std::string &name, std::uint16_t);

/// Gives `to` the attributes of `from`, each as make(kind, array) has it, and the groups' names.
template <typename Make> void makeAttributes(const Skin &from, Skin &to, const Make &make)
{
    to.groups = from.groups, to.colourLayers = from.colourLayers, to.palette = from.palette;
    to.masks.clear(), to.colourValues.clear();
    eachAttribute(from, [&]<typename T>(const AttributeKind &kind, const std::string &name, const mesh::BlockArray<T> &values) {
        auto made = make(kind, values); // before its place, which others may move
        placeOf(to, kind, name, T{}) = std::move(made);
    });
    composeColours(to);
}

/// The same from three states: make(kind, was, now, there), blank where a state has no such attribute. There are those of `now`.
template <typename Make> void bringAttributes(const Skin &was, const Skin &now, const Skin &there, Skin &to, const Make &make)
{
    to.groups = now.groups, to.colourLayers = now.colourLayers, to.palette = now.palette;
    to.masks.clear(), to.colourValues.clear();
    eachAttribute(now, [&]<typename T>(const AttributeKind &kind, const std::string &name, const mesh::BlockArray<T> &values) {
        const mesh::BlockArray<T> noneHere(now.body.size()), noneThere(there.body.size());
        const auto *before = valuesOf(was, kind, name, T{}), *other = valuesOf(there, kind, name, T{});
        auto made = make(kind, before ? *before : noneHere, values, other ? *other : noneThere);
        placeOf(to, kind, name, T{}) = std::move(made);
    });
    composeColours(to);
}

/// Blank arrays for all attributes, of as many values as the body has; no kept masks and no groups.
void blankAttributes(Skin &skin);

/// Calls use(array) for everything a skin has at its vertices in blocks that states may share, but for what is shown: body, layers
/// and attributes.
template <typename Use> void eachArray(const Skin &skin, const Use &use)
{
    use(skin.body);
    for (const Layer &l : skin.layers)
        use(l.offsets), use(l.mask);
    eachAttribute(skin, [&](const AttributeKind &, const std::string &, const auto &values) { use(values); });
}

} // namespace bonemoss::skin
