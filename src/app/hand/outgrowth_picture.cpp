#include "app/hand/outgrowth_picture.h"

#include "app/theme/theme.h"
#include "base/parallel.h"
#include "outgrowth/specimen.h"

#include <QHash>

#include <algorithm>
#include <limits>

namespace bonemoss::app {

namespace {

using outgrowth::Outgrowth;

constexpr int kFiner = 2; ///< points a side for each that is shown

/// What is drawn: corners on the picture's plane (x to the right, y up, z towards the viewer) with their normals.
struct Triangles {
    std::vector<Vec3f> at, normal;
    Box3f box;
};

/// From the left side of the creature, a little from the front and above.
Vec3f seen(Vec3f p)
{
    const float c = std::cos(0.42f), s = std::sin(0.42f), tc = std::cos(0.22f), ts = std::sin(0.22f);
    const Vec3f turned{-p.z * c + p.x * s, p.y, p.x * c + p.z * s};
    return {turned.x, turned.y * tc - turned.z * ts, turned.z * tc + turned.y * ts};
}

void add(Triangles &out, const mesh::Surface &surface, const io::Placement &place)
{
    const Vec3f zero = place.apply({});
    for (std::size_t b = 0; b < surface.topology->blockCount(); ++b)
        for (std::size_t i = 0; i < surface.topology->block(b).drawnFaces; ++i) {
            const mesh::Face f = surface.topology->faceOf(b, i);
            const auto corner = [&](int k) {
                const std::uint32_t v = f.v[std::size_t(k)];
                const Vec3f n = place.apply(surface.normals[v].unpack()) - zero;
                out.at.push_back(seen(place.apply(surface.positions[v])));
                out.normal.push_back(normalized(seen(n)));
                out.box.add(out.at.back());
            };
            for (int k = 2; k < f.size(); ++k)
                corner(0), corner(k - 1), corner(k);
        }
}

QRgb shade(Vec3f n, bool isGround)
{
    const float lit = 0.32f + 0.80f * std::max(0.0f, dot(n, normalized(Vec3f{-0.55f, 0.65f, 0.55f})))
                      + 0.10f * std::max(0.0f, dot(n, normalized(Vec3f{0.8f, 0.1f, -0.3f})));
    const QColor paper = theme().isDark ? QColor(214, 204, 186) : QColor(226, 216, 198);
    const auto tone = [&](int of) { return std::clamp(int(float(of) * lit * (isGround ? 0.66f : 1.0f)), 0, 255); };
    return qRgb(tone(paper.red()), tone(paper.green()), tone(paper.blue()));
}

void fill(const Triangles &t, QImage &image, std::vector<float> &depth, float scale, Vec3f middle, bool isGround)
{
    const int wide = image.width(), high = image.height();
    const auto pixel = [&](Vec3f p) {
        return Vec3f{float(wide) / 2 + (p.x - middle.x) * scale, float(high) / 2 - (p.y - middle.y) * scale, p.z};
    };
    for (std::size_t k = 0; k + 2 < t.at.size(); k += 3) {
        const Vec3f a = pixel(t.at[k]), b = pixel(t.at[k + 1]), c = pixel(t.at[k + 2]);
        const float area = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
        if (std::abs(area) < 1e-9f)
            continue;
        const int x0 = std::max(0, int(std::min({a.x, b.x, c.x}))), x1 = std::min(wide - 1, int(std::max({a.x, b.x, c.x})) + 1);
        const int y0 = std::max(0, int(std::min({a.y, b.y, c.y}))), y1 = std::min(high - 1, int(std::max({a.y, b.y, c.y})) + 1);
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x) {
                const float px = float(x) + 0.5f, py = float(y) + 0.5f;
                const float u = ((b.x - px) * (c.y - py) - (b.y - py) * (c.x - px)) / area;
                const float v = ((c.x - px) * (a.y - py) - (c.y - py) * (a.x - px)) / area, w = 1 - u - v;
                if (u < 0 || v < 0 || w < 0)
                    continue;
                const float z = a.z * u + b.z * v + c.z * w;
                float &d = depth[std::size_t(y * wide + x)];
                if (z <= d)
                    continue;
                d = z;
                image.setPixel(x, y, shade(normalized(t.normal[k] * u + t.normal[k + 1] * v + t.normal[k + 2] * w), isGround));
            }
    }
}

QString nameOfKind(const outgrowth::Kind &kind)
{
    return textOf(kind.name);
}

struct WantedOutgrowth {
    QString key;
    Outgrowth rule;
    float width;
};

/// Kept once it was made; all that `all` names are made at the first call, side by side.
QImage keptOutgrowth(const QString &key, QSize size, const std::function<std::vector<WantedOutgrowth>()> &all)
{
    static QHash<QString, QImage> pictures;
    const auto whole = [size](const QString &k) {
        return QStringLiteral("%1 %2 %3 %4").arg(k).arg(size.width()).arg(size.height()).arg(theme().isDark);
    };
    if (!pictures.contains(whole(key))) {
        const std::vector<WantedOutgrowth> list = all();
        std::vector<QImage> made(list.size());
        forEachBlock(list.size(), 1,
                     [&](BlockRange r) { made[r.begin] = outgrowthPicture(list[r.begin].rule, size, list[r.begin].width); });
        for (std::size_t k = 0; k < list.size(); ++k)
            pictures.insert(whole(list[k].key), made[k]);
    }
    return pictures.value(whole(key));
}

Outgrowth outgrowthAtEnd(const outgrowth::Kind &kind, std::size_t setting, bool isHigh)
{
    Outgrowth o = outgrowthOf(kind);
    const outgrowth::Setting &s = kind.settings[setting];
    float &value = o.values[setting];
    const float usual = value;
    value = isHigh ? s.max : s.min;
    if (s.unit == "mm" && usual > 0) // within what is still the same thing
        value = isHigh ? std::min(s.max, 1.9f * usual) : std::max(s.min, 0.45f * usual);
    else if (s.isCount && s.max > 100)
        value = isHigh ? 9 : 3;
    return o;
}

QString endKeyOf(const outgrowth::Kind &kind, std::size_t setting, bool isHigh)
{
    return QStringLiteral("%1 %2 %3").arg(nameOfKind(kind)).arg(setting).arg(isHigh);
}

} // namespace

