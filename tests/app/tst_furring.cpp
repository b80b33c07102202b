// Fur and masses on the Outgrowths bench in the real window: grown on a mask, combed, trimmed, parted, coloured.
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

class TestFurring : public QObject, private test::OutgrowingBench
{
    Q_OBJECT

private slots:
    void initTestCase() { prepare(); }
    void init() { begin(); }
    void cleanup() { close(); }

    void furIsCombed()
    {
        QVERIFY(session().run({{"do", "mask.area"},
                               {"outline", {{40, 5, -12}, {40, 5, 12}, {40, 40, 12}, {40, 40, -12}}},
                               {"direction", {-1, 0, 0}}}));
        click("outgrowthTile_locks");
        click("outgrowthGrow");
        QTRY_COMPARE(count(), std::size_t(1));
        const auto way = [&] { // of the first lock, in space
            const auto &place = last().made->members.front().place;
            return Vec3f{place.m[6], place.m[7], place.m[8]};
        };
        const Vec3f before = way();
        choose(Gesture::Comb);
        drag(&view(), middle() + QPoint(0, -70), middle() + QPoint(0, -15)); // down
        QTRY_COMPARE(session().creature().pieces[0]->guides.size(), std::size_t(1));
        QTRY_VERIFY(length(way() - before) > 0.1f);
        QVERIFY(std::any_of(last().made->members.begin(), last().made->members.end(),
                            [](const auto &m) { return m.place.m[7] < -0.7f; })); // lies downward now
        session().undo();
        QVERIFY(length(way() - before) < 1e-5f);
    }
    void furIsTrimmedAndLifted()
    {
        growOnMask("locks");
        const auto longest = [&] {
            float most = 0;
            for (const auto &shape : last().made->shapes)
                most = std::max(most, mesh::boundsOf(shape->positions).size().z);
            return most;
        };
        const float before = longest();
        choose(Gesture::Shorter);
        auto *radius = find<ValueSlider>("outgrowthRadius");
        QVERIFY(radius);
        window().hand().of<OutgrowthHand>().setRadius(60); // all of it
        for (int k = 0; k < 3; ++k)
            press(middle() + QPoint(0, -30));
        QTRY_VERIFY(longest() < 0.7f * before);
        QVERIFY(session().creature().pieces[0]->skin.keptMask("Locks length"));
        session().undo();
        session().undo();
        session().undo();
        QVERIFY(std::abs(longest() - before) < 1e-4f);
        QVERIFY(!session().creature().pieces[0]->skin.keptMask("Locks length"));
        const auto highest = [&] { // tips over the skin
            float most = 0;
            for (const auto &shape : last().made->shapes)
                most = std::max(most, mesh::boundsOf(shape->positions).hi.y);
            return most;
        };
        const float low = highest();
        choose(Gesture::Lift);
        press(middle() + QPoint(0, -30));
        QTRY_VERIFY(highest() > 1.2f * low);
    }
    void furIsParted()
    {
        growOnMask("locks");
        choose(Gesture::Part);
        drag(&view(), middle() + QPoint(-50, -20), middle() + QPoint(50, -20));
        QTRY_VERIFY(session().creature().pieces[0]->guides.size() > 3);
        session().undo();
        QVERIFY(session().creature().pieces[0]->guides.empty());
    }
    void aMassIsCutIntoLocks()
    {
        growOnMask("mass");
        QCOMPARE(last().made->members.size(), std::size_t(1));
        choose(Gesture::Cut);
        drag(&view(), onScreen({14.5f, 13, 9}), onScreen({14.5f, 13, -9}));
        QTRY_COMPARE(last().made->members.size(), std::size_t(3)); // it is cut on both sides
        choose(Gesture::Choose);
        press(onScreen(last().made->members[0].root)); // one of them
        QTRY_VERIFY(find<ValueSlider>("member_thin"));
        QTRY_VERIFY(find<QWidget>("outgrowthUncut"));
        click("outgrowthUncut");
        QTRY_COMPARE(last().made->members.size(), std::size_t(1));
    }
    void furFollowsAStrokeBehindTheWork()
    {
        growOnMask("locks");
        const auto before = last().made;
        session().setBench(Bench::Sculpt);
        const std::size_t steps = session().history().at();
        drag(&view(), middle() + QPoint(-10, -40), middle() + QPoint(10, -40));
        QTRY_COMPARE(session().history().at(), steps + 1);
        QVERIFY(session().save(file("stroke.bonemoss")));
        QTRY_VERIFY(!last().isStale && last().made != before); // made anew, and that is no step
        QVERIFY(session().finishSaving());
        QVERIFY(!session().isChanged());
        QCOMPARE(session().history().at(), steps + 1);
        session().undo();
        QVERIFY(last().made == before);
        session().setBench(Bench::Outgrowths);
    }
    void hairIsColouredFromRootToTip()
    {
        growOnMask("fibres");
        const auto reds = [&] {
            const QImage p = stillPicture();
            int n = 0;
            for (int y = 0; y < p.height(); ++y)
                for (int x = 0; x < p.width(); ++x)
                    n += qRed(p.pixel(x, y)) > qBlue(p.pixel(x, y)) + 90;
            return n;
        };
        const int before = reds();
        for (const char *end : {"outgrowthRootColour", "outgrowthTipColour"}) {
            QTRY_VERIFY(find<QWidget>(end));
            test::answerNextDialog("colourDialog", [&](QDialog *d) {
                qobject_cast<app::ColourDialog *>(d)->setColour(end[9] == 'T' ? QColor("#FF2010") : QColor("#301008"));
                d->accept();
            });
            click(end);
            QTRY_COMPARE(last().colours.size(), std::size_t(2));
        }
        QTRY_VERIFY(last().colours[1].x > 0.9f);
        QVERIFY(std::abs(last().colours[0].x - 48.0f / 255) < 0.01f);
        QVERIFY2(reds() > before + 300, qPrintable(QStringLiteral("%1, %2 before").arg(reds()).arg(before)));
        QTRY_VERIFY(find<QWidget>("outgrowthPlainColour")->isVisible());
        click("outgrowthPlainColour");
        QTRY_VERIFY(last().colours.empty());
    }
    void onlyWhatIsSeenFromHereGrows()
    {
        growOnMask("quills");
        const std::size_t all = last().made->members.size();
        choose(Gesture::Seen);
        press(middle());
        QTRY_VERIFY(last().made->members.size() < all);
        QTRY_VERIFY(find<QWidget>("outgrowthEverywhere")->isVisible());
        click("outgrowthEverywhere");
        QTRY_COMPARE(last().made->members.size(), all);
    }
};

BONEMOSS_TEST(TestFurring)
#include "tst_furring.moc"
