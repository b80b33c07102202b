// Oracles: lib3mf 1.8, which reads strictly and warns, and assimp.
#include "support/run.h"
#include "support/shapes.h"

#include "io/mesh_file.h"
#include "mesh/measures.h"

#include <assimp/Importer.hpp>
#include <assimp/scene.h>
#include <Model/COM/NMR_DLLInterfaces.h>

#include <QTemporaryDir>
#include <QtTest>

using namespace bonemoss;

class Test3mf : public QObject
{
    Q_OBJECT

    static io::Scene scene()
    {
        io::Scene s;
        io::Shape ball("ball", test::sphere(10, 24, 36, {0, 12, 0}));
        io::Attribute colours{std::string(io::kColour), mesh::Domain::Vertex, 3, {}};
        for (std::size_t v = 0; v < ball.pointCount(); ++v)
            colours.values.insert(colours.values.end(), {float(v % 7) / 7, 0.5f, 0.1f});
        ball.attributes.push_back(colours);
        s.add(std::move(ball));
        io::Object &horns =
            s.add(io::Shape("horn <left> & \"right\"", test::box({1, 0, 2}, {4, 9, 3})), {.colour = Vec3f{1, 0, 0}});
        horns.places = {io::Placement(), io::Placement::mirroring(), io::Placement{{1, 0, 0, 0, 1, 0, 0, 0, 1, 5, 20, -3}}};
        return s;
    }

private slots:
    void asLib3mfReadsIt()
    {
        using namespace NMR;
        QTemporaryDir dir;
        const std::string path = dir.filePath("a.3mf").toStdString();
        const io::Scene s = scene();
        QVERIFY(io::writeScene(path, s));
        PLib3MFModel *model = nullptr;
        PLib3MFModelReader *reader = nullptr;
        QVERIFY(lib3mf_createmodel(&model) == 0 && lib3mf_model_queryreader(model, "3mf", &reader) == 0);
        QVERIFY(lib3mf_reader_setstrictmodeactive(reader, BOOL(1)) == 0);
        QVERIFY(lib3mf_reader_readfromfileutf8(reader, path.c_str()) == 0);
        DWORD warnings = 1;
        QVERIFY(lib3mf_reader_getwarningcount(reader, &warnings) == 0);
        QCOMPARE(warnings, DWORD(0));
        PLib3MFModelResourceIterator *objects = nullptr;
        QVERIFY(lib3mf_model_getmeshobjects(model, &objects) == 0);
        std::size_t triangles = 0, count = 0;
        bool isGreenRight = false;
        for (BOOL isMore = 0; lib3mf_resourceiterator_movenext(objects, &isMore) == 0 && isMore; ++count) {
            PLib3MFModelResource *object = nullptr;
            QVERIFY(lib3mf_resourceiterator_getcurrent(objects, &object) == 0);
            DWORD n = 0;
            BOOL isSound = 0;
            QVERIFY(lib3mf_meshobject_gettrianglecount(object, &n) == 0);
            QVERIFY(lib3mf_meshobject_ismanifoldandoriented(object, &isSound) == 0 && isSound);
            triangles += n;
            if (count > 0)
                continue;
            // Colours of the ball's points, in sRGB (IEC 61966-2-1: 0.5 is 188).
            PLib3MFPropertyHandler *colours = nullptr;
            QVERIFY(lib3mf_meshobject_createpropertyhandler(object, &colours) == 0);
            MODELMESH_TRIANGLECOLOR_SRGB c{};
            QVERIFY(lib3mf_propertyhandler_getcolor(colours, 5, &c) == 0);
            isGreenRight = c.m_Colors[0].m_Green == 188 && c.m_Colors[2].m_Green == 188;
            lib3mf_release(colours);
        }
        QVERIFY(isGreenRight);
        QCOMPARE(count, std::size_t(3)); // the mirrored one is an object of its own
        QCOMPARE(triangles, s.shapes[0].triangleCount() + 2 * s.shapes[1].triangleCount());
        // As they stand: +Z up, nothing below 0, and as large as before.
        PLib3MFModelBuildItemIterator *items = nullptr;
        QVERIFY(lib3mf_model_getbuilditems(model, &items) == 0);
        Box3f box;
        std::size_t places = 0;
        for (BOOL isMore = 0; lib3mf_builditemiterator_movenext(items, &isMore) == 0 && isMore; ++places) {
            PLib3MFModelBuildItem *item = nullptr;
            PLib3MFModelObjectResource *object = nullptr;
            MODELTRANSFORM t{};
            QVERIFY(lib3mf_builditemiterator_getcurrent(items, &item) == 0);
            QVERIFY(lib3mf_builditem_getobjectresource(item, &object) == 0 && lib3mf_builditem_getobjecttransform(item, &t) == 0);
            DWORD n = 0;
            QVERIFY(lib3mf_meshobject_getvertexcount(object, &n) == 0);
            for (DWORD v = 0; v < n; ++v) {
                MODELMESHVERTEX p{};
                QVERIFY(lib3mf_meshobject_getvertex(object, v, &p) == 0);
                float q[3];
                for (int k = 0; k < 3; ++k)
                    q[k] = t.m_fFields[k][0] * p.m_fPosition[0] + t.m_fFields[k][1] * p.m_fPosition[1]
                           + t.m_fFields[k][2] * p.m_fPosition[2] + t.m_fFields[k][3];
                box.add(Vec3f{q[0], q[1], q[2]});
            }
        }
        QCOMPARE(places, std::size_t(4));
        const Vec3f size = s.box().size();
        QVERIFY2(length(box.lo) < 1e-3f, qPrintable(QStringLiteral("%1 %2 %3").arg(box.lo.x).arg(box.lo.y).arg(box.lo.z)));
        QVERIFY(length(box.hi - Vec3f{size.x, size.z, size.y}) < 1e-3f);
        lib3mf_release(model);
    }
    void asAssimpReadsIt()
    {
        QTemporaryDir dir;
        const std::string path = dir.filePath("b.3mf").toStdString();
        mesh::PolyMesh large = test::sphere(30, 300, 300);
        QVERIFY(io::writeMesh(path, large));
        Assimp::Importer importer;
        const aiScene *read = importer.ReadFile(path, 0);
        QVERIFY2(read, importer.GetErrorString());
        QCOMPARE(read->mNumMeshes, 1u);
        QCOMPARE(std::size_t(read->mMeshes[0]->mNumFaces), mesh::triangulate(large).size());
    }
    void whatCannotBeWrittenIsTold()
    {
        QVERIFY(!io::writeMesh("/nowhere/at/all.3mf", test::box({0, 0, 0}, {1, 1, 1})));
        const auto read = io::readMesh("/nowhere/at/all.3mf");
        QVERIFY(!read);
    }
};

BONEMOSS_TEST(Test3mf)
#include "tst_3mf.moc"
