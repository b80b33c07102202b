#pragma once

#include "command/field_list.h"
#include "portrait/stage.h"

#include <array>
#include <filesystem>
#include <optional>
#include <string>

namespace bonemoss::command {

struct SetSurroundings {
    static constexpr const char *kName = "portrait.surroundings", *kTitle = "Surroundings",
                                *kText = "Light from all around: none, even, a sky, or a picture of a whole sphere.";
    std::optional<portrait::Surroundings::Kind> kind;
    std::optional<std::filesystem::path> path;
    std::optional<Vec3f> above, below;
    std::optional<float> sunHeight, haze, turn, strength;
    std::optional<bool> isShown;
    static Fields<SetSurroundings> fields();
};
inline constexpr std::array<std::string_view, 4> kSurroundingsNames{"none", "even", "sky", "picture"};

struct SetBackdrop {
    static constexpr const char *kName = "portrait.backdrop", *kTitle = "Backdrop",
                                *kText =
                                    "What is seen behind the creature: surroundings, a colour, a gradient, a picture or hills.";
    std::optional<portrait::Backdrop::Kind> kind;
    std::optional<std::filesystem::path> path;
    std::optional<Vec3f> high, low;
    std::optional<std::uint32_t> seed;
    static Fields<SetBackdrop> fields();
};
inline constexpr std::array<std::string_view, 5> kBackdropNames{"surroundings", "colour", "gradient", "picture", "hills"};

struct SetGround {
    static constexpr const char *kName = "portrait.ground", *kTitle = "Ground",
                                *kText = "What the creature stands on in pictures.";
    std::optional<std::string> kind;
    std::optional<std::uint32_t> seed;
    std::optional<Vec3f> colour;
    std::optional<float> sink;
    std::optional<ItemName> piece;
    bool ownColour = false;
    static Fields<SetGround> fields();
};

struct SetFog {
    static constexpr const char *kName = "portrait.fog", *kTitle = "Fog", *kText = "Haze that grows with distance.";
    std::optional<float> distance;
    std::optional<Vec3f> colour;
    static Fields<SetFog> fields();
};

struct SetFilm {
    static constexpr const char *kName = "portrait.film", *kTitle = "Film",
                                *kText = "How pictures are developed: look, exposure, contrast, bloom, grain.";
    std::optional<std::string> look;
    std::optional<float> exposure, contrast, bloom, grain;
    std::optional<bool> isMetered;
    static Fields<SetFilm> fields();
};

struct CameraChanges {
    std::optional<std::string> view;
    std::optional<Vec3f> eye, target;
    std::optional<float> tilt, lens, aperture, focus, aspect;
    std::optional<Vec3f> focusAt;
    std::optional<bool> isParallel;
    static Fields<CameraChanges> fields();
};

struct KeepCamera {
    static constexpr const char *kName = "camera.keep", *kTitle = "Keep camera",
                                *kText = "Keeps a camera by name; one of that name is replaced.";
    std::string name;
    CameraChanges changes;
    static Fields<KeepCamera> fields();
};

struct SetCamera {
    static constexpr const char *kName = "camera.set", *kTitle = "Change camera",
                                *kText = "Changes what is given of a camera that was kept.";
    ItemName camera;
    std::optional<std::string> name;
    CameraChanges changes;
    static Fields<SetCamera> fields();
};

struct RemoveCamera {
    static constexpr const char *kName = "camera.remove", *kTitle = "Delete camera", *kText = "Forgets a camera that was kept.";
    ItemName camera;
    static Fields<RemoveCamera> fields();
};

} // namespace bonemoss::command
