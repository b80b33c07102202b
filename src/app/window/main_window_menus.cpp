// The menus of the window: every action with its words, its key and what it does.
#include "app/anatomy/pose_panel.h"
#include "app/anatomy/colour_panel.h"
#include "app/hand/colour_hand.h"
#include "app/window/main_window.h"
#include "app/theme/table_words.h"

#include "app/anatomy/anatomy_panel.h"
#include "app/anatomy/layers_panel.h"
#include "app/angles/angles_strip.h"
#include "app/dialogs/dialogs.h"
#include "app/hand/hand_panel.h"
#include "app/hand/tile.h"
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/pen_simulator.h"
#include "app/window/recipe_player.h"
#include "command/fields.h"
#include "command/forms/form_fields.h"
#include "document/ops/portraits.h"

#include <QFileDialog>
#include <QActionGroup>
#include <QMenuBar>
#include <QSettings>
#include <QSplitter>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

void MainWindow::showHeldKeys()
{
    const auto key = [this](const char *id) { return m_keys.keyOf(QLatin1String(id)).toString(QKeySequence::NativeText); };
    m_handPanel->setHeldWords(tr("%1 dig · %2 smooth · %3 mask").arg(key("holdDig"), key("holdSmooth"), key("holdMask")));
}

void MainWindow::buildMenus()
{
    buildFileMenu();
    buildEditMenu();
    buildViewMenu();
    buildCreatureMenu();
    buildSurfaceMenu();
    buildMaskMenu();
    buildPrintMenu();
    buildHelpMenu();
}

void MainWindow::buildFileMenu()
{
    QMenu *file = menuBar()->addMenu(tr("&File"));
    add(file, tr("&New"), "new", QKeySequence::New, [this] {
        if (maySwitch())
            m_session.startNew();
    });
    add(file, tr("&Open…"), "open", QKeySequence::Open, [this] { open(); });
    add(file, tr("Start &page…"), "startPage", {}, [this] { showStartPage(); });
    file->addSeparator();
    add(file, tr("&Save"), "save", QKeySequence::Save, [this] { save(); });
    add(file, tr("Save &as…"), "saveAs", QKeySequence(tr("Ctrl+Shift+S")), [this] { saveAs(); });
    file->addSeparator();
    add(file, tr("&Import mesh…"), "import", {}, [this] { importMesh(); });
    add(file, tr("Add &pictures…"), "addPictures", {}, [this] { addPictures(); });
    add(file, tr("&Export mesh…"), "export", {}, [this] { exportMesh(); });
    add(file, tr("Write &recipe…"), "recipe", {}, [this] { writeRecipe(); });
    add(file, tr("&Watch a recipe…"), "watch", {}, [this] {
        const QString path =
            QFileDialog::getOpenFileName(this, tr("Watch a recipe, step by step"), {}, tr("Recipes (*.recipe.json)"));
        if (!path.isEmpty() && maySwitch()) {
            m_session.startNew();
            m_player->start(path);
        }
    });
    add(file, tr("S&top the recipe"), "stopRecipe", QKeySequence(tr("Ctrl+.")), [this] { m_player->stop(); });
    file->addSeparator();
    add(file, tr("&Quit"), "quit", QKeySequence::Quit, [this] { close(); });
}

