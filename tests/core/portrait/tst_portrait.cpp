// Oracles: outlines of a ball seen from afar and from near (elementary geometry: a ball of radius r at distance d covers an angle of
// asin r / d); Lambert's cosine law; the rest is that what a camera says of itself agrees. Where nothing is named: common practice,
// no source.
#include "support/run.h"
#include "base/random.h"
#include "image/picture_file.h"
#include "mesh/surface.h"
#include "portrait/camera.h"
#include "portrait/path_tracer.h"
#include "portrait/studio.h"
#include "portrait/silhouette.h"
#include "portrait/traced_scene.h"
#include "support/shapes.h"

#include <QtTest>

#include <algorithm>
#include <numbers>
#include <stop_token>

using namespace bonemoss;
using portrait::Camera;

namespace {

Camera lookingFrom(Vec3f from, Vec3f up = {0, 1, 0})
{
    Camera c;
    c.rotation = portrait::rotationLooking(from, up);
    return c;
}

/// Where a point lies in the picture, -1 to 1 each way, worked out from the camera's axes.
std::array<float, 2> onPicture(const Camera &c, Vec3f p, float aspect)
{
    const Vec3f d = p - c.eye();
    const float half = std::tan(c.fieldOfView / 2) * (c.isParallel ? c.distance : dot(d, c.forward()));
    return {dot(d, c.right()) / (half * aspect), dot(d, c.up()) / half};
}

double meanOf(const image::ColourPicture &p, int x0, int y0, int x1, int y1)
{
    double sum = 0;
    for (int y = y0; y < y1; ++y)
        for (int x = x0; x < x1; ++x)
            for (std::size_t k = 0; k < 3; ++k)
                sum += p.rgba[(std::size_t(y) * std::size_t(p.width) + std::size_t(x)) * 4 + k];
    return sum / (3.0 * (x1 - x0) * (y1 - y0));
}

io::Scene sceneOf(const mesh::PolyMesh &mesh, std::optional<Vec3f> colour = {})
{
    io::Scene scene;
    scene.add({"thing", mesh}, {{}, colour});
    return scene;
}

} // namespace

