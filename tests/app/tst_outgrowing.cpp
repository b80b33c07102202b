// The Outgrowths bench in the real window: rooting with the mouse, settings, members, moving lines, closing an eye.
#include "support/run.h"
#include "app/hand/colour_button.h"
#include "app/hand/outgrowth_hand.h"
#include "app/hand/profile_curve.h"
#include "app/hand/value_slider.h"
#include "app/view/outgrowth_handles.h"
#include "app/view/projection.h"
#include "app/window/main_window.h"
#include "outgrowth/outgrowth.h"
#include "support/outgrowing_bench.h"

#include <QtTest>
#include <QComboBox>
#include <QListWidget>
#include <QTreeWidget>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;
using nlohmann::json;
using outgrowth::Outgrowth;
using test::drag, test::dragAlong;

class TestOutgrowing : public QObject, private test::OutgrowingBench
{
    Q_OBJECT

private slots:
    void initTestCase() { prepare(); }
    void init() { begin(); }
    void cleanup() { close(); }

    void aPairOfHornsByOnePress()
    {
        click("outgrowthTile_horn");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        QCOMPARE(last().made->members.size(), std::size_t(2)); // with its twin
        QCOMPARE(session().chosen(outgrowth::Outgrowth::kKind), last().id);
        const Vec3f root = last().roots[0].at;
        QVERIFY((onScreen(root) - (middle() + QPoint(0, -60))).manhattanLength() < 4);
        const auto steps = session().history().at();
        auto *length = find<ValueSlider>("outgrowth_length");
        QVERIFY(length);
        QTRY_VERIFY(!find<ValueSlider>("outgrowth_length")->visibleRegion().isEmpty()); // brought into sight
        const float before = last().value("length");
        length->setFocus();
        QTest::keyClick(length, Qt::Key_PageUp);
        QTRY_VERIFY(last().value("length") > before);
        QCOMPARE(session().history().at(), steps + 1);
        key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(last().value("length"), before);
        key(Qt::Key_Delete);
        QTRY_COMPARE(count(), std::size_t(0));
    }
    void everyKindByItsTile_data()
    {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<int>("rooting");
        for (const outgrowth::Kind &k : outgrowth::kinds())
            QTest::newRow(k.name.data()) << QString::fromUtf8(k.name.data(), qsizetype(k.name.size())) << int(k.rooting);
    }
    void everyKindByItsTile()
    {
        QFETCH(QString, kind);
        QFETCH(int, rooting);
        if (outgrowth::Rooting(rooting) == outgrowth::Rooting::Line) {
            drawRow(kind.toUtf8());
        } else if (outgrowth::Rooting(rooting) == outgrowth::Rooting::Lines) {
            click(("outgrowthTile_" + kind).toUtf8());
            dragAlong(&view(), {middle() + QPoint(-80, -30), middle() + QPoint(0, -50), middle() + QPoint(80, -30)});
            QCOMPARE(count(), std::size_t(0)); // one line is none yet
            dragAlong(&view(), {middle() + QPoint(-80, 20), middle() + QPoint(0, 10), middle() + QPoint(80, 20)});
        } else if (outgrowth::Rooting(rooting) == outgrowth::Rooting::Point) {
            click(("outgrowthTile_" + kind).toUtf8());
            press(middle() + QPoint(10, -50));
        } else {
            QVERIFY(session().run({{"do", "mask.area"},
                                   {"outline", {{40, 5, -12}, {40, 5, 12}, {40, 40, 12}, {40, 40, -12}}},
                                   {"direction", {-1, 0, 0}}}));
            click(("outgrowthTile_" + kind).toUtf8());
            click("outgrowthGrow");
        }
        QTRY_COMPARE(count(), std::size_t(1));
        QVERIFY(last().kind->name == kind.toStdString());
        QVERIFY(!last().made->members.empty());
        QTRY_VERIFY(find<QWidget>(("outgrowth_" + std::string(last().kind->settings[0].name)).c_str()));
        session().undo();
        QCOMPARE(count(), std::size_t(0));
    }
    void aRowKeepsItsCorrectionWhenItsLineMoves()
    {
        click("outgrowthTile_plates");
        auto *number = find<ValueSlider>("outgrowth_count");
        if (!number)
            click("sectionOutgrowthMore"), number = find<ValueSlider>("outgrowth_count");
        QVERIFY(number);
        drawRow("plates");
        QVERIFY(session().run({{"do", "outgrow.plates"}, {"outgrowth", last().id}, {"count", 20}, {"height", 5}}));
        QCOMPARE(last().made->members.size(), std::size_t(40));
        // The seventh is clicked at its middle, and made larger.
        const auto &seventh = last().made->members[12];
        QCOMPARE(seventh.number, 6u);
        press(onScreen(seventh.place.apply({0, 2.2f, 0})));
        QTRY_VERIFY(find<ValueSlider>("member_size"));
        auto *size = find<ValueSlider>("member_size");
        size->setFocus();
        QTest::keyClick(size, Qt::Key_PageUp);
        QTRY_COMPARE(last().corrections.size(), std::size_t(1));
        QCOMPARE(last().corrections[0].member, 6u);
        const float larger = last().corrections[0].size;
        QVERIFY(larger > 1);
        // A knot of its line is dragged down.
        const Vec3f before = last().roots.back().at;
        const std::size_t steps = session().history().at();
        const QPoint knot = onScreen(last().roots.back().at);
        drag(&view(), knot, knot + QPoint(0, 45));
        QTRY_COMPARE(session().history().at(), steps + 1);
        QVERIFY(length(last().roots.back().at - before) > 1);
        QCOMPARE(last().made->members.size(), std::size_t(40));
        QCOMPARE(last().corrections.size(), std::size_t(1));
        QCOMPARE(last().corrections[0].size, larger);
    }
    void aDraggedSliderIsSeenBeforeItIsLetGo()
    {
        click("outgrowthTile_tusk");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        const QImage before = stillMiddle();
        const std::size_t steps = session().history().at();
        auto *length = find<ValueSlider>("outgrowth_length");
        QTest::mousePress(length, Qt::LeftButton, {}, {length->width() / 2, length->height() - 8});
        QTest::mouseMove(length, {length->width() - 20, length->height() - 8});
        QTRY_VERIFY(stillMiddle() != before);
        QCOMPARE(session().history().at(), steps); // nothing is done yet
        QTest::mouseRelease(length, Qt::LeftButton, {}, {length->width() - 20, length->height() - 8});
        QTRY_COMPARE(session().history().at(), steps + 1);
    }
    void theProfileIsDrawn()
    {
        drawRow("spikes");
        auto *curve = find<ProfileCurve>("outgrowthProfile");
        QVERIFY(curve);
        const QPoint knot = curve->knob(4).toPoint();
        QTest::mousePress(curve, Qt::LeftButton, {}, knot);
        QTest::mouseMove(curve, knot - QPoint(0, 25));
        QTest::mouseRelease(curve, Qt::LeftButton, {}, knot - QPoint(0, 25));
        QTRY_COMPARE(last().profile.size(), ProfileCurve::kKnobs);
        QVERIFY(last().profile[4] > 1.2f && std::abs(last().profile[0] - 1) < 0.01f);
    }
    void anEyeCloses()
    {
        click("outgrowthTile_eye");
        press(middle() + QPoint(0, -40));
        QTRY_COMPARE(count(), std::size_t(1));
        QCOMPARE(last().made->shapes.size(), std::size_t(7)); // ball, iris, pupil, clear ball, two lids, wet rim
        const auto open = last().made->shapes[4]->positions;
        auto *lid = find<ValueSlider>("outgrowth_upperLid");
        QVERIFY(lid);
        lid->setFocus();
        QTest::keyClick(lid, Qt::Key_End);
        QTRY_COMPARE(last().value("upperLid"), 1.0f);
        QVERIFY(last().made->shapes[4]->positions != open);
    }
    void anotherLineIsAnotherRib()
    {
        click("outgrowthTile_membrane");
        for (const int y : {-50, -5, 40}) {
            dragAlong(&view(), {middle() + QPoint(-70, y), middle() + QPoint(0, y - 10), middle() + QPoint(70, y)});
            QTRY_COMPARE(count(), std::size_t(y > -50));
        }
        QTRY_COMPARE(last().starts.size(), std::size_t(2));
        session().undo();
        QCOMPARE(last().starts.size(), std::size_t(1));
        session().undo();
        QCOMPARE(count(), std::size_t(0));
    }
    void tipAndBendOfAHornAreDragged()
    {
        click("outgrowthTile_horn");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        QVERIFY(session().run({{"do", "outgrow.horn"}, {"outgrowth", last().id}, {"length", 14}, {"radius", 2.5}}));
        for (const auto which : {OutgrowthHandle::Tip, OutgrowthHandle::Middle}) {
            const auto handle = handleOf(last(), which);
            QVERIFY(handle.has_value());
            const std::vector<float> values = last().values;
            const QPoint from = onScreen(*handle), to = from + QPoint(-25, -12);
            drag(&view(), from, to);
            QTRY_VERIFY(last().values != values);
            const double left = QLineF(onScreen(*handleOf(last(), which)), to).length(), before = QLineF(from, to).length();
            QVERIFY2(left < (which == OutgrowthHandle::Tip ? 0.3 : 0.75) * before,
                     qPrintable(QStringLiteral("%1 of %2").arg(left).arg(before)));
        }
        session().undo();
        session().undo();
        QCOMPARE(count(), std::size_t(1));
    }
    void aHornsLineIsDrawn()
    {
        click("outgrowthTile_horn");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        choose(Gesture::Path);
        const QPoint root = onScreen(last().roots[0].at);
        dragAlong(&view(), {root, root + QPoint(30, -40), root + QPoint(90, -50)});
        QTRY_VERIFY(last().path.size() > 3);
        // The made horn ends where the pen was lifted.
        const auto &m = last().made->members.front();
        const auto &points = last().made->shapes[m.shape]->positions;
        QVERIFY(QLineF(onScreen(m.place.apply(points.back())), root + QPoint(90, -50)).length() < 14);
        QTRY_VERIFY(find<QWidget>("outgrowthNoLine")->isVisible());
        click("outgrowthNoLine");
        QTRY_VERIFY(last().path.empty());
    }
    void aFormStandsForCopies()
    {
        drawRow("copies");
        const auto shape = last().made->shapes.front();
        auto *box = find<QComboBox>("outgrowthItem");
        QVERIFY(box && box->count() > 1); // the ball that was knitted is there
        box->setCurrentIndex(1);
        emit box->activated(1);
        QTRY_VERIFY(last().item != 0);
        QVERIFY(last().made->shapes.front() != shape);
        QCOMPARE(last().made->shapes.size(), std::size_t(1)); // all are linked copies of it
        session().undo();
        QCOMPARE(last().item, 0u);
    }
    void anEyeLooksWhereItIsDragged()
    {
        click("outgrowthTile_eye");
        press(middle() + QPoint(0, -40));
        QTRY_COMPARE(count(), std::size_t(1));
        choose(Gesture::Look);
        drag(&view(), middle() + QPoint(0, -40), middle() + QPoint(60, -90));
        QTRY_VERIFY(last().look.has_value());
        // The ball's axis meets the point.
        const auto &place = last().made->members.front().place;
        const Vec3f centre{place.m[9], place.m[10], place.m[11]}, to = *last().look - centre;
        QVERIFY(dot(normalized(Vec3f{place.m[3], place.m[4], place.m[5]}), normalized(to)) > 0.9999f);
        QTRY_VERIFY(find<QWidget>("outgrowthNoLook"));
        click("outgrowthNoLook");
        QTRY_VERIFY(!last().look);
    }
    void teethAlongAFormAndAMembraneBetweenHorns()
    {
        click("outgrowthTile_fangs");
        click("outgrowthAlongJaw");
        QTRY_COMPARE(count(), std::size_t(1));
        QVERIFY(last().made->members.size() > 6);
        for (const QPoint at : {QPoint(-30, -60), QPoint(30, -60)}) {
            const auto skin =
                mesh::castRay(session().creature().pieces[0]->skin.shown, view().projection().rayAt(QPointF(middle() + at)));
            QVERIFY(skin);
            QVERIFY(session().run({{"do", "outgrow.horn"}, {"at", {skin->point.x, skin->point.y, skin->point.z}}}));
        }
        QCOMPARE(count(), std::size_t(3));
        session().chooseItem(0);
        click("outgrowthTile_membrane");
        auto *list = find<QListWidget>("outgrowthBetween");
        QVERIFY(list);
        QCOMPARE(list->count(), 3);
        list->item(1)->setCheckState(Qt::Checked);
        list->item(2)->setCheckState(Qt::Checked);
        click("outgrowthStretch");
        QTRY_COMPARE(count(), std::size_t(4));
        QCOMPARE(last().between.size(), std::size_t(2));
        QCOMPARE(last().made->members.size(), std::size_t(2)); // and its twin
        // It follows a horn.
        const Box3f before = last().made->box;
        QVERIFY(session().run({{"do", "outgrow.horn"}, {"outgrowth", last().between[1]}, {"length", 30}}));
        QVERIFY(length(last().made->box.hi - before.hi) > 0.1f || length(last().made->box.lo - before.lo) > 0.1f);
    }
    void aSizeIsDraggedBesideTheRow()
    {
        drawRow("plates");
        const std::vector<ProfileKnob> knobs = profileOf(last());
        QCOMPARE(knobs.size(), std::size_t(7));
        const QPoint at = onScreen(knobs[3].at), up = at + (at - onScreen(knobs[3].root)) / 2;
        drag(&view(), at, up);
        QTRY_COMPARE(last().profile.size(), std::size_t(7));
        QVERIFY(last().profile[3] > 1.3f && last().profile[3] < 1.7f); // half as much again
        QVERIFY(std::abs(last().profile[0] - 1) < 1e-3f);
    }
    void itGoesAlongDuringAStroke()
    {
        click("outgrowthTile_horn");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        session().setBench(Bench::Sculpt);
        window().hand().setTool(sculpt::Tool::Tug);
        const QPoint root = onScreen(last().roots[0].at), tip = onScreen(last().made->box.hi);
        const QRect about =
            QRect(root, tip).normalized().adjusted(-40, -40, 40, 0).intersected(QRect(0, 0, view().width(), root.y() - 20));
        const auto changed = [&](const QImage &a, const QImage &b) {
            int n = 0;
            for (int y = about.top(); y <= about.bottom(); ++y)
                for (int x = about.left(); x <= about.right(); ++x)
                    n += std::abs(qGray(a.pixel(x, y)) - qGray(b.pixel(x, y))) > 25;
            return n;
        };
        const QImage before = stillPicture();
        QTest::mousePress(&view(), Qt::LeftButton, {}, root);
        for (int k = 1; k <= 6; ++k)
            QTest::mouseMove(&view(), root + QPoint(6 * k, 0));
        const QImage during = stillPicture();
        QVERIFY2(changed(before, during) > 100, qPrintable(QString::number(changed(before, during))));
        const auto made = last().made;
        QTest::mouseRelease(&view(), Qt::LeftButton, {}, root + QPoint(36, 0));
        QTRY_VERIFY(last().made != made);
        session().undo();
        QCOMPARE(changed(before, stillPicture()), 0);
        session().setBench(Bench::Outgrowths);
    }
    void theSilhouetteIsOfAll()
    {
        growOnMask("fibres");
        click("outgrowthTile_horn");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(2));
        trigger("lookSilhouette");
        const QImage picture = stillPicture();
        const auto at = [&](Vec3f p) { return qGray(picture.pixel(onScreen(p))); };
        const int skin = at({20, 0, 0});
        const auto &horn = *last().made;
        const mesh::PolyMesh &shape = *horn.shapes[0];
        Vec3f highest = shape.positions[0];
        for (const Vec3f p : shape.positions)
            highest = p.y > highest.y ? p : highest;
        QVERIFY(std::abs(at(horn.members[0].place.apply(highest * 0.8f)) - skin) < 6);
        trigger("lookClay");
    }
    void aMeltedHornIsTakenOutAgain()
    {
        click("outgrowthTile_horn");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        const std::size_t faces = session().creature().pieces[0]->skin.shown.topology->faceCount();
        click("outgrowthMelt");
        QTRY_VERIFY_WITH_TIMEOUT(last().isMelted, 20000);
        QVERIFY(session().creature().pieces[0]->skin.shown.topology->faceCount() > faces);
        session().chooseItem(0);
        session().chooseItem(last().id);
        QTRY_VERIFY(find<QWidget>("outgrowthUnmelt"));
        click("outgrowthUnmelt");
        QTRY_VERIFY_WITH_TIMEOUT(!last().isMelted, 20000);
        QVERIFY(!last().isHidden);
    }
    void aSectionIsDrawn()
    {
        click("outgrowthTile_horn");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        if (!find<QComboBox>("outgrowth_section"))
            click("sectionOutgrowthMore");
        auto *box = find<QComboBox>("outgrowth_section");
        QVERIFY(box);
        box->setCurrentIndex(4);
        emit box->activated(4);
        QTRY_VERIFY(find<ProfileCurve>("outgrowthSection")->isVisible());
        auto *curve = find<ProfileCurve>("outgrowthSection");
        const auto shape = last().made->shapes[0];
        curve->setFocus();
        QTest::keyClick(curve, Qt::Key_Right);
        for (int k = 0; k < 5; ++k)
            QTest::keyClick(find<ProfileCurve>("outgrowthSection"), Qt::Key_Down);
        QTRY_COMPARE(last().section.size(), ProfileCurve::kKnobs);
        QVERIFY(last().made->shapes[0] != shape);
    }
    void settingsAreCopiedToAnotherPlace()
    {
        click("outgrowthTile_claw");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        QVERIFY(session().run({{"do", "outgrow.claw"}, {"outgrowth", last().id}, {"curve", 133}}));
        click("outgrowthCopy");
        session().chooseItem(0);
        window().hand().of<OutgrowthHand>().setKind(nullptr);
        QTRY_VERIFY(find<QWidget>("outgrowthPaste"));
        click("outgrowthPaste");
        press(middle() + QPoint(40, -20));
        QTRY_COMPARE(count(), std::size_t(2));
        QVERIFY(std::abs(last().value("curve") - 133) < 1e-3f);
    }
    void usualSizesFollowTheCreature()
    {
        click("outgrowthTile_horn"); // the ball is some 40 mm across, not 180
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        const float usual = outgrowthOf(*last().kind).value("length"),
                    high = session().creature().pieces[0]->skin.shown.box().size().y;
        QVERIFY(std::abs(last().value("length") / usual - high / 180) < 0.06f * high / 180);
    }
    void theRimFollowsItsSlider()
    {
        click("outgrowthTile_horn");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        auto *rim = find<ValueSlider>("outgrowthRim");
        QVERIFY(rim);
        rim->setFocus();
        QTest::keyClick(rim, Qt::Key_PageUp);
        QTRY_COMPARE(session().creature().pieces[0]->skin.layers.size(), std::size_t(1));
        QVERIFY(last().rim.height > 0);
        key(Qt::Key_Delete);
        QTRY_COMPARE(count(), std::size_t(0));
        QVERIFY(session().creature().pieces[0]->skin.layers.empty());
    }
    void theTreeChoosesIt()
    {
        click("outgrowthTile_claw");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        session().chooseItem(0);
        auto *tree = find<QTreeWidget>("anatomyTree");
        const auto items = tree->findItems("Claw", Qt::MatchExactly | Qt::MatchRecursive);
        QCOMPARE(items.size(), 1);
        QVERIFY(items[0]->parent()); // below the skin it stands on
        tree->setCurrentItem(items[0]);
        QTRY_COMPARE(session().chosen(outgrowth::Outgrowth::kKind), last().id);
    }
    void escapeGoesOutStepByStep()
    {
        click("outgrowthTile_claw");
        press(middle() + QPoint(0, -60));
        QTRY_COMPARE(count(), std::size_t(1));
        key(Qt::Key_Escape);
        QTRY_COMPARE(session().chosen(outgrowth::Outgrowth::kKind), 0u);
        key(Qt::Key_Escape);
        QTRY_VERIFY(!find<QWidget>("outgrowth_length"));
        QCOMPARE(count(), std::size_t(1));
    }
};

BONEMOSS_TEST(TestOutgrowing)
#include "tst_outgrowing.moc"
