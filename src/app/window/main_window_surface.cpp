// The Surface menu: what gives pieces new faces.
#include "app/hand/colour_button.h"
#include "app/hand/colour_hand.h"
#include "app/dialogs/command_dialog.h"
#include "app/dialogs/dialogs.h"
#include "app/session/layer_clipboard.h"
#include "app/session/worker.h"
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "store/store.h"
#include "field/knit.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "document/ops/rebuild.h"
#include "command/layers/layer_fields.h"
#include "command/marks/mark_fields.h"
#include "command/skin/piece_fields.h"

#include <QFileDialog>
#include <QInputDialog>
#include <QMenuBar>
#include <QPointer>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using nlohmann::json;

namespace {

/// Where it is masked, if anything is.
command::PaintWhere paintWhere(const document::Piece &piece)
{
    return piece.skin.hasMask() ? command::PaintWhere::Masked : command::PaintWhere::All;
}

} // namespace

/// The chosen piece; says so when there is none.
float MainWindow::spacingHere() const
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    return piece ? field::spacingOf(piece->skin.shown) : 1;
}

const document::Piece *MainWindow::pieceInHand()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!piece)
        showMessage(tr("There is no skin yet, or none is chosen; knit the forms or choose a piece first."), true);
    return piece;
}

void MainWindow::askAndRun(const json &given, const QStringList &asked, const Forecast &forecast)
{
    if (const auto command = askCommand(
            this, given, asked, [this](const json *now) { tryOut(now); }, {}, {}, forecast))
        m_session.runLong(*command, this);
}

Forecast MainWindow::offsetForecast() const
{
    return [creature = m_session.share(), id = m_session.piece()](const json &command) {
        const auto faces =
            document::offsetForecast(*creature->piece(id), command.at("by").get<float>(), command.at("spacing").get<float>());
        return faces ? tr("About %1 faces").arg(grouped(*faces)) : wordsFor(faces.error());
    };
}

void MainWindow::tryOut(const json *command)
{
    m_view->showTriedOut(command ? m_session.tryOut(*command, this) : std::shared_ptr<const document::Creature>());
}

/// What the last command said, with buttons that fly to the places it named.
void MainWindow::reportNotes(const QString &title, const QString &intro)
{
    if (!m_session.notes().empty() && m_asks)
        showReport(this, title, intro, m_session.notes(), [view = QPointer(m_view)](std::optional<Vec3f> at) {
            if (view)
                view->showPlace(at);
        });
}

void MainWindow::lookForRepeats()
{
    const document::Piece *piece = pieceInHand();
    if (!piece)
        return;
    const auto command =
        askCommand(this, toCommand(command::LookForRepeats{.piece = piece->id}),
                   {QStringLiteral("width"), QStringLiteral("reach"), QStringLiteral("likeness"), QStringLiteral("how")});
    if (!command)
        return;
    if (command->value("how", std::string("tell")) == "tell")
        m_session.tryOut(*command, this); // nothing is changed, so it is no step of the history
    else if (!m_session.runLong(*command, this))
        return;
    reportNotes(tr("Repetition"), tr("What the eye would catch on:"));
}

/// Another creature in the active view, to look at beside the one in work.
void MainWindow::keepOtherCreature()
{
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Another creature to compare with"), {}, tr("Creatures (*.bonemoss)"));
    if (path.isEmpty())
        return;
    const auto other =
        runOnWorker<Result<store::Loaded>>(this, tr("Opening %1").arg(QFileInfo(path).fileName()), [&](const Progress &p) {
            return store::loadStore(QFile::encodeName(path).toStdString(), p);
        });
    if (!other)
        return showMessage(wordsFor(other.error()), true);
    m_view->keepInPane(std::make_shared<const document::Creature>(std::move(other->creature)),
                       QFileInfo(path).completeBaseName());
}

void MainWindow::takeLayer(bool ofColour)
{
    const document::Piece *piece = pieceInHand();
    if (!piece)
        return;
    const QString title = ofColour ? tr("Colour layer of another creature") : tr("Layer of another creature");
    const QString file = QFileDialog::getOpenFileName(this, title, QString(), tr("Creatures (*.bonemoss)"));
    if (file.isEmpty())
        return;
    const auto other =
        runOnWorker<Result<store::Loaded>>(this, tr("Opening %1").arg(QFileInfo(file).fileName()), [&](const Progress &p) {
            return store::loadStore(QFile::encodeName(file).toStdString(), p);
        });
    if (!other)
        return showMessage(wordsFor(other.error()), true);
    std::vector<std::pair<std::string, std::string>> found; // piece and layer
    for (const auto &p : other->creature.pieces) {
        const auto add = [&](const auto &layers) {
            for (const auto &l : layers)
                found.emplace_back(p->name, l.name);
        };
        ofColour ? add(p->skin.colourLayers) : add(p->skin.layers);
    }
    if (found.empty())
        return showMessage(tr("That creature has no such layers."), true);
    QStringList names;
    for (const auto &[from, layer] : found)
        names << QStringLiteral("%1: %2").arg(QString::fromStdString(from), QString::fromStdString(layer));
    bool isChosen = false;
    const QString name = QInputDialog::getItem(this, title, tr("It goes over by where it lies:"), names, 0, false, &isChosen);
    if (!isChosen)
        return;
    const auto &[from, layer] = found[std::size_t(names.indexOf(name))];
    if (ofColour)
        onPiece(command::TakeColourLayer{.path = file.toStdString(), .layer = layer, .from = from});
    else
        onPiece(command::TakeFromFile{.path = file.toStdString(), .layer = layer, .from = from});
}

