// The same tetrahedron as other programs may write it, within what each format's description allows: Wavefront's OBJ
// (appendix B1), PLY (G. Turk 1994), STL (3D Systems 1989), OFF (Geomview's manual), glTF 2.0 (Khronos Group).
#include "io/mesh_file.h"
#include "mesh/measures.h"

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

QTEST_APPLESS_MAIN(TestMeshVariants)
#include "tst_mesh_variants.moc"
