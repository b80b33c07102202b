// What the window asks about files: opening, saving, importing, exporting, rescued work.
#include "app/dialogs/dialogs.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "io/mesh_file.h"
#include "command/fields.h"
#include "command/skin/piece_fields.h"

#include <QApplication>
#include <QCloseEvent>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QTimer>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {
constexpr const char *kMeshFilter = "Meshes (*.obj *.stl *.ply *.glb *.gltf *.off)";
constexpr int kRescuePause = 1500, kRescueLooks = 20; // ms, and how often killed programs are looked for after the start
} // namespace

bool MainWindow::maySwitch()
{
    m_session.finishSaving(); // what is on its way to the disk is no change
    if (!m_asks || !m_session.isChanged())
        return true;
    QMessageBox box(QMessageBox::NoIcon, tr("Not saved"), tr("%1 has changes that were not saved.").arg(m_session.title()),
                    QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
    box.setObjectName(QStringLiteral("unsavedBox"));
    switch (box.exec()) {
    case QMessageBox::Save: return save() && m_session.finishSaving();
    case QMessageBox::Discard: return true;
    default: return false;
    }
}

bool MainWindow::save()
{
    return m_session.path().isEmpty() ? saveAs() : m_session.save(m_session.path());
}

bool MainWindow::saveAs()
{
    const QString path =
        askSavePath(this, tr("Save creature"), m_session.path().isEmpty() ? tr("creature.bonemoss") : m_session.path(),
                    {{tr("Creatures"), QStringLiteral("bonemoss")}});
    return !path.isEmpty() && m_session.save(path);
}

/// Somebody else saved the file since it was opened here: nothing is replaced without a word.
void MainWindow::askAboutConflict(const QString &path)
{
    QMessageBox box(QMessageBox::NoIcon, tr("Saved by somebody else"),
                    tr("%1 was saved by somebody else since you opened it. If you replace it, what they saved is lost from it.")
                        .arg(QFileInfo(path).fileName()),
                    QMessageBox::Cancel, this);
    box.setObjectName(QStringLiteral("conflictBox"));
    QPushButton *replace = box.addButton(tr("Replace it"), QMessageBox::DestructiveRole);
    QPushButton *other = box.addButton(tr("Save as…"), QMessageBox::AcceptRole);
    box.setDefaultButton(other);
    box.exec();
    if (box.clickedButton() == replace)
        m_session.save(path, true);
    else if (box.clickedButton() == other)
        saveAs();
}

void MainWindow::rememberRecent(const QString &path)
{
    QSettings s;
    QStringList recent = s.value(QStringLiteral("recent")).toStringList();
    recent.removeAll(path);
    recent.prepend(path);
    s.setValue(QStringLiteral("recent"), recent.mid(0, 6));
}

/// How to open a file that may be open elsewhere; nothing when it is not to be opened.
std::optional<Session::OpenAs> MainWindow::askAboutHolder(const QString &path)
{
    const QString holder = m_session.holderOf(path);
    if (holder.isEmpty())
        return Session::OpenAs::Own;
    if (!m_asks)
        return Session::OpenAs::Copy;
    QMessageBox box(QMessageBox::NoIcon, tr("Open elsewhere"),
                    tr("%1 is open elsewhere (%2). A copy can be looked at and saved under another name. If you take it over, "
                       "whoever saves second is asked.")
                        .arg(QFileInfo(path).fileName(), holder),
                    QMessageBox::Cancel, this);
    box.setObjectName(QStringLiteral("heldBox"));
    QPushButton *copy = box.addButton(tr("Open a copy"), QMessageBox::AcceptRole);
    QPushButton *own = box.addButton(tr("Take over"), QMessageBox::DestructiveRole);
    box.setDefaultButton(copy);
    box.exec();
    if (box.clickedButton() == copy)
        return Session::OpenAs::Copy;
    if (box.clickedButton() == own)
        return Session::OpenAs::Own;
    return std::nullopt;
}

bool MainWindow::openPath(const QString &path)
{
    if (path.endsWith(QStringLiteral(".recipe.json")))
        return m_session.openRecipe(path, this);
    if (path.endsWith(QStringLiteral(".bonemoss"))) {
        const auto as = askAboutHolder(path);
        if (!as || !m_session.open(path, this, *as))
            return false;
        rememberRecent(path);
        return true;
    }
    // A mesh becomes a piece of the creature at hand; its repairs are told.
    const bool done =
        m_session.runLong(toCommand(command::ImportPiece{.path = QFileInfo(path).absoluteFilePath().toStdString()}), this);
    if (done) {
        m_session.choosePiece(m_session.creature().pieces.back()->id);
        m_session.setBench(benchThat(&BenchRow::holdsTools));
        m_view->frameAll();
        reportNotes(tr("What was found"),
                    tr("The mesh was taken in whole; nothing was reduced. This was put right or is worth knowing:"));
    }
    return done;
}

void MainWindow::open()
{
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Open"), {}, tr("Creatures and recipes (*.bonemoss *.recipe.json)"));
    if (!path.isEmpty() && maySwitch())
        openPath(path);
}

void MainWindow::importMesh()
{
    const QString path = QFileDialog::getOpenFileName(this, tr("Import mesh (mm)"), {}, tr(kMeshFilter));
    if (!path.isEmpty())
        openPath(path);
}

void MainWindow::exportMesh()
{
    std::vector<SaveKind> kinds;
    for (const io::MeshFormat &format : io::meshFormats())
        if (format.write)
            kinds.push_back({QString::fromLatin1(format.name), QString::fromLatin1(format.extension).mid(1)});
    const QString path = askSavePath(this, tr("Export what is shown (mm)"), {}, kinds);
    if (path.isEmpty())
        return;
    QStringList warnings;
    if (!m_session.exportMesh(path, warnings, this))
        return;
    showMessage(tr("Written: %1").arg(path), false);
    if (!warnings.isEmpty())
        showList(this, tr("Written, with warnings"),
                 tr("The file is there, but a printer may refuse it. Knitting closes such pieces:"), warnings);
}

void MainWindow::writeRecipe()
{
    const QString path = askSavePath(this, tr("Write recipe"), {}, {{tr("Recipes"), QStringLiteral("recipe.json")}});
    if (!path.isEmpty() && m_session.recordRecipe(path))
        showMessage(tr("The steps up to now were written as a recipe."), false);
}

void MainWindow::showStartPage()
{
    QStringList recent;
    for (const QString &path : QSettings().value(QStringLiteral("recent")).toStringList())
        if (QFileInfo::exists(path))
            recent << path;
    StartPage page(recent, this);
    if (page.exec() != QDialog::Accepted || !maySwitch())
        return;
    const QString path = page.chosenSample().isEmpty() ? page.chosenFile() : page.chosenSample();
    if (path.isEmpty())
        m_session.startNew();
    else
        openPath(path);
}

void MainWindow::begin(const QString &file)
{
    if (offerRescue()) {
        if (!file.isEmpty() && QFileInfo(file) != QFileInfo(m_session.path()))
            showMessage(tr("The rescued work is open. %1 was not opened: save the work first, then open it.").arg(file), false);
    } else if (!file.isEmpty()) {
        openPath(file);
    } else if (m_session.creature().pieces.empty() && m_session.creature().armature.forms.empty()) {
        showStartPage();
    }
}

bool MainWindow::offerRescue()
{
    auto search = command::Rescue::find(QFile::encodeName(m_session.rescueFolder()).toStdString());
    for (command::Rescue::Found &found : search.found) {
        const QString of = QString::fromStdString(found.document.path);
        QMessageBox box(QMessageBox::NoIcon, tr("Rescued work"),
                        tr("The last session on %1 did not end well. Its work was kept up to the last finished step. Open it?")
                            .arg(of.isEmpty() ? tr("an unsaved creature") : of),
                        QMessageBox::Yes | QMessageBox::No | QMessageBox::Discard, this);
        box.setObjectName(QStringLiteral("rescueBox"));
        box.button(QMessageBox::No)->setText(tr("Later"));
        box.button(QMessageBox::Yes)->setText(tr("Open it"));
        box.button(QMessageBox::Discard)->setText(tr("Delete it"));
        const int answer = box.exec();
        if (answer == QMessageBox::Discard)
            found.remove();
        if (answer == QMessageBox::Yes && maySwitch() && m_session.recover(std::move(found), this))
            return true;
    }
    // A program that was killed may still be on its way out: its work is offered as soon as it is gone.
    if (search.stillHeld > 0 && m_rescueLooks++ < kRescueLooks)
        QTimer::singleShot(kRescuePause, this, [this] {
            if (!QApplication::activeModalWidget())
                offerRescue();
        });
    return false;
}

void MainWindow::closeEvent(QCloseEvent *e)
{
    if (!maySwitch()) {
        e->ignore();
        return;
    }
    QSettings s;
    s.setValue(QStringLiteral("window/geometry"), saveGeometry());
    s.setValue(QStringLiteral("window/across"), m_across->saveState());
    s.setValue(leftKey(), m_left->saveState());
    s.setValue(QStringLiteral("window/down"), m_down->saveState());
    m_hand.store();
    m_session.endWell();
    e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent *e)
{
    if (e->mimeData()->hasUrls())
        e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent *e)
{
    for (const QUrl &url : e->mimeData()->urls()) {
        const QString path = url.toLocalFile();
        if (isPicture(path)) {
            addPicture(path);
            continue;
        }
        const io::MeshFormat *mesh = io::formatFor(QFile::encodeName(path).toStdString());
        const bool isOurs = path.endsWith(QStringLiteral(".bonemoss")) || path.endsWith(QStringLiteral(".recipe.json"));
        if (!mesh && !isOurs)
            showMessage(tr("%1 is not a creature, a recipe, a mesh or a picture that can be opened here. Nothing was changed.")
                            .arg(QFileInfo(path).fileName()),
                        true);
        else if (mesh || maySwitch())
            openPath(path);
    }
}

} // namespace bonemoss::app