void MainWindow::combine(solid::Boolean how, const QString &title, const QString &words)
{
    const document::Piece *piece = pieceInHand();
    if (!piece)
        return;
    if (m_session.creature().pieces.size() < 2)
        return showMessage(tr("There is only one piece; two are needed."), true);
    const auto pieces = askPieces(this, m_session.creature(), title, words.arg(QString::fromStdString(piece->name)), piece->id,
                                  toCommand(command::CombinePieces{.how = how}), [this](const json *now) { tryOut(now); });
    if (pieces)
        m_session.runLong(toCommand(command::CombinePieces{.pieces = command::namesOf(*pieces), .how = how}), this);
}

/// Joins and cuts of pieces.
void MainWindow::addCombining(QMenu *surface)
{
    QMenu *combined = surface->addMenu(tr("&Combine pieces"));
    add(combined, tr("&Join…"), "combineJoin", {},
        [this] { combine(solid::Boolean::Join, tr("Join pieces"), tr("Which pieces become one with %1?")); });
    add(combined, tr("&Cut away…"), "combineCut", {},
        [this] { combine(solid::Boolean::Cut, tr("Cut pieces away"), tr("Which pieces are cut out of %1?")); });
    add(combined, tr("Keep what is c&ommon…"), "combineCommon", {}, [this] {
        combine(solid::Boolean::Common, tr("Keep what is common"), tr("Only what %1 has in common with these stays:"));
    });
    add(combined, tr("Join &softly…"), "combineSoft", {}, [this] {
        const document::Piece *piece = pieceInHand();
        if (!piece || m_session.creature().pieces.size() < 2)
            return piece ? showMessage(tr("There is only one piece; two are needed."), true) : void();
        const auto pieces = askPieces(this, m_session.creature(), tr("Join softly"),
                                      tr("Which pieces melt into %1?").arg(QString::fromStdString(piece->name)), piece->id, {});
        if (!pieces)
            return;
        const float edge = meanEdgeLength(piece->skin.shown);
        if (const auto command = askCommand(
                this,
                toCommand(command::CombinePieces{.pieces = command::namesOf(*pieces),
                                                 .how = solid::Boolean::Join,
                                                 .melt = 6 * edge,
                                                 .spacing = spacingHere(),
                                                 .where = command::CombineWhere::Seam}),
                {QStringLiteral("melt"), QStringLiteral("where"), QStringLiteral("spacing")},
                [this](const json *now) { tryOut(now); }, tr("Join softly"),
                tr("The seam melts over so many millimetres and gets new faces; all others stay as they are, or the "
                   "whole is knitted anew.")))
            m_session.runLong(*command, this);
    });
}

/// Cuts drawn in the view.
void MainWindow::addTrimming(QMenu *surface)
{
    const auto trim = [this](bool isOutline, command::TrimKeep keep, bool isFrontOnly) {
        if (!pieceInHand())
            return;
        if (rowOf(m_session.bench()).showsForms)
            m_session.setBench(benchThat(&BenchRow::holdsTools));
        m_view->beginTrim({isOutline, keep, isFrontOnly});
    };
    QMenu *cut = surface->addMenu(tr("&Trim in the view"));
    add(cut, tr("By a &line"), "trimLine", QKeySequence(Qt::Key_T), [trim] { trim(false, command::TrimKeep::Rest, false); });
    add(cut, tr("By an &outline"), "trimOutline", QKeySequence(tr("Shift+T")),
        [trim] { trim(true, command::TrimKeep::Rest, false); });
    add(
        cut, tr("By an outline, &front limb only"), "trimFront", {}, [trim] { trim(true, command::TrimKeep::Rest, true); },
        When::HasPiece);
    cut->addSeparator();
    add(
        cut, tr("&Split along a line"), "partLine", {}, [trim] { trim(false, command::TrimKeep::Both, false); }, When::HasPiece);
    add(
        cut, tr("Split along an o&utline"), "partOutline", {}, [trim] { trim(true, command::TrimKeep::Both, false); },
        When::HasPiece);
}

