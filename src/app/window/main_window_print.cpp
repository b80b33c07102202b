// The Print menu: what makes a print of a creature.
#include "app/dialogs/command_dialog.h"
#include "app/hand/proof_hand.h"
#include "app/session/worker.h"
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "command/fields.h"
#include "command/proof/print_fields.h"
#include "export/print_sheet.h"
#include "export/shown_scene.h"

#include <QFileDialog>
#include <QMenuBar>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

void MainWindow::buildPrintMenu()
{
    QMenu *print = menuBar()->addMenu(tr("&Print"));
    add(print, tr("&Seal into one body…"), "printSeal", {}, [this] {
        const auto command =
            askCommand(this, toCommand(command::SealBody{}), {QStringLiteral("drop"), QStringLiteral("keepShown")});
        if (!command || !m_session.runLong(*command, this))
            return;
        m_session.choosePiece(m_session.creature().pieces.back()->id);
        reportNotes(tr("Sealed"), tr("Everything that was shown is one piece now:"));
    });
    add(print, tr("&Flatten the underside…"), "printFlatten", {},
        [this] { askOnPiece(command::FlattenSoles{}, {QStringLiteral("by")}); });
    add(print, tr("Th&icken…"), "printThicken", {}, [this] { askOnPiece(command::ThickenPiece{}, {QStringLiteral("wall")}); });
    print->addSeparator();
    add(print, tr("&Hollow…"), "printHollow", {}, [this] {
        askOnPiece(command::HollowPiece{},
                   {QStringLiteral("wall"), QStringLiteral("hole"), QStringLiteral("holes"), QStringLiteral("plugs")});
    });
    add(
        print, tr("Cut into &parts along a line"), "printPart", {},
        [this] {
            if (!pieceInHand())
                return;
            if (!rowOf(m_session.bench()).holdsTools) // where lines are drawn across pieces
                m_session.setBench(benchThat(&BenchRow::holdsTools));
            TrimPlan plan;
            plan.keep = command::TrimKeep::Both, plan.isPegged = true;
            m_view->beginTrim(plan);
        },
        When::HasPiece);
    add(print, tr("&Base…"), "printBase", {}, [this] {
        askOnPiece(command::AddBase{}, {QStringLiteral("shape"), QStringLiteral("thickness"), QStringLiteral("margin"),
                                        QStringLiteral("sink"), QStringLiteral("joined")});
    });
    print->addSeparator();
    add(print, tr("&Turn to print…"), "printOrient", {},
        [this] { askOnPiece(command::OrientPiece{}, {QStringLiteral("choice")}); });
    add(print, tr("S&upports…"), "printSupports", {}, [this] { askOnPiece(command::AddSupports{}, {QStringLiteral("apart")}); });
    print->addSeparator();
    add(print, tr("Print s&heet…"), "printSheet", {}, [this] { savePrintSheet(); });
}

/// A page with views, sizes and the findings that are left.
void MainWindow::savePrintSheet()
{
    const QString file =
        QFileDialog::getSaveFileName(this, tr("Print sheet"), QStringLiteral("print-sheet.pdf"), tr("Page (*.pdf *.png)"));
    if (file.isEmpty())
        return;
    const auto creature = m_session.share();
    const ProofHand &hand = m_hand.of<ProofHand>();
    const std::filesystem::path path = QFile::encodeName(file).toStdString();
    const auto done = runOnWorker<Status>(this, tr("Print sheet"), [&](const Progress &progress) -> Status {
        const auto report =
            proof::prove(exporting::printScene(*creature), {.profile = hand.profile(), .heightMm = hand.height()}, progress);
        if (!report)
            return report.error();
        const auto page = exporting::printSheet(*creature, hand.profile(), *report, {}, progress);
        if (!page)
            return page.error();
        return exporting::writePages(path, std::span(&*page, 1), creature->stage.plate.name, 150);
    });
    if (!done)
        return m_session.complain(textOf(done.error().text()));
    showMessage(tr("The sheet is in %1.").arg(file), false);
}

} // namespace bonemoss::app
