// Nothing is lost and nothing is changed silently: numbers that no file could keep, files that others use at the same time or a
// crash left half-written (SQLite, "Atomic Commit In SQLite"), rescue files, the history's budget, and what lies on all levels.
#include "support/run.h"
#include "document/ops/portraits.h"
#include "document/finite.h"
#include "command/history.h"
#include "store/part.h"
#include "command/rescue.h"
#include "export/shown_scene.h"
#include "skin/levels.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QFile>
#include <QTemporaryDir>
#include <QtTest>

#include <numbers>
#include <sqlite3.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using test::run;

namespace {

Creature done(Creature c, std::initializer_list<json> commands)
{
    for (const json &command : commands) {
        auto next = run(c, command);
        if (!next)
            qFatal("%s", next.error().text().c_str());
        c = std::move(*next);
    }
    return c;
}

const json kBall = {{"do", "form.add"}, {"kind", "ball"}, {"name", "ball"}, {"radius", 10}};

json stroke(double x, double y, double z, const char *tool = "raise")
{
    return {{"do", "sculpt.stroke"}, {"tool", tool}, {"size", 4}, {"samples", {{x, y, z}}}};
}

std::vector<Vec3f> shown(const Creature &c)
{
    return c.pieces.at(0)->skin.shown.positions.flatten();
}

/// A process that changes much of a file, lets all of it reach the disk, and dies before it commits.
void crashWhileSaving(const std::string &path)
{
    const pid_t child = ::fork();
    if (child == 0) {
        sqlite3 *db = nullptr;
        sqlite3_open(path.c_str(), &db);
        const int sql = sqlite3_exec(db,
                                     "PRAGMA cache_size=4; BEGIN IMMEDIATE; UPDATE blob SET data=zeroblob(length(data));"
                                     "DELETE FROM state;",
                                     nullptr, nullptr, nullptr);
        const int flushed = sqlite3_db_cacheflush(db);
        ::_exit(sql == SQLITE_OK && flushed == SQLITE_OK ? 0 : 1);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    QCOMPARE(WEXITSTATUS(status), 0);
    QVERIFY(std::filesystem::exists(path + "-journal"));
}

/// A layer lifted where a rule of the place says how far, at the level in hand.
template <typename Rule> void lift(skin::Skin &s, std::uint32_t layer, const Rule &rule)
{
    auto &offsets = s.layer(layer)->offsets;
    for (std::size_t b = 0; b < offsets.blockCount(); ++b) {
        Vec3f *p = offsets.edit(b);
        for (std::size_t i = 0; i < offsets.countIn(b); ++i)
            p[i] = rule(s.body.data(b)[i]);
    }
    skin::mixBlocks(s, skin::blocksWith(*s.layer(layer)));
}

/// A ball of two levels, the finer in hand, with a layer on which there is a bump at its left.
Creature twoLevels()
{
    Creature c = test::withPieces({test::sphere(20, 32, 48)});
    c = done(c,
             {{{"do", "layer.remove"}, {"layer", "relief"}}, {{"do", "piece.refine"}}, {{"do", "layer.add"}, {"name", "bumps"}}});
    auto piece = std::make_shared<document::Piece>(*c.pieces[0]);
    const std::uint32_t id = piece->skin.layers[0].id;
    lift(piece->skin, id, [](Vec3f p) {
        const float far = length(p - Vec3f{20, 0, 0});
        return Vec3f{1, 0, 0}
               * (std::exp(-far * far / 20) * (1 + 0.5f * std::sin(p.y * 9))); // finer than the coarse level can hold
    });
    c.put(piece);
    return c;
}

float largest(const mesh::BlockArray<Vec3f> &a, const mesh::BlockArray<Vec3f> &b)
{
    float most = a.size() == b.size() ? 0 : 1e9f;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i)
        most = std::max(most, length(a[i] - b[i]));
    return most;
}

} // namespace

