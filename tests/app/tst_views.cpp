// Views side by side, looks that are worked out, and what is held before or over the skin: handle, stencil, curve, tint.
#include "support/run.h"
#include "app/hand/value_slider.h"
#include "app/view/curve_control.h"
#include "command/region.h"
#include "support/window_bench.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QPointingDevice>
#include <QTabletEvent>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;
using nlohmann::json;
using test::drag, test::dragAlong;

class TestViews : public QObject, private test::WindowBench
{
    Q_OBJECT

    std::vector<Vec3f> shape() { return skin().shown.positions.flatten(); }
    void unfold(const char *section)
    {
        click(section);
        QTest::qWait(20); // it is built anew once the click is over
    }
    QPoint paneMiddle(int k) { return view().paneArea(k).center().toPoint(); }
    void check(const char *name, bool on) { find<QCheckBox>(name)->setChecked(on); }
    void stroke()
    {
        QVERIFY(session().run({{"do", "sculpt.stroke"},
                               {"piece", session().piece()},
                               {"tool", "raise"},
                               {"size", 6},
                               {"mirror", false},
                               {"samples", {{20, 1, 0}, {20, -1, 0}}}}));
    }
    void key(Qt::Key k) { QTest::keyClick(&view(), k); }

private slots:
    void initTestCase() { prepare(); }
    void init()
    {
        open();
        knitBall();
    }
    void cleanup() { close(); }

    void aNarrowerViewStillShowsTheWhole()
    {
        key(Qt::Key_F);
        const float distance = view().camera().distance;
        trigger("twoPanes");
        const QRectF area = view().paneArea(0);
        for (const float y : {-19.0f, 19.0f})
            for (const float z : {-19.0f, 19.0f})
                QVERIFY(area.contains(view().projection().toScreen({0, y, z})));
        trigger("onePane");
        QCOMPARE(view().camera().distance, distance);
    }

