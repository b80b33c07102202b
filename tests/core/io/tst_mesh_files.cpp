// Oracles: assimp 5.2 reads back what we write, and we read what it read.
#include "support/run.h"
#include "field/knit.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "support/shapes.h"

#include <QtTest>

#include <assimp/Importer.hpp>
#include <assimp/postprocess.h>
#include <assimp/scene.h>

#include <filesystem>
#include <fstream>

using namespace bonemoss;

namespace {

QTemporaryDir &folder()
{
    static QTemporaryDir dir;
    return dir;
}

std::filesystem::path at(const QString &name)
{
    return folder().filePath(name).toStdString();
}

std::filesystem::path put(const QString &name, const QByteArray &bytes)
{
    QFile f(folder().filePath(name));
    if (f.open(QIODevice::WriteOnly))
        f.write(bytes);
    return at(name);
}

QByteArray stlWithCount(std::uint32_t count, int bytesAfter)
{
    QByteArray b(80, 'x');
    b.append(reinterpret_cast<const char *>(&count), 4);
    return b + QByteArray(bytesAfter, '\0');
}

} // namespace

class TestMeshFiles : public QObject
{
    Q_OBJECT
private slots:
    /// Starting points and findings of the fuzzers: each is read, or refused with a reason.
    void casesOfTheFuzzers()
    {
        std::size_t count = 0;
        for (const auto &entry : std::filesystem::recursive_directory_iterator(BONEMOSS_SOURCE_DIR "/tests/fuzz/cases")) {
            if (!entry.is_regular_file())
                continue;
            ++count;
            const auto read = io::readMesh(entry.path());
            if (!read)
                QVERIFY2(!read.error().text().empty(), entry.path().c_str());
            else
                for (const mesh::Face &f : read->mesh.faces)
                    for (int c = 0; c < f.size(); ++c)
                        QVERIFY2(f.v[std::size_t(c)] < read->mesh.positions.size(), entry.path().c_str());
        }
        QVERIFY(count >= 10);
    }