class TestPortrait : public QObject
{
    Q_OBJECT
private slots:
    void viewsStandWhereTheySay()
    {
        for (const portrait::NamedView &v : portrait::anatomicalViews()) {
            const auto turn = portrait::viewRotation(v.key);
            QVERIFY(turn);
            Camera c;
            c.rotation = *turn;
            QVERIFY(length(c.forward() + v.from) < 1e-5f && length(c.up() - v.up) < 1e-5f);
            QVERIFY(length(cross(c.right(), c.up()) + c.forward()) < 1e-5f); // right-handed, looking along -z
            QVERIFY(!v.title.empty());
        }
        // The creature's left is +x: seen from the nose it is on the right of the picture.
        Camera nose;
        nose.rotation = *portrait::viewRotation("nose");
        QVERIFY(nose.right().x > 0.99f);
        QVERIFY(portrait::viewRotation("three-quarter") && !portrait::viewRotation("from the moon"));
    }
    void turnsLookWhereTheyAreTold()
    {
        for (std::uint64_t k = 0; k < 400; ++k) { // all four ways of the formula
            const Vec3f from = normalized(Vec3f{randomSigned(1, 3 * k), randomSigned(1, 3 * k + 1), randomSigned(1, 3 * k + 2)});
            const Vec3f up = normalized(Vec3f{randomSigned(2, 3 * k), randomSigned(2, 3 * k + 1), randomSigned(2, 3 * k + 2)});
            if (std::abs(dot(from, up)) > 0.98f)
                continue;
            const Camera c = lookingFrom(from, up);
            QVERIFY(length(c.forward() + from) < 1e-4f);
            QVERIFY(std::abs(dot(c.right(), up)) < 1e-4f && dot(c.up(), up) > 0);
            QVERIFY(std::abs(c.rotation.x * c.rotation.x + c.rotation.y * c.rotation.y + c.rotation.z * c.rotation.z
                             + c.rotation.w * c.rotation.w - 1)
                    < 1e-5f);
        }
    }
    void raysGoThroughTheirPixels_data()
    {
        QTest::addColumn<bool>("isParallel");
        QTest::addColumn<float>("aspect");
        for (const bool isParallel : {false, true})
            for (const float aspect : {0.5f, 1.0f, 1.6f})
                QTest::addRow("%s %g", isParallel ? "parallel" : "eye", double(aspect)) << isParallel << aspect;
    }
    void raysGoThroughTheirPixels()
    {
        QFETCH(bool, isParallel);
        QFETCH(float, aspect);
        Camera c = lookingFrom({0.5f, 0.3f, 0.8f});
        c.target = {4, 50, -7}, c.distance = 320, c.isParallel = isParallel;
        for (std::uint64_t k = 0; k < 60; ++k) {
            const float x = randomSigned(7, 2 * k), y = randomSigned(7, 2 * k + 1);
            const mesh::Ray ray = c.rayThrough(x, y, aspect);
            QVERIFY(std::abs(length(ray.direction) - 1) < 1e-5f);
            const auto seen = onPicture(c, ray.origin + ray.direction * 400, aspect);
            QVERIFY(std::abs(seen[0] - x) < 2e-4f && std::abs(seen[1] - y) < 2e-4f);
        }
        QVERIFY(length(c.rayThrough(0, 0, aspect).direction - c.forward()) < 1e-5f);
    }
    void framingShowsAllAndNoMore_data() { raysGoThroughTheirPixels_data(); }
    void framingShowsAllAndNoMore()
    {
        QFETCH(bool, isParallel);
        QFETCH(float, aspect);
        for (std::uint64_t k = 0; k < 50; ++k) {
            Camera c = lookingFrom(normalized(Vec3f{randomSigned(3, 3 * k), randomSigned(3, 3 * k + 1), 0.5f}));
            c.isParallel = isParallel;
            Box3f box;
            box.add(Vec3f{randomSigned(4, 6 * k), randomSigned(4, 6 * k + 1), randomSigned(4, 6 * k + 2)} * 100.0f);
            box.add(Vec3f{randomSigned(4, 6 * k + 3), randomSigned(4, 6 * k + 4), randomSigned(4, 6 * k + 5)} * 100.0f);
            c = portrait::framing(c, box, aspect);
            float farthest = 0;
            for (int corner = 0; corner < 8; ++corner) {
                const Vec3f p{corner & 1 ? box.hi.x : box.lo.x, corner & 2 ? box.hi.y : box.lo.y,
                              corner & 4 ? box.hi.z : box.lo.z};
                const auto seen = onPicture(c, p, aspect);
                farthest = std::max({farthest, std::abs(seen[0]), std::abs(seen[1])});
            }
            QVERIFY2(farthest <= 1 && farthest > 0.85f, qPrintable(QString::number(double(farthest))));
        }
        const Camera before = lookingFrom({1, 0, 0});
        QVERIFY(portrait::framing(before, Box3f{}, aspect) == before); // nothing to show
    }
    // Of points all are seen, and two borders that face each other are reached: nothing could come nearer.
    void framingOfPointsIsTheClosest_data() { raysGoThroughTheirPixels_data(); }
    void framingOfPointsIsTheClosest()
    {
        QFETCH(bool, isParallel);
        QFETCH(float, aspect);
        for (std::uint64_t k = 0; k < 50; ++k) {
            Camera c = lookingFrom(normalized(Vec3f{randomSigned(5, 3 * k), randomSigned(5, 3 * k + 1), 0.5f}));
            c.isParallel = isParallel;
            std::vector<Vec3f> points;
            for (std::uint64_t i = 0; i < 40; ++i)
                points.push_back(Vec3f{randomSigned(k, 3 * i), randomSigned(k, 3 * i + 1), 0.2f * randomSigned(k, 3 * i + 2)}
                                     * 80.0f
                                 + Vec3f{300, -40, 20});
            c = portrait::framing(c, points, aspect);
            std::array<float, 2> least{9, 9}, most{-9, -9};
            for (const Vec3f p : points) {
                const auto seen = onPicture(c, p, aspect);
                for (std::size_t axis = 0; axis < 2; ++axis)
                    least[axis] = std::min(least[axis], float(seen[axis])), most[axis] = std::max(most[axis], float(seen[axis]));
            }
            const auto isFilled = [&](std::size_t axis) {
                return std::abs(most[axis] - 1 / 1.04f) < 1e-3f && std::abs(least[axis] + 1 / 1.04f) < 1e-3f;
            };
            QVERIFY(std::max({most[0], most[1], -least[0], -least[1]}) <= 1);
            QVERIFY(isFilled(0) || isFilled(1));
        }
        const Camera before = lookingFrom({1, 0, 0});
        QVERIFY(portrait::framing(before, std::span<const Vec3f>(), aspect) == before);
    }
    void theOutlineOfABallIsADisc()
    {
        const mesh::Surface ball = mesh::makeSurface(test::sphere(10, 100, 160, {5, 20, -3})),
                            other = mesh::makeSurface(test::sphere(10, 40, 60, {5, 20, 40}));
        Camera c = lookingFrom({0, 0, 1});
        c.isParallel = true, c.target = {5, 20, -3}, c.distance = 60;
        const int side = 400;
        const double perMm = side / double(c.heightAtTarget());
        io::Scene scene;
        for (const auto *what : {&ball, &other}) { // one hides the other
            scene.add({"ball", *what});
            const auto seen = portrait::silhouette(scene, c, side, side);
            QCOMPARE(seen.size(), std::size_t(side) * side);
            std::size_t filled = 0;
            for (int y = 0; y < side; ++y)
                for (int x = 0; x < side; ++x) {
                    const bool isIn = seen[std::size_t(y * side + x)] == 255;
                    const double off = std::hypot(x + 0.5 - side / 2.0, y + 0.5 - side / 2.0) / perMm;
                    QVERIFY(isIn || off > 10 - 1.5 / perMm);
                    QVERIFY(!isIn || off < 10 + 1.5 / perMm);
                    filled += isIn;
                }
            QVERIFY(std::abs(double(filled) / (std::numbers::pi * 100 * perMm * perMm) - 1) < 0.05);
        }
    }
    void theFloorDarkensWhereItIsTouched()
    {
        const Box3f area{{-50, 0, -50}, {50, 50, 50}};
        const mesh::Surface low = mesh::makeSurface(test::sphere(10, 60, 90, {-20, 10, 10})),
                            high = mesh::makeSurface(test::sphere(10, 60, 90, {25, 45, -25}));
        io::Scene both;
        both.add({"low", low}), both.add({"high", high});
        const int side = 100;
        const auto shadow = portrait::contactShadow(both, area, side);
        QCOMPARE(shadow.size(), std::size_t(side) * side);
        const auto at = [&](float x, float z) { return int(shadow[std::size_t(int(z) + 50) * side + std::size_t(int(x) + 50)]); };
        QVERIFY(at(-20, 10) > 60); // under the ball that stands on it
        QVERIFY(at(25, -25) == 0); // not under the one that floats
        QVERIFY(at(40, 40) == 0);  // nor where there is nothing
        QVERIFY(at(-20, 10) >= at(-29, 10));
    }
    // Copies are met where the same mesh, put there point by point, is met: turned, sized and mirrored.
    void copiesAreMetWhereTheyStand()
    {
        io::Scene scene;
        io::Object &o = scene.add({"egg", test::sphere(4, 24, 36, {1, 2, 0})});
        const float c = std::cos(0.7f), s = std::sin(0.7f);
        o.places = {{},
                    {{1.5f, 0, 0, 0, 1.5f, 0, 0, 0, 1.5f, 12, 0, 3}},
                    {{c, s, 0, -s, c, 0, 0, 0, 1, -9, 4, 0}},
                    {{-c, s, 0, s, c, 0, 0, 0, 2, 3, -14, 0}}};
        const portrait::TracedScene copies(scene), all(sceneOf(joined(scene)));
        QVERIFY(copies.memoryBytes() - copies.hierarchyBytes() < (all.memoryBytes() - all.hierarchyBytes()) / 3);
        QVERIFY(length(copies.box().lo - all.box().lo) < 1e-4f && length(copies.box().hi - all.box().hi) < 1e-4f);
        int met = 0;
        for (std::uint64_t k = 0; k < 3000; ++k) {
            const Vec3f from = Vec3f{randomSigned(1, 3 * k), randomSigned(1, 3 * k + 1), randomSigned(1, 3 * k + 2)} * 60.0f;
            const Vec3f to = Vec3f{randomSigned(2, 3 * k), randomSigned(2, 3 * k + 1), randomSigned(2, 3 * k + 2)} * 18.0f;
            const mesh::Ray ray{from, normalized(to - from)};
            const auto a = copies.meet(ray), b = all.meet(ray);
            QCOMPARE(a.has_value(), b.has_value());
            QCOMPARE(copies.isBlocked(from, ray.direction, 1e3f), a.has_value());
            if (!a)
                continue;
            ++met;
            QVERIFY(length(a->point - b->point) < 2e-3f);
            // of faces of other areas where the copy is stretched
            QVERIFY2(dot(a->normal, b->normal) > 0.99f, qPrintable(QString::number(double(dot(a->normal, b->normal)))));
        }
        QVERIFY(met > 500);
    }
    // A straight hair of radius r is met by rays that pass it nearer than r, at the height where they pass (elementary geometry); it
    // narrows evenly here, and copies are as thick as they are large.
    void hairIsMetAsFarAsItReaches()
    {
        auto hair = std::make_shared<mesh::Curves>();
        hair->points = {{0, 0, 0}, {0, 5, 0}, {0, 10, 0}, {4, 0, 0}, {4, 10, 0}};
        hair->radii = {0.4f, 0.3f, 0.2f, 0.1f, 0.1f};
        hair->starts = {0, 3};
        io::Scene scene;
        io::Shape shape("hair", test::sphere(1, 6, 8, {0, 5, 0})); // its faces are not traced
        shape.curves = hair;
        io::Object &o = scene.add(std::move(shape), {"hair", Vec3f{1, 0, 0}});
        o.places = {{}, {{0, 2, 0, -2, 0, 0, 0, 0, 2, -10, 30, 0}}}; // the other: a quarter turn, twice as large
        const portrait::TracedScene traced(scene);
        const auto met = [&](float x, float y) { return traced.meet({{x, y, 50}, {0, 0, -1}}); };
        for (const float y : {1.0f, 3.0f, 6.0f, 9.0f}) {
            const float radius = 0.4f - 0.02f * y;
            for (const float side : {-1.0f, 1.0f}) {
                const auto in = met(side * radius * 0.93f, y);
                QVERIFY(in && !met(side * radius * 1.07f, y));
                QVERIFY(std::abs(in->along - y / 10) < 0.01f);
                QVERIFY(std::abs(in->tangent.y) > 0.999f && in->normal.z > 0.999f);
            }
        }
        QVERIFY(met(4.09f, 5) && !met(4.11f, 5));
        const auto turned = met(-20, 30 + 0.55f); // at its middle: twice 0.3 thick
        QVERIFY(turned && std::abs(turned->tangent.x) > 0.999f && std::abs(turned->along - 0.5f) < 0.01f);
        QVERIFY(!met(-20, 30 + 0.65f));
    }
    void hairIsPaintedFromRootToTip()
    {
        auto hair = std::make_shared<mesh::Curves>();
        hair->points = {{0, 0, 0}, {0, 20, 0}};
        hair->radii = {3, 3};
        hair->starts = {0};
        io::Scene scene;
        io::Shape shape("hair", test::sphere(1, 6, 8, {0, 10, 0}));
        shape.curves = hair;
        scene.add(std::move(shape),
                  {.name = "hair", .colour = Vec3f{0.8f, 0.05f, 0.05f}, .tipColour = Vec3f{0.05f, 0.05f, 0.8f}});
        Camera c = lookingFrom({0, 0, 1});
        c.target = {0, 10, 0}, c.distance = 80, c.isParallel = true;
        portrait::Shot shot;
        shot.camera = c, shot.aspect = 1;
        const auto tracer = portrait::PathTracer::make(scene, portrait::lightSets().front().make(20), shot);
        QVERIFY(bool(tracer));
        portrait::Gathered g = (*tracer)->blank(64, 64);
        (*tracer)->gather(g, {.samples = 4});
        const double perMm = 64 / double(c.heightAtTarget());
        const auto at = [&](double y) { return g.albedo[std::size_t(32 - (y - 10) * perMm) * 64 + 32] * 0.25f; };
        const Vec3f low = at(2), high = at(18); // a tenth of the way from red to blue, and nine tenths
        QVERIFY(std::abs(low.x - 0.725f) < 0.03f && std::abs(low.z - 0.125f) < 0.03f);
        QVERIFY(std::abs(high.x - 0.125f) < 0.03f && std::abs(high.z - 0.725f) < 0.03f);
    }
    void studioLightShowsTheForm()
    {
        const mesh::PolyMesh ball = test::sphere(10, 80, 120, {0, 10, 0});
        const io::Scene clay = sceneOf(ball);
        Camera c = lookingFrom({0, 0, 1});
        c = portrait::framing(c, mesh::boundsOf(ball.positions), 1);
        const int side = 96;
        const auto picture = portrait::studioPicture(clay, c, side, side, 4);
        QVERIFY(picture && picture->width == side && picture->height == side);
        QCOMPARE(picture->rgba.size(), std::size_t(side) * side * 4);
        const int middle = side / 2, wide = side / 10;
        const double above = meanOf(*picture, middle - wide, side / 5, middle + wide, side / 5 + wide),
                     below = meanOf(*picture, middle - wide, side * 4 / 5 - wide, middle + wide, side * 4 / 5);
        QVERIFY2(above > below + 20, qPrintable(QString("%1 %2").arg(above).arg(below)));
        // What is whole in the light is neither black nor burnt out.
        QVERIFY(above > 60 && above < 250);
        for (std::size_t i = 3; i < picture->rgba.size(); i += 4)
            QCOMPARE(int(picture->rgba[i]), 255);
        // The same again has the same bits; another colour is another picture.
        QVERIFY(portrait::studioPicture(clay, c, side, side, 4)->rgba == picture->rgba);
        const io::Scene red = sceneOf(ball, Vec3f{0.6f, 0.05f, 0.05f});
        const auto reddish = portrait::studioPicture(red, c, side, side, 4);
        const std::size_t pixel = (std::size_t(side / 2) * side + side / 2) * 4;
        QVERIFY(reddish && reddish->rgba[pixel] > 2 * reddish->rgba[pixel + 1]);
    }
    void studioPicturesCanBeStoppedAndEmptyOnesAreTold()
    {
        const mesh::PolyMesh ball = test::sphere(10, 20, 30);
        const io::Scene clay = sceneOf(ball);
        std::stop_source stop;
        stop.request_stop();
        Progress progress;
        progress.stop = stop.get_token();
        const auto stopped = portrait::studioPicture(clay, lookingFrom({0, 0, 1}), 64, 64, 2, progress);
        QVERIFY(!stopped);
        QCOMPARE(stopped.error().code, ErrorCode::Cancelled);
        const auto nothing = portrait::studioPicture({}, lookingFrom({0, 0, 1}), 32, 32, 1);
        QCOMPARE(nothing.error().code, ErrorCode::Empty);
    }
    void picturesAreWrittenWholeOrNotAtAll()
    {
        QTemporaryDir dir;
        image::ColourPicture p{37, 23, {}};
        for (std::uint64_t i = 0; i < 37 * 23; ++i)
            for (std::uint64_t k = 0; k < 4; ++k)
                p.rgba.push_back(k == 3 ? std::uint8_t(255) : std::uint8_t(randomBits(8, 4 * i + k)));
        const std::string path = dir.filePath("a.png").toStdString();
        QVERIFY(bool(image::writePng(path, p)));
        const QImage back(QString::fromStdString(path)); // read by another program's reader
        QVERIFY(back.width() == 37 && back.height() == 23);
        const QImage rgba = back.convertToFormat(QImage::Format_RGBA8888);
        for (int y = 0; y < 23; ++y)
            QVERIFY(std::equal(rgba.constScanLine(y), rgba.constScanLine(y) + 37 * 4, p.rgba.data() + std::size_t(y) * 37 * 4));
        QCOMPARE(image::writePng(dir.filePath("none/a.png").toStdString(), p).error().code, ErrorCode::Unwritable);
        QCOMPARE(QDir(dir.path()).entryList(QDir::Files).size(), 1); // nothing half-written lies about
    }
    // Bilinear sampling as written down (common practice, no source), wrapped at the borders.
    void heightsAreReadBetweenPixels()
    {
        image::HeightPicture p;
        p.width = 7, p.height = 5;
        for (std::uint64_t i = 0; i < 35; ++i)
            p.values.push_back(randomUnit(12, i));
        const auto pixel = [&](int x, int y) { return double(p.values[std::size_t((y % 5 + 5) % 5 * 7 + (x % 7 + 7) % 7)]); };
        for (std::uint64_t k = 0; k < 500; ++k) {
            const float u = 3 * randomSigned(13, 2 * k), v = 3 * randomSigned(13, 2 * k + 1);
            const double x = double(u) * 7 - 0.5, y = double(v) * 5 - 0.5;
            const int i = int(std::floor(x)), j = int(std::floor(y));
            const double s = x - i, t = y - j;
            const double wanted = (pixel(i, j) * (1 - s) + pixel(i + 1, j) * s) * (1 - t)
                                  + (pixel(i, j + 1) * (1 - s) + pixel(i + 1, j + 1) * s) * t;
            QVERIFY2(std::abs(double(p.at(u, v)) - wanted) < 2e-5, qPrintable(QString("%1 %2").arg(double(u)).arg(double(v))));
        }
        image::HeightPicture steps = p;
        image::toSixteenBits(steps);
        for (std::size_t i = 0; i < 35; ++i) {
            QVERIFY(std::abs(steps.values[i] - p.values[i]) <= 0.5f / 65535 + 1e-7f);
            const double whole = double(steps.values[i]) * 65535;
            QVERIFY(std::abs(whole - std::round(whole)) < 1e-2);
        }
    }
};

BONEMOSS_TEST(TestPortrait)
#include "tst_portrait.moc"