class TestKept : public QObject
{
    Q_OBJECT
    QTemporaryDir m_dir;
    std::string at(const char *name) { return m_dir.filePath(QLatin1String(name)).toStdString(); }
    static std::vector<command::Rescue::Found> found(const QTemporaryDir &dir)
    {
        return std::move(command::Rescue::find(dir.path().toStdString()).found);
    }
    static std::string file(const QTemporaryDir &dir)
    {
        return dir.filePath(QDir(dir.path()).entryList({"rescue-*.bonemoss"}).value(0)).toStdString();
    }

private slots:
    void numbersThatNoFileCouldKeepAreRefused_data()
    {
        QTest::addColumn<QByteArray>("command");
        QTest::addColumn<QByteArray>("named");
        const auto row = [](const char *name, const json &command, const char *named) {
            QTest::newRow(name) << QByteArray::fromStdString(command.dump()) << QByteArray(named);
        };
        row("place", {{"do", "form.add"}, {"kind", "ball"}, {"at", {1e39, 0, 0}}}, "at");
        row("radius", {{"do", "form.add"}, {"kind", "ball"}, {"radius", 1e39}}, "radius");
        row("path", {{"do", "form.add"}, {"kind", "tube"}, {"path", {{0, 0, 0, 2}, {0, -1e39, 0, 2}}}}, "path");
        row("tiny scale", {{"do", "form.set"}, {"form", "ball"}, {"scale", {1, 1e-16, 1}}}, "scale");
        row("no scale", {{"do", "form.set"}, {"form", "ball"}, {"scale", {0, 1, 1}}}, "scale");
        row("height", {{"do", "creature.height"}, {"mm", 1e39}}, "mm");
        row("sample", {{"do", "sculpt.stroke"}, {"tool", "raise"}, {"samples", {{1e300, 0, 0}}}}, "samples");
        row("turn", {{"do", "form.set"}, {"form", "ball"}, {"turn", {0, 1e39, 0}}}, "turn");
    }
    void numbersThatNoFileCouldKeepAreRefused()
    {
        QFETCH(QByteArray, command);
        QFETCH(QByteArray, named);
        const json asked = json::parse(command.toStdString());
        const Creature c = done({}, {kBall, {{"do", "knit.forms"}, {"spacing", 2}}});
        const auto refused = run(c, asked);
        QVERIFY(!refused);
        QCOMPARE(refused.error().code, ErrorCode::BadValue);
        QVERIFY2(refused.error().subject.find(named.toStdString()) != std::string::npos, refused.error().text().c_str());
    }
    // Each factor is in range, and what they come to is not.
    void placesThatGrowOutOfRangeAreRefused()
    {
        Creature c = done({}, {kBall});
        std::string parent = "ball";
        bool isRefused = false;
        for (int k = 0; k < 12 && !isRefused; ++k) {
            const std::string name = "f" + std::to_string(k);
            auto next = run(c, {{"do", "form.add"}, {"kind", "ball"}, {"name", name}, {"parent", parent}});
            if (next)
                c = std::move(*next);
            next = run(c, {{"do", "form.set"}, {"form", next ? name : parent}, {"scale", {1e6, 1e6, 1e6}}});
            isRefused = !next;
            if (!next)
                QCOMPARE(next.error().code, ErrorCode::BadValue);
            else
                c = std::move(*next), parent = name;
        }
        QVERIFY(bool(store::saveAs(at("far.bonemoss"), c)));
        const auto back = store::loadStore(at("far.bonemoss"));
        QVERIFY(back && back->damage.empty() && back->creature.armature == c.armature);
    }
    void aPartWithSuchANumberIsRefused()
    {
        auto part = store::partFrom(done({}, {kBall}), 1);
        QVERIFY(part && store::writePart(at("a.part.json"), *part));
        QFile f(QString::fromStdString(at("a.part.json")));
        QVERIFY(f.open(QIODevice::ReadOnly));
        QByteArray text = f.readAll();
        f.close();
        json j = json::parse(text.toStdString());
        j["forms"][0]["radii"][0] = 1e39;
        QVERIFY(bool(writeFile(at("a.part.json"), j.dump())));
        QCOMPARE(store::readPart(at("a.part.json")).error().code, ErrorCode::Malformed);
    }
    // Files that were saved so before open again, without the form.
    void aFormThatCannotBeReadIsLeftOut()
    {
        Creature c = done({}, {kBall,
                               {{"do", "form.add"}, {"kind", "ball"}, {"name", "bad"}, {"radius", 3}},
                               {{"do", "form.add"}, {"kind", "ball"}, {"name", "child"}, {"parent", "bad"}}});
        c.armature.forms[1].place.translation.x = INFINITY;
        QVERIFY(bool(store::saveAs(at("inf.bonemoss"), c)));
        const auto back = store::loadStore(at("inf.bonemoss"));
        QVERIFY(back);
        QCOMPARE(back->creature.armature.forms.size(), std::size_t(2));
        QCOMPARE(back->creature.armature.forms[1].parent, 0u);
        QVERIFY(back->damage.size() == 1 && back->damage[0].find("bad") != std::string::npos);
    }
    void whatACrashLeftHalfWrittenIsRolledBack()
    {
        const Creature c = done({}, {kBall, {{"do", "knit.forms"}, {"spacing", 1}}, stroke(10, 0, 0)});
        QVERIFY(bool(store::saveAs(at("hot.bonemoss"), c)));
        crashWhileSaving(at("hot.bonemoss"));
        const auto back = store::loadStore(at("hot.bonemoss"));
        QVERIFY2(back, back ? "" : back.error().text().c_str());
        QVERIFY(back->damage.empty() && shown(back->creature) == shown(c));
    }
    void theOldFilesJournalNeverTouchesTheNewOne()
    {
        const Creature old = done({}, {kBall, {{"do", "knit.forms"}, {"spacing", 1}}}), now = done(old, {stroke(10, 0, 0)});
        QVERIFY(bool(store::saveAs(at("over.bonemoss"), old)));
        crashWhileSaving(at("over.bonemoss"));
        QVERIFY(bool(writeFile(at("over.bonemoss.part"), "somebody else's"))); // and another program's half-written file
        QVERIFY(bool(store::saveAs(at("over.bonemoss"), now)));
        QVERIFY(!std::filesystem::exists(at("over.bonemoss-journal")));
        const auto back = store::loadStore(at("over.bonemoss"));
        QVERIFY(back && back->damage.empty() && shown(back->creature) == shown(now));
        QCOMPARE(std::filesystem::file_size(at("over.bonemoss.part")), std::uintmax_t(15));
        // Over what is no creature at all, with a journal that is nobody's.
        QVERIFY(writeFile(at("text.bonemoss"), "words") && writeFile(at("text.bonemoss-journal"), "more words"));
        QVERIFY(bool(store::saveAs(at("text.bonemoss"), now)));
        QVERIFY(bool(store::loadStore(at("text.bonemoss"))) && !std::filesystem::exists(at("text.bonemoss-journal")));
    }
    void whoIsJustCommittingIsWaitedFor()
    {
        QVERIFY(bool(store::saveAs(at("busy.bonemoss"), done({}, {kBall}))));
        sqlite3 *db = nullptr;
        QCOMPARE(sqlite3_open(at("busy.bonemoss").c_str(), &db), SQLITE_OK);
        QCOMPARE(sqlite3_exec(db, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr), SQLITE_OK);
        std::thread other([&] {
            QTest::qSleep(400);
            sqlite3_exec(db, "COMMIT", nullptr, nullptr, nullptr);
        });
        const auto back = store::loadStore(at("busy.bonemoss"));
        other.join();
        sqlite3_close(db);
        QVERIFY2(back, back ? "" : back.error().text().c_str());
    }
    void somebodyElsesNewerSaveIsNotReplaced()
    {
        const Creature a = done({}, {kBall}), b = done(a, {{{"do", "form.add"}, {"kind", "ball"}, {"name", "theirs"}}});
        const auto mine = store::saveAs(at("two.bonemoss"), a);
        QVERIFY(bool(mine));
        {
            auto theirs = store::Store::open(at("two.bonemoss"));
            QVERIFY(theirs && (*theirs)->save(b, store::loadStore(at("two.bonemoss"))->mark));
        }
        auto store = store::Store::open(at("two.bonemoss"));
        const auto refused = (*store)->save(a, *mine);
        QVERIFY(!refused);
        QCOMPARE(refused.error().code, ErrorCode::Conflict);
        QVERIFY(store::loadStore(at("two.bonemoss"))->creature.armature == b.armature);
        QVERIFY(bool((*store)->save(a))); // asked for
        QVERIFY(store::loadStore(at("two.bonemoss"))->creature.armature == a.armature);
        // Put in place of the file as a whole, it is another save as well.
        QVERIFY(bool(store::saveAs(at("two.bonemoss"), b)));
        QCOMPARE((*store::Store::open(at("two.bonemoss")))->save(a, *mine).error().code, ErrorCode::Conflict);
    }
    void roomThatNothingUsesGoesBackToTheDisk()
    {
        auto store = store::Store::open(at("room.bonemoss"));
        QVERIFY(store);
        Creature c = done({}, {kBall});
        std::uintmax_t most = 0;
        for (int k = 0; k < 12; ++k) { // each time another skin of some megabytes that do not compress
            Creature big = test::withPieces({test::sphere(20.0f + float(k), 900, 1300)});
            auto piece = std::make_shared<document::Piece>(*big.pieces[0]);
            for (std::size_t b = 0; b < piece->skin.body.blockCount(); ++b) {
                Vec3f *p = piece->skin.body.edit(b);
                for (std::size_t i = 0; i < piece->skin.body.countIn(b); ++i)
                    p[i].x += 1e-3f * float((i * 2654435761u + std::size_t(k)) % 1000);
            }
            big.put(piece);
            QVERIFY(bool((*store)->save(big)));
            most = std::max(most, std::filesystem::file_size(at("room.bonemoss")));
        }
        for (int k = 0; k < 12; ++k)
            QVERIFY(bool((*store)->save(c)));
        QVERIFY(most > (32u << 20));
        QVERIFY(std::filesystem::file_size(at("room.bonemoss")) < most / 4);
        QVERIFY(store::loadStore(at("room.bonemoss"))->creature.armature == c.armature);
    }

