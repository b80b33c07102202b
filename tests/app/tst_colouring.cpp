// The Colour bench in the real window: painting with the mouse and the pen, layers, fills, undo.
#include "support/run.h"
#include "app/hand/colour_hand.h"
#include "app/hand/value_slider.h"
#include "app/window/main_window.h"
#include "colour/rule.h"
#include "skin/colour_layers.h"
#include "support/window_bench.h"

#include <QtTest>
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QToolButton>
#include <nlohmann/json.hpp>

#include <set>

using namespace bonemoss;
using namespace bonemoss::app;
using test::drag;

class TestColouring : public QObject, private test::WindowBench
{
    Q_OBJECT

    std::vector<Vec3f> shape() { return skin().shown.positions.flatten(); }
    std::size_t layers() { return skin().colourLayers.size(); }
    int reds()
    {
        const QImage p = stillMiddle();
        int n = 0;
        for (int y = 0; y < p.height(); ++y)
            for (int x = 0; x < p.width(); ++x)
                n += qRed(p.pixel(x, y)) > qGreen(p.pixel(x, y)) + 60;
        return n;
    }
    void takeColour(const QColor &colour)
    {
        click("toolTile_paint");
        auto *hex = find<QLineEdit>("colourHex");
        hex->setText(colour.name());
        emit hex->editingFinished();
        QTRY_VERIFY(std::abs(window().hand().settings(sculpt::Tool::Paint).colour.x - float(colour.redF())) < 0.01f);
    }

private slots:
    void initTestCase() { prepare(); }
    void init()
    {
        open();
        knitBall(0.8);
        session().setBench(Bench::Colour);
        view().lookFrom("left");
    }
    void cleanup() { close(); }

