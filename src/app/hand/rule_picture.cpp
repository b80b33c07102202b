#include "app/hand/rule_picture.h"

#include "app/theme/theme.h"
#include "base/parallel.h"
#include "colour/rule_input.h"

#include <QHash>

namespace bonemoss::app {

namespace {

/// mm of skin across that show a rule well.
float widthFor(const colour::Rule &rule)
{
    const float size = rule.value("size"), width = rule.value("width");
    if (rule.kind->isCoat)
        return rule.kind->name == "pied" ? 2.2f * size : 4.5f * size;
    if (size > 0)
        return 5 * size;
    return width > 0 ? 14 * width : 40;
}

/// A vertex for each point of a picture, with folds on one side and a knob on the other.
mesh::PolyMesh patch(QSize size, float width, bool isFlat)
{
    mesh::PolyMesh out;
    const float step = width / float(size.width());
    for (int y = 0; y <= size.height(); ++y)
        for (int x = 0; x <= size.width(); ++x) {
            const float u = float(x) / float(size.width()), v = float(y) / float(size.height());
            const float du = u - 0.7f, dv = (v - 0.5f) * 0.6f, knob = std::exp(-40 * (du * du + dv * dv));
            const float folds = std::pow(std::abs(std::sin(16 * u + 2 * v)), 0.5f) * std::max(0.0f, 0.5f - u);
            const float high = isFlat ? 0 : width * (0.12f * knob + 0.10f * folds - 0.16f * (v - 0.5f) * (v - 0.5f));
            out.positions.push_back({float(x) * step - width / 2, float(size.height() / 2 - y) * step, high});
        }
    const auto columns = std::uint32_t(size.width() + 1);
    for (std::uint32_t y = 0; y < std::uint32_t(size.height()); ++y)
        for (std::uint32_t x = 0; x < std::uint32_t(size.width()); ++x) {
            const std::uint32_t a = y * columns + x, b = a + columns;
            out.faces.push_back({{a, b, b + 1, a + 1}});
        }
    return out;
}

QImage drawn(colour::Rule rule, QSize size)
{
    constexpr int kFine = 2; // vertices for a point of the picture, across
    rule.isMirrored = false;
    const QSize fine = size * kFine;
    const float width = widthFor(colour::ruleOf(*rule.kind));
    skin::Skin skin = skin::makeSkin(patch(fine, width, rule.kind->isCoat), true);
    if (rule.kind->isCoat)
        for (std::size_t k = 0; k < rule.settings.size(); ++k)
            if (rule.kind->settings[k].name == "limbs")
                rule.settings[k] = 0;
    std::uint32_t nextId = 1;
    const std::uint32_t id = skin::addColourLayer(skin, "rule", nextId);
    growth::Surroundings about;
    about.flowPoints = 120;
    const float half = width / 2;
    rule.points = {{-half, 0, 0}, {half, 0, 0}};
    skin.layers.emplace_back(skin.body.size()).id = 2;
    skin::Layer &layer = skin.layers.back();
    if (rule.kind->source == colour::Source::Growth) {
        growth::Growth scales = growthOf(*growth::growthNamed("scales"));
        scales.isMirrored = false;
        for (std::size_t k = 0; k < scales.values.size(); ++k)
            if (scales.kind->settings[k].name == "size")
                scales.values[k] = width / 8;
        if (!growth::grow(skin, 2, scales, about))
            return {};
    } else {
        for (std::size_t b = 0; b < layer.offsets.blockCount(); ++b)
            for (std::size_t i = 0; i < layer.offsets.countIn(b); ++i) {
                const Vec3f p = skin.body.data(b)[i];
                layer.offsets.edit(b)[i] = {0, 0, 0.4f + 0.4f * std::sin(20 * p.x / width)};
            }
    }
    const colour::RuleGround ground(skin, about);
    colour::RuleInput in{
        rule, skin, about, ground, {}, {{0.2f * width, 0, 0.1f * width}}, skin::Bytes(skin.body.size()), {&skin.layers.back()},
        0,    {}};
    for (std::size_t k = 0; k < rule.settings.size(); ++k)
        if (rule.kind->settings[k].name == "reach")
            rule.settings[k] = std::min(rule.settings[k], 0.5f * width);
    in.fingerprint = std::uint64_t(fine.width()) << 32 ^ std::uint64_t(width * 1000);
    skin::colourLayer(skin, id)->ramp = std::make_shared<const skin::ColourRamp>(
        skin::ColourRamp{{{0, {{0.80f, 0.74f, 0.62f}, 0}, 1}, {1, {{0.30f, 0.20f, 0.12f}, 0}, 1}}, {}});
    if (!colour::run(skin, id, rule, in))
        return {};
    QImage out(fine, QImage::Format_RGB32);
    const Vec3f light = normalized(Vec3f{-0.55f, 0.65f, 0.55f});
    const auto columns = std::size_t(fine.width() + 1);
    for (int y = 0; y < fine.height(); ++y)
        for (int x = 0; x < fine.width(); ++x) {
            const std::size_t v = std::size_t(y) * columns + std::size_t(x);
            const float lit = 0.55f + 0.62f * std::max(0.0f, dot(normalized(skin.shown.normals[v].unpack()), light));
            const auto tone = [&](std::size_t c) {
                const bool isBare = skin.paint.channels[3][v] == 0;
                return std::clamp(int((isBare ? 205.0f : float(skin.paint.channels[c][v])) * lit), 0, 255);
            };
            out.setPixelColor(x, y, QColor(tone(0), tone(1), tone(2)));
        }
    return out.scaled(size, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
}

struct Wanted {
    QString key;
    colour::Rule rule;
};

/// The first of them; all are made at the first call, side by side.
QImage kept(const QString &key, QSize size, const std::function<std::vector<Wanted>()> &all)
{
    static QHash<QString, QImage> pictures;
    const auto whole = [&](const QString &k) { return QStringLiteral("%1 %2 %3").arg(k).arg(size.width()).arg(size.height()); };
    if (!pictures.contains(whole(key))) {
        const std::vector<Wanted> list = all();
        std::vector<QImage> made(list.size());
        forEachBlock(list.size(), 1, [&](BlockRange r) { made[r.begin] = drawn(list[r.begin].rule, size); });
        for (std::size_t k = 0; k < list.size(); ++k)
            pictures.insert(whole(list[k].key), made[k]);
    }
    return pictures.value(whole(key));
}

QString endKey(const colour::RuleKind &kind, std::size_t setting, bool isHigh)
{
    return QStringLiteral("%1 %2 %3").arg(textOf(kind.name)).arg(setting).arg(isHigh);
}

} // namespace

QImage usualPicture(const colour::RuleKind &kind, QSize size)
{
    return kept(textOf(kind.name), size, [] {
        std::vector<Wanted> all;
        for (const colour::RuleKind &k : colour::ruleKinds())
            all.push_back({textOf(k.name), colour::ruleOf(k)});
        return all;
    });
}

QImage endPicture(const colour::RuleKind &kind, std::size_t setting, bool isHigh, QSize size)
{
    return kept(endKey(kind, setting, isHigh), size, [&] {
        std::vector<Wanted> all;
        for (std::size_t k = 0; k < kind.settings.size(); ++k)
            for (const bool high : {false, true}) {
                const growth::GrowthSetting &s = kind.settings[k];
                colour::Rule rule = colour::ruleOf(kind);
                float &value = rule.settings[k];
                const float usual = value;
                value = high ? s.max : s.min;
                if (s.unit == "mm" && s.min >= 0) // within what is still the same rule
                    value = high ? std::min(s.max, std::max(2.2f * usual, 0.5f)) : std::max(s.min, 0.45f * usual);
                all.push_back({endKey(kind, k, high), rule});
            }
        return all;
    });
}

} // namespace bonemoss::app
