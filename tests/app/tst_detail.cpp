// The Detail bench in the real window: growths laid, changed, guided and gone over by hand, and the layers they lie in.
#include "support/run.h"
#include "app/hand/value_slider.h"
#include "app/session/layer_clipboard.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "command/growth/growth_fields.h"
#include "document/ops/growths.h"
#include "support/window_bench.h"

#include <QtTest>
#include <QAbstractButton>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QInputDialog>
#include <QMenu>
#include <QMimeData>
#include <QTimer>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;
using nlohmann::json;
using test::drag, test::dragAlong;

class TestDetail : public QObject, private test::WindowBench
{
    Q_OBJECT

    const skin::Layer &top() { return skin().layers.back(); }
    void grow(const char *kind)
    {
        click((std::string("growthTile_") + kind).c_str());
        const std::size_t before = skin().layers.size();
        click("growButton");
        QTRY_COMPARE(skin().layers.size(), before + 1);
        QTRY_VERIFY(find<QAbstractButton>("growAgain")); // the hand holds what has grown
    }
    bool isSameOffsets(const mesh::BlockArray<Vec3f> &a, const mesh::BlockArray<Vec3f> &b) { return a.flatten() == b.flatten(); }
    QWidget *row(std::uint32_t id) { return window().findChild<QWidget *>(QStringLiteral("layerRow_%1").arg(id)); }
    QPoint wordsOf(QWidget *w) { return {40, w->height() - 8}; } ///< of a row, below its slider

private slots:
    void initTestCase() { prepare(); }
    void init()
    {
        open();
        knitBall(0.8);
        session().setBench(Bench::Detail);
        view().lookFrom("left");
    }
    void cleanup() { close(); }

    void everyGrowthByItsTile_data()
    {
        QTest::addColumn<QString>("kind");
        for (const growth::GrowthKind &k : growth::growthKinds())
            QTest::newRow(k.name.data()) << QString::fromUtf8(k.name.data(), qsizetype(k.name.size()));
    }
    void everyGrowthByItsTile()
    {
        QFETCH(QString, kind);
        const auto before = skin().shown.positions.flatten();
        const auto at = session().history().at();
        grow(kind.toUtf8());
        QCOMPARE(session().history().at(), at + 1);
        QCOMPARE(QString::fromUtf8(top().growth->kind->name.data(), qsizetype(top().growth->kind->name.size())), kind);
        QCOMPARE(session().layer(), top().id);
        for (const auto &s : top().growth->kind->settings) // every setting that is folded out has its slider
            if (&s < &top().growth->kind->settings[6])
                QVERIFY(window().findChild<ValueSlider *>(QStringLiteral("growth_")
                                                          + QString::fromUtf8(s.name.data(), qsizetype(s.name.size()))));
        session().undo();
        QVERIFY(skin().shown.positions.flatten() == before);
    }

    void aSettingGrowsItAgain()
    {
        grow("pebbles");
        const auto before = top().offsets;
        const std::uint32_t id = top().id;
        auto *size = find<ValueSlider>("growth_size");
        size->setFocus();
        const auto at = session().history().at();
        QTest::keyClick(size, Qt::Key_PageUp);
        QTRY_VERIFY(session().history().at() > at);
        QCOMPARE(top().id, id);
        QCOMPARE(skin().layers.size(), std::size_t(1));
        QVERIFY(top().growth->value("size") > growthOf(*growth::growthNamed("pebbles")).value("size"));
        QVERIFY(!isSameOffsets(top().offsets, before));
        click("growthSeed");
        QTRY_COMPARE(top().growth->seed, 2u);
        click("sectionGrowthMore");
        QTRY_VERIFY(find<ValueSlider>("growth_dome"));
        // A brush tile lays the growth aside in the hand, and a click on its layer takes it up again.
        click("toolTile_raise");
        QTRY_VERIFY(!find<QAbstractButton>("growAgain"));
        session().chooseLayer(0);
        session().chooseLayer(id);
        QTRY_VERIFY(find<QAbstractButton>("growAgain"));
    }

