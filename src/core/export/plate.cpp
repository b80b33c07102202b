// The pictures of a natural-history plate.
#include "export/plate.h"

#include "document/ops/portraits.h"
#include "document/ops/posing.h"
#include "export/shown_scene.h"
#include "portrait/filter.h"
#include "portrait/path_tracer.h"
#include "portrait/picture_look.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::exporting {

using namespace portrait;

namespace {

/// Where the views may stand on the page, mm.
struct Area {
    float x, y, width, height;
};
constexpr std::array<Area, 3> kAreas{{{14, 27, 174, 86}, {194, 27, 50, 86}, {14, 128, 164, 40}}};
constexpr float kMargin = 1.02f; ///< room about the creature in its picture

/// A camera without perspective that frames points; width and height in mm of what it sees.
struct Framed {
    Camera camera;
    float width = 0, height = 0;
};

Framed framedBy(Quat rotation, std::span<const Vec3f> points, float size)
{
    Framed out;
    out.camera.rotation = rotation, out.camera.isParallel = true;
    const Vec3f right = out.camera.right(), up = out.camera.up(), back = -out.camera.forward();
    Vec3f lo{1e30f, 1e30f, 1e30f}, hi{-1e30f, -1e30f, -1e30f};
    for (const Vec3f p : points) {
        const Vec3f q{dot(p, right), dot(p, up), dot(p, back)};
        lo = min(lo, q), hi = max(hi, q);
    }
    const Vec3f mid = (lo + hi) * 0.5f;
    out.camera.target = right * mid.x + up * mid.y + back * mid.z;
    out.camera.distance = 3 * size;
    out.width = std::max(1e-3f, (hi.x - lo.x) * kMargin), out.height = std::max(1e-3f, (hi.y - lo.y) * kMargin);
    out.camera.fieldOfView = 2 * std::atan(out.height / (2 * out.camera.distance));
    return out;
}

std::array<Quat, 3> viewsOf()
{
    const Quat side = *viewRotation("left");
    const Vec3f right = rotate(side, {1, 0, 0});
    return {side, *viewRotation("nose"), rotationLooking({0, 1, 0}, cross({0, 1, 0}, right))};
}

struct Seen {
    float x = 0, y = 0, depth = 0; ///< -1 to 1 from left to right and from bottom to top; mm
};
Seen seenBy(const Framed &f, Vec3f p)
{
    const Vec3f d = p - f.camera.target;
    return {2 * dot(d, f.camera.right()) / f.width, 2 * dot(d, f.camera.up()) / f.height,
            dot(p - f.camera.eye(), f.camera.forward())};
}

bool isVisibleIn(const Gathered &g, const Seen &s, float slack)
{
    const int x = int((s.x * 0.5f + 0.5f) * float(g.width)), y = int((0.5f - s.y * 0.5f) * float(g.height));
    for (int dy = -2; dy <= 2; ++dy)
        for (int dx = -2; dx <= 2; ++dx) {
            const int px = x + dx, py = y + dy;
            if (px < 0 || py < 0 || px >= g.width || py >= g.height)
                continue;
            const std::size_t i = std::size_t(py) * std::size_t(g.width) + std::size_t(px);
            if (g.cover[i] > 0 && std::abs(g.depth[i] / g.cover[i] - s.depth) < slack)
                return true;
        }
    return false;
}

} // namespace

std::vector<Vec3f> markPlaces(const document::Creature &rest, const document::Creature &posed)
{
    std::vector<Vec3f> out;
    for (const PlateMark &m : rest.stage.plate.marks) {
        float best = 1e30f;
        Vec3f at = m.at;
        for (std::size_t k = 0; k < rest.pieces.size() && k < posed.pieces.size(); ++k) {
            const document::Piece &piece = *rest.pieces[k];
            if (!isVisible(piece) || piece.skin.shown.isEmpty())
                continue;
            const auto hit = mesh::nearestPoint(piece.skin.shown, m.at);
            if (!hit || length(hit->point - m.at) >= best)
                continue;
            best = length(hit->point - m.at);
            const mesh::BlockFaces &block = piece.skin.shown.topology->block(hit->block);
            const std::uint16_t l = block.faces[hit->face].v[0];
            const std::uint32_t v =
                l < block.own ? std::uint32_t(hit->block * mesh::kBlockSize) + l : block.borrowed[l - block.own];
            const Vec3f was = piece.skin.shown.positions[v], is = posed.pieces[k]->skin.shown.positions[v];
            at = hit->point + (is - was);
        }
        out.push_back(at);
    }
    return out;
}

