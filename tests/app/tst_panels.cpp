// The parts of the window around a stroke: keys, tree, layers, angles, themes, rescue, lighter drawing.
#include "support/run.h"
#include "app/hand/value_slider.h"
#include "app/view/compass.h"
#include "app/anatomy/anatomy_panel.h"
#include "app/angles/angles_strip.h"
#include "app/theme/theme.h"
#include "command/command.h"
#include "command/rescue.h"
#include "support/window_bench.h"
#include "app/window/recipe_player.h"

#include <QSettings>
#include <QPointingDevice>
#include <QTabletEvent>
#include <QWheelEvent>
#include <QListWidget>
#include <QLineEdit>
#include <QApplication>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDropEvent>
#include <QKeySequenceEdit>
#include <QLabel>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QSignalSpy>
#include <QTableWidget>
#include <QTreeWidget>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;
using test::answerNextDialog, test::drag;

class TestPanels : public QObject, private test::WindowBench
{
    Q_OBJECT
    QTreeWidget &tree() { return *find<QTreeWidget>("anatomyTree"); }
    QTreeWidgetItem *item(const char *name)
    {
        const auto found = tree().findItems(QLatin1String(name), Qt::MatchExactly | Qt::MatchRecursive);
        return found.isEmpty() ? nullptr : found.first();
    }
    void dropOnto(const char *moved, const char *name)
    {
        tree().setCurrentItem(item(moved));
        QTest::qWait(10);
        QTreeWidgetItem *onto = name ? item(name) : nullptr;
        const QPoint at = onto ? tree().visualItemRect(onto).center() : QPoint(10, tree().viewport()->height() - 5);
        QMimeData data;
        QDropEvent drop(at, Qt::MoveAction, &data, Qt::LeftButton, {});
        // Qt delivers drops only while it drags itself; the panel's handler is what counts here.
        static_cast<QObject *>(window().findChild<AnatomyPanel *>())->eventFilter(tree().viewport(), &drop);
        QTest::qWait(20);
    }
    Vec3f worldMiddle(const char *name)
    {
        for (const auto &f : session().creature().armature.forms)
            if (f.name == name)
                return session().creature().armature.worldPlace(f).translation;
        return {};
    }
    std::size_t changedBy(const std::function<void()> &act)
    {
        const auto before = skin().shown.positions.flatten();
        act();
        const auto after = skin().shown.positions.flatten();
        std::size_t n = 0;
        for (std::size_t i = 0; i < before.size(); ++i)
            n += !(before[i] == after[i]);
        return n;
    }

private slots:
    void initTestCase() { prepare(); }
    void init() { open(); }
    void cleanup() { close(); }

