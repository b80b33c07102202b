// The Pose bench in the real window: limbs, joints, chains and pins by the mouse, poses, work in a pose, back to rest.
#include "app/hand/pose_hand.h"
#include "app/hand/value_slider.h"
#include "app/window/main_window.h"
#include "support/run.h"
#include "support/window_bench.h"

#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QTreeWidget>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;
using nlohmann::json;
using test::drag;

class TestPosing : public QObject, private test::WindowBench
{
    Q_OBJECT

    const document::Posing &posing() { return session().creature().posing; }
    const pose::Skeleton &bones() { return window().hand().of<PoseHand>().skeleton(); }
    Vec3f endOf(const char *bone)
    {
        const std::uint32_t b = bones().find(bone);
        return placesOf(bones(), posing().now)[b].apply(bones().bones[b].tail);
    }
    QPoint onScreen(Vec3f p) { return view().projection().toScreen(p).toPoint(); }
    float angleOf(const char *bone)
    {
        return 2 * std::acos(std::min(1.0f, posing().now.turnOf(bones().bones[bones().find(bone)].key).w)) / kRadiansPerDegree;
    }

private slots:
    void initTestCase() { prepare(); }
    void init()
    {
        open();
        for (const json &c : std::vector<json>{
                 {{"do", "form.add"}, {"kind", "ellipsoid"}, {"name", "body"}, {"at", {0, 40, 0}}, {"radii", {14, 16, 30}}},
                 {{"do", "form.add"},
                  {"kind", "limb"},
                  {"name", "arm"},
                  {"path", {{10, 36, 18, 7}, {30, 22, 20, 5}}},
                  {"parent", "body"},
                  {"mirror", true}},
                 {{"do", "form.add"},
                  {"kind", "limb"},
                  {"name", "shank"},
                  {"path", {{30, 22, 20, 5}, {34, 0, 22, 4}}},
                  {"parent", "arm"},
                  {"mirror", true}},
                 {{"do", "form.add"},
                  {"kind", "tube"},
                  {"name", "tail"},
                  {"path", {{0, 40, -24, 7}, {0, 44, -44, 5}, {0, 46, -62, 4}, {0, 48, -78, 3}}},
                  {"parent", "body"}},
                 {{"do", "knit.forms"}, {"faces", 6000}, {"name", "Beast"}}})
            QVERIFY(session().run(c));
        session().setBench(Bench::Pose);
        view().lookFrom("nose");
        (void)view().grabFramebuffer();
    }
    void cleanup() { close(); }

