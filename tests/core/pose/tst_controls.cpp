// Controls, looking, and the order of poses. Oracles: directions and places worked out here, what lay there before.
#include "document/ops/controls.h"
#include "document/ops/skeletons.h"
#include "export/shown_scene.h"
#include "outgrowth/outgrowth.h"
#include "store/store.h"
#include "support/beasts.h"
#include "support/pieces.h"
#include "support/run.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <map>

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
    void bonesAreDrawnIntoASkin()
    {
        // A ball, then a pipe: the middle is where it is (closed form).
        const Creature ball = test::withPieces({test::sphere(10, 24, 48)});
        for (const Vec3f near : {Vec3f{9.9f, 0, 0}, Vec3f{0, 14, 0}, Vec3f{1, 2, 3}}) {
            const auto middle = middleOf(ball, near);
            QVERIFY(middle && length(middle->at) < 0.35f && std::abs(middle->radius - 10) < 0.5f);
        }
        const Creature pipe = test::withPieces({test::pipe(80, 6, 32, 80)});
        const auto middle = middleOf(pipe, {30, 6, 0});
        QVERIFY(middle && std::hypot(middle->at.y, middle->at.z) < 0.3f && std::abs(middle->at.x - 30) < 1.5f);
        Creature c = need(pipe, {{"do", "pose.chain"}, {"name", "arm"}, {"points", {{4, 6, 0}, {40, 6, 0}, {76, 6, 0}}}});
        const auto s = skeletonOf(c);
        QCOMPARE(s.bones.size(), std::size_t(2));
        QCOMPARE(s.bones[s.find("arm 2")].parent, s.find("arm 1"));
        QVERIFY(length(s.bones[s.find("arm 2")].head - Vec3f{40, 0, 0}) < 1.5f);
        c = need(c, {{"do", "pose.turn"}, {"bone", "arm 2"}, {"angles", {0, 0, 60}}}); // bound by it
        const auto box = skinOf(posed(c)).shown.box();
        QVERIFY(std::abs(box.hi.y - box.lo.y) > 25);
        QVERIFY(document::checkPose(c).unmoved == 0);
        QCOMPARE(io::joined(exporting::skinScene(c)).positions.size(), io::joined(exporting::skinScene(pipe)).positions.size());
        QVERIFY(!test::run(pipe, {{"do", "knit.forms"}})); // bones are no forms to knit
        QVERIFY(!test::run(c, {{"do", "pose.chain"}, {"points", {{4, 6, 0}}}}));
        QVERIFY(!test::run(c, {{"do", "pose.chain"}, {"points", {{4, 6, 0}, {4, 6, 0}}}}));
        QVERIFY(!test::run(c, {{"do", "pose.chain"}, {"parent", "wing"}, {"points", {{4, 6, 0}, {9, 6, 0}}}}));
    }
    void aReadySkeletonFits()
    {
        // A skin knitted of forms that are thrown away: as if it came from elsewhere.
        const Creature built = beastWithHead();
        Creature c = built;
        c.armature = {}, c.outgrowths.clear();
        for (auto &p : c.pieces) {
            auto own = std::make_shared<document::Piece>(*p);
            own->parent = 0;
            p = std::move(own);
        }
        const auto told = test::run(c, {{"do", "pose.skeleton"}, {"legs", 2}, {"landmarks", {{0, 0, 0}}}});
        QVERIFY(!told && told.error().text().find("hips") != std::string::npos);
        const auto marks = landmarksOf(c, {.legs = 2, .hasTail = false});
        json places = json::array();
        const std::map<std::string, Vec3f> known{
            {"hips", {0, 40, -14}}, {"chest", {0, 42, 18}}, {"neck", {0, 50, 28}},  {"head", {0, 70, 40}},  {"nose", {0, 74, 62}},
            {"crown", {0, 74, 62}}, {"hip", {9, 36, 18}},   {"knee", {12, 20, 18}}, {"ankle", {14, 8, 18}}, {"toe", {14, 4, 26}}};
        for (const auto &m : marks) {
            const Vec3f at = known.at(m.name);
            places.push_back({at.x, at.y, at.z});
        }
        c = need(c, {{"do", "pose.skeleton"}, {"legs", 2}, {"tail", false}, {"landmarks", places}});
        const auto s = skeletonOf(c);
        for (const char *bone : {"pelvis", "trunk", "head", "thigh left", "shank right", "foot left"})
            QVERIFY2(s.find(bone) != kNone, bone);
        std::size_t toes = 0; // three at each foot
        for (const pose::Bone &b : s.bones)
            toes += b.name.starts_with("toe ") && b.name.find(" end") == std::string::npos;
        QCOMPARE(toes, std::size_t(6));
        c = need(c, {{"do", "pose.turn"}, {"bone", "thigh left"}, {"angles", {40, 0, 0}}});
        const auto check = document::checkPose(c);
        QVERIFY(check.weightError < 1e-9 && check.unmoved == 0);
        QVERIFY(length(skinOf(posed(c)).shown.box().lo - skinOf(c).shown.box().lo) < 10);
        for (const std::uint32_t legs : {2u, 4u, 6u}) // where they usually stand: all inside
            for (const bool all : {false, true}) {
                Creature bare = c;
                bare.armature = {}, bare.posing = {};
                const Creature usual =
                    need(bare, {{"do", "pose.skeleton"}, {"legs", legs}, {"arms", all}, {"wings", all}, {"tail", all}});
                QVERIFY(skeletonOf(usual).bones.size() >= 5 + legs * 3);
            }
        QVERIFY(!test::run(c, {{"do", "pose.skeleton"}, {"legs", 3}}));
        QVERIFY(!test::run({}, {{"do", "pose.skeleton"}}));
    }
};

BONEMOSS_TEST(TestControls)
#include "tst_controls.moc"
