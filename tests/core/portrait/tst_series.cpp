// Pictures in parts and in series. Oracles: the same bits as at once; a scene that followed changes against one made anew; what poppler
// (pdfinfo, pdftotext) and webpinfo read in files; black where rays meet the creature, paper where they do not.
#include "export/canvas.h"
#include "export/lettering.h"
#include "image/film_file.h"
#include "mesh/surface.h"
#include "base/parallel.h"
#include "portrait/filter.h"
#include "portrait/passes.h"
#include "portrait/picture_look.h"
#include "portrait/plate.h"
#include "portrait/rendering.h"
#include "support/run.h"
#include "support/shapes.h"

#include <OpenImageIO/imageio.h>

#include <QTemporaryDir>
#include <QtTest>

#include <fstream>
#include <numeric>
#include <set>

using namespace bonemoss;
using namespace bonemoss::portrait;

namespace {

io::Scene ballScene(const mesh::Surface &ball)
{
    io::Scene scene;
    scene.add({"ball", ball}, {.colour = Vec3f{0.7f, 0.1f, 0.1f}});
    io::Object &horn = scene.add({"horn", test::sphere(2, 12, 24)}, {.colour = Vec3f{0.9f, 0.9f, 0.8f}});
    horn.places = {io::Placement{{1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 11, 0}}, io::Placement{{1, 0, 0, 0, 1, 0, 0, 0, 1, 7, 8, 0}}};
    return scene;
}

Shot seenFrom(const char *view, const Box3f &box, float aspect)
{
    Shot s;
    s.aspect = aspect;
    s.camera.rotation = *viewRotation(view);
    s.camera = framing(s.camera, box, aspect);
    return s;
}

std::unique_ptr<PathTracer> viewedFromLeft(const io::Scene &scene, const Stage &stage, float aspect = 1)
{
    auto made = PathTracer::make(scene, stage, seenFrom("left", scene.box(), aspect));
    if (!made)
        qFatal("%s", made.error().text().c_str());
    return std::move(*made);
}

QString outputOf(const char *program, const QStringList &arguments)
{
    const test::Ran ran = test::runProgram(QLatin1String(program), arguments);
    if (ran.code != 0)
        qFatal("%s: %s", program, ran.err.constData());
    return QString::fromUtf8(ran.out);
}

} // namespace

