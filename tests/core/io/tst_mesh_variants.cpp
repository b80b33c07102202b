// The same tetrahedron as other programs may write it, within what each format's description allows: Wavefront's OBJ
// (appendix B1), PLY (G. Turk 1994), STL (3D Systems 1989), OFF (Geomview's manual), glTF 2.0 (Khronos Group).
#include "support/run.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/surface.h"

#include <QtTest>

#include <bit>
#include <cstring>

using namespace bonemoss;

namespace {

/// Bytes of numbers, the most significant first or last.
template <typename... Numbers> QByteArray packed(std::endian order, Numbers... numbers)
{
    QByteArray out;
    const auto add = [&](auto n) {
        char bytes[sizeof n];
        std::memcpy(bytes, &n, sizeof n);
        if (order != std::endian::native)
            std::reverse(bytes, bytes + sizeof n);
        out.append(bytes, sizeof n);
    };
    (add(numbers), ...);
    return out;
}

constexpr std::array<std::array<float, 3>, 4> kPoints = {{{0, 0, 0}, {10, 0, 0}, {0, 10, 0}, {0, 0, 10}}};
constexpr std::array<std::array<int, 3>, 4> kFaces = {{{0, 2, 1}, {0, 1, 3}, {0, 3, 2}, {1, 2, 3}}};

QByteArray binaryPly(std::endian order)
{
    QByteArray f = "ply\nformat binary_";
    f += order == std::endian::big ? "big" : "little";
    f += "_endian 1.0\ncomment made by hand\nobj_info none\nelement camera 1\nproperty double far\nproperty list uchar ushort "
         "ids\n"
         "element vertex 4\nproperty uchar red\nproperty double x\nproperty double y\nproperty double z\nproperty float "
         "confidence\n"
         "element face 4\nproperty ushort part\nproperty list uint int vertex_index\nproperty uchar flags\nelement edge 1\n"
         "property int vertex1\nproperty int vertex2\nend_header\n";
    f += packed(order, 99.5, std::uint8_t(3), std::uint16_t(1), std::uint16_t(2), std::uint16_t(3));
    for (const auto &p : kPoints)
        f += packed(order, std::uint8_t(200), double(p[0]), double(p[1]), double(p[2]), 0.5f);
    for (const auto &t : kFaces)
        f += packed(order, std::uint16_t(7), std::uint32_t(3), t[0], t[1], t[2], std::uint8_t(1));
    return f + packed(order, 0, 1);
}

/// Header of any words, also such as begin like a text file; attribute bytes are anyone's.
QByteArray binaryStl(const char *header)
{
    QByteArray f(header);
    f.resize(80, ' ');
    f += packed(std::endian::little, std::uint32_t(4));
    for (const auto &t : kFaces) {
        f += packed(std::endian::little, 0.0f, 0.0f, 0.0f); // a normal that is not told
        for (const int v : t) {                             // STL stands on z: back to y up it is the same tetrahedron
            const auto &p = kPoints[std::size_t(v)];
            f += packed(std::endian::little, p[0], -p[2], p[1]);
        }
        f += packed(std::endian::little, std::uint16_t(0x7fff));
    }
    return f;
}

QByteArray textStl(const char *line, const char *solid)
{
    QByteArray f = QByteArray("solid ") + solid + line;
    for (const auto &t : kFaces) {
        f += QByteArray("  facet normal 0 0 0") + line + "\touter loop" + line;
        for (const int v : t) {
            const auto &p = kPoints[std::size_t(v)];
            f += QByteArray("    vertex  ") + QByteArray::number(double(p[0]), 'e', 6) + " "
                 + QByteArray::number(double(-p[2]), 'E', 3) + "\t" + QByteArray::number(double(p[1])) + line;
        }
        f += QByteArray("  endloop") + line + "  endfacet" + line;
    }
    return f + "endsolid " + solid + line;
}

/// The tetrahedron as one strip, or as fans about two of its corners, in a node that mirrors; parts from several accessors.
QByteArray gltfOf(int mode, const std::vector<std::vector<int>> &rows, bool isMirrored)
{
    QByteArray bytes, primitives, accessors;
    for (const auto &p : kPoints)
        bytes += packed(std::endian::little, p[0] / 1000 * (isMirrored ? -1 : 1), p[1] / 1000, p[2] / 1000);
    for (std::size_t k = 0; k < rows.size(); ++k) {
        accessors += QByteArray(", {\"bufferView\": 1, \"componentType\": 5125, \"type\": \"SCALAR\", \"byteOffset\": ")
                     + QByteArray::number(bytes.size() - 48) + ", \"count\": " + QByteArray::number(int(rows[k].size())) + "}";
        primitives += QByteArray(k ? ", " : "") + "{\"attributes\": {\"POSITION\": 0}, \"mode\": " + QByteArray::number(mode)
                      + ", \"indices\": " + QByteArray::number(int(k) + 1) + "}";
        for (const int v : rows[k])
            bytes += packed(std::endian::little, std::uint32_t(v));
    }
    return QByteArray(R"({"asset": {"version": "2.0"}, "nodes": [{"mesh": 0, "scale": [)") + (isMirrored ? "-1" : "1")
           + R"(,1,1]}], "meshes": [{"primitives": [)" + primitives + R"(]}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3"})"
           + accessors + R"(],
        "bufferViews": [{"buffer": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": )"
           + QByteArray::number(bytes.size() - 48) + R"(}], "buffers": [{"byteLength": )" + QByteArray::number(bytes.size())
           + R"(, "uri": "data:;base64,)" + bytes.toBase64() + R"("}]})";
}

/// Metres; a child of a turned and sized parent holds the mesh, whose positions lie apart in a wider row.
QByteArray gltf(bool isMatrix)
{
    QByteArray bytes;
    for (const auto &p : kPoints) // as seen before the parent turns it by 90 degrees about z and makes it half as large
        bytes += packed(std::endian::little, p[1] / 500, -p[0] / 500, p[2] / 500, 0xdeadbeefu);
    for (const auto &t : kFaces)
        for (const int v : t)
            bytes += packed(std::endian::little, std::uint8_t(v));
    const QByteArray parent = isMatrix ? R"("matrix": [0,0.5,0,0, -0.5,0,0,0, 0,0,0.5,0, 0,0,0,1])"
                                       : R"("rotation": [0,0,0.70710678,0.70710678], "scale": [0.5,0.5,0.5])";
    return R"({"asset": {"version": "2.0", "generator": "by hand"}, "scene": 0, "scenes": [{"nodes": [0]}],
        "nodes": [{)"
           + parent + R"(, "children": [1]}, {"mesh": 0, "name": "deep"}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3",
                       "min": [-1,-1,-1], "max": [1,1,1]},
                      {"bufferView": 1, "componentType": 5121, "count": 12, "type": "SCALAR"}],
        "bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": 64, "byteStride": 16},
                        {"buffer": 0, "byteOffset": 64, "byteLength": 12}],
        "buffers": [{"byteLength": 76, "uri": "data:application/octet-stream;base64,)"
           + bytes.toBase64() + R"("}]})";
}

} // namespace

