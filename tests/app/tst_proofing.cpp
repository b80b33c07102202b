// The Proof bench in the real window: a check, its findings in words, in a list and by their marks, another printer and another size.
#include "app/hand/layer_view.h"
#include "app/hand/proof_hand.h"
#include "app/hand/value_slider.h"
#include "app/window/main_window.h"
#include "mesh/measures.h"
#include "support/run.h"
#include "support/window_bench.h"

#include <QComboBox>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QSlider>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;
using nlohmann::json;

class TestProofing : public QObject, private test::WindowBench
{
    Q_OBJECT

    ProofHand &held() { return window().hand().of<ProofHand>(); }
    QString summary() { return find<QLabel>("proofSummary")->text(); }

private slots:
    void initTestCase() { prepare(); }
    void init()
    {
        open();
        knitBall();
        session().setBench(Bench::Proof);
        (void)view().grabFramebuffer();
    }
    void cleanup() { close(); }

    void aCheckTellsWhatItFinds()
    {
        QVERIFY(summary().contains("Not checked"));
        click("proofCheck");
        QVERIFY(held().report() && !held().isStale());
        // A ball stands on a point and is steep below; the numbers in words are those of the report.
        auto *list = find<QListWidget>("proofFindings");
        QCOMPARE(list->count(), int(held().report()->findings.size()));
        QVERIFY(list->count() > 0 && summary().contains("mm"));
        const auto row = [&](std::string_view kind) {
            const auto &all = held().report()->findings;
            const auto at = std::find_if(all.begin(), all.end(), [&](const auto &f) { return f.kind->id == kind; });
            return at == all.end() ? -1 : int(at - all.begin());
        };
        const int overhang = row("overhang");
        QVERIFY(overhang >= 0);
        const portrait::Camera before = view().camera();
        list->setCurrentRow(overhang);
        QCOMPARE(held().chosen(), overhang);
        const Vec3f at = held().report()->findings[std::size_t(overhang)].at;
        QVERIFY(length(view().camera().target - at) < 1e-2f && !(view().camera() == before)); // flown to
        QVERIFY(find<QLabel>("proofAbout")->text().contains("Support"));
        // Its mark is pressed in the view after another is chosen.
        held().choose(-1);
        const QPoint mark = view().projection().toScreen(at).toPoint();
        QTest::mouseClick(&view(), Qt::LeftButton, {}, mark);
        QVERIFY(held().chosen() >= 0);
        const QImage shown = view().grabFramebuffer();
        QVERIFY(!shown.isNull());
        // A stroke makes it old; another bench and back keeps it.
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"radius", 5}});
        QVERIFY(held().isStale() && summary().contains("Changed"));
        session().setBench(Bench::Sculpt);
        session().setBench(Bench::Proof);
        QVERIFY(held().report() && summary().contains("Changed"));
        click("proofCheck");
        QVERIFY(!held().isStale());
    }
    void otherPrintersAndSizes()
    {
        click("proofCheck");
        const float high = held().report()->size.y;
        auto *height = find<ValueSlider>("proofHeight");
        QVERIFY(std::abs(height->value() - double(high)) < 0.2);
        emit height->released(2 * double(high));
        QVERIFY(held().isStale());
        click("proofCheck");
        QVERIFY(std::abs(held().report()->size.y - 2 * high) < 0.01f);
        auto *printers = find<QComboBox>("proofPrinter");
        const auto pick = [&](int k) {
            printers->setCurrentIndex(k);
            emit printers->activated(k);
        };
        pick(printers->findData("filament"));
        QVERIFY(!held().profile().isResin);
        // One of a file; a broken one is told and changes nothing.
        const auto answer = [&](const char *text) {
            QFile f(file("own.json"));
            QVERIFY(f.open(QIODevice::WriteOnly));
            f.write(text);
            f.close();
            test::answerNextDialog("QFileDialog", [path = file("own.json")](QDialog *d) {
                d->findChild<QLineEdit *>("fileNameEdit")->setText(path);
                QMetaObject::invokeMethod(d, "accept");
            });
            pick(printers->count() - 1);
        };
        answer(R"({"like": "resin", "title": "Mine", "layer": 0.02})");
        QVERIFY(held().profile().layer == 0.02f && printers->currentText() == "Mine");
        answer(R"({"layer": "none"})");
        QVERIFY(held().profile().layer == 0.02f && printers->currentText() == "Mine");
    }
    void layersAreLookedThrough()
    {
        click("proofSlice");
        const auto sliced = held().sliced();
        QVERIFY(sliced && sliced->layers.count > 20);
        // A ball's largest layer is its middle, pi r^2.
        const auto &area = sliced->layers.area;
        const auto largest = std::max_element(area.begin(), area.end());
        QVERIFY(std::abs(double(largest - area.begin()) / double(area.size()) - 0.5) < 0.05);
        auto *slider = find<QSlider>("proofLayer");
        slider->setValue(3);
        QCOMPARE(held().layer(), 3);
        QVERIFY(find<QLabel>("proofLayerWords")->text().contains("Layer 4"));
        // A press at the end of the curve.
        auto *layers = find<LayerView>("layerView");
        QTest::mouseClick(layers, Qt::LeftButton, {}, QPoint(layers->width() - 6, layers->height() - 40));
        QVERIFY(held().layer() > sliced->layers.count * 9 / 10);
        QVERIFY(!view().grabFramebuffer().isNull());
        click("proofSlice"); // back to findings
        QVERIFY(!held().sliced());
        click("proofSlice");
        QVERIFY(held().sliced());
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"radius", 5}}); // old layers do not stay
        QVERIFY(!held().sliced());
    }
    void aPrintIsMade()
    {
        const auto pieces = [&] { return session().creature().pieces.size(); };
        const std::size_t before = pieces();
        test::answerNextDialog("commandDialog", [](QDialog *d) { d->accept(); });
        trigger("printSeal");
        QCOMPARE(pieces(), before + 1);
        const auto body = session().creature().pieces.back();
        QVERIFY(body->name == "Print body" && session().creature().pieces.front()->isHidden);
        QCOMPARE(session().piece(), body->id);
        const double whole = measure(document::meshOf(*body)).volumeMm3;
        // Hollow, as the dialog has it; then a step back.
        test::answerNextDialog("commandDialog", [](QDialog *d) { d->accept(); });
        trigger("printHollow");
        QVERIFY(measure(document::meshOf(*session().creature().piece(body->id))).volumeMm3 < 0.9 * whole);
        session().undo();
        // A line drawn across it.
        trigger("printPart");
        const QPointF middle = view().projection().toScreen(body->skin.shown.box().centre());
        QTest::mousePress(&view(), Qt::LeftButton, {}, (middle + QPointF(-200, 0)).toPoint());
        for (int x = -150; x <= 200; x += 50)
            QTest::mouseMove(&view(), (middle + QPointF(x, 0)).toPoint());
        QTest::mouseRelease(&view(), Qt::LeftButton, {}, (middle + QPointF(200, 0)).toPoint());
        QCOMPARE(pieces(), before + 2);
        const double low = measure(document::meshOf(*session().creature().piece(body->id))).volumeMm3,
                     high = measure(document::meshOf(*session().creature().pieces.back())).volumeMm3;
        QVERIFY(low < 0.8 * whole && high < 0.8 * whole && low + high < whole && low + high > 0.95 * whole);
        test::answerNextDialog("commandDialog", [](QDialog *d) { d->accept(); });
        trigger("printSupports");
        QCOMPARE(pieces(), before + 3);
    }
};

BONEMOSS_TEST(TestProofing)
#include "tst_proofing.moc"
