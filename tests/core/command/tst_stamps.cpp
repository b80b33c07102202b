// Stamps: those that come with the program, pictures, what is taken from skin, and what a print does.
#include "support/run.h"
#include "store/store.h"
#include "growth/growth.h"
#include "skin/harvest.h"
#include "image/picture_file.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <OpenImageIO/imageio.h>

#include <QSet>
#include <QTemporaryDir>
#include <QtTest>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using test::skinOf;

namespace {

/// A level piece that faces the crown, 40 mm long, vertices 0.2 mm apart.
Creature sheet()
{
    Creature c;
    auto piece = std::make_shared<document::Piece>();
    piece->id = c.nextId++;
    piece->name = "sheet";
    piece->skin = skin::makeSkin(test::plane(40, 200), false);
    c.pieces.push_back(piece);
    return c;
}

Creature after(const Creature &c, const json &command)
{
    const auto next = test::run(c, command);
    if (!next)
        qFatal("%s: %s", command.dump().c_str(), next.error().text().c_str());
    return *next;
}

/// One print of a stamp at the middle with a falloff that is 1 to the rim.
json print(const std::string &stamp, double radius, double depth)
{
    return {{"do", "sculpt.stroke"}, {"tool", "stamp"},    {"stamp", stamp},           {"size", radius},
            {"depth", depth},        {"strength", 1},      {"falloff", "drawn"},       {"curve", {1, 1, 1, 1, 1, 1, 1}},
            {"mirror", false},       {"connected", false}, {"samples", {{0, 0, 0, 1}}}};
}

/// A picture's height by the definition of bilinear sampling, its pixels' middles at (i + 0.5) / n.
double slowly(const image::HeightPicture &p, double u, double v)
{
    const double x = u * p.width - 0.5, y = v * p.height - 0.5;
    const auto pixel = [&](int i, int j) {
        return double(
            p.values[std::size_t((j + p.height) % p.height) * std::size_t(p.width) + std::size_t((i + p.width) % p.width)]);
    };
    const int i = int(std::floor(x)), j = int(std::floor(y));
    double sum = 0;
    for (int b = 0; b < 2; ++b)
        for (int a = 0; a < 2; ++a)
            sum += pixel(i + a, j + b) * (1 - std::abs(x - (i + a))) * (1 - std::abs(y - (j + b)));
    return sum;
}

} // namespace

class TestStamps : public QObject
{
    Q_OBJECT
private slots:
    void thirtyAndMoreComeWithTheProgram()
    {
        const auto &names = image::builtInStamps();
        QVERIFY(names.size() >= 30);
        QSet<QString> seen, folders;
        for (const std::string_view name : names) {
            const image::HeightPicture &p = *image::builtInStamp(name);
            const auto text = QString::fromUtf8(name.data(), qsizetype(name.size()));
            QVERIFY2(!seen.contains(text), name.data());
            seen << text;
            folders << QString::fromUtf8(image::folderOfStamp(name).data(), qsizetype(image::folderOfStamp(name).size()));
            float least = 1, most = 0;
            for (const float v : p.values)
                least = std::min(least, v), most = std::max(most, v);
            QVERIFY2(least >= 0 && most <= 1 && most - least > 0.25f, name.data());
            if (image::folderOfStamp(name) != "Skins" && name != "scar") // a print leaves the skin level at its rim
                for (int k = 0; k < p.width; ++k)
                    for (const float v : {p.values[std::size_t(k)], p.values[std::size_t(k) * std::size_t(p.width)]})
                        QVERIFY2(std::abs(v - p.middle) < 0.02f, name.data());
        }
        QVERIFY(folders.size() >= 4);
        QVERIFY(!image::builtInStamp("no such"));
    }

