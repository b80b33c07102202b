// Layers and growths as commands: order, masks, hand work, guides, copies, files.
#include "support/run.h"
#include "command/growth/growth_fields.h"
#include "document/ops/growths.h"
#include "store/layer_file.h"
#include "store/store.h"
#include "command/stroke_command.h"
#include "document/ops/surroundings.h"
#include "growth/scatter.h"
#include "support/forest.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <map>
#include <numeric>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using skin::Layer;
using test::skinOf;

namespace {

Creature ball(float radius = 15, std::uint32_t rings = 120)
{
    Creature c;
    auto piece = std::make_shared<document::Piece>();
    piece->id = c.nextId++;
    piece->name = "ball";
    piece->skin = skin::makeSkin(test::sphere(radius, rings, rings * 3 / 2), false);
    c.pieces.push_back(piece);
    return c;
}

Creature after(const Creature &c, const json &command)
{
    const auto next = test::run(c, command);
    if (!next)
        qFatal("%s: %s", command.dump().c_str(), next.error().text().c_str());
    return *next;
}

const Layer &layerOf(const Creature &c, const char *name)
{
    for (const Layer &l : skinOf(c).layers)
        if (l.name == name)
            return l;
    qFatal("no layer %s", name);
}

bool isSame(const mesh::BlockArray<Vec3f> &a, const mesh::BlockArray<Vec3f> &b)
{
    for (std::size_t i = 0; i < a.size(); ++i)
        if (!(a[i] == b[i]))
            return false;
    return a.size() == b.size();
}

json strokeOn(const char *layer, const char *tool, Vec3f at = {0, 0, 15})
{
    return {{"do", "sculpt.stroke"},
            {"tool", tool},
            {"layer", layer},
            {"size", 6},
            {"strength", 1},
            {"mirror", false},
            {"samples", {{at.x, at.y, at.z}, {at.x + 1, at.y, at.z}, {at.x + 2, at.y, at.z}}}};
}

} // namespace

class TestGrowing : public QObject
{
    Q_OBJECT
private slots:
    void everyKindIsACommand()
    {
        for (const growth::GrowthKind &kind : growth::growthKinds()) {
            const std::string name = "grow." + std::string(kind.name);
            const auto *spec = command::findCommand(name);
            QVERIFY(spec);
            for (const auto &s : kind.settings) // its table is what the command checks
                QVERIFY(std::any_of(spec->params.begin(), spec->params.end(), [&](const auto &p) {
                    return p.name == s.name && p.min == double(s.min) && p.max == double(s.max);
                }));
            const Creature c = after(ball(15, 60), {{"do", name}});
            QCOMPARE(skinOf(c).layers.size(), std::size_t(1));
            // What the window offers to pick and mask is there, and nothing else is offered.
            QCOMPARE(growth::hasCells(kind), bool(test::run(c, {{"do", "grow.mask"}, {"layer", skinOf(c).layers[0].id}})));
            QCOMPARE(QString::fromStdString(skinOf(c).layers[0].name),
                     QString::fromUtf8(kind.title.data(), qsizetype(kind.title.size())));
            // What the window sends for the same rule gives the same.
            const Creature again =
                after(c, command::growCommand(c.pieces[0]->id, skinOf(c).layers[0].id, *skinOf(c).layers[0].growth));
            QVERIFY(isSame(skinOf(c).layers[0].offsets, skinOf(again).layers[0].offsets));
        }
        QVERIFY(!test::run(ball(), {{"do", "grow.scales"}, {"size", -1}}));
        QVERIFY(!test::run(ball(), {{"do", "grow.scales"}, {"layer", "body"}}));
    }

