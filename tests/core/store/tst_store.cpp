#include "support/run.h"
#include "command/command.h"
#include "command/recipe.h"
#include "store/detail/manifest.h"
#include "store/store.h"
#include "skin/levels.h"

#include <QtTest>
#include <nlohmann/json.hpp>
#include <sqlite3.h>

using namespace bonemoss;
using document::Creature;
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
        command::CommandContext context;
        auto next = command::apply(c, command, context);
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
        const skin::Skin &s = a.pieces[i]->skin, &t = b.pieces[i]->skin;
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

using Blobs = std::map<store::detail::Hash, std::vector<std::byte>>;

/// A manifest as the first format had it: with the names of blocks in itself, none for a block of zeros.
json asFirstFormat(json manifest, const Blobs &blobs)
{
    const auto listed = [&](json &names, std::size_t vertices) {
        json list = json::array();
        for (std::size_t b = 0; b < mesh::blockCountFor(vertices); ++b) {
            store::detail::Hash name{};
            if (!names.is_null())
                std::memcpy(&name, blobs.at(store::detail::nameIn(names)).data() + b * sizeof name, sizeof name);
            list.push_back(name == store::detail::Hash{} ? json() : json(store::detail::toHex(name)));
        }
        names = std::move(list);
    };
    for (json &piece : manifest.at("pieces")) {
        const std::size_t n = piece.at("vertices");
        for (const char *key : {"faces", "body", "mask", "groupOf", "hiddenSkin"})
            listed(piece.at(key), n);
        for (json &mask : piece.at("masks"))
            listed(mask.at("values"), n);
        for (json &channel : piece.at("paint"))
            listed(channel, n);
        for (json &layer : piece.at("layers"))
            for (const char *key : {"offsets", "mask"})
                if (layer.contains(key))
                    listed(layer.at(key), n);
    }
    return manifest;
}

void sql(const std::string &path, const char *text)
{
    sqlite3 *db = nullptr;
    QCOMPARE(sqlite3_open(path.c_str(), &db), SQLITE_OK);
    QCOMPARE(sqlite3_exec(db, text, nullptr, nullptr, nullptr), SQLITE_OK);
    sqlite3_close(db);
}