void MainWindow::buildEditMenu()
{
    QMenu *edit = menuBar()->addMenu(tr("&Edit"));
    m_undo = add(
        edit, tr("&Undo"), "undo", QKeySequence::Undo, [this] { m_session.undo(); }, When::CanUndo);
    m_redo = add(
        edit, tr("&Redo"), "redo", QKeySequence::Redo, [this] { m_session.redo(); }, When::CanRedo);
    add(edit, tr("&History…"), "history", QKeySequence(tr("Ctrl+H")), [this] { showHistory(); });
    edit->addSeparator();
    const auto duplicate = [this](bool isLinked) {
        if (const nlohmann::json command = rowOf(m_session.bench()).duplication(m_session, isLinked); !command.is_null())
            m_session.run(command);
        else
            showMessage(tr("Nothing is chosen that can be duplicated like that on this bench."), true);
    };
    add(edit, tr("&Linked duplicate"), "duplicateLinked", QKeySequence(tr("Ctrl+Shift+D")), [duplicate] { duplicate(true); });
    add(edit, tr("Du&plicate"), "duplicate", QKeySequence(tr("Ctrl+D")), [duplicate] { duplicate(false); });
    add(edit, tr("&Delete"), "delete", QKeySequence::Delete, [this] {
        const nlohmann::json command =
            m_session.hasChosenHere() ? rowOf(m_session.bench()).deletion(m_session) : nlohmann::json();
        if (command.is_null())
            return showMessage(tr("Nothing is chosen on this bench. Click what you want to delete first."), true);
        m_session.run(command);
    });
    add(edit, tr("&Group forms"), "group", QKeySequence(tr("Ctrl+G")), [this] {
        if (!m_session.form())
            return showMessage(tr("Choose the forms to group first."), true);
        if (m_session.run(toCommand(command::GroupForms{.forms = command::namesOf(m_session.forms())})))
            m_session.chooseForm(m_session.creature().nextId - 1);
    });
    edit->addSeparator();
    add(edit, tr("&Keys…"), "keys", {}, [this] {
        editKeys(this, m_keys);
        showHeldKeys();
    });
}

/// Views side by side, and what is kept in them to compare with.
void MainWindow::buildPanesMenu(QMenu *view)
{
    QMenu *panes = view->addMenu(tr("&Views side by side"));
    auto *one = new QActionGroup(this);
    const std::tuple<int, QString, const char *, QKeySequence> counts[] = {
        {1, tr("&One"), "onePane", QKeySequence(tr("Ctrl+Alt+1"))},
        {2, tr("&Two"), "twoPanes", QKeySequence(tr("Ctrl+Alt+2"))},
        {4, tr("&Four"), "fourPanes", QKeySequence(tr("Ctrl+Alt+4"))},
    };
    for (const auto &[count, title, name, key] : counts) {
        QAction *action = add(panes, title, name, key, [this, count = count] { m_view->setPanes(count); });
        action->setCheckable(true);
        action->setChecked(count == 1);
        one->addAction(action);
        connect(m_view, &CreatureView::paneChanged, action, [this, action, count = count] {
            if (m_view->panes() == count)
                action->setChecked(true);
        });
    }
    QMenu *compare = view->addMenu(tr("Com&pare"));
    add(compare, tr("&Keep this state in the view"), "keepState", {}, [this] {
        const command::History &h = m_session.history();
        m_view->keepInPane(m_session.share(), stepWords(h.steps()[h.at()].title));
    });
    add(compare, tr("&Another creature in the view…"), "keepOther", {}, [this] { keepOtherCreature(); });
    QAction *back =
        add(compare, tr("&Back to the current creature"), "keepNone", {}, [this] { m_view->keepInPane(nullptr, {}); });
    back->setEnabled(false);
    connect(m_view, &CreatureView::paneChanged, back, [this, back] { back->setEnabled(m_view->showsKept()); });
    add(view, tr("C&hoose this camera"), "chooseCamera", {}, [this] {
        m_view->chooseCamera();
        showMessage(tr("This camera is chosen: “Seen by the chosen camera” tints what it does not see."), false);
    });
    addNames(view, tr("Choose a kept c&amera"), "chooseKeptCamera", tr("No camera is kept"), keptCameras(),
             [this](const std::string &name) {
                 if (const auto shot = document::keptCamera(m_session.creature(), name)) {
                     m_view->chooseCamera(portrait::sightOf(shot->camera, shot->aspect));
                     showMessage(tr("“Seen by the chosen camera” tints what %1 does not see.").arg(textOf(name)), false);
                 }
             });
}

