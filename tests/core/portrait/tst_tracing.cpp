// Pictures that are traced. Oracles: a white ball in even light is as bright as that (the furnace), also inside and through; Lambert's
// law under a lamp of a known irradiance; the passes add up; rays shot one by one; the same bits on other threads and in parts.
#include "base/parallel.h"
#include "image/picture_file.h"
#include "portrait/develop.h"
#include "portrait/filter.h"
#include "portrait/passes.h"
#include "portrait/path_tracer.h"
#include "portrait/traced_scene.h"
#include "support/run.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <cstring>

using namespace bonemoss;
using namespace bonemoss::portrait;

namespace {

io::Scene ballOf(io::Material material)
{
    io::Scene scene;
    scene.add({"ball", test::sphere(10, 48, 96)}, std::move(material));
    return scene;
}
Stage evenStage(float strength)
{
    Stage s;
    s.surroundings = {.kind = Surroundings::Kind::Even, .above = {1, 1, 1}, .below = {1, 1, 1}, .strength = strength};
    s.backdrop = {.kind = Backdrop::Kind::Colour, .high = {0, 0, 0}};
    s.ground.kind = "none";
    return s;
}
Shot shotFrom(const char *view, const Box3f &box)
{
    Shot s;
    s.aspect = 1;
    s.camera.rotation = *viewRotation(view);
    s.camera = framing(s.camera, box, 1);
    return s;
}
std::unique_ptr<PathTracer> tracerOf(const io::Scene &scene, const Stage &stage, const char *view = "left")
{
    auto made = PathTracer::make(scene, stage, shotFrom(view, scene.box()));
    if (!made)
        qFatal("%s", made.error().text().c_str());
    return std::move(*made);
}
Vec3f middleOf(const Gathered &g, int half)
{
    Vec3f sum;
    for (int y = g.height / 2 - half; y < g.height / 2 + half; ++y)
        for (int x = g.width / 2 - half; x < g.width / 2 + half; ++x)
            sum += g.all(std::size_t(y * g.width + x));
    return sum * (1 / float(4 * half * half));
}
bool isSame(const std::vector<Vec3f> &a, const std::vector<Vec3f> &b)
{
    return a.size() == b.size() && std::memcmp(a.data(), b.data(), a.size() * sizeof(Vec3f)) == 0;
}

} // namespace

