// Oracles: assimp 5.2 reads the objects, copies, colours and texture coordinates that we write; the Khronos glTF validator; the
// sRGB curve's published values (IEC 61966-2-1). What is not named: common practice, no source.
#include "support/run.h"
#include "base/colour.h"
#include "document/creature.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "support/shapes.h"

#include <QtTest>

#include <assimp/Importer.hpp>
#include <assimp/postprocess.h>
#include <assimp/scene.h>

using namespace bonemoss;

namespace {

/// A plane whose corners have texture coordinates with a seam down its middle, and whose points have colours; and a ball that
/// stands twice, once as its mirror image; and a box in two sizes.
io::Scene fullScene()
{
    io::Scene scene;
    io::Shape sheet("sheet", test::plane(20, 4));
    io::Attribute uv{std::string(io::kTexture), mesh::Domain::Corner, 2, {}}, colour{std::string(io::kColour), {}, 3, {}};
    const mesh::PolyMesh plane = sheet.toPolyMesh();
    for (const mesh::Face &f : plane.faces) {
        Vec3f middle;
        for (const std::uint32_t v : f.v)
            middle += plane.positions[v] * 0.25f;
        for (const std::uint32_t v : f.v) { // the right half lies a second time over the left one
            const float x = plane.positions[v].x / 20;
            uv.values.insert(uv.values.end(), {middle.x < 0 ? x + 0.5f : 0.5f - x, plane.positions[v].z / 20 + 0.5f});
        }
    }
    for (const Vec3f p : plane.positions)
        colour.values.insert(colour.values.end(), {p.x / 20 + 0.5f, 0.25f, p.z / 20 + 0.5f});
    // Not the same on both sides of the seam: split points there.
    for (std::size_t f = 0; f < plane.faces.size(); ++f)
        if (plane.positions[plane.faces[f].v[0]].x + plane.positions[plane.faces[f].v[2]].x > 0)
            for (std::size_t k = 0; k < 4; ++k)
                uv.values[(f * 4 + k) * 2] += 0.25f;
    sheet.attributes = {uv, colour};
    scene.add(std::move(sheet));
    io::Object &eye = scene.add({"eye", test::sphere(3, 12, 20, {8, 5, 2})}, {{}, Vec3f{0.1f, 0.2f, 0.3f}, true});
    eye.places.push_back(io::Placement::mirroring());
    io::Object &claw = scene.add({"claw", test::box({-1, 1, -1}, {1, 2, 1})});
    claw.places.push_back({{0, 0, -2, 0, 1, 0, 2, 0, 0, 0, 5, 0}}); // a quarter turn, twice as wide, 5 mm up
    return scene;
}

class File
{
public:
    explicit File(const char *name) : m_path(m_dir.filePath(name).toStdString()) {}
    const std::string &path() const { return m_path; }

private:
    QTemporaryDir m_dir;
    std::string m_path;
};

bool near(double a, double b, double within = 1e-4)
{
    return std::abs(a - b) <= within;
}

} // namespace