    void aNewOneIsSetBeforeItGrows()
    {
        click("growthTile_scales");
        auto *size = find<ValueSlider>("growth_size");
        QVERIFY(size);
        emit size->edited(6);
        emit size->released(6);
        QVERIFY(skin().layers.empty());
        click("growButton");
        QTRY_COMPARE(skin().layers.size(), std::size_t(1));
        QCOMPARE(top().growth->value("size"), 6.0f);
    }

    void growsWhereTheMaskLies()
    {
        QVERIFY(session().run({{"do", "mask.shape"}, {"what", "slope"}, {"from", 0}, {"to", 60}}));
        click("growthTile_bumps");
        auto *where = find<QComboBox>("growInside");
        where->setCurrentIndex(1);
        emit where->activated(1);
        click("growButton");
        QTRY_COMPARE(skin().layers.size(), std::size_t(1));
        for (std::size_t v = 0; v < skin().body.size(); ++v)
            if (skin().body[v].y < -2)
                QVERIFY(skin().shown.positions[v] == skin().body[v]);
    }

    // By the clipboard to a creature that was opened later: by where it lies, with its rule; what it was copied from may be gone.
    void aLayerIsPastedOnAnotherCreature()
    {
        auto *paste = window().findChild<QAction *>(QStringLiteral("pasteLayer"));
        QVERIFY(paste);
        for (const char *foreign : {"", "no json", "[1]", R"({"path": 1, "from": "a", "layer": "b"})"}) {
            auto *data = new QMimeData;
            data->setData(QStringLiteral("application/x-bonemoss-layer"), foreign);
            QGuiApplication::clipboard()->setMimeData(data);
            paste->trigger(); // says that there is none
            QVERIFY(skin().layers.empty() && layerOnClipboard().isEmpty());
        }
        QGuiApplication::clipboard()->clear();
        paste->trigger();
        QVERIFY(skin().layers.empty());
        grow("pebbles");
        QVERIFY(session().run({{"do", "layer.set"}, {"layer", top().id}, {"name", "Chin"}, {"strength", 0.5}}));
        const auto shown = skin().shown.positions.flatten();
        QTimer::singleShot(0, [] { // once its menu is open
            auto *menu = qobject_cast<QMenu *>(QApplication::activePopupWidget());
            for (QAction *a : menu ? menu->actions() : QList<QAction *>())
                if (a->text() == QStringLiteral("Copy"))
                    a->trigger();
            if (menu)
                menu->close();
        });
        QWidget *chin = row(top().id);
        QTest::mouseClick(chin, Qt::RightButton, {}, wordsOf(chin));
        QCOMPARE(layerOnClipboard(), QStringLiteral("Chin"));
        close();
        open();
        knitBall(0.8);
        QVERIFY(skin().layers.empty());
        window().findChild<QAction *>(QStringLiteral("pasteLayer"))->trigger();
        QTRY_COMPARE(skin().layers.size(), std::size_t(1));
        QCOMPARE(top().name, std::string("Chin"));
        QCOMPARE(top().strength, 0.5f);
        QVERIFY(top().growth);
        const auto now = skin().shown.positions.flatten(); // the same ball: the same relief
        QCOMPARE(now.size(), shown.size());
        for (std::size_t v = 0; v < now.size(); ++v)
            QVERIFY(length(now[v] - shown[v]) < 1e-3f);
        session().undo();
        QVERIFY(skin().layers.empty());
    }

    void aStrokeIsAGuide()
    {
        grow("scales");
        const auto before = top().offsets;
        drag(&view(), middle() + QPoint(0, -60), middle() + QPoint(0, 60));
        const auto *piece = session().creature().piece(session().piece());
        QCOMPARE(piece->guides.size(), std::size_t(1));
        const auto &points = piece->guides[0].points;
        QVERIFY(points.size() >= 2 && points.front().y > points.back().y + 5);
        QVERIFY(!isSameOffsets(top().offsets, before));
        QVERIFY(view().hint().contains("guide"));
        // A click on it takes it up.
        QTest::mouseClick(&view(), Qt::LeftButton, {}, view().projection().toScreen(points[points.size() / 2]).toPoint());
        auto *size = find<ValueSlider>("guideSize");
        QVERIFY(size);
        emit size->released(2.5);
        QTRY_COMPARE(session().creature().piece(session().piece())->guides[0].size, 2.5f);
        click("guideRemove");
        QTRY_VERIFY(session().creature().piece(session().piece())->guides.empty());
        find<QCheckBox>("growthFlow")->click(); // hair lines over the skin
        QImage plain = view().grabFramebuffer();
        QVERIFY(!plain.isNull());
        drag(&view(), QPoint(4, 300), QPoint(60, 300)); // off the creature: the camera turns
        QVERIFY(session().creature().piece(session().piece())->guides.empty());
    }

