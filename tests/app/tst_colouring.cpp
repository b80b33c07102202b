// The Colour bench in the real window: painting with the mouse and the pen, layers, fills, undo.
#include "support/run.h"
#include "app/hand/value_slider.h"
#include "app/window/main_window.h"
#include "skin/colour_layers.h"
#include "support/window_bench.h"

#include <QtTest>
#include <QComboBox>
#include <QLineEdit>
#include <nlohmann/json.hpp>

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
};

BONEMOSS_TEST(TestColouring)
#include "tst_colouring.moc"
