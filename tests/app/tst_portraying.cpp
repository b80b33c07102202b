// The Portrait bench in the real window: the picture that gathers itself, lights placed by their highlight and shadow, cameras, lens and
// focus, mixing, a picture to a file.
#include "app/hand/portrait_hand.h"
#include "app/hand/value_slider.h"
#include "app/window/main_window.h"
#include "portrait/lamps.h"
#include "support/run.h"
#include "support/window_bench.h"

#include <QComboBox>
#include <QFileInfo>
#include <QInputDialog>
#include <QLineEdit>
#include <QListWidget>
#include <QProgressDialog>
#include <QPushButton>
#include <QSpinBox>
#include <QtTest>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;
using nlohmann::json;
using test::drag;

class TestPortraying : public QObject, private test::WindowBench
{
    Q_OBJECT

    const portrait::Stage &stage() { return session().creature().stage; }
    PortraitHand &held() { return window().hand().of<PortraitHand>(); }
    /// The next file dialog is answered by that path.
    void saveAs(const QString &path)
    {
        test::answerNextDialog("QFileDialog", [path](QDialog *d) {
            d->findChild<QLineEdit *>("fileNameEdit")->setText(path);
            QMetaObject::invokeMethod(d, "accept");
        });
    }
    void waitForPicture(int samples)
    {
        QTRY_VERIFY_WITH_TIMEOUT(!view().picture().image().isNull() && view().picture().samples() >= samples, 120000);
    }

private slots:
    void initTestCase() { prepare(); }
    void init()
    {
        open();
        knitBall();
        window().resize(860, 560); // pictures are small then
        session().setBench(Bench::Portrait);
        (void)view().grabFramebuffer();
    }
    void cleanup() { close(); }

