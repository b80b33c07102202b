#include "app/hand/tool_picture.h"

#include "command/stroke_command.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

namespace {

constexpr int kAlong = 100, kAcross = 17;
constexpr float kCell = 0.5f; // mm

/// A strip of skin in the plane y = 0 that a tool has something to do with.
mesh::PolyMesh stripFor(sculpt::Tool tool)
{
    const auto height = [tool](float x) {
        switch (tool) {
        case sculpt::Tool::Smooth: return 1.1f * std::sin(x * 1.1f);
        case sculpt::Tool::Restore: return 3.2f * std::sin(x * 0.8f) * std::sin(x * 0.8f);
        case sculpt::Tool::Pinch: return 2.4f * std::max(0.0f, 1 - std::abs(std::remainder(x, 7.0f)) / 1.6f); // four marks
        case sculpt::Tool::Plane: return 7 * std::exp(-x * x / 60);
        default: return 0.0f;
        }
    };
    mesh::PolyMesh m;
    for (int j = 0; j <= kAcross; ++j)
        for (int i = 0; i <= kAlong; ++i) {
            float x = (float(i) - kAlong / 2.0f) * kCell;
            if (tool == sculpt::Tool::Relax)
                x += kCell * 1.2f * std::sin(float(i) * 0.7f);
            m.positions.push_back({x, height(x), (float(j) - kAcross / 2.0f) * kCell});
        }
    for (int j = 0; j < kAcross; ++j)
        for (int i = 0; i < kAlong; ++i) {
            const auto at = [&](int a, int b) { return std::uint32_t(b * (kAlong + 1) + a); };
            m.faces.push_back({{at(i, j), at(i, j + 1), at(i + 1, j + 1), at(i + 1, j)}});
        }
    return m;
}

/// A cut through a sheet under a tool that changes its faces: a bead where the cut meets an edge afterwards.
QPainterPath facesPicture(sculpt::Tool tool)
{
    const bool isFiner = tool == sculpt::Tool::Denser;
    const int across = isFiner ? 5 : 14, up = 6;
    const float cell = 92.0f / float(across); // the picture is 100 wide
    mesh::PolyMesh sheet;
    for (int j = 0; j <= up; ++j)
        for (int i = 0; i <= across; ++i)
            sheet.positions.push_back({(float(i) - float(across) / 2) * cell, 0, (float(j) - float(up) / 2) * cell});
    for (int j = 0; j < up; ++j)
        for (int i = 0; i < across; ++i) {
            const auto at = [&](int a, int b) { return std::uint32_t(b * (across + 1) + a); };
            sheet.faces.push_back({{at(i, j), at(i, j + 1), at(i + 1, j + 1), at(i + 1, j)}});
        }
    skin::Skin skin = skin::makeSkin(sheet, false);
    sculpt::StrokeSettings settings;
    settings.tool = tool;
    settings.size = 34;
    settings.isMirrored = false;
    settings.edge = (isFiner ? 7.5f : 22.0f) / settings.size;
    document::LiveStroke live(skin, settings, 0);
    live.add({{0, 0, 0}, {}, 1, 0});
    (void)live.finish(skin);
    std::vector<float> beads{-46, 46};
    const mesh::PolyMesh m = toPolyMesh(skin.shown);
    for (const mesh::Face &f : m.faces)
        for (std::size_t c = 0, n = std::size_t(f.size()); c < n; ++c) {
            const Vec3f a = m.positions[f.v[c]], b = m.positions[f.v[(c + 1) % n]];
            if ((a.z < 0.1f) != (b.z < 0.1f))
                beads.push_back(a.x + (b.x - a.x) * (0.1f - a.z) / (b.z - a.z));
        }
    std::sort(beads.begin(), beads.end());
    QPainterPath path;
    path.moveTo(4, 20);
    path.lineTo(96, 20);
    float last = -100;
    for (const float x : beads)
        if (x - last > 2.5f) { // an edge is met from both its faces
            path.addEllipse(QPointF(50 + double(x), 20), 2.2, 2.2);
            last = x;
        }
    return path;
}

/// Tools that mix what lies on the skin move none of it: they have a sign.
QPainterPath mixingPicture(sculpt::Tool tool)
{
    QPainterPath path;
    if (tool == sculpt::Tool::Spray) { // dots of several sizes
        constexpr double kDots[][3] = {{20, 24, 2.2}, {31, 12, 3.4}, {38, 29, 4.6}, {47, 17, 2},   {55, 26, 3},
                                       {61, 10, 4.2}, {69, 21, 2.4}, {77, 31, 3.6}, {82, 14, 1.8}, {27, 33, 1.6}};
        for (const auto &d : kDots)
            path.addEllipse(QPointF(d[0], d[1]), d[2], d[2]);
    } else if (tool == sculpt::Tool::Smear) { // a border that is dragged along
        for (int k = 0; k < 3; ++k) {
            const double y = 10 + 10 * k;
            path.moveTo(14, y);
            path.cubicTo(34, y, 40, y + (k - 1) * 2, 52 + 14 * (k % 2), y);
            path.lineTo(84 - 10 * (k % 2), y);
        }
        path.addEllipse(QPointF(30, 20), 12, 12);
    } else { // a step that becomes a slope
        path.moveTo(10, 32);
        path.lineTo(46, 32);
        path.lineTo(46, 8);
        path.lineTo(90, 8);
        path.moveTo(18, 32);
        path.cubicTo(52, 32, 40, 8, 76, 8);
    }
    return path;
}

} // namespace