    // --- rescue
    void aRescueThatWasPrunedToOneStateIsWork()
    {
        QTemporaryDir dir;
        const Creature start = done({}, {kBall, {{"do", "knit.forms"}, {"spacing", 0.5}}});
        Creature last = start;
        {
            auto rescue = command::Rescue::begin(dir.path().toStdString(), {}, {});
            QVERIFY(rescue);
            for (int k = 0; k < 24; ++k) {
                last = test::withPieces({test::sphere(10 + 0.1f * float(k), 120, 160)});
                QVERIFY(bool((*rescue)->snapshot(last)));
            }
        }
        sqlite3 *db = nullptr; // as happens when most of a file belongs to none of its states any more
        QCOMPARE(sqlite3_open(file(dir).c_str(), &db), SQLITE_OK);
        QCOMPARE(sqlite3_exec(db, "DELETE FROM state WHERE id < (SELECT max(id) FROM state)", nullptr, nullptr, nullptr),
                 SQLITE_OK);
        sqlite3_close(db);
        const auto all = found(dir);
        QCOMPARE(all.size(), std::size_t(1));
        QVERIFY(shown(command::Rescue::recover(all[0].file)->creature) == shown(last));
    }
    void whatCannotBeRepeatedEndsTheRescueAndIsTold()
    {
        QTemporaryDir dir;
        const Creature one = done({}, {kBall});
        {
            auto rescue = command::Rescue::begin(dir.path().toStdString(), {}, {"herd.bonemoss", {7, 9}});
            QVERIFY(rescue && (*rescue)->note(kBall) && (*rescue)->note({{"do", "no.such"}}) && (*rescue)->note(kBall));
        }
        const auto all = found(dir);
        QCOMPARE(all.size(), std::size_t(1));
        QCOMPARE(all[0].document.path, std::string("herd.bonemoss"));
        QVERIFY((all[0].document.mark == store::StateMark{7, 9}));
        const auto back = command::Rescue::recover(all[0].file);
        QVERIFY(back && back->creature.armature == one.armature);
        QCOMPARE(back->damage.size(), std::size_t(1));
        QVERIFY(std::filesystem::exists(all[0].file)); // the rest is still there
    }
    void anEntryThatCannotBeReadLosesItselfAlone()
    {
        QTemporaryDir dir;
        {
            auto rescue = command::Rescue::begin(dir.path().toStdString(), {}, {});
            for (const char *name : {"a", "b", "c"})
                QVERIFY(bool((*rescue)->note({{"do", "form.add"}, {"kind", "ball"}, {"name", name}})));
        }
        sqlite3 *db = nullptr;
        QCOMPARE(sqlite3_open(file(dir).c_str(), &db), SQLITE_OK);
        QCOMPARE(sqlite3_exec(db, "UPDATE journal SET command='{\"do' WHERE id=2", nullptr, nullptr, nullptr), SQLITE_OK);
        sqlite3_close(db);
        const auto back = command::Rescue::recover(file(dir));
        QVERIFY(back);
        QCOMPARE(back->creature.armature.forms.size(), std::size_t(2));
        QCOMPARE(back->creature.armature.forms[1].name, std::string("c"));
        QCOMPARE(back->damage.size(), std::size_t(1));
    }
    // Going back and on again is noted, not written as a state.
    void undoneStepsStayUndone()
    {
        QTemporaryDir dir;
        const auto ball = [](const char *name) { return json{{"do", "form.add"}, {"kind", "ball"}, {"name", name}}; };
        {
            auto rescue = command::Rescue::begin(dir.path().toStdString(), {}, {});
            QVERIFY((*rescue)->note(ball("a")) && (*rescue)->note(ball("b")) && (*rescue)->note(ball("c")));
            QVERIFY((*rescue)->noteStep(1) && (*rescue)->note(ball("d")) && (*rescue)->note(ball("e")) && (*rescue)->noteStep(0));
            QVERIFY((*rescue)->noteStep(3) && (*rescue)->noteStep(2));
        }
        const auto back = command::Rescue::recover(file(dir));
        QVERIFY(back && back->damage.empty());
        const Creature wanted = done({}, {ball("a"), ball("d")});
        QVERIFY(back->creature.armature == wanted.armature);
    }
    // A number of a process says nothing about who lives: another container may have given it to somebody else.
    void aLockTellsWhoLives()
    {
        QTemporaryDir dir;
        auto mine = command::Rescue::begin(dir.path().toStdString(), {}, {});
        QVERIFY(mine && (*mine)->note(kBall));
        const auto search = command::Rescue::find(dir.path().toStdString());
        QVERIFY(search.found.empty());
        QCOMPARE(search.stillHeld, std::size_t(1));
        mine->reset(); // as a kill leaves it; the process lives on
        auto all = found(dir);
        QCOMPARE(all.size(), std::size_t(1));
        QVERIFY(found(dir).empty());                                             // who looks at it keeps others from it
        auto another = command::Rescue::begin(dir.path().toStdString(), {}, {}); // of the same process number
        QVERIFY(another && std::filesystem::exists(all[0].file));
        QVERIFY(bool(command::Rescue::recover(all[0].file)));
        all[0].remove();
        QVERIFY(!std::filesystem::exists(all[0].file));
        (*another)->end();
        all.clear();
        another->reset();
        QVERIFY(QDir(dir.path()).isEmpty(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot));
    }

