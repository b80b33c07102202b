#include "creature/command.h"
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
    void aLineTakesTheLeftHalfAway()
    {
        knitBall();
        for (const bool isParallel : {true, false}) {
            view().setParallel(isParallel);
            trigger("trimLine");
            drag(&view(), middle() + QPoint(0, 200), middle() - QPoint(0, 200));
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
        QVERIFY(skin().keptMask("crown") && skin().group("cap & collar") && view().showsGroups());
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
        const QImage before = view().grabFramebuffer();
        pick("hideGroup");
        QVERIFY(shownOnTop() < -19); // from above one sees the floor of the ball
        QVERIFY(view().grabFramebuffer() != before);
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
        creature::CommandContext context;
        const auto again = creature::apply(session().creature(), step, context);
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

QTEST_MAIN(TestSurface)
#include "tst_surface.moc"