int number(const std::string &path, const char *query)
{
    sqlite3 *db = nullptr;
    sqlite3_stmt *row = nullptr;
    const bool isThere = sqlite3_open(path.c_str(), &db) == SQLITE_OK
                         && sqlite3_prepare_v2(db, query, -1, &row, nullptr) == SQLITE_OK && sqlite3_step(row) == SQLITE_ROW;
    const int value = isThere ? sqlite3_column_int(row, 0) : -1;
    sqlite3_finalize(row);
    sqlite3_close(db);
    return value;
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
        QVERIFY(bool(store::saveAs(at("a.bonemoss"), c)));
        const auto back = store::loadStore(at("a.bonemoss"));
        QVERIFY(back);
        QVERIFY(back->damage.empty());
        QVERIFY(equal(c, back->creature));
    }
    void theFirstFormatIsStillRead()
    {
        const Creature c = sample();
        Blobs blobs;
        const json manifest = store::detail::toManifest(c, [&](store::detail::Hash &, const auto &bytes) {
            std::vector<std::byte> raw = bytes();
            const auto name = store::detail::hashOf(raw);
            blobs[name] = std::move(raw);
            return name;
        });
        const json first = asFirstFormat(manifest, blobs);
        QVERIFY(first.at("pieces").at(0).at("body").is_array());
        std::vector<std::string> damage;
        const auto read = [&](store::detail::Hash name) -> Result<std::vector<std::byte>> { return blobs.at(name); };
        const auto back = store::detail::fromManifest(first, read, damage);
        QVERIFY(back && damage.empty());
        QVERIFY(equal(c, *back));
        QVERIFY(!back->pieces[0]->skin.mask.isBlank());
        // A list that does not fit is told, and the piece left out.
        json broken = first;
        broken.at("pieces").at(0).at("body").erase(0);
        const auto without = store::detail::fromManifest(broken, read, damage);
        QVERIFY(without && without->pieces.size() + 1 == c.pieces.size() && damage.size() == 1);
    }
    void aFileOfTheFirstFormatOpens()
    {
        const std::string path = at("first.bonemoss");
        QVERIFY(
            QFile::copy(QStringLiteral(BONEMOSS_SOURCE_DIR "/tests/data/first-format.bonemoss"), QString::fromStdString(path)));
        QVERIFY(QFile::setPermissions(QString::fromStdString(path), QFile::ReadOwner | QFile::WriteOwner));
        const auto first = store::loadStore(path);
        QVERIFY(first && first->damage.empty());
        // As it was saved: a ball with a layer, a growth and a kept mask, refined once.
        QCOMPARE(first->creature.pieces.size(), std::size_t(1));
        const skin::Skin &skin = first->creature.pieces[0]->skin;
        QCOMPARE(skin.shown.topology->faceCount(), std::size_t(1080));
        QCOMPARE(skin.body.size(), std::size_t(1082)); // faces of four corners without holes: Euler
        QCOMPARE(skin.layers.size(), std::size_t(2));
        QVERIFY(skin.layers[0].name == "Dents" && skin.layers[0].strength == 0.5f && !skin.layers[0].offsets.isBlank());
        QVERIFY(skin.layers[1].growth && !skin.layers[1].offsets.isBlank());
        QVERIFY(skin.hasMask() && skin.keptMask("Cheek"));
        QVERIFY(skin.level == 1 && skin.links.size() == 1);
        const auto coarse = skin::atLevel(skin, 0);
        QVERIFY(coarse && coarse->shown.topology->faceCount() == 270 && coarse->layers.size() == 2);
        // What is saved into it is of today's format, and says so.
        auto store = store::Store::open(path);
        QVERIFY(store && bool((*store)->save(first->creature)));
        store->reset();
        QCOMPARE(number(path, "PRAGMA user_version"), 2);
        const auto again = store::loadStore(path);
        QVERIFY(again && again->damage.empty() && equal(first->creature, again->creature));
    }
    // One file of each bench's making, kept as it was saved then, beside the recipe that it was made by: it opens whole, and the
    // recipe gives the same bits today.
    void aFileOfEachBenchOpensAndReplaysAlike_data()
    {
        QTest::addColumn<QString>("bench");
        for (const char *bench : {"armature", "sculpt", "detail"})
            QTest::newRow(bench) << bench;
    }
    void aFileOfEachBenchOpensAndReplaysAlike()
    {
        QFETCH(QString, bench);
        const QString kept = QStringLiteral(BONEMOSS_SOURCE_DIR "/tests/data/%1-bench").arg(bench);
        const std::string path = at((bench + "-bench.bonemoss").toUtf8().constData());
        QVERIFY(QFile::copy(kept + ".bonemoss", QString::fromStdString(path)));
        QVERIFY(QFile::setPermissions(QString::fromStdString(path), QFile::ReadOwner | QFile::WriteOwner));
        const auto loaded = store::loadStore(path);
        QVERIFY(loaded && loaded->damage.empty());
        const auto commands = command::readRecipe((kept + ".recipe.json").toStdString());
        QVERIFY(bool(commands));
        command::CommandContext context;
        const auto made = command::replay({}, *commands, context);
        QVERIFY2(bool(made), made ? "" : made.error().text().c_str());
        QVERIFY(equal(*made, loaded->creature));
    }
    void savingAgainWritesOnlyWhatChanged()
    {
        Creature c = sample();
        auto store = store::Store::open(at("b.bonemoss"));
        QVERIFY(store);
        const auto first = (*store)->save(c);
        const auto second = (*store)->save(c);
        QVERIFY(first && second);
        QVERIFY(first->blocksWritten > 5);
        QCOMPARE(second->blocksWritten, std::size_t(0));
        command::CommandContext context;
        c = *command::apply(
            c, {{"do", "sculpt.stroke"}, {"tool", "raise"}, {"size", 1.5}, {"mirror", false}, {"samples", {{30, 25, 0}}}},
            context);
        const auto third = (*store)->save(c);
        QVERIFY(third);
        QVERIFY(third->blocksWritten >= 1 && third->blocksWritten < first->blocksWritten / 2);
        QVERIFY(equal(c, store::loadStore(at("b.bonemoss"))->creature));
    }
    void damagedBlockIsNamed()
    {
        QVERIFY(bool(store::saveAs(at("c.bonemoss"), sample())));
        sql(at("c.bonemoss"), "UPDATE blob SET data = zeroblob(length(data))");
        const auto back = store::loadStore(at("c.bonemoss"));
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
        QCOMPARE(store::loadStore(at("d.bonemoss")).error().code, ErrorCode::Malformed);
        QVERIFY(!store::Store::open(at("d.bonemoss")));
        QVERIFY(bool(store::saveAs(at("e.bonemoss"), sample())));
        sql(at("e.bonemoss"), "PRAGMA user_version=99");
        QCOMPARE(store::loadStore(at("e.bonemoss")).error().code, ErrorCode::Unsupported);
        QCOMPARE(store::loadStore(at("nowhere.bonemoss")).error().code, ErrorCode::Unreadable);
    }
    void truncatedAnywhereNeverCrashes()
    {
        QVERIFY(bool(store::saveAs(at("f.bonemoss"), sample())));
        QFile f(m_dir.filePath("f.bonemoss"));
        QVERIFY(f.open(QIODevice::ReadOnly));
        const QByteArray whole = f.readAll();
        for (int i = 0; i < 40; ++i) {
            QFile cut(m_dir.filePath("g.bonemoss"));
            QVERIFY(cut.open(QIODevice::WriteOnly));
            cut.write(whole.left(whole.size() * i / 40));
            cut.close();
            (void)store::loadStore(at("g.bonemoss"));
            QByteArray bent = whole;
            bent[whole.size() * i / 40] = char(bent[whole.size() * i / 40] ^ 0x77);
            QFile wrong(m_dir.filePath("h.bonemoss"));
            QVERIFY(wrong.open(QIODevice::WriteOnly));
            wrong.write(bent);
            wrong.close();
            const auto r = store::loadStore(at("h.bonemoss")); // whatever it holds, it is no other creature
            if (r && r->damage.empty() && !r->creature.pieces.empty())
                QVERIFY(equal(r->creature, sample()));
        }
    }
    void journalIsKeptAndEmptiedBySaving()
    {
        auto store = store::Store::open(at("i.bonemoss"));
        QVERIFY(store);
        QVERIFY(bool((*store)->journal({{"do", "x"}})));
        QCOMPARE((*store)->journalEntries().entries.size(), std::size_t(1));
        QVERIFY(bool((*store)->save(sample())));
        QCOMPARE((*store)->journalEntries().entries.size(), std::size_t(0));
    }
    void unwritablePlace() { QCOMPARE(store::saveAs("/proc/nowhere/x.bonemoss", sample()).error().code, ErrorCode::Unwritable); }
};

BONEMOSS_TEST(TestStore)
#include "tst_store.moc"