QPainterPath toolPicture(sculpt::Tool tool)
{
    if (mixes(tool))
        return mixingPicture(tool);
    if (tool == sculpt::Tool::Denser || tool == sculpt::Tool::Sparser)
        return facesPicture(tool);
    using sculpt::Tool;
    mesh::Surface s = mesh::makeSurface(stripFor(tool));
    mesh::BlockArray<std::uint8_t> mask(s.positions.size());
    sculpt::StrokeSettings settings;
    settings.tool = tool;
    settings.size = tool == Tool::Smooth || tool == Tool::Pinch ? 14 : tool == Tool::Twist ? 16 : tool == Tool::Knead ? 7 : 11;
    settings.strength = tool == Tool::Slab || tool == Tool::Twist || tool == Tool::Relax ? 1 : 0.5f;
    settings.isMirrored = false;
    settings.stamp = "scales";
    settings.depth = 5;
    const bool isFlatTopped = tool == Tool::Mask || tool == Tool::Stamp || tool == Tool::Daub || tool == Tool::Slab
                              || tool == Tool::Gouge || tool == Tool::Plane;
    settings.falloff = isFlatTopped ? sculpt::Falloff::Plateau : sculpt::Falloff::Dome;
    sculpt::StrokeNeeds needs;
    needs.evenOut = [](const sculpt::DabSet &) { return std::vector<std::uint32_t>(); };
    if (tool == Tool::Restore) {
        std::vector<Vec3f> layer = s.positions.flatten();
        for (Vec3f &v : layer)
            v = {0, v.y, 0};
        needs.layer = mesh::BlockArray<Vec3f>(layer);
        needs.layerStrength = 1;
    }
    sculpt::Stroke stroke(s, mask, settings, needs);
    const auto add = [&](float x, float y, float z) { stroke.add({{x, y, z}, {}, 1, 0}); };
    if (tool == Tool::Tendril) {
        for (int k = 0; k < 12; ++k)
            add(0.5f * float(k), 1.6f * float(k), 0);
    } else if (tool == Tool::Tug || tool == Tool::Knead) {
        add(0, 0, 0);
        add(9, 9, 0);
    } else if (tool == Tool::Twist) {
        add(0, 0, 0);
        for (int k = 0; k <= 12; ++k)
            add(6 * std::cos(float(k) * 0.1f), 0, -6 * std::sin(float(k) * 0.1f));
    } else { // across the strip, so that the section cuts the stroke
        for (int pass = 0; pass < 3; ++pass)
            for (int k = -4; k <= 4; ++k)
                add(0, s.positions[std::size_t(kAcross / 2) * (kAlong + 1) + kAlong / 2].y, float(pass % 2 ? -k : k));
    }
    QPainterPath path;
    const auto row = std::size_t(kAcross / 2) * (kAlong + 1);
    // A twist is seen from above, all else cut through; of masks and colour how much is laid on.
    const auto height = [&](std::size_t v) {
        return tool == Tool::Twist ? -double(s.positions[v].z)
               : marks(tool)       ? double(mask[v]) / 255 * (tool == Tool::Wipe ? -6 : 6)
                                   : double(s.positions[v].y);
    };
    double largest = 1e-3;
    for (std::size_t i = 0; i <= kAlong; ++i)
        largest = std::max(largest, std::abs(height(row + i)));
    double fit = 21 / largest;
    if (tool == Tool::Smooth)
        fit = 8 / 1.1;
    else if (marks(tool) || tool == Tool::Plane || tool == Tool::Pinch || tool == Tool::Restore)
        fit = tool == Tool::Pinch ? 5 : 3;
    for (std::size_t i = 0; i <= kAlong; ++i) {
        const double y = height(row + i);
        const QPointF at(50 + double(s.positions[row + i].x) * 2, 28
                                                                      - y * fit
                                                                            * (y < 0 && tool == Tool::Crease  ? 0.55
                                                                               : y < 0 && tool == Tool::Gouge ? 0.5
                                                                                                              : 1.0));
        i == 0 ? path.moveTo(at) : path.lineTo(at);
    }
    if (tool == Tool::Relax) // the ends of the edges that the cut passes
        for (std::size_t i = 5; i < kAlong; i += 9)
            path.addEllipse(QPointF(50 + double(s.positions[row + i].x) * 2, 28), 2.6, 2.6);
    return path;
}

