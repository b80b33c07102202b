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
    Covered,    ///< ambient occlusion: darker where other skin keeps the light away
    Thin,       ///< where the skin is thin
    Through,    ///< clear as glass, tinted where bodies overlap
    Uneven,     ///< where left and right differ
    Seen,       ///< what the chosen camera sees
    Stretched,  ///< cells much longer than wide
    Neglected,  ///< where no stroke has been yet
    LayerOnly,  ///< what the chosen layer moves
};
inline constexpr int kLooks = int(Look::LayerOnly) + 1;

/// Whether it shows numbers that are worked out beside the window, for the whole skin at once.
constexpr bool isWorkedOut(Look look)
{
    return look >= Look::Covered && look <= Look::Seen;
}
/// Whether it shows numbers found block by block as the skin is sent.
constexpr bool isFoundAtOnce(Look look)
{
    return look >= Look::Stretched;
}

} // namespace bonemoss::app