    void aFillGoesFromThePress()
    {
        takeColour(QColor("#D01818"));
        click("fillPress");
        QVERIFY(window().hand().of<ColourHand>().fills() == ColourHand::Fills::Island);
        QTest::mouseClick(&view(), Qt::LeftButton, {}, middle());
        QTRY_COMPARE(layers(), std::size_t(1));
        for (std::size_t v = 0; v < skin().body.size(); v += 50)
            QCOMPARE(int(skin().paint.of(skin::Channel::Cover)[v]), 255);
        QVERIFY(window().hand().of<ColourHand>().fills() == ColourHand::Fills::No);
    }
    void aPhotographIsLaidByItsCorners()
    {
        QImage photo(64, 64, QImage::Format_RGB32);
        photo.fill(QColor("#D01818"));
        QVERIFY(photo.save(file("red.png")));
        ColourHand &hand = window().hand().of<ColourHand>();
        QVERIFY(bool(hand.takePhoto(file("red.png"))));
        (void)view().grabFramebuffer();
        // A corner is dragged; then it is laid.
        const QPointF corner = hand.photo().corners[0], other = hand.photo().corners[2];
        const QPoint at(int(corner.x() * view().width()), int(corner.y() * view().height()));
        drag(&view(), at, at + QPoint(-20, -10));
        QVERIFY(hand.photo().corners[0].x() < corner.x() && hand.photo().corners[2] == other);
        click("photoLay");
        QTRY_COMPARE(layers(), std::size_t(1));
        hand.setPhoto({});
        QVERIFY(reds() > 400);
        QVERIFY(!hand.takePhoto(file("none.png")));
    }
    void aStrokePaintsAndIsUndone()
    {
        takeColour(QColor("#D01818"));
        QCOMPARE(reds(), 0);
        const auto before = shape();
        QTest::mousePress(&view(), Qt::LeftButton, {}, middle());
        for (int k = 1; k <= 6; ++k)
            QTest::mouseMove(&view(), middle() + QPoint(8 * k, 0));
        QVERIFY(reds() > 200); // while it is drawn
        QTest::mouseRelease(&view(), Qt::LeftButton, {}, middle() + QPoint(48, 0));
        QCOMPARE(layers(), std::size_t(1));
        QVERIFY(shape() == before);
        const int painted = reds();
        QVERIFY(painted > 200);
        click("toolTile_wipe");
        drag(&view(), middle(), middle() + QPoint(48, 0));
        QVERIFY2(reds() < painted, qPrintable(QStringLiteral("%1 %2").arg(reds()).arg(painted)));
        key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(reds(), painted);
        key(Qt::Key_Z, Qt::ControlModifier);
        key(Qt::Key_Z, Qt::ControlModifier); // the layer that came with the stroke
        QTRY_COMPARE(layers(), std::size_t(0));
        QCOMPARE(reds(), 0);
    }
    void layersFillMixAndGo()
    {
        takeColour(QColor("#D01818"));
        click("addColourLayer");
        QTRY_COMPARE(layers(), std::size_t(1));
        click("colourFill");
        QTRY_VERIFY(reds() > 20000);
        takeColour(QColor("#2040D0"));
        click("addColourLayer");
        QTRY_COMPARE(layers(), std::size_t(2));
        QCOMPARE(session().colourLayer(), skin().colourLayers[1].id);
        click("colourFill");
        QTRY_COMPARE(reds(), 0);
        const std::string slider = "colourOpacity_" + std::to_string(session().colourLayer());
        emit find<ValueSlider>(slider.c_str())->released(0.1);
        QTRY_VERIFY(reds() > 20000);
        auto *blend = find<QComboBox>("colourBlend");
        blend->setCurrentIndex(int(skin::ColourBlend::Multiply));
        emit blend->activated(int(skin::ColourBlend::Multiply));
        QTRY_COMPARE(skin().colourLayers[1].blend, skin::ColourBlend::Multiply);
        click("colourLock");
        QTRY_VERIFY(skin().colourLayers[1].isLocked);
        const auto steps = session().history().at();
        drag(&view(), middle(), middle() + QPoint(30, 0)); // refused, and said
        QCOMPARE(session().history().at(), steps);
        click("colourLock");
        QTRY_VERIFY(!skin().colourLayers[1].isLocked);
        click("colourMerge");
        QTRY_COMPARE(layers(), std::size_t(1));
        click("colourDelete");
        QTRY_COMPARE(layers(), std::size_t(0));
        QCOMPARE(reds(), 0);
    }
    void aMaskKeepsItsColour()
    {
        takeColour(QColor("#D01818"));
        QVERIFY(session().run({{"do", "mask.area"},
                               {"outline", {{40, -40, -40}, {40, -40, 40}, {40, 0, 40}, {40, 0, -40}}},
                               {"direction", {-1, 0, 0}}}));
        click("addColourLayer");
        QTRY_COMPARE(layers(), std::size_t(1));
        click("colourFill"); // what is masked
        QTRY_VERIFY(reds() > 5000);
        const QImage p = stillPicture();
        const auto red = [&](QPoint at) { return qRed(p.pixel(at)) > qGreen(p.pixel(at)) + 60; };
        QVERIFY(!red(middle() + QPoint(0, -70)));
    }
    void aRuleMakesALayerThatCanBeChangedAndPaintedOver()
    {
        takeColour(QColor("#D01818"));
        click("tiles Rules");
        QTRY_VERIFY(find<QWidget>("ruleTile_slope")->isVisible());
        click("ruleTile_slope");
        QVERIFY(find<QWidget>("ruleLay")->isVisible());
        click("ruleLay");
        QTRY_COMPARE(layers(), std::size_t(1));
        QVERIFY(skin().colourLayers[0].rule);
        QTRY_VERIFY(find<QWidget>("ruleAgain")->isVisible()); // the layer is in hand now
        const auto before = skin().paint.channels[3].flatten();
        emit find<ValueSlider>("rule_spread")->released(30);
        QTRY_COMPARE(skin().colourLayers[0].rule->value("spread"), 30.0f);
        QVERIFY(skin().paint.channels[3].flatten() != before);
        click("ruleReverse");
        QTRY_VERIFY(skin().colourLayers[0].rule->isReversed);
        // A press does not paint while a rule is in hand; with the brush in hand it does, and that stays.
        const auto steps = session().history().at();
        drag(&view(), middle(), middle() + QPoint(40, 0));
        QCOMPARE(session().history().at(), steps);
        click("toolTile_paint");
        drag(&view(), middle(), middle() + QPoint(40, 0));
        QTRY_VERIFY(reds() > 200);
        const int red = reds();
        QVERIFY(session().run(
            {{"do", "rule.slope"}, {"layer", skin().colourLayers[0].id}, {"spread", 170}, {"colour", {0.1, 0.1, 0.4}}}));
        QVERIFY2(reds() > red / 2, qPrintable(QStringLiteral("%1 of %2").arg(reds()).arg(red)));
        key(Qt::Key_L); // off and on
        QTRY_VERIFY(!skin().colourLayers[0].isOn);
        key(Qt::Key_L);
        QTRY_VERIFY(skin().colourLayers[0].isOn);
    }
    void aRuleRunsAgainWhenTheShapeChanges()
    {
        QVERIFY(session().run({{"do", "rule.ridges"}}));
        const std::uint64_t ground = skin().colourLayers[0].rule->ground;
        QVERIFY(find<QCheckBox>("rulesRun")->isChecked()); // unless it is switched off
        session().setBench(Bench::Sculpt);
        click("toolTile_raise");
        drag(&view(), middle(), middle() + QPoint(40, 0));
        QTRY_VERIFY_WITH_TIMEOUT(skin().colourLayers[0].rule->ground != ground, 20000);
    }
    void aCoatGrowsAndAGradientIsDrawn()
    {
        click("tiles Coats");
        click("ruleTile_spots");
        click("ruleLay");
        QTRY_COMPARE(layers(), std::size_t(1));
        QVERIFY(skin().colourLayers[0].rule->kind->isCoat && skin().paint.isSeen());
        click("tiles Rules");
        QTRY_VERIFY(find<QWidget>("ruleTile_gradient")->isVisible());
        click("ruleTile_gradient");
        drag(&view(), middle() + QPoint(-60, 0), middle() + QPoint(60, 0));
        QTRY_COMPARE(layers(), std::size_t(2));
        QVERIFY(skin().colourLayers[1].rule->points.size() >= 2);
    }
    void thePaletteIsPaintedWithAndChanged()
    {
        takeColour(QColor("#D01818"));
        click("colourTile_palette");
        click("paletteAdd");
        QTRY_COMPARE(session().creature().palette.size(), std::size_t(1));
        const std::uint32_t entry = session().creature().palette[0].id;
        QTRY_VERIFY(find<QWidget>(("paletteEntry_" + std::to_string(entry)).c_str()));
        click(("paletteEntry_" + std::to_string(entry)).c_str());
        QTRY_COMPARE(window().hand().settings(sculpt::Tool::Paint).entry, entry);
        click("toolTile_paint");
        drag(&view(), middle(), middle() + QPoint(48, 0));
        QTRY_VERIFY(reds() > 200);
        click("colourTile_palette");
        auto *hex = find<QLineEdit>("colourHex");
        hex->setText("#2040D0");
        emit hex->editingFinished();
        QTRY_COMPARE(reds(), 0); // what was painted with it follows
        key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_VERIFY(reds() > 200);
        QTRY_VERIFY(find<QWidget>("paletteHarmonyAdd"));
        click("paletteHarmonyAdd");
        QTRY_COMPARE(session().creature().palette.size(), std::size_t(2));
    }
    void schemesAreTakenByAClick()
    {
        QVERIFY(session().run({{"do", "palette.add"}, {"name", "coat"}, {"colour", {0.8, 0.1, 0.1}}}));
        QVERIFY(session().run({{"do", "colour.fill"}, {"entry", "coat"}}));
        QVERIFY(session().run({{"do", "scheme.add"}, {"name", "red"}}));
        QVERIFY(session().run({{"do", "palette.set"}, {"entry", "coat"}, {"colour", {0.1, 0.2, 0.8}}}));
        QVERIFY(session().run({{"do", "scheme.add"}, {"name", "blue"}}));
        QCOMPARE(reds(), 0);
        click("colourTile_schemes");
        const std::string red = "scheme_" + std::to_string(session().creature().schemes[0].id);
        click(red.c_str());
        QTRY_VERIFY(reds() > 20000);
        QTRY_VERIFY_WITH_TIMEOUT(find<QToolButton>(red.c_str())->text().contains("in use"), 20000);
        key(Qt::Key_Z, Qt::ControlModifier);
        QTRY_COMPARE(reds(), 0);
    }
    void aFinishIsFilledAndPaintedWith()
    {
        click("colourTile_finish");
        click("finish_wetNose");
        click("finishFill");
        QTRY_COMPARE(layers(), std::size_t(1));
        QCOMPARE(int(skin().paint.of(skin::Channel::Clearcoat)[5]), 204); // 0.8
        QVERIFY(skin().paint.of(skin::Channel::Cover).isBlank());         // no colour
        click("finish_stone");
        click("finishPaint");
        QTRY_VERIFY(!window().hand().settings(sculpt::Tool::Paint).laysColour);
        QCOMPARE(window().hand().tool(), sculpt::Tool::Paint);
        drag(&view(), middle(), middle() + QPoint(48, 0));
        std::set<int> wet;
        for (std::uint32_t v = 0; v < skin().body.size(); ++v)
            wet.insert(skin().paint.of(skin::Channel::Clearcoat)[v]);
        QVERIFY(*wet.begin() < 100 && *wet.rbegin() == 204);
    }
    void coloursArePickedSprayedSmearedAndSoftened()
    {
        takeColour(QColor("#D01818"));
        click("addColourLayer");
        QTRY_COMPARE(layers(), std::size_t(1));
        QVERIFY(session().run({{"do", "colour.fill"}, {"colour", {0.1, 0.5, 0.2}}}));
        click("paintPick");
        QTest::mouseClick(&view(), Qt::LeftButton, {}, middle());
        QTRY_VERIFY(std::abs(window().hand().settings(sculpt::Tool::Paint).colour.y - 0.5f) < 0.02f);
        QVERIFY(!recentColours().empty());
        takeColour(QColor("#D01818"));
        click("toolTile_spray");
        drag(&view(), middle() + QPoint(-40, 0), middle() + QPoint(40, 0));
        QTRY_VERIFY(reds() > 30);
        for (const char *tool : {"toolTile_smear", "toolTile_soften"}) {
            const auto before = skin().paint.channels[0].flatten();
            click(tool);
            drag(&view(), middle() + QPoint(-30, 6), middle() + QPoint(40, 6));
            QVERIFY2(skin().paint.channels[0].flatten() != before, tool);
            key(Qt::Key_Z, Qt::ControlModifier);
            QTRY_VERIFY2(skin().paint.channels[0].flatten() == before, tool);
        }
    }
};

BONEMOSS_TEST(TestColouring)
#include "tst_colouring.moc"