void MainWindow::buildViewMenu()
{
    QMenu *view = menuBar()->addMenu(tr("&View"));
    int number = 0;
    for (const portrait::NamedView &v : portrait::anatomicalViews()) {
        const QString key = QString::fromUtf8(v.key.data());
        add(view, textOf(v.title), ("view_" + key.toStdString()).c_str(), QKeySequence(QStringLiteral("Shift+F%1").arg(++number)),
            [this, key] { m_view->lookFrom(key); });
    }
    view->addSeparator();
    add(view, tr("&Frame"), "frame", QKeySequence(Qt::Key_F), [this] { m_view->frameChosen(); });
    add(view, tr("Camera &back"), "cameraBack", QKeySequence(tr("Alt+Left")), [this] { m_view->cameraBack(); });
    add(view, tr("Camera &forward"), "cameraForward", QKeySequence(tr("Alt+Right")), [this] { m_view->cameraForward(); });
    add(view, tr("&Parallel view"), "parallel", QKeySequence(Qt::Key_P),
        [this] { m_view->setParallel(!m_view->camera().isParallel); });
    add(view, tr("&Skin beside the forms"), "showSkin", QKeySequence(tr("Shift+J")),
        [this] { m_view->setShowSkin(!m_view->showsSkin()); });
    QAction *live = add(view, tr("&Live skin over the forms"), "liveSkin", QKeySequence(Qt::Key_J), [] {});
    live->setCheckable(true);
    live->setChecked(m_view->showsLiveSkin());
    connect(live, &QAction::toggled, m_view, &CreatureView::setShowLiveSkin);
    QAction *board = add(view, tr("Picture &board over the view"), "boardOver", QKeySequence(Qt::Key_B), [] {});
    board->setCheckable(true);
    connect(board, &QAction::toggled, this, &MainWindow::showBoardOver);
    buildPanesMenu(view);
    QMenu *looks = view->addMenu(tr("Sho&w skin as"));
    auto *one = new QActionGroup(this);
    for (const LookRow &row : app::looks()) {
        const Look look = row.look;
        QAction *action = add(looks, lookTitle(row), row.id, {}, [this, look] { m_view->setLook(look); });
        action->setCheckable(true);
        action->setChecked(look == Look::Clay);
        one->addAction(action);
        connect(m_view, &CreatureView::paneChanged, action, [this, action, look] {
            if (m_view->look() == look)
                action->setChecked(true);
        });
        if (look == Look::Groups)
            m_groupsShown = action;
    }
    add(view, tr("Solo"), "solo", QKeySequence(Qt::Key_QuoteLeft), [this] {
        if (rowOf(m_session.bench()).solosLayers && m_session.layer() != 0)
            m_layers->soloChosen(); // what is chosen there is a layer
        else
            m_solo.toggle(m_anatomy->chosen());
    });
    add(view, tr("&Hide panels"), "panels", QKeySequence(Qt::Key_F9), [this] {
        m_panelsHidden = !m_panelsHidden;
        for (QWidget *w : {static_cast<QWidget *>(m_left), static_cast<QWidget *>(m_handPanel), static_cast<QWidget *>(m_angles)})
            w->setHidden(m_panelsHidden);
    });
    QAction *times = add(view, tr("Frame and stroke &times"), "times", {}, [this] {});
    times->setCheckable(true);
    connect(times, &QAction::toggled, m_view, &CreatureView::setShowTimes);
    QAction *smooth = add(view, tr("S&mooth edges"), "smoothEdges", {}, [] {});
    smooth->setCheckable(true);
    smooth->setChecked(QSettings().value(QStringLiteral("view/smoothEdges"), true).toBool());
    m_view->setSmoothEdges(smooth->isChecked());
    connect(smooth, &QAction::toggled, this, [this](bool on) {
        QSettings().setValue(QStringLiteral("view/smoothEdges"), on);
        m_view->setSmoothEdges(on);
    });
    QAction *dark = add(view, tr("P&eat theme (dark)"), "dark", {}, [this] {});
    dark->setCheckable(true);
    dark->setChecked(theme().isDark);
    connect(dark, &QAction::toggled, this, &MainWindow::setDark);
}