    void growsOutsideTheMaskOrInside()
    {
        const Creature masked =
            after(ball(), {{"do", "mask.shape"}, {"what", "slope"}, {"from", 0}, {"to", 90}, {"soft", 0.001}});
        const Creature outside = after(masked, {{"do", "grow.pebbles"}}),
                       inside = after(masked, {{"do", "grow.pebbles"}, {"inside", true}}),
                       all = after(masked, {{"do", "grow.pebbles"}, {"mask", "none"}});
        float up[3] = {}, down[3] = {};
        const Creature *cs[3] = {&outside, &inside, &all};
        for (int k = 0; k < 3; ++k)
            for (std::size_t v = 0; v < skinOf(*cs[k]).body.size(); ++v) {
                const float moved = length(skinOf(*cs[k]).shown.positions[v] - skinOf(*cs[k]).body[v]),
                            y = skinOf(*cs[k]).body[v].y;
                (y > 0.5f ? up : y < -0.5f ? down : down)[k] += std::abs(y) > 0.5f ? moved : 0;
            }
        QVERIFY(up[0] == 0 && down[0] > 1);
        QVERIFY(up[1] > 1 && down[1] == 0);
        QVERIFY(up[2] > 1 && down[2] > 1);
        QVERIFY(!test::run(ball(), {{"do", "grow.pebbles"}, {"mask", "nothing of that name"}}));
    }

    // What was done by hand is kept apart and stays when the growth grows again.
    void handWorkStays()
    {
        Creature c = after(ball(), {{"do", "grow.pebbles"}, {"name", "skin"}});
        const auto grown = layerOf(c, "skin").offsets;
        c = after(c, strokeOn("skin", "raise"));
        QVERIFY(isSame(layerOf(c, "skin").offsets, grown));
        const Layer &hand = layerOf(c, "skin by hand");
        QCOMPARE(hand.handOver, layerOf(c, "skin").id);
        QVERIFY(!hand.offsets.isBlank());
        const auto work = hand.offsets;
        c = after(c, {{"do", "grow.pebbles"}, {"layer", "skin"}, {"size", 3}, {"seed", 5}});
        QVERIFY(!isSame(layerOf(c, "skin").offsets, grown));
        QVERIFY(isSame(layerOf(c, "skin by hand").offsets, work));
        QCOMPARE(layerOf(c, "skin").growth->value("size"), 3.0f);
        QCOMPARE(layerOf(c, "skin").growth->value("depth"),
                 growthOf(*growth::growthNamed("pebbles")).value("depth")); // not said: stays
        c = after(c, strokeOn("skin", "swell", {0, 15, 0}));                // the same hand layer again
        QCOMPARE(skinOf(c).layers.size(), std::size_t(2));
        // Without the growth it is an ordinary layer.
        c = after(c, {{"do", "layer.remove"}, {"layer", "skin"}});
        QCOMPARE(layerOf(c, "skin by hand").handOver, 0u);
    }

