#pragma once

#include "command/field_list.h"

#include <optional>
#include <string>

namespace bonemoss::command {

// Lights of a portrait. Azimuths are degrees about the vertical: 0 from the nose, positive to the left flank.

struct UseLights {
    static constexpr const char *kName = "portrait.lights", *kTitle = "Ready light",
                                *kText =
                                    "Lights, surroundings, backdrop and ground that go together, in place of those there are.";
    std::string set;
    bool keepsPlace = false;
    static Fields<UseLights> fields();
};

struct LightChanges {
    std::optional<float> azimuth, elevation, distance, size, strength, kelvin;
    std::optional<Vec3f> colour, aim;
    std::optional<bool> isOn, goesWithCamera;
    static Fields<LightChanges> fields();
};

struct AddLight {
    static constexpr const char *kName = "light.add", *kTitle = "Add light",
                                *kText = "A light that plays a part: key, fill, rim and so on.";
    std::string role = "key";
    std::optional<std::string> name;
    LightChanges changes;
    static Fields<AddLight> fields();
};

struct SetLight {
    static constexpr const char *kName = "light.set", *kTitle = "Change light",
                                *kText = "Changes what is given of a light and leaves the rest.";
    ItemName light;
    std::optional<std::string> name;
    LightChanges changes;
    static Fields<SetLight> fields();
};

struct AimLight {
    static constexpr const char
        *kName = "light.aim",
        *kTitle = "Aim light",
        *kText = "Stands a light so that its highlight lies at a place as seen from an eye, or so that the shadow "
                 "of a place falls on another.";
    ItemName light;
    std::optional<Vec3f> highlight, normal, eye, lookAt;
    std::optional<Vec3f> shadowOf, shadowAt;
    static Fields<AimLight> fields();
};

struct RemoveLight {
    static constexpr const char *kName = "light.remove", *kTitle = "Delete light", *kText = "Deletes a light.";
    ItemName light;
    static Fields<RemoveLight> fields();
};

} // namespace bonemoss::command
