// What must hold for items of every kind: lookups, names, visibility, locks, deletion and files. Oracles: the rule itself, kind by
// kind; a thing that is deleted is not there; what is written is read again.
#include "support/run.h"
#include "document/items.h"
#include "image/picture_file.h"
#include "io/scene.h"
#include "store/store.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QTemporaryDir>

#include <set>

using namespace bonemoss;
using document::Creature;
using document::ItemKind;

namespace {

/// One item of each kind, named by it.
Creature oneOfEach()
{
    Creature c = test::withPieces({test::sphere(10, 20, 30)});
    auto piece = std::make_shared<document::Piece>(*c.pieces[0]);
    piece->name = "a piece";
    c.pieces[0] = piece;
    c = *test::run(c, {{"do", "form.add"}, {"kind", "ball"}, {"name", "a form"}});
    c = *test::run(c, {{"do", "cage.add"}, {"kind", "box"}, {"name", "a cage"}});
    c = *test::run(c, {{"do", "outgrow.claw"}, {"at", {0, 10, 0}}, {"name", "a outgrowth"}});
    document::Reference r;
    auto file = std::make_shared<document::PictureFile>();
    file->bytes.resize(100), file->width = file->height = 8;
    r.id = c.nextId++, r.name = "a picture", r.file = file;
    c.references.push_back(r);
    return c;
}

std::string nameFor(const ItemKind &kind)
{
    return "a " + std::string(kind.name);
}

} // namespace