    void roundTrip_data()
    {
        QTest::addColumn<QString>("extension");
        for (const char *e : {"obj", "stl", "ply", "glb"})
            QTest::newRow(e) << e;
    }
    void roundTrip()
    {
        QFETCH(QString, extension);
        const mesh::PolyMesh m = test::torus(20, 5, 40, 24);
        const auto path = at("torus." + extension);
        QVERIFY(bool(io::writeMesh(path, m)));
        const auto back = io::readMesh(path);
        QVERIFY(back);
        const mesh::Measures a = mesh::measure(m), b = mesh::measure(back->mesh);
        QCOMPARE(b.vertices, a.vertices);
        QVERIFY(b.closed);
        QCOMPARE(b.genus, a.genus);
        QVERIFY(std::abs(b.volumeMm3 / a.volumeMm3 - 1) < 1e-2); // quads may be cut along the other diagonal
        for (int k = 0; k < 3; ++k) {
            QVERIFY(std::abs(bonemoss::at(a.bounds.lo, k) - bonemoss::at(b.bounds.lo, k)) < 1e-3f);
            QVERIFY(std::abs(bonemoss::at(a.bounds.hi, k) - bonemoss::at(b.bounds.hi, k)) < 1e-3f);
        }
    }
    void readByAssimp_data() { roundTrip_data(); }
    void readByAssimp()
    {
        QFETCH(QString, extension);
        const mesh::PolyMesh m = test::torus(20, 5, 40, 24);
        const auto path = at("for-assimp." + extension);
        QVERIFY(bool(io::writeMesh(path, m)));
        Assimp::Importer importer;
        const aiScene *scene = importer.ReadFile(path.string(), aiProcess_JoinIdenticalVertices | aiProcess_Triangulate);
        QVERIFY2(scene && scene->mNumMeshes == 1, importer.GetErrorString());
        const aiMesh *theirs = scene->mMeshes[0];
        QCOMPARE(theirs->mNumFaces, unsigned(m.faces.size() * 2));
        Box3f box;
        for (unsigned i = 0; i < theirs->mNumVertices; ++i)
            box.add(Vec3f{theirs->mVertices[i].x, theirs->mVertices[i].y, theirs->mVertices[i].z});
        const float unit = extension == "glb" ? 0.001f : 1; // glTF is in metres
        const Vec3f size = box.size(), want = mesh::boundsOf(m.positions).size() * unit;
        QVERIFY(std::abs(size.x / want.x - 1) < 1e-4f);
        QVERIFY(std::abs((extension == "stl" ? size.z : size.y) / want.y - 1) < 1e-4f); // STL stands on Z
    }
    void badInputIsRefused_data()
    {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QByteArray>("bytes");
        QTest::addColumn<int>("code");
        const auto row = [](const char *what, const char *name, const QByteArray &bytes, ErrorCode code = ErrorCode::Malformed) {
            QTest::newRow(what) << QString(name) << bytes << int(code);
        };
        row("empty obj", "a.obj", "");
        row("no points", "b.obj", "hello\n");
        row("point without numbers", "c.obj", "v 1 2\n");
        row("face out of range", "d.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n");
        row("face zero", "e.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 0 1 2\n");
        row("not a number", "f.obj", "v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
        row("infinite", "g.obj", "v inf 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
        row("no faces", "h.obj", "v 0 0 0\n", ErrorCode::Empty);
        row("short stl", "a.stl", "x");
        row("3 GB promised in 200 bytes", "b.stl", stlWithCount(60'000'000, 116));
        row("text stl cut short", "c.stl", "solid x\nfacet\nouter loop\nvertex 0 0 0\nvertex 1 0 0\n");
        row("ply without end", "a.ply", "ply\nformat ascii 1.0\n");
        row("ply promising too much", "b.ply",
            "ply\nformat binary_little_endian 1.0\nelement vertex 250000000\nproperty float x\nproperty float y\nproperty float "
            "z\nend_header\n1234");
        row("ply index out of range", "c.ply",
            "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face "
            "1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 7\n");
        row("ply negative index", "d.ply",
            "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face "
            "1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 -2\n");
        row("glb of noise", "a.glb", "glTF\2\0\0\0\xff\xff\xff\xff\xff\xff\xff\xffJSON{}");
        row("gltf reaching past its buffer", "b.gltf",
            R"({"asset":{"version":"2.0"},"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],"nodes":[{"mesh":0}],"accessors":[{"bufferView":0,"componentType":5126,"count":100,"type":"VEC3"}],"bufferViews":[{"buffer":0,"byteLength":1200}],"buffers":[{"uri":"data:,AAAA","byteLength":1200}]})");
        row("gltf of the wrong kinds", "c.gltf", R"({"nodes":[{"mesh":"x"}],"meshes":3})");
        row("gltf node in itself", "d.gltf", R"({"nodes":[{"children":[0]}]})");
        row("unknown kind", "a.xyz", "1 2 3", ErrorCode::Unsupported);
    }
    void badInputIsRefused()
    {
        QFETCH(QString, name);
        QFETCH(QByteArray, bytes);
        QFETCH(int, code);
        const auto r = io::readMesh(put(name, bytes));
        QVERIFY(!r);
        QCOMPARE(int(r.error().code), code);
        QVERIFY(!r.error().detail.empty());
    }
    void truncatedAnywhereNeverCrashes_data() { roundTrip_data(); }
    void truncatedAnywhereNeverCrashes()
    {
        QFETCH(QString, extension);
        const auto path = at("cut." + extension);
        QVERIFY(bool(io::writeMesh(path, test::sphere(5, 6, 8))));
        QFile f(QString::fromStdString(path.string()));
        QVERIFY(f.open(QIODevice::ReadOnly));
        const QByteArray whole = f.readAll();
        for (int n = 0; n < whole.size(); n += std::max(1, int(whole.size() / 150)))
            (void)io::readMesh(put("cut-now." + extension, whole.left(n)));
        for (int n = 0; n < whole.size(); n += std::max(1, int(whole.size() / 300))) { // a wrong byte anywhere
            QByteArray bent = whole;
            bent[n] = char(bent[n] ^ 0x5a);
            (void)io::readMesh(put("bent." + extension, bent));
        }
    }
    void folderAndMissingFile()
    {
        QDir(folder().path()).mkdir("folder.obj");
        QCOMPARE(io::readMesh(at("folder.obj")).error().code, ErrorCode::Unreadable);
        QCOMPARE(io::readMesh(at("nowhere.obj")).error().code, ErrorCode::Unreadable);
    }
    // Larger than one chunk, with faces before and between points and corners counted from the end: the same mesh as from
    // the other formats' writers, and the right line in a message.
    void longObjIsReadInChunks()
    {
        const mesh::PolyMesh ball = test::sphere(20, 200, 300);
        std::string text;
        std::size_t written = 0, lines = 0;
        for (const mesh::Face &f : ball.faces) {
            std::size_t last = 0;
            for (int k = 0; k < f.size(); ++k)
                last = std::max(last, std::size_t(f.v[std::size_t(k)]));
            for (; written <= last; ++written, ++lines) {
                const Vec3f p = ball.positions[written];
                text += QStringLiteral("v %1 %2 %3\n")
                            .arg(double(p.x), 0, 'g', 9)
                            .arg(double(p.y), 0, 'g', 9)
                            .arg(double(p.z), 0, 'g', 9)
                            .toStdString();
            }
            text += "f";
            for (int k = 0; k < f.size(); ++k) { // every other one from the end
                text += ' ';
                text += k % 2 ? std::to_string(std::ptrdiff_t(f.v[std::size_t(k)]) - std::ptrdiff_t(written))
                              : std::to_string(f.v[std::size_t(k)] + 1);
                text += k % 2 ? "" : "/1/1";
            }
            text += "\n";
            ++lines;
        }
        QVERIFY(text.size() > 3u << 20);
        const auto read = io::readMesh(put("long.obj", text.c_str()));
        QVERIFY2(bool(read), read ? "" : read.error().text().c_str());
        QVERIFY(read->mesh.positions == ball.positions);
        QVERIFY(read->mesh.faces == ball.faces);
        for (const std::size_t chunk : {1, 100, 4000}) {
            const auto cut = io::readObjInChunks(std::as_bytes(std::span(text)).first(60'000), chunk);
            const auto whole = io::readObj(std::as_bytes(std::span(text)).first(60'000));
            QCOMPARE(bool(cut), bool(whole));
            QCOMPARE(cut ? "" : cut.error().text(), whole ? "" : whole.error().text());
        }
        const auto broken = io::readMesh(put("broken.obj", (text + "v 1 2\n").c_str()));
        QVERIFY(!broken);
        const std::string line = "line " + std::to_string(lines + 1) + ":";
        QVERIFY2(broken.error().text().find(line) != std::string::npos, broken.error().text().c_str());
    }
    void repairsAreTold()
    {
        const auto r =
            io::readMesh(put("messy.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0.5 1.5 0\nv 0 1 0\nv 9 9 9\nf 1 2 3 4 5\nf 1 1 2\n"));
        QVERIFY(r);
        QCOMPARE(r->mesh.faces.size(), std::size_t(3));
        QCOMPARE(r->repairs.size(), std::size_t(3)); // a polygon, a face without area, a loose point
    }
    // A fan of 30,000 faces at one point must come in whole: nothing is reduced.
    void largeFanComesInWhole()
    {
        mesh::PolyMesh fan;
        fan.positions.push_back({0, 0, 5});
        constexpr std::uint32_t n = 30000;
        for (std::uint32_t i = 0; i < n; ++i)
            fan.positions.push_back({std::cos(float(i) * 6.2831853f / n), std::sin(float(i) * 6.2831853f / n), 0});
        for (std::uint32_t i = 0; i < n; ++i)
            fan.faces.push_back({{0, 1 + i, 1 + (i + 1) % n, kNone}});
        QVERIFY(bool(io::writeMesh(at("fan.ply"), fan)));
        const auto r = io::readMesh(at("fan.ply"));
        QVERIFY(r);
        QCOMPARE(r->mesh.faces.size(), std::size_t(n));
        QCOMPARE(r->repairs.size(), std::size_t(1));
    }
    void unwritableLeavesNothing()
    {
        const auto r = io::writeMesh("/proc/nowhere/x.obj", test::box({0, 0, 0}, {1, 1, 1}));
        QVERIFY(!r);
        QCOMPARE(r.error().code, ErrorCode::Unwritable);
    }
};

BONEMOSS_TEST(TestMeshFiles)
#include "tst_mesh_files.moc"
