// The table data/golden/strokes.csv: what one stroke of each tool, as a pen drew it, does to a hilly sheet and to a ball. It is
// written anew by ./moss golden when a tool is changed knowingly; here each row is worked out again and held against it, so
// that no change elsewhere alters how a tool feels.
#include "support/run.h"
#include "support/bed.h"
#include "support/shapes.h"

#include <QtTest>

#include <fstream>
#include <sstream>

using namespace bonemoss;
using sculpt::StrokeSettings;
using sculpt::Tool;
using test::Bed;

namespace {

struct Row {
    double moved = 0;          ///< vertices
    double mean = 0, most = 0; ///< mm, of those
    double volume = 0;         ///< mm^3 between the sheet and where it was; of the ball what it gained
};

/// A pen's way with its pressure: a quick curve, slowing and pressing harder in the middle.
std::vector<sculpt::PenSample> penWay(float height)
{
    std::vector<sculpt::PenSample> way;
    for (int k = 0; k <= 24; ++k) {
        const float t = float(k) / 24, slow = t + 0.1f * std::sin(6.2831853f * t);
        way.push_back({{-7 + 14 * slow, height, 4 * std::sin(3 * slow) - 2},
                       {0, -1, 0},
                       0.35f + 0.6f * t * (1 - t) * 4 * 0.9f,
                       8 * float(k)});
    }
    return way;
}

Row rowOf(Tool tool, bool onBall)
{
    mesh::PolyMesh m = onBall ? test::sphere(20, 120, 240) : test::plane(40, 200);
    if (!onBall)
        for (Vec3f &p : m.positions)
            p.y = 0.8f * std::sin(0.7f * p.x) * std::cos(0.5f * p.z);
    Bed bed(m);
    const std::vector<Vec3f> before = bed.surface.positions.flatten();
    const mesh::PolyMesh was = toPolyMesh(bed.surface);
    StrokeSettings s = test::plainSettings(tool);
    s.strength = 0.7f;
    s.isMirrored = onBall;
    s.depth = 0.6f;
    {
        sculpt::Stroke stroke(bed.surface, bed.mask, s,
                              tool == Tool::Restore ? test::liftedBy(bed.surface) : sculpt::StrokeNeeds{});
        for (const sculpt::PenSample &sample : penWay(60))
            stroke.add(sample);
    }
    Row row;
    for (std::size_t i = 0; i < before.size(); ++i) {
        const double far = tool == Tool::Mask ? double(bed.mask[i]) / 255 : double(length(bed.surface.positions[i] - before[i]));
        if (far <= 1e-5)
            continue;
        row.moved += 1;
        row.mean += far;
        row.most = std::max(row.most, far);
    }
    row.mean /= std::max(row.moved, 1.0);
    row.volume = mesh::measure(toPolyMesh(bed.surface)).volumeMm3 - mesh::measure(was).volumeMm3;
    return row;
}

QString table()
{
    return QStringLiteral(BONEMOSS_SOURCE_DIR "/data/golden/strokes.csv");
}

} // namespace

class TestGolden : public QObject
{
    Q_OBJECT
private slots:
    void strokesAsEver_data()
    {
        QTest::addColumn<int>("tool");
        QTest::addColumn<bool>("onBall");
        for (std::size_t t = 0; t < sculpt::kToolCount; ++t) // those that change faces have tests of their own
            if (!changesFaces(Tool(t)) && !paints(Tool(t)))
                for (const bool onBall : {false, true})
                    QTest::addRow("%s, %s", nameOf(Tool(t)).data(), onBall ? "ball" : "sheet") << int(t) << onBall;
    }
    void strokesAsEver()
    {
        QFETCH(int, tool);
        QFETCH(bool, onBall);
        const Row is = rowOf(Tool(tool), onBall);
        const QByteArray key = QByteArray(nameOf(Tool(tool)).data()) + (onBall ? ",ball" : ",sheet");
        if (qEnvironmentVariableIsSet("BONEMOSS_WRITE_GOLDEN")) {
            std::ofstream out(table().toStdString(), std::ios::app);
            if (tool == 0 && !onBall) {
                out.close();
                out.open(table().toStdString(), std::ios::trunc);
                out << "tool,on,moved,mean_mm,most_mm,volume_mm3\n";
            }
            char line[200];
            std::snprintf(line, sizeof line, "%s,%.0f,%.6g,%.6g,%.6g\n", key.data(), is.moved, is.mean, is.most, is.volume);
            out << line;
            return;
        }
        std::ifstream in(table().toStdString());
        for (std::string line; std::getline(in, line);) {
            if (line.rfind(key.toStdString() + ",", 0) != 0)
                continue;
            std::istringstream rest(line.substr(std::size_t(key.size()) + 1));
            Row want;
            char comma;
            rest >> want.moved >> comma >> want.mean >> comma >> want.most >> comma >> want.volume;
            QVERIFY2(std::abs(is.moved - want.moved) <= 0.005 * want.moved + 2, qPrintable(QString::number(is.moved)));
            QVERIFY2(std::abs(is.mean - want.mean) <= 0.01 * want.mean + 1e-5, qPrintable(QString::number(is.mean)));
            QVERIFY2(std::abs(is.most - want.most) <= 0.02 * want.most + 1e-5, qPrintable(QString::number(is.most)));
            const double scale = std::abs(want.volume) + want.moved * want.mean * 0.04; // of what was moved to and fro
            QVERIFY2(std::abs(is.volume - want.volume) <= 0.01 * scale + 0.05, qPrintable(QString::number(is.volume)));
            return;
        }
        QFAIL("the table has no such row: ./moss golden writes it");
    }
};

BONEMOSS_TEST(TestGolden)
#include "tst_golden.moc"