    void oneScaleIsPicked()
    {
        grow("shields");
        auto *press = find<QComboBox>("growthPress");
        press->setCurrentIndex(1);
        emit press->activated(1);
        QTRY_VERIFY(view().hint().contains("picks"));
        QTest::mouseClick(&view(), Qt::LeftButton, {}, middle() + QPoint(10, 10));
        auto *lift = find<ValueSlider>("scale_lift");
        QVERIFY(lift);
        emit lift->released(2);
        QTRY_COMPARE(top().growth->edits.size(), std::size_t(1));
        QCOMPARE(top().growth->edits[0].lift, 2.0f);
        click("scale_remove");
        QTRY_COMPARE(top().growth->edits.size(), std::size_t(2));
        QVERIFY(top().growth->edits[1].isMissing);
    }

    void brushesWorkOnALayerOfTheirOwn()
    {
        grow("pebbles");
        const std::uint32_t growth = top().id;
        const auto grown = top().offsets;
        click("toolTile_raise");
        session().chooseLayer(0);
        session().chooseLayer(growth);
        click("toolTile_raise");
        drag(&view(), middle(), middle() + QPoint(40, 0));
        QCOMPARE(skin().layers.size(), std::size_t(2));
        QCOMPARE(top().handOver, growth);
        QVERIFY(!top().offsets.isBlank());
        QVERIFY(isSameOffsets(skin().layer(growth)->offsets, grown));
        QCOMPARE(session().layer(), top().id);
    }

    void whatNoLongerFitsIsMarked()
    {
        grow("bumps");
        QTest::qWait(600);
        auto *again = find<QAbstractButton>("growAllAgain");
        QVERIFY(!again->isVisible());
        QVERIFY(session().run({{"do", "sculpt.stroke"}, {"tool", "raise"}, {"size", 8}, {"samples", {{20, 0, 0}, {19, 5, 0}}}}));
        QTRY_VERIFY_WITH_TIMEOUT(again->isVisible(), 5000);
        again->click();
        QTRY_VERIFY_WITH_TIMEOUT(!again->isVisible(), 5000);
        QVERIFY(document::staleGrowths(*session().creature().piece(session().piece())).empty());
    }

    void growsAgainBehindTheWork()
    {
        grow("bumps");
        QTRY_VERIFY(find<QCheckBox>("growsByItself")->isVisible());
        find<QCheckBox>("growsByItself")->setChecked(true);
        const auto at = session().history().at();
        QVERIFY(session().run({{"do", "sculpt.stroke"}, {"tool", "raise"}, {"size", 8}, {"samples", {{20, 0, 0}, {19, 5, 0}}}}));
        QTRY_COMPARE_WITH_TIMEOUT(session().history().at(), at + 2, 8000); // the stroke, and the growth
        QVERIFY(document::staleGrowths(*session().creature().piece(session().piece())).empty());
        // Undone, it stays undone.
        session().undo();
        QTest::qWait(900);
        QCOMPARE(session().history().at(), at + 1);
        QVERIFY(!session().isWorkingBehind());
        // What is begun on a state that is gone counts for nothing.
        session().runInBackground({{"do", "grow.again"}, {"piece", session().piece()}});
        QVERIFY(session().isWorkingBehind());
        session().undo();
        const auto now = session().history().at();
        QTRY_VERIFY(!session().isWorkingBehind());
        QCOMPARE(session().history().at(), now);
        find<QCheckBox>("growsByItself")->setChecked(false);
    }