/// One piece into several, and layers from elsewhere.
void MainWindow::addSplitting(QMenu *surface)
{
    QMenu *split = surface->addMenu(tr("&Split"));
    add(
        split, tr("What is &masked"), "splitMask", {}, [this] { onPiece(command::SplitPiece{.by = command::SplitBy::Mask}); },
        When::HasPiece);
    add(
        split, tr("&Groups"), "groupsApart", {}, [this] { onPiece(command::SplitPiece{.by = command::SplitBy::Groups}); },
        When::HasPiece);
    add(
        split, tr("&Islands"), "splitIslands", {}, [this] { onPiece(command::SplitPiece{.by = command::SplitBy::Islands}); },
        When::HasPiece);
    surface->addSeparator();
    add(surface, tr("Look for re&petition…"), "lookForRepeats", {}, [this] { lookForRepeats(); });
    add(surface, tr("Layer of another &creature…"), "layerFromFile", {}, [this] { takeLayer(false); });
    add(surface, tr("Colour layer of another creature…"), "colourLayerFromFile", {}, [this] { takeLayer(true); });
    add(surface, tr("Paste la&yer"), "pasteLayer", {}, [this] {
        if (const auto paste = pasteLayer())
            onPiece(*paste);
        else
            showMessage(tr("There is no layer to paste; Copy is in the menu of a layer."), true);
    });
}

/// Holes, plates and copies.
void MainWindow::addCovering(QMenu *surface)
{
    add(
        surface, tr("&Hole where it is masked"), "openMask", {}, [this] { onPiece(command::OpenAtMask{}); }, When::HasPiece);
    add(surface, tr("Close holes…"), "closeHoles", {}, [this] { askOnPiece(command::CloseHoles{}, {QStringLiteral("smooth")}); });
    add(surface, tr("&Plate over the mask…"), "plate", {}, [this] {
        askOnPiece(command::MakeShell{.plate = {.thickness = 2}},
                   {QStringLiteral("thickness"), QStringLiteral("side"), QStringLiteral("rim"), QStringLiteral("name")});
    });
    add(surface, tr("&Offset copy…"), "offset", {}, [this] {
        askOnPiece(command::OffsetCopy{.by = 2, .spacing = spacingHere()},
                   {QStringLiteral("by"), QStringLiteral("spacing"), QStringLiteral("name")}, offsetForecast());
    });
    add(surface, tr("&Give thickness…"), "solidify", {}, [this] {
        askOnPiece(command::Solidify{.plate = {.thickness = 2}},
                   {QStringLiteral("thickness"), QStringLiteral("side"), QStringLiteral("rim")});
    });
}

/// How fine the faces are.
void MainWindow::addFaces(QMenu *surface)
{
    m_liveKnit = add(surface, tr("&Live re-knit after each stroke"), "liveKnit", QKeySequence(Qt::Key_N), [this] {
        if (const document::Piece *piece = pieceInHand())
            m_session.run(
                toCommand(command::SetPiece{.piece = piece->id, .live = piece->liveSpacing > 0 ? 0.0f : spacingHere()}));
        showLiveKnit();
    });
    m_liveKnit->setCheckable(true);
    connect(&m_session, &Session::creatureChanged, this, &MainWindow::showLiveKnit);
    connect(&m_session, &Session::choiceChanged, this, &MainWindow::showLiveKnit);
    add(surface, tr("Re-&knit where it is masked…"), "reknitMasked", {}, [this] {
        askOnPiece(command::Reknit{.density = {.spacing = spacingHere()}, .where = command::ReknitWhere::Masked},
                   {QStringLiteral("spacing")});
    });
    add(surface, tr("&Density…"), "density", {}, [this] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        const bool isMasked = piece && piece->skin.hasMask();
        askOnPiece(command::ChangeDensity{.edge = piece ? meanEdgeLength(piece->skin.shown) / 2 : 1,
                                          .where = isMasked ? command::DensityWhere::Masked : command::DensityWhere::All},
                   {QStringLiteral("edge"), QStringLiteral("where")});
    });
    add(surface, tr("S&implify…"), "simplify", {}, [this] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        const auto faces = piece ? std::uint32_t(piece->skin.shown.topology->faceCount() / 4) : 4u;
        askOnPiece(command::SimplifyPiece{.faces = std::max(4u, faces)}, {QStringLiteral("faces"), QStringLiteral("mask")});
    });
    add(surface, tr("Pro&ject onto a piece…"), "project", {}, [this] {
        const document::Piece *piece = pieceInHand();
        if (!piece)
            return;
        if (m_session.creature().pieces.size() < 2)
            return showMessage(tr("There is only one piece; two are needed."), true);
        const auto pieces =
            askPieces(this, m_session.creature(), tr("Project"),
                      tr("Whose shape do the faces of %1 take?").arg(QString::fromStdString(piece->name)), piece->id, {});
        if (pieces)
            m_session.runLong(toCommand(command::ProjectPiece{.piece = piece->id, .onto = pieces->at(1)}), this);
    });
}

