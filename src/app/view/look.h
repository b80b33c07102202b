#pragma once

namespace bonemoss::app {

/// How skins are shown.
enum class Look {
    Clay,
    Groups,     ///< tinted by group
    Facets,     ///< every face flat
    Wire,       ///< with the edges of the faces
    Silhouette, ///< one tone, no inner form
    Hollows,    ///< hollows and ridges told apart
    Stretched,  ///< cells much longer than wide
    Neglected,  ///< where no stroke has been yet
    LayerOnly,  ///< what the chosen layer moves
};
inline constexpr int kLooks = int(Look::LayerOnly) + 1;

} // namespace bonemoss::app