    // --- history
    void theHistoryKeepsWithinItsBudget()
    {
        Creature c = done({}, {kBall, {{"do", "knit.forms"}, {"spacing", 0.12}}});
        command::History history(std::make_shared<const Creature>(c), "start");
        std::size_t each = 0;
        for (int k = 0; k < 20; ++k) {
            const json command = stroke(10 * std::cos(k), 10 * std::sin(k), 0);
            c = done(c, {command});
            history.push(c, command);
            each = std::max(each, history.steps().back().bytes);
        }
        QCOMPARE(history.steps().size(), std::size_t(21));
        QVERIFY(each > 10'000 && each < c.memoryBytes() / 2); // a stroke costs what it touches
        history.setBudget(history.bytes() / 2);
        QVERIFY(history.dropped() > 4 && history.dropped() < 16);
        QVERIFY(history.bytes() <= history.budget());
        QCOMPARE(history.dropped() + history.at(), std::size_t(20));
        QVERIFY(shown(history.now()) == shown(c));
        history.setBudget(0); // never the last step back
        QVERIFY(history.canUndo());
    }

    // --- levels
    void layersAreDuplicatedOnAllLevels()
    {
        Creature c = done(twoLevels(), {{{"do", "piece.level"}, {"to", "coarsest"}},
                                        {{"do", "layer.duplicate"}, {"layer", "bumps"}, {"name", "twin"}},
                                        {{"do", "piece.level"}, {"to", "finest"}}});
        const auto &layers = c.pieces[0]->skin.layers;
        QCOMPARE(layers.size(), std::size_t(2));
        QVERIFY(largest(layers[0].offsets, layers[1].offsets) < 1e-6f);
        QVERIFY(largest(layers[0].offsets, twoLevels().pieces[0]->skin.layers[0].offsets) < 1e-6f);
    }
    void layersChangeSidesOnAllLevels()
    {
        const json coarse = {{"do", "piece.level"}, {"to", "coarsest"}}, fine = {{"do", "piece.level"}, {"to", "finest"}},
                   flip = {{"do", "layer.flip"}, {"layer", "bumps"}};
        const Creature there = done(twoLevels(), {flip}), by = done(twoLevels(), {coarse, flip, fine});
        const skin::Skin &a = there.pieces[0]->skin, &b = by.pieces[0]->skin;
        QVERIFY(largest(a.layers[0].offsets, b.layers[0].offsets) < 2e-3f); // as if it had been done on the fine level
        float left = 0;
        for (std::size_t v = 0; v < b.body.size(); ++v)
            if (b.body[v].x > 5)
                left = std::max(left, length(b.layers[0].offsets[v]));
        QVERIFY(left < 1e-3f);
    }
    void layersAreCopiedAndRemovedOnAllLevels()
    {
        Creature c = twoLevels();
        auto other = std::make_shared<document::Piece>(*test::withPieces({test::sphere(20, 32, 48)}).pieces[0]);
        other->id = c.nextId++, other->name = "other", other->skin.layers.clear();
        other->skin = skin::makeSkin(test::sphere(20, 32, 48), false);
        c.pieces.push_back(other);
        const json down = {{"do", "piece.level"}, {"piece", "other"}, {"to", "coarsest"}},
                   up = {{"do", "piece.level"}, {"piece", "other"}, {"to", "finest"}};
        c = done(c, {{{"do", "piece.refine"}, {"piece", "other"}},
                     down,
                     {{"do", "piece.level"}, {"piece", "a"}, {"to", "coarsest"}},
                     {{"do", "layer.copy"}, {"piece", "a"}, {"layer", "bumps"}, {"to", "other"}},
                     up});
        const skin::Skin &to = c.pieces[1]->skin;
        QCOMPARE(to.layers.size(), std::size_t(1));
        QVERIFY(largest(to.layers[0].offsets, twoLevels().pieces[0]->skin.layers[0].offsets) < 0.05f); // 1.5 mm high
        c = done(c, {down, {{"do", "layer.remove"}, {"piece", "other"}, {"layer", "bumps"}}, up});
        QVERIFY(c.pieces[1]->skin.layers.empty());
        QVERIFY(largest(c.pieces[1]->skin.shown.positions, c.pieces[1]->skin.body) == 0);
    }
    void whatALevelDoesNotChangeStaysItself()
    {
        const Creature c = twoLevels();
        const Creature by = done(c, {{{"do", "piece.level"}, {"to", "coarsest"}},
                                     {{"do", "layer.duplicate"}, {"layer", "bumps"}},
                                     {{"do", "layer.remove"}, {"layer", "bumps 2"}},
                                     {{"do", "piece.level"}, {"to", "finest"}}});
        QVERIFY(shown(c) == shown(by)); // to the bit
    }
    void symmetryTakesMarksAlong()
    {
        Creature c = test::withPieces({test::sphere(20, 32, 48)});
        auto piece = std::make_shared<document::Piece>(*c.pieces[0]);
        skin::Skin &s = piece->skin;
        s.masks.push_back({"kept", mesh::BlockArray<std::uint8_t>(s.body.size())});
        s.groups.push_back({1, "spot"});
        for (std::size_t v = 0; v < s.body.size(); ++v)
            if (const Vec3f p = s.body[v]; p.x > 6 && p.y > 2) {
                const std::size_t b = v / mesh::kBlockSize, i = v % mesh::kBlockSize;
                s.masks[0].values.edit(b)[i] = 200;
                s.groupOf.edit(b)[i] = 1;
                for (auto &channel : s.paint.channels)
                    channel.edit(b)[i] = 90;
            }
        c.put(piece);
        c = done(c, {{{"do", "piece.symmetrise"}, {"from", "left"}}});
        const skin::Skin &now = c.pieces[0]->skin;
        std::size_t twins = 0;
        for (std::size_t v = 0; v < now.body.size(); ++v)
            if (const Vec3f p = now.body[v]; p.x < -6.5f && p.y > 2.5f) {
                QCOMPARE(int(now.masks[0].values[v]), 200);
                QCOMPARE(int(now.groupOf[v]), 1);
                QCOMPARE(int(now.paint.channels[0][v]), 90);
                ++twins;
            }
        QVERIFY(twins > 50);
    }

    // --- what is seen
    void whatIsSeenIsWritten()
    {
        Creature c = done({}, {kBall,
                               {{"do", "form.add"},
                                {"kind", "ball"},
                                {"name", "eye"},
                                {"role", "apart"},
                                {"at", {4, 8, 4}},
                                {"radius", 2},
                                {"mirror", true}},
                               {{"do", "knit.forms"}, {"spacing", 1}},
                               {{"do", "form.add"}, {"kind", "ball"}, {"name", "late"}, {"at", {0, 20, 0}}, {"radius", 3}},
                               {{"do", "form.add"}, {"kind", "ball"}, {"name", "cut"}, {"role", "cut"}},
                               {{"do", "form.add"}, {"kind", "ball"}, {"name", "veiled"}, {"hidden", true}}});
        const auto names = [](const Creature &of) {
            std::vector<std::string> out;
            for (const io::Object &o : exporting::shownScene(of).objects)
                out.push_back(o.name);
            return out;
        };
        QCOMPARE(names(c), (std::vector<std::string>{"skin", "eye", "late"}));
        const io::Scene scene = exporting::shownScene(c);
        QCOMPARE(mesh::boundsOf(io::meshOf(scene, scene.objects[1]).positions).size().x > 10, true); // with its twin
        QVERIFY(bool(store::saveAs(at("seen.bonemoss"), c)));
        const Creature back = store::loadStore(at("seen.bonemoss"))->creature;
        QCOMPARE(names(back), names(c));
        // A file that does not say of what its skin was knitted: of all its forms.
        json old;
        for (armature::Form &f : c.armature.forms)
            f.isKnitted = true;
        QCOMPARE(names(c), (std::vector<std::string>{"skin", "eye"}));
    }
    /// Lights, cameras and the place of a portrait are in the file; wrong ones are refused and change nothing.
    void stagesSurviveTheFile()
    {
        Creature c;
        for (const json &command : std::vector<json>{
                 {{"do", "form.add"}, {"kind", "ball"}, {"name", "a"}, {"at", {0, 20, 0}}, {"radius", 20}},
                 {{"do", "portrait.lights"}, {"set", "low-sun"}},
                 {{"do", "light.add"}, {"role", "lamp"}, {"name", "Lantern"}, {"aim", {1, 2, 3}}, {"colour", {1, 0.5, 0.25}}},
                 {{"do", "light.aim"}, {"light", "Lantern"}, {"shadowOf", {0, 40, 0}}, {"shadowAt", {0, 0, 40}}},
                 {{"do", "portrait.ground"}, {"kind", "rock"}, {"colour", {0.2, 0.2, 0.25}}, {"sink", 1.5}},
                 {{"do", "portrait.film"}, {"exposure", 0.5}, {"metered", true}},
                 {{"do", "camera.keep"}, {"name", "front"}, {"view", "nose"}, {"lens", 50}, {"aperture", 8}, {"tilt", 5}}})
            c = test::need(c, command);
        QVERIFY(c.stage.lights.size() == 4 && c.stage.shots.size() == 1);
        // The shadow of a place above falls before it: the lamp stands behind, 45 degrees up.
        QVERIFY(std::abs(c.stage.lights[3].elevation - 45) < 0.1f && std::abs(std::abs(c.stage.lights[3].azimuth) - 180) < 0.1f);
        QVERIFY(bool(store::saveAs(at("stage.bonemoss"), c)));
        const auto back = store::loadStore(at("stage.bonemoss"));
        QVERIFY(bool(back) && back->damage.empty() && back->creature.stage == c.stage);
        for (const json &wrong : std::vector<json>{{{"do", "light.set"}, {"light", "Torch"}, {"strength", 1}},
                                                   {{"do", "light.set"}, {"light", "Lantern"}, {"kelvin", 300}},
                                                   {{"do", "light.aim"}, {"light", "Lantern"}, {"highlight", {0, 0, 0}}},
                                                   {{"do", "portrait.ground"}, {"piece", "b"}},
                                                   {{"do", "portrait.ground"}, {"kind", "piece"}},
                                                   {{"do", "portrait.surroundings"}, {"kind", "picture"}},
                                                   {{"do", "portrait.backdrop"}, {"path", "none.png"}},
                                                   {{"do", "camera.keep"}, {"name", "left"}},
                                                   {{"do", "camera.set"}, {"camera", "back"}, {"lens", 40}}})
            QVERIFY2(!run(c, wrong), wrong.dump().c_str());
    }
    void aPieceAsGroundAndLightInsideSurviveTheFile()
    {
        Creature c;
        for (const json &command :
             std::vector<json>{{{"do", "form.add"}, {"kind", "ball"}, {"name", "a"}, {"at", {0, 20, 0}}, {"radius", 20}},
                               {{"do", "knit.forms"}, {"spacing", 4}, {"name", "body"}},
                               {{"do", "form.add"}, {"kind", "ball"}, {"name", "b"}, {"at", {0, -60, 0}}, {"radius", 50}},
                               {{"do", "knit.forms"}, {"spacing", 6}, {"name", "slab"}, {"forms", {"b"}}},
                               {{"do", "piece.set"}, {"piece", "body"}, {"lightDepth", 1.5}, {"lightTint", {0.9, 0.5, 0.2}}},
                               {{"do", "portrait.ground"}, {"kind", "piece"}}})
            c = test::need(c, command);
        QCOMPARE(c.piece(c.stage.ground.piece)->name, std::string("slab")); // the lowest of them
        QVERIFY(std::abs(sizeOf(c) - c.pieces[0]->bounds().diagonal()) < 1e-3f);
        QVERIFY(bool(store::saveAs(at("ground.bonemoss"), c)));
        const auto back = store::loadStore(at("ground.bonemoss"));
        QVERIFY(bool(back) && back->damage.empty() && back->creature.stage == c.stage);
        QVERIFY(back->creature.pieces[0]->inside == c.pieces[0]->inside && c.pieces[0]->inside.depth == 1.5f);
        QVERIFY(!run(c, {{"do", "piece.set"}, {"piece", "body"}, {"lightTint", {0, 0.5, 0.2}}}));
        // Without that piece views take all of it again.
        const Creature bare = test::need(c, {{"do", "piece.remove"}, {"piece", "slab"}});
        QVERIFY(std::abs(sizeOf(bare) - bare.bounds().diagonal()) < 1e-3f);
    }
    void namesThatAreNoTextAreRefused()
    {
        const auto refused = run({}, {{"do", "form.add"}, {"kind", "ball"}, {"name", "h\xF6rn"}});
        QVERIFY(!refused && refused.error().code == ErrorCode::BadValue);
    }
};

BONEMOSS_TEST(TestKept)
#include "tst_kept.moc"