class TestScene : public QObject
{
    Q_OBJECT
private slots:
    void surfacesAreSharedNotCopied()
    {
        const mesh::Surface ball = mesh::makeSurface(test::sphere(10, 80, 120));
        const io::Shape shape("ball", ball);
        QCOMPARE(static_cast<const void *>(shape.surface()->positions.data(0)),
                 static_cast<const void *>(ball.positions.data(0)));
        const mesh::PolyMesh plain = toPolyMesh(ball), made = shape.toPolyMesh();
        QVERIFY(made.positions == plain.positions && made.faces == plain.faces);
        QCOMPARE(shape.triangleCount(), mesh::triangulate(plain).size());
        std::size_t i = 0;
        bool isSame = true;
        shape.eachTriangle([&](const auto &corners, const std::array<std::uint32_t, 3> &t) {
            isSame &= t == mesh::triangulate(plain)[0] || i > 0;
            isSame &= corners[1] == plain.positions[t[1]];
            ++i;
        });
        QVERIFY(isSame);
    }
    void pointsThatNoFaceUsesDoNotCount()
    {
        const mesh::Surface ball = mesh::makeSurface(test::sphere(10, 20, 30));
        const std::vector<mesh::Face> faces = ball.topology->faces();
        // All faces about the first vertex go: it is left behind.
        std::vector<mesh::Face> without;
        for (const mesh::Face &f : faces)
            if (std::find(f.v.begin(), f.v.end(), 0u) != f.v.end())
                without.push_back(f);
        mesh::Surface open =
            mesh::makeSurface(mesh::Topology::replaced(*ball.topology, ball.positions.size(), without, {}), ball.positions);
        QCOMPARE(open.topology->unusedCount(), std::size_t(1));
        const io::Shape shape("open", open);
        QCOMPARE(shape.pointCount(), ball.positions.size() - 1);
        const mesh::PolyMesh mesh = shape.toPolyMesh();
        QCOMPARE(mesh.positions.size(), shape.pointCount());
        const mesh::Measures before = mesh::measure(toPolyMesh(open)), after = mesh::measure(mesh);
        QCOMPARE(after.areaMm2, before.areaMm2);
        QCOMPARE(after.boundaryEdges, before.boundaryEdges);
        QCOMPARE(after.vertices + 1, before.vertices);
    }
    void twinsFaceOutwards()
    {
        const io::Scene scene = fullScene();
        const mesh::Measures eyes = mesh::measure(io::meshOf(scene, scene.objects[1]));
        const mesh::Measures one = mesh::measure(test::sphere(3, 12, 20, {8, 5, 2}));
        QVERIFY(eyes.closed && eyes.flippedEdges == 0);
        QVERIFY(near(eyes.volumeMm3, 2 * one.volumeMm3, 1e-3)); // the twin would count below 0 inside out
        QCOMPARE(scene.box().lo.x, -11.0f);
    }
    void everyFormatIsReadByOthers_data()
    {
        QTest::addColumn<QString>("ending");
        for (const char *e : {"obj", "ply", "stl", "glb"})
            QTest::newRow(e) << QString(e);
    }
    /// What other programs find in our files is what we find in the scene.
    void everyFormatIsReadByOthers()
    {
        QFETCH(QString, ending);
        const File file(qPrintable("full." + ending));
        const io::Scene scene = fullScene();
        QVERIFY(bool(io::writeScene(file.path(), scene)));
        Assimp::Importer importer;
        const aiScene *read = importer.ReadFile(file.path(), aiProcess_PreTransformVertices | aiProcess_Triangulate);
        QVERIFY2(read, importer.GetErrorString());
        const double unit = ending == "glb" ? 1000 : 1;
        double volume = 0, area = 0;
        for (unsigned m = 0; m < read->mNumMeshes; ++m)
            for (unsigned f = 0; f < read->mMeshes[m]->mNumFaces; ++f) {
                const auto &face = read->mMeshes[m]->mFaces[f];
                const auto p = [&](unsigned k) { return read->mMeshes[m]->mVertices[face.mIndices[k]] * ai_real(unit); };
                area += double(((p(1) - p(0)) ^ (p(2) - p(0))).Length()) / 2;
                volume += double(p(0) * (p(1) ^ p(2))) / 6;
            }
        const mesh::Measures all = mesh::measure(io::joined(scene));
        QVERIFY2(near(area / all.areaMm2, 1, 1e-3), qPrintable(QString::number(area)));
        const mesh::Measures eyes = mesh::measure(io::meshOf(scene, scene.objects[1])),
                             claws = mesh::measure(io::meshOf(scene, scene.objects[2])); // the sheet lies in y = 0: no volume
        QVERIFY(near(claws.volumeMm3, 4 + 16));
        QVERIFY2(near(volume / (eyes.volumeMm3 + 20), 1, 1e-2), qPrintable(QString::number(volume)));
    }
    void textureAndColoursAreReadByOthers()
    {
        for (const char *name : {"full.obj", "full.glb", "full.ply"}) {
            const File file(name);
            const io::Scene scene = fullScene();
            QVERIFY(bool(io::writeScene(file.path(), scene)));
            Assimp::Importer importer;
            const aiScene *read = importer.ReadFile(file.path(), 0);
            QVERIFY2(read && read->mNumMeshes > 0, importer.GetErrorString());
            const aiMesh &sheet = *read->mMeshes[0];
            const double unit = std::string_view(name).ends_with("glb") ? 1000 : 1;
            std::size_t seen = 0;
            for (unsigned v = 0; v < sheet.mNumVertices; ++v) {
                const double x = double(sheet.mVertices[v].x) * unit, y = double(sheet.mVertices[v].y) * unit,
                             z = double(sheet.mVertices[v].z) * unit;
                if (std::abs(y) > 1e-6)
                    continue; // of the eyes, in the format that has one mesh
                ++seen;
                if (sheet.HasTextureCoords(0)) {
                    const double u = double(sheet.mTextureCoords[0][v].x), low = x / 20 + 0.5, high = 0.75 - x / 20;
                    QVERIFY2(near(u, low) || near(u, high), qPrintable(QString("%1 at %2").arg(u).arg(x)));
                    const double w = double(sheet.mTextureCoords[0][v].y);
                    QVERIFY2(near(w, z / 20 + 0.5), qPrintable(QString("%1 at %2").arg(w).arg(z)));
                }
                if (sheet.HasVertexColors(0)) {
                    const double red = double(sheet.mColors[0][v].r), want = x / 20 + 0.5;
                    const bool isCurve = std::string_view(name).ends_with("ply"); // bytes on the sRGB curve
                    QVERIFY2(near(red, isCurve ? double(toSrgb(float(want))) : want, isCurve ? 0.003 : 1e-4),
                             qPrintable(QString("%1 for %2").arg(red).arg(want)));
                }
            }
            QVERIFY(seen >= 25); // more where points are split
            QCOMPARE(sheet.HasTextureCoords(0), !std::string_view(name).ends_with("ply"));
            QCOMPARE(sheet.HasVertexColors(0), !std::string_view(name).ends_with("obj"));
        }
    }
    void whatWasWrittenComesBack()
    {
        const io::Scene scene = fullScene();
        for (const char *name : {"back.obj", "back.glb", "back.ply"}) {
            const File file(name);
            QVERIFY(bool(io::writeScene(file.path(), scene)));
            const auto back = io::readScene(file.path());
            QVERIFY(back);
            const mesh::Measures was = mesh::measure(io::joined(scene)), is = mesh::measure(io::joined(back->scene));
            QVERIFY(near(is.areaMm2 / was.areaMm2, 1, 1e-5));
            QVERIFY(near(is.volumeMm3 / was.volumeMm3, 1, 1e-4));
            const io::Shape &first = back->scene.shapes[0];
            for (const io::Attribute &a : first.attributes)
                QCOMPARE(a.values.size(),
                         a.width * (a.domain == mesh::Domain::Vertex ? first.pointCount() : first.cornerCount()));
            QVERIFY(!first.attributes.empty());
        }
        const File file("copies.glb");
        QVERIFY(bool(io::writeScene(file.path(), scene)));
        const io::Scene back = io::readScene(file.path())->scene;
        QCOMPARE(back.shapes.size(), std::size_t(3)); // the twins are one mesh, the claws share one
        QCOMPARE(back.objects.size(), std::size_t(4));
        QCOMPARE(back.objects[2].shape, back.objects[3].shape);
        QVERIFY(back.objects[3].places[0] == scene.objects[2].places[1]);
        QVERIFY(back.materialOf(back.objects[1]).isGlossy);
        QVERIFY(near(double(back.materialOf(back.objects[1]).colour->y), 0.2));
    }
    void mirroredCopiesStayCopies() // of one mesh and its mirror image, each in its place
    {
        io::Scene scene;
        io::Object &tooth = scene.add({"tooth", test::sphere(2, 8, 12, {1, 3, 0})});
        tooth.places.clear();
        for (int k = 0; k < 12; ++k) {
            const float a = 0.2f * float(k), c = std::cos(a), s = std::sin(a), side = k % 2 == 0 ? 1.0f : -1.0f;
            tooth.places.push_back({{side * c, side * s, 0, -s, c, 0, 0, 0, 1, 9 * side, float(k), 0}});
        }
        const File file("mirrored.glb");
        QVERIFY(bool(io::writeScene(file.path(), scene)));
        const io::Scene back = io::readScene(file.path())->scene;
        QCOMPARE(back.shapes.size(), std::size_t(2));
        const mesh::PolyMesh was = io::joined(scene), is = io::joined(back);
        QCOMPARE(is.positions.size(), was.positions.size());
        QVERIFY(std::abs(mesh::measure(is).volumeMm3 / mesh::measure(was).volumeMm3 - 1) < 1e-4); // none is inside out
        const mesh::Surface surface = mesh::makeSurface(was);
        for (const Vec3f p : is.positions)
            QVERIFY(length(mesh::nearestPoint(surface, p)->point - p) < 1e-3f);
    }
    void attributesFollowRepairs()
    {
        // A pentagon cut into triangles, a point that nothing uses, a face that is left out.
        io::RawMesh raw;
        raw.positions = {{9, 9, 9}, {0, 0, 0}, {2, 0, 0}, {3, 2, 0}, {1, 3, 0}, {-1, 2, 0}};
        raw.corners = {1, 2, 2, 1, 2, 3, 4, 5};
        raw.faceEnds = {3, 8};
        io::Attribute points{"points", mesh::Domain::Vertex, 1, {}}, corners{"corners", mesh::Domain::Corner, 1, {}};
        for (std::size_t i = 0; i < raw.positions.size(); ++i)
            points.values.push_back(raw.positions[i].x);
        for (const std::uint32_t v : raw.corners)
            corners.values.push_back(raw.positions[v].y);
        raw.attributes = {points, corners, {"wrong", mesh::Domain::Vertex, 1, {1, 2}}};
        const auto repaired = io::repair(io::sceneOf(std::move(raw)));
        QVERIFY(repaired);
        const io::Shape &shape = repaired->scene.shapes[0];
        QCOMPARE(shape.pointCount(), std::size_t(5));
        QCOMPARE(shape.faceCount(), std::size_t(3));
        QVERIFY(!shape.attribute("wrong"));
        const mesh::PolyMesh mesh = shape.toPolyMesh();
        for (std::size_t i = 0; i < 5; ++i)
            QCOMPARE(shape.attribute("points")->values[i], mesh.positions[i].x);
        std::size_t k = 0;
        for (const mesh::Face &f : mesh.faces)
            for (int c = 0; c < f.size(); ++c)
                QCOMPARE(shape.attribute("corners")->values[k++], mesh.positions[f.v[std::size_t(c)]].y);
    }
    void writingGoesOutInStretchesAndCanBeStopped()
    {
        io::Scene scene;
        scene.add({"ball", mesh::makeSurface(test::sphere(10, 300, 400))});
        std::size_t bytes = 0, calls = 0, longest = 0;
        const auto count = [&](std::string_view part) -> Status {
            bytes += part.size(), ++calls, longest = std::max(longest, part.size());
            return Done{};
        };
        float last = 0;
        Progress progress;
        progress.report = [&](float f, std::string_view) { last = std::max(last, f); };
        QVERIFY(bool(io::writeTo(count, "x.glb", scene, progress)));
        QVERIFY(bytes > 4'000'000 && calls >= 4 && longest < 1'200'000);
        QVERIFY(last > 0.9f && last <= 1);
        // A sink that is full.
        const auto full = io::writeTo(
            [](std::string_view) -> Status {
                return Error{ErrorCode::Unwritable, "disk", "full"};
            },
            "x.ply", scene);
        QVERIFY(!full && full.error().code == ErrorCode::Unwritable);
        // Stopped on the way: what was in the file before is still there.
        const File file("kept.stl");
        QVERIFY(bool(io::writeMesh(file.path(), test::box({0, 0, 0}, {1, 1, 1}))));
        std::stop_source stop;
        progress.stop = stop.get_token();
        progress.report = [&](float f, std::string_view) {
            if (f > 0.3f)
                stop.request_stop();
        };
        const auto stopped = io::writeScene(file.path(), scene, progress);
        QVERIFY(!stopped && stopped.error().code == ErrorCode::Cancelled);
        QCOMPARE(io::readMesh(file.path())->mesh.faces.size(), std::size_t(12));
        QVERIFY(bool(io::writeScene(file.path(), scene)));
        const auto unread = io::readScene(file.path(), progress);
        QVERIFY(!unread && unread.error().code == ErrorCode::Cancelled);
    }
    void sRgbIsThePublishedCurve()
    {
        // IEC 61966-2-1: 18 % grey is 0.4613 (from memory), the two parts meet at 0.0031308.
        QVERIFY(near(double(toSrgb(0.18f)), 0.4613, 2e-4));
        QVERIFY(near(double(toSrgb(0.0031308f)), double(12.92f * 0.0031308f), 1e-6));
        for (int k = 0; k < 256; ++k)
            QCOMPARE(int(srgbByte(fromSrgb(float(k) / 255))), k);
    }
    void glbPassesTheValidator()
    {
        const QString node = qEnvironmentVariable("BONEMOSS_NODE");
        if (node.isEmpty() || !QFile::exists(node + "/node_modules/gltf-validator"))
            QSKIP("the glTF validator is not installed; ./moss test does that");
        io::Scene plain;
        plain.add({"ball", test::sphere(30, 24, 40)});
        for (const io::Scene &scene : {plain, fullScene()}) {
            const File file("valid.glb");
            QVERIFY(bool(io::writeScene(file.path(), scene)));
            const test::Ran ran = test::runProgram(
                "node",
                {"-e",
                 "const "
                 "v=require('gltf-validator');v.validateBytes(new Uint8Array(require('fs').readFileSync(process.argv[1])))"
                 ".then(r=>{const i=r.issues;console.log(i.numErrors+' "
                 "'+i.numWarnings);if(i.numErrors+i.numWarnings)console.log(JSON.stringify(i.messages))})",
                 QString::fromStdString(file.path())},
                node);
            QCOMPARE(QString(ran.out).trimmed(), QString("0 0"));
        }
    }
};

BONEMOSS_TEST(TestScene)
#include "tst_scene.moc"
