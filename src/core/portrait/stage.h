#pragma once

#include "base/types.h"
#include "image/encoded_picture.h"
#include "portrait/camera.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::portrait {

/// Gives light on the creature. Where it stands is told from the place it is aimed at, so that a set of lights fits any creature.
struct Light {
    /// Ball: a sphere that shines all round; Window: a square that faces what it is aimed at; Sun: from one direction everywhere.
    enum class Shape : std::uint8_t { Ball, Window, Sun };
    std::uint32_t id = 0; ///< of the creature, never reused
    std::string name;
    Shape shape = Shape::Window;
    bool isOn = true;
    bool goesWithCamera = false; ///< azimuth and elevation are told from the camera, not from the nose
    float azimuth = 40;          ///< degrees about the vertical: 0 from the nose (or the camera), positive to the left flank
    float elevation = 35;        ///< degrees above the level
    float distance = 300;        ///< mm from the place it is aimed at; a sun has none
    float size = 150;            ///< mm across; of a sun degrees across
    /// What it gives on a white surface that faces it at the place it is aimed at: 1 makes it white. Neither size nor distance change it.
    float strength = 1;
    float kelvin = 5500;        ///< colour of a black body of that temperature; 0: as colour says
    Vec3f colour{1, 1, 1};      ///< linear light, times that of the temperature
    std::optional<Vec3f> aim{}; ///< mm; nothing: the middle of the creature
    friend bool operator==(const Light &, const Light &) = default;
};

/// Light from all around.
struct Surroundings {
    /// Even: the same from everywhere above, darker below; Sky: of a clear or hazy day; Picture: of a whole sphere, twice as wide as high.
    enum class Kind : std::uint8_t { None, Even, Sky, Picture };
    Kind kind = Kind::Even;
    Vec3f above{0.85f, 0.92f, 1.0f}, below{0.32f, 0.29f, 0.26f}; ///< of Even, linear light
    float sunHeight = 20;                                        ///< of Sky: degrees above the horizon
    float haze = 3;                                              ///< of Sky: turbidity, 2 clear to 10 hazy
    float rotation = 0; ///< degrees: the sun's azimuth, or how far a picture is turned to the left flank
    float strength = 0.35f;
    bool isShown = false; ///< behind the creature, where the backdrop leaves it
    std::shared_ptr<const image::EncodedPicture> picture;
    friend bool operator==(const Surroundings &, const Surroundings &) = default;
};

/// What is seen behind the creature. It gives no light.
struct Backdrop {
    enum class Kind : std::uint8_t { Surroundings, Colour, Gradient, Picture, Hills };
    Kind kind = Kind::Gradient;
    Vec3f high{0.30f, 0.31f, 0.32f}, low{0.10f, 0.10f, 0.11f}; ///< linear light; Colour has high alone
    std::uint64_t seed = 1;                                    ///< of Hills
    std::shared_ptr<const image::EncodedPicture> picture;
    friend bool operator==(const Backdrop &, const Backdrop &) = default;
};

/// What the creature stands on, under its lowest point.
struct Ground {
    std::string kind = "floor"; ///< id of a row of groundKinds()
    std::uint64_t seed = 1;
    std::optional<Vec3f> colour{}; ///< linear light; its own when there is none
    float sink = 0;                ///< mm the creature stands in it
    std::uint32_t piece = 0;       ///< of the kind "piece": that it is
    /// The piece that is ground and no part of the creature; 0 for none.
    std::uint32_t standsOn() const { return kind == "piece" ? piece : 0; }
    friend bool operator==(const Ground &, const Ground &) = default;
};

/// Light that is lost beyond the creature: `distance` mm behind it 63 % of what is seen is fog; 0 for none.
struct Fog {
    float distance = 0;
    Vec3f colour{0.5f, 0.53f, 0.56f};
    friend bool operator==(const Fog &, const Fog &) = default;
};

/// How a picture is developed.
struct Film {
    float exposure = 0;           ///< stops
    bool isMetered = false;       ///< exposed by the picture first
    float contrast = 0.5f;        ///< of the tone curve: 0 none (what is beyond white is cut off), 1 strong
    float bloom = 0;              ///< share of the light that is scattered in the lens
    float grain = 0;              ///< 0 to 1
    std::string look = "painted"; ///< id of a row of pictureLooks()
    friend bool operator==(const Film &, const Film &) = default;
};

/// A camera with its lens, kept by name.
struct Shot {
    std::uint32_t id = 0;
    std::string name;
    Camera camera;       ///< its field of view is that of the lens
    float aperture = 0;  ///< f-number; 0: all is sharp
    float focus = 0;     ///< mm from the eye; 0: at the camera's target
    float aspect = 1.6f; ///< width over height
    friend bool operator==(const Shot &, const Shot &) = default;
};
inline constexpr float kFilmWidth = 36; ///< mm
/// Focal length in mm of a camera whose picture on the film is 36 mm wide.
float lensOf(const Camera &camera, float aspect);
/// The field of view, radians from the lower to the upper border, of such a lens.
float fieldOfViewOf(float lensMm, float aspect);

/// Words with a line to a place on the creature.
struct PlateMark {
    std::uint32_t id = 0;
    std::string text;
    Vec3f at;         ///< mm, at rest
    float radius = 0; ///< mm: what is enlarged in a circle; 0: words alone
    friend bool operator==(const PlateMark &, const PlateMark &) = default;
};

/// What a natural-history plate says of the creature.
struct Plate {
    std::string name, latin, caption; ///< the creature's own name goes for none
    std::string paper = "ivory";      ///< id of a row of platePapers()
    std::string beside = "none";      ///< id of a row of knownSizes()
    float lifeHeight = 0;             ///< mm that the animal stands high; 0: as the figure
    std::vector<PlateMark> marks;
    friend bool operator==(const Plate &, const Plate &) = default;
};

/// All that a portrait is made of beside the creature.
struct Stage {
    std::vector<Light> lights;
    Surroundings surroundings;
    Backdrop backdrop;
    Ground ground;
    Fog fog;
    Film film;
    std::vector<Shot> shots;
    Plate plate;
    Light *light(std::uint32_t id);
    const Shot *shot(std::uint32_t id) const;
    friend bool operator==(const Stage &, const Stage &) = default;
};

/// A kind of light with the part it plays; what a new one begins with.
struct LightRole {
    std::string_view id, title, hint;
    Light light; ///< lengths for a creature of 1 mm
};
std::span<const LightRole> lightRoles();
const LightRole *lightRole(std::string_view id);
/// A light of that role for a creature of that size (diagonal of its box, mm).
Light makeLight(const LightRole &role, float size);

/// Lights, surroundings, backdrop and ground that go together.
struct LightSet {
    std::string_view id, title, hint;
    Stage (*make)(float size); ///< lights without ids, for a creature of that size (diagonal of its box, mm)
};
std::span<const LightSet> lightSets();
const LightSet *lightSet(std::string_view id);

/// Linear light of a black body, its largest component 1 (M. Planck 1901, with the observer of CIE 1931 as fitted by C. Wyman, P. Sloan
/// & P. Shirley 2013). kelvin 1,000 to 40,000.
Vec3f blackBody(float kelvin);

} // namespace bonemoss::portrait
