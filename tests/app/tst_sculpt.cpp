// The Sculpt bench in the real window: every tool by its tile, falloffs drawn, symmetry, own tools, masks drawn in the view, looks.
#include "support/run.h"
#include "app/hand/falloff_curve.h"
#include "app/hand/tool_store.h"
#include "app/hand/value_slider.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "mesh/measures.h"
#include "support/window_bench.h"

#include <QtTest>
#include <QAbstractButton>
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;
using nlohmann::json;
using test::answerNextDialog, test::drag, test::dragAlong;

class TestSculpt : public QObject, private test::WindowBench
{
    Q_OBJECT

    std::vector<Vec3f> shape() { return skin().shown.positions.flatten(); }
    void unfold(const char *section)
    {
        click(section);
        QTest::qWait(20); // it is built anew once the click is over
    }
    std::size_t maskedCount()
    {
        std::size_t n = 0;
        for (std::size_t i = 0; i < skin().mask.size(); ++i)
            n += skin().mask[i] > 127;
        return n;
    }

private slots:
    void initTestCase() { prepare(); }
    void init()
    {
        open();
        knitBall();
    }
    void cleanup() { close(); }

    void everyTileStrokes_data()
    {
        QTest::addColumn<QString>("tool");
        for (std::size_t t = 0; t < sculpt::kToolCount; ++t)
            if (const auto tool = sculpt::Tool(t); tool != sculpt::Tool::Stamp && tool != sculpt::Tool::Restore && !paints(tool))
                QTest::newRow(nameOf(tool).data()) << QString::fromUtf8(nameOf(tool).data());
    }
    void everyTileStrokes()
    {
        QFETCH(QString, tool);
        if (tool == "smooth" || tool == "relax" || tool == "pinch" || tool == "plane") // give it something to do
            QVERIFY(session().run({{"do", "sculpt.stroke"},
                                   {"piece", session().piece()},
                                   {"tool", "crease"},
                                   {"size", 4},
                                   {"samples", {{20, 3, 0}, {20, -3, 0}}}}));
        click(("toolTile_" + tool).toUtf8());
        if (tool == "denser")
            emit find<ValueSlider>("edge")->edited(0.04); // finer than the ball is
        const auto before = shape();
        const auto faces = skin().shown.topology->faceCount();
        const auto steps = session().history().at();
        dragAlong(&view(), {middle(), middle() + QPoint(110, 0), middle() + QPoint(80, 80)});
        QVERIFY2(session().history().at() > steps, "a stroke is a step of the history");
        QVERIFY(shape() != before || skin().shown.topology->faceCount() != faces || skin().hasMask());
        QVERIFY(mesh::measure(meshOf(*session().creature().piece(session().piece()))).closed);
        while (session().history().at() > steps)
            session().undo();
        QVERIFY(shape() == before);
    }
    void twistGoesRoundWithThePen()
    {
        click("toolTile_twist");
        const auto before = shape();
        dragAlong(&view(), {middle(), middle() + QPoint(110, 0), middle() + QPoint(80, 80), middle() + QPoint(0, 110)});
        QVERIFY(shape() != before);
    }
    void shiftRunsStraight()
    {
        click("toolTile_raise");
        const auto before = shape();
        view().lookFrom("left");
        QTest::mouseMove(&view(), middle() - QPoint(60, 0));
        QTest::mousePress(&view(), Qt::LeftButton, Qt::ShiftModifier, middle() - QPoint(60, 0));
        for (const QPoint p : {QPoint(-20, -90), QPoint(20, 90), QPoint(60, 0)}) { // where it went does not count
            QMouseEvent move(QEvent::MouseMove, QPointF(middle() + p), view().mapToGlobal(QPointF(middle() + p)), Qt::NoButton,
                             Qt::LeftButton, Qt::ShiftModifier);
            QApplication::sendEvent(&view(), &move);
        }
        QTest::mouseRelease(&view(), Qt::LeftButton, Qt::ShiftModifier, middle() + QPoint(60, 0));
        const auto after = shape();
        float high = 0;
        for (std::size_t i = 0; i < before.size(); ++i)
            if (!(before[i] == after[i]))
                high = std::max(high, std::abs(before[i].y));
        QVERIFY2(high > 0 && high < 13, qPrintable(QString::number(double(high)))); // the ring is 12 mm
        QCOMPARE(session().history().commands().back().at("samples").size(), std::size_t(2));
    }
    void restoreAsksForALayer()
    {
        QSignalSpy failures(&session(), &Session::failed);
        click("toolTile_restore");
        const auto before = shape();
        drag(&view(), middle(), middle() + QPoint(20, 0));
        QCOMPARE(failures.count(), 1);
        QVERIFY(shape() == before);
    }
    void aFalloffIsDrawn()
    {
        click("toolTile_raise");
        unfold("sectionFalloff");
        auto *curve = find<FalloffCurve>("falloffCurve");
        QVERIFY(curve);
        const QPoint from = curve->knob(4).toPoint(), to(from.x(), curve->knob(0).toPoint().y());
        QTest::mousePress(curve, Qt::LeftButton, {}, from);
        QTest::mouseMove(curve, to);
        QTest::mouseRelease(curve, Qt::LeftButton, {}, to);
        QCOMPARE(find<QComboBox>("falloff")->currentText(), QStringLiteral("drawn"));
        drag(&view(), middle() - QPoint(5, 0), middle() + QPoint(5, 0));
        const json last = session().history().commands().back();
        QCOMPARE(QString::fromStdString(last.value("falloff", "")), QStringLiteral("drawn"));
        QVERIFY(last.at("curve").at(4).get<float>() > 0.95f);
    }
    void symmetryBelongsToThePiece()
    {
        unfold("sectionSymmetry");
        auto *plane = find<QComboBox>("symmetryPlane");
        plane->setCurrentIndex(0);
        emit plane->activated(0);
        auto *around = find<ValueSlider>("symmetryAround");
        emit around->released(4);
        const document::Piece *piece = session().creature().piece(session().piece());
        QVERIFY(!piece->symmetry.hasPlane && piece->symmetry.around == 4);
        click("toolTile_raise");
        view().lookFrom("crown");
        const auto before = shape();
        drag(&view(), middle() + QPoint(60, 0), middle() + QPoint(70, 0));
        const auto after = shape();
        int quarters[4] = {};
        for (std::size_t i = 0; i < before.size(); ++i)
            if (!(before[i] == after[i]))
                ++quarters[(before[i].x + before[i].z > 0) * 2 + (before[i].x - before[i].z > 0)];
        for (const int n : quarters)
            QVERIFY(n > 10);
        session().undo();
        session().undo();
        QCOMPARE(session().creature().piece(session().piece())->symmetry.around, 1);
    }
    void ownToolsAreKeptAndTakenUp()
    {
        click("toolTile_pinch");
        find<ValueSlider>("size")->setFocus();
        emit find<ValueSlider>("size")->edited(7.5);
        unfold("sectionSaved");
        answerNextDialog("toolNameDialog", [](QDialog *d) {
            d->findChild<QLineEdit *>()->setText("Lip line");
            d->accept();
        });
        click("saveTool");
        QTest::qWait(20);
        QVERIFY(ownTools().contains("Lip line"));
        click("toolTile_raise");
        auto *own = find<QComboBox>("ownTools");
        QVERIFY(own && own->findText("Lip line") >= 0);
        emit own->textActivated("Lip line");
        QTest::qWait(20);
        QVERIFY(find<QAbstractButton>("toolTile_pinch")->isChecked());
        QVERIFY(std::abs(find<ValueSlider>("size")->value() - 7.5) < 1e-4);
        QSignalSpy failures(&session(), &Session::failed);
        QFile broken(ownToolPath("Broken"));
        QVERIFY(broken.open(QIODevice::WriteOnly) && broken.write("{\"format\": \"something else\"}") > 0);
        broken.close();
        emit find<QComboBox>("ownTools")->textActivated("Broken");
        QTest::qWait(20);
        QCOMPARE(failures.count(), 1);
        QVERIFY(find<QAbstractButton>("toolTile_pinch")->isChecked());
    }
    void aLayersNameChoosesIt()
    {
        QVERIFY(session().run({{"do", "layer.add"}, {"piece", session().piece()}, {"name", "Relief"}}));
        const std::uint32_t id = skin().layers.back().id;
        session().chooseLayer(0);
        QTest::qWait(20);
        const auto steps = session().history().at();
        auto *name = find<ValueSlider>(("layerStrength_" + std::to_string(id)).c_str());
        QVERIFY(name);
        QTest::mouseClick(name, Qt::LeftButton, {}, QPoint(20, 8));
        QTest::qWait(20);
        QCOMPARE(session().layer(), id);
        QCOMPARE(session().history().at(), steps);
    }
    void sizesStayOnTheScreen()
    {
        click("toolTile_raise");
        const double mm = find<ValueSlider>("size")->value();
        find<QCheckBox>("sizeOnScreen")->setChecked(true);
        view().grabFramebuffer();
        const float far = view().camera().distance;
        QWheelEvent nearer(QPointF(middle()), view().mapToGlobal(QPointF(middle())), {}, {0, 240}, Qt::NoButton, Qt::NoModifier,
                           Qt::NoScrollPhase, false);
        QCoreApplication::sendEvent(&view(), &nearer);
        view().grabFramebuffer();
        QTest::qWait(20);
        const float near = view().camera().distance;
        QVERIFY(near < far);
        QVERIFY(std::abs(find<ValueSlider>("size")->value() / mm - double(near / far)) < 0.01);
        find<QCheckBox>("sizeOnScreen")->setChecked(false);
    }
    void masksAreDrawnRound()
    {
        trigger("maskRectangle");
        drag(&view(), middle() - QPoint(40, 40), middle() + QPoint(40, 40));
        const std::size_t seen = maskedCount();
        QVERIFY(seen > 20);
        trigger("maskClear");
        QVERIFY(!skin().hasMask());
        trigger("maskOutline"); // through and through: about twice as many
        const auto corner = [&](int x, int y) { return middle() + QPoint(x, y); };
        dragAlong(&view(), {corner(-40, -40), corner(40, -40), corner(40, 40), corner(-40, 40), corner(-40, -38)});
        QVERIFY2(maskedCount() > seen * 3 / 2, qPrintable(QString("%1 %2").arg(maskedCount()).arg(seen)));
        const std::size_t before = maskedCount();
        trigger("maskGrow");
        QVERIFY(maskedCount() > before);
        trigger("maskShrink");
        trigger("maskSharpen");
        QVERIFY(maskedCount() > 0);
    }
    void looksDiffer()
    {
        for (int k = 0; k < 5; ++k)
            QVERIFY(session().run({{"do", "sculpt.stroke"},
                                   {"piece", session().piece()},
                                   {"tool", "raise"},
                                   {"size", 5},
                                   {"strength", 0.2},
                                   {"samples", {{20, 1, 0}, {20, -1, 0}}}}));
        std::vector<QImage> pictures{stillMiddle()};
        for (const char *look : {"lookFacets", "lookWire", "lookSilhouette", "lookHollows", "lookNeglected", "lookClay"}) {
            trigger(look);
            pictures.push_back(stillMiddle());
        }
        for (std::size_t i = 1; i + 1 < pictures.size(); ++i)
            QVERIFY2(pictures[i] != pictures[i - 1], qPrintable(QString::number(i)));
        QVERIFY(pictures.back() == pictures.front());
        // Where no stroke was the neglected look is yellower than where one was.
        trigger("lookNeglected");
        const QImage map = stillPicture();
        const auto yellow = [&](QPoint at) { return qRed(map.pixel(at)) - qBlue(map.pixel(at)); };
        QVERIFY(yellow(middle() + QPoint(-110, -60)) > yellow(middle()) + 20);
    }
};

BONEMOSS_TEST(TestSculpt)
#include "tst_sculpt.moc"
