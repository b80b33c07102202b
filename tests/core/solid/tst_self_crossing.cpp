// Oracle: CGAL 5.5, which tells exactly which triangles of a mesh pass through each other, and distances from one.
#include "support/run.h"
#include "base/parallel.h"
#include "base/random.h"
#include "field/knit.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "outgrowth/outgrowth.h"
#include "solid/crossings.h"
#include "solid/detail/cgal_mesh.h"
#include "support/shapes.h"

#include <CGAL/AABB_face_graph_triangle_primitive.h>
#include <CGAL/AABB_traits.h>
#include <CGAL/AABB_tree.h>
#include <QtTest>

using namespace bonemoss;

class TestSelfCrossing : public QObject
{
    Q_OBJECT
private slots:
    void aMeshThroughItselfIsSeen() // that the oracle sees what it is asked for
    {
        mesh::PolyMesh two = test::sphere(10, 20, 40);
        mesh::append(two, test::sphere(10, 20, 40, {8, 0, 0}));
        QVERIFY(solid::selfCrossings(two) > 0);
    }
    void knitsDoNotCrossThemselves_data()
    {
        QTest::addColumn<QString>("file");
        QTest::addColumn<int>("faces");
        for (const char *file : {"armadillo.off", "elephant.off", "dragknob.off", "homer.off", "hand.off"})
            for (const int faces : {4000, 60000})
                QTest::addRow("%s %d", file, faces) << QString(file) << faces;
    }
    void knitsDoNotCrossThemselves()
    {
        QFETCH(QString, file);
        QFETCH(int, faces);
        const std::string path = test::cgalMesh(file.toUtf8().constData());
        if (path.empty())
            QSKIP("the test meshes are not unpacked; ./moss test does that");
        const auto read = io::readMesh(path);
        QVERIFY(read);
        const auto k = field::knitMesh(read->mesh, {0, std::size_t(faces)});
        QVERIFY(k);
        QCOMPARE(solid::selfCrossings(k->mesh), std::size_t(0));
        const auto again = field::knitAgain(k->mesh, k->report.spacing);
        QVERIFY(again);
        QCOMPARE(solid::selfCrossings(field::knitAgain(again->mesh, k->report.spacing)->mesh), std::size_t(0));
    }
    // How far a knit lies from what it was made of, as reports tell it, against CGAL's tree of triangles.
    void distancesAsCgal()
    {
        const std::string path = test::cgalMesh("elephant.off");
        if (path.empty())
            QSKIP("the test meshes are not unpacked; ./moss test does that");
        const auto read = io::readMesh(path);
        QVERIFY(read);
        const auto k = field::knitMesh(read->mesh, {0, 20000});
        QVERIFY(k);
        const solid::detail::SurfaceMesh s = solid::detail::toCgal(read->mesh);
        using Primitive = CGAL::AABB_face_graph_triangle_primitive<solid::detail::SurfaceMesh>;
        CGAL::AABB_tree<CGAL::AABB_traits<solid::detail::Kernel, Primitive>> tree(faces(s).begin(), faces(s).end(), s);
        const mesh::NearestFaces ours(read->mesh);
        const double size = double(mesh::boundsOf(read->mesh.positions).diagonal());
        double sum = 0, largest = 0;
        for (const Vec3f p : k->mesh.positions) {
            const double theirs = std::sqrt(tree.squared_distance(solid::detail::toCgal(p)));
            QVERIFY(std::abs(double(ours.find(p).distance) - theirs) < 1e-6 * size);
            sum += theirs, largest = std::max(largest, theirs);
        }
        const mesh::DistanceStats told = mesh::distanceTo(read->mesh, k->mesh.positions, k->mesh.positions.size());
        QCOMPARE(told.samples, k->mesh.positions.size());
        QVERIFY(std::abs(told.mean - sum / double(told.samples)) < 1e-6 * size);
        QVERIFY(std::abs(told.largest - largest) < 1e-6 * size);
    }
    // Pushed apart, locks lie in each other less: pairs of crossing triangles of all of them together.
    void locksGiveWay()
    {
        const mesh::Surface ground = mesh::makeSurface(test::plane(200, 80));
        const growth::Surroundings about;
        std::array<std::size_t, 2> crossings{};
        for (const std::uint32_t seed : {1u, 2u, 3u})
            for (const std::size_t push : {std::size_t(0), std::size_t(1)}) {
                outgrowth::Outgrowth o = outgrowthOf(*outgrowth::kindNamed("locks"));
                o.isMirrored = false, o.seed = seed;
                for (std::size_t s = 0; s < o.values.size(); ++s)
                    if (o.kind->settings[s].name == "push")
                        o.values[s] = float(push);
                outgrowth::Input input{o, ground, about, {}};
                input.area = mesh::BlockArray<std::uint8_t>(ground.positions.size());
                for (std::size_t b = 0; b < input.area.blockCount(); ++b)
                    for (std::size_t i = 0; i < input.area.countIn(b); ++i)
                        input.area.edit(b)[i] = length(ground.positions.data(b)[i]) < 22 ? 255 : 0;
                const auto made = outgrowth::make(input);
                QVERIFY(bool(made));
                o.made = *made;
                io::Scene scene;
                o.show(scene);
                crossings[push] += solid::selfCrossings(joined(std::move(scene)));
            }
        QVERIFY2(double(crossings[1]) < 0.9 * double(crossings[0]),
                 qPrintable(QStringLiteral("%1 of %2").arg(crossings[1]).arg(crossings[0])));
    }
    void outgrowthsDoNotCrossThemselves_data()
    {
        QTest::addColumn<int>("kind");
        for (int k = 0; k < int(outgrowth::kinds().size()); ++k)
            QTest::newRow(outgrowth::kinds()[std::size_t(k)].name.data()) << k;
    }
    void outgrowthsDoNotCrossThemselves() // 200 random settings of each kind
    {
        QFETCH(int, kind);
        const outgrowth::Kind &row = outgrowth::kinds()[std::size_t(kind)];
        const mesh::Surface ground = mesh::makeSurface(test::plane(200, 10));
        const growth::Surroundings about;
        constexpr std::uint64_t kRuns = 200;
        std::vector<std::string> wrong(kRuns);
        forEachBlock(kRuns, 1, [&](BlockRange r) {
            const std::uint64_t run = r.begin;
            outgrowth::Outgrowth o = outgrowthOf(row);
            o.isMirrored = false, o.seed = std::uint32_t(run + 1);
            std::string told;
            for (std::size_t s = 0; s < row.settings.size(); ++s) {
                const outgrowth::Setting &of = row.settings[s];
                const float t = randomUnit(run, s);
                const bool isWide = of.min > 0 && of.max > 50 * of.min;
                o.values[s] = isWide ? of.min * std::pow(of.max / of.min, t) : std::lerp(of.min, of.max, t);
                if (of.name == "count")
                    o.values[s] = 3;
                if (of.isCount)
                    o.values[s] = std::round(o.values[s]);
                told += std::string(of.name) + "=" + std::to_string(o.values[s]) + " ";
            }
            o.roots = {{{0, 0, 0}}, {{10, 0, 0}}, {{20, 0, 0}}};
            if (row.rooting == outgrowth::Rooting::Lines) {
                o.roots.clear();
                for (const float x : {0.0f, 14.0f, 22.0f}) {
                    if (x > 0)
                        o.starts.push_back(std::uint32_t(o.roots.size()));
                    for (int k = 0; k < 5; ++k)
                        o.roots.push_back({{x * (1 + 0.2f * float(k)), 0.8f * float(k), 6.0f * float(k)}, {0, 1, 0}});
                }
            }
            o.corrections = {{.member = 0, .broken = run % 4 == 0 ? 0.5f * randomUnit(run, 90) : 0}};
            outgrowth::Input input{o, ground, about, {}};
            if (row.rooting == outgrowth::Rooting::Area) { // a spot of 30 mm
                input.area = mesh::BlockArray<std::uint8_t>(ground.positions.size());
                for (std::size_t v = 0; v < ground.positions.size(); ++v)
                    input.area.edit(0)[v] = length(ground.positions[std::uint32_t(v)]) < 30 ? 255 : 0;
            }
            const auto made = outgrowth::make(input);
            if (!made)
                return;
            const std::size_t every = std::max<std::size_t>(1, (*made)->shapes.size() / 6);
            for (std::size_t k = 0; k < (*made)->shapes.size(); k += every) {
                const mesh::PolyMesh &shape = *(*made)->shapes[k];
                const mesh::Measures m = mesh::measure(shape);
                if (o.value("body") == 1) // thin: an open sheet
                    wrong[run] = solid::selfCrossings(shape) > 0 || m.closed ? "thin: " + told : "";
                else if (!m.closed || m.volumeMm3 <= 0 || (m.components != 1 && !row.is(outgrowth::Bundle)))
                    wrong[run] = "open: " + told;
                else if (const std::size_t n = row.is(outgrowth::Bundle) ? 0 : solid::selfCrossings(shape); n > 0)
                    wrong[run] = std::to_string(n) + " crossings: " + told;
            }
        });
        const auto bad = std::count_if(wrong.begin(), wrong.end(), [](const std::string &w) { return !w.empty(); });
        for (const std::string &w : wrong)
            if (!w.empty() && bad < 60)
                qWarning("%s", w.c_str());
        QCOMPARE(int(bad), 0);
    }
    void balledCrowdsDoNotCrossThemselves() // random overlapping balls
    {
        for (std::uint64_t run = 0; run < 10; ++run) {
            mesh::PolyMesh crowd;
            for (std::uint64_t i = 0; i < 12; ++i) {
                const auto at = [&](std::uint64_t k) { return 12 * randomSigned(run, i * 4 + k); };
                mesh::append(crowd, test::sphere(3 + 4 * randomUnit(run, i * 4 + 3), 24, 48, {at(0), at(1), at(2)}));
            }
            const auto k = field::knitMesh(crowd, {0.7f, 0});
            QVERIFY(k);
            QCOMPARE(solid::selfCrossings(k->mesh), std::size_t(0));
        }
    }
};

BONEMOSS_TEST(TestSelfCrossing)
#include "tst_self_crossing.moc"