void MainWindow::buildCreatureMenu()
{
    QMenu *creature = menuBar()->addMenu(tr("&Creature"));
    add(creature, tr("Knit &or re-knit…"), "knitHere", QKeySequence(Qt::Key_K),
        [this] { rowOf(m_session.bench()).showsForms ? knit() : reknit(); });
    add(
        creature, tr("&Knit forms…"), "knit", {}, [this] { knit(); }, When::HasForms);
    add(
        creature, tr("&Re-knit skin…"), "reknit", {}, [this] { reknit(); }, When::HasPiece);
    add(creature, tr("&Refine skin"), "refine", QKeySequence(tr("Ctrl+R")), [this] { refine(); });
    add(
        creature, tr("&Fuse shown pieces…"), "fuse", {}, [this] { fuse(); }, When::HasPiece);
    creature->addSeparator();
    add(creature, tr("&Mirror strokes"), "mirror", QKeySequence(Qt::Key_M), [this] { m_hand.setMirrored(!m_hand.isMirrored()); });
    add(creature, tr("Layer off and on"), "layerToggle", QKeySequence(Qt::Key_L),
        [this] { rowOf(m_session.bench()).hasColours ? m_colours->toggleChosen() : m_layers->toggleChosen(); });
    add(creature, tr("Pick a &colour from the view"), "pickColour", QKeySequence(Qt::Key_E), [this] {
        if (rowOf(m_session.bench()).hasColours)
            m_hand.of<ColourHand>().setPicks(true);
    });
    const auto step = [this](int by) {
        if (rowOf(m_session.bench()).poses)
            m_posePanel->step(by);
    };
    add(creature, tr("Pose &above"), "poseAbove", QKeySequence(tr("Alt+Up")), [step] { step(-1); });
    add(creature, tr("Pose &below"), "poseBelow", QKeySequence(tr("Alt+Down")), [step] { step(1); });
    add(creature, tr("&Previous tool"), "toolBefore", QKeySequence(Qt::Key_Q), [this] { m_hand.toolBefore(); });
    m_keys.addHeld(HeldKey::Smooth, "holdSmooth", tr("Held while stroking: smooth"), Qt::Key_S);
    m_keys.addHeld(HeldKey::Dig, "holdDig", tr("Held while stroking: dig"), Qt::Key_D);
    m_keys.addHeld(HeldKey::Mask, "holdMask", tr("Held while stroking: mask"), Qt::Key_A);
    m_keys.addHeld(HeldKey::Size, "holdSize", tr("Held with a sideways move: size"), Qt::Key_X);
    m_keys.addHeld(HeldKey::Strength, "holdStrength", tr("Held with a sideways move: strength"), Qt::Key_C);
    m_keys.addHeld(HeldKey::Falloff, "holdFalloff", tr("Held with a sideways move: falloff"), Qt::Key_V);
    showHeldKeys();
    for (int n = 1; n <= Tile::kKeys; ++n) {
        auto *action = new QAction(tr("Tile %1").arg(n), this);
        m_keys.add(action, QStringLiteral("tile%1").arg(n), QKeySequence(Tile::keyOf(n)));
        connect(action, &QAction::triggered, this, [this, n] { m_hand.pickTile(n); });
        addAction(action);
    }
    for (int n = 1; const BenchRow &bench : app::benches()) {
        auto *action = new QAction(tr("%1 bench").arg(benchTitle(bench)), this);
        m_keys.add(action, QStringLiteral("benchKey%1").arg(n), QKeySequence(QStringLiteral("Ctrl+%1").arg(n)));
        connect(action, &QAction::triggered, this, [this, b = bench.bench] { m_session.setBench(b); });
        addAction(action);
        ++n;
    }
    creature->addSeparator();
    add(creature, tr("Save branch as &part…"), "savePart", {}, [this] { savePart(); });
    add(creature, tr("&Stand on the floor"), "stand", {}, [this] { m_session.run(toCommand(command::Stand{})); });
    buildPenMenu(creature->addMenu(tr("Pen")));
}