class TestItems : public QObject
{
    Q_OBJECT
private slots:
    void everyKindIsFoundByIdAndName()
    {
        const Creature c = oneOfEach();
        std::set<std::uint32_t> ids;
        for (const ItemKind &kind : document::itemKinds()) {
            QCOMPARE(kind.count(c), std::size_t(1));
            const auto byName = document::findItem(c, std::string_view(nameFor(kind)));
            QVERIFY2(byName && byName->kind == &kind, kind.name.data());
            const auto byId = document::findItem(c, byName->in(c).id);
            QVERIFY(byId && byId->kind == &kind);
            QVERIFY2(ids.insert(byName->in(c).id).second, "two items of one id");
            QCOMPARE(c.uniqueName(nameFor(kind)), nameFor(kind) + " 2");
            QVERIFY(kind.memory(c, 0) > 0 && !kind.about(c, 0).empty());
        }
        QVERIFY(!document::findItem(c, 9999u) && !document::findItem(c, std::string_view("nothing")));
    }
    void showAndHideReachEveryKindAndTheStateBeforeStays()
    {
        const Creature before = oneOfEach();
        nlohmann::json all = nlohmann::json::array();
        for (const ItemKind &kind : document::itemKinds())
            all.push_back(nameFor(kind));
        const auto hidden = test::run(before, {{"do", "items.show"}, {"hide", all}});
        QVERIFY(bool(hidden));
        document::eachItem(*hidden, [](const ItemKind &kind, std::size_t, const Item &item) {
            QVERIFY2(item.isHidden && !document::isVisible(item), kind.name.data());
        });
        document::eachItem(*hidden, [&](const ItemKind &kind, std::size_t k, const Item &) {
            QVERIFY2(!kind.isSeen(*hidden, k, document::Shown::All), kind.name.data());
        });
        document::eachItem(
            before, [](const ItemKind &kind, std::size_t, const Item &item) { QVERIFY2(!item.isHidden, kind.name.data()); });
    }
    void whatIsSharedTellsWhetherAnItemChanged() // the view sends to the card what this says is new
    {
        const Creature before = oneOfEach();
        for (const ItemKind &kind : document::itemKinds()) {
            const auto after = test::run(before, {{"do", "items.set"}, {"items", {nameFor(kind)}}, {"name", "another"}});
            QVERIFY(bool(after));
            for (const ItemKind &other : document::itemKinds())
                if (other.share(before, 0))
                    QCOMPARE(other.share(before, 0) == other.share(*after, 0), &other != &kind);
        }
    }
    void whatIsSeenIsTheSceneOfEachItem()
    {
        const Creature c = oneOfEach();
        for (const ItemKind &kind : document::itemKinds()) {
            io::Scene scene;
            kind.show(c, 0, scene);
            if (kind.isSeen(c, 0, document::Shown::All))
                QVERIFY2(!scene.isEmpty(), kind.name.data());
            if (scene.isEmpty())
                continue;
            Box3f grown = kind.bounds(c, 0); // of forms: of their distance, a little more than their mesh
            grown.grow(0.01f);
            Box3f both = grown;
            both.add(scene.box());
            QVERIFY2(both == grown, kind.name.data());
        }
    }
    void whatIsLockedIsNeitherChangedNorDeleted()
    {
        for (const ItemKind &kind : document::itemKinds()) {
            const std::string name = nameFor(kind);
            const auto locked = test::run(oneOfEach(), {{"do", "items.set"}, {"items", {name}}, {"locked", true}});
            QVERIFY2(bool(locked), kind.name.data());
            for (const nlohmann::json &command :
                 {nlohmann::json{{"do", "items.remove"}, {"items", {name}}},
                  nlohmann::json{{"do", "items.set"}, {"items", {name}}, {"name", "other"}},
                  nlohmann::json{{"do", std::string(kind.name) + ".remove"}, {kind.name, name}}}) {
                const auto done = test::run(*locked, command);
                QVERIFY2(!done && done.error().text().find("locked") != std::string::npos, command.dump().c_str());
            }
            QVERIFY(bool(test::run(*locked, {{"do", "items.set"}, {"items", {name}}, {"hidden", true}}))); // may be looked past
        }
    }
    void allKindsAreDeletedInOneStepOrNone()
    {
        const Creature c = oneOfEach();
        nlohmann::json all = nlohmann::json::array();
        for (const ItemKind &kind : document::itemKinds())
            all.push_back(nameFor(kind));
        const auto bare = test::run(c, {{"do", "items.remove"}, {"items", all}});
        QVERIFY(bool(bare));
        document::eachItem(*bare, [](const ItemKind &kind, std::size_t, const Item &) { QFAIL(kind.name.data()); });
        const Creature locked = *test::run(c, {{"do", "items.set"}, {"items", {"a picture"}}, {"locked", true}});
        QVERIFY(!test::run(locked, {{"do", "items.remove"}, {"items", all}}));
        QVERIFY(!test::run(c, {{"do", "items.remove"}, {"items", {"a form", "a ghost"}}}));
    }
    void namesStayUniqueAndAreForOneItem()
    {
        const Creature c = oneOfEach();
        const auto named = test::run(c, {{"do", "items.set"}, {"items", {"a cage"}}, {"name", "a form"}});
        QVERIFY(named && named->cages[0]->name == "a form 2");
        QVERIFY(!test::run(c, {{"do", "items.set"}, {"items", {"a cage", "a form"}}, {"name", "both"}}));
    }
    void aFileKeepsEveryHeader()
    {
        Creature c = oneOfEach();
        nlohmann::json all = nlohmann::json::array();
        for (const ItemKind &kind : document::itemKinds())
            all.push_back(nameFor(kind));
        c = *test::run(c, {{"do", "items.set"}, {"items", all}, {"hidden", true}, {"locked", true}, {"colour", "#12ab34"}});
        QTemporaryDir folder;
        const auto path = std::filesystem::path(folder.path().toStdString()) / "a.bonemoss";
        QVERIFY(bool(store::saveAs(path, c)));
        const auto again = store::loadStore(path);
        QVERIFY(again && again->damage.empty());
        document::eachItem(c, [&](const ItemKind &kind, std::size_t k, const Item &item) {
            QVERIFY2(kind.at(again->creature, k) == item, kind.name.data());
            QCOMPARE(item.colour, 0x12ab34u);
        });
    }
    void standingOnTheFloorMovesWhatTakesRoom()
    {
        const Creature c = *test::run(oneOfEach(), {{"do", "forms.move"}, {"forms", {"a form"}}, {"move", {0, 50, 0}}});
        const auto stood = test::run(c, {{"do", "creature.stand"}});
        QVERIFY(bool(stood));
        const float by = stood->pieces[0]->skin.shown.box().lo.y - c.pieces[0]->skin.shown.box().lo.y;
        for (const ItemKind &kind : document::itemKinds())
            if (const Box3f before = kind.bounds(c, 0); !before.isEmpty())
                QVERIFY2(std::abs(kind.bounds(*stood, 0).lo.y - before.lo.y - by) < 1e-3f, kind.name.data());
    }
};

BONEMOSS_TEST(TestItems)
#include "tst_items.moc"
