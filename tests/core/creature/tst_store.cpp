#include "creature/command.h"
#include "creature/store.h"

#include <QtTest>
#include <nlohmann/json.hpp>
#include <sqlite3.h>

using namespace bonemoss;
using creature::Creature;
using nlohmann::json;

namespace {

Creature sample()
{
    Creature c;
    const std::vector<json> commands = {
        {{"do", "form.add"},
         {"kind", "tube"},
         {"name", "tail"},
         {"path", {{0, 0, 0, 9}, {10, 20, 5, 6}, {30, 25, 0, 3}}},
         {"mirror", true},
         {"melt", 3}},
        {{"do", "form.add"},
         {"kind", "body"},
         {"name", "hull"},
         {"at", {0, -60, 0}},
         {"square", 0.4},
         {"colour", "#5c7a3d"},
         {"crown", {{0, -55, -9}, {0, -50, 0}, {0, -55, 9}}},
         {"belly", {{0, -62, -9}, {0, -66, 0}, {0, -62, 9}}},
         {"left", {{2, -60, -9}, {5, -60, 9}}}},
        {{"do", "form.add"},
         {"kind", "cylinder"},
         {"name", "pipe"},
         {"bore", 0.5},
         {"role", "apart"},
         {"path", {{50, 0, 0, 4, 1}, {50, 9, 0, 5, 1}}}},
        {{"do", "form.duplicate"}, {"form", "pipe"}, {"linked", true}},
        {{"do", "form.add"}, {"kind", "cone"}, {"name", "plate"}, {"role", "apart"}, {"path", {{0, 10, 0, 2}, {0, 16, 0, 0}}}},
        {{"do", "form.repeat"},
         {"form", "plate"},
         {"mode", "along"},
         {"guide", "tail"},
         {"count", 5},
         {"from", 0.1},
         {"to", 0.9},
         {"sizes", {1, 0.5, 0.8}}},
        {{"do", "form.copy"}, {"form", "plate"}, {"copy", 2}, {"turn", {0, 20, 0}}, {"move", {0, 1, 0}}, {"scale", 1.2}},
        {{"do", "proportion.unit"}, {"form", "hull"}},
        {{"do", "proportion.target"}, {"form", "tail"}, {"ratio", 2.5}, {"tolerance", 0.1}},
        {{"do", "knit.forms"}, {"spacing", 0.5}},
        {{"do", "layer.add"}, {"name", "Folds"}, {"strength", 0.7}},
        {{"do", "sculpt.stroke"}, {"tool", "crease"}, {"layer", "Folds"}, {"size", 4}, {"samples", {{5, 12, 8}, {12, 20, 8}}}},
        {{"do", "sculpt.stroke"}, {"tool", "mask"}, {"size", 6}, {"samples", {{30, 25, 0}}}}};
    for (const json &command : commands) {
        creature::CommandContext context;
        auto next = creature::apply(c, command, context);
        if (!next)
            qFatal("%s", next.error().text().c_str());
        c = *next;
    }
    return c;
}

bool equal(const Creature &a, const Creature &b)
{
    if (!(a.armature == b.armature) || a.pieces.size() != b.pieces.size() || a.nextId != b.nextId || a.heightMm != b.heightMm)
        return false;
    for (std::size_t i = 0; i < a.pieces.size(); ++i) {
        const detail::Skin &s = a.pieces[i]->skin, &t = b.pieces[i]->skin;
        if (s.shown.positions.flatten() != t.shown.positions.flatten() || s.body.flatten() != t.body.flatten()
            || s.mask.flatten() != t.mask.flatten() || s.layers.size() != t.layers.size()
            || s.shown.topology->faces() != t.shown.topology->faces())
            return false;
        for (std::size_t l = 0; l < s.layers.size(); ++l)
            if (s.layers[l].offsets.flatten() != t.layers[l].offsets.flatten() || s.layers[l].name != t.layers[l].name
                || s.layers[l].strength != t.layers[l].strength)
                return false;
    }
    return true;
}

void sql(const std::string &path, const char *text)
{
    sqlite3 *db = nullptr;
    QCOMPARE(sqlite3_open(path.c_str(), &db), SQLITE_OK);
    QCOMPARE(sqlite3_exec(db, text, nullptr, nullptr, nullptr), SQLITE_OK);
    sqlite3_close(db);
}

} // namespace