class TestSeries : public QObject
{
    Q_OBJECT
private slots:
    void partsOfAPictureHaveTheBitsOfTheWhole()
    {
        const io::Scene scene = ballScene(mesh::makeSurface(test::sphere(10, 40, 80)));
        const Stage stage = lightSets().front().make(24);
        const auto tracer = viewedFromLeft(scene, stage, 1.5f);
        Rendering job{.width = 150, .height = 100, .how = {.samples = 4}, .passes = {"all"}, .film = stage.film};
        const auto whole = rendered(*tracer, job);
        QVERIFY(bool(whole));
        QVERIFY(whole->samples == 4 && whole->lights.size() >= 3);
        std::vector<image::ChannelPicture> parts;
        for (const std::array<int, 4> tile : {std::array{0, 0, 150, 41}, {0, 41, 70, 59}, {70, 41, 80, 59}}) {
            job.tile = tile;
            const ThreadLimit one(tile[0] ? 1 : 2);
            const auto part = rendered(*tracer, job);
            QVERIFY(bool(part) && part->picture.width == tile[2]);
            parts.push_back(part->picture);
        }
        const auto joined = joinedParts(parts);
        QVERIFY(bool(joined));
        QVERIFY(joined->names == whole->picture.names && joined->values == whole->picture.values);
        QVERIFY(joinedParts(std::span(parts).first(2)).error().text().find("4720 of 15000") != std::string::npos);
        // Developed, the last part has the rows of the whole: what is laid over it goes by the place in the picture.
        const auto wholePicture = developed(beautyOf(whole->picture), stage.film),
                   last = developed(beautyOf(parts[2]), stage.film);
        for (std::size_t y = 0; y < 59; ++y)
            QVERIFY(std::equal(last.rgba.begin() + std::ptrdiff_t(y * 320), last.rgba.begin() + std::ptrdiff_t(y * 320 + 320),
                               wholePicture.rgba.begin() + std::ptrdiff_t((y + 41) * 600 + 280)));
        parts[1].names.pop_back();
        QVERIFY(!joinedParts(parts) && !joinedParts({}));
        job.passes = {"hue"};
        QCOMPARE(rendered(*tracer, job).error().code, ErrorCode::Unknown);
    }
    void anUnfinishedPictureGoesOn()
    {
        const io::Scene scene = ballScene(mesh::makeSurface(test::sphere(10, 30, 60)));
        const Stage stage = lightSets().front().make(24);
        const auto tracer = viewedFromLeft(scene, stage, 0.25f);
        QTemporaryDir folder;
        Rendering job{.width = 100, .height = 400, .how = {.samples = 2}, .film = stage.film};
        const auto whole = rendered(*tracer, job);
        job.kept = (folder.path() + "/p.unfinished").toStdString();
        // As a crash leaves it: half of the second band, cut off within a row.
        std::stop_source stop;
        const Progress half{stop.get_token(), [&](float share, std::string_view) {
                                if (share > 0.6f)
                                    stop.request_stop();
                            }};
        QCOMPARE(rendered(*tracer, job, half).error().code, ErrorCode::Cancelled);
        const auto size = std::filesystem::exists(job.kept) ? std::filesystem::file_size(job.kept) : 0;
        if (size > 100)
            std::filesystem::resize_file(job.kept, size - 100);
        const auto rest = rendered(*tracer, job);
        QVERIFY(bool(rest) && rest->picture.values == whole->picture.values && rest->samples == 2);
        QVERIFY(!std::filesystem::exists(job.kept));
        std::ofstream(job.kept) << "another one\n0123456789"; // what is of another picture is not taken for this
        const auto fresh = rendered(*tracer, job);
        QVERIFY(bool(fresh) && fresh->rowsKept == 0 && fresh->picture.values == whole->picture.values);
        job.kept = folder.path().toStdString() + "/no/such/folder/p";
        QCOMPARE(rendered(*tracer, job).error().code, ErrorCode::Unwritable);
    }
    void aTracedSceneFollowsAStroke()
    {
        const mesh::Surface before = mesh::makeSurface(test::sphere(10, 150, 300));
        mesh::Surface after = before;
        QVERIFY(before.topology->blockCount() > 3);
        float *p = &after.positions.edit(1)[100].x;
        p[0] *= 1.2f, p[1] *= 1.2f, p[2] *= 1.2f;
        std::vector<std::uint32_t> all(after.topology->blockCount());
        std::iota(all.begin(), all.end(), 0u);
        mesh::updateBlocks(after, all);
        const Stage stage = lightSets().front().make(24);
        const Shot shot = seenFrom("left", before.box(), 1);
        const io::Scene first = ballScene(before);
        io::Scene then = first;
        then.shapes[0] = io::Shape("ball", after);
        then.objects[1].places[1].m[9] += 1; // and what grows there went along
        then.materials[0].colour = Vec3f{0.1f, 0.5f, 0.1f};
        auto live = PathTracer::make(first, stage, shot, TracedScene::Upkeep::Live);
        live = PathTracer::make(then, stage, shot, TracedScene::Upkeep::Live, std::move(*live));
        const auto fresh = PathTracer::make(then, stage, shot);
        QVERIFY(bool(live) && bool(fresh));
        Gathered a = (*live)->blank(64, 64), b = (*fresh)->blank(64, 64);
        (*live)->gather(a, {.samples = 4}), (*fresh)->gather(b, {.samples = 4});
        double apart = 0, sum = 0; // another hierarchy may meet an edge on its other side
        for (std::size_t i = 0; i < a.size(); ++i)
            apart += double(length(a.all(i) - b.all(i))), sum += double(length(b.all(i)));
        QVERIFY2(apart < 1e-3 * sum, qPrintable(QString::number(apart / sum)));
        // What it cannot follow it leaves alone.
        TracedScene scene(first, TracedScene::Upkeep::Live);
        io::Scene other = first;
        other.objects[1].places.pop_back();
        QVERIFY(!scene.follow(other) && other.objects[1].places.size() == 1);
        QVERIFY(scene.follow(then));
        const auto met = scene.meet({{0, 0, 100}, {0, 0, -1}});
        QVERIFY(met && length(met->normal - Vec3f{0, 0, 1}) < 0.05f && met->material == 0);
    }
    void looksShowTheSameForm()
    {
        const io::Scene scene = ballScene(mesh::makeSurface(test::sphere(10, 40, 80)));
        Stage stage = lightSets().front().make(24);
        const auto shown = [&](const char *look) {
            stage.film.look = look;
            const auto tracer = viewedFromLeft(scene, stage);
            Gathered g = tracer->blank(96, 96);
            tracer->gather(g, {.samples = 8});
            return shownPicture(g, {}, filtered(g, FilterQuality::Full), stage.film);
        };
        const auto at = [](const image::ColourPicture &p, int x, int y) { return &p.rgba[std::size_t(y * p.width + x) * 4]; };
        const auto painted = shown("painted"), clay = shown("clay"), ink = shown("ink"), black = shown("silhouette"),
                   bronze = shown("bronze"), wax = shown("wax");
        QVERIFY(at(painted, 48, 52)[0] > 2 * at(painted, 48, 52)[2]);
        QVERIFY(at(clay, 48, 52)[0] < 1.5 * at(clay, 48, 52)[2]); // no colour of its own
        QVERIFY(bronze.rgba != wax.rgba && wax.rgba != clay.rgba);
        QVERIFY(at(black, 48, 52)[0] < 60 && at(black, 2, 2)[0] > 200); // sRGB of the ink and of the paper
        QVERIFY(at(ink, 48, 60)[0] > 200 && at(ink, 2, 2)[0] > 200);    // no line on even form
        int lines = 0;
        for (int x = 0; x < 96; ++x)
            lines += at(ink, x, 60)[0] < 120;
        QVERIFY2(lines >= 2 && lines <= 10, qPrintable(QString::number(lines))); // one at each side
        QCOMPARE(pictureLook("no such").id, std::string_view("painted"));
    }
    void pagesHoldTheirWordsAsText()
    {
        QTemporaryDir folder;
        const exporting::Page page{210, 148, [](exporting::Canvas &c) {
                                       c.box({0, 0}, 210, 148, {0.95f, 0.92f, 0.85f});
                                       c.words({20, 30}, "Hollowback, Übermoor 240 mm", {.size = 9});
                                       c.words({20, 50}, "Cavitergum musci", {.size = 6, .isItalic = true});
                                       QVERIFY(c.widthOf("mm", {.size = 5}) > c.widthOf("ii", {.size = 5}));
                                       const auto lines = c.wrapped("a plain line of words that is broken", {.size = 5}, 40);
                                       QVERIFY(lines.size() >= 2);
                                       for (const auto &l : lines)
                                           QVERIFY(c.widthOf(l, {.size = 5}) <= 40);
                                   }};
        const QString pdf = folder.path() + "/p.pdf";
        QVERIFY(bool(exporting::writePages(pdf.toStdString(), std::array{page, page}, "A page", 150)));
        const QString info = outputOf("pdfinfo", {pdf});
        QVERIFY(info.contains("Pages:           2") && info.contains("A page"));
        QVERIFY(info.contains("595.276 x 419.528") || info.contains("595.2")); // ISO 216: A5, in points
        const QString text = outputOf("pdftotext", {pdf, "-"});
        QVERIFY2(text.contains(QString::fromUtf8("Hollowback, Übermoor 240 mm")) && text.contains("Cavitergum musci"),
                 qPrintable(text));
        const auto picture = exporting::rasterized(page, 50);
        QVERIFY(picture && picture->width == 413 && picture->height == 291); // 210 and 148 mm at 50 an inch
        int dark = 0;
        for (std::size_t i = 0; i < picture->rgba.size(); i += 4)
            dark += picture->rgba[i] < 100;
        QVERIFY(dark > 200);
        QCOMPARE(exporting::writePages("x.doc", std::array{page}, "", 50).error().code, ErrorCode::Unsupported);
        QVERIFY(!exporting::rasterized({0.01f, 10, page.draw}, 50));
        for (const char32_t c : U"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789.,:;!?()/-+%&'\"°×éüñßç")
            QVERIFY2(c == 0 || exporting::hasLetter(c), qPrintable(QString::number(std::uint32_t(c), 16)));
    }
    void filmsAreWebp()
    {
        QTemporaryDir folder;
        const std::filesystem::path path = (folder.path() + "/turn.webp").toStdString();
        auto film = image::FilmFile::begin(path, 32, 20, 10);
        QVERIFY(bool(film));
        image::ColourPicture frame{32, 20, std::vector<std::uint8_t>(32 * 20 * 4, 255)};
        for (int k = 0; k < 5; ++k) {
            for (std::size_t i = 0; i < frame.rgba.size(); i += 4)
                frame.rgba[i] = std::uint8_t(50 * k), frame.rgba[i + 1] = std::uint8_t(i % 200);
            QVERIFY(bool((*film)->add(frame)));
        }
        QVERIFY(!std::filesystem::exists(path)); // not before it is whole
        QVERIFY(bool((*film)->finish()));
        const QString info = outputOf("webpinfo", {QString::fromStdString(path.native())});
        QCOMPARE(info.count("Chunk ANMF"), 5);
        QVERIFY(info.contains("Canvas size 32 x 20") && info.contains("Duration: 100"));
        QCOMPARE(image::FilmFile::begin("x.gif", 32, 20, 10).error().code, ErrorCode::Unsupported);
        QCOMPARE(image::FilmFile::begin(path, 0, 20, 10).error().code, ErrorCode::BadValue);
    }
    void exrFilesAreReadByOthers()
    {
        const io::Scene scene = ballScene(mesh::makeSurface(test::sphere(10, 30, 60)));
        const Stage stage = lightSets().front().make(24);
        const auto tracer = viewedFromLeft(scene, stage);
        const auto made =
            rendered(*tracer, {.width = 24, .height = 16, .how = {.samples = 2}, .passes = {"all"}, .film = stage.film});
        QTemporaryDir folder;
        const std::string path = (folder.path() + "/p.exr").toStdString();
        QVERIFY(bool(made) && bool(writePicture(path, made->picture, stage.film, false)));
        // OpenImageIO, not through our module.
        const auto in = OIIO::ImageInput::open(path);
        QVERIFY(in != nullptr);
        const OIIO::ImageSpec &spec = in->spec();
        QVERIFY(spec.width == 24 && spec.height == 16 && spec.nchannels == int(made->picture.names.size()));
        for (const char *name : {"R", "G", "B", "A", "normal.X", "depth.Z", "object.id", "light.Key.R", "light.backdrop.B"})
            QVERIFY2(spec.channelindex(name) >= 0, name);
        // Rec. ITU-R BT.709: red, green, blue and white.
        const OIIO::ParamValue *primaries = spec.find_attribute("chromaticities");
        QVERIFY(primaries && primaries->type().basevalues() == 8);
        const std::array<float, 8> known{0.64f, 0.33f, 0.30f, 0.60f, 0.15f, 0.06f, 0.3127f, 0.3290f};
        for (int k = 0; k < 8; ++k)
            QVERIFY(std::abs(primaries->get<float>(k) - known[std::size_t(k)]) < 1e-4f);
        QCOMPARE(QString::fromStdString(spec.get_string_attribute("unit")), QStringLiteral("mm"));
        // Items have one number each, however many copies they have.
        QVERIFY(tracer->items().size() >= 2 && tracer->items()[0] == "ball" && tracer->items()[1] == "horn");
        std::vector<float> values(std::size_t(24 * 16 * spec.nchannels));
        QVERIFY(in->read_image(0, 0, 0, spec.nchannels, OIIO::TypeDesc::FLOAT, values.data()));
        std::set<float> numbers;
        for (std::size_t i = std::size_t(spec.channelindex("object.id")); i < values.size(); i += std::size_t(spec.nchannels))
            numbers.insert(values[i]);
        QVERIFY((numbers == std::set<float>{0, 1, 2}));
    }
    void lampsAndCamerasInsideTheCreatureDoNoHarm()
    {
        const io::Scene scene = ballScene(mesh::makeSurface(test::sphere(10, 30, 60)));
        Stage stage = lightSets().front().make(24);
        Light inside = stage.lights[0];
        inside.shape = Light::Shape::Ball, inside.distance = 0, inside.size = 4, inside.name = "inside";
        stage.lights.push_back(inside);
        Shot shot = seenFrom("left", scene.box(), 1);
        for (const float distance : {0.0f, 1e-3f, 5.0f, 40.0f}) {
            shot.camera.target = {0, 0, 0}, shot.camera.distance = distance;
            const auto tracer = PathTracer::make(scene, stage, shot);
            QVERIFY(bool(tracer));
            Gathered g = (*tracer)->blank(12, 12);
            QVERIFY((*tracer)->gather(g, {.samples = 4}));
            for (std::size_t i = 0; i < g.size(); ++i)
                QVERIFY(isFinite(g.all(i)) && g.all(i).x >= 0);
            for (const Vec3f c : filtered(g, FilterQuality::Full))
                QVERIFY(isFinite(c));
        }
        QCOMPARE(PathTracer::make({}, stage, shot).error().code, ErrorCode::Empty);
    }
    void knownSizesAreOutlines()
    {
        for (const KnownSize &k : knownSizes()) {
            QVERIFY((k.height > 0) == (k.outline != nullptr));
            if (!k.outline)
                continue;
            float low = 1, high = 0;
            for (const auto &outline : k.outline())
                for (const auto &p : outline)
                    low = std::min(low, p[1]), high = std::max(high, p[1]);
            QVERIFY(std::abs(low) < 0.03f && std::abs(high - 1) < 0.03f);
        }
        QVERIFY(platePapers().size() == 3 && platePaper("no such").id == "ivory");
    }
};

BONEMOSS_TEST(TestSeries)
#include "tst_series.moc"
