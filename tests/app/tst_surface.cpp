#include "support/run.h"
#include "command/command.h"
#include "mesh/measures.h"
#include "support/window_bench.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QRegularExpression>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;
using namespace bonemoss::test;

/// The Surface menu, driven in the real window.
class TestSurface : public QObject, private WindowBench
{
    Q_OBJECT
    mesh::Measures measured(std::size_t piece = 0) { return measure(toPolyMesh(session().creature().pieces[piece]->skin.shown)); }
    void accept(const char *name, std::function<void(QDialog *)> fill = {})
    {
        answerNextDialog(name, [fill = std::move(fill)](QDialog *d) {
            if (fill)
                fill(d);
            d->findChild<QDialogButtonBox *>()->button(QDialogButtonBox::Ok)->click();
        });
    }
    void maskAbout(float y)
    {
        const auto old = session().creature().pieces.front();
        QVERIFY(session().run({{"do", "sculpt.stroke"},
                               {"piece", old->id},
                               {"tool", "mask"},
                               {"size", 18},
                               {"strength", 1},
                               {"spacing", 0.02},
                               {"samples", {{0, y, 0}, {1, y, 0}, {-1, y, 0}, {1, y, 0}}}}));
    }

private slots:
    void initTestCase() { prepare(); }
    void init()
    {
        open();
        connect(&session(), &Session::failed, this, [](const QString &words) { qInfo("%s", qPrintable(words)); });
    }
    void cleanup() { close(); }