    // A print is the picture's height over its middle, sampled between its pixels, times twice the depth, along the area's normal.
    void aPrintIsThePicture()
    {
        constexpr double kRadius = 12, kDepth = 0.8;
        for (const char *name : {"scales", "claw marks", "spiral"}) {
            const Creature c = after(sheet(), print(name, kRadius, kDepth));
            const image::HeightPicture &p = *image::builtInStamp(name);
            double worst = 0;
            std::size_t moved = 0;
            for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
                const Vec3f at = skinOf(c).body[v];
                const double x = double(at.x) / kRadius, z = double(at.z) / kRadius;
                if (x * x + z * z > 0.9)
                    continue;
                // On a level place the picture's top is towards the nose, its right towards the right flank.
                const double height = slowly(p, 0.5 - 0.5 * x, 0.5 - 0.5 * z) - double(p.middle);
                worst = std::max(worst, std::abs(double(at.y) - height * 2 * kDepth));
                moved += std::abs(at.y) > 0.02f;
            }
            QVERIFY2(moved > 1000, name);
            QVERIFY2(worst < 1e-4, qPrintable(QStringLiteral("%1 %2").arg(QLatin1String(name)).arg(worst)));
        }
    }

    // Harvested and pressed again it gives the same relief.
    void harvestThenPress()
    {
        constexpr double kRadius = 9;
        const Creature made = after(sheet(), print("knob", 6, 1.1));
        const Creature taken = after(made, {{"do", "stamp.harvest"},
                                            {"at", {0, 0, 0}},
                                            {"normal", {0, 1, 0}},
                                            {"up", {0, 0, 1}},
                                            {"size", kRadius},
                                            {"name", "my knob"}});
        QCOMPARE(taken.stamps.size(), std::size_t(1));
        const document::Stamp &stamp = taken.stamps[0];
        QVERIFY2(std::abs(double(stamp.depth) - 1.1) < 0.06, qPrintable(QString::number(double(stamp.depth))));
        Creature fresh = sheet();
        fresh.stamps = taken.stamps;
        fresh = after(fresh, print("my knob", kRadius, double(stamp.depth)));
        double worst = 0, sum = 0, all = 0;
        for (std::size_t v = 0; v < skinOf(fresh).body.size(); ++v) {
            const Vec3f was = skinOf(made).shown.positions[v], is = skinOf(fresh).shown.positions[v];
            if (std::hypot(was.x, was.z) > 0.95f * float(kRadius))
                continue;
            worst = std::max(worst, double(std::abs(was.y - is.y)));
            sum += double(std::abs(was.y - is.y)), all += double(std::abs(was.y));
        }
        QVERIFY2(sum < 0.03 * all && worst < 0.15, qPrintable(QStringLiteral("%1 %2").arg(sum / all).arg(worst)));
    }

    // A rectangle of the skin becomes a picture of the same proportions, which is pressed in them: the relief in it comes back, and
    // beside it nothing moves.
    void aRectangleKeepsItsProportions()
    {
        constexpr double kWide = 10, kTall = 5;
        const Creature made = after(sheet(), print("knob", 4, 0.9));
        const Creature taken = after(made, {{"do", "stamp.harvest"},
                                            {"at", {0, 0, 0}},
                                            {"normal", {0, 1, 0}},
                                            {"up", {0, 0, 1}},
                                            {"size", kWide},
                                            {"height", kTall},
                                            {"name", "long"}});
        const image::HeightPicture &picture = *taken.stamps[0].picture;
        QCOMPARE(picture.width, 2 * picture.height);
        Creature fresh = sheet();
        fresh.stamps = taken.stamps;
        fresh = after(fresh, print("long", kWide, double(taken.stamps[0].depth)));
        double worst = 0;
        int beside = 0;
        for (std::size_t v = 0; v < skinOf(fresh).body.size(); ++v) {
            const Vec3f was = skinOf(made).shown.positions[v], is = skinOf(fresh).shown.positions[v];
            if (std::hypot(was.x, was.z) > 0.95f * float(kWide))
                continue;
            if (std::abs(was.z) > float(kTall) * 1.01f)
                beside += is.y != 0;
            else if (std::abs(was.z) < 0.95f * float(kTall))
                worst = std::max(worst, double(std::abs(was.y - is.y)));
        }
        QCOMPARE(beside, 0);
        QVERIFY2(worst < 0.15, qPrintable(QString::number(worst)));
    }

    // Of a group there is what belongs to it, at its own height, and nothing of its neighbour, although that is higher.
    void aGroupBecomesAStamp()
    {
        Creature c = after(sheet(), print("knob", 6, 1.0));
        json beside = print("knob", 6, 2.0);
        beside["samples"] = {{12, 0, 0, 1}};
        c = after(c, beside);
        const json outline = {{-7, 0, -7}, {6, 0, -7}, {6, 0, 7}, {-7, 0, 7}};
        c = after(c, {{"do", "mask.area"}, {"outline", outline}, {"direction", {0, -1, 0}}, {"how", "add"}});
        c = after(c, {{"do", "group.make"}, {"name", "hill"}});
        c = after(c, {{"do", "mask.clear"}});
        QVERIFY(!test::run(c, {{"do", "stamp.harvest"}}));
        QVERIFY(!test::run(c, {{"do", "stamp.harvest"}, {"group", "hill"}, {"at", {0, 0, 0}}}));
        QVERIFY(!test::run(c, {{"do", "stamp.harvest"}, {"group", "dale"}}));
        c = after(c, {{"do", "stamp.harvest"}, {"group", "hill"}, {"up", {0, 0, 1}}});
        const document::Stamp &stamp = c.stamps[0];
        QCOMPARE(stamp.name, std::string("hill"));
        QVERIFY2(std::abs(stamp.depth - 1) < 0.08f, qPrintable(QString::number(double(stamp.depth)))); // the hill's own
        QVERIFY(std::abs(double(stamp.picture->width) / stamp.picture->height - 13.0 / 14) < 0.02);
        for (int k = 0; k < stamp.picture->width; ++k)
            QVERIFY(std::abs(stamp.picture->values[std::size_t(k)] - 0.5f) < 0.02f); // no step at its border
        const float top = slowly(*stamp.picture, 7.0 / 13, 0.5) > 0.9 ? 1 : 0;
        QCOMPARE(top, 1.0f);
        // What goes all round has no side to be seen from.
        Creature ball;
        auto piece = std::make_shared<document::Piece>();
        piece->id = ball.nextId++;
        piece->skin = skin::makeSkin(test::sphere(10, 40, 60), false);
        ball.pieces.push_back(piece);
        ball = after(ball, {{"do", "mask.invert"}});
        ball = after(ball, {{"do", "group.make"}, {"name", "all"}});
        const auto round = test::run(ball, {{"do", "stamp.harvest"}, {"group", "all"}});
        QVERIFY(!round);
        QCOMPARE(round.error().code, ErrorCode::Empty);
    }

    // The curve of what it lies on stays behind: from a bare ball there is next to nothing to take.
    void harvestLeavesTheBody()
    {
        const mesh::Surface ball = mesh::makeSurface(test::sphere(30, 200, 300));
        const auto bare = skin::harvest(ball, {{30, 0, 0}, {1, 0, 0}, {0, 1, 0}, 6, 128});
        QVERIFY(bool(bare));
        QVERIFY2(bare->depth < 0.03f, qPrintable(QString::number(double(bare->depth)))); // the ball falls off by 0.6 mm there
        const auto beside = skin::harvest(ball, {{30, 0, 0}, {0, 1, 0}, {1, 0, 0}, 60, 32});
        QVERIFY(!beside);
        QCOMPARE(beside.error().code, ErrorCode::Empty);
    }

    void picturesOfEveryDepth_data()
    {
        QTest::addColumn<QString>("file");
        QTest::addColumn<int>("bits");
        QTest::addColumn<double>("step");
        QTest::newRow("16-bit PNG") << "a.png" << 16 << 1.0 / 65535;
        QTest::newRow("16-bit TIFF") << "a.tif" << 16 << 1.0 / 65535;
        QTest::newRow("32-bit TIFF") << "a.tiff" << 32 << 1e-6;
        QTest::newRow("32-bit EXR") << "a.exr" << 32 << 1e-6;
    }
    // Oracle: OpenImageIO reads back what we write, and we read what it writes.
    void picturesOfEveryDepth()
    {
        QFETCH(QString, file);
        QFETCH(int, bits);
        QFETCH(double, step);
        QTemporaryDir folder;
        const std::string path = folder.filePath(file).toStdString();
        image::HeightPicture p{37, 21, std::vector<float>(37 * 21), 0.5f};
        for (std::size_t i = 0; i < p.values.size(); ++i)
            p.values[i] = float(i * 7919 % 1000) / 999;
        QVERIFY(bool(image::writeHeights(path, p, bits)));
        const auto input = OIIO::ImageInput::open(path);
        QVERIFY(input);
        QCOMPARE(input->spec().width, 37);
        QCOMPARE(input->spec().height, 21);
        QCOMPARE(input->spec().nchannels, 1);
        QCOMPARE(int(input->spec().format.size()) * 8, bits);
        std::vector<float> back(p.values.size());
        QVERIFY(input->read_image(0, 0, 0, 1, OIIO::TypeDesc::FLOAT, back.data()));
        for (std::size_t i = 0; i < back.size(); ++i)
            QVERIFY(std::abs(double(back[i]) - double(p.values[i])) <= 0.51 * step + 1e-7);
        const Creature c = after(Creature(), {{"do", "stamp.add"}, {"path", path}, {"name", "in"}, {"middle", 0.25}});
        QCOMPARE(c.stamps[0].picture->width, 37);
        for (std::size_t i = 0; i < back.size(); ++i)
            QVERIFY(std::abs(double(c.stamps[0].picture->values[i]) - double(p.values[i])) <= 1.02 / 65535);
        QVERIFY(std::abs(c.stamps[0].picture->middle - 0.25f) < 1e-4f);
        const Creature dark = after(Creature(), {{"do", "stamp.add"}, {"path", path}, {"invert", true}});
        QVERIFY(std::abs(dark.stamps[0].picture->values[5] - (1 - p.values[5])) < 1e-4f);
        QCOMPARE(dark.stamps[0].name, std::string("a")); // of the file
        QVERIFY(!image::writeHeights(folder.filePath("no/such/folder.png").toStdString(), p, 16));
        QVERIFY(!image::writeHeights(folder.filePath("a.what").toStdString(), p, 16));
    }

    void namesStayApart()
    {
        QTemporaryDir folder;
        const std::string path = folder.filePath("a.png").toStdString();
        QVERIFY(bool(image::writeHeights(path, *image::builtInStamp("bark"), 16)));
        Creature c =
            after(sheet(), {{"do", "stamp.add"}, {"path", path}, {"name", "scales"}}); // as one that comes with the program
        QCOMPARE(c.stamps[0].name, std::string("scales 2"));
        QVERIFY(test::isSaid("already"));
        QVERIFY(!test::run(c, print("no such", 5, 1)));
        QVERIFY(!test::run(c, {{"do", "stamp.remove"}, {"name", "scales"}})); // not its own
        c = after(c, {{"do", "stamp.remove"}, {"name", "scales 2"}});
        QVERIFY(c.stamps.empty());
        QVERIFY(!test::run(c, {{"do", "stamp.add"}, {"path", folder.filePath("none.png").toStdString()}}));
    }

    // What was chosen when it was taken can be chosen otherwise later: turned over, a stamp presses what it raised.
    void ownStampsCanBeChanged()
    {
        Creature c = after(after(sheet(), print("barnacle", 6, 1)), {{"do", "stamp.harvest"}, {"at", {0, 0, 0}}, {"size", 8}});
        const image::HeightPicture was = *c.stamps[0].picture;
        const Creature set = after(c, {{"do", "stamp.set"}, {"name", "Harvest"}, {"middle", 0.25}, {"depth", 3}});
        QVERIFY(set.stamps[0].picture->values == was.values && c.stamps[0].picture->middle == was.middle);
        QVERIFY(std::abs(set.stamps[0].picture->middle - 0.25f) < 1e-4f);
        QCOMPARE(set.stamps[0].depth, 3.0f);
        const Creature over = after(c, {{"do", "stamp.set"}, {"name", "Harvest"}, {"invert", true}});
        QCOMPARE(over.stamps[0].depth, c.stamps[0].depth);
        const Creature up = after(c, print("Harvest", 6, 1)), down = after(over, print("Harvest", 6, 1));
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
            const Vec3f a = skinOf(up).shown.positions[v] - skinOf(c).shown.positions[v],
                        b = skinOf(down).shown.positions[v] - skinOf(c).shown.positions[v];
            QVERIFY(length(a + b) < 2e-3f);
        }
        const Creature tiled = after(c, {{"do", "stamp.set"}, {"name", "Harvest"}, {"tile", true}});
        image::HeightPicture wanted = image::tileable(was);
        toSixteenBits(wanted);
        QVERIFY(tiled.stamps[0].picture->values == wanted.values);
        QVERIFY(!test::run(c, {{"do", "stamp.set"}, {"name", "scales"}, {"depth", 2}})); // comes with the program
        QVERIFY(!test::run(c, {{"do", "stamp.set"}, {"name", "Harvest"}, {"middle", 2}}));
    }

    void isSavedAndPressedTheSame()
    {
        QTemporaryDir folder;
        Creature c = after(sheet(), print("barnacle", 6, 1));
        c = after(c, {{"do", "stamp.harvest"}, {"at", {0, 0, 0}}, {"size", 8}, {"name", "taken"}, {"tile", true}});
        const std::filesystem::path file = folder.filePath("a.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(file, c)));
        const auto loaded = store::loadStore(file);
        QVERIFY(bool(loaded));
        QCOMPARE(loaded->creature.stamps.size(), std::size_t(1));
        QVERIFY(loaded->creature.stamps[0].picture->values == c.stamps[0].picture->values);
        QCOMPARE(loaded->creature.stamps[0].depth, c.stamps[0].depth);
        const json again = print("taken", 7, 0.5);
        const Creature a = after(c, again), b = after(loaded->creature, again);
        for (std::size_t v = 0; v < skinOf(a).body.size(); ++v)
            QVERIFY(skinOf(a).shown.positions[v] == skinOf(b).shown.positions[v]);
        // As a growth all over the skin.
        const Creature grown = after(a, {{"do", "grow.prints"}, {"stamp", "taken"}, {"size", 6}});
        QCOMPARE(skinOf(grown).layers.back().growth->stamp, std::string("taken"));
        QVERIFY(!test::run(a, {{"do", "grow.prints"}, {"stamp", "no such"}}));
    }

    // Borders meet, and the middle stays what it was.
    void tileableHasNoSeam()
    {
        image::HeightPicture p = *image::builtInStamp("wrinkles");
        for (int y = 0; y < p.height; ++y) // a slope that does not repeat
            for (int x = 0; x < p.width; ++x) {
                float &v = p.values[std::size_t(y * p.width + x)];
                v = 0.3f * v + 0.35f * float(x) / float(p.width) + 0.2f * float(y) / float(p.height);
            }
        const image::HeightPicture t = tileable(p);
        const auto seam = [](const image::HeightPicture &q) {
            float most = 0;
            for (int k = 0; k < q.width; ++k) {
                const auto at = [&](int x, int y) { return q.values[std::size_t(y * q.width + x)]; };
                most = std::max({most, std::abs(at(0, k) - at(q.width - 1, k)), std::abs(at(k, 0) - at(k, q.height - 1))});
            }
            return most;
        };
        QVERIFY2(seam(p) > 0.3f && seam(t) < 0.06f, qPrintable(QString::number(double(seam(t)))));
        const int m = p.width / 2;
        QVERIFY(std::abs(t.at(0.5f, 0.5f) - p.at(0.5f, 0.5f)) < 1e-4f);
        QVERIFY(std::abs(t.values[std::size_t(m * p.width + m + 20)] - p.values[std::size_t(m * p.width + m + 20)]) < 1e-4f);
    }

    // The same print three times in a row is found twice (the first is no repetition); prints of other shapes, or turned, are not.
    void repetitionIsFoundAndVaried()
    {
        const auto pressed = [](Creature c, const char *stamp, double x, double turn) {
            json p = print(stamp, 4, 0.8);
            p["samples"] = {{x, 0, 0, 1}}, p["layer"] = "Detail", p["turn"] = turn;
            return after(c, p);
        };
        Creature c = after(sheet(), {{"do", "layer.add"}, {"name", "Detail"}});
        for (const double x : {-12.0, 0.0, 12.0})
            c = pressed(c, "barnacle", x, 0);
        const json look = {{"do", "detail.repeats"}, {"width", 7}, {"likeness", 0.9}};
        const Creature told = after(c, look);
        QVERIFY(test::isSaid("2 places"));
        QVERIFY(skinOf(told).shown.positions.sharesWith(skinOf(c).shown.positions, 0)); // only looked at
        json mask = look;
        mask["how"] = "mask";
        QVERIFY(skinOf(after(c, mask)).hasMask());
        json vary = look;
        vary["how"] = "vary";
        const Creature varied = after(c, vary);
        after(varied, look);
        QVERIFY2(test::isSaid("no pattern"), test::notes[0].c_str());
        float highest = 0, was = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v)
            highest = std::max(highest, skinOf(varied).shown.positions[v].y), was = std::max(was, skinOf(c).shown.positions[v].y);
        QVERIFY(highest < 1.7f * was && highest > 0.5f * was);
        // The same print turned, and another one.
        Creature other = after(sheet(), {{"do", "layer.add"}, {"name", "Detail"}});
        other = pressed(other, "claw marks", -12, 0);
        other = pressed(other, "claw marks", 0, 70);
        other = pressed(other, "spiral", 12, 0);
        after(other, look);
        QVERIFY2(test::isSaid("no pattern"), test::notes[0].c_str());
    }

    void jitterIsJitter()
    {
        const auto stroke = [](double flip, double weaker) {
            json c = print("claw marks", 3, 1);
            c["samples"] = {{-12, 0, 0, 1}, {12, 0, 0, 1}}, c["spacing"] = 2, c["randomStrength"] = weaker,
            c["randomFlip"] = flip > 0, c["seed"] = 3;
            return after(sheet(), c);
        };
        const auto volume = [](const Creature &c) {
            double sum = 0;
            for (std::size_t v = 0; v < skinOf(c).body.size(); ++v)
                sum += double(std::abs(skinOf(c).body[v].y));
            return sum;
        };
        const Creature plain = stroke(0, 0), weaker = stroke(0, 1), flipped = stroke(1, 0);
        QVERIFY(volume(weaker) < 0.9 * volume(plain) && volume(weaker) > 0.1 * volume(plain));
        QVERIFY(std::abs(volume(flipped) - volume(plain)) < 0.05 * volume(plain));
        QVERIFY(!(skinOf(flipped).body.flatten() == skinOf(plain).body.flatten()));
    }
};

BONEMOSS_TEST(TestStamps)
#include "tst_stamps.moc"
