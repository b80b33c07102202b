// Controls, looking, and the order of poses. Oracles: directions and places worked out here, what lay there before.
#include "document/ops/controls.h"
#include "outgrowth/outgrowth.h"
#include "store/store.h"
#include "support/beasts.h"
#include "support/pieces.h"
#include "support/run.h"

#include <QTemporaryDir>
#include <QtTest>

using namespace bonemoss;
using document::Control;
using document::Creature;
using nlohmann::json;
using test::need;
using test::skinOf;

namespace {

/// A body with a neck, a head with a jaw and two eyes, and paws of three toes.
Creature beastWithHead()
{
    Creature c;
    for (const json &command : std::vector<json>{
             {{"do", "form.add"}, {"kind", "ellipsoid"}, {"name", "body"}, {"at", {0, 40, 0}}, {"radii", {14, 16, 30}}},
             {{"do", "form.add"},
              {"kind", "tube"},
              {"name", "neck"},
              {"path", {{0, 46, 24, 8}, {0, 58, 34, 7}, {0, 70, 40, 7}}},
              {"parent", "body"}},
             {{"do", "form.add"},
              {"kind", "ellipsoid"},
              {"name", "skull"},
              {"at", {0, 74, 50}},
              {"radii", {9, 9, 14}},
              {"parent", "neck"}},
             {{"do", "form.joint"}, {"form", "skull"}, {"low", {-60, -80, -40}}, {"high", {60, 80, 40}}},
             {{"do", "form.add"},
              {"kind", "limb"},
              {"name", "jaw"},
              {"path", {{0, 68, 46, 5}, {0, 63, 66, 3}}},
              {"parent", "skull"}},
             {{"do", "form.joint"}, {"form", "jaw"}, {"low", {-5, -3, -3}}, {"high", {35, 3, 3}}},
             {{"do", "form.add"},
              {"kind", "limb"},
              {"name", "leg"},
              {"path", {{9, 36, 18, 6}, {14, 8, 18, 4}}},
              {"parent", "body"},
              {"mirror", true}},
             {{"do", "form.add"},
              {"kind", "ellipsoid"},
              {"name", "paw"},
              {"at", {14, 4, 20}},
              {"radii", {5, 3, 6}},
              {"parent", "leg"},
              {"mirror", true}},
             {{"do", "form.add"},
              {"kind", "limb"},
              {"name", "toe in"},
              {"path", {{11, 4, 24, 2}, {10, 3, 33, 1.4}}},
              {"parent", "paw"},
              {"mirror", true}},
             {{"do", "form.add"},
              {"kind", "limb"},
              {"name", "toe mid"},
              {"path", {{14, 4, 25, 2}, {14, 3, 35, 1.4}}},
              {"parent", "paw"},
              {"mirror", true}},
             {{"do", "form.add"},
              {"kind", "limb"},
              {"name", "toe out"},
              {"path", {{17, 4, 24, 2}, {18, 3, 33, 1.4}}},
              {"parent", "paw"},
              {"mirror", true}},
             {{"do", "knit.forms"}, {"faces", 9000}, {"name", "Beast"}},
             {{"do", "outgrow.eye"}, {"name", "Eyes"}, {"at", {8.4, 77, 53}}, {"radius", 2.4}, {"mirror", true}}})
        c = need(c, command);
    return c;
}

Creature set(const Creature &c, const std::string &control, double value)
{
    return need(c, {{"do", "pose.control"}, {"control", control}, {"value", value}});
}

} // namespace

