// Palettes, mixing, schemes, and painting with an entry. Oracles: published numbers of OKLab, the formula of Kubelka and Munk by hand,
// properties that the published matrices of eyesight have, what is there before and after.
#include "support/run.h"
#include "base/colour.h"
#include "colour/mixing.h"
#include "colour/palette.h"
#include "document/creature.h"
#include "skin/colour_layers.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <fstream>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using skin::LayerChannel;
using test::need;
using test::skinOf;

namespace {

std::vector<std::vector<std::uint8_t>> seen(const Creature &c)
{
    std::vector<std::vector<std::uint8_t>> out;
    for (std::size_t k = 0; k < skin::kSeenChannels; ++k)
        out.push_back(skinOf(c).paint.channels[k].flatten());
    return out;
}

} // namespace

class TestPalette : public QObject
{
    Q_OBJECT
private slots:
    void oklabHasItsPublishedNumbers()
    {
        const auto is = [](colour::Oklab a, float l, float x, float y) {
            return std::abs(a.l - l) < 2e-3f && std::abs(a.a - x) < 2e-3f && std::abs(a.b - y) < 2e-3f;
        };
        // CSS Color 4 gives these for white, red, green and blue (values from memory).
        QVERIFY(is(colour::toOklab({1, 1, 1}), 1, 0, 0));
        QVERIFY(is(colour::toOklab({1, 0, 0}), 0.62796f, 0.22486f, 0.12585f));
        QVERIFY(is(colour::toOklab({0, 1, 0}), 0.86644f, -0.23389f, 0.17950f));
        QVERIFY(is(colour::toOklab({0, 0, 1}), 0.45201f, -0.03246f, -0.31153f));
        for (int k = 0; k < 200; ++k) { // and back
            const Vec3f c{float(k % 7) / 6, float(k % 11) / 10, float(k % 13) / 12};
            const Vec3f back = colour::fromOklch(colour::toOklch(c));
            QVERIFY(length(back - c) < 4e-3f);
        }
        const Vec3f far = colour::fromOklch({0.7f, 0.4f, 150}); // beyond sRGB: taken in, hue kept
        QVERIFY(std::min({far.x, far.y, far.z}) >= 0 && std::max({far.x, far.y, far.z}) <= 1);
        QVERIFY(std::abs(colour::toOklch(far).h - 150) < 2);
    }
    void eyesightKeepsGreyAndJoinsWhatItCannotTell()
    {
        for (const colour::Eyesight e : {colour::Eyesight::Protan, colour::Eyesight::Deutan, colour::Eyesight::Tritan})
            for (const float g : {0.1f, 0.5f, 0.9f}) // the rows of each matrix add up to 1
                QVERIFY(length(colour::seenBy(e, {g, g, g}) - Vec3f{g, g, g}) < 1e-3f);
        // Machado, Oliveira & Fernandes 2009, table 1: the first row for protanopia.
        QVERIFY(std::abs(colour::seenBy(colour::Eyesight::Protan, {0.5f, 0, 0}).x - 0.5f * 0.152286f) < 1e-5f);
        // Red and green of one lightness are told apart by usual eyes only.
        const Vec3f red = colour::fromOklch({0.55f, 0.10f, 28}), green = colour::fromOklch({0.55f, 0.10f, 125});
        QVERIFY(colour::difference(red, green) > 0.1f);
        const auto close = colour::closeOnes(std::array{red, green}, 0.09f);
        QVERIFY(!close.empty() && close[0].eyes != colour::Eyesight::Usual);
    }
    void harmoniesTurnTheHue()
    {
        const Vec3f c = colour::fromOklch({0.6f, 0.06f, 80});
        const auto triad = colour::harmonyOf(c, colour::Harmony::Triad);
        QCOMPARE(triad.size(), std::size_t(3));
        QVERIFY(std::abs(colour::toOklch(triad[1]).h - 200) < 2 && std::abs(colour::toOklch(triad[2]).h - 320) < 2);
        for (const Vec3f t : triad)
            QVERIFY(std::abs(colour::toOklch(t).l - 0.6f) < 0.01f);
    }
    void coloursOfAPictureAreFound()
    {
        image::ColourPicture p{60, 20, {}};
        for (int y = 0; y < 20; ++y)
            for (int x = 0; x < 60; ++x) { // half red, a third blue, the rest clear
                const bool isRed = x < 30, isBlue = x >= 30 && x < 50;
                p.rgba.insert(p.rgba.end(), {std::uint8_t(isRed ? 200 : 10), 20, std::uint8_t(isBlue ? 180 : 30),
                                             std::uint8_t(isRed || isBlue ? 255 : 0)});
            }
        const auto found = colour::coloursIn(p, 2);
        QCOMPARE(found.size(), std::size_t(2));
        QVERIFY(std::abs(found[0].share - 0.6f) < 1e-4f && std::abs(found[1].share - 0.4f) < 1e-4f);
        QVERIFY(colour::hexOf(found[0].colour) == "#c8141e" && colour::hexOf(found[1].colour) == "#0a14b4");
        QCOMPARE(colour::coloursIn(p, 9).size(), std::size_t(2)); // there are no more
    }
    void paletteFilesAreReadBack()
    {
        const std::vector<skin::PaletteColour> all{{0, "moss green", {float(58) / 255, float(69) / 255, float(38) / 255}},
                                                   {0, "bone", {1, float(200) / 255, 0}}};
        const auto back = colour::fromText(colour::toText(all));
        QVERIFY(back);
        QCOMPARE(back->size(), std::size_t(2));
        for (std::size_t k = 0; k < 2; ++k)
            QVERIFY((*back)[k].name == all[k].name && length((*back)[k].colour - all[k].colour) < 1e-6f);
        const auto plain = colour::fromText("# ours\n\n 12\t0 255\r\n255 255 255 white # most light\n");
        QVERIFY(plain && plain->size() == 2 && (*plain)[0].name == "#0c00ff" && (*plain)[1].name == "white");
        for (const char *bad : {"", "# none\n", "1 2\n", "1 2 300 x\n", "1 2 -3 x\n", "red green blue\n", "1 2 3x\n"}) {
            const auto read = colour::fromText(bad);
            QVERIFY2(!read && !read.error().text().empty(), bad);
        }
        std::string many;
        for (int k = 0; k < 400; ++k)
            many += "1 2 3 x\n";
        QVERIFY(!colour::fromText(many));
    }
    void paintsMixAsTheyAbsorb()
    {
        // One paint alone gives itself; two parts of one and two of another are as one and one.
        const Vec3f yellow{0.95f, 0.87f, 0.2f}, blue{0.15f, 0.19f, 0.52f};
        const auto mix = [&](float a, float b) { return colour::mixed(std::array{yellow, blue}, std::array{a, b}); };
        QVERIFY(length(mix(1, 0) - yellow) < 2e-3f && length(mix(2, 2) - mix(1, 1)) < 1e-5f);
        const Vec3f green = mix(2, 1); // darker than the mean of light, and green
        QVERIFY(green.y > green.x && green.y > green.z);
        // By hand, one band: R 0.5 and 0.1 have K / S of 0.25 and 4.05; in equal parts 2.15, which is R = 0.1629.
        const float a = toSrgb(0.5f), b = toSrgb(0.1f);
        const float half = fromSrgb(colour::mixed(std::array{Vec3f{a, a, a}, Vec3f{b, b, b}}, std::array{1.0f, 1.0f}).x);
        QVERIFY2(std::abs(half - 0.16294f) < 5e-4f, qPrintable(QString::number(half)));
        const auto paints = colour::usualPaints();
        const colour::Mix own = colour::bestMix(paints[3].colour, paints);
        QVERIFY(own.parts.size() == 1 && own.parts[0].paint == 3 && own.difference < 1e-3f);
        const colour::Mix moss = colour::bestMix({0.27f, 0.33f, 0.2f}, paints);
        QVERIFY(moss.parts.size() <= 3 && moss.difference < 0.03f);
        std::vector<Vec3f> used;
        std::vector<float> parts;
        for (const colour::Mix::Part &p : moss.parts)
            used.push_back(paints[p.paint].colour), parts.push_back(float(p.parts));
        QVERIFY(length(colour::mixed(used, parts) - moss.colour) < 1e-4f);
        QVERIFY(colour::bestMix({0, 0, 0}, {}).parts.empty());
    }
    void whatIsPaintedWithAnEntryFollowsIt()
    {
        Creature c = need(test::withPieces({test::sphere(20, 50, 80)}),
                          {{"do", "palette.add"}, {"name", "stone"}, {"colour", {0.5, 0.5, 0.4}}});
        c = need(c, {{"do", "palette.add"}, {"name", "moss"}, {"colour", {0.2, 0.3, 0.1}}});
        c = need(c, {{"do", "colour.fill"}, {"entry", "stone"}});
        c = need(c, {{"do", "sculpt.stroke"},
                     {"tool", "paint"},
                     {"entry", "moss"},
                     {"size", 12},
                     {"strength", 0.7},
                     {"falloff", "soft"},
                     {"samples", {{20, 0, 0, 0, 0, 0, 1, 0}}}});
        const auto first = seen(c);
        // In linear light, whatever the mixture: share by share.
        const skin::Skin s = skinOf(c);
        const std::uint32_t stone = c.palette[0].id, moss = c.palette[1].id, layer = s.colourLayers[0].id;
        int halves = 0;
        for (std::uint32_t v = 0; v < s.body.size(); ++v) {
            const double a = (*entryValues(s, layer, stone))[v] / 255.0, b = (*entryValues(s, layer, moss))[v] / 255.0;
            QVERIFY(std::abs(a + b - 1) < 0.01);
            halves += b > 0.2 && b < 0.8;
            const double light = (a * double(fromSrgb(0.5f)) + b * double(fromSrgb(0.2f))) / (a + b);
            QVERIFY(std::abs(double(s.paint.channels[0][v]) - 255 * double(toSrgb(float(light)))) <= 1.5);
        }
        QVERIFY(halves > 10);
        c = need(c, {{"do", "palette.set"}, {"entry", "stone"}, {"colour", {0.8, 0.1, 0.1}}});
        QVERIFY(seen(c) != first);
        const std::uint32_t away = [&] {
            for (std::uint32_t v = 0;; ++v)
                if ((*entryValues(s, layer, moss))[v] == 0)
                    return v;
        }();
        QCOMPARE(int(skinOf(c).paint.channels[0][away]), 204);
        c = need(c, {{"do", "palette.set"}, {"entry", "stone"}, {"colour", {0.5, 0.5, 0.4}}});
        QVERIFY(seen(c) == first); // back, bit for bit
        const auto kept = seen(c);
        c = need(c, {{"do", "palette.remove"}, {"entry", "stone"}}); // it keeps its colour
        QVERIFY(seen(c) == kept && c.palette.size() == 1);
        for (const json &bad :
             {json{{"do", "palette.set"}, {"entry", "gold"}}, json{{"do", "palette.add"}, {"colour", {2, 0, 0}}},
              json{{"do", "colour.fill"}, {"entry", "gold"}}, json{{"do", "scheme.use"}, {"scheme", "none"}}})
            QVERIFY(!test::run(c, bad));
    }
    void schemesGoThereAndBackBitForBit()
    {
        Creature c = need(test::withPieces({test::sphere(20, 50, 80)}),
                          {{"do", "palette.add"}, {"name", "coat"}, {"colour", {0.5, 0.4, 0.3}}});
        c = need(c, {{"do", "colour.fill"}, {"entry", "coat"}});
        c = need(c, {{"do", "rule.slope"}, {"name", "back"}, {"colour", {0.1, 0.1, 0.1}}});
        c = need(c, {{"do", "scheme.add"}, {"name", "summer"}});
        const auto summer = seen(c);
        c = need(c, {{"do", "palette.set"}, {"entry", "coat"}, {"colour", {0.9, 0.9, 0.9}}});
        c = need(c, {{"do", "colour.set"}, {"layer", "back"}, {"opacity", 0.3}});
        c = need(c, {{"do", "scheme.add"}, {"name", "winter"}});
        const auto winter = seen(c);
        QVERIFY(winter != summer);
        const auto values = skinOf(c).colourValues;
        for (int k = 0; k < 5; ++k) {
            c = need(c, {{"do", "scheme.use"}, {"scheme", "summer"}});
            QVERIFY(seen(c) == summer && c.schemes[0].id == c.scheme);
            c = need(c, {{"do", "scheme.use"}, {"scheme", "winter"}});
            QVERIFY(seen(c) == winter);
        }
        for (std::size_t k = 0; k < values.size(); ++k) // nothing was painted again
            for (std::size_t b = 0; b < values[k].values.blockCount(); ++b)
                QVERIFY(values[k].values.sharesWith(skinOf(c).colourValues[k].values, b));
        c = need(c, {{"do", "colour.set"}, {"layer", "back"}, {"on", false}});
        c = need(c, {{"do", "scheme.set"}, {"scheme", "winter"}, {"update", true}, {"name", "deep winter"}});
        c = need(c, {{"do", "colour.remove"}, {"layer", "back"}}); // a scheme outlives what it speaks of
        c = need(c, {{"do", "scheme.use"}, {"scheme", "summer"}});
        c = need(c, {{"do", "scheme.remove"}, {"scheme", "deep winter"}});
        QCOMPARE(c.schemes.size(), std::size_t(1));
    }
    void palettesComeFromFilesAndPictures()
    {
        QTemporaryDir folder;
        const std::filesystem::path text = (folder.path() + "/p.txt").toStdString(),
                                    png = (folder.path() + "/p.png").toStdString(),
                                    broken = (folder.path() + "/b.png").toStdString();
        std::ofstream(text) << "200 20 30 red\n10 20 180 blue\n";
        QVERIFY(image::writePng(png, colour::swatchesOf(*colour::fromText("200 20 30 red\n10 20 180 blue\n"))));
        std::ofstream(broken) << "\x89PNG\r\n\x1a\nnot a picture at all";
        Creature c = need(test::withPieces({test::plane(10, 4)}), {{"do", "palette.read"}, {"path", text.native()}});
        QCOMPARE(c.palette.size(), std::size_t(2));
        c = need(c, {{"do", "palette.read"}, {"path", png.native()}, {"colours", 5}, {"replace", true}});
        QCOMPARE(c.palette.size(), std::size_t(2));
        QVERIFY(c.palette[0].name == "#c8141e" || c.palette[1].name == "#c8141e");
        for (const auto &bad : {broken, std::filesystem::path("/nowhere/p.txt")}) {
            const auto read = test::run(c, {{"do", "palette.read"}, {"path", bad.native()}});
            QVERIFY(!read && !read.error().text().empty());
        }
    }
};

BONEMOSS_TEST(TestPalette)
#include "tst_palette.moc"
