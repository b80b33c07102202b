// Nothing is lost by what happens at the same time: undo and background work during a stroke, files that others have open or have
// saved since, work that a killed program is still holding, and names without an ending.
#include "support/run.h"
#include "base/files.h"
#include "store/store.h"
#include "support/window_bench.h"

#include <QFileDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;

class TestKeptWindow : public QObject, test::WindowBench
{
    Q_OBJECT
    std::string path(const char *name) { return file(name).toStdString(); }
    void press()
    {
        QTest::mouseMove(&view(), middle());
        QTest::mousePress(&view(), Qt::LeftButton, {}, middle());
        for (int k = 1; k <= 4; ++k) {
            const QPointF p = middle() + QPointF(6 * k, 2 * k);
            QMouseEvent move(QEvent::MouseMove, p, view().mapToGlobal(p), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(&view(), &move);
        }
    }
    void release()
    {
        QTest::mouseRelease(&view(), Qt::LeftButton, {}, middle() + QPoint(24, 8));
        QTest::qWait(20);
        view().grabFramebuffer(); // everything that is drawn fits what is there
    }
    std::vector<Vec3f> shown() { return skin().shown.positions.flatten(); }
    bool isTold(const QString &words) { return find<QLabel>("message")->text().contains(words); }

    /// What is typed into the dialog that asks where to write.
    static void typeInto(QDialog *d, const QString &name)
    {
        auto *edit = d->findChild<QLineEdit *>(QStringLiteral("fileNameEdit"));
        QVERIFY(edit);
        edit->setText(name);
        QTest::keyClick(edit, Qt::Key_Return);
    }

private slots:
    void initTestCase() { prepare(); }
    void init() { open(); }
    void cleanup() { close(); }

    void undoDuringAStroke()
    {
        knitBall();
        const auto coarse = shown();
        QVERIFY(session().run({{"do", "piece.refine"}}));
        const auto fine = shown();
        QSignalSpy failed(&session(), &Session::failed);
        press();
        key(Qt::Key_Z, Qt::ControlModifier); // the stroke ends, and is taken back
        QVERIFY(shown() == fine);
        QVERIFY(session().canRedo());
        key(Qt::Key_Z, Qt::ControlModifier); // and so is the finer level, under the hand
        QVERIFY(shown() == coarse);
        view().grabFramebuffer();
        release();
        QVERIFY(shown() == coarse);
        QCOMPARE(failed.count(), 0);
        key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(shown().size() == fine.size() && shown() != fine); // nothing of it was lost
    }
    void aCommandDuringAStroke()
    {
        knitBall();
        const auto before = shown();
        press();
        QVERIFY(session().run({{"do", "piece.refine"}}));
        QCOMPARE(session().history().steps()[session().history().at() - 1].title, std::string("Raise"));
        release();
        session().undo();
        QVERIFY(shown().size() == before.size() && shown() != before);
        press();
        trigger("new"); // another creature altogether
        release();
        QVERIFY(session().creature().pieces.empty());
    }
    void whatWasWorkedOutBehindWaitsForTheHand()
    {
        knitBall();
        press();
        session().runInBackground({{"do", "layer.add"}, {"name", "behind"}});
        QTest::qWait(300);
        QVERIFY(session().isWorkingBehind() && skin().layers.empty());
        QTest::keyClick(&view(), Qt::Key_Escape); // no stroke after all
        QTRY_COMPARE(skin().layers.size(), std::size_t(1));
        QTRY_VERIFY(!session().isWorkingBehind());
        release();
    }
    void undoAndRedoAreInTheRescue()
    {
        knitBall();
        for (int k = 0; k < 3; ++k)
            press(), release();
        const auto three = shown();
        session().undo();
        session().undo();
        press(), release();
        const auto last = shown();
        QVERIFY(last != three);
        session().undo();
        session().redo();
        const QString folder = session().rescueFolder();
        const QStringList files = QDir(folder).entryList({"rescue-*.bonemoss"});
        QCOMPARE(files.size(), 1);
        const auto back = command::Rescue::recover((folder + "/" + files[0]).toStdString());
        QVERIFY(back && back->damage.empty());
        QVERIFY(back->creature.pieces[0]->skin.shown.positions.flatten() == last);
    }
    void aNewerSaveOfSomebodyElseIsAskedAbout()
    {
        knitBall();
        QVERIFY(session().save(file("two.bonemoss")) && session().finishSaving());
        QVERIFY(!session().isChanged());
        document::Creature theirs;
        theirs.heightMm = 77;
        QVERIFY(bool((*store::Store::open(path("two.bonemoss")))->save(theirs)));
        press(), release();
        test::answerNextDialog("conflictBox",
                               [](QDialog *d) { qobject_cast<QMessageBox *>(d)->button(QMessageBox::Cancel)->click(); });
        key(Qt::Key_S, Qt::ControlModifier);
        session().finishSaving();
        QCOMPARE(store::loadStore(path("two.bonemoss"))->creature.heightMm, 77.0f);
        QVERIFY(session().isChanged());
        test::answerNextDialog("conflictBox", [](QDialog *d) {
            for (QAbstractButton *b : qobject_cast<QMessageBox *>(d)->buttons())
                if (b->text().contains("Replace"))
                    b->click();
        });
        key(Qt::Key_S, Qt::ControlModifier);
        session().finishSaving();
        QVERIFY(!session().isChanged());
        QVERIFY(store::loadStore(path("two.bonemoss"))->creature.pieces.size() == 1);
        press(), release();
        key(Qt::Key_S, Qt::ControlModifier); // ours is the newest now: nothing to ask
        QVERIFY(session().finishSaving() && !session().isChanged());
    }
    void aFileThatIsOpenElsewhere()
    {
        QVERIFY(bool(store::saveAs(path("held.bonemoss"), {})));
        auto lock = FileLock::take(path(".held.bonemoss.lock"), "the other desk");
        QVERIFY(std::holds_alternative<FileLock>(lock));
        window().setAsksBeforeClosing(true);
        QString words;
        const auto answer = [&](const char *button) {
            test::answerNextDialog("heldBox", [&words, button](QDialog *d) {
                auto *box = qobject_cast<QMessageBox *>(d);
                words = box->text();
                for (QAbstractButton *b : box->buttons())
                    if (b->text().contains(QLatin1String(button)))
                        return b->click();
            });
        };
        answer("Cancel");
        QVERIFY(!window().openPath(file("held.bonemoss")));
        QVERIFY(words.contains("the other desk"));
        answer("copy");
        QVERIFY(window().openPath(file("held.bonemoss")));
        QVERIFY(session().path().isEmpty());
        answer("Take over");
        QVERIFY(window().openPath(file("held.bonemoss")));
        QCOMPARE(session().path(), file("held.bonemoss"));
        lock = FileLock::Failure::Held;                    // they left
        QVERIFY(window().openPath(file("held.bonemoss"))); // nobody to ask about
        QVERIFY(FileLock::isHeld(path(".held.bonemoss.lock")));
        QVERIFY(window().openPath(file("held.bonemoss"))); // nor when it is ourselves
        window().setAsksBeforeClosing(false);
        session().startNew();
        QVERIFY(!FileLock::isHeld(path(".held.bonemoss.lock")));
    }
    void theEndingIsThereBeforeItIsAsked()
    {
        knitBall();
        QVERIFY(writeFile(path("there.bonemoss"), "something else"));
        QString asked;
        test::answerNextDialog("saveDialog", [&](QDialog *d) {
            QTimer::singleShot(300, d, [&asked, d] { // the question about what is there
                if (auto *box = qobject_cast<QMessageBox *>(QApplication::activeModalWidget())) {
                    asked = box->text();
                    box->button(QMessageBox::No)->click();
                }
                d->reject();
            });
            typeInto(d, file("there"));
        });
        trigger("saveAs");
        QVERIFY2(asked.contains("there.bonemoss"), qPrintable(asked));
        QCOMPARE(std::filesystem::file_size(path("there.bonemoss")), std::uintmax_t(14));
        test::answerNextDialog("saveDialog", [&](QDialog *d) { typeInto(d, file("moor 2.5")); });
        trigger("saveAs");
        QVERIFY(session().finishSaving() && QFile::exists(file("moor 2.5.bonemoss")));
    }
    void anEndingThatCannotBeWrittenIsToldAtOnce()
    {
        knitBall();
        QString told;
        test::answerNextDialog("endingBox", [&](QDialog *d) {
            told = qobject_cast<QMessageBox *>(d)->text();
            d->accept();
        });
        test::answerNextDialog("saveDialog", [&](QDialog *d) {
            typeInto(d, file("skin.fbz"));
            QVERIFY(d->isVisible()); // it goes on asking
            typeInto(d, file("skin.ply"));
        });
        trigger("export");
        QVERIFY2(told.contains(".fbz") && told.contains(".obj"), qPrintable(told));
        QVERIFY(QFile::exists(file("skin.ply")) && !QFile::exists(file("skin.fbz")));
    }
    void whatCannotBeOpenedIsToldWhenDropped()
    {
        QVERIFY(writeFile(path("song.ogg"), "la"));
        knitBall();
        const std::size_t steps = session().history().steps().size();
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(file("song.ogg"))});
        QDragEnterEvent enter(QPoint(400, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(&window(), &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(QPointF(400, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(&window(), &drop);
        QVERIFY(isTold("song.ogg"));
        QCOMPARE(session().history().steps().size(), steps);
    }
    // A killed program may still be on its way out when the next one starts.
    void workIsOfferedWhenItsHolderIsGone()
    {
        const std::string folder = session().rescueFolder().toStdString();
        auto rescue = command::Rescue::begin(folder, {}, {"late.bonemoss", {}});
        QVERIFY(rescue && (*rescue)->note({{"do", "form.add"}, {"kind", "ball"}, {"name", "late"}}));
        QVERIFY(bool(store::saveAs(path("now.bonemoss"), {})));
        window().begin(file("now.bonemoss"));
        QCOMPARE(session().path(), file("now.bonemoss"));
        QTimer::singleShot(400, this, [&] { rescue->reset(); });
        QString words;
        test::answerNextDialog("rescueBox", [&](QDialog *d) {
            words = qobject_cast<QMessageBox *>(d)->text();
            qobject_cast<QMessageBox *>(d)->button(QMessageBox::Yes)->click();
        });
        QTRY_VERIFY_WITH_TIMEOUT(words.contains("late.bonemoss"), 60000);
        QTRY_COMPARE(session().creature().armature.forms.size(), std::size_t(1));
    }
    // A form added since the knit is seen beside the skin, as it is written.
    void formsSinceTheKnitAreSeen()
    {
        knitBall();
        view().lookFrom("left");
        const QImage before = stillMiddle();
        QVERIFY(session().run({{"do", "form.add"}, {"kind", "ball"}, {"name", "late"}, {"at", {0, 18, 0}}, {"radius", 9}}));
        QVERIFY(stillMiddle() != before);
        QVERIFY(session().run({{"do", "items.show"}, {"hide", {"late"}}}));
        QVERIFY(stillMiddle() == before);
    }
    void closingWithChangesAsks()
    {
        knitBall();
        window().setAsksBeforeClosing(true);
        test::answerNextDialog("unsavedBox",
                               [](QDialog *d) { qobject_cast<QMessageBox *>(d)->button(QMessageBox::Cancel)->click(); });
        QVERIFY(!window().close());
        QVERIFY(window().isVisible());
        QVERIFY(session().save(file("closed.bonemoss")));
        QVERIFY(window().close()); // saved, or on its way: nothing to ask, and it is whole when the window is gone
        QVERIFY(bool(store::loadStore(path("closed.bonemoss"))));
    }
};

BONEMOSS_TEST(TestKeptWindow)
#include "tst_kept_window.moc"
