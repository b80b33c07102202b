// Drives the real window with mouse, pen and keys, from an empty creature to an exported STL.
#include "support/run.h"
#include "app/anatomy/layers_panel.h"
#include "app/angles/angles_strip.h"
#include "app/dialogs/dialogs.h"
#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "app/window/pen_simulator.h"
#include "command/recipe.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "support/shapes.h"
#include "support/window_bench.h"

#include <QtTest>
#include <QAbstractButton>
#include <QLabel>
#include <QLineEdit>
#include <QSettings>
#include <QSignalSpy>
#include <QSpinBox>
#include <nlohmann/json.hpp>
#include <QApplication>
#include <QDoubleSpinBox>
#include <QDialogButtonBox>
#include <QPushButton>
#include <QTreeWidget>

using namespace bonemoss;
using namespace bonemoss::app;
using test::answerNextDialog, test::drag;

class TestWindow : public QObject, private test::WindowBench
{
    Q_OBJECT
private slots:
    void initTestCase() { prepare(); }
    void init() { open(); }
    void cleanup() { close(); }

    void fromNothingToAnStl()
    {
        view().lookFrom("left");
        click("formTile1"); // ball
        drag(&view(), middle(), middle() + QPoint(90, 0));
        QCOMPARE(session().creature().armature.forms.size(), std::size_t(1));
        QVERIFY(session().form() != 0);
        click("formTile3"); // limb, from the ball outwards
        drag(&view(), middle() + QPoint(-40, -20), middle() + QPoint(-170, -120));
        QCOMPARE(session().creature().armature.forms.size(), std::size_t(2));
        QCOMPARE(session().creature().armature.forms[1].parent, session().creature().armature.forms[0].id);

        answerNextDialog("densityDialog", [](QDialog *d) {
            d->findChild<QSpinBox *>("faces")->setValue(12000);
            QVERIFY(d->findChild<QLabel *>("forecast")->text().contains("faces"));
            d->findChild<QDialogButtonBox *>()->button(QDialogButtonBox::Ok)->click();
        });
        click("knitButton");
        QCOMPARE(session().creature().pieces.size(), std::size_t(1));
        QVERIFY(std::abs(double(session().creature().faceCount()) / 12000 - 1) < 0.03);
        QCOMPARE(session().bench(), Bench::Sculpt);

        const auto before = skin().shown.positions.flatten();
        click("toolTile_raise");
        view().frameAll();
        drag(&view(), middle(), middle() + QPoint(40, 10));
        QVERIFY(skin().shown.positions.flatten() != before);
        session().undo();
        QVERIFY(skin().shown.positions.flatten() == before);
        session().redo();

        const QString path = file("small.stl");
        answerNextDialog("saveDialog", [&](QDialog *d) {
            d->findChild<QLineEdit *>("fileNameEdit")->setText(path);
            QMetaObject::invokeMethod(d, "accept");
        });
        trigger("export");
        QVERIFY2(QFile::exists(path), qPrintable(find<QLabel>("message")->text()));
        const auto back = io::readMesh(path.toStdString());
        QVERIFY(back);
        QVERIFY(mesh::measure(back->mesh).closed);
    }
    // What the window did is what its recipe does: the very same bits.
    void recordedRecipeReplaysToTheSameBits()
    {
        knitBall();
        click("addLayer");
        QVERIFY(session().layer() != 0);
        click("toolTile_crease");
        drag(&view(), middle() + QPoint(-60, 0), middle() + QPoint(60, 30));
        click("toolTile_tug");
        drag(&view(), middle() + QPoint(20, -20), middle() + QPoint(60, -70));
        const std::string path = file("made.recipe.json").toStdString();
        QVERIFY(session().recordRecipe(QString::fromStdString(path)));
        const auto commands = command::readRecipe(path);
        QVERIFY(commands);
        command::CommandContext context;
        const auto again = command::replay({}, *commands, context);
        QVERIFY2(bool(again), again ? "" : again.error().text().c_str());
        QVERIFY(again->pieces[0]->skin.shown.positions.flatten() == skin().shown.positions.flatten());
    }
    void pressOffTheCreatureOrbits()
    {
        knitBall();
        const auto steps = session().history().steps().size();
        const auto camera = view().camera();
        drag(&view(), QPoint(30, view().height() - 60), QPoint(130, view().height() - 40));
        QVERIFY(!(view().camera() == camera));
        QCOMPARE(session().history().steps().size(), steps);
        view().cameraBack();
        QVERIFY(view().camera() == camera);
        view().cameraForward();
        QVERIFY(!(view().camera() == camera));
    }
    void wheelSlideAndViews()
    {
        knitBall();
        const float distance = view().camera().distance;
        QWheelEvent wheel(middle(), view().mapToGlobal(middle()), {}, {0, 240}, {}, {}, Qt::NoScrollPhase, false);
        QApplication::sendEvent(&view(), &wheel);
        QVERIFY(view().camera().distance < distance);
        const Vec3f target = view().camera().target;
        drag(&view(), middle(), middle() + QPoint(30, 0), Qt::MiddleButton);
        QVERIFY(!(view().camera().target == target));
        for (const portrait::NamedView &v : portrait::anatomicalViews()) {
            view().lookFrom(QString::fromUtf8(v.key.data()));
            QCOMPARE(view().viewName(), QString::fromUtf8(v.title.data(), qsizetype(v.title.size())).toLower());
        }
        auto *angles = find<AnglesStrip>("anglesStrip");
        QVERIFY(angles);
        QTest::mouseClick(angles, Qt::LeftButton, {}, QPoint(20, angles->height() / 2));
        QCOMPARE(view().viewName(), QString("nose"));
    }
    void heldKeysDigSmoothAndMask()
    {
        knitBall();
        click("toolTile_raise");
        view().setFocus();
        const auto heightAtMiddle = [&] {
            const auto hit = mesh::castRay(skin().shown, view().projection().rayAt(middle()));
            return hit ? hit->distance : 0;
        };
        const float flat = heightAtMiddle();
        QTest::keyPress(&view(), Qt::Key_D);
        drag(&view(), middle() - QPoint(10, 0), middle() + QPoint(10, 0));
        QTest::keyRelease(&view(), Qt::Key_D);
        QVERIFY(heightAtMiddle() > flat); // farther away: dug in
        QTest::keyPress(&view(), Qt::Key_A);
        drag(&view(), middle() - QPoint(10, 0), middle() + QPoint(10, 0));
        QTest::keyRelease(&view(), Qt::Key_A);
        QVERIFY(skin().hasMask());
        const float dug = heightAtMiddle();
        drag(&view(), middle() - QPoint(3, 0), middle() + QPoint(3, 0));
        QVERIFY(std::abs(heightAtMiddle() - dug) < 0.05f); // the mask holds
        QVERIFY(session().run({{"do", "mask.clear"}}));
        QTest::keyPress(&view(), Qt::Key_S);
        drag(&view(), middle() - QPoint(10, 0), middle() + QPoint(10, 0));
        QTest::keyRelease(&view(), Qt::Key_S);
        QCOMPARE(QString::fromStdString(session().history().steps().back().title), QString("Smooth"));
    }
    void penPressureReachesTheStroke()
    {
        knitBall();
        click("toolTile_raise");
        PenSimulator pen(&view());
        const auto rise = [&](double pressure) {
            const auto before = skin().shown.positions.flatten();
            pen.playAtOnce({{{0.48, 0.5, pressure, 0}, {0.5, 0.5, pressure, 10}, {0.52, 0.5, pressure, 20}}});
            const auto after = skin().shown.positions.flatten();
            float most = 0;
            for (std::size_t i = 0; i < before.size(); ++i)
                most = std::max(most, length(after[i] - before[i]));
            session().undo();
            return most;
        };
        const float light = rise(0.2), full = rise(1);
        QVERIFY(light > 0);
        QVERIFY2(std::abs(light / full - 0.2f) < 0.04f, qPrintable(QString::number(double(light / full))));
    }
    void penFilesAreKeptAndRefused()
    {
        const QString path = file("a.pen.json");
        QVERIFY(PenSimulator::write(path, {{{0.1, 0.2, 0.3, 4}}}));
        QString trouble;
        const auto back = PenSimulator::read(path, &trouble);
        QCOMPARE(back.size(), std::size_t(1));
        QCOMPARE(back[0][0].pressure, 0.3);
        QFile bad(file("b.pen.json"));
        QVERIFY(bad.open(QIODevice::WriteOnly));
        bad.write("{}");
        bad.close();
        QVERIFY(PenSimulator::read(bad.fileName(), &trouble).empty());
        QVERIFY(!trouble.isEmpty());
    }
    void layerRowsSwitchAndDim()
    {
        knitBall();
        const auto plain = skin().shown.positions.flatten();
        click("addLayer");
        const std::uint32_t id = session().layer();
        drag(&view(), middle() - QPoint(20, 0), middle() + QPoint(20, 0));
        QVERIFY(skin().shown.positions.flatten() != plain);
        window().findChild<LayersPanel *>()->toggleChosen();
        QVERIFY(skin().shown.positions.flatten() == plain);
        window().findChild<LayersPanel *>()->toggleChosen();
        auto *slider = find<ValueSlider>(("layerStrength_" + std::to_string(id)).c_str());
        QVERIFY(slider);
        QTest::keyClick(slider, Qt::Key_Home); // -100 %
        QTRY_COMPARE(skin().layer(id)->strength, -1.0f);
    }
    void numbersChangeTheForm()
    {
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"radius", 20}});
        session().chooseForm(session().creature().armature.forms[0].id);
        auto *radius = find<QDoubleSpinBox>("radius");
        QVERIFY(radius);
        radius->setValue(31);
        QTRY_COMPARE(session().creature().armature.forms[0].radii.x, 31.0f);
        auto *x = find<QDoubleSpinBox>("at0");
        QVERIFY(x);
        x->setValue(7);
        QTRY_COMPARE(session().creature().armature.forms[0].place.translation.x, 7.0f);
    }
    void handlesMoveTheForm()
    {
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"radius", 20}});
        session().chooseForm(session().creature().armature.forms[0].id);
        view().lookFrom("left");
        QTest::qWait(30);
        const auto at = view().projection().toScreen({0, 0, 0}).toPoint();
        drag(&view(), at, at + QPoint(0, -60));
        const Vec3f p = session().creature().armature.forms[0].place.translation;
        const float mm = 60 * view().projection().mmPerPoint({0, 0, 0});
        QVERIFY2(std::abs(p.y / mm - 1) < 0.1f && std::abs(p.z) < 0.5f,
                 qPrintable(QString("%1 %2").arg(double(p.y)).arg(double(mm))));
        QCOMPARE(session().history().steps().size(), std::size_t(3)); // one drag, one step
    }
    void treeRenames()
    {
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", "lump"}});
        auto *tree = find<QTreeWidget>("anatomyTree");
        QVERIFY(tree && tree->topLevelItemCount() == 1);
        tree->topLevelItem(0)->setText(0, "skull");
        QTRY_COMPARE(QString::fromStdString(session().creature().armature.forms[0].name), QString("skull"));
    }
    void saveOpenAndUnsavedMark()
    {
        knitBall();
        QVERIFY(session().isChanged());
        const QString path = file("ball.bonemoss");
        QVERIFY(session().save(path) && session().finishSaving()); // a slow disk saves beside the window
        QVERIFY(!session().isChanged());
        const auto before = skin().shown.positions.flatten();
        drag(&view(), middle(), middle() + QPoint(20, 0));
        QVERIFY(session().isChanged());
        QVERIFY(window().openPath(path));
        QVERIFY(skin().shown.positions.flatten() == before);
        QVERIFY(!session().isChanged());
    }
    void failuresAreSaidAndChangeNothing()
    {
        knitBall();
        QSignalSpy said(&session(), &Session::failed);
        const auto before = session().share();
        QVERIFY(!window().openPath(file("nowhere.bonemoss")));
        QVERIFY(!window().openPath(file("nowhere.obj")));
        QVERIFY(!session().save("/proc/nowhere/x.bonemoss"));
        QCOMPARE(said.count(), 3);
        QVERIFY(session().share() == before);
        QVERIFY(!find<QLabel>("message")->text().isEmpty());
    }
    void importBecomesAPiece()
    {
        const QString path = file("t.ply");
        QVERIFY(bool(io::writeMesh(path.toStdString(), test::torus(30, 8, 60, 30))));
        QVERIFY(window().openPath(path));
        QCOMPARE(session().creature().pieces.size(), std::size_t(1));
        QCOMPARE(QString::fromStdString(session().creature().pieces[0]->name), QString("t"));
        QCOMPARE(session().bench(), Bench::Sculpt);
    }
    void numberKeysPickTiles()
    {
        knitBall();
        QApplication::setActiveWindow(&window()); // there is no window manager here
        view().setFocus();
        QTest::keyClick(&view(), Qt::Key_2);
        QCOMPARE(window().hand().tool(), sculpt::Tool::Daub);
        QTest::keyClick(&view(), Qt::Key_9);
        QCOMPARE(window().hand().tool(), sculpt::Tool::Crease);
        QTest::keyClick(&view(), Qt::Key_Q);
        QCOMPARE(window().hand().tool(), sculpt::Tool::Daub);
        QTest::keyClick(&view(), Qt::Key_0); // the tenth
        QCOMPARE(window().hand().tool(), sculpt::Tool::Pinch);
    }
    // WCAG 2.1, 1.4.3: contrast of text at least 4.5 : 1, by its formula of relative luminance.
    void textContrast()
    {
        const auto luminance = [](const QColor &c) {
            const auto linear = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
            return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
        };
        const auto contrast = [&](const QColor &a, const QColor &b) {
            const double x = luminance(a), y = luminance(b);
            return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
        };
        for (const Theme *t : {&boneTheme(), &peatTheme()})
            for (const QColor &ground : {t->window, t->panel, t->field}) {
                QVERIFY(contrast(t->ink, ground) >= 4.5);
                QVERIFY2(contrast(t->softInk, ground) >= 4.5, qPrintable(ground.name()));
            }
    }
    void theViewShowsTheCreature()
    {
        knitBall();
        view().frameAll();
        const QImage picture = stillPicture();
        // Clay in the middle, lit from upper left: brighter there than at lower right.
        const auto grey = [&](double x, double y) {
            return qGray(picture.pixel(int(x * picture.width()), int(y * picture.height())));
        };
        QVERIFY2(grey(0.44, 0.38) > grey(0.56, 0.66) + 20,
                 qPrintable(QString("%1 %2").arg(grey(0.44, 0.38)).arg(grey(0.56, 0.66))));
    }
};

BONEMOSS_TEST(TestWindow)
#include "tst_window.moc"
