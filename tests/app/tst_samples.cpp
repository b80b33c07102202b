// The samples that ship replay and are what they say. Proportions from the art direction of the Hollowback.
#include "support/run.h"
#include "command/recipe.h"
#include "mesh/measures.h"

#include <QTemporaryDir>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace bonemoss;

class TestSamples : public QObject
{
    Q_OBJECT
private slots:
    void replays_data()
    {
        QTest::addColumn<QString>("file");
        QTest::addColumn<int>("leastFaces");
        QTest::addColumn<int>("layers");
        QTest::newRow("Hollowback") << "hollowback" << 2'000'000 << 8;
        QTest::newRow("Cairn Pup") << "cairn-pup" << 200'000 << 6;
        QTest::newRow("Reed Lurcher") << "reed-lurcher" << 900'000 << 6;
    }
    void replays()
    {
        QFETCH(QString, file);
        QFETCH(int, leastFaces);
        QFETCH(int, layers);
        const auto commands =
            command::readRecipe((QStringLiteral(BONEMOSS_SOURCE_DIR "/data/samples/") + file + ".recipe.json").toStdString());
        QVERIFY(commands);
        command::CommandContext context;
        context.folder = BONEMOSS_SOURCE_DIR "/data/samples"; // where its pictures lie
        const auto c = command::replay({}, *commands, context);
        QVERIFY2(bool(c), c ? "" : c.error().text().c_str());
        QCOMPARE(c->pieces.size(), std::size_t(1));
        const skin::Skin &skin = c->pieces[0]->skin;
        QVERIFY(int(skin.shown.topology->faceCount()) >= leastFaces);
        QVERIFY(int(skin.layers.size()) >= layers);
        const mesh::Measures m = mesh::measure(toPolyMesh(skin.shown));
        QVERIFY(m.closed);
        QCOMPARE(m.components, std::size_t(1));
        QVERIFY(m.bounds.lo.y > -1.5f && m.bounds.lo.y < 1.5f); // it stands on the floor
        for (std::size_t i = 0; i < skin.shown.positions.size(); i += 97)
            QVERIFY(isFinite(skin.shown.positions[i]));
    }
    void fineOneComesAfterTheOther()
    {
        const std::string folder = BONEMOSS_SOURCE_DIR "/data/samples/";
        const auto plain = command::readRecipe(folder + "hollowback.recipe.json"),
                   fine = command::readRecipe(folder + "hollowback-fine.recipe.json");
        QVERIFY(plain && fine);
        QCOMPARE(fine->size(), plain->size() + 2);
        QVERIFY(std::equal(plain->begin(), plain->end(), fine->begin()));
        QTemporaryDir dir;
        const auto write = [&](const char *name, const char *after) {
            QFile f(dir.filePath(QLatin1String(name)));
            QVERIFY(f.open(QIODevice::WriteOnly));
            f.write(R"({"format": "bonemoss-recipe", "version": 1, "after": )" + QByteArray(after) + R"(, "commands": []})");
        };
        write("self.json", "\"self.json\"");
        write("away.json", "\"../away.json\"");
        for (const char *name : {"self.json", "away.json"}) {
            const auto refused = command::readRecipe(dir.filePath(QLatin1String(name)).toStdString());
            QVERIFY(!refused);
            QCOMPARE(refused.error().code, ErrorCode::Malformed);
        }
    }
};

BONEMOSS_TEST(TestSamples)
#include "tst_samples.moc"