class TestControls : public QObject
{
    Q_OBJECT
private slots:
    void jawAndToes()
    {
        const Creature c = need(beastWithHead(), {{"do", "pose.bind"}});
        const auto s = skeletonOf(c);
        const auto tip = [&](const Creature &of, const char *bone) {
            const std::uint32_t b = s.find(bone);
            return placesOf(s, of.posing.now)[b].apply(s.bones[b].tail);
        };
        const Creature open = set(c, "jaw open", 30);
        QVERIFY(tip(open, "jaw").y < tip(c, "jaw").y - 5);
        QCOMPARE(open.posing.now.turns.size(), std::size_t(1));
        QVERIFY(set(open, "jaw open", 0).posing.now.isRest());
        set(c, "jaw open", 99);
        QVERIFY(test::isSaid("goes from"));
        const Creature curled = set(c, "paw left curl", 60);
        for (const char *toe : {"toe in left", "toe mid left", "toe out left"})
            QVERIFY2(tip(curled, toe).y < tip(c, toe).y - 3, toe);
        QVERIFY(length(tip(curled, "toe mid right") - tip(c, "toe mid right")) < 1e-4f);
        const Creature wide = set(curled, "paw left spread", 30); // both at once
        QVERIFY(std::abs(tip(wide, "toe out left").x - tip(wide, "toe in left").x)
                > std::abs(tip(curled, "toe out left").x - tip(curled, "toe in left").x) + 1);
        for (const Control &control : controlsOf(wide, s))
            if (control.name == "paw left spread")
                QVERIFY(std::abs(valueOf(wide, s, control) - 30) < 0.5f);
            else if (control.name == "paw left curl")
                QVERIFY2(std::abs(valueOf(wide, s, control) - 60) < 6,
                         qPrintable(QString::number(double(valueOf(wide, s, control)))));
        QVERIFY(!test::run(c, {{"do", "pose.control"}, {"control", "wing"}, {"value", 1}}));
    }
    void lidsCloseInAPose()
    {
        const Creature c = need(beastWithHead(), {{"do", "pose.bind"}});
        const auto shapes = [](const Creature &of) {
            std::vector<Vec3f> out;
            for (const auto &shape : of.outgrowths[0]->made->shapes)
                out.insert(out.end(), shape->positions.begin(), shape->positions.end());
            return out;
        };
        std::string lid;
        for (const Control &control : controlsOf(c, skeletonOf(c)))
            if (control.outgrowth && control.setting == "upperLid")
                lid = control.name;
        QVERIFY(!lid.empty());
        const Creature shut = set(c, lid, 0.9);
        QVERIFY(shapes(shut) == shapes(c)); // the rest stays
        QVERIFY(shapes(posed(shut)) != shapes(c));
        QVERIFY(set(shut, lid, double(c.outgrowths[0]->value("upperLid"))).posing.now.isRest());
        // Between two poses by half, and in the file.
        const Creature kept = need(shut, {{"do", "pose.keep"}, {"name", "asleep"}});
        const Creature half = need(need(kept, {{"do", "pose.rest"}}), {{"do", "pose.use"}, {"pose", "asleep"}, {"share", 0.5}});
        const std::uint32_t id = c.outgrowths[0]->id;
        QVERIFY(std::abs(half.posing.now.changeOf(id, "upperLid") - shut.posing.now.changeOf(id, "upperLid") / 2) < 1e-5f);
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/c.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(file, kept)));
        const auto back = store::loadStore(file);
        QVERIFY(bool(back) && back->damage.empty());
        QVERIFY(back->creature.posing.poses == kept.posing.poses);
    }
    void theHeadLooksAtAPlace()
    {
        const Creature c = need(beastWithHead(), {{"do", "pose.bind"}});
        const auto s = skeletonOf(c);
        for (const Vec3f at : {Vec3f{120, 90, 120}, Vec3f{-60, 20, 160}, Vec3f{20, 160, 140}}) {
            const Creature looks =
                need(c, {{"do", "pose.look"}, {"bone", "skull"}, {"neck", "neck 1"}, {"at", {at.x, at.y, at.z}}});
            const auto places = placesOf(s, looks.posing.now);
            const pose::Rigid head = places[s.find("skull")];
            // The middle of the skull's flesh looks along what was the front.
            const Vec3f eye = head.apply({0, 74, 50}), way = normalized(at - eye), front = rotate(head.turn, {0, 0, 1});
            QVERIFY2(dot(way, front) > std::cos(2 * kRadiansPerDegree), qPrintable(QString::number(double(dot(way, front)))));
            QVERIFY(places[s.find("neck 2")].turn != Quat()); // the neck takes part
            QVERIFY(places[s.find("body")].isNone());
            const auto *eyes = looks.posing.now.outgrowth(c.outgrowths[0]->id);
            QVERIFY(eyes && eyes->look && length(head.apply(*eyes->look) - at) < 0.05f * length(at));
            QVERIFY(posed(looks).outgrowths[0]->made->members.size() == c.outgrowths[0]->made->members.size());
        }
        const Creature eyesAlone = need(c, {{"do", "pose.look"}, {"bone", "skull"}, {"head", false}, {"at", {60, 80, 120}}});
        QVERIFY(eyesAlone.posing.now.turns.empty() && eyesAlone.posing.now.outgrowths.size() == 1);
        QVERIFY(!test::run(c, {{"do", "pose.look"}, {"bone", "skull"}, {"at", {0, 0, 0}}, {"front", {0, 0, 0}}}));
        QVERIFY(!test::run(c, {{"do", "pose.look"}, {"bone", "nose"}, {"at", {0, 0, 0}}}));
    }
    void posesOfSomeBonesAndTheirOrder()
    {
        Creature c = need(beastWithHead(), {{"do", "pose.turn"}, {"bone", "leg left"}, {"angles", {40, 0, 0}}});
        c = need(c, {{"do", "pose.turn"}, {"bone", "neck 1"}, {"angles", {0, 20, 0}}});
        c = need(c, {{"do", "pose.keep"}, {"name", "lifted leg"}, {"bones", {"leg left"}}});
        c = need(c, {{"do", "pose.keep"}, {"name", "whole"}});
        const auto s = skeletonOf(c);
        const auto isTurned = [&](const Creature &of, const char *bone) {
            return of.posing.now.turnOf(s.bones[s.find(bone)].key) != Quat();
        };
        // Used, it leaves the others as they are; as a control it goes from rest to all of it.
        const Creature neck =
            need(need(c, {{"do", "pose.rest"}}), {{"do", "pose.turn"}, {"bone", "neck 2"}, {"angles", {0, 0, 15}}});
        const Creature used = need(neck, {{"do", "pose.use"}, {"pose", "lifted leg"}});
        QVERIFY(isTurned(used, "leg left") && isTurned(used, "neck 2") && !isTurned(used, "neck 1"));
        const Creature half = set(used, "lifted leg", 0.5);
        const auto angle = [&](const Creature &of) {
            return 2 * std::acos(of.posing.now.turnOf(s.bones[s.find("leg left")].key).w);
        };
        QVERIFY(std::abs(angle(half) - angle(used) / 2) < 1e-3f);
        QVERIFY(!isTurned(set(half, "lifted leg", 0), "leg left"));
        QVERIFY(!test::run(need(c, {{"do", "pose.rest"}}), {{"do", "pose.keep"}, {"name", "x"}, {"bones", {"leg left"}}}));
        c = need(c, {{"do", "pose.order"}, {"pose", "whole"}, {"to", 0}});
        QCOMPARE(c.posing.poses[0].name, std::string("whole"));
        c = need(c, {{"do", "pose.order"}, {"pose", "whole"}, {"to", 99}});
        QCOMPARE(c.posing.poses[1].name, std::string("whole"));
        c = need(c, {{"do", "pose.rename"}, {"pose", "whole"}, {"name", "stands"}});
        QCOMPARE(c.posing.poses[1].name, std::string("stands"));
        for (const json &bad : {json{{"do", "pose.rename"}, {"pose", "stands"}, {"name", "lifted leg"}},
                                {{"do", "pose.rename"}, {"pose", "stands"}, {"name", "rest"}},
                                {{"do", "pose.rename"}, {"pose", "none"}, {"name", "x"}},
                                {{"do", "pose.order"}, {"pose", "none"}, {"to", 0}}})
            QVERIFY2(!test::run(c, bad), bad.dump().c_str());
    }
};

BONEMOSS_TEST(TestControls)
#include "tst_controls.moc"