    void stampsAreChosenAndTaken()
    {
        click("toolTile_stamp");
        auto *list = find<QListWidget>("stampList");
        QVERIFY(list && list->count() >= 30);
        auto *search = find<QLineEdit>("stampSearch");
        search->setText("claw");
        QTRY_COMPARE(list->count(), 1);
        emit list->itemClicked(list->item(0));
        QCOMPARE(window().hand().settings().stamp, std::string("claw marks"));
        search->clear();
        auto *folder = find<QComboBox>("stampFolder");
        folder->setCurrentText("Wounds");
        emit folder->activated(folder->currentIndex());
        QVERIFY(list->count() >= 4 && list->count() < 15);
        window().hand().change([](sculpt::StrokeSettings &s) { s.size = 6, s.isDragged = false; });
        const auto before = skin().shown.positions.flatten();
        QTest::mouseClick(&view(), Qt::LeftButton, {}, middle());
        QVERIFY(skin().shown.positions.flatten() != before);
        click("stampHarvest");
        QVERIFY(view().hint().contains("takes"));
        QTest::mouseClick(&view(), Qt::LeftButton, {}, middle());
        QCOMPARE(session().creature().stamps.size(), std::size_t(1));
        QCOMPARE(window().hand().settings().stamp, session().creature().stamps[0].name);
        QVERIFY(!view().hint().contains("takes"));
        // A right click on it: other depth and middle, and its end.
        const auto menuOn = [&](int item, const QString &entry) {
            QTimer::singleShot(0, &window(), [entry] {
                auto *menu = qobject_cast<QMenu *>(QApplication::activePopupWidget());
                if (!menu)
                    return;
                for (QAction *a : menu->actions())
                    if (a->text() == entry)
                        a->trigger();
                menu->close();
            });
            auto *stamps = find<QListWidget>("stampList");
            emit stamps->customContextMenuRequested(stamps->visualItemRect(stamps->item(item)).center());
        };
        folder->setCurrentIndex(0);
        emit folder->activated(0);
        const std::string own = session().creature().stamps[0].name;
        test::answerNextDialog("commandDialog", [](QDialog *d) {
            d->findChild<QDoubleSpinBox *>(QStringLiteral("ask_depth"))->setValue(2.5);
            d->findChild<QDoubleSpinBox *>(QStringLiteral("ask_middle"))->setValue(0.25);
            d->accept();
        });
        menuOn(0, "Change…");
        QTRY_COMPARE(session().creature().stamps[0].depth, 2.5f);
        QVERIFY(std::abs(session().creature().stamps[0].picture->middle - 0.25f) < 1e-3f);
        QTRY_COMPARE(window().hand().settings().stamp, own);
        menuOn(0, "Delete");
        QTRY_VERIFY(session().creature().stamps.empty());
        QVERIFY(window().hand().settings().stamp != own);
        session().undo();
        QCOMPARE(session().creature().stamps.size(), std::size_t(1));
        click("stampHarvest"); // a rectangle, twice as wide as it is high
        drag(&view(), middle() - QPoint(40, 20), middle() + QPoint(40, 20));
        QCOMPARE(session().creature().stamps.size(), std::size_t(2));
        const image::HeightPicture &wide = *session().creature().stamps[1].picture;
        QVERIFY(std::abs(double(wide.width) / wide.height - 2) < 0.02);
        click("stampHarvest");
        QTest::keyClick(&view(), Qt::Key_Escape);
        QVERIFY(!view().hint().contains("takes"));
        const auto at = session().history().at();
        drag(&view(), middle() + QPoint(40, 0), middle() + QPoint(60, 20));
        QCOMPARE(session().history().at(), at + 1);
    }

