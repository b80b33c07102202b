// The Surface menu: what gives pieces new faces.
#include "app/dialogs/command_dialog.h"
#include "app/dialogs/dialogs.h"
#include "app/session/layer_clipboard.h"
#include "app/session/worker.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "store/store.h"
#include "field/knit.h"

#include <QColorDialog>
#include <QFileDialog>
#include <QInputDialog>
#include <QMenuBar>
#include <QPointer>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using nlohmann::json;

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

/// A command on the chosen piece without further questions.
void MainWindow::onPiece(json command)
{
    const document::Piece *piece = pieceInHand();
    if (!piece)
        return;
    command["piece"] = piece->id;
    m_session.runLong(command, this);
}

void MainWindow::askOnPiece(const char *name, json given, const QStringList &asked)
{
    const document::Piece *piece = pieceInHand();
    if (!piece)
        return;
    given["piece"] = piece->id;
    if (const auto command = askCommand(this, name, std::move(given), asked, [this](const json *now) { tryOut(now); }))
        m_session.runLong(*command, this);
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
        askCommand(this, "detail.repeats", {{"piece", piece->id}},
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

void MainWindow::takeLayer()
{
    const document::Piece *piece = pieceInHand();
    if (!piece)
        return;
    const QString file =
        QFileDialog::getOpenFileName(this, tr("Layer of another creature"), QString(), tr("Creatures (*.bonemoss)"));
    if (file.isEmpty())
        return;
    const auto other =
        runOnWorker<Result<store::Loaded>>(this, tr("Opening %1").arg(QFileInfo(file).fileName()), [&](const Progress &p) {
            return store::loadStore(QFile::encodeName(file).toStdString(), p);
        });
    if (!other)
        return showMessage(wordsFor(other.error()), true);
    QStringList names;
    for (const auto &p : other->creature.pieces)
        for (const auto &l : p->skin.layers)
            names << QStringLiteral("%1: %2").arg(QString::fromStdString(p->name), QString::fromStdString(l.name));
    if (names.isEmpty())
        return showMessage(tr("That creature has no layers."), true);
    bool isChosen = false;
    const QString name = QInputDialog::getItem(this, tr("Layer of another creature"), tr("It goes over by where it lies:"), names,
                                               0, false, &isChosen);
    if (isChosen)
        m_session.runLong({{"do", "layer.take"},
                           {"piece", piece->id},
                           {"path", file.toStdString()},
                           {"from", name.section(QStringLiteral(": "), 0, 0).toStdString()},
                           {"layer", name.section(QStringLiteral(": "), 1).toStdString()}},
                          this);
}

void MainWindow::combine(const char *how, const QString &title, const QString &words)
{
    const document::Piece *piece = pieceInHand();
    if (!piece)
        return;
    if (m_session.creature().pieces.size() < 2)
        return showMessage(tr("There is only one piece; two are needed."), true);
    const auto pieces = askPieces(this, m_session.creature(), title, words.arg(QString::fromStdString(piece->name)), piece->id,
                                  {{"do", "pieces.combine"}, {"how", how}}, [this](const json *now) { tryOut(now); });
    if (pieces)
        m_session.runLong({{"do", "pieces.combine"}, {"pieces", *pieces}, {"how", how}}, this);
}

void MainWindow::buildSurfaceMenu()
{
    QMenu *surface = menuBar()->addMenu(tr("&Surface"));
    QMenu *combined = surface->addMenu(tr("&Combine pieces"));
    add(combined, tr("&Join…"), "combineJoin", {},
        [this] { combine("join", tr("Join pieces"), tr("Which pieces become one with %1?")); });
    add(combined, tr("&Cut away…"), "combineCut", {},
        [this] { combine("cut", tr("Cut pieces away"), tr("Which pieces are cut out of %1?")); });
    add(combined, tr("Keep what is c&ommon…"), "combineCommon", {},
        [this] { combine("common", tr("Keep what is common"), tr("Only what %1 has in common with these stays:")); });
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
                this, "pieces.combine",
                {{"pieces", *pieces}, {"how", "join"}, {"melt", 6 * edge}, {"spacing", spacingHere()}, {"where", "seam"}},
                {QStringLiteral("melt"), QStringLiteral("where"), QStringLiteral("spacing")},
                [this](const json *now) { tryOut(now); }, tr("Join softly"),
                tr("The seam melts over so many millimetres and gets new faces; all others stay as they are, or the "
                   "whole is knitted anew.")))
            m_session.runLong(*command, this);
    });
    const auto trim = [this](bool isOutline, const char *keep, bool isFrontOnly) {
        if (!pieceInHand())
            return;
        if (rowOf(m_session.bench()).showsForms)
            m_session.setBench(benchThat(&BenchRow::holdsTools));
        m_view->beginTrim({isOutline, keep, isFrontOnly});
    };
    QMenu *cut = surface->addMenu(tr("&Trim in the view"));
    add(cut, tr("By a &line"), "trimLine", QKeySequence(Qt::Key_T), [trim] { trim(false, "rest", false); });
    add(cut, tr("By an &outline"), "trimOutline", QKeySequence(tr("Shift+T")), [trim] { trim(true, "rest", false); });
    add(
        cut, tr("By an outline, &front limb only"), "trimFront", {}, [trim] { trim(true, "rest", true); }, When::HasPiece);
    cut->addSeparator();
    add(
        cut, tr("&Split along a line"), "partLine", {}, [trim] { trim(false, "both", false); }, When::HasPiece);
    add(
        cut, tr("Split along an o&utline"), "partOutline", {}, [trim] { trim(true, "both", false); }, When::HasPiece);
    QMenu *split = surface->addMenu(tr("&Split"));
    add(
        split, tr("What is &masked"), "splitMask", {},
        [this] {
            onPiece({{"do", "piece.split"}, {"by", "mask"}});
        },
        When::HasPiece);
    add(
        split, tr("&Groups"), "groupsApart", {},
        [this] {
            onPiece({{"do", "piece.split"}, {"by", "groups"}});
        },
        When::HasPiece);
    add(
        split, tr("&Islands"), "splitIslands", {},
        [this] {
            onPiece({{"do", "piece.split"}, {"by", "islands"}});
        },
        When::HasPiece);
    surface->addSeparator();
    add(surface, tr("Look for re&petition…"), "lookForRepeats", {}, [this] { lookForRepeats(); });
    add(surface, tr("Layer of another &creature…"), "layerFromFile", {}, [this] { takeLayer(); });
    add(surface, tr("Paste la&yer"), "pasteLayer", {}, [this] {
        if (const auto paste = pasteLayer())
            onPiece(*paste);
        else
            showMessage(tr("There is no layer to paste; Copy is in the menu of a layer."), true);
    });
    surface->addSeparator();
    add(
        surface, tr("&Hole where it is masked"), "openMask", {},
        [this] {
            onPiece({{"do", "piece.open"}});
        },
        When::HasPiece);
    add(surface, tr("Close holes…"), "closeHoles", {}, [this] { askOnPiece("piece.close", {}, {QStringLiteral("smooth")}); });
    add(surface, tr("&Plate over the mask…"), "plate", {}, [this] {
        askOnPiece("piece.shell", {{"thickness", 2}},
                   {QStringLiteral("thickness"), QStringLiteral("side"), QStringLiteral("rim"), QStringLiteral("name")});
    });
    add(surface, tr("&Offset copy…"), "offset", {}, [this] {
        askOnPiece("piece.offset", {{"by", 2}, {"spacing", spacingHere()}},
                   {QStringLiteral("by"), QStringLiteral("spacing"), QStringLiteral("name")});
    });
    add(surface, tr("&Give thickness…"), "solidify", {}, [this] {
        askOnPiece("piece.solidify", {{"thickness", 2}},
                   {QStringLiteral("thickness"), QStringLiteral("side"), QStringLiteral("rim")});
    });
    surface->addSeparator();
    m_liveKnit = add(surface, tr("&Live re-knit after each stroke"), "liveKnit", QKeySequence(Qt::Key_N), [this] {
        if (const document::Piece *piece = pieceInHand())
            m_session.run({{"do", "piece.set"}, {"piece", piece->id}, {"live", piece->liveSpacing > 0 ? 0.0f : spacingHere()}});
        showLiveKnit();
    });
    m_liveKnit->setCheckable(true);
    connect(&m_session, &Session::creatureChanged, this, &MainWindow::showLiveKnit);
    connect(&m_session, &Session::choiceChanged, this, &MainWindow::showLiveKnit);
    add(surface, tr("Re-&knit where it is masked…"), "reknitMasked", {}, [this] {
        askOnPiece("piece.reknit", {{"spacing", spacingHere()}, {"where", "masked"}}, {QStringLiteral("spacing")});
    });
    add(surface, tr("&Density…"), "density", {}, [this] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        askOnPiece("piece.density",
                   {{"edge", piece ? meanEdgeLength(piece->skin.shown) / 2 : 1},
                    {"where", piece && piece->skin.hasMask() ? "masked" : "all"}},
                   {QStringLiteral("edge"), QStringLiteral("where")});
    });
    add(surface, tr("S&implify…"), "simplify", {}, [this] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        askOnPiece("piece.simplify",
                   {{"faces", piece ? std::max<std::size_t>(4, piece->skin.shown.topology->faceCount() / 4) : 4}},
                   {QStringLiteral("faces"), QStringLiteral("mask")});
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
            m_session.runLong({{"do", "piece.project"}, {"piece", piece->id}, {"onto", pieces->at(1)}}, this);
    });
    surface->addSeparator();
    QMenu *levels = surface->addMenu(tr("Le&vels"));
    const auto level = [this](const char *to) { onPiece({{"do", "piece.level"}, {"to", to}}); };
    add(levels, tr("&Finer"), "levelFiner", QKeySequence(tr("Ctrl+Up")), [level] { level("finer"); });
    add(levels, tr("&Coarser"), "levelCoarser", QKeySequence(tr("Ctrl+Down")), [level] { level("coarser"); });
    levels->addSeparator();
    add(levels, tr("Delete &lower levels"), "levelsLower", {}, [this] {
        onPiece({{"do", "piece.levels.drop"}, {"which", "lower"}});
    });
    add(levels, tr("Delete &higher levels"), "levelsHigher", {}, [this] {
        onPiece({{"do", "piece.levels.drop"}, {"which", "higher"}});
    });
    add(levels, tr("&Rebuild lower levels…"), "levelsFind", {}, [this] {
        askOnPiece("piece.levels.find", {}, {QStringLiteral("count"), QStringLiteral("how")});
    });
    QMenu *even = surface->addMenu(tr("Make s&ymmetric"));
    add(
        even, tr("From the &left"), "evenLeft", {},
        [this] {
            onPiece({{"do", "piece.symmetrise"}, {"from", "left"}});
        },
        When::HasPiece);
    add(
        even, tr("From the &right"), "evenRight", {},
        [this] {
            onPiece({{"do", "piece.symmetrise"}, {"from", "right"}});
        },
        When::HasPiece);
    add(
        even, tr("&Mean of both"), "evenMean", {},
        [this] {
            onPiece({{"do", "piece.symmetrise"}, {"from", "average"}});
        },
        When::HasPiece);
    add(even, tr("Keep the difference as a la&yer"), "evenLayer", {}, [this] {
        onPiece({{"do", "piece.symmetrise"}, {"from", "layer"}});
    });
    surface->addSeparator();
    add(surface, tr("&Colour…"), "paintColour", {}, [this] {
        const document::Piece *piece = pieceInHand();
        if (!piece)
            return;
        const QColor start("#8A7F6A");
        const QColor c = QColorDialog::getColor(
            start, this,
            tr("Colour of %1%2")
                .arg(QString::fromStdString(piece->name), piece->skin.hasMask() ? tr(", where it is masked") : QString()),
            QColorDialog::DontUseNativeDialog);
        if (c.isValid())
            onPiece({{"do", "piece.paint"},
                     {"colour", {c.redF(), c.greenF(), c.blueF()}},
                     {"where", piece->skin.hasMask() ? "masked" : "all"}});
    });
    add(surface, tr("&Finish…"), "paintFinish", {}, [this] {
        const document::Piece *piece = pieceInHand();
        if (piece)
            askOnPiece("piece.paint",
                       {{"gloss", 0.4},
                        {"metal", 0},
                        {"wet", 0},
                        {"translucent", 0},
                        {"where", piece->skin.hasMask() ? "masked" : "all"}},
                       {QStringLiteral("gloss"), QStringLiteral("metal"), QStringLiteral("wet"), QStringLiteral("translucent"),
                        QStringLiteral("where")});
    });
    surface->addSeparator();
    add(surface, tr("R&epair…"), "repair", {}, [this] {
        if (!pieceInHand())
            return;
        const auto command = askCommand(this, "piece.repair", {{"piece", m_session.piece()}}, {QStringLiteral("smooth")});
        if (command && m_session.runLong(*command, this))
            reportNotes(tr("Repair"), tr("This was found and mended; no face was reduced:"));
    });
}

void MainWindow::showLiveKnit()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    m_liveKnit->setChecked(piece && piece->liveSpacing > 0);
}

} // namespace bonemoss::app