    void heldKeysCanBeChanged()
    {
        answerNextDialog("keysDialog", [](QDialog *d) {
            d->findChild<QKeySequenceEdit *>("key_holdDig")->setKeySequence(QKeySequence("Ctrl+G"));
            QCOMPARE(d->findChild<QKeySequenceEdit *>("key_holdDig")->keySequence(), QKeySequence("G")); // one key alone
            auto *clash = d->findChild<QKeySequenceEdit *>("key_holdMask");
            clash->setKeySequence(QKeySequence("F")); // frame has it
            auto *table = d->findChild<QTableWidget *>();
            QStringList clashes;
            for (int i = 0; i < table->rowCount(); ++i)
                clashes << table->item(i, 2)->text();
            QVERIFY(clashes.contains("Frame"));
            QVERIFY(clashes.contains("Held while stroking: mask"));
            clash->setKeySequence(QKeySequence("A"));
            d->reject();
        });
        trigger("keys");
        knitBall();
        click("toolTile_raise");
        view().setFocus();
        const auto depth = [&] { return mesh::castRay(skin().shown, view().projection().rayAt(middle()))->distance; };
        const float flat = depth();
        QTest::keyPress(&view(), Qt::Key_G);
        drag(&view(), middle() - QPoint(10, 0), middle() + QPoint(10, 0));
        QTest::keyRelease(&view(), Qt::Key_G);
        QVERIFY(depth() > flat);
        session().undo();
        QTest::keyPress(&view(), Qt::Key_D); // no longer the dig key
        drag(&view(), middle() - QPoint(10, 0), middle() + QPoint(10, 0));
        QTest::keyRelease(&view(), Qt::Key_D);
        QVERIFY(depth() < flat);
        answerNextDialog("keysDialog", [](QDialog *d) {
            d->findChild<QDialogButtonBox *>()->button(QDialogButtonBox::RestoreDefaults)->click();
            QCOMPARE(d->findChild<QKeySequenceEdit *>("key_holdDig")->keySequence(), QKeySequence("D"));
            d->reject();
        });
        trigger("keys");
    }
    void heldKeyAndASidewaysMoveSetSizeAndStrength()
    {
        knitBall();
        click("toolTile_raise");
        view().setFocus();
        const auto move = [&](Qt::Key key) {
            for (int x = 0; x <= 60; x += 5) {
                const QPointF p = middle() + QPoint(x, 0);
                QMouseEvent e(QEvent::MouseMove, p, view().mapToGlobal(p), Qt::NoButton, {}, {});
                QApplication::sendEvent(&view(), &e);
                if (x == 0)
                    QTest::keyPress(&view(), key);
            }
            QTest::keyRelease(&view(), key);
        };
        window().hand().change([](sculpt::StrokeSettings &s) { s.size = 5, s.strength = 0.3f; });
        move(Qt::Key_X);
        QVERIFY(window().hand().settings().size > 6);
        QCOMPARE(window().hand().settings().strength, 0.3f);
        move(Qt::Key_C);
        QVERIFY(window().hand().settings().strength > 0.4f);
        const auto falloff = window().hand().settings().falloff;
        move(Qt::Key_V);
        QVERIFY(window().hand().settings().falloff != falloff);
        QCOMPARE(session().history().steps().size(), std::size_t(3)); // nothing was done to the creature
    }
    // A form nested by dragging stays where it is; its parent then carries it.
    void dragToNest()
    {
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", "chest"}, {"radius", 20}, {"turn", {0, 90, 0}}});
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", "skull"}, {"radius", 8}, {"at", {0, 10, 40}}});
        session().chooseForm(0);
        QTest::qWait(20);
        dropOnto("skull", "chest");
        const auto &forms = session().creature().armature.forms;
        QCOMPARE(forms[1].parent, forms[0].id);
        QVERIFY(length(worldMiddle("skull") - Vec3f{0, 10, 40}) < 1e-3f);
        session().run({{"do", "form.set"}, {"form", forms[0].id}, {"at", {0, 5, 0}}});
        QVERIFY(length(worldMiddle("skull") - Vec3f{0, 15, 40}) < 1e-3f);
        dropOnto("skull", nullptr); // onto nothing: stands on its own again
        QCOMPARE(session().creature().armature.forms[1].parent, 0u);
        QVERIFY(length(worldMiddle("skull") - Vec3f{0, 15, 40}) < 1e-3f);
        QSignalSpy said(&session(), &Session::failed);
        session().run({{"do", "form.set"}, {"form", forms[1].id}, {"parent", forms[0].id}});
        QTest::qWait(20);
        dropOnto("chest", "skull"); // a form cannot hang on its own child
        QCOMPARE(said.count(), 1);
        QCOMPARE(session().creature().armature.forms[0].parent, 0u);
    }
    // The skin that forms would knit into follows them; balance is said beside it and worked out of it.
    void liveSkinAndBalanceFollowTheForms()
    {
        session().setBench(Bench::Armature);
        session().run({{"do", "form.add"}, {"kind", "block"}, {"name", "plinth"}, {"radii", {20, 5, 20}}, {"rounding", 0}});
        session().run({{"do", "form.add"}, {"kind", "block"}, {"name", "mast"}, {"radii", {4, 30, 4}}, {"at", {0, 30, 0}}});
        view().frameAll();
        QTRY_VERIFY(view().liveSkin().surface() && !view().liveSkin().isBusy());
        const auto &balance = view().liveSkin().balance();
        QVERIFY(balance && balance->stands());
        QVERIFY2(std::abs(balance->margin - 20) < 1, qPrintable(QString::number(double(balance->margin))));
        QVERIFY(view().balanceWords().contains("stands"));
        const Vec3f before = balance->weightPoint;
        session().run({{"do", "form.set"}, {"form", "mast"}, {"at", {0, 30, 90}}, {"scale", {3, 1, 3}}});
        QTRY_VERIFY(view().liveSkin().balance() && view().liveSkin().balance()->weightPoint.z > before.z + 20);
        QVERIFY(view().balanceWords().contains("nose"));
        trigger("liveSkin");
        QVERIFY(view().balanceWords().isEmpty());
        trigger("liveSkin");
    }
    void proportionsAreListedAndWished()
    {
        session().setBench(Bench::Armature);
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", "skull"}, {"radius", 10}});
        session().run({{"do", "form.add"}, {"kind", "limb"}, {"name", "neck"}, {"path", {{0, 0, 0, 5}, {0, 40, 0, 5}}}});
        auto *unit = find<QComboBox>("proportionUnit");
        auto *list = find<QTreeWidget>("proportionList");
        QVERIFY(unit && list && list->isVisible());
        unit->setCurrentIndex(1);
        emit unit->activated(1);
        QCOMPARE(session().creature().armature.unitForm, session().creature().armature.forms[0].id);
        QCOMPARE(list->topLevelItem(1)->text(2), QString("2.50")); // 40 and two round ends of 5 over 20
        list->topLevelItem(1)->setText(3, "3");
        QTRY_COMPARE(session().creature().armature.targets.size(), std::size_t(1));
        QVERIFY(list->topLevelItem(0)->text(2).contains("short")); // said in words, and in colour
        QVERIFY(list->topLevelItem(0)->font(0).bold()
                && list->topLevelItem(0)->foreground(0).color() != list->topLevelItem(1)->foreground(0).color());
        session().run({{"do", "form.set"}, {"form", "neck"}, {"path", {{0, 0, 0, 5}, {0, 50, 0, 5}}}});
        QCOMPARE(list->topLevelItem(0)->text(2), QString("3.00"));
        list->topLevelItem(0)->setText(3, "not a number");
        QTRY_COMPARE(list->topLevelItem(0)->text(3), QString("3"));
        list->topLevelItem(0)->setText(3, "");
        QTRY_VERIFY(session().creature().armature.targets.empty());
    }
    void soloHidesTheOthersAndBringsThemBack()
    {
        for (const char *name : {"a", "b", "c"})
            session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", name}});
        session().chooseForm(session().creature().armature.forms[1].id);
        trigger("solo");
        const auto hidden = [&](std::size_t i) { return session().creature().armature.forms[i].isHidden; };
        QVERIFY(hidden(0) && !hidden(1) && hidden(2));
        trigger("solo");
        QVERIFY(!hidden(0) && !hidden(1) && !hidden(2));
    }
    // The view draws a lighter version while the camera moves when a full frame was slow, and settles.
    void lighterWhileMovingThenFull()
    {
        knitBall(0.12); // a frame of this takes long in software
        view().frameAll();
        QTest::qWait(1500); // the lighter version is being worked out
        QTRY_VERIFY_WITH_TIMEOUT(!view().isLight(), 20000);
        const QPoint off(30, view().height() - 60);
        QTest::mousePress(&view(), Qt::LeftButton, {}, off);
        bool wasLight = false;
        for (int k = 1; k < 400 && !wasLight; ++k) {
            const QPointF p = off + QPoint(k % 60 * 4, 0);
            QMouseEvent move(QEvent::MouseMove, p, view().mapToGlobal(p), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(&view(), &move);
            QTest::qWait(30);
            wasLight = wasLight || view().isLight();
        }
        QTest::mouseRelease(&view(), Qt::LeftButton, {}, off);
        QVERIFY(wasLight);
        QTRY_VERIFY_WITH_TIMEOUT(!view().isLight(), 20000);
    }
    void anglesFlyAndPin()
    {
        knitBall();
        auto *angles = find<AnglesStrip>("anglesStrip");
        const int y = angles->height() / 2;
        for (int i = 0; i < 6; ++i) {
            QTest::mouseClick(angles, Qt::LeftButton, {}, QPoint(angles->width() * (2 * i + 1) / 12, y));
            QCOMPARE(view().viewName(), QString::fromUtf8(portrait::anatomicalViews()[std::size_t(i)].title.data()).toLower());
        }
        QTest::qWait(400);
        const QImage plain = angles->grab().toImage();
        QTest::mouseDClick(angles, Qt::LeftButton, {}, QPoint(20, y));
        session().run({{"do", "sculpt.stroke"},
                       {"tool", "raise"},
                       {"size", 12},
                       {"strength", 1},
                       {"reverse", true},
                       {"samples", {{20, 0, 0}, {20, 6, 0}, {20, -6, 0}, {20, 8, 0}}}});
        // What was there and is gone shows in the colour for attention.
        const auto marked = [lichen = theme().lichen](const QImage &picture) {
            int n = 0;
            for (int py = 0; py < picture.height(); ++py)
                for (int px = 0; px < picture.width(); ++px) {
                    const QColor c = picture.pixelColor(px, py);
                    n += std::abs(c.red() - lichen.red()) < 25 && std::abs(c.green() - lichen.green()) < 25
                         && std::abs(c.blue() - lichen.blue()) < 25;
                }
            return n;
        };
        QTRY_VERIFY_WITH_TIMEOUT(marked(angles->grab().toImage()) > marked(plain) + 4, 30000);
    }
    void panelsHideAndThemesChange()
    {
        trigger("panels");
        QVERIFY(!tree().isVisible());
        trigger("panels");
        QVERIFY(tree().isVisible());
        const QColor ground = qApp->palette().color(QPalette::Window);
        trigger("dark");
        QVERIFY(qApp->palette().color(QPalette::Window).lightness() < ground.lightness() - 80);
        trigger("dark");
        QCOMPARE(qApp->palette().color(QPalette::Window), ground);
    }
    void everythingIsFoundByWords()
    {
        knitBall();
        QStringList titles;
        const auto look = [&](const QString &words, bool takes) {
            titles.clear();
            answerNextDialog("searchDialog", [&, words, takes](QDialog *d) {
                auto *query = d->findChild<QLineEdit *>("searchQuery");
                QTest::keyClicks(query, words);
                for (auto *list = d->findChild<QListWidget *>("searchList"); titles.size() < list->count();)
                    titles << list->item(int(titles.size()))->text();
                takes ? QTest::keyClick(query, Qt::Key_Return) : QTest::keyClick(query, Qt::Key_Escape);
            });
            key(Qt::Key_K, Qt::ControlModifier);
        };
        look("crease", true); // a tool
        QCOMPARE(window().hand().tool(), sculpt::Tool::Crease);
        look("detail bench", true);
        QCOMPARE(session().bench(), Bench::Detail);
        look("invert", true); // an action
        QVERIFY(skin().hasMask());
        look("scales", false); // growths
        QVERIFY(std::any_of(titles.begin(), titles.end(), [](const QString &t) { return t.contains("Detail"); }));
        session().setBench(Bench::Sculpt);
        look("strength", true); // a setting: the focus goes there
        QVERIFY(window().focusWidget() && window().focusWidget() != &view());
        look("no such words", false);
        QVERIFY(titles.isEmpty());
        look("", false);
        QVERIFY(titles.size() > 100);
    }
    void deleteTakesOnlyWhatWasChosenHere()
    {
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", "chest"}, {"radius", 20}});
        session().chooseForm(session().creature().armature.forms[0].id);
        session().run({{"do", "knit.forms"}, {"spacing", 1}});
        session().setBench(Bench::Sculpt);
        view().setFocus();
        key(Qt::Key_Delete);
        QCOMPARE(session().creature().pieces.size(), std::size_t(1));
        QVERIFY(find<QLabel>("message")->text().contains("chosen"));
        session().choosePiece(session().creature().pieces[0]->id);
        key(Qt::Key_Delete);
        QCOMPARE(session().creature().pieces.size(), std::size_t(0));
        QCOMPARE(session().creature().armature.forms.size(), std::size_t(1));
    }
    void soloIsOneStepAndRemembers()
    {
        for (const char *name : {"a", "b", "c", "d"})
            session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", name}});
        const auto id = [&](std::size_t k) { return session().creature().armature.forms[k].id; };
        const auto hidden = [&] {
            std::string out;
            for (const auto &f : session().creature().armature.forms)
                out += f.isHidden ? f.name : "";
            return out;
        };
        session().run({{"do", "form.set"}, {"form", "d"}, {"hidden", true}});
        session().chooseForms({id(0), id(1)}); // several
        const std::size_t steps = session().history().at();
        trigger("solo");
        QCOMPARE(hidden(), std::string("cd"));
        QCOMPARE(session().history().at(), steps + 1);
        trigger("solo");
        QCOMPARE(hidden(), std::string("d")); // what was hidden before stays so
        QCOMPARE(session().history().at(), steps + 2);
        session().undo();
        session().undo();
        QCOMPARE(hidden(), std::string("d"));
    }
    void keysAsOnAnyDesktop()
    {
        knitBall();
        view().setFocus();
        key(Qt::Key_F9);
        QVERIFY(!tree().isVisible());
        key(Qt::Key_F9);
        QVERIFY(tree().isVisible());
        key(Qt::Key_Tab);
        QVERIFY(tree().isVisible() && window().focusWidget() != &view());
        view().setFocus();
        answerNextDialog("densityDialog", [](QDialog *d) { d->reject(); });
        key(Qt::Key_K); // re-knit: it asks
        session().setBench(Bench::Armature);
        session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", "other"}});
        session().chooseForms({session().creature().armature.forms[0].id, session().creature().armature.forms[1].id});
        key(Qt::Key_G, Qt::ControlModifier);
        QCOMPARE(session().creature().armature.forms.size(), std::size_t(3));
    }
    void theWheelIsOneStepAndLeavesFieldsAlone()
    {
        knitBall();
        const auto start = view().camera();
        const auto turn = [&](QWidget *w) {
            const QPointF p = w->rect().center();
            QWheelEvent e(p, w->mapToGlobal(p), {}, {0, 120}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
            QApplication::sendEvent(w, &e);
        };
        for (int k = 0; k < 4; ++k)
            turn(&view());
        QVERIFY(view().camera().distance < start.distance * 0.95f);
        view().cameraBack();
        QCOMPARE(view().camera().distance, start.distance);
        view().setFocus();
        click("toolTile_raise");
        view().setFocus();
        const float size = window().hand().settings().size;
        for (ValueSlider *s : window().findChildren<ValueSlider *>())
            if (s->isVisible())
                turn(s);
        QCOMPARE(window().hand().settings().size, size);
    }
    void aDoubleClickInAnglesStaysHere()
    {
        knitBall();
        const QString before = view().viewKey();
        auto *strip = find<QWidget>("anglesStrip");
        const QPoint crown(strip->width() - 80, strip->height() / 2);
        QTest::mouseClick(strip, Qt::LeftButton, {}, crown);
        QVERIFY(view().viewKey() != before);
        QTest::mouseDClick(strip, Qt::LeftButton, {}, crown); // the click was its first half
        QCOMPARE(view().viewKey(), before);
    }
    void thePreviousToolIsOneOfTheBench()
    {
        knitBall();
        click("toolTile_raise");
        click("toolTile_crease");
        session().setBench(Bench::Detail);
        view().setFocus();
        const auto detail = window().hand().tool();
        key(Qt::Key_Q);
        QVERIFY(window().hand().tool() != sculpt::Tool::Raise || detail == sculpt::Tool::Raise);
        session().setBench(Bench::Sculpt);
        key(Qt::Key_Q);
        QCOMPARE(window().hand().tool(), sculpt::Tool::Raise);
        key(Qt::Key_Q);
        QCOMPARE(window().hand().tool(), sculpt::Tool::Crease);
    }
    void settingsOfToolsAreRemembered()
    {
        using sculpt::Tool;
        {
            app::HandModel hand(session());
            hand.setTool(Tool::Raise);
            hand.change([](auto &s) { s.limit = 3, s.tilt = 0.25f, s.falloff = sculpt::Falloff::Drawn, s.drawn[1] = 0.5f; });
            hand.setTool(Tool::Stamp);
            hand.change(
                [](auto &s) { s.randomRotation = 0.75f, s.randomFlip = true, s.isDragged = false, s.stamp = "wrinkles"; });
            hand.setTool(Tool::Plane);
            hand.change([](auto &s) { s.planeSide = sculpt::PlaneSide::Tops; });
            hand.setTool(Tool::Tug);
            hand.change([](auto &s) { s.stamp = "of another creature"; });
            hand.store();
        }
        app::HandModel hand(session());
        hand.load();
        const auto &raise = hand.settings(Tool::Raise), &stamp = hand.settings(Tool::Stamp);
        QVERIFY(raise.limit == 3 && raise.tilt == 0.25f && raise.falloff == sculpt::Falloff::Drawn && raise.drawn[1] == 0.5f);
        QVERIFY(stamp.randomRotation == 0.75f && stamp.randomFlip && !stamp.isDragged && stamp.stamp == "wrinkles");
        QVERIFY(hand.settings(Tool::Plane).planeSide == sculpt::PlaneSide::Tops);
        // As they were kept once
        QSettings s;
        s.remove("tools");
        s.setValue("tools/plane/planeSide", 2), s.setValue("tools/crease/falloff", 1);
        for (int k = 0; k < 7; ++k)
            s.setValue(QStringLiteral("tools/raise/curve%1").arg(k), 0.25);
        s.setValue("tools/stamp/stamp", "of another creature");
        app::HandModel older(session());
        older.load();
        QVERIFY(older.settings(Tool::Plane).planeSide == sculpt::PlaneSide::Hollows);
        QVERIFY(older.settings(Tool::Crease).falloff == sculpt::Falloff::Soft);
        QVERIFY(older.settings(Tool::Raise).drawn[0] == 0.25f && older.settings(Tool::Raise).drawn[6] == 0.25f);
        QVERIFY(older.settings(Tool::Stamp).stamp == sculpt::StrokeSettings{}.stamp); // one that is there
        s.remove("tools");
    }
    void theEraserEndDigsAndBarrelButtonsHold()
    {
        knitBall();
        click("toolTile_raise");
        const auto depth = [&] { return mesh::castRay(skin().shown, view().projection().rayAt(middle()))->distance; };
        const auto stroke = [&](QPointingDevice::PointerType end, Qt::MouseButtons held) {
            const QPointingDevice pen(QStringLiteral("test pen"), 4711, QInputDevice::DeviceType::Stylus, end,
                                      QInputDevice::Capability::Position | QInputDevice::Capability::Pressure, 1, 3);
            const auto send = [&](QEvent::Type type, QPointF at, Qt::MouseButton button, Qt::MouseButtons buttons) {
                QTabletEvent e(type, &pen, at, view().mapToGlobal(at), 1, 0, 0, 0, 0, 0, Qt::NoModifier, button, buttons);
                QApplication::sendEvent(&view(), &e);
            };
            const QPointF a = middle() - QPointF(10, 0), b = middle() + QPointF(10, 0);
            send(QEvent::TabletPress, a, Qt::LeftButton, Qt::LeftButton | held);
            send(QEvent::TabletMove, middle(), Qt::NoButton, Qt::LeftButton | held);
            send(QEvent::TabletMove, b, Qt::NoButton, Qt::LeftButton | held);
            send(QEvent::TabletRelease, b, Qt::LeftButton, Qt::NoButton);
        };
        const float flat = depth();
        stroke(QPointingDevice::PointerType::Pen, {});
        QVERIFY(depth() < flat);
        session().undo();
        stroke(QPointingDevice::PointerType::Eraser, {});
        QVERIFY(depth() > flat);
        session().undo();
        stroke(QPointingDevice::PointerType::Pen, Qt::MiddleButton); // masks, as it comes
        QVERIFY(skin().hasMask() && depth() == flat);
        session().undo();
        QSettings().setValue("pen/barrel2", "dig");
        stroke(QPointingDevice::PointerType::Pen, Qt::MiddleButton);
        QVERIFY(!skin().hasMask() && depth() > flat);
        // A press on the compass flies there, with the pen as with the mouse.
        const QString before = view().viewKey();
        const QRectF area = view().paneArea(0);
        for (double y = area.top(); y < area.top() + 120 && view().viewKey() == before; y += 4)
            for (double x = area.right() - 120; x < area.right() && view().viewKey() == before; x += 4)
                if (!compassKeyAt(view().camera(), area, {x, y}).isEmpty()) {
                    const QPointingDevice pen(QStringLiteral("test pen"), 4712, QInputDevice::DeviceType::Stylus,
                                              QPointingDevice::PointerType::Pen, QInputDevice::Capability::Position, 1, 1);
                    QTabletEvent e(QEvent::TabletPress, &pen, {x, y}, view().mapToGlobal(QPointF(x, y)), 1, 0, 0, 0, 0, 0,
                                   Qt::NoModifier, Qt::LeftButton, Qt::LeftButton);
                    QApplication::sendEvent(&view(), &e);
                }
        QVERIFY(view().viewKey() != before);
    }
    void masksFromTheMenu()
    {
        knitBall();
        trigger("maskInvert");
        QVERIFY(skin().hasMask());
        QCOMPARE(changedBy([&] { drag(&view(), middle(), middle() + QPoint(30, 0)); }), std::size_t(0));
        trigger("maskClear");
        QVERIFY(!skin().hasMask());
        QVERIFY(changedBy([&] { drag(&view(), middle(), middle() + QPoint(30, 0)); }) > 0);
    }
    void rescuedWorkIsOffered()
    {
        // A session of a process that is gone: its file is what a kill leaves behind.
        const QString folder = session().rescueFolder();
        document::Creature c;
        command::CommandContext context;
        c = *command::apply(c, {{"do", "form.add"}, {"kind", "ball"}, {"name", "kept"}}, context);
        {
            auto rescue = command::Rescue::begin(folder.toStdString(), {}, {"herd.bonemoss", {}});
            QVERIFY(rescue);
            QVERIFY(bool((*rescue)->snapshot(c)));
        }
        const auto isAbout = [&](const QString &rescue, const char *name) {
            QFile of(folder + "/" + rescue + ".of");
            return of.open(QIODevice::ReadOnly) && of.readAll().contains(name);
        };
        QString gone;
        for (const QString &f : QDir(folder).entryList({"rescue-*.bonemoss"}, QDir::Files))
            if (isAbout(f, "herd.bonemoss"))
                gone = folder + "/" + f;
        QVERIFY(!gone.isEmpty());
        QString words;
        answerNextDialog("rescueBox", [&](QDialog *d) {
            words = qobject_cast<QMessageBox *>(d)->text();
            qobject_cast<QMessageBox *>(d)->button(QMessageBox::Yes)->click();
        });
        const QString other = file("flock.bonemoss"); // the program was started on another file
        QVERIFY(bool(store::saveAs(other.toStdString(), {})));
        window().begin(other);
        QVERIFY(words.contains("herd.bonemoss"));
        QVERIFY(find<QLabel>("message")->text().contains(other));
        QCOMPARE(session().path(), QStringLiteral("herd.bonemoss"));
        QCOMPARE(session().creature().armature.forms.size(), std::size_t(1));
        QVERIFY(session().isChanged());
        QVERIFY(!QFile::exists(gone));
        // Saved under another name, that is what would be offered.
        QVERIFY(session().save(file("kept.bonemoss")) && session().finishSaving());
        QByteArray notes;
        for (const QString &note : QDir(folder).entryList({"*.of"}, QDir::Files)) {
            QFile of(folder + "/" + note);
            QVERIFY(of.open(QIODevice::ReadOnly));
            notes += of.readAll() + '\n';
        }
        QVERIFY(notes.contains("kept.bonemoss") && !notes.contains("herd.bonemoss"));
    }
    void aRecipePlaysStepByStep()
    {
        QSignalSpy steps(&window().player(), &RecipePlayer::stepped), ended(&window().player(), &RecipePlayer::ended);
        QFile recipe(file("two.recipe.json"));
        QVERIFY(recipe.open(QIODevice::WriteOnly));
        recipe.write(R"({"format": "bonemoss-recipe", "version": 1, "commands": [
            {"do": "form.add", "kind": "ball"}, {"do": "form.add", "kind": "cone"}, {"do": "form.remove", "form": 77}]})");
        recipe.close();
        QVERIFY(window().player().start(recipe.fileName()));
        QTRY_COMPARE(ended.count(), 1);
        QCOMPARE(steps.count(), 2); // the third fails, is said, and ends it
        QCOMPARE(ended[0][0].toBool(), false);
        QCOMPARE(session().creature().armature.forms.size(), std::size_t(2));
        QVERIFY(!find<QLabel>("message")->text().isEmpty());
        QVERIFY(!window().player().start(file("nowhere.recipe.json")));
    }
};

BONEMOSS_TEST(TestPanels)
#include "tst_panels.moc"
