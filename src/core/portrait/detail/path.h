#pragma once

// What the path tracer is made of, for its own files.
#include "portrait/backdrop.h"
#include "portrait/environment.h"
#include "portrait/grounds.h"
#include "portrait/lamps.h"
#include "portrait/path_tracer.h"
#include "portrait/picture_look.h"
#include "portrait/sampler.h"
#include "portrait/spot.h"

#include <algorithm>
#include <atomic>

namespace bonemoss::portrait {

inline constexpr std::size_t kMostLamps = 32;

/// What of the creature or its ground a ray meets.
struct Met : Meeting {
    bool isGround = false;
};

/// What one sample of a pixel found.
struct Found {
    std::array<Vec3f, kMostLamps + 2> light;
    std::size_t lights = 0;
    Vec3f albedo, normal;
    float depth = 0, facing = 0, open = 0, cover = 0, shade = 0;
    std::uint32_t object = kNone;
    bool hasFirst = false;

    void begin()
    {
        std::fill_n(light.begin(), lights, Vec3f{});
        albedo = normal = {};
        depth = facing = open = cover = shade = 0;
        object = kNone, hasFirst = false;
    }
};

struct PathTracer::Inside {
    std::shared_ptr<TracedScene> creature;     ///< several pictures share it
    std::shared_ptr<const TracedScene> ground; ///< null for none that is built
    const PictureLook *look = nullptr;
    Ground groundKind;
    Box3f box; ///< of the creature
    float size = 1, floorAt = -1e30f;
    std::vector<Lamp> lamps;
    std::vector<std::string> names;    ///< of lights
    std::vector<std::string> items;    ///< of objects
    std::vector<std::uint32_t> itemOf; ///< of each object of the creature, then of the ground
    Environment surroundings;
    BackdropView backdrop;
    Fog fog;
    Stage stage; ///< as it was given
    Shot shot;
    mesh::Ray ahead;                               ///< of the camera
    Vec3f across, up;                              ///< from the middle of its picture to a border, at a distance of 1
    float lensRadius = 0, focus = 0, clearAir = 0; ///< mm; clearAir: from the eye to where fog begins
    mutable std::atomic<std::uint64_t> rays{0};

    std::size_t surroundingsNumber() const { return lamps.size(); }
    std::size_t backdropNumber() const { return lamps.size() + 1; }
    void sample(float x, float y, Sampler &sampler, Found &out, std::uint64_t &cast) const;
    void addSamples(Gathered &g, std::size_t pixel, std::uint32_t x, std::uint32_t y, const Gathering &how,
                    std::uint64_t &cast) const;
    mesh::Ray rayThrough(float x, float y) const;

    struct Path {
        Sampler &sampler;
        Found &out;
        std::uint64_t &cast;
        mesh::Ray ray{};
        Vec3f share{1, 1, 1};
        float near = 0;
        int bounce = 0;
        bool isSeen = true;   ///< straight from the eye, or through what is clear: lamps are not seen
        bool isMirror = true; ///< nothing scattered it so far
        float density = 0;    ///< of the last direction, where lights were asked for as well; 0: they were not
        std::array<float, kMostLamps + 1> pick{}; ///< how likely each light was asked for there
    };
    void add(Path &path, std::size_t light, Vec3f radiance) const;
    void lampsAhead(Path &path, float far) const;
    void nothing(Path &path, float x, float y) const;
    bool throughClear(Path &path, float far) const;
    std::optional<Meeting> floorAhead(const mesh::Ray &ray, float far) const;
    std::optional<Met> meet(const mesh::Ray &ray, float far, float near) const;
    bool isBlocked(Vec3f from, Vec3f direction, float far, float near) const;
    template <typename Value, typename Density>
    void askLights(Path &path, Vec3f from, float near, const Value &value, const Density &density) const;
    void catchShadow(Path &path, const Meeting &m) const;
    bool scatterHair(Path &path, const Meeting &m, const Spot &spot) const;
    bool scatterSurface(Path &path, const Meeting &m, const Spot &spot) const;
    bool walkInside(Path &path, const Meeting &m, const Spot &spot, Meeting &out) const;
    void note(Path &path, const Meeting &m, const Spot &spot) const;
    float epsilon() const { return 2e-5f * size; }
};

} // namespace bonemoss::portrait