    void eachViewHasItsCameraAndLook()
    {
        trigger("fourPanes");
        QCOMPARE(view().panes(), 4);
        QCOMPARE(view().viewName(), QStringLiteral("left flank")); // the one there was
        const portrait::Camera first = view().camera();
        QTest::mouseClick(&view(), Qt::RightButton, {}, paneMiddle(2));
        QCOMPARE(view().activePane(), 2);
        QCOMPARE(view().viewName(), QStringLiteral("nose"));
        trigger("lookSilhouette");
        drag(&view(), paneMiddle(2), paneMiddle(2) + QPoint(30, 10), Qt::RightButton);
        QCOMPARE(view().viewName(), QStringLiteral("free view"));
        QTest::mouseClick(&view(), Qt::RightButton, {}, paneMiddle(0));
        QVERIFY(view().camera() == first); // orbiting one leaves the others
        QCOMPARE(view().look(), Look::Clay);
        QVERIFY(window().findChild<QAction *>("lookClay")->isChecked());
        // The silhouette is dark where the clay is light.
        const QImage all = stillPicture();
        QVERIFY(qGray(all.pixel(paneMiddle(2))) + 60 < qGray(all.pixel(paneMiddle(0))));
        // Camera moves are undone view by view.
        QTest::mouseClick(&view(), Qt::RightButton, {}, paneMiddle(2));
        trigger("cameraBack");
        QCOMPARE(view().viewName(), QStringLiteral("nose"));
        trigger("onePane");
        QCOMPARE(view().look(), Look::Silhouette); // the active one stays
        trigger("twoPanes");
        QCOMPARE(view().panes(), 2);
    }
    void wordsStandClearOfSmallViews()
    {
        const auto times = window().findChild<QAction *>(QStringLiteral("times"));
        QVERIFY(times);
        // How much of a part of the view is as dark as ink.
        const auto ink = [&](QRect part) {
            const QImage all = view().grabFramebuffer(); // with times it never is quite the same
            int n = 0;
            for (int y = part.top(); y < part.bottom(); ++y)
                for (int x = part.left(); x < part.right(); ++x)
                    n += qGray(all.pixel(x, y)) < 80;
            return n;
        };
        const auto third = [&](int pane) {
            return QRect(view().paneArea(pane).toRect().topLeft() + QPoint(8, 46), QSize(200, 18));
        };
        const auto foot = [&](int pane) {
            return QRect(view().paneArea(pane).toRect().bottomLeft() + QPoint(8, -26), QSize(200, 22));
        };
        QCOMPARE(ink(third(0)), 0);
        times->setChecked(true);
        QVERIFY(ink(third(0)) > 100); // under the other two lines
        QCOMPARE(ink(foot(0)), 0);
        trigger("fourPanes");
        QVERIFY(ink(foot(0)) > 100);
        QCOMPARE(ink(third(0)), 0);
        times->setChecked(false);
        QCOMPARE(ink(foot(0)), 0);
    }
    void wordsAreNewWhenTheySayOtherThings()
    {
        // Points of a part of the view that are clearly lighter or darker than they were.
        const auto changed = [&](QRect part, const QImage &before) {
            const QImage now = stillPicture();
            int n = 0;
            for (int y = part.top(); y < part.bottom(); ++y)
                for (int x = part.left(); x < part.right(); ++x)
                    n += std::abs(qGray(now.pixel(x, y)) - qGray(before.pixel(x, y))) > 40;
            return n;
        };
        const QRect second(QPoint(8, 28), QSize(300, 18)), compass(view().width() - 120, 4, 116, 116);
        const QImage before = stillPicture();
        QCOMPARE(changed(second, before), 0);
        window().hand().setMirrored(!window().hand().isMirrored());
        QVERIFY(changed(second, before) > 100);
        QCOMPARE(changed(compass, before), 0);
        window().hand().setMirrored(!window().hand().isMirrored());
        QCOMPARE(changed(second, before), 0);
        view().lookFrom("nose");
        QVERIFY(changed(compass, before) > 50);
    }
    void heldKeysCountFromTheFirstStrokeOn()
    {
        const auto comeIn = [&] {
            QEnterEvent enters(middle(), middle(), view().mapToGlobal(middle()));
            QApplication::sendEvent(&view(), &enters);
        };
        const auto moveOn = [&] { QTest::mouseMove(&view(), middle() + QPoint(7, 5)), QTest::mouseMove(&view(), middle()); };
        QLineEdit words(&window());
        words.show();
        words.setFocus();
        comeIn();
        moveOn();
        QCOMPARE(window().focusWidget(), &words); // what is being typed goes on
        find<QWidget>("toolTile_raise")->setFocus();
        comeIn(); // as when a dialog closes over the view
        QCOMPARE(window().focusWidget(), find<QWidget>("toolTile_raise"));
        moveOn();
        QCOMPARE(window().focusWidget(), &view());
        const auto rest = shape();
        QTest::keyPress(&view(), Qt::Key_A);
        drag(&view(), middle(), middle() + QPoint(20, 0));
        QTest::keyRelease(&view(), Qt::Key_A);
        QVERIFY(skin().hasMask());
        QVERIFY(shape() == rest);
    }
    void edgesAreSmooth()
    {
        trigger("lookSilhouette");
        constexpr int kRows = 41;
        const auto softRows = [&] { // where the left edge of the ball passes through a grey between ground and ball
            const QImage picture = stillPicture();
            int between = 0;
            for (int y = middle().y() - 60; y <= middle().y() + 60; y += 3) {
                int x = middle().x();
                while (x > 0 && std::abs(qGray(picture.pixel(x, y)) - qGray(picture.pixel(middle().x(), y))) < 6)
                    --x;
                const int ball = qGray(picture.pixel(middle().x(), y)), edge = qGray(picture.pixel(x, y)),
                          ground = qGray(picture.pixel(std::max(0, x - 3), y));
                between += edge > ball + 6 && edge < ground - 6;
            }
            return between;
        };
        QAction *smooth = find<QAction>("smoothEdges");
        QVERIFY(!smooth->isChecked()); // as these tests have it; a person has it on
        QCOMPARE(softRows(), 0);
        smooth->trigger();
        QVERIFY2(softRows() * 2 > kRows, qPrintable(QString::number(softRows())));
        smooth->trigger();
        QCOMPARE(softRows(), 0);
    }
    void strokesGoToTheViewUnderThePen()
    {
        trigger("fourPanes");
        click("toolTile_raise");
        const QImage before = stillPicture();
        const auto rest = shape();
        dragAlong(&view(), {paneMiddle(3), paneMiddle(3) + QPoint(12, 12)}); // seen from the crown
        const auto after = shape();
        QVERIFY(after != rest);
        for (std::size_t v = 0; v < rest.size(); ++v)
            if (!(after[v] == rest[v]))
                QVERIFY(rest[v].y > 0);
        const QImage later = stillPicture();
        for (const int k : {0, 1, 3}) { // and it is seen in the others
            bool isOther = false;
            const QRect area = view().paneArea(k).toRect();
            for (int y = area.top(); y < area.bottom() && !isOther; y += 2)
                for (int x = area.left(); x < area.right() && !isOther; x += 2)
                    isOther = before.pixel(x, y) != later.pixel(x, y);
            QVERIFY2(isOther, qPrintable(QString::number(k)));
        }
    }
    void anEarlierStateStandsBeside()
    {
        trigger("twoPanes");
        QTest::mouseClick(&view(), Qt::RightButton, {}, paneMiddle(1));
        trigger("keepState");
        QVERIFY(view().showsKept());
        const QImage before = stillPicture().copy(view().paneArea(1).toRect().adjusted(4, 124, -4, -4));
        QTest::mouseClick(&view(), Qt::RightButton, {}, paneMiddle(0));
        stroke();
        stroke();
        QCOMPARE(stillPicture().copy(view().paneArea(1).toRect().adjusted(4, 124, -4, -4)), before);
        // A press there turns the camera and strokes nothing.
        const auto steps = session().history().at();
        drag(&view(), paneMiddle(1), paneMiddle(1) + QPoint(20, 0));
        QCOMPARE(session().history().at(), steps);
        trigger("keepNone");
        QVERIFY(!view().showsKept());
    }
    void looksAreWorkedOutBesideTheWindow()
    {
        // A smaller ball half inside the first.
        QVERIFY(session().run(
            {{"do", "form.add"}, {"kind", "ball"}, {"name", "small"}, {"at", {18, 0, 0}}, {"radius", 8}, {"mirror", false}}));
        QVERIFY(session().run({{"do", "items.show"}, {"hide", {"small"}}})); // it would be drawn over what is looked at
        const auto ball = session().piece();
        stroke();
        for (const char *look : {"lookCovered", "lookThin", "lookThrough", "lookUneven"}) {
            trigger("lookClay");
            const QImage clay = stillPicture();
            trigger(look);
            const QImage shown = stillPicture();
            QVERIFY2(shown != clay, look);
        }
        QCOMPARE(session().piece(), ball);
        // Where only one side was raised left and right differ: lichen there, clay beside it.
        trigger("lookUneven");
        const QImage map = stillPicture();
        const auto yellow = [&](QPoint at) { return qRed(map.pixel(at)) - qBlue(map.pixel(at)); };
        QVERIFY(yellow(middle()) > yellow(middle() + QPoint(90, 60)) + 15);
    }
    void theChosenCameraIsRemembered()
    {
        trigger("chooseCamera");
        trigger("lookSeen");
        const QImage front = stillPicture();
        trigger("view_right");
        const QImage back = stillPicture();
        const auto blue = [&](const QImage &m) { return qBlue(m.pixel(middle())) - qRed(m.pixel(middle())); };
        QVERIFY(blue(back) > blue(front) + 15); // what it did not see is slate
    }
    void aHandleMovesThePiece()
    {
        click("deformBegin");
        QTest::qWait(10);
        const QPointF centre = view().projection().toScreen({0, 0, 0});
        const auto rest = shape();
        drag(&view(), centre.toPoint(), centre.toPoint() + QPoint(20, -40));
        click("deformApply");
        QTRY_VERIFY(shape() != rest);
        const auto after = shape();
        const Vec3f way = after[0] - rest[0];
        QVERIFY(way.y > 2);
        for (std::size_t v = 0; v < rest.size(); ++v)
            QVERIFY(length(after[v] - rest[v] - way) < 1e-3f);
        QCOMPARE(session().history().steps()[session().history().at()].title, std::string("Move piece"));
    }
    void itsNumbersAndParts()
    {
        click("deformBegin");
        QTest::qWait(10);
        emit find<ValueSlider>("deformWayY")->edited(5);
        emit find<ValueSlider>("deformTurnX")->edited(30);
        emit find<ValueSlider>("deformSize")->edited(2);
        QCOMPARE(window().hand().deform().by.y, 5.0f);
        QVERIFY(std::abs(toEulerDeg(window().hand().deform().turn).x - 30) < 0.01f);
        QCOMPARE(window().hand().deform().scale.x, 2.0f);
        // A whole piece moves as one unless its mirror image is asked for.
        check("deformTwin", true);
        QVERIFY(window().hand().deform().isTwinned);
        check("deformTwin", false);
        // The handle alone.
        check("deformPlace", true);
        const QPoint grip = view().projection().toScreen({0, 5, 0}).toPoint();
        drag(&view(), grip, grip + QPoint(50, 0));
        QVERIFY(window().hand().deform().pivot.z != 0);
        QCOMPARE(window().hand().deform().by.y, 5.0f);
        const auto rest = shape();
        click("deformBegin"); // leave it as it was
        QTest::qWait(10);
        QVERIFY(shape() == rest);
        QVERIFY(!window().hand().deform().isOn);
    }
    void strokesGoThroughAStencilInTheView()
    {
        click("toolTile_raise");
        unfold("sectionStencil");
        check("stencilOn", true);
        check("stencilInvert", false);
        QVERIFY(window().hand().stencil().isOn);
        const QRectF area = view().paneArea(0);
        // Its grips: the corner makes it smaller.
        const double size = window().hand().stencil().size;
        const QPointF corner = area.center() + QPointF(1, 1) * size * area.height() / 2;
        drag(&view(), corner.toPoint(), (area.center() + QPointF(1, 1) * size * area.height() / 4).toPoint());
        QVERIFY(std::abs(window().hand().stencil().size - size / 2) < 0.02);
        const auto rest = shape();
        const auto steps = session().history().at();
        dragAlong(&view(), {middle() + QPoint(-100, 0), middle() + QPoint(100, 0)});
        QCOMPARE(session().history().at(), steps + 1);
        const double half = window().hand().stencil().size * area.height() / 2;
        std::size_t moved = 0;
        for (std::size_t v = 0; v < rest.size(); ++v)
            if (!(shape()[v] == rest[v])) {
                const QPointF at = view().projection().toScreen(rest[v]) - area.center();
                if (rest[v].x > 0) // the other flank is its mirror image
                    QVERIFY(std::abs(at.x()) < half + 1 && std::abs(at.y()) < half + 1);
                ++moved;
                if (moved > 400)
                    break;
            }
        QVERIFY(moved > 20);
        session().undo();
        click("stencilMask");
        QTRY_VERIFY(skin().hasMask());
        session().undo();
        click("stencilPress");
        QTRY_VERIFY(shape() != rest);
    }
    void aStrokeAlongACurve()
    {
        click("toolTile_crease");
        emit find<ValueSlider>("size")->edited(3);
        unfold("sectionStroke");
        check("drawsCurves", true);
        const auto rest = shape();
        const auto steps = session().history().at();
        for (const QPoint at : {QPoint(-60, 0), QPoint(0, 40), QPoint(60, 0)})
            QTest::mouseClick(&view(), Qt::LeftButton, {}, middle() + at);
        QCOMPARE(session().history().at(), steps); // it only shows
        drag(&view(), middle() + QPoint(0, 40), middle() + QPoint(0, -40));
        key(Qt::Key_Return);
        QCOMPARE(session().history().at(), steps + 1);
        QVERIFY(shape() != rest);
        // It went through where the point was dragged to, not where it was set.
        const auto changeAt = [&](QPoint at) {
            const auto hit = mesh::castRay(skin().shown, view().projection().rayAt(at));
            float most = 0;
            for (std::size_t v = 0; v < rest.size(); ++v)
                if (length(rest[v] - hit->point) < 2)
                    most = std::max(most, length(shape()[v] - rest[v]));
            return most;
        };
        QVERIFY(changeAt(middle() + QPoint(0, -40)) > 0.01f);
        QCOMPARE(changeAt(middle() + QPoint(0, 70)), 0.0f);
        session().undo();
        QTest::mouseClick(&view(), Qt::LeftButton, {}, middle());
        key(Qt::Key_Escape);
        QVERIFY(shape() == rest);
        check("drawsCurves", false);
    }
    // A stroke on a growth goes to the layer of its hand work, which comes while the curve is set up.
    void aCurveOnAGrowth()
    {
        QVERIFY(session().run({{"do", "grow.pebbles"}, {"piece", session().piece()}, {"size", 4}}));
        click("toolTile_raise");
        session().chooseLayer(skin().layers[0].id);
        unfold("sectionStroke");
        check("drawsCurves", true);
        const auto rest = shape();
        for (const QPoint at : {QPoint(-40, 0), QPoint(40, 0)})
            QTest::mouseClick(&view(), Qt::LeftButton, {}, middle() + at);
        QCOMPARE(skin().layers.size(), std::size_t(2));
        key(Qt::Key_Return);
        QVERIFY(shape() != rest);
        QVERIFY(!skin().layers[1].offsets.isBlank());
        check("drawsCurves", false);
    }
    // Centripetal Catmull-Rom passes through its points, in order, and on evenly spaced ones of a line stays on it.
    void curvesPassThroughTheirPoints()
    {
        const std::vector<Vec3f> points{{0, 0, 0}, {4, 3, 0}, {9, 1, 2}, {10, -4, 5}};
        const auto way = curveThrough(points, 0.2f);
        std::size_t next = 0;
        for (const Vec3f p : way)
            if (next < points.size() && length(p - points[next]) < 1e-3f)
                ++next;
        QCOMPARE(next, points.size());
        for (std::size_t k = 1; k < way.size(); ++k)
            QVERIFY(length(way[k] - way[k - 1]) < 0.4f);
        for (const Vec3f p : curveThrough({{0, 0, 0}, {1, 0, 0}, {2, 0, 0}}, 0.1f))
            QVERIFY(std::abs(p.y) < 1e-6f && p.x > -1e-6f && p.x < 2 + 1e-6f);
    }
    void whatAStrokeWouldTouchIsTinted()
    {
        click("toolTile_raise");
        const QPoint at = middle() + QPoint(10, 12);
        // Hovers and looks at once: what else goes on on the screen does not come between.
        const auto greenWithTint = [&](bool on) {
            check("tintTouch", on);
            const QPointF pen = middle() + QPoint(4, 4);
            QMouseEvent move(QEvent::MouseMove, pen, view().mapToGlobal(pen), Qt::NoButton, Qt::NoButton, {});
            QApplication::sendEvent(&view(), &move);
            const QColor c = view().grabFramebuffer().pixelColor(at);
            return 2 * c.green() - c.red() - c.blue();
        };
        QVERIFY(greenWithTint(true) > greenWithTint(false) + 10);
    }
    // What a stroke does after its last frame, before the pen is lifted, is seen too: as after taking it back and doing it again.
    void theEndOfAStrokeIsDrawn_data()
    {
        QTest::addColumn<QString>("tool");
        QTest::newRow("moved skin") << "toolTile_raise";
        QTest::newRow("mask") << "toolTile_mask";
    }
    void theEndOfAStrokeIsDrawn()
    {
        QFETCH(QString, tool);
        click(qPrintable(tool));
        view().lookFrom("left");
        stillPicture();
        const auto send = [&](QEvent::Type type, QPoint at) { // no frame comes between
            QMouseEvent e(type, at, view().mapToGlobal(at), type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton,
                          type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, {});
            QApplication::sendEvent(&view(), &e);
        };
        send(QEvent::MouseButtonPress, middle());
        send(QEvent::MouseMove, middle() + QPoint(4, 0));
        view().grabFramebuffer();
        for (int k = 2; k <= 10; ++k)
            send(QEvent::MouseMove, middle() + QPoint(4 * k, 0));
        send(QEvent::MouseButtonRelease, middle() + QPoint(40, 0));
        const QImage followed = stillPicture();
        session().undo();
        const QImage without = stillPicture();
        session().redo();
        const QImage again = stillPicture();
        const auto apart = [&](const QImage &a, const QImage &b) {
            int n = 0;
            for (int y = a.height() / 4; y < a.height() * 3 / 4; ++y)
                for (int x = a.width() / 4; x < a.width() * 3 / 4; ++x)
                    n += std::abs(qGray(a.pixel(x, y)) - qGray(b.pixel(x, y))) > 12;
            return n;
        };
        QVERIFY2(apart(again, without) > 500, qPrintable(QString::number(apart(again, without))));
        QCOMPARE(apart(followed, again), 0);
    }
    // What comes in while a frame is drawn is used, every sample of it, in order.
    void everyPenSampleCounts()
    {
        click("toolTile_raise");
        QPointingDevice pen("pen", 7, QInputDevice::DeviceType::Stylus, QPointingDevice::PointerType::Pen,
                            QInputDevice::Capability::Position | QInputDevice::Capability::Pressure, 1, 1);
        const auto post = [&](QEvent::Type type, QPointF at, double pressure, double tilt) {
            QCoreApplication::postEvent(&view(), new QTabletEvent(type, &pen, at, view().mapToGlobal(at), pressure, float(tilt),
                                                                  0, 0, 0, 0, {}, Qt::LeftButton,
                                                                  type == QEvent::TabletRelease ? Qt::NoButton : Qt::LeftButton));
        };
        const QPointF from = middle();
        post(QEvent::TabletPress, from, 0.5, 0);
        for (int k = 1; k <= 200; ++k) {
            post(QEvent::TabletMove, from + QPointF(0.4 * k, 0), 0.5 + 0.002 * k, 0);
            if (k % 40 == 0)
                view().update(); // a frame falls among them
        }
        post(QEvent::TabletRelease, from + QPointF(80, 0), 0, 0);
        QTest::qWait(50);
        const json command = *session().history().steps()[session().history().at()].command;
        QCOMPARE(command["samples"].size(), std::size_t(201));
        for (std::size_t k = 1; k < 201; ++k)
            QVERIFY(std::abs(command["samples"][k][6].get<double>() - (0.5 + 0.002 * double(k))) < 1e-4);
    }
    void aTiltedPenLeans()
    {
        click("toolTile_raise");
        unfold("sectionPen");
        emit find<ValueSlider>("tilt")->edited(1);
        QPointingDevice pen(
            "pen", 8, QInputDevice::DeviceType::Stylus, QPointingDevice::PointerType::Pen,
            QInputDevice::Capability::Position | QInputDevice::Capability::Pressure | QInputDevice::Capability::XTilt, 1, 1);
        const auto send = [&](QEvent::Type type, QPointF at) {
            QTabletEvent e(type, &pen, at, view().mapToGlobal(at), 1, 40, 0, 0, 0, 0, {}, Qt::LeftButton, Qt::LeftButton);
            QCoreApplication::sendEvent(&view(), &e);
        };
        const auto rest = shape();
        send(QEvent::TabletPress, middle());
        send(QEvent::TabletMove, middle() + QPointF(3, 0));
        send(QEvent::TabletRelease, middle() + QPointF(3, 0));
        QTest::qWait(20);
        // Seen from the left, the pen leans towards the right of the picture.
        const Vec3f right = view().camera().right(), out = -view().camera().forward();
        Vec3f sum;
        for (std::size_t v = 0; v < rest.size(); ++v)
            if (rest[v].x > 0)
                sum += shape()[v] - rest[v];
        QVERIFY(dot(sum, out) > 0);
        QVERIFY(std::abs(dot(sum, right) / dot(sum, out) - std::tan(40 * 3.14159 / 180)) < 0.12);
    }
};

BONEMOSS_TEST(TestViews)
#include "tst_views.moc"