class TestMeshVariants : public QObject
{
    Q_OBJECT
private slots:
    void isTheTetrahedron_data()
    {
        QTest::addColumn<QString>("ending");
        QTest::addColumn<QByteArray>("bytes");
        QTest::newRow("OBJ: corners counted from the end") << ".obj"
                                                           << QByteArray("v 0 0 0\nv 10 0 0\nv 0 10 0\nv 0 0 10\n"
                                                                         "f -4 -2 -3\nf -4 -3 -1\nf -4 -1 -2\nf -3 -2 -1\n");
        QTest::newRow("OBJ: with normals and texture, colours, groups, a material, smoothing")
            << ".obj"
            << QByteArray("# by hand\r\nmtllib none.mtl\r\no thing\r\nv 0 0 0 1 0 0\r\nv 10 0 0 0 1 0\r\nv 0 10 0 0 0 1\r\nv 0 0 "
                          "10 1 1 1\r\n"
                          "vt 0 0\r\nvn 0 0 1\r\ng a b\r\nusemtl clay\r\ns 1\r\nf 1/1/1 3/1/1 2/1/1\r\nf 1//1 2//1 4//1\r\n"
                          "f 1/1 4/1 3/1\r\ns off\r\nf 2 3 4");
        QTest::newRow("OBJ: a line goes on, a fourth coordinate, points between faces")
            << ".obj"
            << QByteArray("v 0 0 0 1.0\nv 1e1 0 0 1.0\nv 0 +10. \\\n 0 1.0\nf 1 3 2\nv 0 0 .1E2 1.0\nf 1 2 4\nf 1 \\\n4 3\nf\t2  "
                          "3 4  \n");
        QTest::newRow("PLY: text, words after the numbers that nobody asked for")
            << ".ply"
            << QByteArray("ply\nformat ascii 1.0\nelement vertex 4\nproperty float32 x\nproperty float32 y\nproperty float32 z\n"
                          "property int8 quality\nelement face 4\nproperty list uint8 int32 vertex_indices\nend_header\n"
                          "0 0 0 1\n10 0 0 -1\n0 10 0 1\n0 0 10 1\n3 0 2 1\n3 0 1 3\n3 0 3 2\n3 1 2 3\n");
        QTest::newRow("PLY: binary, least first, other elements before and after") << ".ply" << binaryPly(std::endian::little);
        QTest::newRow("PLY: binary, most first, the same") << ".ply" << binaryPly(std::endian::big);
        QTest::newRow("STL: binary") << ".stl" << binaryStl("by hand");
        QTest::newRow("STL: binary whose header begins as text does") << ".stl" << binaryStl("solid by hand");
        QTest::newRow("STL: text") << ".stl" << textStl("\n", "thing");
        QTest::newRow("STL: text, lines end in two bytes, a name of two words") << ".stl" << textStl("\r\n", "horn, left");
        QTest::newRow("OFF: remarks and empty lines")
            << ".off"
            << QByteArray("# by hand\nOFF\n\n4 4 6 # points, faces, edges\n0 0 0\n10 0 0 # nose\n\n"
                          "0 10 0\n0 0 10\n3 0 2 1\n3 0 1 3\n3 0 3 2\n3 1 2 3\n");
        QTest::newRow("OFF: counts in the first line, faces with colours")
            << ".off"
            << QByteArray(
                   "OFF 4 4 0\n0 0 0\n10 0 0\n0 10 0\n0 0 10\n3 0 2 1 255 0 0\n3 0 1 3 0.5 0.5 0.5 1\n3 0 3 2\n3 1 2 3 4\n");
        QTest::newRow("glTF: turned and sized by its parent") << ".gltf" << gltf(false);
        QTest::newRow("glTF: the same as a matrix") << ".gltf" << gltf(true);
        // Sections 3.7.2.1 and 3.7.4 of the standard: a strip turns every other triangle; mirroring turns all of them. In a mirrored
        // node the file's own corners go round the other way.
        QTest::newRow("glTF: a strip") << ".gltf" << gltfOf(5, {{0, 2, 1, 3, 0, 2}}, false);
        QTest::newRow("glTF: fans") << ".gltf" << gltfOf(6, {{0, 2, 1, 3, 2}, {1, 2, 3}}, false);
        QTest::newRow("glTF: a mirrored node") << ".gltf" << gltfOf(4, {{0, 1, 2, 0, 3, 1}, {0, 2, 3, 1, 3, 2}}, true);
        QByteArray wrong = binaryStl("by hand"), none = wrong, more = wrong;
        wrong.replace(80, 4, packed(std::endian::little, std::uint32_t(4000)));
        none.replace(80, 4, packed(std::endian::little, std::uint32_t(0)));
        QTest::newRow("STL: a counter that promises too much") << ".stl" << wrong;
        QTest::newRow("STL: a counter of nothing") << ".stl" << none;
        QTest::newRow("STL: binary, begins as text, bytes after it")
            << ".stl" << binaryStl("solid by hand") + QByteArray("made on a Monday\0", 17);
        QTest::newRow("numbers too small for what keeps them")
            << ".obj"
            << QByteArray("v 0 1e-46 -1e-400\nv 10 0.000000000000000000000000000000000000000000000000001 0\nv 0 10 0\nv 0 0 10\n"
                          "f 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n");
        QTest::newRow("the ending in capitals")
            << ".OFF" << QByteArray("OFF\n4 4 6\n0 0 0\n10 0 0\n0 10 0\n0 0 10\n3 0 2 1\n3 0 1 3\n3 0 3 2\n3 1 2 3\n");
    }
    void isTheTetrahedron()
    {
        QFETCH(QString, ending);
        QFETCH(QByteArray, bytes);
        QTemporaryDir dir;
        QFile file(dir.filePath("thing" + ending));
        QVERIFY(file.open(QIODevice::WriteOnly));
        QCOMPARE(file.write(bytes), bytes.size());
        file.close();
        const auto read = io::readMesh(file.fileName().toStdString());
        QVERIFY2(read, read ? "" : read.error().text().c_str());
        const mesh::Measures m = mesh::measure(read->mesh);
        QCOMPARE(m.vertices, std::size_t(4));
        QCOMPARE(m.faces, std::size_t(4));
        QVERIFY(m.closed);
        QVERIFY2(std::abs(m.volumeMm3 - 1000.0 / 6) < 1e-3,
                 qPrintable(QString::number(m.volumeMm3))); // a sixth of the cube, facing out
        for (const auto &p : kPoints)
            QVERIFY(std::any_of(read->mesh.positions.begin(), read->mesh.positions.end(), [&](Vec3f q) {
                return length(q - Vec3f{p[0], p[1], p[2]}) < 1e-4f;
            }));
    }
    // What is read although it is odd says so.
    void oddFilesAreToldOf()
    {
        QTemporaryDir dir;
        const auto read = [&](const char *name, const QByteArray &bytes) {
            QFile f(dir.filePath(name));
            if (!f.open(QIODevice::WriteOnly) || f.write(bytes) != bytes.size())
                qFatal("no room for test data");
            f.close();
            return io::readMesh(f.fileName().toStdString());
        };
        QByteArray wrong = binaryStl("by hand");
        wrong.replace(80, 4, packed(std::endian::little, std::uint32_t(4000)));
        const auto counted = read("a.stl", wrong);
        QVERIFY(counted && counted->repairs.size() >= 2);
        QVERIFY2(counted->repairs[0].what.find("4000") != std::string::npos, counted->repairs[0].what.c_str());
        const auto huge = read("huge.obj", "v 1e39 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
        QVERIFY(!huge && huge.error().text().find("not a finite number") != std::string::npos);
        const auto later = read("later.ply", "ply\nformat ascii_utf16 2.0\nelement vertex 0\nend_header\n");
        QCOMPARE(later.error().code, ErrorCode::Unsupported);
        QVERIFY(!read("none.ply",
                      "ply\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n"));
        // Facets of four corners, which some programs write.
        const auto square = read("q.stl", "solid q\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 1 1 0\n"
                                          "vertex 0 1 0\nendloop\nendfacet\nendsolid q\n");
        QVERIFY(square && square->mesh.faces.size() == 1 && square->mesh.faces[0].size() == 4);
        QVERIFY(!read("cut.stl", "solid q\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 1 1 0\n"));
    }
    // Names of buffers in the way of addresses (RFC 3986), which hide no way out of the folder.
    void buffersNamedByPercent()
    {
        QTemporaryDir dir;
        QByteArray bytes, doc = gltf(false);
        const qsizetype at = doc.indexOf("data:"), end = doc.indexOf('"', at);
        bytes = QByteArray::fromBase64(doc.mid(doc.indexOf(',', at) + 1, end));
        const auto read = [&](const QByteArray &uri) {
            QByteArray text = doc;
            text.replace(at, end - at, uri);
            QFile f(dir.filePath("a.gltf"));
            if (!f.open(QIODevice::WriteOnly) || f.write(text) != text.size())
                qFatal("no room for test data");
            f.close();
            return io::readMesh(f.fileName().toStdString());
        };
        QFile f(dir.filePath("the horn.bin"));
        QVERIFY(f.open(QIODevice::WriteOnly) && f.write(bytes) == bytes.size());
        f.close();
        QVERIFY(bool(read("the%20horn.bin")));
        QVERIFY(bool(read("sub/%2E%2E/the%20horn.bin")));
        for (const char *bad :
             {"%2E%2E/the%20horn.bin", "../the%20horn.bin", "%2Fetc%2Fhostname", "the%2", "the%zzhorn.bin", "%00"})
            QCOMPARE(read(bad).error().code, ErrorCode::Malformed);
    }
    // As deep, and as often shared, as a file is large.
    void longChainsAndSharedAccessors()
    {
        QTemporaryDir dir;
        const auto read = [&](const QByteArray &text) {
            QFile f(dir.filePath("deep.gltf"));
            if (!f.open(QIODevice::WriteOnly) || f.write(text) != text.size())
                qFatal("no room for test data");
            f.close();
            return io::readMesh(f.fileName().toStdString());
        };
        QByteArray deep = gltfOf(4, {{0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3}}, false), nodes;
        constexpr int kDeep = 100'000;
        for (int n = 0; n + 1 < kDeep; ++n)
            nodes += "{\"children\": [" + QByteArray::number(n + 1) + "]}, ";
        deep.replace("\"nodes\": [", "\"nodes\": [" + nodes);
        const auto chain = read(deep);
        QVERIFY2(chain, chain ? "" : chain.error().text().c_str());
        QCOMPARE(chain->mesh.faces.size(), std::size_t(4));
        QByteArray cycle = gltfOf(4, {{0, 2, 1}}, false);
        cycle.replace("\"nodes\": [{", "\"scene\": 0, \"scenes\": [{\"nodes\": [0]}], \"nodes\": [{\"children\": [0], ");
        QVERIFY(!read(cycle));
        // Four thousand parts of one triangle each that all name the same 100,000 points.
        QByteArray points, indices, primitives, accessors;
        constexpr int kParts = 4000, kShared = 100'000;
        for (int n = 0; n < kShared; ++n)
            points += packed(std::endian::little, float(n % 317) * 0.001f, float(n / 317) * 0.001f, float(n % 7) * 0.001f);
        for (int n = 0; n < kParts; ++n) {
            indices += packed(std::endian::little, std::uint32_t(n * 20), std::uint32_t(n * 20 + 1), std::uint32_t(n * 20 + 320));
            primitives +=
                QByteArray(n ? ", " : "") + "{\"attributes\": {\"POSITION\": 0}, \"indices\": " + QByteArray::number(n + 1) + "}";
            accessors += ", {\"bufferView\": 1, \"byteOffset\": " + QByteArray::number(12 * n)
                         + ", \"componentType\": 5125, \"count\": 3, \"type\": \"SCALAR\"}";
        }
        const QByteArray all = points + indices;
        const auto shared =
            read(R"({"asset": {"version": "2.0"}, "nodes": [{"mesh": 0}], "meshes": [{"primitives": [)" + primitives
                 + R"(]}], "accessors": [{"bufferView": 0, "componentType": 5126, "type": "VEC3", "count": )"
                 + QByteArray::number(kShared) + "}" + accessors + R"(], "bufferViews": [{"buffer": 0, "byteLength": )"
                 + QByteArray::number(points.size()) + R"(}, {"buffer": 0, "byteOffset": )" + QByteArray::number(points.size())
                 + R"(, "byteLength": )" + QByteArray::number(indices.size()) + R"(}], "buffers": [{"byteLength": )"
                 + QByteArray::number(all.size()) + R"(, "uri": "data:;base64,)" + all.toBase64() + R"("}]})");
        QVERIFY2(shared, shared ? "" : shared.error().text().c_str());
        QCOMPARE(shared->mesh.faces.size(), std::size_t(kParts));
        QVERIFY(shared->mesh.positions.size() <= std::size_t(3 * kParts));
    }
    // Seventy thousand faces about a point, twice: the shape stays, and it becomes a skin. (Slivers of 50 nm: rays meet them to 0.01 mm.)
    void fansOfAnySize()
    {
        constexpr int kRim = 70'000;
        QByteArray text = "v 0 0 10\nv 0 0 -10\n", faces;
        for (int n = 0; n < kRim; ++n) {
            const double a = 2 * 3.14159265358979 * n / kRim;
            text +=
                "v " + QByteArray::number(20 * std::cos(a), 'g', 9) + " " + QByteArray::number(20 * std::sin(a), 'g', 9) + " 0\n";
            const QByteArray here = QByteArray::number(n + 3), next = QByteArray::number((n + 1) % kRim + 3);
            faces += "f 1 " + here + " " + next + "\nf 2 " + next + " " + here + "\n";
        }
        QTemporaryDir dir;
        QFile f(dir.filePath("fan.obj"));
        QVERIFY(f.open(QIODevice::WriteOnly) && f.write(text + faces) > 0);
        f.close();
        const auto read = io::readMesh(f.fileName().toStdString());
        QVERIFY(read);
        QCOMPARE(read->mesh.faces.size(), std::size_t(2 * kRim));
        const mesh::PolyMesh ordered = inSpatialOrder(read->mesh);
        QVERIFY(fitsBlocks(ordered));
        const mesh::Surface surface = mesh::makeSurface(ordered);
        const auto back = mesh::measure(toPolyMesh(surface));
        const double cones = 2 * 3.14159265358979 * 400 * 10 / 3; // two cones on one base
        QVERIFY(std::abs(back.volumeMm3 / cones - 1) < 1e-4);
        const auto top = mesh::castRay(surface, {{0.5f, 0.3f, 50}, {0, 0, -1}});
        QVERIFY(bool(top));
        QVERIFY2(std::abs(top->point.z - (10 - std::hypot(0.5f, 0.3f) / 2)) < 0.01f, qPrintable(QString::number(top->point.z)));
        // Where thousands of such points share their rims there is no order that helps: told, not broken.
        mesh::PolyMesh crowded;
        for (int n = 0; n < 70'000; ++n)
            crowded.positions.push_back({float(n % 300), float(n / 300), 0});
        for (int n = 0; n < 4000; ++n)
            crowded.positions.push_back({float(n % 60), float(n / 60), 5});
        for (std::uint32_t p = 0; p < 4000; ++p)
            for (std::uint32_t k = 0; k < 300; ++k) // far-flung rims, about each point others
                crowded.faces.push_back(
                    {{70'000 + p, (p * 7919 + k * 467) % 70'000, (p * 104'729 + k * 1031 + 1) % 70'000, kNone}});
        QVERIFY(!fitsBlocks(inSpatialOrder(crowded)));
    }
    // However the file is parted for reading, and told where it goes wrong.
    void joinedLinesStayTogether()
    {
        const std::string text = "v 0 0 \\\n 0\nv 1 \\\r\n0 0\nv 0 1 0\nf 1 \\\n\\\n 2 3\n";
        const auto bytes = std::as_bytes(std::span(text));
        const auto whole = io::readObj(bytes);
        QVERIFY(whole && whole->positions.size() == 3 && whole->faceEnds.size() == 1);
        for (std::size_t chunk = 1; chunk < text.size(); ++chunk) {
            const auto parted = io::readObjInChunks(bytes, chunk);
            QVERIFY(parted && parted->positions == whole->positions && parted->corners == whole->corners);
        }
        const std::string broken = "v 0 0 \\\n 0\nv 1 \\\n0 0\nf 1 horn\n";
        QVERIFY(QString::fromStdString(io::readObj(std::as_bytes(std::span(broken))).error().text()).contains("line 5"));
    }
};

BONEMOSS_TEST(TestMeshVariants)
#include "tst_mesh_variants.moc"