Result<PlateSheet> plateOf(const document::Creature &creature, const PlateOptions &options, const Progress &progress)
{
    const Plate &plate = creature.stage.plate;
    const document::Creature posed = document::posed(creature);
    const std::vector<Vec3f> places = markPlaces(creature, posed);
    io::Scene scene = pictureScene(posed);
    scene.leaveOut(creature.stage.ground.standsOn());
    const std::vector<Vec3f> points = scene.points();
    Stage stage = litStage(creature);
    stage.ground = {}, stage.ground.kind = "none", stage.fog = {}, stage.backdrop = {};
    stage.surroundings.isShown = false;
    Shot shot;
    auto tracer = PathTracer::make(std::move(scene), stage, shot);
    if (!tracer)
        return tracer.error();
    const float size = (*tracer)->box().diagonal();
    const std::array<Quat, 3> rotations = viewsOf();
    std::array<Framed, 3> framed;
    PlateSheet out;
    out.name = plate.name, out.latin = plate.latin, out.caption = plate.caption;
    out.paper = &platePaper(plate.paper), out.beside = &knownSize(plate.beside);
    float scale = 1e30f; // mm on the page for one of the figure's
    for (std::size_t v = 0; v < 3; ++v) {
        framed[v] = framedBy(rotations[v], points, size);
        scale = std::min({scale, kAreas[v].width / framed[v].width, kAreas[v].height / framed[v].height});
    }
    const float life = plate.lifeHeight > 0 ? plate.lifeHeight / (framed[0].height / kMargin) : 1;
    out.scale = scale / life;
    out.animalWidth = framed[0].width / kMargin * life, out.animalHeight = framed[0].height / kMargin * life;
    const int pictures =
        3 + int(std::count_if(plate.marks.begin(), plate.marks.end(), [](const auto &m) { return m.radius > 0; }));
    int made = 0;
    const auto take = [&](const Framed &f, float pageWidth, Gathered &g) -> Result<image::ColourPicture> {
        const int w = std::max(2, int(std::lround(pageWidth * options.dpi / 25.4f)));
        const int h = std::max(2, int(std::lround(float(w) * f.height / f.width)));
        Shot own;
        own.camera = f.camera, own.aspect = f.width / f.height;
        const auto by = (*tracer)->with(stage, own);
        if (!by)
            return by.error();
        if (const Status room = (*by)->hasRoom(w, h); !room)
            return room.error();
        g = (*by)->blank(w, h);
        const Progress part{progress.stop, [&](float share, std::string_view) {
                                progress.say((float(made) + share) / float(pictures), "plate");
                            }};
        if (!(*by)->gather(g, {.samples = options.samples, .seed = options.seed}, part))
            return Error{ErrorCode::Cancelled, "plate", "stopped on request"};
        ++made;
        return shownPicture(g, {}, filtered(g, FilterQuality::Full, {progress.stop, {}}), stage.film, true);
    };
    std::array<Gathered, 3> gathered;
    for (std::size_t v = 0; v < 3; ++v) {
        PlateView &view = out.views[v];
        view.width = framed[v].width * scale, view.height = framed[v].height * scale;
        view.corner = {kAreas[v].x + (kAreas[v].width - view.width) / 2,
                       kAreas[v].y + (kAreas[v].height - view.height) / (v == 2 ? 2 : 1)};
        auto picture = take(framed[v], view.width, gathered[v]);
        if (!picture)
            return picture.error();
        view.picture = std::move(*picture);
    }
    Film film; // the side once more, filled with ink
    film.look = "silhouette";
    out.silhouette = shownPicture(gathered[0], {}, {}, film, true);
    for (std::size_t k = 0; k < plate.marks.size(); ++k) {
        const PlateMark &m = plate.marks[k];
        std::size_t view = 0;
        for (std::size_t v = 3; v-- > 0;)
            if (isVisibleIn(gathered[v], seenBy(framed[v], places[k]), 0.02f * size + m.radius * 0.3f))
                view = v;
        const Seen s = seenBy(framed[view], places[k]);
        const PlateView &on = out.views[view];
        const PagePoint at{on.corner.x + (s.x * 0.5f + 0.5f) * on.width, on.corner.y + (0.5f - s.y * 0.5f) * on.height};
        if (m.radius <= 0) {
            out.labels.push_back({m.text, at, view});
            continue;
        }
        Framed near;
        near.camera = framed[view].camera, near.camera.target = places[k];
        near.width = near.height = 2 * m.radius;
        near.camera.fieldOfView = 2 * std::atan(m.radius / near.camera.distance);
        Gathered g;
        auto picture = take(near, 34, g);
        if (!picture)
            return picture.error();
        out.details.push_back({m.text, std::move(*picture), at, m.radius * scale, view});
    }
    return out;
}

} // namespace bonemoss::exporting