    void rowsAreDraggedAndHaveAMenu()
    {
        for (const char *name : {"low", "middle", "high"})
            QVERIFY(session().run({{"do", "layer.add"}, {"name", name}}));
        const std::uint32_t low = skin().layers[0].id, high = skin().layers[2].id;
        QTest::qWait(50);
        QWidget *from = row(low), *to = row(high);
        QVERIFY(from && to && from->y() > to->y());
        drag(from, wordsOf(from), from->mapFrom(to->parentWidget(), QPoint(40, to->y() + 2)));
        QTRY_COMPARE(skin().layers.back().id, low);
        QTest::qWait(50);
        const auto choose = [&](std::uint32_t id, const QString &entry) {
            QTimer::singleShot(0, &window(), [&, entry] {
                auto *menu = qobject_cast<QMenu *>(QApplication::activePopupWidget());
                QVERIFY(menu);
                for (QAction *a : menu->actions())
                    if (a->text() == entry) {
                        a->trigger();
                        menu->close();
                        return;
                    }
                menu->close();
                QFAIL(qPrintable(entry));
            });
            QTest::mousePress(find<ValueSlider>(("layerStrength_" + std::to_string(id)).c_str()), Qt::RightButton, {},
                              {40, 8}); // on its name
        };
        choose(low, "Show alone");
        QTRY_VERIFY(skin().layers[0].isAside && !skin().layers.back().isAside);
        QTest::qWait(50);
        choose(low, "Show all again");
        QTRY_VERIFY(!skin().layers[0].isAside);
        QTest::qWait(50);
        choose(high, "Lock");
        QTRY_VERIFY(skin().layer(high)->isLocked);
        QTest::qWait(50);
        choose(low, "Duplicate");
        QTRY_COMPARE(skin().layers.size(), std::size_t(4));
        QSignalSpy failures(&session(), &Session::failed);
        session().chooseLayer(high);
        click("toolTile_raise");
        drag(&view(), middle(), middle() + QPoint(30, 0));
        QCOMPARE(failures.count(), 1);
        QVERIFY(failures[0][0].toString().contains("locked"));
    }

    // A layer's name lies over its slider, yet it is not the slider's: dragged, it moves the row; clicked twice, it is changed.
    void aRowIsHeldByItsName()
    {
        for (const char *name : {"low", "high"})
            QVERIFY(session().run({{"do", "layer.add"}, {"name", name}}));
        const std::uint32_t low = skin().layers[0].id, high = skin().layers[1].id;
        QTest::qWait(50);
        const auto slider = [&](std::uint32_t id) { return find<ValueSlider>(("layerStrength_" + std::to_string(id)).c_str()); };
        const QPoint name(20, 8);
        drag(slider(low), name, slider(low)->mapFrom(row(high)->parentWidget(), QPoint(120, row(high)->y() + 2)));
        QTRY_COMPARE(skin().layers.back().id, low);
        QCOMPARE(skin().layer(low)->strength, 1.0f);
        QTest::qWait(50);
        drag(slider(high), {slider(high)->width() / 2, 26}, {slider(high)->width() / 2 + 20, 8}); // by its line
        QTRY_VERIFY(skin().layer(high)->strength > 0.55f && skin().layer(high)->strength < 1);
        QCOMPARE(skin().layers.back().id, low);
        QTest::qWait(50);
        QTimer answer;
        answer.setInterval(20);
        connect(&answer, &QTimer::timeout, this, [] {
            if (auto *asked = qobject_cast<QInputDialog *>(QApplication::activeModalWidget())) {
                asked->setTextValue(QStringLiteral("brow"));
                asked->accept();
            }
        });
        answer.start();
        QTest::mouseDClick(slider(low), Qt::LeftButton, {}, name);
        QTRY_COMPARE(skin().layer(low)->name, std::string("brow"));
        click("toolTile_stamp"); // what strokes go to is told below the view
        session().chooseLayer(low);
        QVERIFY2(view().hint().endsWith("on brow"), qPrintable(view().hint()));
        session().chooseLayer(0);
        QVERIFY(view().hint().endsWith("on the body itself"));
        click("toolTile_mask");
        QVERIFY(!view().hint().contains("body"));
    }

    void saysThatTheSkinIsTooCoarse()
    {
        click("growthTile_pores");
        auto *words = find<QLabel>("growthCoarse");
        QVERIFY(words->isVisible());
        QVERIFY(words->text().contains("mm"));
        const auto faces = skin().shown.topology->faceCount();
        click("growthRefine");
        QTRY_COMPARE(skin().shown.topology->faceCount(), faces * 4);
    }
};

BONEMOSS_TEST(TestDetail)
#include "tst_detail.moc"