    // Half of a ball is 2 pi r^3 / 3; looking from the left flank, the nose is to the left.
    void aClickSaysWhichHalfGoes()
    {
        knitBall();
        for (const bool isParallel : {true, false}) {
            view().setParallel(isParallel);
            key(Qt::Key_T);
            drag(&view(), middle() + QPoint(0, 200), middle() - QPoint(0, 200));
            QVERIFY(measured().bounds.hi.z > 19 && view().hint().contains("side")); // nothing is cut yet
            QTest::mouseClick(&view(), Qt::LeftButton, {}, middle() + QPoint(150, 20));
            QVERIFY(measured().closed && measured().bounds.lo.z > -1);
            session().undo();
            key(Qt::Key_T);
            drag(&view(), middle() + QPoint(0, 200), middle() - QPoint(0, 200));
            QTest::mouseClick(&view(), Qt::LeftButton, {}, middle() - QPoint(150, 20));
            const mesh::Measures m = measured();
            QVERIFY(m.closed);
            QVERIFY2(std::abs(m.volumeMm3 / (2.0 / 3 * 3.14159265 * 8000) - 1) < 0.03, qPrintable(QString::number(m.volumeMm3)));
            QVERIFY(m.bounds.lo.z < -19 && m.bounds.hi.z < 1); // from the left flank the nose points left
            session().undo();
        }
        QVERIFY(measured().bounds.hi.z > 19);
    }
    void outlinePartsThePiece()
    {
        knitBall();
        const double whole = measured().volumeMm3;
        trigger("partOutline");
        const QPoint c = middle() - QPoint(0, 90);
        QTest::mousePress(&view(), Qt::LeftButton, {}, c + QPoint(-60, -60));
        QPoint from(-60, -60);
        for (const QPoint to : {QPoint(60, -60), QPoint(60, 60), QPoint(-60, 60)}) {
            for (int k = 1; k <= 6; ++k)
                QTest::mouseMove(&view(), c + from + (to - from) * k / 6);
            from = to;
        }
        QTest::mouseRelease(&view(), Qt::LeftButton, {}, c + QPoint(-60, 60));
        QCOMPARE(session().creature().pieces.size(), std::size_t(2));
        QVERIFY(measured(0).closed && measured(1).closed);
        QVERIFY(std::abs((measured(0).volumeMm3 + measured(1).volumeMm3) / whole - 1) < 1e-3);
    }
    // A stroke of the mouse makes faces while it is drawn; what was sent to the card follows block by block.
    void densityIsBrushed()
    {
        knitBall();
        const std::size_t before = skin().shown.topology->faceCount();
        window().hand().setTool(sculpt::Tool::Denser);
        window().hand().change([](sculpt::StrokeSettings &s) { s.size = 8, s.edge = 0.06f; });
        QTest::mousePress(&view(), Qt::LeftButton, {}, middle() - QPoint(40, 0));
        for (int k = 1; k <= 10; ++k) {
            QTest::mouseMove(&view(), middle() - QPoint(40 - 8 * k, 0));
            view().grabFramebuffer(); // drawn in between, as in use
        }
        QTest::mouseRelease(&view(), Qt::LeftButton, {}, middle() + QPoint(40, 0));
        const std::size_t fine = skin().shown.topology->faceCount();
        QVERIFY2(fine > before + 1000, qPrintable(QStringLiteral("%1 of %2").arg(fine).arg(before)));
        QVERIFY(measured().closed);
        QVERIFY(view().hint().contains(QStringLiteral("Denser")) && view().hint().contains(QStringLiteral("0.48 mm")));
        // The same skin taken in afresh looks the same as the one that was followed.
        const QImage followed = stillPicture();
        const QString path = file("dense.bonemoss");
        QVERIFY(session().save(path) && session().finishSaving());
        const portrait::Camera camera = view().camera();
        session().undo();
        QCOMPARE(skin().shown.topology->faceCount(), before);
        session().startNew();
        view().grabFramebuffer();
        QVERIFY(window().openPath(path));
        session().setBench(Bench::Sculpt);
        view().setCamera(camera);
        view().grabFramebuffer();
        const auto apart = [&] {
            const QImage fresh = stillPicture();
            int n = fresh.size() == followed.size() ? 0 : 1000000;
            for (int y = fresh.height() / 4; n < 1000000 && y < fresh.height() * 3 / 4; ++y)
                for (int x = fresh.width() / 4; x < fresh.width() * 3 / 4; ++x)
                    n += std::abs(qGray(fresh.pixel(x, y)) - qGray(followed.pixel(x, y))) > 40;
            return n;
        };
        QVERIFY2(apart() < 400, qPrintable(QString::number(apart())));
    }
    void tendrilIsDrawnOut()
    {
        knitBall();
        const float high = skin().shown.box().hi.z;
        window().hand().setTool(sculpt::Tool::Tendril);
        window().hand().change([](sculpt::StrokeSettings &s) { s.size = 5; });
        const Projection eye = view().projection();
        const QPoint from = eye.toScreen({0, 0, 18.5f}).toPoint(), to = eye.toScreen({0, 0, 60}).toPoint();
        QTest::mousePress(&view(), Qt::LeftButton, {}, from);
        for (int k = 1; k <= 16; ++k)
            QTest::mouseMove(&view(), from + (to - from) * k / 16);
        QTest::mouseRelease(&view(), Qt::LeftButton, {}, to);
        QVERIFY2(skin().shown.box().hi.z > high + 20, qPrintable(QString::number(double(skin().shown.box().hi.z))));
        QVERIFY(measured().closed);
        // On a skin with levels it says why it will not, and changes nothing.
        trigger("refine");
        QSignalSpy failed(&session(), &Session::failed);
        const std::size_t steps = session().history().at();
        drag(&view(), middle(), middle() + QPoint(60, 0));
        QCOMPARE(failed.size(), 1);
        QVERIFY(failed[0][0].toString().contains(QStringLiteral("levels")));
        QCOMPARE(session().history().at(), steps);
    }
    void maskedPartIsKnittedAgain()
    {
        knitBall();
        maskAbout(20);
        const std::size_t before = skin().shown.topology->faceCount();
        accept("commandDialog", [](QDialog *d) { d->findChild<QDoubleSpinBox *>(QStringLiteral("ask_spacing"))->setValue(0.5); });
        trigger("reknitMasked");
        QVERIFY(skin().shown.topology->faceCount() > before + 500);
        QVERIFY(measured().closed);
    }
    void findingsAreShown()
    {
        QFile obj(file("open-box.obj"));
        QVERIFY(obj.open(QFile::WriteOnly));
        obj.write("v 0 0 0\nv 20 0 0\nv 20 0 20\nv 0 0 20\nv 0 15 0\nv 20 15 0\nv 20 15 20\nv 0 15 20\n"
                  "f 1 2 3 4\nf 1 5 6 2\nf 2 6 7 3\nf 3 7 8 4\nf 1 4 8 5\nf 1 1 2\n");
        obj.close();
        window().setAsksBeforeClosing(true); // with it, findings are shown
        QVERIFY(window().openPath(obj.fileName()));
        window().setAsksBeforeClosing(false);
        auto *report = window().findChild<QDialog *>(QStringLiteral("reportDialog"));
        QVERIFY(report && report->isVisible());
        bool isTold = false;
        for (const QLabel *l : report->findChildren<QLabel *>())
            isTold = isTold || l->text().startsWith(QStringLiteral("4 open edges"));
        QVERIFY(isTold);
        QVERIFY(!view().place());
        report->findChild<QPushButton *>(QStringLiteral("showMe1"))->click();
        QVERIFY(view().place() && std::abs(view().place()->y - 15) < 1e-3f); // the box is open at the top
        const QPointF at = view().projection().toScreen(*view().place());
        QVERIFY(QRectF(view().rect()).contains(at));
        report->close();
        QTRY_VERIFY(!view().place());
        accept("commandDialog");
        trigger("repair");
        QVERIFY(measured().closed);
    }
    void facesOfAnOffsetAreForecast()
    {
        knitBall();
        QStringList told;
        answerNextDialog("commandDialog", [&](QDialog *d) {
            auto *forecast = d->findChild<QLabel *>("forecast");
            const auto read = [&] {
                for (int k = 0; k < 500 && !forecast->text().contains("faces"); ++k)
                    QTest::qWait(20);
                told << forecast->text();
            };
            read();
            d->findChild<QDoubleSpinBox *>("ask_by")->setValue(20); // twice as far from the middle: four times the faces
            read();
            d->reject();
        });
        trigger("offset");
        QCOMPARE(told.size(), 2);
        const auto number = [](QString words) { return words.remove(QRegularExpression("[^0-9]")).toDouble(); };
        QVERIFY2(told[0].contains("faces") && number(told[0]) > 1000, qPrintable(told[0]));
        QVERIFY2(number(told[1]) > 2.5 * number(told[0]), qPrintable(told.join('/')));
        QCOMPARE(session().creature().pieces.size(), std::size_t(1));
    }
    void joinsCanBeTriedOut()
    {
        knitBall();
        QVERIFY(
            session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", "other"}, {"at", {0, 18, 0}}, {"radii", {9, 9, 9}}}));
        QVERIFY(session().run({{"do", "knit.forms"}, {"name", "other"}, {"spacing", 1}, {"forms", {"other"}}}));
        QCOMPARE(session().creature().pieces.size(), std::size_t(2));
        session().choosePiece(session().creature().pieces[0]->id);
        const QImage before = stillPicture();
        const auto changed = [&] {
            const QImage now = stillPicture();
            int points = 0;
            for (int y = 0; y < now.height(); y += 2)
                for (int x = 0; x < now.width(); x += 2)
                    points += std::abs(qGray(now.pixel(x, y)) - qGray(before.pixel(x, y))) > 25;
            return points;
        };
        int tried = 0;
        answerNextDialog("piecesDialog", [&](QDialog *d) {
            d->findChild<QPushButton *>(QStringLiteral("previewButton"))->click();
            tried = changed();
            d->reject();
        });
        trigger("combineCut");
        QVERIFY2(tried > 500, qPrintable(QString::number(tried)));    // the bite was seen
        QCOMPARE(session().creature().pieces.size(), std::size_t(2)); // and not taken
        QVERIFY(changed() < tried / 4);
    }
    void finishIsLaid()
    {
        knitBall();
        const QImage clay = stillPicture();
        accept("commandDialog", [](QDialog *d) {
            d->findChild<QDoubleSpinBox *>(QStringLiteral("ask_gloss"))->setValue(1);
            d->findChild<QDoubleSpinBox *>(QStringLiteral("ask_wet"))->setValue(1);
        });
        trigger("paintFinish");
        QCOMPARE(int(skin().paint.of(skin::Channel::Gloss)[7]), 255);
        const auto brightest = [](const QImage &i) {
            int most = 0;
            for (int y = i.height() / 4; y < i.height() * 3 / 4; ++y)
                for (int x = i.width() / 4; x < i.width() * 3 / 4; ++x)
                    most = std::max(most, qGray(i.pixel(x, y)));
            return most;
        };
        QVERIFY(brightest(stillPicture()) > brightest(clay) + 15); // it shines
        QVERIFY(session().run(
            {{"do", "piece.paint"}, {"piece", session().piece()}, {"colour", {0.1, 0.3, 0.05}}, {"gloss", 0}, {"wet", 0}}));
        const QColor middleColour(stillPicture().pixel(middle() + QPoint(30, 60)));
        QVERIFY(middleColour.green() > middleColour.red() + 15 && middleColour.green() > middleColour.blue() + 15);
    }
    void levelsByButtonAndKey()
    {
        knitBall();
        QVERIFY(!find<QAbstractButton>("coarserButton")->isVisible()); // with one level there is nothing to choose
        const auto faces = skin().shown.topology->faceCount();
        trigger("refine");
        QCOMPARE(find<QLabel>("levelLabel")->text(), QStringLiteral("Level 2 of 2"));
        QVERIFY(!find<QAbstractButton>("finerButton")->isEnabled());
        const auto fine = skin().shown.positions.flatten();
        const float high = skin().shown.box().hi.y;
        click("coarserButton");
        QCOMPARE(skin().shown.topology->faceCount(), faces);
        QVERIFY(!find<QAbstractButton>("refineButton")->isEnabled()); // there is a finer level already
        session().run({{"do", "sculpt.stroke"},
                       {"piece", session().piece()},
                       {"tool", "raise"},
                       {"size", 9},
                       {"strength", 1},
                       {"samples", {{0, 20, 0}, {3, 20, 0}, {0, 20, 0}}}});
        trigger("levelFiner");
        QVERIFY(skin().shown.positions.size() == fine.size() && skin().shown.positions.flatten() != fine);
        QVERIFY(skin().shown.box().hi.y > high + 0.2f);
        trigger("levelsLower");
        QCOMPARE(skin().links.size(), std::size_t(0));
        accept("commandDialog");
        trigger("levelsFind");
        QVERIFY(skin().links.size() >= 1);
        session().undo();
        QCOMPARE(skin().links.size(), std::size_t(0));
    }
    void masksGroupsAndHiding()
    {
        knitBall();
        maskAbout(20);
        accept("commandDialog", [](QDialog *d) { d->findChild<QLineEdit *>("ask_name")->setText("crown"); });
        trigger("maskKeep");
        accept("commandDialog", [](QDialog *d) { d->findChild<QLineEdit *>("ask_name")->setText("cap & collar"); });
        trigger("groupMake");
        QVERIFY(skin().keptMask("crown") && skin().group("cap & collar") && view().look() == app::Look::Groups);
        trigger("maskClear");
        QVERIFY(!skin().hasMask());
        const auto pick = [&](const char *menu) {
            QMenu *names = find<QMenu>(menu);
            emit names->aboutToShow();
            QCOMPARE(names->actions().size(), 1);
            names->actions().front()->trigger();
        };
        pick("maskTake");
        QCOMPARE(skin().mask.flatten(), skin().keptMask("crown")->values.flatten());
        const auto shownOnTop = [&] { return castRay(skin().shown, {{0, 60, 0}, {0, -1, 0}})->point.y; };
        QVERIFY(shownOnTop() > 19);
        const QImage before = stillPicture();
        pick("hideGroup");
        QVERIFY(shownOnTop() < -19); // from above one sees the floor of the ball
        QVERIFY(stillPicture() != before);
        trigger("hideSwap");
        QVERIFY(shownOnTop() > 19);
        trigger("hideNothing");
        QVERIFY(!skin().hasHidden());
        pick("groupRemove");
        pick("maskForget");
        QVERIFY(skin().groups.empty() && skin().masks.empty());
        emit find<QMenu>("hideGroup")->aboutToShow();
        QVERIFY(!find<QMenu>("hideGroup")->actions().front()->isEnabled()); // "There are no groups"
    }
    void escapeLeavesTheCut()
    {
        knitBall();
        const auto before = session().share();
        trigger("trimLine");
        QTest::keyClick(&view(), Qt::Key_Escape);
        drag(&view(), QPoint(20, 200), QPoint(20, 300)); // off the creature: orbits
        QVERIFY(session().share() == before);
        trigger("trimLine"); // nor does a line that waits for its side outlast it
        drag(&view(), middle() + QPoint(0, 200), middle() - QPoint(0, 200));
        QTest::keyClick(&view(), Qt::Key_Escape);
        QTest::mouseClick(&view(), Qt::LeftButton, {}, QPoint(20, 300));
        QVERIFY(session().share() == before && !view().hint().contains("Trim"));
    }
    void plateOverTheMaskAndJoin()
    {
        knitBall();
        maskAbout(20);
        accept("commandDialog", [](QDialog *d) {
            d->findChild<QDoubleSpinBox *>("ask_thickness")->setValue(1.5);
            d->findChild<QComboBox *>("ask_rim")->setCurrentText("round");
        });
        trigger("plate");
        QCOMPARE(session().creature().pieces.size(), std::size_t(2));
        QVERIFY(measured(1).closed && measured(1).volumeMm3 > 100);
        session().choosePiece(session().creature().pieces[0]->id);
        accept("piecesDialog");
        trigger("combineJoin");
        QCOMPARE(session().creature().pieces.size(), std::size_t(1));
        QVERIFY(measured().closed);
    }
    void simplifyAsksHowMany()
    {
        knitBall();
        accept("commandDialog", [](QDialog *d) { d->findChild<QDoubleSpinBox *>("ask_faces")->setValue(1000); });
        trigger("simplify");
        QVERIFY(std::abs(double(measured().triangles) - 1000) <= 10);
    }
    void splitHoleAndClose()
    {
        knitBall();
        maskAbout(20);
        trigger("openMask");
        QVERIFY(!measured().closed);
        accept("commandDialog");
        trigger("closeHoles");
        QVERIFY(measured().closed);
        session().undo();
        session().undo();
        trigger("splitMask");
        QCOMPARE(session().creature().pieces.size(), std::size_t(2));
    }
    // A stroke stretches the faces under it; knitted again they are as even as before, in the same step.
    void liveReknitEvensEachStroke()
    {
        knitBall();
        trigger("liveKnit");
        QVERIFY(find<QAction>("liveKnit")->isChecked());
        const std::size_t steps = session().history().at();
        const std::size_t faces = measured().faces;
        drag(&view(), middle() - QPoint(60, 0), middle() + QPoint(60, 0));
        QCOMPARE(session().history().at(), steps + 1);
        QVERIFY(measured().faces != faces && measured().closed);
        const mesh::PolyMesh now = toPolyMesh(skin().shown);
        double longest = 0;
        for (const mesh::Face &f : now.faces)
            for (int k = 0; k < f.size(); ++k)
                longest = std::max(
                    longest, double(length(now.positions[f.v[std::size_t(k)]] - now.positions[f.v[std::size_t((k + 1) % 4)]])));
        QVERIFY2(longest < 2.2, qPrintable(QString::number(longest))); // twice the spacing at most
        // The recipe replays to the same bits.
        const nlohmann::json step = session().history().commands().back();
        QVERIFY(step.contains("reknit"));
        session().undo();
        command::CommandContext context;
        const auto again = command::apply(session().creature(), step, context);
        QVERIFY(bool(again));
        QVERIFY(toPolyMesh(again->pieces[0]->skin.shown).positions == now.positions);
        trigger("liveKnit");
        QVERIFY(!find<QAction>("liveKnit")->isChecked());
    }
    void withoutAPieceItIsSaid()
    {
        trigger("simplify"); // no dialog opens
        trigger("trimLine");
        QVERIFY(session().creature().pieces.empty());
    }
};

BONEMOSS_TEST(TestSurface)
#include "tst_surface.moc"
