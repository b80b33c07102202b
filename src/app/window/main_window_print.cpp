// The Print menu: what makes a print of a creature.
#include "app/dialogs/command_dialog.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "command/fields.h"
#include "command/proof/print_fields.h"

#include <QMenuBar>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

void MainWindow::buildPrintMenu()
{
    QMenu *print = menuBar()->addMenu(tr("&Print"));
    add(print, tr("&Seal into one body"), "printSeal", {}, [this] {
        if (!m_session.runLong(toCommand(command::SealBody{}), this))
            return;
        m_session.choosePiece(m_session.creature().pieces.back()->id);
        reportNotes(tr("Sealed"), tr("Everything that was shown is one piece now:"));
    });
    add(print, tr("&Flatten the underside…"), "printFlatten", {},
        [this] { askOnPiece(command::FlattenSoles{}, {QStringLiteral("by")}); });
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
}

} // namespace bonemoss::app
