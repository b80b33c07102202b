#pragma once

#include "app/hand/outgrowth_hand.h"
#include "app/view/projection.h"
#include "outgrowth/outgrowth.h"
#include "support/window_bench.h"

#include <QComboBox>
#include <nlohmann/json.hpp>

namespace bonemoss::test {

/// The Outgrowths bench over a knitted ball, seen from the left.
class OutgrowingBench : public WindowBench
{
public:
    using Outgrowth = outgrowth::Outgrowth;
    void begin()
    {
        open();
        knitBall(0.8);
        session().setBench(app::Bench::Outgrowths);
        view().lookFrom("left");
    }
    const Outgrowth &last() { return *session().creature().outgrowths.back(); }
    std::size_t count() { return session().creature().outgrowths.size(); }
    QPoint onScreen(Vec3f p) { return view().projection().toScreen(p).toPoint(); }
    void press(QPoint at)
    {
        QTest::mousePress(&view(), Qt::LeftButton, {}, at);
        QTest::mouseRelease(&view(), Qt::LeftButton, {}, at);
    }
    /// What the next drag does.
    void choose(app::Gesture gesture)
    {
        auto *box = find<QComboBox>("outgrowthGesture");
        QVERIFY(box);
        const int k = box->findData(int(gesture));
        QVERIFY(k >= 0);
        box->setCurrentIndex(k);
        emit box->activated(k);
        QTRY_COMPARE(window().hand().of<app::OutgrowthHand>().gesture(), gesture);
    }
    void growOnMask(const char *kind)
    {
        QVERIFY(session().run({{"do", "mask.area"},
                               {"outline", {{40, 5, -12}, {40, 5, 12}, {40, 40, 12}, {40, 40, -12}}},
                               {"direction", {-1, 0, 0}}}));
        click((std::string("outgrowthTile_") + kind).c_str());
        click("outgrowthGrow");
        QTRY_COMPARE(count(), std::size_t(1));
        if (last().kind->name == "locks") // few are as good, and sooner made
            QVERIFY(session().run({{"do", "outgrow.locks"}, {"outgrowth", last().id}, {"length", 12}}));
    }
    /// A row along an arc over the ball, drawn from left to right.
    void drawRow(const char *kind)
    {
        click((std::string("outgrowthTile_") + kind).c_str());
        const std::size_t before = count();
        dragAlong(&view(), {middle() + QPoint(-90, -40), middle() + QPoint(-30, -75), middle() + QPoint(40, -70),
                            middle() + QPoint(90, -30)});
        QTRY_COMPARE(count(), before + 1);
    }
};

} // namespace bonemoss::test