class TestStore : public QObject
{
    Q_OBJECT
    QTemporaryDir m_dir;
    std::string at(const char *name) { return m_dir.filePath(name).toStdString(); }

private slots:
    void opensToTheSameBits()
    {
        const Creature c = sample();
        QVERIFY(bool(creature::saveAs(at("a.bonemoss"), c)));
        const auto back = creature::loadStore(at("a.bonemoss"));
        QVERIFY(back);
        QVERIFY(back->damage.empty());
        QVERIFY(equal(c, back->creature));
    }
    void savingAgainWritesOnlyWhatChanged()
    {
        Creature c = sample();
        auto store = creature::Store::open(at("b.bonemoss"));
        QVERIFY(store);
        const auto first = (*store)->save(c);
        const auto second = (*store)->save(c);
        QVERIFY(first && second);
        QVERIFY(first->blocksWritten > 5);
        QCOMPARE(second->blocksWritten, std::size_t(0));
        creature::CommandContext context;
        c = *creature::apply(
            c, {{"do", "sculpt.stroke"}, {"tool", "raise"}, {"size", 1.5}, {"mirror", false}, {"samples", {{30, 25, 0}}}},
            context);
        const auto third = (*store)->save(c);
        QVERIFY(third);
        QVERIFY(third->blocksWritten >= 1 && third->blocksWritten < first->blocksWritten / 2);
        QVERIFY(equal(c, creature::loadStore(at("b.bonemoss"))->creature));
    }
    void damagedBlockIsNamed()
    {
        QVERIFY(bool(creature::saveAs(at("c.bonemoss"), sample())));
        sql(at("c.bonemoss"), "UPDATE blob SET data = zeroblob(length(data))");
        const auto back = creature::loadStore(at("c.bonemoss"));
        QVERIFY(back); // the armature is whole
        QVERIFY(back->creature.armature == sample().armature);
        QVERIFY(back->creature.pieces.empty());
        QVERIFY(!back->damage.empty());
        QVERIFY(QString::fromStdString(back->damage[0]).contains("skin"));
    }
    void foreignAndNewerFilesAreRefused()
    {
        QFile text(m_dir.filePath("d.bonemoss"));
        QVERIFY(text.open(QIODevice::WriteOnly));
        text.write(QByteArray(5000, 'x'));
        text.close();
        QCOMPARE(creature::loadStore(at("d.bonemoss")).error().code, ErrorCode::Malformed);
        QVERIFY(!creature::Store::open(at("d.bonemoss")));
        QVERIFY(bool(creature::saveAs(at("e.bonemoss"), sample())));
        sql(at("e.bonemoss"), "PRAGMA user_version=99");
        QCOMPARE(creature::loadStore(at("e.bonemoss")).error().code, ErrorCode::Unsupported);
        QCOMPARE(creature::loadStore(at("nowhere.bonemoss")).error().code, ErrorCode::Unreadable);
    }
    void truncatedAnywhereNeverCrashes()
    {
        QVERIFY(bool(creature::saveAs(at("f.bonemoss"), sample())));
        QFile f(m_dir.filePath("f.bonemoss"));
        QVERIFY(f.open(QIODevice::ReadOnly));
        const QByteArray whole = f.readAll();
        for (int i = 0; i < 40; ++i) {
            QFile cut(m_dir.filePath("g.bonemoss"));
            QVERIFY(cut.open(QIODevice::WriteOnly));
            cut.write(whole.left(whole.size() * i / 40));
            cut.close();
            (void)creature::loadStore(at("g.bonemoss"));
            QByteArray bent = whole;
            bent[whole.size() * i / 40] = char(bent[whole.size() * i / 40] ^ 0x77);
            QFile wrong(m_dir.filePath("h.bonemoss"));
            QVERIFY(wrong.open(QIODevice::WriteOnly));
            wrong.write(bent);
            wrong.close();
            const auto r = creature::loadStore(at("h.bonemoss")); // whatever it holds, it is no other creature
            if (r && r->damage.empty() && !r->creature.pieces.empty())
                QVERIFY(equal(r->creature, sample()));
        }
    }
    void journalIsKeptAndEmptiedBySaving()
    {
        auto store = creature::Store::open(at("i.bonemoss"));
        QVERIFY(store);
        QVERIFY(bool((*store)->journal({{"do", "x"}})));
        QCOMPARE((*store)->journalEntries()->size(), std::size_t(1));
        QVERIFY(bool((*store)->save(sample())));
        QCOMPARE((*store)->journalEntries()->size(), std::size_t(0));
    }
    void unwritablePlace()
    {
        QCOMPARE(creature::saveAs("/proc/nowhere/x.bonemoss", sample()).error().code, ErrorCode::Unwritable);
    }
};

QTEST_APPLESS_MAIN(TestStore)
#include "tst_store.moc"
