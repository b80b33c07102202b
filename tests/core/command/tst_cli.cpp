// The command line as a person would use it: exit codes, messages, and that nothing half-written stays.
#include "image/picture_file.h"
#include "support/run.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "support/shapes.h"

#include <QtTest>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>

#include <numbers>

using namespace bonemoss;

namespace {

using test::Ran;

Ran run(const QStringList &words)
{
    return test::runProgram(QStringLiteral(BONEMOSS_BIN_DIR "/bonemoss-cli"), words);
}

} // namespace

class TestCli : public QObject
{
    Q_OBJECT
    QTemporaryDir m_dir;
    QString at(const QString &name) { return m_dir.filePath(name); }
    void put(const QString &name, const QByteArray &bytes)
    {
        QFile f(at(name));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(bytes);
    }

private slots:
    void initTestCase() { QVERIFY(bool(io::writeMesh(at("ball.ply").toStdString(), test::sphere(10, 80, 160)))); }
    // Volume of a ball from tables; Euler's formula for the counts.
    void infoMeasures()
    {
        const Ran r = run({"info", at("ball.ply"), "--json"});
        QCOMPARE(r.code, 0);
        const QJsonObject doc = QJsonDocument::fromJson(r.out).object(), total = doc["total"].toObject();
        QCOMPARE(doc["pieces"].toArray().size(), 1);
        for (const char *key : {"name", "vertices", "faces", "triangles", "quads", "boundaryEdges", "nonManifoldEdges",
                                "components", "genus", "closed", "volumeMm3", "areaMm2", "centreOfMassMm", "boundsMm"})
            QVERIFY2(total.contains(QLatin1String(key)), key);
        QVERIFY(total["closed"].toBool());
        QVERIFY(std::abs(total["volumeMm3"].toDouble() / (4.0 / 3 * std::numbers::pi * 1000) - 1) < 2e-3);
    }
    // Volumes by hand; exit codes as everywhere.
    void verbsThatGiveNewFaces()
    {
        QVERIFY(bool(io::writeMesh(at("a.ply").toStdString(), test::box({0, 0, 0}, {20, 20, 20}))));
        QVERIFY(bool(io::writeMesh(at("b.ply").toStdString(), test::box({10, 10, 10}, {30, 30, 30}))));
        const auto first = [](const Ran &r) {
            return QJsonDocument::fromJson(r.out).object()["pieces"].toArray().first().toObject();
        };
        const std::vector<std::pair<const char *, double>> hows = {{"join", 15000}, {"cut", 7000}, {"common", 1000}};
        for (const auto &[how, volume] : hows) {
            const Ran r = run({"boolean", at("a.ply"), at("b.ply"), "--how", how, "--out", at("ab.stl"), "--json"});
            QVERIFY2(r.code == 0, r.err);
            QVERIFY(std::abs(first(r)["volumeMm3"].toDouble() - volume) < 0.1);
            QVERIFY(QFile::exists(at("ab.stl")));
        }
        const Ran light = run({"simplify", at("ball.ply"), "--faces", "2000", "--out", at("light.bonemoss"), "--json"});
        QVERIFY2(light.code == 0 && light.err.contains("2,000 triangles"), light.err);
        QVERIFY(std::abs(first(light)["faces"].toInt() - 2000) <= 20);
        mesh::PolyMesh two = test::sphere(5, 12, 18);
        append(two, test::sphere(4, 12, 18, {20, 0, 0}));
        two.faces.erase(two.faces.begin() + 60);
        QVERIFY(bool(io::writeMesh(at("two.obj").toStdString(), two)));
        const Ran split = run({"split", at("two.obj"), "--out", at("two.bonemoss"), "--json"});
        QVERIFY2(split.code == 0, split.err);
        QCOMPARE(QJsonDocument::fromJson(split.out).object()["pieces"].toArray().size(), 2);
        const Ran mended = run({"repair", at("two.obj"), "--out", at("mended.ply"), "--json"});
        QVERIFY2(mended.code == 0 && mended.err.contains("1 holes were closed"), mended.err);
        QVERIFY(first(mended)["closed"].toBool());
        const Ran project = run({"project", at("light.bonemoss"), at("ball.ply"), "--out", at("laid.ply")});
        QVERIFY2(project.code == 0, project.err);

        put("sheet.obj", "v 0 0 0\nv 10 0 0\nv 10 0 10\nv 0 0 10\nf 1 4 3 2\n");
        const Ran plate = run({"shell", at("sheet.obj"), "--thickness", "2", "--out", at("plate.stl"), "--json"});
        QVERIFY2(plate.code == 0, plate.err);
        QVERIFY(std::abs(first(plate)["volumeMm3"].toDouble() - 200) < 1e-3);

        QCOMPARE(run({"boolean", at("a.ply"), at("b.ply"), "--out", at("ab.xyz")}).code, 2);
        QCOMPARE(run({"boolean", at("a.ply"), at("nobody.ply"), "--out", at("n.stl")}).code, 3);
        const Ran far = run({"simplify", at("a.ply"), "--faces", "5000", "--out", at("n.stl")});
        QCOMPARE(far.code, 4); // more than there are
        QVERIFY(!QFile::exists(at("n.stl")) && far.err.contains("triangles there are"));
    }
    // A slab 40 x 40 stands by half its side; with a boom far out to the nose it tips that way.
    // What is painted is listed, and kept by files that hold colours: sRGB 0.9 is 0.787 in linear light (IEC 61966-2-1).
    void coloursReachFiles()
    {
        put("red.recipe.json", R"({"format": "bonemoss-recipe", "version": 1, "commands": [
            {"do": "form.add", "kind": "ball", "name": "ball", "radius": 20}, {"do": "knit.forms", "spacing": 2},
            {"do": "colour.fill", "colour": [0.9, 0.1, 0.1]}, {"do": "colour.add", "name": "over", "blend": "multiply", "opacity": 0}]})");
        QCOMPARE(run({"replay", at("red.recipe.json"), "--out", at("red.bonemoss")}).code, 0);
        const Ran r = run({"colours", at("red.bonemoss"), "--json"});
        QCOMPARE(r.code, 0);
        const QJsonArray layers =
            QJsonDocument::fromJson(r.out).object()["pieces"].toArray().first().toObject()["layers"].toArray();
        QCOMPARE(layers.size(), 2);
        QCOMPARE(layers[0].toObject()["covers"].toDouble(), 1.0);
        QCOMPARE(layers[0].toObject()["holds"].toArray(), QJsonArray{"colour"});
        QCOMPARE(layers[1].toObject()["blend"].toString(), QStringLiteral("multiply"));
        for (const char *file : {"red.glb", "red.ply"}) {
            QCOMPARE(run({"convert", at("red.bonemoss"), at(file)}).code, 0);
            const auto back = io::readScene(at(file).toStdString());
            QVERIFY(bool(back));
            const io::Attribute *colour = back->scene.shapes.at(0).attribute(io::kColour);
            QVERIFY2(colour && std::abs(colour->values[0] - 0.787f) < 0.01f && std::abs(colour->values[1] - 0.010f) < 0.005f,
                     file);
        }
        QVERIFY(run({"colours", at("none.bonemoss")}).code != 0);
    }
    void posesAreListedReachedAndHandedOver()
    {
        put("arm.recipe.json", R"({"format": "bonemoss-recipe", "version": 1, "commands": [
            {"do": "form.add", "kind": "ellipsoid", "name": "body", "at": [0, 40, 0], "radii": [14, 16, 20]},
            {"do": "form.add", "kind": "limb", "name": "arm", "path": [[10, 40, 0, 7], [40, 40, 0, 5]], "parent": "body", "mirror": true},
            {"do": "form.add", "kind": "limb", "name": "hand", "path": [[40, 40, 0, 5], [64, 40, 0, 4]], "parent": "arm", "mirror": true},
            {"do": "knit.forms", "faces": 4000, "name": "Skin"},
            {"do": "pose.turn", "bone": "arm left", "angles": [0, 0, 35]}, {"do": "pose.keep", "name": "up"}, {"do": "pose.rest"}]})");
        QCOMPARE(run({"replay", at("arm.recipe.json"), "--out", at("arm.bonemoss")}).code, 0);
        const Ran list = run({"pose", at("arm.bonemoss"), "--list", "--json"});
        const QJsonObject all = QJsonDocument::fromJson(list.out).object();
        QCOMPARE(all["bones"].toArray().size(), 5);
        QCOMPARE(all["poses"].toArray().size(), 1);
        QVERIFY(std::abs(all["bones"].toArray()[1].toObject()["length"].toDouble() - 30) < 0.1);
        QCOMPARE(run({"pose", at("arm.bonemoss"), "--to", "up", "--out", at("up.bonemoss")}).code, 0);
        const Ran check = run({"pose", at("up.bonemoss"), "--check", "--json"});
        const QJsonObject found = QJsonDocument::fromJson(check.out).object();
        QCOMPARE(found["weightError"].toDouble(), 0.0);
        QCOMPARE(found["unmoved"].toInt(), 0);
        QVERIFY(found["stretch"].toDouble() < 3);
        QCOMPARE(run({"pose", at("up.bonemoss"), "--out", at("up.ply")}).code, 0); // as it stands
        const auto ply = io::readScene(at("up.ply").toStdString());
        QVERIFY(bool(ply) && ply->scene.box().hi.y > 65);
        const Ran reached =
            run({"pose", at("arm.bonemoss"), "--pin", "hand right", "--reach", "hand left=30,70,10", "--out", at("r.bonemoss")});
        QCOMPARE(reached.code, 0);
        for (const QStringList &bad : {QStringList{"--to", "none", "--out", at("x.bonemoss")}, QStringList{"--turn", "hand left"},
                                       QStringList{"--reach", "wing=1,2,3", "--out", at("x.bonemoss")}, QStringList{}})
            QVERIFY(run(QStringList{"pose", at("arm.bonemoss")} + bad).code != 0);
        // The rig in GLB: joints, weights, a pose as an animation, and nothing that the validator says of it.
        QCOMPARE(run({"convert", at("up.bonemoss"), at("up.glb")}).code, 0);
        QFile glb(at("up.glb"));
        QVERIFY(glb.open(QIODevice::ReadOnly));
        const QByteArray bytes = glb.readAll();
        const auto size = qFromLittleEndian<quint32>(bytes.constData() + 12);
        const QJsonObject doc = QJsonDocument::fromJson(bytes.mid(20, int(size))).object();
        QCOMPARE(doc["skins"].toArray().size(), 1);
        QCOMPARE(doc["skins"].toArray()[0].toObject()["joints"].toArray().size(), 5);
        QCOMPARE(doc["animations"].toArray().size(), 2);
        const QString node = qEnvironmentVariable("BONEMOSS_NODE");
        if (node.isEmpty() || !QFile::exists(node + "/node_modules/gltf-validator"))
            QSKIP("the glTF validator is not installed; ./moss test does that");
        const test::Ran ran = test::runProgram(
            "node",
            {"-e",
             "const v=require('gltf-validator');v.validateBytes(new Uint8Array(require('fs').readFileSync(process.argv[1])))"
             ".then(r=>{const i=r.issues;console.log(i.numErrors+' '+i.numWarnings+' "
             "'+JSON.stringify(i.messages).slice(0,400))})",
             at("up.glb")},
            node);
        QVERIFY2(QString(ran.out).startsWith("0 0"), ran.out.constData());
    }
    void standTellsBalanceAndProportions()
    {
        put("slab.recipe.json", R"({"format": "bonemoss-recipe", "version": 1, "commands": [
            {"do": "form.add", "kind": "block", "name": "slab", "radii": [20, 5, 20], "rounding": 0},
            {"do": "form.add", "kind": "limb", "name": "boom", "path": [[0, 0, 10, 2], [0, 12, 40, 2]]},
            {"do": "proportion.unit", "form": "slab"}, {"do": "proportion.target", "form": "boom", "ratio": 2}]})");
        QCOMPARE(run({"replay", at("slab.recipe.json"), "--out", at("slab.bonemoss")}).code, 0);
        const Ran r = run({"stand", at("slab.bonemoss"), "--json"});
        QCOMPARE(r.code, 0);
        const QJsonObject doc = QJsonDocument::fromJson(r.out).object();
        QVERIFY(doc["stands"].toBool());
        QVERIFY2(std::abs(doc["marginMm"].toDouble() - 20) < 1, r.out);
        QVERIFY(std::abs(doc["floorMm"].toDouble() + 5) < 0.3);
        const QJsonObject boom = doc["proportions"].toArray()[0].toObject();
        QCOMPARE(boom["form"].toString(), QString("boom"));
        QVERIFY(std::abs(boom["units"].toDouble() - (std::hypot(12.0, 30.0) + 4) / 40) < 1e-3);
        QVERIFY(boom["missed"].toBool());
        QVERIFY(run({"stand", at("slab.bonemoss")}).out.startsWith("stands"));
        QCOMPARE(run({"stand", at("nowhere.bonemoss")}).code, 3);
        QCOMPARE(run({"stand", at("ball.ply")}).code, 3);
    }
    // A ball of 10 mm is 2 pi 8 around where it is cut 6 mm beside its middle (Pythagoras).
    void girthOfABall()
    {
        const Ran r = run({"girth", at("ball.ply"), "--at", "6", "8", "0", "1", "0", "0", "--json"});
        QCOMPARE(r.code, 0);
        const QJsonObject doc = QJsonDocument::fromJson(r.out).object();
        QVERIFY(std::abs(doc["girthMm"].toDouble() / (16 * std::numbers::pi) - 1) < 2e-3);
        QVERIFY(std::abs(doc["areaMm2"].toDouble() / (64 * std::numbers::pi) - 1) < 4e-3);
        QVERIFY(doc["closed"].toBool() && doc["lines"].toInt() == 1);
        QVERIFY(run({"girth", at("ball.ply"), "--at", "6", "8", "0", "1", "0", "0"}).out.contains("50.2"));
        QCOMPARE(run({"girth", at("ball.ply"), "--at", "16", "0", "0", "1", "0", "0"}).code, 4); // cuts nothing
        QCOMPARE(run({"girth", at("ball.ply"), "--at", "6", "8", "0", "0", "0", "0"}).code, 2);
        QCOMPARE(run({"girth", at("none.ply"), "--at", "6", "8", "0", "1", "0", "0"}).code, 3);
    }
    // A branch goes through a part file into another creature as it was.
    void partIsWrittenAndUsed()
    {
        put("leg.recipe.json", R"({"format": "bonemoss-recipe", "version": 1, "commands": [
            {"do": "form.add", "kind": "limb", "name": "leg", "path": [[5, 40, 0, 4], [5, 20, 0, 3]]},
            {"do": "form.add", "kind": "ball", "name": "foot", "parent": "leg", "at": [5, 20, 2], "radius": 4}]})");
        QCOMPARE(run({"replay", at("leg.recipe.json"), "--out", at("leg.bonemoss")}).code, 0);
        const Ran made = run({"part", at("leg.bonemoss"), "leg", "--out", at("leg.part.json"), "--title", "Plain leg",
                              "--outward", "0,-1,0", "--fits", "4"});
        QVERIFY2(made.code == 0, made.err);
        put("use.recipe.json", R"({"format": "bonemoss-recipe", "version": 1, "commands": [
            {"do": "part.insert", "path": "leg.part.json", "at": [0, 30, 0], "radius": 8},
            {"do": "knit.forms", "spacing": 1}]})"); // beside the recipe
        const Ran used = run({"replay", at("use.recipe.json"), "--out", at("use.bonemoss")});
        QVERIFY2(used.code == 0, used.err);
        const QJsonArray box = QJsonDocument::fromJson(run({"info", at("use.bonemoss"), "--json"}).out)
                                   .object()["pieces"]
                                   .toArray()[0]
                                   .toObject()["boundsMm"]
                                   .toObject()["min"]
                                   .toArray();
        QVERIFY(std::abs(box[1].toDouble() - (30 - 2 * 20 - 2 * 4)) < 1); // twice as large: 20 down and a foot of 4
        QCOMPARE(run({"part", at("leg.bonemoss"), "arm", "--out", at("arm.part.json")}).code, 2);
        QCOMPARE(run({"part", at("leg.bonemoss"), "leg", "--out", at("x.part.json"), "--outward", "up"}).code, 2);
        QVERIFY(!QFile::exists(at("arm.part.json")) && !QFile::exists(at("x.part.json")));
        QCOMPARE(run({"render", at("leg.part.json"), "--size", "60x40", "--samples", "1", "--out", at("leg.png")}).code, 0);
        QCOMPARE(run({"render", at("use.recipe.json"), "--size", "60x40", "--out", at("no.png")}).code, 3);
        const auto picture = [&](const QStringList &more) {
            const Ran drawn = run(
                QStringList{"render", at("use.bonemoss"), "--size", "60x40", "--samples", "1", "--out", at("use.png")} + more);
            QFile file(at("use.png"));
            return drawn.code == 0 && file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
        };
        const QByteArray all = picture({}), foot = picture({"--on", "foot"});
        QVERIFY(!all.isEmpty() && !foot.isEmpty() && all != foot);
        const Ran none = run({"render", at("use.bonemoss"), "--on", "tusk", "--out", at("no.png")});
        QVERIFY(none.code == 2 && none.err.contains("tusk") && !QFile::exists(at("no.png")));
    }
    // Only that the switch changes the picture; what parallel rays hit is checked where cameras are.
    void parallelPictureIsAnother()
    {
        QCOMPARE(
            run({"render", at("ball.ply"), "--view", "nose", "--size", "90x90", "--samples", "1", "--out", at("deep.png")}).code,
            0);
        QCOMPARE(run({"render", at("ball.ply"), "--view", "nose", "--parallel", "--size", "90x90", "--samples", "1", "--out",
                      at("flat.png")})
                     .code,
                 0);
        QFile deep(at("deep.png")), flat(at("flat.png"));
        QVERIFY(deep.open(QIODevice::ReadOnly) && flat.open(QIODevice::ReadOnly));
        QVERIFY(deep.readAll() != flat.readAll());
    }
    /// Pictures by light: parts are the whole bit for bit, and their lights are mixed from the file.
    void litPicturesInParts()
    {
        const QStringList how{"render", at("ball.ply"), "--lights", "museum",      "--size", "60x40", "--samples",
                              "4",      "--raw",        "--passes", "lights,depth"};
        const Ran whole = run(how + QStringList{"--json", "--out", at("lit.exr")});
        QVERIFY2(whole.code == 0, whole.err.constData());
        const QJsonObject doc = QJsonDocument::fromJson(whole.out).object();
        QVERIFY(doc["rays"].toDouble() > 60 * 40 * 4 && doc["samples"].toDouble() == 4 && doc["error"].toDouble() > 0);
        QCOMPARE(run(how + QStringList{"--part", "2/3", "--out", at("part.exr")}).code, 0);
        QCOMPARE(run(how + QStringList{"--tile", "10,5,20,30", "--out", at("tile.exr")}).code, 0);
        const auto all = image::readChannels(at("lit.exr").toStdString()),
                   part = image::readChannels(at("part.exr").toStdString()),
                   tile = image::readChannels(at("tile.exr").toStdString());
        QVERIFY(bool(all) && bool(part) && bool(tile) && part->height == 13 && tile->width == 20);
        const std::size_t wide = all->names.size();
        QVERIFY(std::equal(part->values.begin(), part->values.end(), all->values.begin() + std::ptrdiff_t(13 * 60 * wide)));
        for (std::size_t y = 0; y < 30; ++y)
            QVERIFY(std::equal(tile->values.begin() + std::ptrdiff_t(y * 20 * wide),
                               tile->values.begin() + std::ptrdiff_t((y + 1) * 20 * wide),
                               all->values.begin() + std::ptrdiff_t(((y + 5) * 60 + 10) * wide)));
        QCOMPARE(run({"mix", at("lit.exr"), "--light", "Key=0", "--light", "Rim=2,255,80,40", "--out", at("mixed.png")}).code, 0);
        QCOMPARE(run({"mix", at("lit.exr"), "--out", at("same.png")}).code, 0);
        QFile mixed(at("mixed.png")), same(at("same.png"));
        QVERIFY(mixed.open(QIODevice::ReadOnly) && same.open(QIODevice::ReadOnly));
        QVERIFY(mixed.readAll() != same.readAll());
        const Ran none = run({"mix", at("lit.exr"), "--light", "Sun=1", "--out", at("no.png")});
        QVERIFY(none.code == 2 && none.err.contains("Key")); // those there are
        QCOMPARE(run({"mix", at("ball.ply"), "--out", at("no.png")}).code, 3);
        QCOMPARE(run({"render", at("ball.ply"), "--lights", "noon", "--out", at("no.png")}).code, 2);
        QCOMPARE(run(how + QStringList{"--part", "4/3", "--out", at("no.exr")}).code, 2);
        QCOMPARE(run(how + QStringList{"--tile", "50,0,20,20", "--out", at("no.exr")}).code, 2);
    }
    void knitReports()
    {
        const Ran r = run({"knit", at("ball.ply"), "--out", at("skin.obj"), "--faces", "20000", "--json"});
        QCOMPARE(r.code, 0);
        const QJsonObject doc = QJsonDocument::fromJson(r.out).object();
        QVERIFY(std::abs(doc["faces"].toInt() / 20000.0 - 1) < 0.03);
        for (const char *key : {"read", "field", "contour", "measure", "write"})
            QVERIFY2(doc["seconds"].toObject().contains(QLatin1String(key)), key);
        QVERIFY(doc["meanDistanceMm"].toDouble() < 0.01);
        QVERIFY(doc.contains("forecastFaces") && doc.contains("maxDistanceMm"));
        QVERIFY(io::readMesh(at("skin.obj").toStdString()));
    }
    void replayConvertRender()
    {
        put("r.recipe.json",
            R"({"format":"bonemoss-recipe","version":1,"commands":[{"do":"form.add","kind":"ball","radius":20},{"do":"knit.forms","spacing":1.5}]})");
        QCOMPARE(run({"replay", at("r.recipe.json"), "--out", at("c.bonemoss"), "--export", at("c.stl"), "--export", at("c.glb")})
                     .code,
                 0);
        QVERIFY(QFile::exists(at("c.stl")) && QFile::exists(at("c.glb")));
        QCOMPARE(run({"convert", at("c.bonemoss"), at("d.ply")}).code, 0);
        QCOMPARE(run({"convert", at("d.ply"), at("e.bonemoss")}).code, 0);
        QCOMPARE(run({"render", at("c.bonemoss"), "--view", "nose", "--size", "160x100", "--out", at("p.png")}).code, 0);
        const QByteArray head = [&] {
            QFile f(at("p.png"));
            return f.open(QIODevice::ReadOnly) ? f.read(24) : QByteArray();
        }();
        QCOMPARE(head.left(4), QByteArray("\x89PNG"));
        QCOMPARE(int(static_cast<unsigned char>(head[19])), 160); // width, IHDR of the PNG specification
        QCOMPARE(int(static_cast<unsigned char>(head[23])), 100);
    }
    // Files are named by bytes; a name that is no text is read and shown as well as can be, and never ends the program.
    // A box by hand: size, volume, stance, layers.
    void proofsAndSlices()
    {
        QVERIFY(bool(io::writeMesh(at("block.ply").toStdString(), test::box({0, 0, 0}, {20, 30, 20}))));
        const Ran sound = run({"proof", at("block.ply"), "--json"});
        QVERIFY2(sound.code == 0, sound.err);
        const QJsonObject told = QJsonDocument::fromJson(sound.out).object();
        QVERIFY(told["sound"].toBool() && told["stands"].toBool() && std::abs(told["marginMm"].toDouble() - 10) < 0.1);
        QVERIFY(std::abs(told["volumeMm3"].toDouble() - 12000) < 120 && told["pockets"].toInt() == 0);
        const Ran large = run({"proof", at("block.ply"), "--height", "400", "--json"});
        QCOMPARE(large.code, 1); // more than the printer builds
        const QJsonObject first = QJsonDocument::fromJson(large.out).object()["findings"].toArray().first().toObject();
        QVERIFY(first["kind"] == "size" && first["severity"] == "spoils" && first["unit"] == "mm"
                && first["at"].toArray().size() == 3);
        const Ran words = run({"proof", at("block.ply"), "--height", "400"});
        QVERIFY(words.code == 1 && words.out.contains("Too large for the printer"));
        QCOMPARE(run({"proof", at("block.ply"), "--profile", "lathe"}).code, 2);
        QCOMPARE(run({"proof", at("none.ply")}).code, 3);
        const Ran cut = run({"slice", at("block.ply"), "--layer", "0.5", "--pixel", "0.5", "--out", at("layers"), "--json"});
        QVERIFY2(cut.code == 0, cut.err);
        const QJsonObject slices = QJsonDocument::fromJson(cut.out).object();
        QCOMPARE(slices["layers"].toArray().size(), 60);
        QVERIFY(std::abs(slices["volumeMm3"].toDouble() - 12000) < 1);
        const QJsonObject layer = slices["layers"].toArray()[30].toObject();
        QVERIFY(std::abs(layer["areaMm2"].toDouble() - 400) < 0.01 && std::abs(layer["perimeterMm"].toDouble() - 80) < 0.01
                && layer["islands"].toInt() == 0);
        // The pictures hold the same volume: white pixels times their size.
        QVERIFY(QFile::exists(at("layers/layers.json")));
        const auto bytes = image::readPictureFile(at("layers/layer-00031.png").toStdString());
        QVERIFY(bytes);
        const auto picture = image::decodePicture(*bytes);
        QVERIFY(picture);
        int white = 0;
        for (std::size_t k = 0; k < picture->rgba.size(); k += 4)
            white += picture->rgba[k] > 127;
        QVERIFY(std::abs(white * 0.25 - 400) <= 20);
        QCOMPARE(run({"slice", at("block.ply"), "--layer", "1", "--out", at("block.svg")}).code, 0);
        QVERIFY(QFile(at("block.svg")).size() > 1000);
        QCOMPARE(run({"slice", at("block.ply"), "--out", at("block.stl")}).code, 2);
        QCOMPARE(run({"slice", at("block.ply"), "--layer", "0.005", "--height", "90000"}).code, 4);
    }
    void printsAreMade()
    {
        QVERIFY(bool(io::writeMesh(at("block.ply").toStdString(), test::box({0, 0, 0}, {20, 30, 20}))));
        QVERIFY(bool(io::writeMesh(at("arm.ply").toStdString(), test::box({5, 25, 5}, {15, 45, 35}))));
        const auto told = [](const Ran &r) { return QJsonDocument::fromJson(r.out).object(); };
        const Ran solid = run({"solid", at("block.ply"), at("arm.ply"), "--out", at("body.stl"), "--json"});
        QVERIFY2(solid.code == 0, solid.err);
        // 12,000 and 6,000 less the 750 that they share.
        QVERIFY(std::abs(told(solid)["volumeMm3"].toDouble() - 17250) < 5 && told(solid)["closed"].toBool()
                && told(solid)["bodiesLeft"].toInt() == 1 && told(solid)["maxDistanceMm"].toDouble() < 0.01);
        const auto pieces = [&](const QStringList &words) {
            const Ran ran = run(words + QStringList{"--out", at("made.bonemoss"), "--json"});
            return ran.code == 0 ? told(ran)["pieces"].toArray() : QJsonArray{QString::fromUtf8(ran.err)};
        };
        const auto volume = [](const QJsonArray &all, int k) { return all[k].toObject()["volumeMm3"].toDouble(); };
        const QJsonArray hollow = pieces({"hollow", at("block.ply"), "--wall", "2", "--hole", "3", "--holes", "1"});
        QVERIFY2(volume(hollow, 0) > 4700 && volume(hollow, 0) < 5600,
                 QJsonDocument(hollow).toJson()); // 16 by 26 by 16 less corners
        const QJsonArray parts = pieces({"part-for-print", at("block.ply"), "--point", "10,15,10", "--peg", "none"});
        QVERIFY(parts.size() == 2 && std::abs(volume(parts, 0) - 6000) < 5 && std::abs(volume(parts, 1) - 6000) < 5);
        QCOMPARE(pieces({"part-for-print", at("block.ply"), "--point", "10,15,10"}).size(), qsizetype(2));
        QCOMPARE(pieces({"supports", at("body.stl")}).size(), qsizetype(2));
        QCOMPARE(pieces({"base", at("block.ply"), "--shape", "plinth", "--joined", "true"}).size(), qsizetype(1));
        QVERIFY(std::abs(volume(pieces({"flatten", at("block.ply"), "--by", "1"}), 0) - 11600) < 5);
        QVERIFY(volume(pieces({"drill", at("block.ply"), "--at", "10,30,10", "--direction", "0,-1,0", "--diameter", "4",
                               "--depth", "10"}),
                       0)
                < 12000 - 120);
        QVERIFY(!pieces({"orient", at("body.stl")})[0].toObject().isEmpty());
        // Printer and height that a creature keeps.
        QFile recipe(at("print.json"));
        QVERIFY(recipe.open(QFile::WriteOnly));
        recipe.write(
            R"({"format": "bonemoss-recipe", "version": 1, "commands": [{"do": "print.set", "printer": "filament", "height": 400}]})");
        recipe.close();
        QCOMPARE(run({"replay", at("print.json"), "--on", at("made.bonemoss"), "--out", at("kept.bonemoss")}).code, 0);
        const Ran kept = run({"proof", at("kept.bonemoss"), "--json", "--quick"});
        QVERIFY(kept.code == 1 && std::abs(told(kept)["sizeMm"].toArray()[1].toDouble() - 400) < 0.1);
        QVERIFY(run({"print-sheet", at("made.bonemoss"), "--out", at("sheet.pdf"), "--samples", "1"}).code == 0);
        QVERIFY(QFile(at("sheet.pdf")).size() > 2000);
        for (const QStringList &wrong : {QStringList{"hollow", at("block.ply"), "--wall", "90"},
                                         {"part-for-print", at("block.ply"), "--point", "0,99,0"},
                                         {"part-for-print", at("block.ply"), "--point", "x"}})
            QCOMPARE(run(wrong + QStringList{"--out", at("no.stl")}).code, 4);
        QVERIFY(!QFile::exists(at("no.stl")));
        QCOMPARE(run({"solid", at("none.ply"), "--out", at("no.stl")}).code, 3);
        QCOMPARE(run({"solid", at("block.ply"), "--out", at("no.xyz")}).code, 2);
    }
    void namesThatAreNoText()
    {
        const auto shell = [&](const QString &script) {
            return test::runProgram("sh", {"-c", QStringLiteral("cli=%1; ").arg(BONEMOSS_BIN_DIR "/bonemoss-cli") + script},
                                    m_dir.path());
        };
        const Ran info = shell("n=$(printf 'h\\366rn.ply'); cp ball.ply \"$n\"; $cli info \"$n\" --json");
        QVERIFY2(info.code == 0 && !QJsonDocument::fromJson(info.out).isNull(), info.err);
        const Ran light = shell(
            "n=$(printf 'h\\366rn.ply'); $cli simplify \"$n\" --faces 500 --out \"$n.bonemoss\" && $cli info \"$n.bonemoss\"");
        QVERIFY2(light.code == 0 && light.out.contains("closed"), light.err);
        const Ran gone = shell("$cli info \"$(printf 'no\\366.ply')\"");
        QCOMPARE(gone.code, 3);
        QVERIFY(gone.err.contains("no"));
    }
    // Out of memory is a message.
    void fullMemoryIsSaid()
    {
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
        QSKIP("the sanitizers need address space without a limit");
#endif
        QByteArray commands = R"({"do":"form.add","kind":"ball","radius":20},{"do":"knit.forms","spacing":0.3})";
        for (int k = 0; k < 5; ++k)
            commands += R"(,{"do":"piece.refine"})";
        put("much.recipe.json", R"({"format":"bonemoss-recipe","version":1,"commands":[)" + commands + "]}");
        const Ran ran = test::runProgram(
            "sh", {"-c", QStringLiteral("ulimit -v 1500000; exec %1 replay %2 --out %3")
                             .arg(BONEMOSS_BIN_DIR "/bonemoss-cli", at("much.recipe.json"), at("much.bonemoss"))});
        const QByteArray &said = ran.err;
        QVERIFY2(ran.code == 4, said);
        QVERIFY2(said.contains("the memory is full"), said);
        QVERIFY(!QFile::exists(at("much.bonemoss")));
    }
    // As on a full disk: the reason is said, and no half a file is left.
    void aFileThatCannotGrowIsSaid()
    {
        for (const char *out : {"full.bonemoss", "full.ply"}) {
            const Ran ran = test::runProgram("sh", {"-c", QStringLiteral("trap '' XFSZ; ulimit -f 64; exec %1 convert %2 %3")
                                                              .arg(BONEMOSS_BIN_DIR "/bonemoss-cli", at("ball.ply"), at(out))});
            const QByteArray &said = ran.err;
            QVERIFY2(ran.code > 0, said);
            QVERIFY2(said.contains(out) && !said.contains("not an error"), said);
            QVERIFY2(said.contains("become that large") || said.contains("too large"), said);
            QVERIFY(!QFile::exists(at(out)));
        }
        QVERIFY(QDir(QFileInfo(at("full.ply")).path()).entryList({"*full*"}, QDir::AllEntries | QDir::Hidden).isEmpty());
    }
    // What is seen is what is written: eyes too, in parts of their own where the format has parts.
    void eyesComeAlong()
    {
        put("eye.recipe.json", R"({"format":"bonemoss-recipe","version":1,"commands":[{"do":"form.add","kind":"ball","radius":20},
            {"do":"form.add","kind":"ball","name":"eye","radius":3,"at":[8,4,17],"role":"apart","mirror":true},
            {"do":"knit.forms","spacing":1.5}]})");
        QCOMPARE(run({"replay", at("eye.recipe.json"), "--out", at("eye.bonemoss")}).code, 0);
        for (const char *out : {"eye.obj", "eye.glb", "eye.ply"})
            QCOMPARE(run({"convert", at("eye.bonemoss"), at(out)}).code, 0);
        QFile obj(at("eye.obj")), glb(at("eye.glb"));
        QVERIFY(obj.open(QIODevice::ReadOnly) && glb.open(QIODevice::ReadOnly));
        const QByteArray text = obj.readAll(), binary = glb.readAll();
        QVERIFY(text.contains("\no skin\n") && text.contains("\no eye\n"));
        QVERIFY(binary.contains("\"name\":\"eye\""));
        const auto islands = [&](const char *file) {
            const auto read = io::readMesh(at(file).toStdString());
            return read ? mesh::measure(read->mesh).components : 0;
        };
        for (const char *file : {"eye.obj", "eye.glb", "eye.ply"})
            QCOMPARE(islands(file), std::size_t(3)); // the skin and two eyes
        const Ran knit = run({"knit", at("eye.bonemoss"), "--spacing", "2", "--out", at("again.ply")});
        QCOMPARE(knit.code, 0);
        QCOMPARE(islands("again.ply"), std::size_t(1)); // what is kept out of the knit stays out
    }
    // From one creature to another everything comes along, at all levels.
    void creaturesConvertWhole()
    {
        put("lay.recipe.json", R"({"format":"bonemoss-recipe","version":1,"commands":[{"do":"form.add","kind":"ball","radius":20},
            {"do":"knit.forms","spacing":1.5},{"do":"piece.refine"},{"do":"layer.add","name":"bumps"},
            {"do":"sculpt.stroke","tool":"raise","layer":"bumps","size":6,"strength":1,"samples":[[20,0,0],[18,8,0]]},
            {"do":"piece.level","to":"coarsest"}]})");
        QCOMPARE(run({"replay", at("lay.recipe.json"), "--out", at("lay.bonemoss")}).code, 0);
        const auto faces = [&](const Ran &r) {
            return QJsonDocument::fromJson(r.out).object()["pieces"].toArray()[0].toObject()["faces"].toInt();
        };
        QCOMPARE(run({"convert", at("lay.bonemoss"), at("copy.bonemoss")}).code, 0);
        QCOMPARE(faces(run({"info", at("copy.bonemoss"), "--json"})), faces(run({"info", at("lay.bonemoss"), "--json"})));
        // The finest level with its layer is what is simplified, whichever is in hand.
        const Ran light = run({"simplify", at("lay.bonemoss"), "--faces", "9000", "--out", at("light2.ply"), "--json"});
        QVERIFY2(light.code == 0, light.err);
        const auto read = io::readMesh(at("light2.ply").toStdString());
        float most = 0;
        for (const Vec3f p : read->mesh.positions)
            most = std::max(most, length(p));
        QVERIFY2(most > 20.2f, qPrintable(QString::number(most))); // the bump is there
    }
    void schemaIsJson()
    {
        QVERIFY(QJsonDocument::fromJson(run({"schema"}).out).object()["oneOf"].toArray().size() > 40);
    }
    void wrongWords_data()
    {
        QTest::addColumn<QStringList>("words");
        QTest::newRow("nothing") << QStringList{};
        QTest::newRow("unknown verb") << QStringList{"dance"};
        QTest::newRow("no file") << QStringList{"info"};
        QTest::newRow("no density") << QStringList{"knit", "x.ply", "--out", "y.ply"};
        QTest::newRow("both densities") << QStringList{"knit", "x.ply", "--out", "y.ply", "--spacing", "1", "--faces", "9"};
        QTest::newRow("negative spacing") << QStringList{"knit", "x.ply", "--out", "y.ply", "--spacing", "-1"};
        QTest::newRow("unknown output kind") << QStringList{"convert", "x.ply", "y.doc"};
        QTest::newRow("bad size") << QStringList{"render", "x.ply", "--size", "big", "--out", "p.png"};
        QTest::newRow("bad view") << QStringList{"render", "x.ply", "--view", "inside", "--out", "p.png"};
    }
    void wrongWords()
    {
        QFETCH(QStringList, words);
        const Ran r = run(words);
        QCOMPARE(r.code, 2);
        QVERIFY(!r.err.isEmpty() || !r.out.isEmpty());
    }
    void unreadable_data()
    {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QByteArray>("bytes");
        QTest::newRow("missing") << "none.ply" << QByteArray();
        QTest::newRow("0 bytes") << "zero.stl" << QByteArray("");
        QByteArray huge(84, '\0');
        huge[80] = char(0), huge[81] = char(0xd2), huge[82] = char(0x96), huge[83] = char(3); // 60 million triangles, 3 GB
        QTest::newRow("3 GB in 200 bytes") << "huge.stl" << huge + QByteArray(116, '\0');
        QTest::newRow("not finite") << "nan.obj" << QByteArray("v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
        QTest::newRow("out of range") << "range.obj" << QByteArray("v 0 0 0\nf 1 2 3\n");
        QTest::newRow("no creature") << "not.bonemoss" << QByteArray("hello");
    }
    void unreadable()
    {
        QFETCH(QString, name);
        QFETCH(QByteArray, bytes);
        if (name != "none.ply")
            put(name, bytes);
        for (const QStringList &words : {QStringList{"info", at(name)}, QStringList{"convert", at(name), at("never.ply")},
                                         QStringList{"knit", at(name), "--out", at("never.ply"), "--spacing", "1"}}) {
            const Ran r = run(words);
            QCOMPARE(r.code, 3);
            QVERIFY(r.err.startsWith("bonemoss-cli: "));
        }
        QVERIFY(!QFile::exists(at("never.ply")));
    }
    void folderAsInput()
    {
        QCOMPARE(run({"info", m_dir.path() + "/."}).code, 3);
    }
    void failedOperation()
    {
        const Ran r = run({"knit", at("ball.ply"), "--out", at("never2.ply"), "--spacing", "500"});
        QCOMPARE(r.code, 4);
        QVERIFY(!QFile::exists(at("never2.ply")));
        QCOMPARE(run({"convert", at("ball.ply"), "/proc/x.ply"}).code, 4);
        put("bad.recipe.json", R"({"format":"bonemoss-recipe","version":1,"commands":[{"do":"form.fly"}]})");
        QCOMPARE(run({"replay", at("bad.recipe.json"), "--out", at("never3.bonemoss")}).code, 4);
        QVERIFY(!QFile::exists(at("never3.bonemoss")));
    }
};

BONEMOSS_TEST(TestCli)
#include "tst_cli.moc"
