// The table data/golden/knit.csv: what every mesh that Debian ships with CGAL becomes when it is knitted. It is written
// anew by ./moss golden; here each row is worked out again and held against it, and against the mesh itself.
#include "support/run.h"
#include "field/knit.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "support/shapes.h"

#include <QtTest>

#include <cmath>

using namespace bonemoss;

namespace {

constexpr float kCells = 100; // along the diagonal

struct Row {
    double faces = 0, volume = 0, area = 0, genus = 0, components = 0, mean = 0, largest = 0; // distances in spacings
    double inputVolume = 0;                                                                   // 0 where it is open
    QString text(const QString &name) const
    {
        return QStringLiteral("%1,%2,%3,%4,%5,%6,%7,%8")
            .arg(name)
            .arg(faces)
            .arg(volume, 0, 'g', 7)
            .arg(area, 0, 'g', 7)
            .arg(genus)
            .arg(components)
            .arg(mean, 0, 'g', 4)
            .arg(largest, 0, 'g', 4);
    }
};

std::optional<Row> rowOf(const QString &path)
{
    const auto read = io::readMesh(path.toStdString());
    if (!read)
        return {};
    const float spacing = mesh::boundsOf(read->mesh.positions).diagonal() / kCells;
    if (!(spacing > 0))
        return {};
    const auto knitted = field::knitMesh(read->mesh, {spacing, 0});
    if (!knitted)
        return {};
    const mesh::Measures m = measure(knitted->mesh), before = measure(read->mesh);
    const mesh::DistanceStats d = mesh::distanceTo(read->mesh, knitted->mesh.positions, 20000);
    if (!m.closed || m.nonManifoldEdges)
        return Row{-1};
    return Row{double(m.faces),
               m.volumeMm3,
               m.areaMm2,
               double(m.genus),
               double(m.components),
               d.mean / double(spacing),
               d.largest / double(spacing),
               before.closed ? before.volumeMm3 : 0};
}

} // namespace

class TestKnitTable : public QObject
{
    Q_OBJECT
private slots:
    void eachMeshAsInTheTable()
    {
        const QDir meshes(qEnvironmentVariable("BONEMOSS_MESHES"));
        const QStringList files = meshes.entryList({"*.off"}, QDir::Files, QDir::Name);
        if (files.size() < 20)
            QSKIP("the meshes of CGAL are not unpacked; ./moss test does that");
        const QString table = QStringLiteral(BONEMOSS_SOURCE_DIR "/data/golden/knit.csv");
        QStringList made{"mesh,faces,volumeMm3,areaMm2,genus,islands,meanSpacings,largestSpacings"};
        for (const QString &file : files)
            if (const auto row = rowOf(meshes.filePath(file))) {
                made << row->text(file);
                QVERIFY2(row->faces >= 0, qPrintable(file + " is not closed or not manifold"));
                // What a closed mesh encloses stays to within a tenth of a cell over its area.
                if (row->inputVolume > 0 && row->components == 1)
                    QVERIFY2(std::abs(row->volume - row->inputVolume) < 0.1 * row->area * std::sqrt(row->area / row->faces),
                             qPrintable(QStringLiteral("%1: %2 of %3").arg(file).arg(row->volume).arg(row->inputVolume)));
            }
        if (qEnvironmentVariableIsSet("BONEMOSS_WRITE_GOLDEN")) {
            QFile out(table);
            QVERIFY(out.open(QFile::WriteOnly));
            out.write(made.join('\n').toUtf8() + '\n');
            return;
        }
        QFile in(table);
        QVERIFY(in.open(QFile::ReadOnly));
        const QStringList kept = QString::fromUtf8(in.readAll()).split('\n', Qt::SkipEmptyParts);
        QCOMPARE(made.size(), kept.size());
        for (qsizetype i = 0; i < kept.size(); ++i) {
            const QStringList a = made[i].split(','), b = kept[i].split(',');
            QCOMPARE(a.size() + 1, b.size()); // the last column is a ratio of seconds, which no test looks at
            QCOMPARE(a[0], b[0]);
            for (qsizetype k = 1; i > 0 && k < a.size(); ++k) {
                const double x = a[k].toDouble(), y = b[k].toDouble();
                QVERIFY2(std::abs(x - y) <= 1e-3 * std::abs(y) + (k >= 6 ? 1e-3 : 0),
                         qPrintable(QStringLiteral("%1, %2: %3 instead of %4").arg(a[0], kept[0].split(',')[k]).arg(x).arg(y)));
            }
        }
    }
};

BONEMOSS_TEST(TestKnitTable)
#include "tst_knit_table.moc"
