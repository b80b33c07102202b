// The Armature bench by hand: pictures lined up, forms drawn, snapped, chosen together, bent, measured; parts.
#include "support/run.h"
#include "app/anatomy/picture_board.h"
#include "app/hand/value_slider.h"
#include "mesh/measures.h"
#include "support/window_bench.h"

#include <QPushButton>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QDropEvent>
#include <QImage>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>
#include <QSpinBox>
#include <QTreeWidget>
#include <nlohmann/json.hpp>

#include <numbers>

using namespace bonemoss;
using namespace bonemoss::app;
using test::answerNextDialog, test::drag;

class TestPlan : public QObject, private test::WindowBench
{
    Q_OBJECT
    const armature::Form &form(const char *name)
    {
        for (const auto &f : session().creature().armature.forms)
            if (f.name == name)
                return f;
        qFatal("no form %s", name);
    }
    Vec3f joint(const char *name) { return session().creature().armature.worldPlace(form(name)).translation; }
    QPoint onScreen(Vec3f p) { return view().projection().toScreen(p).toPoint(); }
    void look(const char *from)
    {
        view().lookFrom(QLatin1String(from));
        QTest::qWait(20);
    }
    /// Adds by the button and the file dialog, seen from where one looks.
    void addPicture(const QString &path)
    {
        answerNextDialog("QFileDialog", [&](QDialog *d) {
            d->findChild<QLineEdit *>("fileNameEdit")->setText(path);
            QMetaObject::invokeMethod(d, "accept");
        });
        click("planPictures");
        click("pictureAdd");
        QTest::qWait(200);
    }
    QString sheet(const char *name, QSize size)
    {
        QImage image(size, QImage::Format_RGB32);
        image.fill(Qt::white);
        image.save(file(name));
        return file(name);
    }
    /// Presses on a place of a picture in the view.
    void pressOn(const document::Reference &r, document::PicturePoint p)
    {
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen(placeOf(r, p)));
        QTest::qWait(20);
    }
    void ball(const char *name, Vec3f at, float radius)
    {
        QVERIFY(session().run(
            {{"do", "form.add"}, {"kind", "ball"}, {"name", name}, {"at", {at.x, at.y, at.z}}, {"radius", radius}}));
    }