/// Levels of a piece.
void MainWindow::addLevels(QMenu *surface)
{
    QMenu *levels = surface->addMenu(tr("Le&vels"));
    const auto level = [this](command::LevelTo to) { onPiece(command::StepLevel{.to = to}); };
    add(levels, tr("&Finer"), "levelFiner", QKeySequence(tr("Ctrl+Up")), [level] { level(command::LevelTo::Finer); });
    add(levels, tr("&Coarser"), "levelCoarser", QKeySequence(tr("Ctrl+Down")), [level] { level(command::LevelTo::Coarser); });
    levels->addSeparator();
    add(levels, tr("Delete &lower levels"), "levelsLower", {},
        [this] { onPiece(command::DropLevels{.which = command::LevelsDropped::Lower}); });
    add(levels, tr("Delete &higher levels"), "levelsHigher", {},
        [this] { onPiece(command::DropLevels{.which = command::LevelsDropped::Higher}); });
    add(levels, tr("&Rebuild lower levels…"), "levelsFind", {}, [this] {
        askOnPiece(command::FindLevels{}, {QStringLiteral("count"), QStringLiteral("how")});
    });
}

/// Both sides alike.
void MainWindow::addSymmetry(QMenu *surface)
{
    QMenu *even = surface->addMenu(tr("Make s&ymmetric"));
    add(
        even, tr("From the &left"), "evenLeft", {},
        [this] { onPiece(command::SymmetrisePiece{.from = command::SymmetriseFrom::Left}); }, When::HasPiece);
    add(
        even, tr("From the &right"), "evenRight", {},
        [this] { onPiece(command::SymmetrisePiece{.from = command::SymmetriseFrom::Right}); }, When::HasPiece);
    add(
        even, tr("&Mean of both"), "evenMean", {},
        [this] { onPiece(command::SymmetrisePiece{.from = command::SymmetriseFrom::Average}); }, When::HasPiece);
    add(even, tr("Keep the difference as a la&yer"), "evenLayer", {},
        [this] { onPiece(command::SymmetrisePiece{.from = command::SymmetriseFrom::Layer}); });
}

/// Colour and finish.
void MainWindow::addPaint(QMenu *surface)
{
    add(surface, tr("&Colour…"), "paintColour", {}, [this] {
        const document::Piece *piece = pieceInHand();
        if (!piece)
            return;
        const QColor start("#8A7F6A");
        ColourDialog dialog(
            start,
            tr("Colour of %1%2")
                .arg(QString::fromStdString(piece->name), piece->skin.hasMask() ? tr(", where it is masked") : QString()),
            this);
        if (dialog.exec() == QDialog::Accepted)
            onPiece(command::PaintPiece{.colour = fromQt(dialog.colour()), .where = paintWhere(*piece)});
    });
    add(surface, tr("&Finish…"), "paintFinish", {}, [this] {
        const document::Piece *piece = pieceInHand();
        if (piece)
            askOnPiece(
                command::PaintPiece{
                    .gloss = 0.4f, .metal = 0.0f, .wet = 0.0f, .translucent = 0.0f, .grain = 0.0f, .where = paintWhere(*piece)},
                {QStringLiteral("gloss"), QStringLiteral("metal"), QStringLiteral("wet"), QStringLiteral("translucent"),
                 QStringLiteral("grain"), QStringLiteral("where")});
    });
}

/// Mending, and what else is looked for.
void MainWindow::addRepair(QMenu *surface)
{
    add(surface, tr("R&epair…"), "repair", {}, [this] {
        if (!pieceInHand())
            return;
        const auto command =
            askCommand(this, toCommand(command::RepairPiece{.piece = m_session.piece()}), {QStringLiteral("smooth")});
        if (command && m_session.runLong(*command, this))
            reportNotes(tr("Repair"), tr("This was found and mended; no face was reduced:"));
    });
}

void MainWindow::buildSurfaceMenu()
{
    QMenu *surface = menuBar()->addMenu(tr("&Surface"));
    addCombining(surface);
    addTrimming(surface);
    addSplitting(surface);
    surface->addSeparator();
    addCovering(surface);
    surface->addSeparator();
    addFaces(surface);
    surface->addSeparator();
    addLevels(surface);
    addSymmetry(surface);
    surface->addSeparator();
    addPaint(surface);
    surface->addSeparator();
    addRepair(surface);
}

void MainWindow::showLiveKnit()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    m_liveKnit->setChecked(piece && piece->liveSpacing > 0);
}

} // namespace bonemoss::app