    void aLimbFollowsAndAPinnedOneStays()
    {
        click("poseTile_pins");
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen(endOf("shank right") + Vec3f{0, 2, 4}));
        QTRY_COMPARE(posing().pins.size(), std::size_t(1));
        click("poseTile_limb");
        const Vec3f left = endOf("shank left"), right = endOf("shank right");
        const QPoint from = onScreen(left + Vec3f{0, 2, 4});
        drag(&view(), from, from + QPoint(30, -40));
        QTRY_VERIFY(!posing().now.isRest());
        const Vec3f now = endOf("shank left");
        QVERIFY2(length(now - left) > 3, qPrintable(QString::number(double(length(now - left)))));
        QVERIFY(length(endOf("shank right") - right) < 1e-3f);
        // The body goes, the pinned one stays.
        const QPoint body = onScreen({0, 44, 28});
        drag(&view(), body, body + QPoint(0, 12));
        QVERIFY2(length(endOf("shank right") - right) < 1,
                 qPrintable(QString::number(double(length(endOf("shank right") - right)))));
        QVERIFY(posing().now.whole.move.y < -0.5f);
        // Undo goes back step by step, the button to rest.
        key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(posing().now.whole.move.y, 0.0f);
        click("poseRest");
        QTRY_VERIFY(posing().now.isRest());
    }
    void aJointByTheRingAndByNumbers()
    {
        click("poseTile_joint");
        const Vec3f joint = bones().bones[bones().find("arm left")].head;
        const QPoint middle = onScreen(joint), grip = onScreen(Vec3f{24, 27, 26});
        const QPoint way = grip - middle;
        drag(&view(), grip, middle + QPoint(way.y(), -way.x())); // a quarter on, against the clock
        QTRY_VERIFY(!posing().now.isRest());
        QVERIFY2(angleOf("arm left") > 60 && angleOf("arm left") < 120, qPrintable(QString::number(double(angleOf("arm left")))));
        auto *slider = find<ValueSlider>("poseAngle0");
        QVERIFY(slider->isVisibleTo(&window()));
        click("poseRest");
        QTRY_VERIFY(posing().now.isRest());
        find<QWidget>("poseTwins");
        click("poseTwins");
        slider = find<ValueSlider>("poseAngle0");
        emit slider->released(30);
        QTRY_VERIFY(!posing().now.isRest());
        QVERIFY(std::abs(angleOf("arm left") - 30) < 0.1f && std::abs(angleOf("arm right") - 30) < 0.1f);
        const Vec3f left = endOf("shank left"), right = endOf("shank right");
        QVERIFY(length(left - mirrored(right)) < 1e-3f);
    }
    void aTailCurls()
    {
        view().lookFrom("left");
        click("poseTile_chain");
        const QPoint root = onScreen({0, 40, -24}), grip = onScreen({0, 46, -62});
        const QPoint way = grip - root;
        drag(&view(), grip, root + QPoint(int(way.x() * 0.8 - way.y() * 0.6), int(way.y() * 0.8 + way.x() * 0.6)));
        QTRY_VERIFY(!posing().now.isRest());
        const float first = angleOf("tail 1");
        for (const char *bone : {"tail 2", "tail 3", "tail 4"})
            QVERIFY(std::abs(angleOf(bone) - first) < 0.1f);
        QVERIFY(first > 4);
    }
    void posesAreKeptAndUsed()
    {
        QVERIFY(session().run({{"do", "pose.turn"}, {"bone", "arm left"}, {"angles", {0, 0, 40}}}));
        QVERIFY(session().run({{"do", "pose.keep"}, {"name", "wave"}}));
        auto *list = find<QListWidget>("poseList");
        QTRY_COMPARE(list->count(), 2);
        QTRY_VERIFY(list->parentWidget()->height() > 100); // laid out
        list->setCurrentRow(0);
        click("poseUse");
        QTRY_VERIFY(posing().now.isRest());
        list->setCurrentRow(1);
        auto *blend = find<app::ValueSlider>("poseBlend");
        emit blend->edited(0.5);
        emit blend->released(0.5);
        QTRY_VERIFY(std::abs(angleOf("arm left") - 20) < 0.1f);
        QTRY_VERIFY(find<QLabel>("poseStands")->text().contains(QStringLiteral("mm"))); // worked out beside the window
        auto *tree = find<QTreeWidget>("boneTree");
        const auto found = tree->findItems(QStringLiteral("tail 2"), Qt::MatchExactly | Qt::MatchRecursive);
        QCOMPARE(found.size(), 1);
        tree->setCurrentItem(found[0]);
        QCOMPARE(bones().bones[bones().find(window().hand().of<PoseHand>().bone())].name, std::string("tail 2"));
        list->setCurrentRow(1);
        click("poseDelete");
        QTRY_COMPARE(posing().poses.size(), std::size_t(0));
    }
    void workInThePoseStaysAtRest()
    {
        QVERIFY(session().run({{"do", "pose.turn"}, {"bone", "tail 1"}, {"angles", {0, 60, 0}}}));
        view().lookFrom("crown");
        click("toolTile_raise");
        window().hand().change([](sculpt::StrokeSettings &s) { s.size = 6, s.strength = 1; });
        window().hand().setMirrored(false);
        const auto before = skin().body.flatten();
        const Vec3f there = endOf("tail 2");
        drag(&view(), onScreen(there), onScreen(there) + QPoint(3, 3));
        QTRY_VERIFY(skin().body.flatten() != before);
        const auto after = skin().body.flatten();
        Vec3f middle;
        float sum = 0;
        for (std::size_t v = 0; v < before.size(); ++v) {
            const float by = length(after[v] - before[v]);
            middle += before[v] * by, sum += by;
        }
        const std::uint32_t b = bones().find("tail 2"); // where it rests, not where it stands
        QVERIFY2(length(middle * (1 / sum) - bones().bones[b].tail) < 9,
                 qPrintable(QString::number(double(length(middle * (1 / sum) - bones().bones[b].tail)))));
        QVERIFY(length(there - bones().bones[b].tail) > 15);
        click("poseTile_limb");
        QVERIFY(!window().hand().of<PoseHand>().holdsBrush());
        key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_VERIFY(skin().body.flatten() == before);
    }
    void withoutFormsItSaysSo()
    {
        close();
        open();
        knitBall();
        while (!session().creature().armature.forms.empty())
            QVERIFY(session().run({{"do", "form.remove"}, {"form", session().creature().armature.forms[0].id}}));
        session().setBench(Bench::Pose);
        (void)view().grabFramebuffer();
        QVERIFY(bones().bones.empty());
        const std::size_t steps = session().history().at();
        drag(&view(), middle(), middle() + QPoint(20, 0)); // nothing to be moved: the camera turns
        QVERIFY(posing().now.isRest());
        QCOMPARE(session().history().at(), steps);
    }
    void weightsArePaintedByTheBrush()
    {
        QVERIFY(session().run({{"do", "pose.bind"}}));
        click("poseTile_weights");
        const QPoint at = onScreen(Vec3f{30, 22, 25}); // between arm and shank
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen(endOf("shank left") + Vec3f{0, 4, 3}));
        QTRY_COMPARE(bones().bones[bones().find(window().hand().of<PoseHand>().bone())].name, std::string("shank left"));
        const auto sum = [&] {
            double all = 0;
            for (const auto &w : pose::weightsOf(session().creature().pieces[0]->skin))
                if (w.bone == bones().bones[bones().find("shank left")].key)
                    for (const std::uint8_t v : w.values.flatten())
                        all += v;
            return all;
        };
        const double before = sum();
        auto *how = find<QComboBox>("poseWeighing");
        how->setCurrentIndex(int(Weighing::Add));
        emit how->activated(int(Weighing::Add));
        drag(&view(), at, at + QPoint(6, -10));
        QTRY_VERIFY(sum() > before + 500);
        QVERIFY(!session().creature().pieces[0]->skin.hasMask());
        key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(sum(), before);
    }
    void aCorrectionIsWorkedOnInItsPose()
    {
        QVERIFY(session().run({{"do", "pose.turn"}, {"bone", "shank left"}, {"angles", {60, 0, 0}}}));
        const auto rest = session().creature().pieces[0]->skin.shown.positions.flatten();
        click("poseTile_corrections");
        click("poseCorrect");
        const auto layers = [&]() -> const std::vector<skin::Layer> & { return session().creature().pieces[0]->skin.layers; };
        QTRY_COMPARE(layers().size(), std::size_t(1));
        QTRY_COMPARE(session().layer(), layers()[0].id);
        QTRY_VERIFY(find<QLabel>("poseDriveShown")->text().contains(QStringLiteral("100")));
        const QPoint at = onScreen({0, 44, 28});
        drag(&view(), at, at + QPoint(20, 6));
        QTRY_VERIFY(!layers()[0].offsets.isBlank());
        QVERIFY(session().creature().pieces[0]->skin.shown.positions.flatten() == rest); // nothing of it there
        // The same layer on the stretch of the skin, and scales that keep their shape.
        auto *by = find<QComboBox>("poseDrive");
        by->setCurrentIndex(int(skin::LayerDrive::By::Shrink));
        emit by->activated(int(skin::LayerDrive::By::Shrink));
        QTRY_VERIFY(layers()[0].drive.by == skin::LayerDrive::By::Shrink);
        auto *full = find<ValueSlider>("poseDriveFull");
        QTRY_VERIFY(full->isVisibleTo(&window()));
        full->setValue(0.5);
        emit full->released(0.5);
        QTRY_COMPARE(layers()[0].drive.full, 0.5f);
        emit find<ValueSlider>("poseRigid")->released(0.75);
        QTRY_COMPARE(layers()[0].rigid, 0.75f);
    }
    void controlsAndPlacing()
    {
        QVERIFY(session().run({{"do", "pose.turn"}, {"bone", "shank left"}, {"angles", {40, 0, 0}}}));
        QVERIFY(session().run({{"do", "pose.keep"}, {"name", "step"}, {"bones", {"shank left"}}}));
        QVERIFY(session().run({{"do", "pose.rest"}}));
        click("poseTile_controls");
        ValueSlider *step = nullptr;
        QTRY_VERIFY((step = window().findChild<ValueSlider *>(QStringLiteral("poseControl_step"))));
        emit step->edited(0.5);
        QVERIFY(posing().now.isRest()); // shown, not done
        emit step->released(0.5);
        QTRY_VERIFY(std::abs(angleOf("shank left") - 20) < 0.2f);
        // An outgrowth takes root where it is pressed in the pose.
        click("poseTile_place");
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen({0, 44, 28}));
        QTRY_COMPARE(session().creature().outgrowths.size(), std::size_t(1));
        QVERIFY(length(session().creature().outgrowths[0]->roots[0].at - Vec3f{0, 44, 28}) < 6);
        // One key from pose to pose.
        QVERIFY(session().run({{"do", "pose.keep"}, {"name", "whole"}}));
        QVERIFY(session().run({{"do", "pose.rest"}}));
        key(Qt::Key_Down, Qt::AltModifier);
        QTRY_VERIFY(posing().now == posing().poses.back().posture);
        key(Qt::Key_Down, Qt::AltModifier);
        QTRY_VERIFY(posing().now.isRest());
    }
    void bonesAreDrawn()
    {
        click("poseTile_bones");
        const std::size_t before = session().creature().armature.forms.size();
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen({0, 46, 26}));
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen({6, 36, 26}));
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen({0, 30, 26}));
        QCOMPARE(window().hand().of<PoseHand>().joints().size(), std::size_t(3));
        key(Qt::Key_Backspace);
        QCOMPARE(window().hand().of<PoseHand>().joints().size(), std::size_t(2));
        key(Qt::Key_Return);
        QTRY_COMPARE(session().creature().armature.forms.size(), before + 1);
        QVERIFY(session().creature().armature.forms.back().role == armature::FormRole::Bone);
        click("poseLandmarks");
        const auto &marks = window().hand().of<PoseHand>().landmarks();
        QTRY_VERIFY(marks.size() > 10);
        const Vec3f was = marks.back().at;
        drag(&view(), onScreen(was), onScreen(was) + QPoint(0, 25));
        QVERIFY(length(marks.back().at - was) > 1);
        click("poseMakeBones");
        QTRY_VERIFY(session().creature().armature.forms.size() > before + 10);
        QTRY_VERIFY(marks.empty());
    }
};

BONEMOSS_TEST(TestPosing)
#include "tst_posing.moc"