QImage outgrowthPicture(const Outgrowth &rule, QSize size, float width)
{
    const io::Scene scene = specimenOf(rule);
    QImage out(size * kFiner, QImage::Format_RGB32);
    out.fill(theme().isDark ? QColor("#3A3833") : QColor("#CFC6B4"));
    Triangles members, skin;
    for (const io::Object &o : scene.objects) {
        if (scene.materialOf(o).opacity < 0.5f)
            continue;
        const io::Shape &shape = scene.shapeOf(o);
        const mesh::Surface surface = shape.surface() ? *shape.surface() : mesh::makeSurface(shape.toPolyMesh());
        for (const io::Placement &place : o.places)
            add(&o == scene.objects.data() ? skin : members, surface, place);
    }
    const float reach = specimenWidth(*rule.kind);
    Box3f box = members.box;
    box.lo.y = std::max(box.lo.y, -0.1f * reach);
    const Vec3f room = box.size();
    const float needs = std::max(room.x / float(out.width()), room.y / float(out.height())) * 1.12f;
    const float scale = 1 / (width > 0 ? std::max(width / float(out.width()), 0.6f * needs) : std::max(needs, 1e-6f));
    Vec3f middle = box.centre();
    if (width > 0) // things stand at the same height, so that sizes compare
        middle.y = 0.36f * float(out.height()) / scale;
    std::vector<float> depth(std::size_t(out.width()) * std::size_t(out.height()), std::numeric_limits<float>::lowest());
    fill(skin, out, depth, scale, middle, true);
    fill(members, out, depth, scale, middle, false);
    return out.scaled(size, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
}

QImage usualPicture(const outgrowth::Kind &kind, QSize size)
{
    return keptOutgrowth(nameOfKind(kind), size, [] {
        std::vector<WantedOutgrowth> all;
        for (const outgrowth::Kind &k : outgrowth::kinds())
            all.push_back({nameOfKind(k), outgrowthOf(k), 0});
        return all;
    });
}

QImage endPicture(const outgrowth::Kind &kind, std::size_t setting, bool isHigh, QSize size)
{
    return keptOutgrowth(endKeyOf(kind, setting, isHigh), size, [&] {
        std::vector<WantedOutgrowth> all;
        for (std::size_t k = 0; k < kind.settings.size(); ++k)
            for (const bool high : {false, true})
                all.push_back({endKeyOf(kind, k, high), outgrowthAtEnd(kind, k, high), specimenWidth(kind)});
        return all;
    });
}

} // namespace bonemoss::app
