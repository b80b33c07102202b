// The program replays a session in its window and is killed at random moments; what is rescued is the state
// after the last finished command.
#include "support/run.h"
#include "base/random.h"
#include "command/recipe.h"
#include "command/rescue.h"

#include <QCoreApplication>
#include <QProcess>
#include <QtTest>
#include <nlohmann/json.hpp>

#include <csignal>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;

namespace {

constexpr int kSteps = 20;

/// The n-th command of the session.
json commandNumber(int n)
{
    if (n == 0)
        return {{"do", "form.add"}, {"kind", "ball"}, {"radius", 20}};
    if (n == 1)
        return {{"do", "knit.forms"}, {"spacing", 1.2}};
    const auto r = [&](std::uint64_t k) { return double(randomSigned(std::uint64_t(n), k)); };
    static const char *const tools[] = {"raise", "crease", "swell", "smooth", "tug", "mask"};
    return {{"do", "sculpt.stroke"},
            {"tool", tools[n % 6]},
            {"size", 5},
            {"samples", {{r(0) * 20, r(1) * 20, r(2) * 20}, {r(0) * 20 + 3, r(1) * 20, r(2) * 20 + 2}}}};
}

Creature after(const Creature &c, int n)
{
    command::CommandContext context;
    auto next = command::apply(c, commandNumber(n), context);
    if (!next)
        qFatal("%s", next.error().text().c_str());
    return *next;
}

} // namespace

class TestRescue : public QObject
{
    Q_OBJECT
private slots:
    void killedAtFiftyMoments_data()
    {
        QTest::addColumn<int>("first");
        for (int k = 0; k < 50; k += 5) // each row has a clock of its own
            QTest::addRow("kills %d to %d", k + 1, k + 5) << k;
    }
    void killedAtFiftyMoments()
    {
        QFETCH(int, first);
        std::vector<std::vector<Vec3f>> states; // shown positions after each command, worked out here
        std::vector<Creature> creatures{Creature{}};
        const auto upTo = [&](int n) {
            while (int(creatures.size()) <= n + 1)
                creatures.push_back(after(creatures.back(), int(creatures.size()) - 1));
        };
        QTemporaryDir home;
        std::vector<json> commands;
        for (int n = 0; n < kSteps; ++n)
            commands.push_back(commandNumber(n));
        const QString recipe = home.filePath("session.recipe.json");
        QVERIFY(command::writeRecipe(recipe.toStdString(), commands));
        for (int k = first; k < first + 5; ++k) {
            QTemporaryDir dir;
            QProcess child;
            QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
            environment.insert("XDG_DATA_HOME", dir.path());
            environment.insert("XDG_CONFIG_HOME", dir.path());
            child.setProcessEnvironment(environment);
            QVERIFY(QDir(dir.path()).mkpath("bonemoss"));
            QFile settings(dir.filePath("bonemoss/bonemoss.conf"));
            QVERIFY(settings.open(QIODevice::WriteOnly)); // the processor draws here
            settings.write("[view]\nsmoothEdges=false\n");
            settings.close();
            child.start(BONEMOSS_BIN_DIR "/bonemoss", {"--play", recipe});
            QVERIFY(child.waitForStarted());
            int last = -1;
            // Commands to wait for, then some milliseconds.
            const int wanted = int(randomBits(5, std::uint64_t(k)) % (kSteps - 5));
            QByteArray said;
            while (last < wanted && child.waitForReadyRead(120000)) {
                said += child.readAllStandardOutput();
                last = int(said.count('\n')) - 1;
            }
            QVERIFY2(last >= wanted, "the program did not come so far");
            QTest::qSleep(1 + int(randomBits(6, std::uint64_t(k)) % 40));
            ::kill(pid_t(child.processId()), SIGKILL);
            child.waitForFinished();
            said += child.readAllStandardOutput();
            last = int(said.count('\n')) - 1;
            const auto found = command::Rescue::find(dir.filePath("bonemoss/bonemoss/rescue").toStdString()).found;
            QCOMPARE(found.size(), std::size_t(1));
            const auto back = command::Rescue::recover(found[0].file);
            QVERIFY(back);
            QVERIFY(back->damage.empty());
            // Everything that was said to be done is there; one more may be, kept just before the kill.
            upTo(last + 1);
            const auto shown = [](const Creature &c) {
                return c.pieces.empty() ? std::vector<Vec3f>{} : c.pieces[0]->skin.shown.positions.flatten();
            };
            const auto masked = [](const Creature &c) {
                return c.pieces.empty() ? std::vector<std::uint8_t>{} : c.pieces[0]->skin.mask.flatten();
            };
            const auto same = [&](const Creature &c) {
                return shown(c) == shown(back->creature) && masked(c) == masked(back->creature)
                       && c.armature == back->creature.armature;
            };
            QVERIFY2(same(creatures[std::size_t(last + 1)]) || same(creatures[std::size_t(last + 2)]),
                     qPrintable(QString::number(last)));
        }
    }
    // What was rescued is work although nothing was done with it yet: a second crash must not take it.
    void whatWasRescuedIsKeptAgain()
    {
        for (const bool isWork : {false, true}) {
            QTemporaryDir dir;
            const Creature ball = after({}, 0);
            {
                auto rescue = command::Rescue::begin(dir.path().toStdString(), ball, {}, isWork);
                QVERIFY(rescue);
                QVERIFY(bool((*rescue)->setDocument({"herd.bonemoss", {}})));
            }
            const auto found = command::Rescue::find(dir.path().toStdString()).found;
            QCOMPARE(found.size(), std::size_t(isWork));
            QCOMPARE(QDir(dir.path()).entryList({"rescue-*.bonemoss"}).size(), qsizetype(isWork));
            if (isWork)
                QCOMPARE(found[0].document.path, std::string("herd.bonemoss"));
            if (isWork)
                QVERIFY(command::Rescue::recover(found[0].file)->creature.armature == ball.armature);
        }
    }
    void endingWellLeavesNothing()
    {
        QTemporaryDir dir;
        auto rescue = command::Rescue::begin(dir.path().toStdString(), {}, {});
        QVERIFY(rescue);
        QVERIFY(command::Rescue::find(dir.path().toStdString()).found.empty()); // it is held: not a find
        (*rescue)->end();
        rescue->reset();
        QVERIFY(QDir(dir.path()).isEmpty());
    }
};

BONEMOSS_TEST(TestRescue)
#include "tst_rescue.moc"