    void thePictureGathersItself()
    {
        waitForPicture(1);
        // Without lights of its own it is seen in a ready set: the ball is lit in the middle.
        const QImage first = view().picture().image();
        QVERIFY(first.width() > view().width() - 4 && qGray(first.pixel(first.width() / 2, first.height() / 2)) > 60);
        // A camera that moves starts it again; another bench ends it.
        view().lookFrom("nose");
        QVERIFY(view().picture().image().isNull());
        waitForPicture(1);
        session().setBench(Bench::Sculpt);
        QVERIFY(view().picture().image().isNull());
    }
    void setsAreOneClick()
    {
        click("portraitSet_storm-rim");
        QTRY_COMPARE(stage().lights.size(), std::size_t(3));
        QCOMPARE(stage().ground.kind, std::string("water"));
        find<QAbstractButton>("portraitKeepPlace")->click();
        click("portraitSet_overhead");
        QTRY_COMPARE(stage().lights.size(), std::size_t(1));
        QCOMPARE(stage().ground.kind, std::string("water")); // the place was kept
        session().undo();
        QCOMPARE(stage().lights.size(), std::size_t(3));
    }
    void aLightStandsWhereItsHighlightIs()
    {
        QVERIFY(session().run({{"do", "light.add"}, {"role", "key"}}));
        click("portraitTile_lights");
        waitForPicture(1);
        const QPoint to = middle() + QPoint(30, -40);
        drag(&view(), middle(), to);
        // Mirrored at that place of the ball, the way to the eye goes to the light.
        const mesh::Ray ray = view().projection().rayAt(to);
        const auto hit = castRay(skin().shown, ray);
        QVERIFY(bool(hit));
        const Vec3f out = normalized(view().camera().eye() - hit->point);
        const Vec3f want = hit->normal * (2 * dot(out, hit->normal)) - out;
        const Vec3f is = directionTo(stage().lights[0], view().camera());
        QVERIFY2(length(is - want) < 0.05f,
                 qPrintable(QStringLiteral("%1 %2 %3").arg(double(is.x)).arg(double(is.y)).arg(double(is.z))));
        // Its number can be typed as well, and it goes with a word.
        auto *strength = find<ValueSlider>("lightStrength");
        QVERIFY(strength != nullptr);
        emit strength->released(2.5);
        QTRY_COMPARE(stage().lights[0].strength, 2.5f);
        click("lightRemove");
        QTRY_VERIFY(stage().lights.empty());
    }
    void camerasAreKept()
    {
        click("portraitTile_camera");
        const float before = view().camera().heightAtTarget();
        auto *lens = find<ValueSlider>("shotLens");
        emit lens->edited(35);
        QVERIFY(std::abs(view().camera().heightAtTarget() / before - 1) < 0.01f); // the creature keeps its size
        QTest::mouseClick(&view(), Qt::LeftButton, {}, middle());
        QVERIFY(held().shot().focus > 1); // pressed on the ball
        QTRY_VERIFY_WITH_TIMEOUT(held().shot().camera == view().camera(), 5000);
        QVERIFY(session().run(keepCameraCommand("front", held().shotOf(view().camera()))));
        QCOMPARE(stage().shots.size(), std::size_t(1));
        const portrait::Shot kept = stage().shots[0];
        QVERIFY(std::abs(portrait::lensOf(kept.camera, kept.aspect) - 35) < 0.1f);
        view().lookFrom("tail");
        auto *list = find<QListWidget>("cameraList");
        QCOMPARE(list->count(), 1);
        list->setCurrentRow(0);
        click("cameraLook");
        QVERIFY(length(view().camera().eye() - kept.camera.eye()) < 0.1f);
        click("cameraDelete");
        QTRY_VERIFY(stage().shots.empty());
    }
    void lightsAreMixedAfterwards()
    {
        QVERIFY(session().run({{"do", "portrait.lights"}, {"set", "overhead"}}));
        click("portraitTile_mix");
        waitForPicture(2);
        const QImage was = view().picture().image();
        auto *slider = find<ValueSlider>("mix_Skylight");
        QVERIFY(slider != nullptr);
        emit slider->edited(0);
        const QImage without = view().picture().image();
        QVERIFY(qGray(without.pixel(without.rect().center())) < qGray(was.pixel(was.rect().center())));
        emit slider->edited(2);
        click("mixKeep");
        QTRY_VERIFY(std::abs(stage().lights[0].strength - 1.9f) < 0.01f);
        QVERIFY(held().mix().empty());
    }
    void picturesAreMadeAndCanBeCancelled()
    {
        click("portraitTile_picture");
        auto *look = find<QComboBox>("filmLook");
        look->setCurrentIndex(look->findData("silhouette"));
        emit look->activated(look->currentIndex());
        QTRY_COMPARE(stage().film.look, std::string("silhouette"));
        waitForPicture(1);
        const QImage shown = view().picture().image(); // the view has the same look: a black ball on paper
        QVERIFY(qGray(shown.pixel(shown.rect().center())) < 60 && qGray(shown.pixel(3, 3)) > 200);
        find<QSpinBox>("pictureWidth")->setValue(160), find<QSpinBox>("pictureSamples")->setValue(4);
        saveAs(file("black.png"));
        click("pictureMake");
        QImage made;
        QVERIFY(made.load(file("black.png")));
        QVERIFY(made.size() == QSize(160, 100) && qGray(made.pixel(80, 50)) < 60 && qGray(made.pixel(2, 2)) > 200);
        // A large one is stopped from its dialog, after a rest: nothing is written.
        look->setCurrentIndex(look->findData("clay"));
        emit look->activated(look->currentIndex());
        QTRY_COMPARE(stage().film.look, std::string("clay"));
        find<QSpinBox>("pictureWidth")->setValue(4000), find<QSpinBox>("pictureSamples")->setValue(4000);
        saveAs(file("large.png"));
        bool hasRested = false;
        test::answerNextDialog("progressDialog", [&](QDialog *d) {
            auto *pause = d->findChild<QPushButton *>("progressPause");
            pause->click();
            hasRested = pause->isChecked() && pause->isVisible();
            emit qobject_cast<QProgressDialog *>(d)->canceled(); // its button
        });
        click("pictureMake");
        QVERIFY(hasRested && !QFileInfo::exists(file("large.png")));
        saveAs(file("turn.webp"));
        find<QSpinBox>("pictureWidth")->setValue(64), find<QSpinBox>("pictureSamples")->setValue(2);
        click("turntableMake");
        QVERIFY(QFileInfo(file("turn.webp")).size() > 1000);
        saveAs(file("six.pdf"));
        click("sheetMake");
        QVERIFY(QFileInfo(file("six.pdf")).size() > 1000);
    }
    void labelsOfThePlateArePressedOnTheCreature()
    {
        click("portraitTile_plate");
        auto *name = find<QLineEdit>("plateName");
        name->setText("Ball");
        emit name->editingFinished();
        QTRY_COMPARE(stage().plate.name, std::string("Ball"));
        auto *paper = find<QComboBox>("platePaper");
        paper->setCurrentIndex(1);
        emit paper->activated(1);
        QTRY_COMPARE(stage().plate.paper, std::string("slate"));
        const QPoint at = middle() + QPoint(20, 10), to = middle() + QPoint(-30, -20);
        QTest::mouseClick(&view(), Qt::LeftButton, {}, at);
        QCOMPARE(stage().plate.marks.size(), std::size_t(1));
        const auto hitAt = [&](QPoint p) { return castRay(skin().shown, view().projection().rayAt(p))->point; };
        QVERIFY(length(stage().plate.marks[0].at - hitAt(at)) < 0.1f);
        drag(&view(), at, to);
        QVERIFY(length(stage().plate.marks[0].at - hitAt(to)) < 0.1f);
        QCOMPARE(stage().plate.marks.size(), std::size_t(1));
        // Its words are written in the list, and its page has the rest.
        QTRY_VERIFY(find<ValueSlider>("markRadius") != nullptr);
        emit find<ValueSlider>("markRadius")->released(5);
        QTRY_COMPARE(stage().plate.marks[0].radius, 5.0f);
        find<QListWidget>("plateMarks")->item(0)->setText("near side");
        QTRY_COMPARE(stage().plate.marks[0].text, std::string("near side"));
        find<QComboBox>("plateQuality")->setCurrentIndex(0);
        saveAs(file("plate.pdf"));
        click("plateMake");
        const test::Ran text = test::runProgram("pdftotext", {file("plate.pdf"), "-"});
        QVERIFY2(text.out.contains("Ball") && text.out.contains("near side"), text.out.constData());
        click("markRemove");
        QTRY_VERIFY(stage().plate.marks.empty());
    }
};

BONEMOSS_TEST(TestPortraying)
#include "tst_portraying.moc"