    void restoreTakesAGrowthAway()
    {
        const Creature c = after(ball(), {{"do", "grow.pebbles"}, {"name", "skin"}});
        const Creature less = after(c, strokeOn("skin", "restore"));
        QVERIFY(isSame(layerOf(less, "skin").offsets, layerOf(c, "skin").offsets)); // the rule's own stay
        QVERIFY(!layerOf(less, "skin").mask.isBlank());
        double near = 0, nearWas = 0, far = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
            const Vec3f p = skinOf(c).body[v];
            const auto off = [&](const Creature &of) { return double(length(skinOf(of).shown.positions[v] - p)); };
            if (length(p - Vec3f{1, 0, 15}) < 2)
                near += off(less), nearWas += off(c);
            else if (length(p - Vec3f{1, 0, 15}) > 9)
                far += std::abs(off(less) - off(c));
        }
        QVERIFY2(near < 0.5 * nearWas, qPrintable(QStringLiteral("%1 of %2").arg(near).arg(nearWas)));
        QCOMPARE(far, 0.0);
        // It grows again without what was taken away.
        const Creature again = after(less, {{"do", "grow.again"}, {"layer", "skin"}});
        QVERIFY(isSame(skinOf(again).shown.positions, skinOf(less).shown.positions));
    }

    void knowsWhatNoLongerFits()
    {
        Creature c = after(ball(), {{"do", "grow.pebbles"}, {"name", "low"}});
        c = after(c, {{"do", "grow.pores"}, {"name", "high"}});
        QVERIFY(document::staleGrowths(*c.pieces[0]).empty()); // one growth is no ground of another
        c = after(c, strokeOn("high", "raise"));               // nor is hand work on one
        QVERIFY(document::staleGrowths(*c.pieces[0]).empty());
        c = after(c, strokeOn("body", "raise"));
        QCOMPARE(document::staleGrowths(*c.pieces[0]).size(), std::size_t(2));
        c = after(c, {{"do", "grow.again"}});
        QVERIFY(document::staleGrowths(*c.pieces[0]).empty());
        c = after(c, {{"do", "guide.add"}, {"points", {{0, 5, 14}, {0, 0, 15}}}});
        QCOMPARE(document::staleGrowths(*c.pieces[0]).size(), std::size_t(2));
        c = after(c, {{"do", "layer.set"}, {"layer", "low"}, {"locked", true}});
        c = after(c, {{"do", "grow.again"}});
        QCOMPARE(document::staleGrowths(*c.pieces[0]), std::vector<std::uint32_t>{layerOf(c, "low").id});
        // Knitted again: the layer is carried, and known not to fit.
        c = after(c, {{"do", "piece.reknit"}, {"spacing", 0.5}});
        QVERIFY(layerOf(c, "high").growth);
        QCOMPARE(document::staleGrowths(*c.pieces[0]).size(), std::size_t(2));
    }

    // A painted layer below is switched off, or another looked at alone: nothing has to grow again for that. Its strength does
    // change the form.
    void layersSwitchedOffStillCarry()
    {
        Creature c = after(ball(), {{"do", "layer.add"}, {"name", "form"}});
        c = after(c, strokeOn("form", "raise"));
        c = after(c, {{"do", "grow.pebbles"}, {"name", "skin"}});
        const auto on = skinOf(c).shown.positions;
        for (const json &quiet : std::initializer_list<json>{{{"do", "layer.set"}, {"layer", "form"}, {"on", false}},
                                                             {{"do", "layer.solo"}, {"layer", "skin"}, {"on", true}}}) {
            Creature off = after(c, quiet);
            QVERIFY(!isSame(skinOf(off).shown.positions, on));
            QVERIFY(document::staleGrowths(*off.pieces[0]).empty());
            off = after(off, {{"do", "grow.again"}, {"layer", "skin"}}); // grown while it is off: as if it were on
            off = after(off, {{"do", "layer.solo"}, {"layer", "skin"}, {"on", false}});
            off = after(off, {{"do", "layer.set"}, {"layer", "form"}, {"on", true}});
            QVERIFY(isSame(skinOf(off).shown.positions, on));
        }
        c = after(c, {{"do", "layer.set"}, {"layer", "form"}, {"strength", 0.5}});
        QCOMPARE(document::staleGrowths(*c.pieces[0]).size(), std::size_t(1));
    }

    void lockedLayersKeep()
    {
        Creature c = after(ball(), {{"do", "grow.bumps"}, {"name", "a"}});
        c = after(c, {{"do", "layer.add"}, {"name", "b"}});
        c = after(c, {{"do", "layer.set"}, {"layer", "a"}, {"locked", true}});
        for (const json &command :
             std::initializer_list<json>{{{"do", "layer.remove"}, {"layer", "a"}},
                                         {{"do", "layer.set"}, {"layer", "a"}, {"strength", 0.2}},
                                         {{"do", "layer.flip"}, {"layer", "a"}},
                                         {{"do", "layer.merge"}, {"layer", "b"}}, // into a
                                         {{"do", "layer.mask"}, {"layer", "a"}},
                                         {{"do", "grow.again"}, {"layer", "a"}},
                                         {{"do", "grow.bumps"}, {"layer", "a"}},
                                         {{"do", "grow.edit"}, {"layer", "a"}, {"at", {0, 0, 15}}, {"remove", true}},
                                         strokeOn("a", "restore")}) {
            const auto refused = test::run(c, command);
            QVERIFY2(!refused, command.dump().c_str());
            QVERIFY(refused.error().text().find("locked") != std::string::npos);
        }
        c = after(c, {{"do", "layer.set"}, {"layer", "a"}, {"on", false}}); // switches and order are no change of it
        c = after(c, {{"do", "layer.order"}, {"layer", "a"}, {"to", 1}});
        QCOMPARE(skinOf(c).layers[1].name, std::string("a"));
        c = after(c, {{"do", "layer.set"}, {"layer", "a"}, {"locked", false}});
        after(c, {{"do", "layer.remove"}, {"layer", "a"}});
    }

    void aloneAndAllAgain()
    {
        Creature c = after(ball(), {{"do", "grow.bumps"}, {"name", "a"}});
        c = after(c, {{"do", "grow.pores"}, {"name", "b"}});
        c = after(c, {{"do", "layer.set"}, {"layer", "b"}, {"on", false}});
        const Creature before = c;
        c = after(c, {{"do", "layer.solo"}, {"layer", "b"}});
        QCOMPARE(layerOf(c, "a").shownStrength(), 0.0f);
        QVERIFY(layerOf(c, "a").isOn); // its own switch is as it was
        c = after(c, {{"do", "layer.set"}, {"layer", "b"}, {"on", true}});
        const Creature alone = after(after(ball(), {{"do", "grow.pores"}}), {{"do", "layer.solo"}, {"layer", "Pores"}});
        QVERIFY(isSame(skinOf(c).shown.positions, skinOf(alone).shown.positions));
        c = after(c, {{"do", "layer.set"}, {"layer", "b"}, {"on", false}});
        c = after(c, {{"do", "layer.solo"}, {"layer", "b"}, {"on", false}});
        QVERIFY(isSame(skinOf(c).shown.positions, skinOf(before).shown.positions));
    }

    void flippedTwiceIsAsBefore()
    {
        Creature c = after(ball(), {{"do", "layer.add"}, {"name", "a"}});
        c = after(c, strokeOn("a", "raise", {10, 3, 10.7f}));
        const Creature flipped = after(c, {{"do", "layer.flip"}, {"layer", "a"}}),
                       back = after(flipped, {{"do", "layer.flip"}, {"layer", "a"}});
        double left = 0, right = 0, off = 0, all = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
            const float moved = length(layerOf(flipped, "a").offsets[v]);
            (skinOf(c).body[v].x > 0 ? left : right) += double(moved);
            off += double(length(layerOf(back, "a").offsets[v] - layerOf(c, "a").offsets[v])),
                all += double(length(layerOf(c, "a").offsets[v]));
        }
        QVERIFY(right > 50 * left && right > 1);
        QVERIFY2(off < 0.03 * all, qPrintable(QString::number(off / all))); // through the nearest faces of the moved skin
    }

    void duplicateAndMerge()
    {
        Creature c = after(ball(), {{"do", "grow.warts"}, {"name", "a"}});
        c = after(c, {{"do", "layer.duplicate"}, {"layer", "a"}, {"name", "b"}});
        for (std::size_t v = 0; v < skinOf(c).body.size(); v += 5)
            QVERIFY(length(skinOf(c).shown.positions[v] - (skinOf(c).body[v] + layerOf(c, "a").offsets[v] * 2)) < 1e-5f);
        // A layer that shows in part is merged as it shows.
        c = after(c, {{"do", "mask.shape"}, {"what", "slope"}, {"from", 0}, {"to", 90}});
        c = after(c, {{"do", "layer.mask"}, {"layer", "b"}});
        const auto shown = skinOf(c).shown.positions;
        const Creature merged = after(c, {{"do", "layer.merge"}, {"layer", "b"}});
        QCOMPARE(skinOf(merged).layers.size(), std::size_t(1));
        QVERIFY(!layerOf(merged, "a").growth);
        for (std::size_t v = 0; v < shown.size(); ++v)
            QVERIFY(length(skinOf(merged).shown.positions[v] - shown[v]) < 1e-5f);
        c = after(c, {{"do", "mask.clear"}});
        c = after(c, {{"do", "layer.toMask"}, {"layer", "b"}});
        QVERIFY(skinOf(c).hasMask());
    }

    void goesToAnotherPieceAndCreature()
    {
        QTemporaryDir folder;
        Creature c = after(ball(), {{"do", "grow.shields"}, {"name", "armour"}, {"size", 5}});
        auto other = std::make_shared<document::Piece>(*ball(15, 90).pieces[0]); // the same ball, other faces
        other->id = c.nextId++, other->name = "copy";
        c.pieces.push_back(other);
        const Creature both = after(c, {{"do", "layer.copy"}, {"piece", "ball"}, {"layer", "armour"}, {"to", "copy"}});
        const auto compare = [&](const skin::Skin &to) {
            double most = 0, sum = 0;
            for (std::size_t v = 0; v < to.body.size(); ++v) {
                const auto hit = mesh::nearestPoint(skinOf(c).shown, to.shown.positions[v]);
                most = std::max(most, double(hit->distance)), sum += double(hit->distance);
            }
            return std::pair{sum / double(to.body.size()), most};
        };
        const auto [mean, most] = compare(both.pieces[1]->skin);
        QVERIFY2(mean < 0.08 && most < 0.9, qPrintable(QStringLiteral("%1 %2").arg(mean).arg(most))); // half and four spacings
        const std::filesystem::path file = folder.filePath(QStringLiteral("a.bonemoss")).toStdString();
        QVERIFY(bool(store::saveAs(file, c)));
        const Creature taken = after(ball(15, 90), {{"do", "layer.take"}, {"path", file.string()}, {"layer", "armour"}});
        QVERIFY(isSame(skinOf(taken).shown.positions, both.pieces[1]->skin.shown.positions));
        QVERIFY(layerOf(taken, "armour").growth);
        QVERIFY(!test::run(ball(), {{"do", "layer.take"}, {"path", file.string()}, {"layer", "no such"}}));
        // Alone in a file, as the clipboard hands it on: that file is whole, and gives the same.
        const std::filesystem::path alone = folder.filePath(QStringLiteral("alone.bonemoss")).toStdString();
        QVERIFY(bool(store::saveLayer(alone, *c.pieces[0], layerOf(c, "armour"))));
        const auto held = store::loadStore(alone);
        QVERIFY(held && held->damage.empty() && held->creature.pieces[0]->skin.layers.size() == 1);
        const Creature pasted = after(ball(15, 90), {{"do", "layer.take"}, {"path", alone.string()}, {"layer", "armour"}});
        QVERIFY(isSame(skinOf(pasted).shown.positions, skinOf(taken).shown.positions));
    }

    void isSavedWhole()
    {
        QTemporaryDir folder;
        Creature c = after(ball(), {{"do", "guide.add"}, {"points", {{0, 5, 14}, {0, 0, 15}, {1, -3, 14.5}}}, {"size", 1.5}});
        c = after(c, {{"do", "mask.shape"}, {"what", "slope"}, {"from", 0}, {"to", 40}});
        c = after(c, {{"do", "grow.keels"}, {"name", "scales"}, {"seed", 7}, {"mirror", false}, {"keel", 0.25}});
        const auto sites = growth::sitesOf(skinOf(c), *layerOf(c, "scales").growth, layerOf(c, "scales").mask,
                                           document::surroundingsOf(c, *c.pieces[0]));
        QVERIFY(sites.size() > 20);
        const Vec3f at = sites[7].at;
        c = after(c, {{"do", "grow.edit"}, {"layer", "scales"}, {"at", {at.x, at.y, at.z}}, {"turn", 30}, {"lift", 1.5}});
        c = after(c, strokeOn("scales", "raise", {0, -15, 0}));
        c = after(c, {{"do", "layer.set"}, {"layer", "scales"}, {"locked", true}});
        c = after(c, {{"do", "layer.solo"}, {"layer", "scales"}});
        const std::filesystem::path file = folder.filePath(QStringLiteral("a.bonemoss")).toStdString();
        QVERIFY(bool(store::saveAs(file, c)));
        const auto loaded = store::loadStore(file);
        QVERIFY(bool(loaded));
        QVERIFY(loaded->damage.empty());
        const Creature &back = loaded->creature;
        const Layer &was = layerOf(c, "scales"), &is = layerOf(back, "scales");
        QVERIFY(is.growth && is.growth->kind == was.growth->kind && is.growth->values == was.growth->values);
        QCOMPARE(is.growth->seed, 7u);
        QCOMPARE(is.growth->ground, was.growth->ground);
        QVERIFY(is.growth->edits == was.growth->edits && !is.growth->isMirrored && is.isLocked);
        QVERIFY(isSame(is.offsets, was.offsets));
        for (std::size_t v = 0; v < was.mask.size(); ++v)
            QCOMPARE(is.mask[v], was.mask[v]);
        QCOMPARE(layerOf(back, "scales by hand").handOver, is.id);
        QVERIFY(back.pieces[0]->guides == c.pieces[0]->guides);
        QVERIFY(isSame(skinOf(back).shown.positions, skinOf(c).shown.positions));
        QVERIFY(document::staleGrowths(*back.pieces[0]).empty());
    }

    void guidesTurnWhatGrows()
    {
        Creature c = after(ball(), {{"do", "grow.scales"}, {"name", "scales"}});
        const auto before = layerOf(c, "scales").offsets;
        c = after(c, {{"do", "guide.add"}, {"points", {{14, 0, 5}, {15, 0, 0}, {14, 0, -5}}}, {"layer", "scales"}});
        QVERIFY(!isSame(layerOf(c, "scales").offsets, before)); // it followed in the same step
        c = after(c, {{"do", "guide.set"}, {"guide", 0}, {"size", 2}});
        QCOMPARE(c.pieces[0]->guides[0].size, 2.0f);
        c = after(c, {{"do", "guide.set"}, {"guide", 0}, {"turn", true}});
        QCOMPARE(c.pieces[0]->guides[0].points.front().z, -5.0f);
        c = after(c, {{"do", "guide.remove"}, {"guide", 0}, {"layer", "scales"}});
        QVERIFY(isSame(layerOf(c, "scales").offsets, before));
        QVERIFY(!test::run(c, {{"do", "guide.remove"}, {"guide", 0}}));
        QVERIFY(!test::run(c, {{"do", "guide.add"}, {"points", {{1, 1, 1}, {1, 1, 1}}}}));
    }

    // A layer's mask is part of it wherever the skin gets other faces: half of the layer shows, and the same half, after each.
    void masksOfLayersAreCarried_data()
    {
        QTest::addColumn<QString>("how");
        for (const char *how : {"refine", "down and up", "reknit", "denser", "simplify", "symmetry", "join"})
            QTest::newRow(how) << QString::fromUtf8(how);
    }
    void masksOfLayersAreCarried()
    {
        QFETCH(QString, how);
        Creature c = after(ball(15, 80), {{"do", "mask.shape"}, {"what", "slope"}, {"from", 0}, {"to", 90}, {"soft", 0.001}});
        c = after(c, {{"do", "grow.pebbles"}, {"name", "skin"}});
        c = after(c, {{"do", "mask.clear"}});
        if (how == "refine")
            c = after(c, {{"do", "piece.refine"}});
        if (how == "down and up")
            for (const json &command : std::initializer_list<json>{{{"do", "piece.refine"}},
                                                                   {{"do", "piece.level"}, {"to", "coarser"}},
                                                                   strokeOn("body", "raise", {0, 0, 15}),
                                                                   {{"do", "piece.level"}, {"to", "finer"}}})
                c = after(c, command);
        if (how == "reknit")
            c = after(c, {{"do", "piece.reknit"}, {"spacing", 0.4}});
        if (how == "denser") {
            json stroke = strokeOn("body", "denser", {15, 0, 0});
            stroke["edge"] = 0.05;
            c = after(c, stroke);
        }
        if (how == "simplify")
            c = after(c, {{"do", "piece.simplify"}, {"faces", 12000}});
        if (how == "symmetry")
            c = after(c, {{"do", "piece.symmetrise"}, {"from", "left"}});
        if (how == "join") {
            auto other = std::make_shared<document::Piece>(*ball(4, 30).pieces[0]);
            other->id = c.nextId++, other->name = "far";
            other->skin = skin::makeSkin(test::sphere(4, 30, 40, {40, 0, 0}), false);
            c.pieces.push_back(other);
            c = after(c, {{"do", "pieces.combine"}, {"how", "join"}, {"pieces", {"ball", "far"}}});
        }
        const Layer &l = layerOf(c, "skin");
        QCOMPARE(l.mask.size(), skinOf(c).body.size());
        double up = 0, down = 0;
        int wrong = 0, seen = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
            const Vec3f p = skinOf(c).body[v];
            if (p.x > 20 || std::abs(p.y) < 1.2f || squaredLength(skinOf(c).shown.normals[v].unpack()) == 0)
                continue;
            ++seen, wrong += l.mask[v] != (p.y > 0 ? 255 : 0);
            (p.y > 0 ? up : down) += double(length(skinOf(c).shown.positions[v] - p));
        }
        QVERIFY(seen > 3000);
        QVERIFY2(wrong < seen / 200, qPrintable(QStringLiteral("%1 of %2").arg(wrong).arg(seen)));
        QVERIFY2(down > 5 && up < 0.01 * down, qPrintable(QStringLiteral("%1 %2").arg(up).arg(down)));
    }

    // A kept mask as a map of sizes: three times as close where it lies, so nine times as many to an area.
    void sizesFollowAMap()
    {
        Creature c = after(ball(15, 200), {{"do", "mask.shape"}, {"what", "slope"}, {"from", 0}, {"to", 90}, {"soft", 0.001}});
        c = after(c, {{"do", "mask.keep"}, {"name", "fine"}});
        c = after(c, {{"do", "mask.clear"}});
        c = after(c, {{"do", "grow.pebbles"}, {"name", "a"}, {"size", 3}, {"sizes", "fine"}, {"variation", 0}});
        growth::Surroundings about = document::surroundingsOf(c, *c.pieces[0]);
        about.sizes = skinOf(c).keptMask("fine")->values;
        int up = 0, down = 0;
        for (const growth::Site &s : growth::sitesOf(skinOf(c), *layerOf(c, "a").growth, {}, about))
            if (std::abs(s.at.y) > 3)
                ++(s.at.y > 0 ? up : down);
        QVERIFY2(up > 6 * down && up < 12 * down, qPrintable(QStringLiteral("%1 %2").arg(up).arg(down)));
        QVERIFY(!test::run(c, {{"do", "grow.pebbles"}, {"sizes", "no such"}}));
        const Creature plain = after(c, {{"do", "grow.pebbles"}, {"layer", "a"}, {"sizes", ""}});
        QVERIFY(!isSame(layerOf(plain, "a").offsets, layerOf(c, "a").offsets));
    }

    // Neighbours are of different groups: what hangs together in one group is one scale.
    void scalesAsGroups()
    {
        const Creature c = after(ball(), {{"do", "grow.pebbles"}, {"name", "a"}, {"size", 4}});
        const Creature g = after(c, {{"do", "grow.groups"}, {"layer", "a"}, {"kinds", 6}});
        const skin::Skin &skin = skinOf(g);
        QCOMPARE(skin.groups.size(), std::size_t(6));
        QCOMPARE(skin.groups[0].name, std::string("a 1"));
        QVERIFY(skin.body.flatten() == skinOf(c).body.flatten());
        const mesh::Topology &t = *skin.shown.topology;
        test::Forest cells(t, [&](std::uint32_t v, std::uint32_t w) { return skin.groupOf[v] == skin.groupOf[w]; });
        std::map<std::uint32_t, Box3f> boxes;
        std::map<std::uint16_t, std::size_t> sizes;
        for (std::uint32_t v = 0; v < t.vertexCount(); ++v)
            if (skin.groupOf[v] > 0)
                boxes[cells.root(v)].add(skin.body[v]), ++sizes[skin.groupOf[v]];
        QCOMPARE(sizes.size(), std::size_t(6));
        std::size_t large = 0;
        for (const auto &[v, box] : boxes)
            large += box.diagonal() > 9; // more than one pebble of 4 mm
        QVERIFY2(large <= boxes.size() / 50, qPrintable(QString("%1 of %2").arg(large).arg(boxes.size())));
        // Again: the same groups, none more.
        const Creature again = after(g, {{"do", "grow.groups"}, {"layer", "a"}, {"kinds", 6}});
        QVERIFY(skinOf(again).groups.size() == 6 && skinOf(again).groupOf.flatten() == skin.groupOf.flatten());
    }
    void masksOfScalesAndGaps()
    {
        Creature c = after(ball(), {{"do", "grow.shields"}, {"name", "a"}, {"size", 5}, {"rings", 0}});
        const Creature scales = after(c, {{"do", "grow.mask"}, {"layer", "a"}}),
                       gaps = after(c, {{"do", "grow.mask"}, {"layer", "a"}, {"what", "gaps"}});
        double high = 0, low = 0;
        int n = 0, m = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
            QCOMPARE(int(skinOf(scales).mask[v]) + int(skinOf(gaps).mask[v]), 255);
            const double h = double(length(skinOf(c).shown.positions[v])) - 15;
            if (skinOf(scales).mask[v] > 200)
                high += h, ++n;
            if (skinOf(gaps).mask[v] > 200)
                low += h, ++m;
        }
        QVERIFY(n > 100 && m > 100);
        QVERIFY(high / n > low / m + 0.3);
        QVERIFY(!test::run(after(ball(), {{"do", "grow.wrinkles"}}), {{"do", "grow.mask"}, {"layer", "Wrinkles"}}));
    }

    // Only where the layer may show do the faces get as small as it needs.
    void refinesOnlyThere()
    {
        Creature c = after(ball(15, 60), {{"do", "mask.shape"}, {"what", "slope"}, {"from", 0}, {"to", 90}, {"soft", 1}});
        c = after(c, {{"do", "grow.pebbles"}, {"name", "a"}, {"mask", "hand"}, {"size", 1.5}});
        const growth::Growth &growth = *layerOf(c, "a").growth;
        QVERIFY(!document::coarseness(skinOf(c), growth, &layerOf(c, "a")).empty());
        const float need = growth.kind->finest(growth);
        Creature fine = after(c, {{"do", "piece.density"}, {"where", "layer"}, {"layer", "a"}, {"edge", need}});
        QVERIFY(document::coarseness(skinOf(fine), growth, &layerOf(fine, "a")).empty());
        std::size_t above = 0, below = 0, aboveWas = 0, belowWas = 0;
        for (const Vec3f p : skinOf(c).body.flatten())
            aboveWas += p.y > 1.5f, belowWas += p.y < -1.5f;
        for (const Vec3f p : skinOf(fine).body.flatten())
            above += p.y > 1.5f, below += p.y < -1.5f;
        QCOMPARE(above, aboveWas);
        QVERIFY(below > 2 * belowWas);
        fine = after(fine, {{"do", "grow.again"}, {"layer", "a"}});
        QVERIFY(!test::run(c, {{"do", "piece.density"}, {"where", "layer"}, {"edge", need}}));
    }

    void saysWhenTheSkinIsTooCoarse()
    {
        const Creature coarse = after(ball(15, 40), {{"do", "grow.pores"}}), fine = after(ball(15, 40), {{"do", "grow.shields"}});
        QVERIFY(document::coarseness(skinOf(coarse), *skinOf(coarse).layers[0].growth).find("refine") != std::string::npos);
        QVERIFY(document::coarseness(skinOf(after(ball(15, 300), {{"do", "grow.scales"}, {"size", 6}})),
                                     *skinOf(fine).layers[0].growth)
                    .empty());
    }
};

BONEMOSS_TEST(TestGrowing)
#include "tst_growing.moc"