namespace {

/// Tiles that stand for no shape have a sign; empty for the others.
QPainterPath signOf(FormTile tile)
{
    QPainterPath path;
    if (tile == FormTile::Choose) { // a ring about a point: the thing chosen
        path.addEllipse(QPointF(50, 20), 17, 17);
        path.addEllipse(QPointF(50, 20), 4, 4);
        return path;
    }
    if (tile == FormTile::Cage) { // a box of few faces, one drawn out
        path.addPolygon(QPolygonF({{30, 14}, {54, 8}, {76, 14}, {52, 21}, {30, 14}}));
        path.addPolygon(QPolygonF({{30, 14}, {30, 30}, {52, 38}, {52, 21}, {30, 14}}));
        path.addPolygon(QPolygonF({{52, 38}, {76, 30}, {76, 14}, {52, 21}, {52, 38}}));
        path.moveTo(64, 17.5);
        path.lineTo(64, 34);
        return path;
    }
    if (tile == FormTile::Part) { // a paw's print: what comes ready
        path.addEllipse(QPointF(50, 27), 13, 9);
        for (const QPointF toe : {QPointF(32, 17), QPointF(44, 9), QPointF(57, 9), QPointF(69, 17)})
            path.addEllipse(toe, 5, 6);
        return path;
    }
    if (tile == FormTile::Tape) { // a band with its marks
        path.addRoundedRect(QRectF(12, 12, 76, 16), 3, 3);
        for (int k = 1; k < 8; ++k) {
            path.moveTo(12 + k * 9.5, 12);
            path.lineTo(12 + k * 9.5, k % 2 ? 18 : 22);
        }
        return path;
    }
    if (tile == FormTile::Torus) { // a ring seen half from above
        path.addEllipse(QPointF(50, 20), 27, 16);
        path.addEllipse(QPointF(50, 19), 12, 5);
        return path;
    }
    return path;
}

/// A form as its tile shows it, lying along z.
armature::Form modelOf(FormTile tile)
{
    armature::Form f;
    f.kind = armature::FormKind(int(tile) - 1);
    f.rounding = 5;
    switch (tile) {
    case FormTile::Ball:
    case FormTile::Blob: f.radii = {18, 18, 18}; break;
    case FormTile::Block: f.radii = {15, 15, 26}; break;
    case FormTile::Wedge: f.radii = {14, 15, 28}; break;
    case FormTile::Disc: f.radii = {30, 6, 0}; break;
    case FormTile::Body:
        f.sides[0] = {{0, -2, -38}, {0, 8, -20}, {0, 2, 4}, {0, 14, 20}, {0, 4, 36}};
        f.sides[1] = {{0, -4, -38}, {0, -8, -14}, {0, -12, 12}, {0, -2, 36}};
        break;
    default: f.radii = {14, 14, 30};
    }
    if (tile == FormTile::Tube)
        f.path = {{{0, -6, -34}, 9}, {{0, 10, -12}, 8}, {{0, -8, 14}, 6}, {{0, 10, 36}, 3}};
    else if (tile == FormTile::Cylinder)
        f.path = {{{0, 0, -28}, 12}, {{0, 0, 28}, 16}};
    else if (tile == FormTile::Turned) { // a vase lying down
        f.path = {{{0, -34, 0}, 9}, {{0, -16, 0}, 16}, {{0, 6, 0}, 12}, {{0, 18, 0}, 5}, {{0, 32, 0}, 9}};
        f.place.rotation = fromEulerDeg({90, 0, 0});
    } else
        f.path = {{{0, 0, -24}, tile == FormTile::Cone ? 16.0f : 15.0f}, {{0, 0, 30}, tile == FormTile::Cone ? 0.0f : 8.0f}};
    if (tile == FormTile::Blob) { // about to melt into a neighbour
        f.kind = armature::FormKind::Limb;
        f.path = {{{0, 0, -12}, 17}, {{0, 2, 18}, 10}};
    }
    return f;
}

} // namespace

QPainterPath formPicture(FormTile tile)
{
    QPainterPath path = signOf(tile);
    if (!path.isEmpty())
        return path;
    const armature::Form f = modelOf(tile);
    // The outline as a stack of spans: leftmost and rightmost point in each column.
    const mesh::PolyMesh m = tessellate(f, f.place);
    std::array<double, 81> low, high;
    low.fill(1e9), high.fill(-1e9);
    for (const mesh::Face &face : m.faces)
        for (int c = 0; c < face.size(); ++c) {
            const Vec3f a = m.positions[face.v[std::size_t(c)]], b = m.positions[face.v[std::size_t((c + 1) % face.size())]];
            const int steps = 2 + int(length(b - a)); // every column that the edge passes
            for (int k = 0; k <= steps; ++k) {
                const Vec3f p = lerp(a, b, float(k) / float(steps));
                const auto column = std::size_t(std::clamp(int(std::lround(p.z + 40)), 0, 80));
                low[column] = std::min(low[column], double(p.y));
                high[column] = std::max(high[column], double(p.y));
            }
        }
    bool started = false;
    for (std::size_t k = 0; k < low.size(); ++k)
        if (high[k] > -1e8) {
            const QPointF at(10 + double(k), 20 - high[k]);
            started ? path.lineTo(at) : path.moveTo(at);
            started = true;
        }
    for (std::size_t k = low.size(); k-- > 0;)
        if (high[k] > -1e8)
            path.lineTo(QPointF(10 + double(k), 20 - low[k]));
    path.closeSubpath();
    return path;
}

} // namespace bonemoss::app
