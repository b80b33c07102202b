#include "portrait/grounds.h"

#include "base/noise.h"
#include "base/random.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace bonemoss::portrait {

namespace {

/// Land about the middle of a box, finer near it: height(x, z) in mm above y and colour(place, x, z).
template <typename Height, typename Colour>
void addLand(io::Scene &scene, const Box3f &box, float y, float reach, const FinishValues &finish, const Height &height,
             const Colour &colour)
{
    constexpr int kRings = 260, kRound = 384;
    const Vec3f middle = box.centre();
    mesh::PolyMesh land;
    io::Attribute colours{std::string(io::kColour), mesh::Domain::Vertex, 3, {}},
        finishes{std::string(io::kFinish), mesh::Domain::Vertex, kFinishes, {}};
    const auto add = [&](float x, float z) {
        const Vec3f p{middle.x + x, y + height(x, z), middle.z + z}, c = max(Vec3f{}, colour(p, x, z));
        land.positions.push_back(p);
        colours.values.insert(colours.values.end(), {c.x, c.y, c.z});
        finishes.values.insert(finishes.values.end(), finish.begin(), finish.end());
    };
    add(0, 0);
    const float first = 0.01f * reach / 40, grow = std::pow(reach / first, 1.0f / (kRings - 1));
    for (int r = 0; r < kRings; ++r)
        for (int k = 0; k < kRound; ++k) {
            const float radius = first * std::pow(grow, float(r)), a = 2 * kPi * float(k) / kRound;
            add(radius * std::sin(a), radius * std::cos(a));
        }
    const auto at = [](int r, int k) { return std::uint32_t(1 + r * kRound + (k + kRound) % kRound); };
    for (int k = 0; k < kRound; ++k)
        land.faces.push_back({{0, at(0, k), at(0, k + 1), kNone}});
    for (int r = 0; r + 1 < kRings; ++r)
        for (int k = 0; k < kRound; ++k)
            land.faces.push_back({{at(r, k), at(r + 1, k), at(r + 1, k + 1), at(r, k + 1)}});
    io::Shape shape("Ground", std::move(land));
    shape.attributes = {std::move(colours), std::move(finishes)};
    scene.add(std::move(shape), {.name = "Ground", .colour = Vec3f{1, 1, 1}});
}

/// Noise of several wavelengths, each half as long and half as high; about -1 to 1.
float layered(Vec3f p, float wavelength, int layers, std::uint64_t seed)
{
    float sum = 0, share = 0.5f;
    for (int k = 0; k < layers; ++k, wavelength /= 2, share /= 2)
        sum += share * noiseAt(p, wavelength, seed + std::uint64_t(k));
    return 1.6f * sum;
}

float sizeOf(const Box3f &box)
{
    return std::max(box.diagonal(), 1.0f);
}
/// 0 where the creature stands, 1 away from it.
float away(const Box3f &box, float x, float z)
{
    const Vec3f half = box.size() * 0.5f;
    const float d = std::sqrt(x * x / (half.x * half.x + 1) + z * z / (half.z * half.z + 1));
    const float t = std::clamp((d - 1) / 1.5f, 0.0f, 1.0f);
    return t * t * (3 - 2 * t);
}

/// Blades of grass about a root, and stalks that lean.
mesh::Curves tuft(std::uint64_t seed, float size)
{
    mesh::Curves out;
    for (std::uint64_t b = 0; b < 14; ++b) {
        const float a = 2 * kPi * randomUnit(seed, b * 8), lean = 0.25f + 0.6f * randomUnit(seed, b * 8 + 1),
                    tall = size * (0.5f + 0.7f * randomUnit(seed, b * 8 + 2)), off = 0.25f * size * randomUnit(seed, b * 8 + 3);
        const Vec3f side{std::sin(a), 0, std::cos(a)};
        out.starts.push_back(std::uint32_t(out.points.size()));
        for (int k = 0; k < 4; ++k) {
            const float t = float(k) / 3;
            out.points.push_back(side * (off + lean * tall * t * t) + Vec3f{0, tall * (t - 0.18f * lean * t * t), 0});
            out.radii.push_back(size * 0.022f * (1 - 0.85f * t));
        }
    }
    return out;
}

void turf(io::Scene &scene, const Ground &g, const Box3f &box, float y)
{
    const float s = sizeOf(box);
    const Vec3f green = g.colour.value_or(Vec3f{0.085f, 0.10f, 0.032f}), dry{0.19f, 0.145f, 0.065f}, earth{0.055f, 0.04f, 0.028f};
    const auto height = [&](float x, float z) {
        const Vec3f p{x, 0, z};
        return s * (0.10f * away(box, x, z) * layered(p, 2.2f * s, 4, g.seed) + 0.0035f * layered(p, 0.05f * s, 3, g.seed + 20))
               - 0.003f * s;
    };
    const auto mix = [&](Vec3f p) {
        const float t = std::clamp(0.45f + 0.6f * layered(p, 0.6f * s, 4, g.seed + 40), 0.0f, 1.0f);
        return lerp(green, dry, t);
    };
    addLand(scene, box, y, 40 * s, {0.05f, 0, 0, 0, 0}, height, [&](Vec3f p, float, float) {
        const float t = std::clamp(0.5f + 0.7f * layered(p, 0.12f * s, 3, g.seed + 60), 0.0f, 1.0f);
        return lerp(earth, mix(p), 0.35f + 0.5f * t);
    });
    for (std::uint64_t kind = 0; kind < 3; ++kind) {
        io::Shape shape("Grass", mesh::PolyMesh{});
        shape.curves = std::make_shared<const mesh::Curves>(tuft(g.seed * 31 + kind, s * 0.05f));
        io::Object grass{"Grass", scene.shapes.size(), scene.materials.size(), {}, {}, {}};
        scene.shapes.push_back(std::move(shape));
        scene.materials.push_back({.name = "Grass", .colour = Vec3f{1, 1, 1}});
        const std::uint64_t count = 3400;
        for (std::uint64_t k = 0; k < count; ++k) { // thinner with distance
            const std::uint64_t n = (kind * count + k) * 6;
            const float far = randomUnit(g.seed + 7, n), radius = s * (0.05f + 3.2f * far * std::sqrt(far)),
                        a = 2 * kPi * randomUnit(g.seed + 7, n + 1);
            const float x = radius * std::sin(a), z = radius * std::cos(a);
            const Vec3f p{box.centre().x + x, y + height(x, z) - 0.001f * s, box.centre().z + z};
            if (layered(p, 0.35f * s, 3, g.seed + 90) < -0.15f)
                continue; // bare places
            const float turn = 2 * kPi * randomUnit(g.seed + 7, n + 2), near = 0.35f + 0.65f * away(box, x * 1.1f, z * 1.1f),
                        size = near * (0.55f + 0.7f * randomUnit(g.seed + 7, n + 3));
            const float c = size * std::cos(turn), d = size * std::sin(turn);
            grass.places.push_back({{c, 0, -d, 0, size, 0, d, 0, c, p.x, p.y, p.z}});
            grass.tints.push_back(mix(p) * (1.5f + 0.9f * randomUnit(g.seed + 7, n + 4)));
        }
        if (!grass.places.empty())
            scene.objects.push_back(std::move(grass));
    }
}

void rock(io::Scene &scene, const Ground &g, const Box3f &box, float y)
{
    const float s = sizeOf(box);
    const Vec3f stone = g.colour.value_or(Vec3f{0.16f, 0.15f, 0.14f});
    const auto cracks = [&](float x, float z) { // ridged noise: cracks where it changes sign
        return std::abs(layered({x, 0, z}, 0.9f * s, 3, g.seed)) * std::abs(layered({x, 0, z}, 0.5f * s, 2, g.seed + 5));
    };
    const auto height = [&](float x, float z) {
        const float c = std::clamp(cracks(x, z) / 0.02f, 0.0f, 1.0f);
        return s
               * (0.004f * layered({x, 0, z}, 0.06f * s, 5, g.seed + 9) + 0.012f * (std::sqrt(c) - 1)
                  + 0.16f * away(box, x, z) * layered({x, 0, z}, 3 * s, 5, g.seed + 12));
    };
    addLand(scene, box, y, 40 * s, {0.18f, 0, 0, 0, 0}, height, [&](Vec3f p, float x, float z) {
        const float c = std::clamp(cracks(x, z) / 0.03f, 0.0f, 1.0f);
        const float lichen = std::clamp(3 * layered(p, 0.2f * s, 4, g.seed + 30) - 0.8f, 0.0f, 1.0f);
        return lerp(stone * (0.45f + 0.55f * c) * (1 + 0.35f * layered(p, 0.08f * s, 4, g.seed + 31)), {0.20f, 0.20f, 0.12f},
                    0.6f * lichen);
    });
}

void water(io::Scene &scene, const Ground &g, const Box3f &box, float y)
{
    const float s = sizeOf(box);
    const Vec3f mud = g.colour.value_or(Vec3f{0.075f, 0.062f, 0.05f});
    const auto height = [&](float x, float z) { // the shore runs past the creature's near side
        const float in =
            std::clamp((x + 0.35f * z + 0.25f * s * layered({x, 0, z}, 1.3f * s, 3, g.seed)) / s - 0.05f, -1.0f, 1.0f);
        return s
               * (-0.035f * std::max(0.0f, in) + 0.05f * std::max(0.0f, -in) * away(box, x, z)
                  + 0.005f * layered({x, 0, z}, 0.09f * s, 5, g.seed + 2));
    };
    addLand(scene, box, y, 40 * s, {0.35f, 0, 0.55f, 0, 0}, height,
            [&](Vec3f p, float, float) { return mud * (1 + 0.5f * layered(p, 0.15f * s, 4, g.seed + 3)); });
    addLand(
        scene, box, y - 0.008f * s, 40 * s, {1, 0, 1, 0, 0},
        [&](float x, float z) {
            return 0.0007f * s * layered({x, 0, z * 0.6f}, 0.12f * s, 3, g.seed + 8);
        },
        [](Vec3f, float, float) {
            return Vec3f{0.012f, 0.016f, 0.017f};
        });
}

/// A turned profile: pairs of radius and height.
void addTurned(io::Scene &scene, const Box3f &box, std::span<const std::array<float, 2>> profile, Vec3f colour, float stretch)
{
    constexpr int kRound = 180;
    mesh::PolyMesh out;
    for (const auto &[r, h] : profile)
        for (int k = 0; k < kRound; ++k) {
            const float a = 2 * kPi * float(k) / kRound;
            out.positions.push_back({box.centre().x + r * std::sin(a), h, box.centre().z + stretch * r * std::cos(a)});
        }
    for (std::size_t p = 0; p + 1 < profile.size(); ++p)
        for (int k = 0; k < kRound; ++k) {
            const auto at = [&](std::size_t row, int i) { return std::uint32_t(row * kRound + std::size_t(i % kRound)); };
            out.faces.push_back({{at(p, k), at(p, k + 1), at(p + 1, k + 1), at(p + 1, k)}});
        }
    io::Shape shape("Pedestal", std::move(out));
    scene.add(std::move(shape), {.name = "Pedestal", .colour = colour, .finish = {0.45f}});
}

void pedestal(io::Scene &scene, const Ground &g, const Box3f &box, float y)
{
    const float s = sizeOf(box), rx = 0.62f * std::max(box.size().x, 0.3f * box.size().z), rz = 0.56f * box.size().z + 0.02f * s;
    std::vector<std::array<float, 2>> profile; // from the foot up, to the middle of the top
    const auto add = [&](float out, float down) { profile.push_back({std::max(0.0f, rx + out * s), y - down * s}); };
    add(0.045f, 0.10f), add(0.045f, 0.0999f), add(0.045f, 0.082f), add(0.0449f, 0.0819f);
    for (int k = 0; k <= 8; ++k) { // a hollow
        const float a = float(k) / 8 * kPi / 2;
        add(0.043f - 0.033f * std::sin(a), 0.080f - 0.045f * (1 - std::cos(a)));
    }
    add(0.012f, 0.0340f), add(0.012f, 0.0339f), add(0.012f, 0.006f);
    for (int k = 0; k <= 6; ++k) { // a round edge
        const float a = float(k) / 6 * kPi / 2;
        add(0.006f + 0.006f * std::cos(a), 0.006f - 0.006f * std::sin(a));
    }
    profile.push_back({0.9f * rx, y}), profile.push_back({0.01f, y}), profile.push_back({0, y});
    addTurned(scene, box, profile, g.colour.value_or(Vec3f{0.10f, 0.062f, 0.038f}), rz / std::max(rx, 1e-3f));
}

} // namespace

std::span<const GroundKind> groundKinds()
{
    static const std::array<GroundKind, 7> kinds{{
        {"none", "None", "Nothing: it floats before the backdrop"},
        {"floor", "Floor", "Its shadow alone, on the colour of the backdrop", nullptr, 0},
        {"turf", "Turf", "Grass and earth", turf},
        {"rock", "Rock", "Cracked stone with lichen", rock},
        {"water", "Water edge", "Wet mud at the edge of still water", water},
        {"pedestal", "Pedestal", "Turned wood on a floor", pedestal, 0.1f},
        {"piece", "A piece", "A piece of the creature that it stands on: views and lights leave it out"},
    }};
    return kinds;
}

const GroundKind &groundKind(std::string_view id)
{
    const auto kinds = groundKinds();
    const auto at = std::find_if(kinds.begin(), kinds.end(), [&](const GroundKind &k) { return k.id == id; });
    return at == kinds.end() ? kinds.front() : *at;
}

} // namespace bonemoss::portrait
