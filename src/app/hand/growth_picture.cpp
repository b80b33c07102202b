#include "app/hand/growth_picture.h"

#include "app/theme/theme.h"
#include "base/parallel.h"

#include <QHash>

#include <functional>

namespace bonemoss::app {

namespace {

/// How many millimetres of skin show a growth well.
float widthFor(const growth::Growth &g)
{
    const float size = g.value("size");
    if (g.kind->name == "veins")
        return 16 * size;
    if (g.kind->name == "cracks")
        return 3.6f * size;
    if (g.value("cover") > 0)
        return 5 * size / std::max(0.35f, g.value("cover"));
    return 5 * size;
}

/// A vertex for each point of a picture. Pulled: its cells are slanting, as if they had been drawn out that way.
mesh::PolyMesh sheet(QSize size, float width, bool isPulled)
{
    mesh::PolyMesh out;
    const float step = width / float(size.width());
    const auto columns = std::uint32_t(size.width() + 1);
    for (int y = 0; y <= size.height(); ++y)
        for (int x = 0; x <= size.width(); ++x)
            out.positions.push_back({float(x) * step - width / 2, float(size.height() / 2 - y) * step, 0});
    const std::uint32_t slant = isPulled ? columns : 0;
    for (std::uint32_t y = 0; y + (isPulled ? 1 : 0) < std::uint32_t(size.height()); ++y)
        for (std::uint32_t x = 0; x < std::uint32_t(size.width()); ++x) {
            const std::uint32_t a = y * columns + x, b = a + columns;
            out.faces.push_back({{a, b, b + slant + 1, a + slant + 1}});
        }
    return out;
}

/// A picture that is kept once it was made.
struct Wanted {
    QString key;
    growth::Growth growth;
    bool isPulled = false; ///< on skin that was stretched
};

QImage drawn(growth::Growth growth, QSize size, bool isPulled);

QString whole(const QString &key, QSize size)
{
    return QStringLiteral("%1 %2 %3 %4").arg(key).arg(size.width()).arg(size.height()).arg(theme().isDark);
}

/// The first of them; all are made at the first call, side by side.
QImage kept(const QString &key, QSize size, const std::function<std::vector<Wanted>()> &all)
{
    static QHash<QString, QImage> pictures;
    if (!pictures.contains(whole(key, size))) {
        const std::vector<Wanted> list = all();
        std::vector<QImage> made(list.size());
        forEachBlock(list.size(), 1,
                     [&](BlockRange r) { made[r.begin] = drawn(list[r.begin].growth, size, list[r.begin].isPulled); });
        for (std::size_t k = 0; k < list.size(); ++k)
            pictures.insert(whole(list[k].key, size), made[k]);
    }
    return pictures.value(whole(key, size));
}

QString nameOf(const growth::GrowthKind &kind)
{
    return textOf(kind.name);
}

QString endKey(const growth::GrowthKind &kind, std::size_t setting, bool isHigh)
{
    return QStringLiteral("%1 %2 %3").arg(nameOf(kind)).arg(setting).arg(isHigh);
}

growth::Growth atEnd(const growth::GrowthKind &kind, std::size_t setting, bool isHigh)
{
    growth::Growth growth = growthOf(kind);
    const growth::GrowthSetting &s = kind.settings[setting];
    float &value = growth.values[setting];
    const float usual = value;
    value = isHigh ? s.max : s.min;
    if (s.unit == "mm") // within what is still the same growth
        value = isHigh ? std::min(s.max, 2.2f * usual) : std::max(s.min, 0.4f * usual);
    return growth;
}

QImage drawn(growth::Growth growth, QSize size, bool isPulled)
{
    growth.isMirrored = false;
    const float width = widthFor(growthOf(*growth.kind)); // so that sizes show
    skin::Skin skin = skin::makeSkin(sheet(size, width, isPulled), true);
    skin.layers.emplace_back(skin.body.size()).id = 1;
    growth::Surroundings about;
    about.flowPoints = 60;
    about.joints.push_back({{}, {0, -1, 0}, {}, width / 5});
    if (!growth::grow(skin, 1, growth, about))
        return {};
    QImage out(size, QImage::Format_RGB32);
    const Vec3f light = normalized(Vec3f{-0.55f, 0.65f, 0.55f});
    const QColor paper = theme().isDark ? QColor(214, 204, 186) : QColor(226, 216, 198);
    for (int y = 0; y < size.height(); ++y)
        for (int x = 0; x < size.width(); ++x) {
            const auto v = std::size_t(y * (size.width() + 1) + x);
            const Vec3f n = normalized(skin.shown.normals[v].unpack());
            const float lit = 0.30f + 0.86f * std::max(0.0f, dot(n, light));
            const auto tone = [&](int of) { return std::clamp(int(float(of) * lit), 0, 255); };
            out.setPixelColor(x, y, QColor(tone(paper.red()), tone(paper.green()), tone(paper.blue())));
        }
    return out;
}

} // namespace

QImage growthPicture(const growth::Growth &growth, QSize size)
{
    return drawn(growth, size, false);
}

QImage usualPicture(const growth::GrowthKind &kind, QSize size)
{
    return kept(nameOf(kind), size, [] {
        std::vector<Wanted> all;
        for (const growth::GrowthKind &k : growth::growthKinds())
            all.push_back({nameOf(k), growthOf(k)});
        return all;
    });
}

QImage endPicture(const growth::GrowthKind &kind, std::size_t setting, bool isHigh, QSize size)
{
    return kept(endKey(kind, setting, isHigh), size, [&] {
        std::vector<Wanted> all;
        for (std::size_t k = 0; k < kind.settings.size(); ++k)
            for (const bool high : {false, true})
                all.push_back({endKey(kind, k, high), atEnd(kind, k, high), kind.settings[k].name == "stretch"});
        return all;
    });
}

} // namespace bonemoss::app
