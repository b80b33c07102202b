// Pictures to work from: taken in, lined up, shown on the board; branches kept as parts.
#include "app/dialogs/dialogs.h"
#include "app/anatomy/picture_board.h"
#include "app/anatomy/pictures_panel.h"
#include "app/anatomy/plan_panel.h"
#include "app/hand/value_slider.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "store/part.h"
#include "command/fields.h"
#include "command/pictures/picture_fields.h"

#include <QAbstractSpinBox>
#include <QComboBox>
#include <QEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QRegularExpression>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

bool MainWindow::isPicture(const QString &path)
{
    static const QRegularExpression ending(QStringLiteral("\\.(png|jpe?g|tiff?|exr)$"),
                                           QRegularExpression::CaseInsensitiveOption);
    return path.contains(ending);
}

void MainWindow::addPictures()
{
    const QStringList paths = QFileDialog::getOpenFileNames(this, tr("Add pictures to work from"), {},
                                                            tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.exr)"));
    for (const QString &path : paths)
        addPicture(path);
}

/// On the anatomical view one looks from, else on the board.
void MainWindow::addPicture(const QString &path)
{
    const QString view = m_view->viewKey();
    if (!m_session.runLong(toCommand(command::AddPicture{
                               .path = QFileInfo(path).absoluteFilePath().toStdString(),
                               .changes = {.view = view.isEmpty() ? std::string(document::kBoard) : view.toStdString()}}),
                           this))
        return;
    m_session.choosePicture(m_session.creature().references.back().id);
    m_session.setBench(benchThat(&BenchRow::showsForms));
    m_plan->showPage(m_pictures);
}

void MainWindow::lineUp(std::uint32_t picture)
{
    const document::Reference *r = m_session.creature().reference(picture);
    if (!r)
        return;
    m_view->lookFrom(QString::fromStdString(r->view));
    m_view->references().beginLineUp(picture);
    m_view->setFocus();
}

void MainWindow::savePart()
{
    const auto part = store::partFrom(m_session.creature(), m_session.form());
    if (!part)
        return showMessage(tr("Choose the form that the branch begins with first."), true);
    const QString path = askSavePath(this, tr("Save branch as part"),
                                     ownPartsFolder() + QStringLiteral("/%1.part.json").arg(QString::fromStdString(part->title)),
                                     {{tr("Parts"), QStringLiteral("part.json")}});
    if (path.isEmpty())
        return;
    const Status done = store::writePart(QFile::encodeName(path).toStdString(), *part);
    done ? showMessage(tr("The branch is on the shelf: %1").arg(QFileInfo(path).fileName()), false)
         : showMessage(wordsFor(done.error()), true);
}

void MainWindow::showBoardOver(bool on)
{
    placeBoardOver();
    m_boardOver->setVisible(on);
}

/// The nearer third of the view, towards its corner.
void MainWindow::placeBoardOver()
{
    const int w = m_view->width() / 3, h = m_view->height() / 3;
    m_boardOver->setGeometry(m_view->width() - w - 12, m_view->height() - h - 12, w, h);
}

bool MainWindow::eventFilter(QObject *watched, QEvent *e)
{
    if (watched == m_view && e->type() == QEvent::Resize)
        placeBoardOver();
    if (e->type() == QEvent::Wheel) { // over a field that has not the focus it scrolls the panel, and changes no value
        const auto *w = qobject_cast<const QWidget *>(watched);
        const bool isField = qobject_cast<const QAbstractSpinBox *>(w) || qobject_cast<const QComboBox *>(w)
                             || qobject_cast<const ValueSlider *>(w);
        if (isField && !w->hasFocus()) {
            e->ignore();
            return true;
        }
    }
    return QMainWindow::eventFilter(watched, e);
}

} // namespace bonemoss::app