private slots:
    void initTestCase() { prepare(); }
    void init() { open(); }
    void cleanup() { close(); }

    void twoPicturesOfDifferentSizeAreLinedUp()
    {
        view().setParallel(true);
        look("left");
        addPicture(sheet("flank.png", {800, 500}));
        QCOMPARE(session().creature().references.size(), std::size_t(1));
        QCOMPARE(session().creature().references[0].view, std::string("left")); // where one looked from
        click("pictureLineUp");
        QVERIFY2(view().hint().contains("crown"), qPrintable(view().hint()));
        const auto flank = [&] { return session().creature().references[0]; };
        const auto front = [&] { return session().creature().references[1]; };
        pressOn(flank(), {0.3f, 0.1f});
        QVERIFY(view().hint().contains("ground"));
        pressOn(flank(), {0.6f, 0.9f});
        QVERIFY(find<QLabel>("message")->text().contains("mm off"));
        look("nose");
        addPicture(sheet("front.png", {300, 700}));
        QCOMPARE(front().view, std::string("nose"));
        click("pictureLineUp");
        pressOn(front(), {0.6f, 0.25f});
        pressOn(front(), {0.6f, 0.75f});
        // Both have the same height now, to what a point on the screen can tell.
        const float mm = view().projection().mmPerPoint({});
        QVERIFY(std::abs(placeOf(flank(), {0.3f, 0.1f}).y - 180) < 2 * mm);
        QVERIFY(std::abs(placeOf(front(), {0.6f, 0.25f}).y - 180) < 2 * mm);
        QVERIFY(std::abs(placeOf(flank(), {0.6f, 0.9f}).y) < 2 * mm && std::abs(placeOf(front(), {0.6f, 0.75f}).y) < 2 * mm);
        QVERIFY(std::abs(placeOf(front(), {0.6f, 0.5f}).x) < 2 * mm); // its middle is on the middle plane
        session().undo();
        QVERIFY(std::abs(placeOf(front(), {0.6f, 0.25f}).y - 180) > 10);
    }
    void pictureIsMovedByItsHandlesUnlessLocked()
    {
        view().setParallel(true);
        look("left");
        addPicture(sheet("flank.png", {800, 500}));
        const auto now = [&] { return session().creature().references[0]; };
        const QPoint middle = onScreen(placeOf(now(), {0.5f, 0.5f}));
        drag(&view(), middle, middle + QPoint(30, -20));
        const float mm = view().projection().mmPerPoint({});
        QVERIFY(std::abs(now().across - 30 * mm) < 2 * mm && std::abs(now().up - 90 - 20 * mm) < 2 * mm);
        const float height = now().heightMm;
        const QPoint corner = onScreen(placeOf(now(), {1, 1})), centre = onScreen(placeOf(now(), {0.5f, 0.5f}));
        drag(&view(), corner, centre + (corner - centre) / 2);
        QVERIFY(std::abs(now().heightMm / height - 0.5f) < 0.03f);
        click("pictureLocked");
        QTest::qWait(20);
        const document::Reference kept = now();
        const QPoint at = onScreen(placeOf(kept, {0.5f, 0.5f}));
        drag(&view(), at, at + QPoint(40, 0));
        QVERIFY(now().across == kept.across && now().heightMm == kept.heightMm);
    }
    void pictureIsSeenBehindAndOver()
    {
        look("left");
        addPicture(sheet("white.png", {400, 400}));
        session().run({{"do", "picture.set"}, {"picture", "white"}, {"opacity", 1}});
        ball("head", {0, 90, 0}, 40);
        session().chooseForm(0);
        session().choosePicture(0);
        look("left");
        const auto bright = [&](Vec3f p) {
            QTest::qWait(250);
            return view().grabFramebuffer().pixelColor(onScreen(p)).lightness();
        };
        QTRY_VERIFY_WITH_TIMEOUT(bright({0, 150, 60}) > 250, 3000); // the sheet beside the ball
        QVERIFY(bright({0, 80, -20}) < 240);                        // the ball before it
        session().run({{"do", "picture.set"}, {"picture", "white"}, {"over", true}});
        QVERIFY(bright({0, 80, -20}) > 250);
        look("nose"); // it lies on the left flank's view alone
        QVERIFY(bright({44, 115, 0}) < 240);
    }
    void droppedPictureLiesOnTheBoard()
    {
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(sheet("eye.png", {300, 200}))});
        QDropEvent drop(QPointF(600, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        static_cast<QObject &>(window()).event(&drop); // Qt passes drops on only while it drags itself
        QTest::qWait(100);
        QCOMPARE(session().creature().references.at(0).view, std::string("board")); // seen from a free view
        auto *board = find<PictureBoard>("boardOver");
        trigger("boardOver");
        QVERIFY(board->isVisible());
        const QRectF box = board->boxOf(session().creature().references[0]);
        QVERIFY(board->rect().contains(box.toRect()));
        drag(board, box.center().toPoint(), box.center().toPoint() + QPoint(20, 0));
        const auto &r = session().creature().references[0];
        QVERIFY(std::abs(double(r.across) - 20 * double(r.widthMm()) / box.width()) < 0.5);
        trigger("boardOver");
        QVERIFY(!board->isVisible());
    }
    void brokenPictureIsRefused()
    {
        QFile f(file("broken.png"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write("\x89PNG\r\n\x1a\nno more");
        f.close();
        addPicture(file("broken.png"));
        QVERIFY(find<QLabel>("message")->text().contains("not whole"));
        QVERIFY(session().creature().references.empty() && !session().canUndo());
    }

    void drawMirrorNestAndTurn()
    {
        view().setParallel(true);
        look("left");
        ball("barrel", {0, 90, 0}, 40);
        look("left");
        session().chooseForm(0);
        click("formTile3"); // a limb, begun on the barrel's flank
        drag(&view(), onScreen({0, 80, 20}), onScreen({0, 40, 20}));
        const armature::Form limb = session().creature().armature.forms.back();
        QCOMPARE(limb.parent, form("barrel").id);
        QVERIFY(limb.isMirrored); // away from the middle plane
        QCOMPARE(session().form(), limb.id);
        const Vec3f before = session().creature().armature.worldPlace(limb).translation;
        const Vec3f tip = session().creature().armature.worldPlace(limb).apply(limb.path.back().at);
        QVERIFY(std::abs(tip.y - 40) < 1 && std::abs(tip.z - 20) < 1 && before.x > 20);
        // Turning the parent by 90 degrees about the crown takes the child along: (x, z) to (z, -x).
        session().chooseForm(form("barrel").id);
        QTest::qWait(30);
        find<QDoubleSpinBox>("turn1")->setValue(90);
        QTest::qWait(30);
        const armature::Form &turned = *session().creature().armature.find(limb.id);
        const Vec3f now = session().creature().armature.worldPlace(turned).apply(turned.path.back().at);
        QVERIFY2(length(now - Vec3f{tip.z, tip.y, -tip.x}) < 0.05f, qPrintable(QString::number(double(now.x))));
    }
    void clickSetsAFormDownAlongTheNormal()
    {
        look("left");
        ball("head", {0, 90, 0}, 30);
        look("left");
        click("formTile5"); // a cone
        const QPoint at = onScreen({0, 105, 10});
        QTest::mouseClick(&view(), Qt::LeftButton, {}, at);
        QTest::qWait(30);
        QCOMPARE(session().creature().armature.forms.size(), std::size_t(2));
        const armature::Form &horn = session().creature().armature.forms.back();
        QVERIFY(horn.isMirrored && horn.parent == form("head").id);
        const Transform world = session().creature().armature.worldPlace(horn);
        const Vec3f from = world.apply(horn.path[0].at), to = world.apply(horn.path[1].at);
        QVERIFY(length(from - Vec3f{0, 90, 0}) < 30 && length(to - Vec3f{0, 90, 0}) > 30); // half sunk
        // Out of a ball the normal goes through its middle.
        QVERIFY(dot(normalized(to - from), normalized((from + to) * 0.5f - Vec3f{0, 90, 0})) > 0.99f);
    }
    void jointsSnapToPlanesAndJoints()
    {
        view().setParallel(true);
        ball("head", {20, 90, 0}, 8);
        ball("other", {-40, 50, 0}, 6);
        look("nose");
        view().frameAll();
        QTest::qWait(20);
        session().chooseForm(form("head").id);
        QTest::qWait(20);
        const float mm = view().projection().mmPerPoint({});
        drag(&view(), onScreen({20, 90, 0}), onScreen({3 * mm, 70, 0}));
        QCOMPARE(joint("head").x, 0.0f); // on the middle plane, although let go three points beside it
        drag(&view(), onScreen(joint("head")),
             onScreen(joint("head")) + (onScreen({-40, 50, 0}) - onScreen(joint("head"))) + QPoint(3, 2));
        QVERIFY(length(joint("head") - Vec3f{-40, 50, 0}) < 1e-3f); // on the other joint
        session().undo();
        drag(&view(), onScreen(joint("head")), onScreen({30, 8 + 3 * mm, 0}));
        QVERIFY(std::abs(joint("head").y - 8) < 1e-3f); // its lowest point on the floor
    }
    void rectangleChoosesAndGroupCarries()
    {
        view().setParallel(true);
        ball("one", {0, 60, 30}, 8);
        ball("two", {0, 80, 10}, 8);
        ball("far", {0, 60, -60}, 8);
        look("left");
        session().chooseForm(0);
        const QPoint a = onScreen({0, 100, 50}), b = onScreen({0, 45, -10});
        QTest::mousePress(&view(), Qt::LeftButton, Qt::ShiftModifier, a);
        QMouseEvent move(QEvent::MouseMove, QPointF(b), view().mapToGlobal(QPointF(b)), Qt::NoButton, Qt::LeftButton,
                         Qt::ShiftModifier);
        QApplication::sendEvent(&view(), &move);
        QTest::mouseRelease(&view(), Qt::LeftButton, Qt::ShiftModifier, b);
        QTest::qWait(30);
        QCOMPARE(session().forms().size(), std::size_t(2));
        QCOMPARE(find<QTreeWidget>("anatomyTree")->selectedItems().size(), 2);
        // Shift and a press adds the third, a second one takes it away.
        for (const std::size_t count : {std::size_t(3), std::size_t(2)}) {
            QTest::mouseClick(&view(), Qt::LeftButton, Qt::ShiftModifier, onScreen({0, 60, -60}));
            QTest::qWait(20);
            QCOMPARE(session().forms().size(), count);
        }
        trigger("group");
        QCOMPARE(form("one").parent, form("group").id);
        QCOMPARE(form("far").parent, 0u);
        const Vec3f was = joint("two");
        QCOMPARE(session().form(), form("group").id);
        const QPoint middle = onScreen(joint("group"));
        drag(&view(), middle, middle + QPoint(0, -40));
        QVERIFY(joint("two").y > was.y + 1 && std::abs(joint("two").z - was.z) < 0.5f);
    }
    void severalMoveByTheirHandle()
    {
        view().setParallel(true);
        ball("one", {0, 60, 30}, 8);
        ball("two", {0, 80, -30}, 8);
        look("left");
        session().chooseForms({form("one").id, form("two").id});
        QTest::qWait(20);
        const Vec3f a = joint("one"), b = joint("two");
        const QPoint middle = onScreen((a + b) * 0.5f);
        drag(&view(), middle, middle + QPoint(25, 0));
        QVERIFY(joint("one").z < a.z - 1);
        QVERIFY(length((joint("one") - a) - (joint("two") - b)) < 1e-3f);
        QCOMPARE(session().history().at(), std::size_t(3)); // one step
    }
    void curveIsDraggedSoftly()
    {
        view().setParallel(true);
        session().run({{"do", "form.add"},
                       {"kind", "tube"},
                       {"name", "tail"},
                       {"path", {{0, 60, 40, 5}, {0, 60, 20, 5}, {0, 60, 0, 5}, {0, 60, -20, 5}, {0, 60, -40, 4}}}});
        look("left");
        session().chooseForm(form("tail").id);
        window().hand().armature().setCurveReach(0.375f); // 30 of 80 mm
        QTest::qWait(20);
        drag(&view(), onScreen({0, 60, 0}), onScreen({0, 80, 0}));
        const auto &f = form("tail");
        const auto y = [&](std::size_t i) { return session().creature().armature.worldPlace(f).apply(f.path[i].at).y; };
        QVERIFY2(std::abs(y(2) - 80) < 1, qPrintable(QString::number(double(y(2)))));
        QVERIFY(std::abs(y(1) - 65) < 0.5f); // the raised cosine 20 mm away: a quarter of 20
        QVERIFY(std::abs(y(0) - 60) < 1e-3f);
        QCOMPARE(window().hand().armature().curvePoint(), std::size_t(2));
        click("sectionCurve");
        QTest::qWait(20);
        click("curveInsert");
        QTest::qWait(20);
        QCOMPARE(form("tail").path.size(), std::size_t(6));
        click("curveStraight");
        QTest::qWait(20);
        for (const auto &p : form("tail").path)
            QVERIFY(std::abs(session().creature().armature.worldPlace(form("tail")).apply(p.at).y - 60) < 1e-3f);
    }
    void sizesAreDraggedByTheirHandles()
    {
        view().setParallel(true);
        session().run({{"do", "form.add"}, {"kind", "block"}, {"name", "brick"}, {"at", {0, 60, 0}}, {"radii", {10, 12, 20}}});
        look("left");
        session().chooseForm(form("brick").id);
        QTest::qWait(20);
        drag(&view(), onScreen({0, 60, 20}), onScreen({0, 60, 30}));
        QVERIFY(std::abs(form("brick").radii.z - 30) < 0.6f && form("brick").radii.y == 12);
        session().run({{"do", "form.add"},
                       {"kind", "cylinder"},
                       {"name", "pipe"},
                       {"path", {{0, 20, 40, 10}, {0, 40, 40, 10}}},
                       {"bore", 0.5}});
        session().chooseForm(form("pipe").id);
        view().frameChosen();
        QTest::qWait(20);
        drag(&view(), onScreen({0, 40, 35}), onScreen({0, 40, 32})); // half the radius from the axis, to eight tenths
        QVERIFY2(std::abs(form("pipe").bore - 0.8f) < 0.03f, qPrintable(QString::number(double(form("pipe").bore))));
    }
    void branchIsBentWithAPreview()
    {
        view().setParallel(true);
        session().run({{"do", "form.add"}, {"kind", "limb"}, {"name", "neck"}, {"path", {{0, 40, 0, 5}, {0, 80, 0, 4}}}});
        session().run(
            {{"do", "form.add"}, {"kind", "ball"}, {"name", "head"}, {"parent", "neck"}, {"at", {0, 84, 0}}, {"radius", 6}});
        look("left");
        session().chooseForm(form("neck").id);
        QTest::qWait(20);
        click("deformBegin");
        auto *amount = find<ValueSlider>("deformAmount");
        emit amount->edited(60);
        QTest::qWait(60);
        QVERIFY(joint("head").z == 0); // seen, not done
        click("deformApply");
        QTest::qWait(60);
        QVERIFY(joint("head").z > 10); // towards the nose
        session().undo();
        QVERIFY(joint("head").z == 0);
    }
    void tapeMeasuresLengthGirthAndAngle()
    {
        view().setParallel(true);
        session().run({{"do", "form.add"}, {"kind", "limb"}, {"name", "leg"}, {"path", {{0, 20, 0, 10}, {0, 100, 0, 10}}}});
        look("left");
        click("formTile16");
        drag(&view(), onScreen({0, 40, 0}), onScreen({0, 80, 0}));
        QVERIFY(std::abs(*view().tape().value() - 40) < 1);
        find<QComboBox>("tapeKind")->setCurrentIndex(1);
        emit find<QComboBox>("tapeKind")->activated(1);
        QTRY_VERIFY_WITH_TIMEOUT(view().liveSkin().surface() && !view().liveSkin().isBusy(), 5000);
        drag(&view(), onScreen({0, 60, 20}), onScreen({0, 60, -20}));
        QVERIFY(view().tape().value());
        QVERIFY2(std::abs(*view().tape().value() - 20 * std::numbers::pi_v<float>) < 0.7f,
                 qPrintable(QString::number(double(*view().tape().value()))));
        emit find<QComboBox>("tapeKind")->activated(2);
        for (const Vec3f p : {Vec3f{0, 90, 0}, Vec3f{0, 50, 0}, Vec3f{0, 50, 40}})
            QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen(p));
        QVERIFY(std::abs(*view().tape().value() - 90) < 15); // on the round limb the places lie at different depths
    }
    void partGoesOnTheEndOfALimb()
    {
        view().setParallel(true);
        session().run({{"do", "form.add"},
                       {"kind", "limb"},
                       {"name", "shank"},
                       {"mirror", true},
                       {"path", {{20, 70, 0, 8}, {20, 30, 0, 5}}}});
        look("left");
        click("formTile15");
        auto *shelf = find<QListWidget>("partShelf");
        QVERIFY(shelf->count() >= 12);
        const auto hoof = shelf->findItems("Hoof", Qt::MatchExactly);
        QCOMPARE(hoof.size(), 1);
        shelf->setCurrentItem(hoof.first());
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen({20, 31, 0}));
        QTest::qWait(50);
        const armature::Form &root = form("pastern");
        QCOMPARE(root.parent, form("shank").id);
        QVERIFY(root.isMirrored && length(joint("pastern") - Vec3f{20, 30, 0}) < 1e-3f);
        QVERIFY(std::abs(session().creature().armature.worldPlace(root).scale.x - 5.0f / 4) < 1e-3f); // made for 4 mm
        QCOMPARE(session().form(), root.id);
        session().undo();
        QCOMPARE(session().creature().armature.forms.size(), std::size_t(1));
    }
    void cageIsDrawnExtrudedAndMadeAPiece()
    {
        view().setParallel(true);
        look("left");
        click("formTile14");
        drag(&view(), onScreen({0, 60, 0}), onScreen({0, 70, 0}));
        QCOMPARE(session().creature().cages.size(), std::size_t(1));
        const auto cage = [&]() -> const document::Cage & { return *session().creature().cages.front(); };
        QVERIFY(std::abs(cage().mesh.positions[7].y - cage().mesh.positions[0].y - 20) < 1);
        find<QSpinBox>("cageSmooth")->setValue(0);
        QTest::qWait(20);
        // Seen from the left flank the face towards the viewer is chosen by a press, and moved by its handle.
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen({0, 63, 3}));
        QTest::qWait(20);
        QCOMPARE(window().hand().armature().cageChoice().faces.size(), std::size_t(1));
        const mesh::Face face = cage().mesh.faces[window().hand().armature().cageChoice().faces[0]];
        for (int k = 0; k < 4; ++k)
            QVERIFY(cage().mesh.positions[face.v[std::size_t(k)]].x > 5);
        find<QDoubleSpinBox>("cageWidth")->setValue(3);
        click("cageInset");
        QTest::qWait(20);
        QCOMPARE(cage().mesh.faces.size(), std::size_t(10));
        click("cageExtrude");
        QTest::qWait(20);
        QCOMPARE(cage().mesh.faces.size(), std::size_t(14));
        QVERIFY(mesh::measure(cage().mesh).closed);
        const double before = mesh::measure(cage().mesh).centreOfMassMm[1];
        const mesh::Face &now = cage().mesh.faces[window().hand().armature().cageChoice().faces[0]];
        Vec3f middle;
        for (int k = 0; k < 4; ++k)
            middle += cage().mesh.positions[now.v[std::size_t(k)]] * 0.25f;
        drag(&view(), onScreen(middle), onScreen(middle + Vec3f{0, 6, 0}));
        QVERIFY(mesh::measure(cage().mesh).centreOfMassMm[1] > before + 0.05);
        QCOMPARE(find<QTreeWidget>("anatomyTree")->findItems("box", Qt::MatchExactly).size(), 1);
        click("cagePiece");
        QTest::qWait(30);
        QVERIFY(session().creature().cages.empty() && session().creature().pieces.size() == 1);
        session().undo();
        QCOMPARE(session().creature().cages.size(), std::size_t(1));
    }
    void cagePointsAndEdgesAreChosenInTheView()
    {
        view().setParallel(true);
        look("left");
        // A sheet that faces the viewer, 20 mm long and high.
        QVERIFY(session().run({{"do", "cage.add"},
                               {"kind", "sheet"},
                               {"at", {10, 60, 0}},
                               {"normal", {1, 0, 0}},
                               {"size", {20, 1, 20}},
                               {"smooth", 0}}));
        session().chooseItem(session().creature().cages.front()->id);
        QTest::qWait(30);
        const auto cage = [&]() -> const document::Cage & { return *session().creature().cages.front(); };
        const auto choice = [&]() -> const CageChoice & { return window().hand().armature().cageChoice(); };
        QVERIFY(!find<QPushButton>("cageRing")->isEnabled());
        const Vec3f corner = cage().mesh.positions[2];
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen(corner));
        QTest::qWait(20);
        QCOMPARE(choice().points, std::vector<std::uint32_t>{2});
        drag(&view(), onScreen(corner), onScreen(corner + Vec3f{0, 6, 0})); // by its handle: the point alone goes
        QVERIFY(std::abs(cage().mesh.positions[2].y - corner.y - 6) < 0.5f);
        for (const std::size_t k : {0u, 1u, 3u})
            QVERIFY(std::abs(std::abs(cage().mesh.positions[k].y - 60) - 10) < 1e-3f);
        session().undo();
        QTest::qWait(20);

        const mesh::Face face = cage().mesh.faces.front();
        const Vec3f a = cage().mesh.positions[face.v[0]], b = cage().mesh.positions[face.v[1]];
        QTest::mouseClick(&view(), Qt::LeftButton, {}, onScreen((a + b) * 0.5f));
        QTest::qWait(20);
        QCOMPARE(choice().edges.size(), std::size_t(1));
        QVERIFY(choice().points.empty() && choice().faces.empty());
        QVERIFY(find<QPushButton>("cageRing")->isEnabled() && !find<QPushButton>("cageInset")->isEnabled());
        find<QDoubleSpinBox>("cageWidth")->setValue(5);
        click("cageExtend");
        QTest::qWait(20);
        QCOMPARE(cage().mesh.faces.size(), std::size_t(2));
        QVERIFY(std::abs(mesh::measure(cage().mesh).areaMm2 - (400 + 100)) < 0.5); // 20 x 20 and 20 x 5 beside it
        session().undo();
        QTest::qWait(20);
        click("cageRing");
        QTest::qWait(20);
        QCOMPARE(cage().mesh.faces.size(), std::size_t(2));
        QVERIFY(std::abs(mesh::measure(cage().mesh).areaMm2 - 400) < 0.5);
    }
    void compassWordsAreWays()
    {
        look("left");
        const QPoint right(view().width() - 44 - 18 + 31, 60); // from the left flank the tail points right
        QTest::mouseClick(&view(), Qt::LeftButton, {}, right);
        QTest::qWait(20);
        QCOMPARE(view().viewKey(), QStringLiteral("tail"));
    }
    void copiesAreSetInTheHand()
    {
        ball("bead", {10, 50, 0}, 3);
        session().run({{"do", "form.repeat"},
                       {"form", "bead"},
                       {"mode", "around"},
                       {"count", 5},
                       {"centre", {0, 50, 0}},
                       {"axis", {0, 1, 0}}});
        session().chooseForm(form("bead").id);
        QTest::qWait(20);
        click("sectionCopies");
        QTest::qWait(20);
        find<QDoubleSpinBox>("repeatSpread")->setValue(180);
        QTest::qWait(20);
        find<QDoubleSpinBox>("repeatSizeLast")->setValue(0.5);
        QTest::qWait(20);
        const auto places = placesOf(session().creature().armature, form("bead"));
        QVERIFY(length(places.back().translation - Vec3f{-10, 50, 0}) < 1e-3f); // half a turn from the first
        QVERIFY(std::abs(places.back().scale.x - 0.5f) < 1e-4f);
        find<QAbstractButton>("copyHidden")->click();
        QTest::qWait(20);
        QCOMPARE(placesOf(session().creature().armature, form("bead")).size(), std::size_t(4));
        click("sectionJoint");
        QTest::qWait(20);
        find<QDoubleSpinBox>("jointHigh0")->setValue(45);
        QTest::qWait(20);
        QCOMPARE(form("bead").joint.high.x, 45.0f);
    }
};

BONEMOSS_TEST(TestPlan)
#include "tst_plan.moc"