void MainWindow::buildPenMenu(QMenu *pen)
{
    const auto pressure = [&](const QString &text, const char *id, MousePressure mode, float slider) {
        add(pen, text, id, {}, [this, mode, slider] {
            m_hand.setMousePressure(mode, slider);
            showMessage(tr("The mouse presses: %1")
                            .arg(mode == MousePressure::Full    ? tr("fully")
                                 : mode == MousePressure::Speed ? tr("by its speed")
                                                                : tr("at %1 %").arg(int(slider * 100))),
                        false);
        });
    };
    pressure(tr("Mouse presses fully"), "penFull", MousePressure::Full, 1);
    pressure(tr("Mouse presses by its speed"), "penSpeed", MousePressure::Speed, 1);
    pressure(tr("Mouse presses at half"), "penHalf", MousePressure::Slider, 0.5f);
    pen->addSeparator();
    for (const auto &[number, title, first] :
         {std::tuple{1, tr("&First barrel button"), "smooth"}, std::tuple{2, tr("&Second barrel button"), "mask"}}) {
        QMenu *button = pen->addMenu(title);
        auto *one = new QActionGroup(this);
        const QString key = QStringLiteral("pen/barrel%1").arg(number);
        const QString now = QSettings().value(key, QLatin1String(first)).toString();
        for (const auto &[what, words] : {std::pair{"smooth", tr("&Smooth")}, std::pair{"dig", tr("&Dig")},
                                          std::pair{"mask", tr("&Mask")}, std::pair{"none", tr("&Nothing")}}) {
            QAction *action = add(button, words, QStringLiteral("barrel%1_%2").arg(number).arg(what).toUtf8().constData(), {},
                                  [key, what = QLatin1String(what)] { QSettings().setValue(key, what); });
            action->setCheckable(true);
            action->setChecked(now == QLatin1String(what));
            one->addAction(action);
        }
    }
    pen->addSeparator();
    add(pen, tr("Play strokes…"), "penPlay", {}, [this] {
        const QString path = QFileDialog::getOpenFileName(this, tr("Play pen strokes"), {}, tr("Pen strokes (*.pen.json)"));
        QString trouble;
        const auto strokes = path.isEmpty() ? PenSimulator::Strokes{} : PenSimulator::read(path, &trouble);
        if (!trouble.isEmpty())
            showMessage(trouble, true);
        else if (!strokes.empty())
            m_pen->play(strokes);
    });
    add(pen, tr("Keep the last stroke…"), "penKeep", {}, [this] {
        if (m_view->lastPen().empty())
            return showMessage(tr("There is no stroke to keep yet."), true);
        const QString path = askSavePath(this, tr("Keep pen stroke"), {}, {{tr("Pen strokes"), QStringLiteral("pen.json")}});
        std::vector<PenSimulator::Mark> marks;
        for (const auto &m : m_view->lastPen())
            marks.push_back({m.x, m.y, m.pressure, m.timeMs});
        if (!path.isEmpty() && !PenSimulator::write(path, {marks}))
            showMessage(tr("The stroke could not be written to %1.").arg(path), true);
    });
}

void MainWindow::buildHelpMenu()
{
    QMenu *help = menuBar()->addMenu(tr("&Help"));
    add(help, tr("&Find a command…"), "find", QKeySequence(tr("Ctrl+K")), [this] { find(); });
    add(help, tr("&Planning, in the manual"), "manualPlan", {}, [this] { showManual(this, QStringLiteral("plan")); });
    add(help, tr("&Surfaces, in the manual"), "manualSurface", {}, [this] { showManual(this, QStringLiteral("surface")); });
    add(help, tr("&Manual"), "manual", QKeySequence::HelpContents,
        [this] { showManual(this, QLatin1String(rowOf(m_session.bench()).manual)); });
    add(help, tr("&About Bone Moss"), "about", {}, [this] { showAbout(this); });
}

} // namespace bonemoss::app