class TestTracing : public QObject
{
    Q_OBJECT
private slots:
    void furnace_data()
    {
        QTest::addColumn<float>("gloss");
        QTest::addColumn<float>("metal");
        QTest::addColumn<float>("through");
        QTest::addColumn<float>("least");
        QTest::newRow("matt") << 0.0f << 0.0f << 0.0f << 0.98f;
        QTest::newRow("glossy") << 0.8f << 0.0f << 0.0f << 0.98f;
        QTest::newRow("metal") << 0.5f << 1.0f << 0.0f << 0.98f;
        QTest::newRow("translucent") << 0.2f << 0.0f << 1.0f
                                     << 0.75f; // colours are kept to 0.98 inside, and long walks are given up
    }
    void furnace()
    {
        QFETCH(float, gloss);
        QFETCH(float, metal);
        QFETCH(float, through);
        QFETCH(float, least);
        const auto tracer =
            tracerOf(ballOf({.colour = Vec3f{1, 1, 1}, .finish = {gloss, metal, 0.0f, through}}), evenStage(0.5f));
        Gathered g = tracer->blank(24, 24);
        QVERIFY(tracer->gather(g, {.samples = 64}));
        const Vec3f c = middleOf(g, 5) * 2;
        QVERIFY2(c.x < 1.03f && c.x > least, qPrintable(QString::number(double(c.x))));
    }
    void clearIsSeenThrough()
    {
        io::Scene scene = ballOf({.colour = Vec3f{0.5f, 0.5f, 0.5f}});
        scene.add({"cover", test::sphere(12, 48, 96)}, {.colour = Vec3f{1, 1, 1}, .opacity = 0.1f});
        const auto tracer = tracerOf(scene, evenStage(0.5f)),
                   bare = tracerOf(ballOf({.colour = Vec3f{0.5f, 0.5f, 0.5f}}), evenStage(0.5f));
        Gathered g = tracer->blank(24, 24), without = bare->blank(24, 24);
        QVERIFY(tracer->gather(g, {.samples = 64}) && bare->gather(without, {.samples = 64}));
        // Some is mirrored on the cover, the rest comes through it: not black, and about as bright.
        QVERIFY2(std::abs(middleOf(g, 3).x / middleOf(without, 3).x - 1) < 0.1f,
                 qPrintable(QStringLiteral("%1 %2").arg(double(middleOf(g, 3).x)).arg(double(middleOf(without, 3).x))));
    }
    void roughClearSpreadsWhatIsBehind()
    {
        // Two halves, dark and light, under a cover. What is seen near their border spreads with roughness; no light is made, and most
        // of it comes through.
        io::Shape halves("halves", test::sphere(10, 48, 96));
        io::Attribute colours{std::string(io::kColour), mesh::Domain::Vertex, 3, {}};
        halves.eachPoint([&](Vec3f p) { colours.values.insert(colours.values.end(), 3, p.y > 0 ? 0.9f : 0.05f); });
        halves.attributes.push_back(std::move(colours));
        const auto seenUnder = [&](std::optional<float> gloss) {
            io::Scene scene;
            scene.add(halves, {.colour = Vec3f{1, 1, 1}});
            scene.add({"cover", test::sphere(25, 48, 96)}, {.colour = Vec3f{1, 1, 1}, .opacity = 0.1f, .finish = {gloss}});
            const auto tracer = tracerOf(scene, evenStage(0.5f));
            Gathered g = tracer->blank(24, 24);
            tracer->gather(g, {.samples = 128});
            return g;
        };
        const Gathered smooth = seenUnder({}), glossy = seenUnder(1.0f), rough = seenUnder(0.2f);
        QVERIFY(isSame(smooth.light[0], glossy.light[0]));
        const auto at = [](const Gathered &g, int y) { return g.all(std::size_t(y * 24 + 12)).x; };
        QVERIFY(at(rough, 12) > 1.5f * at(smooth, 12) && at(rough, 7) < 0.7f * at(smooth, 7));
        const float before = middleOf(smooth, 6).x, after = middleOf(rough, 6).x;
        QVERIFY2(after < before * 1.1f && after > before * 0.65f, qPrintable(QStringLiteral("%1 %2").arg(before).arg(after)));
    }
    void lightInsideAsPublished()
    {
        // A deep body that scatters evenly gives back (1 - s)(1 - 0.139 s) / (1 + 1.17 s) of even light, s the root of what is absorbed:
        // H. C. van de Hulst 1980, "Multiple Light Scattering", chapter 18 (similarity). The walk scatters 1 - exp(-5.09406 A + 2.61188 A^2
        // - 4.31805 A^3): M. Chiang, P. Kutz & B. Burley 2016, equation 6.
        for (const float colour : {0.2f, 0.5f, 0.8f}) {
            const auto seen = [&](float c, float through) {
                io::Scene scene = ballOf({.colour = Vec3f{c, c, c}, .finish = {0.0f, 0.0f, 0.0f, through}});
                scene.materials[0].inside = {0.02f, {1, 1, 1}};
                const auto tracer = tracerOf(scene, evenStage(0.5f));
                Gathered g = tracer->blank(16, 16);
                tracer->gather(g, {.samples = 256});
                return middleOf(g, 4).x * 2;
            };
            const float gloss = seen(0, 0), given = (seen(colour, 1) - gloss) / ((seen(colour, 0) - gloss) / colour);
            const float a = 1 - std::exp(-5.09406f * colour + 2.61188f * colour * colour - 4.31805f * colour * colour * colour),
                        s = std::sqrt(1 - a), published = (1 - s) * (1 - 0.139f * s) / (1 + 1.17f * s);
            QVERIFY2(std::abs(given / published - 1) < 0.06f, qPrintable(QStringLiteral("%1 %2").arg(given).arg(published)));
        }
    }
    void lightGoesAsDeepAsIsSaid()
    {
        // A thin plate lit from behind: more comes through where light goes deeper, and most of the colour that goes deepest.
        io::Scene scene;
        scene.add({"plate", test::box({-20, -20, -0.5f}, {20, 20, 0.5f})},
                  {.colour = Vec3f{0.6f, 0.6f, 0.6f}, .finish = {0.0f, 0.0f, 0.0f, 1.0f}});
        Stage stage = evenStage(0);
        stage.surroundings.kind = Surroundings::Kind::None;
        stage.lights.push_back({.id = 1, .shape = Light::Shape::Sun, .azimuth = 180, .elevation = 0, .size = 1, .strength = 3});
        const auto seen = [&](Scattering inside) {
            scene.materials[0].inside = inside;
            const auto tracer = tracerOf(scene, stage, "nose");
            Gathered g = tracer->blank(16, 16);
            tracer->gather(g, {.samples = 256});
            return middleOf(g, 3);
        };
        const Vec3f shallow = seen({0.05f, {1, 1, 1}}), deep = seen({0.5f, {1, 1, 1}}), red = seen({0.5f, {1, 0.3f, 0.1f}});
        QVERIFY2(deep.x > 3 * shallow.x && deep.x > 0.05f, qPrintable(QStringLiteral("%1 %2").arg(deep.x).arg(shallow.x)));
        QVERIFY(red.x > 1.5f * red.y && red.y > 1.5f * red.z);
    }
    void aPieceCanBeGround()
    {
        io::Scene scene = ballOf({.colour = Vec3f{0.5f, 0.5f, 0.5f}});
        scene.objects[0].item = 3;
        scene.add({"slab", test::plane(200, 4)}, {.colour = Vec3f{0.5f, 0.5f, 0.5f}}).item = 4;
        Stage stage = lightSets().front().make(20);
        const auto boxOf = [&](const Ground &ground) {
            stage.ground = ground;
            return tracerOf(scene, stage)->box();
        };
        QVERIFY(boxOf({.kind = "piece", .piece = 4}) == ballOf({}).box() && boxOf({.kind = "none", .piece = 4}) == scene.box());
        QVERIFY(scene.points(4).size() == ballOf({}).points().size());
        const auto digest = [&](const Stage &s) { return tracerOf(scene, s)->digest(); };
        Stage other = stage;
        other.lights[0].strength *= 1.5f;
        QVERIFY(digest(stage) == digest(stage) && digest(stage) != digest(other));
        scene.leaveOut(4);
        QVERIFY(scene.objects.size() == 1 && digest(stage) != digest(other));
    }
    void lampOnALevel()
    {
        io::Scene scene;
        scene.add({"level", test::plane(40, 8)}, {.colour = Vec3f{1, 1, 1}, .finish = {0.0f}});
        Stage stage = evenStage(0);
        stage.surroundings.kind = Surroundings::Kind::None;
        stage.lights = {{.id = 1,
                         .name = "a",
                         .shape = Light::Shape::Sun,
                         .azimuth = 0,
                         .elevation = 40,
                         .size = 1,
                         .strength = 0.5f,
                         .kelvin = 0},
                        {.id = 2,
                         .name = "b",
                         .shape = Light::Shape::Ball,
                         .elevation = 90,
                         .distance = 400,
                         .size = 30,
                         .strength = 0.25f,
                         .kelvin = 0}};
        const auto tracer = tracerOf(scene, stage, "crown");
        Gathered g = tracer->blank(16, 16);
        QVERIFY(tracer->gather(g, {.samples = 256}));
        QCOMPARE(g.lights.size(), std::size_t(4));
        Vec3f a, b;
        for (int y = 6; y < 10; ++y)
            for (int x = 6; x < 10; ++x)
                a += g.light[0][std::size_t(y * 16 + x)] * (1 / 16.0f / 256),
                    b += g.light[1][std::size_t(y * 16 + x)] * (1 / 16.0f / 256);
        // White gives back all: what shines on it times the cosine. The rough gloss of it shines a little more one way than another.
        QVERIFY2(std::abs(a.x - 0.5f * std::sin(40 * kRadiansPerDegree)) < 0.025f, qPrintable(QString::number(double(a.x))));
        QVERIFY2(std::abs(b.x - 0.25f) < 0.015f, qPrintable(QString::number(double(b.x))));
        // All lights together are the picture, to rounding.
        const LinearPicture all = mixed(g);
        for (std::size_t i = 0; i < g.size(); ++i) {
            Vec3f sum;
            for (const auto &l : g.light)
                sum += l[i] * (1 / 256.0f);
            QVERIFY(length(sum - all.light[i]) < 1e-5f);
        }
        const std::array<LightMix, 1> twice{{{"a", 2, {1, 0, 0}}}};
        const Vec3f was = all.light[136], is = mixed(g, twice).light[136], own = g.light[0][136] * (1 / 256.0f);
        QVERIFY(length(is - (was - own + Vec3f{2 * own.x, 0, 0})) < 1e-5f);
    }
    void sameBitsAnywhere()
    {
        io::Scene scene = ballOf({.colour = Vec3f{0.6f, 0.3f, 0.2f}, .finish = {0.4f, 0.0f, 0.0f, 0.4f}});
        Stage stage = lightSets().front().make(20);
        std::uint32_t id = 1;
        for (Light &l : stage.lights)
            l.id = id++;
        const auto tracer = tracerOf(scene, stage);
        Gathered whole = tracer->blank(40, 33), one = tracer->blank(40, 33), again = tracer->blank(40, 33);
        QVERIFY(tracer->gather(whole, {.samples = 6, .error = 0.02f, .seed = 4}));
        {
            const ThreadLimit alone(1);
            QVERIFY(tracer->gather(one, {.samples = 6, .error = 0.02f, .seed = 4}));
        }
        QVERIFY(tracer->gather(again, {.samples = 3, .seed = 4})
                && tracer->gather(again, {.samples = 6, .error = 0.02f, .seed = 4}));
        for (std::size_t k = 0; k < whole.light.size(); ++k)
            QVERIFY(isSame(whole.light[k], one.light[k]) && isSame(whole.light[k], again.light[k]));
        QVERIFY(isSame(filtered(whole, FilterQuality::Full), filtered(one, FilterQuality::Full)));
        Gathered tile = tracer->blank(40, 33, {7, 11, 20, 15});
        QVERIFY(tracer->gather(tile, {.samples = 6, .error = 0.02f, .seed = 4}));
        for (int y = 0; y < 15; ++y)
            for (int x = 0; x < 20; ++x)
                QVERIFY(tile.light[0][std::size_t(y * 20 + x)] == whole.light[0][std::size_t((y + 11) * 40 + x + 7)]);
        Gathered other = tracer->blank(40, 33);
        QVERIFY(tracer->gather(other, {.samples = 6, .seed = 5}));
        QVERIFY(!isSame(other.light[0], whole.light[0]));
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(!tracer->gather(other, {.samples = 60}, {stop.get_token(), {}}));
    }
    void passesAreWhatRaysMeet()
    {
        const io::Scene scene = ballOf({.colour = Vec3f{0.2f, 0.4f, 0.6f}});
        const auto tracer = tracerOf(scene, evenStage(0.5f));
        const Shot shot = shotFrom("left", scene.box());
        Gathered g = tracer->blank(33, 33);
        QVERIFY(tracer->gather(g, {.samples = 16}));
        const std::size_t middle = 16 * 33 + 16;
        const TracedScene traced(scene);
        const auto met = traced.meet(shot.camera.rayThrough(0, 0, 1));
        QVERIFY(met && std::abs(g.depth[middle] / 16 - met->distance) < 0.02f);
        QVERIFY(length(normalized(g.normal[middle]) - met->normal) < 0.05f);
        QVERIFY(length(g.albedo[middle] * (1 / 16.0f) - Vec3f{0.2f, 0.4f, 0.6f}) < 1e-5f);
        QCOMPARE(g.object[middle], 0u);
        QVERIFY(g.cover[0] == 0 && g.object[0] == kNone && g.open[middle] == 16);
        // Written and read again, with names, in 16 bits.
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/p.exr").toStdString();
        const std::array<std::string, 1> all{"all"}, wrong{"hue"};
        const auto channels = toChannels(g, all);
        QVERIFY(bool(channels) && bool(image::writeChannels(file, *channels)));
        const auto back = image::readChannels(file);
        QVERIFY(bool(back) && back->width == 33 && back->names.size() == channels->names.size());
        const std::size_t z = back->channel("depth.Z"), wide = back->names.size();
        QVERIFY(z < wide && std::abs(back->values[middle * wide + z] - met->distance) < 0.02f);
        const auto lights = lightsFrom(*back);
        QVERIFY(bool(lights) && lights->lights.size() == g.lights.size());
        QVERIFY(length(lights->all(middle) - g.all(middle)) < 0.002f);
        QVERIFY(toChannels(g, wrong).error().text().find("depth") != std::string::npos); // what there is is named
        QVERIFY(!lightsFrom({1, 1, {"R"}, {0}, {}}));
    }
    void theFilterTakesNoise()
    {
        io::Scene scene = ballOf({.colour = Vec3f{0.6f, 0.5f, 0.4f}, .finish = {0.3f}});
        scene.add({"level", test::plane(60, 8)}, {.colour = Vec3f{0.3f, 0.35f, 0.3f}});
        Stage stage = lightSets().front().make(40);
        const auto tracer = tracerOf(scene, stage, "three-quarter");
        Gathered rough = tracer->blank(96, 72), fine = tracer->blank(96, 72);
        QVERIFY(tracer->gather(rough, {.samples = 8}) && tracer->gather(fine, {.samples = 512, .seed = 99}));
        // Noise of light inside of what is seen; along outlines it is that of the eight places looked at, which guides share.
        const auto isInside = [&](int x, int y) {
            const std::size_t i = std::size_t(y * 96 + x);
            for (const int o : {-97, -96, -95, -1, 1, 95, 96, 97})
                if (fine.object[i + std::size_t(o)] != fine.object[i] || fine.cover[i + std::size_t(o)] < 512)
                    return false;
            return fine.cover[i] == 512;
        };
        const auto error = [&](const std::vector<Vec3f> &p, bool isAll) {
            double sum = 0;
            for (int y = 1; y < 71; ++y)
                for (int x = 1; x < 95; ++x)
                    if (isAll || isInside(x, y)) {
                        const std::size_t i = std::size_t(y * 96 + x);
                        const Vec3f d = p[i] - fine.all(i);
                        sum += double(dot(d, d) / (dot(fine.all(i), fine.all(i)) + 0.01f));
                    }
            return sum;
        };
        const std::vector<Vec3f> bare = mixed(rough).light, full = filtered(rough, FilterQuality::Full),
                                 quick = filtered(rough, FilterQuality::Quick);
        const double raw = error(bare, false), fully = error(full, false), quickly = error(quick, false);
        QVERIFY2(fully * 2 < raw && quickly * 2 < raw, qPrintable(QStringLiteral("%1 %2 %3").arg(raw).arg(fully).arg(quickly)));
        QVERIFY2(error(full, true) < error(bare, true),
                 qPrintable(QStringLiteral("%1 %2").arg(error(full, true)).arg(error(bare, true))));
    }
    void shadowsFallOnTheFloor()
    {
        Stage stage = evenStage(0.1f);
        stage.ground.kind = "floor";
        stage.backdrop = {.kind = Backdrop::Kind::Colour, .high = {0.5f, 0.5f, 0.5f}};
        stage.lights = {
            {.id = 1, .name = "sun", .shape = Light::Shape::Sun, .azimuth = 90, .elevation = 45, .size = 1, .strength = 1}};
        const io::Scene scene = ballOf({.colour = Vec3f{0.5f, 0.5f, 0.5f}});
        Shot shot = shotFrom("crown", scene.box());
        shot.camera.distance *= 2.5f;
        const auto tracer = PathTracer::make(scene, stage, shot);
        QVERIFY(bool(tracer));
        Gathered g = (*tracer)->blank(64, 64);
        QVERIFY((*tracer)->gather(g, {.samples = 16}));
        // Lit from the left flank (+x), the shadow lies to -x: seen from the crown with the left flank up, below the ball.
        float darkest = 1;
        std::size_t at = 0;
        for (std::size_t i = 0; i < g.size(); ++i)
            if (g.cover[i] == 0 && g.all(i).x < darkest)
                darkest = g.all(i).x, at = i;
        QVERIFY2(darkest < 0.25f && at / 64 > 36, qPrintable(QStringLiteral("%1 %2").arg(double(darkest)).arg(at / 64)));
        QVERIFY(std::abs(g.all(0).x - 0.5f) < 0.02f); // away from it the backdrop is as it is
    }
    void badInput()
    {
        QVERIFY(PathTracer::make({}, Stage(), Shot()).error().code == ErrorCode::Empty);
        Stage stage = evenStage(1);
        stage.surroundings.kind = Surroundings::Kind::Picture;
        const io::Scene scene = ballOf({});
        QVERIFY(PathTracer::make(scene, stage, shotFrom("left", scene.box())).error().code == ErrorCode::Empty);
        auto broken = std::make_shared<image::EncodedPicture>();
        broken->bytes.assign(100, std::byte(7));
        stage.surroundings.picture = broken;
        QVERIFY(!PathTracer::make(scene, stage, shotFrom("left", scene.box())));
        // A camera inside the body sees its inside; nothing breaks.
        Shot inside;
        inside.camera.distance = 1, inside.aspect = 1;
        const auto tracer = PathTracer::make(scene, evenStage(1), inside);
        QVERIFY(bool(tracer));
        Gathered g = (*tracer)->blank(8, 8);
        QVERIFY((*tracer)->gather(g, {.samples = 2}));
        QVERIFY(lightMixOf("Key=2,255,0,0") && !lightMixOf("Key") && !lightMixOf("Key=x") && !lightMixOf("Key=1,2")
                && !lightMixOf("=1"));
    }
    void toneCurve()
    {
        QVERIFY(std::abs(toned({0.18f, 0.18f, 0.18f}, 0, 0.5f).x - 0.18f) < 1e-4f); // middle grey stays
        QVERIFY(std::abs(toned({0.18f, 0, 0}, 1, 0).x - 0.36f) < 1e-4f);            // a stop is twice the light
        float before = -1;
        for (float x = 0; x < 40; x += 0.05f) {
            const float y = toned({x, x, x}, 0, 0.7f).x;
            QVERIFY(y >= before && y <= 1);
            before = y;
        }
        LinearPicture flat{8, 8, std::vector<Vec3f>(64, {0.02f, 0.02f, 0.02f}), {}};
        QVERIFY(std::abs(meteredExposure(flat) - 3) < 1e-3f); // 0.02 * 2^3 = 0.16
    }
};

BONEMOSS_TEST(TestTracing)
#include "tst_tracing.moc"
