#include "export/paint_plan.h"

#include "base/colour.h"
#include "base/parallel.h"
#include "colour/palette.h"
#include "export/shown_scene.h"
#include "portrait/camera.h"
#include "portrait/traced_scene.h"

#include <algorithm>

namespace bonemoss::exporting {

namespace {

constexpr Vec3f kClay{0.60f, 0.555f, 0.475f};       ///< linear light, of what has no colour
constexpr int kWide = 420, kHigh = 280, kSmall = 3; ///< pixels of a view, and how much smaller places are

Vec3f srgbOf(Vec3f linear)
{
    const auto one = [](float v) { return std::clamp(toSrgb(std::max(v, 0.0f)), 0.0f, 1.0f); };
    return {one(linear.x), one(linear.y), one(linear.z)};
}

/// Colours of all faces that are shown, with their areas; some of them where there are very many.
void gather(const io::Scene &scene, std::vector<Vec3f> &colours, std::vector<float> &areas)
{
    constexpr std::size_t kMost = 300000;
    std::size_t faces = 0;
    for (const io::Object &o : scene.objects)
        faces += scene.shapeOf(o).faceCount() * o.places.size();
    const std::size_t step = std::max<std::size_t>(1, faces / kMost);
    std::size_t k = 0;
    for (const io::Object &o : scene.objects) {
        const io::Shape &shape = scene.shapeOf(o);
        const io::Attribute *paint = shape.attribute(io::kColour);
        const Vec3f own = scene.materialOf(o).colour.value_or(kClay);
        for (const io::Placement &place : o.places)
            shape.eachTriangle([&](const std::array<Vec3f, 3> &p, const std::array<std::uint32_t, 3> &v) {
                if (k++ % step)
                    return;
                Vec3f c = own;
                if (paint && paint->domain == mesh::Domain::Vertex) {
                    Vec3f sum;
                    for (const std::uint32_t n : v)
                        sum += Vec3f{paint->values[n * paint->width], paint->values[n * paint->width + 1],
                                     paint->values[n * paint->width + 2]};
                    c = own * (sum * (1.0f / 3));
                }
                colours.push_back(srgbOf(c));
                areas.push_back(length(cross(place.apply(p[1]) - place.apply(p[0]), place.apply(p[2]) - place.apply(p[0]))));
            });
    }
}

/// What the pixels of a view meet: the number of the plan's colour, or none, and how squarely.
struct Seen {
    std::vector<int> colour;
    std::vector<float> light;
};
Seen seenFrom(const io::Scene &scene, const portrait::TracedScene &traced, std::string_view view,
              const std::vector<PlannedColour> &plan)
{
    portrait::Camera camera;
    camera.rotation = portrait::viewRotation(view).value_or(Quat{});
    camera.isParallel = true;
    camera = portrait::framing(camera, traced.box(), float(kWide) / kHigh);
    std::vector<colour::Oklab> wanted;
    for (const PlannedColour &c : plan)
        wanted.push_back(colour::toOklab(c.colour));
    Seen out{std::vector<int>(kWide * kHigh, -1), std::vector<float>(kWide * kHigh, 0)};
    forEachBlock(kHigh, 4, [&](BlockRange r) {
        for (std::size_t y = r.begin; y < r.end; ++y)
            for (std::size_t x = 0; x < kWide; ++x) {
                const mesh::Ray ray =
                    camera.rayThrough(2 * (float(x) + 0.5f) / kWide - 1, 1 - 2 * (float(y) + 0.5f) / kHigh, float(kWide) / kHigh);
                const auto met = traced.meet(ray);
                if (!met)
                    continue;
                const colour::Oklab is =
                    colour::toOklab(srgbOf(scene.materials[met->material].colour.value_or(kClay) * met->colour));
                float least = 1e9f;
                for (std::size_t k = 0; k < wanted.size(); ++k)
                    if (const float d = std::hypot(is.l - wanted[k].l, is.a - wanted[k].a, is.b - wanted[k].b); d < least)
                        least = d, out.colour[y * kWide + x] = int(k);
                const Vec3f key = normalized(camera.right() * -0.5f + camera.up() * 0.6f - camera.forward() * 0.6f);
                out.light[y * kWide + x] = 0.45f + 0.55f * std::max(0.0f, dot(met->normal, key));
            }
    });
    return out;
}

void put(image::ColourPicture &to, int x, int y, Vec3f c)
{
    const auto at = std::size_t(y * to.width + x) * 4;
    for (const auto &[k, v] : {std::pair{0, c.x}, std::pair{1, c.y}, std::pair{2, c.z}})
        to.rgba[at + std::size_t(k)] = std::uint8_t(std::lround(255 * std::clamp(v, 0.0f, 1.0f)));
    to.rgba[at + 3] = 255;
}
image::ColourPicture paper(int width, int height)
{
    image::ColourPicture out{width, height, {}};
    out.rgba.assign(std::size_t(width) * std::size_t(height) * 4, 255);
    return out;
}

} // namespace

Result<PaintPlan> paintPlanOf(const document::Creature &creature, std::string name, int colours,
                              std::vector<skin::PaletteColour> paints, const Progress &progress)
{
    PaintPlan plan{std::move(name), creature.heightMm, {}, std::move(paints), {}, {}};
    const io::Scene scene = colouredScene(creature);
    std::vector<Vec3f> found;
    std::vector<float> areas;
    progress.say(0.05f, "looking at the surface");
    gather(scene, found, areas);
    if (found.empty())
        return Error{ErrorCode::Empty, plan.name, "there is nothing shown to plan for"};
    for (const colour::Found &f : colour::coloursIn(found, areas, colours))
        if (f.share >= 0.002f || plan.colours.empty())
            plan.colours.push_back({f.colour, f.share, {}});
    for (std::size_t k = 0; k < plan.colours.size(); ++k) {
        if (progress.isCancelled())
            return Error{ErrorCode::Cancelled, plan.name, "no plan was made"};
        progress.say(0.1f + 0.4f * float(k) / float(plan.colours.size()), "finding mixes");
        plan.colours[k].mix = colour::bestMix(plan.colours[k].colour, plan.paints);
    }
    const portrait::TracedScene traced(scene);
    const auto &views = portrait::anatomicalViews();
    constexpr int kw = kWide / kSmall, kh = kHigh / kSmall;
    for (std::size_t k = 0; k < plan.colours.size(); ++k)
        plan.places.push_back(paper(kw * int(views.size()), kh));
    for (std::size_t v = 0; v < views.size(); ++v) {
        if (progress.isCancelled())
            return Error{ErrorCode::Cancelled, plan.name, "no plan was made"};
        progress.say(0.5f + 0.5f * float(v) / float(views.size()), "drawing views");
        const Seen seen = seenFrom(scene, traced, views[v].key, plan.colours);
        image::ColourPicture whole = paper(kWide, kHigh);
        for (int y = 0; y < kHigh; ++y)
            for (int x = 0; x < kWide; ++x)
                if (const int c = seen.colour[std::size_t(y * kWide + x)]; c >= 0) {
                    const float light = 0.5f + 0.5f * seen.light[std::size_t(y * kWide + x)];
                    put(whole, x, y, plan.colours[std::size_t(c)].colour * light);
                }
        for (std::size_t k = 0; k < plan.colours.size(); ++k)
            for (int y = 0; y < kh; ++y)
                for (int x = 0; x < kw; ++x) { // the mean of the points it stands for
                    Vec3f sum;
                    for (int j = 0; j < kSmall; ++j)
                        for (int i = 0; i < kSmall; ++i) {
                            const auto at = std::size_t((y * kSmall + j) * kWide + x * kSmall + i);
                            const float light = seen.light[at];
                            const Vec3f grey{0.93f, 0.92f, 0.90f};
                            sum += seen.colour[at] < 0         ? Vec3f{1, 1, 1}
                                   : seen.colour[at] == int(k) ? Vec3f{0.66f, 0.27f, 0.18f} * (0.55f + 0.45f * light)
                                                               : grey * (0.72f + 0.28f * light);
                        }
                    put(plan.places[k], int(v) * kw + x, y, sum * (1.0f / (kSmall * kSmall)));
                }
        plan.views.push_back(std::move(whole));
    }
    return plan;
}

} // namespace bonemoss::exporting
