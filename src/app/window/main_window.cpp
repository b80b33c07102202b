#include "app/window/main_window.h"

#include "app/theme/table_words.h"
#include "app/anatomy/anatomy_panel.h"
#include "app/anatomy/colour_panel.h"
#include "app/anatomy/layers_panel.h"
#include "app/anatomy/picture_board.h"
#include "app/anatomy/pictures_panel.h"
#include "app/anatomy/plan_panel.h"
#include "app/anatomy/portrait_panel.h"
#include "app/anatomy/pose_panel.h"
#include "app/anatomy/proportions_panel.h"
#include "app/angles/angles_strip.h"
#include "app/dialogs/dialogs.h"
#include "app/hand/hand_panel.h"
#include "app/session/worker.h"
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/pen_simulator.h"
#include "app/window/recipe_player.h"
#include "command/fields.h"
#include "command/skin/piece_fields.h"

#include <QApplication>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QMenuBar>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QScreen>
#include <QSpinBox>
#include <QSettings>
#include <QSplitter>
#include <QStatusBar>
#include <QTimer>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <unistd.h>

namespace bonemoss::app {

namespace {

/// A bench as a word; the one in use stands over a drawn line of moss.
class BenchWord : public QPushButton
{
public:
    explicit BenchWord(const QString &text) : QPushButton(text)
    {
        setCheckable(true);
        setAutoExclusive(true);
        setFlat(true);
        setFocusPolicy(Qt::TabFocus);
        setCursor(Qt::PointingHandCursor);
    }
    QSize sizeHint() const override { return {QFontMetrics(headingFont(13)).horizontalAdvance(text()) + 28, 38}; }

protected:
    void paintEvent(QPaintEvent *) override
    {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        QFont f = headingFont(13);
        f.setWeight(isChecked() ? QFont::DemiBold : QFont::Normal);
        p.setFont(f);
        p.setPen(isChecked() ? theme().moss : (underMouse() || hasFocus()) ? theme().ink : theme().softInk);
        p.drawText(rect().adjusted(0, 0, 0, -6), Qt::AlignCenter, text());
        if (!isChecked())
            return;
        QPainterPath wave(QPointF(12, height() - 7));
        wave.cubicTo(width() * 0.35, height() - 12, width() * 0.6, height() - 1, width() - 12, height() - 8);
        p.setPen(QPen(theme().moss, 2, Qt::SolidLine, Qt::RoundCap));
        p.drawPath(wave);
    }
};

constexpr int kTitleBar = 40; // points that a desktop's title bar takes, at most

} // namespace

MainWindow::MainWindow(const QString &rescueFolder)
    : m_session(rescueFolder), m_growths(m_session), m_solo(m_session), m_hand(m_session)
{
    setObjectName(QStringLiteral("mainWindow"));
    setAcceptDrops(true);
    resize(1280, 800);
    m_hand.load();
    m_fade = new QTimer(this);
    m_fade->setSingleShot(true);
    m_fade->setInterval(9000);
    buildCentre();
    buildMenus();
    buildStatus();
    m_pen = new PenSimulator(m_view, this);
    m_player = new RecipePlayer(m_session, this);
    connect(m_player, &RecipePlayer::stepped, this,
            [this](int done, int all) { showMessage(tr("Step %1 of %2").arg(done).arg(all), false); });
    connect(&m_session, &Session::failed, this, [this](const QString &t) { showMessage(t, true); });
    connect(&m_session, &Session::noted, this, [this](const QString &t) { showMessage(t, false); });
    connect(&m_session, &Session::saved, this, &MainWindow::rememberRecent);
    connect(&m_session, &Session::saveConflict, this, &MainWindow::askAboutConflict);
    connect(&m_session, &Session::benchChanged, this, &MainWindow::showBench);
    connect(&m_session, &Session::fileChanged, this, &MainWindow::showStatus);
    connect(&m_session, &Session::creatureChanged, this, &MainWindow::showStatus);
    connect(&m_session, &Session::choiceChanged, this, &MainWindow::showStatus);
    m_hint->setText(m_view->hint());
    connect(m_view, &CreatureView::hintChanged, m_hint, &QLabel::setText);
    connect(m_view, &CreatureView::balanceChanged, this, &MainWindow::showStatus);
    connect(m_view, &CreatureView::cameraChanged, this, [this] { m_angles->setCurrent(m_view->viewName()); });
    connect(m_angles, &AnglesStrip::viewChosen, m_view, &CreatureView::lookFrom);
    connect(m_angles, &AnglesStrip::viewTakenBack, m_view, &CreatureView::cameraBack);
    connect(m_anatomy, &AnatomyPanel::soloAsked, this, [this] { m_solo.toggle(m_anatomy->chosen()); });
    connect(m_layers, &LayersPanel::previewChanged, m_view, &CreatureView::setPreview);
    connect(m_pictures, &PicturesPanel::addAsked, this, &MainWindow::addPictures);
    connect(m_pictures, &PicturesPanel::lineUpAsked, this, &MainWindow::lineUp);
    connect(m_handPanel, &HandPanel::knitAsked, this, &MainWindow::knit);
    connect(m_handPanel, &HandPanel::reknitAsked, this, &MainWindow::reknit);
    connect(m_handPanel, &HandPanel::refineAsked, this, &MainWindow::refine);
    QSettings s;
    const int quarter =
        int(std::min<std::int64_t>(std::int64_t(::sysconf(_SC_PHYS_PAGES)) * ::sysconf(_SC_PAGESIZE) >> 22, 1 << 20));
    m_session.setHistoryBudget(std::size_t(std::max(16, s.value(QStringLiteral("memory/undoMb"), quarter).toInt())) << 20);
    restoreGeometry(s.value(QStringLiteral("window/geometry")).toByteArray());
    if (const QScreen *on = screen(); on && !isMaximized() && !isFullScreen()) { // with its title bar it fits
        const QSize room = on->availableGeometry().size() - QSize(0, kTitleBar);
        resize(size().boundedTo(room));
    }
    qApp->installEventFilter(this); // the wheel over fields
    m_across->restoreState(s.value(QStringLiteral("window/across")).toByteArray());
    m_left->restoreState(s.value(leftKey()).toByteArray());
    m_down->restoreState(s.value(QStringLiteral("window/down")).toByteArray());
    showBench();
    showStatus();
}

MainWindow::~MainWindow() = default;

void MainWindow::buildCentre()
{
    // Each is made where it will stand: with a style sheet, moving what is already filled styles all of it again.
    auto *centre = new QWidget(this);
    centre->setObjectName(QStringLiteral("centre"));
    setCentralWidget(centre);
    auto *column = new QVBoxLayout(centre);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto *benches = new QWidget(centre);
    benches->setObjectName(QStringLiteral("centre"));
    buildBenches(benches);
    column->addWidget(benches);
    m_across = new QSplitter(Qt::Horizontal, centre);
    column->addWidget(m_across, 1);
    m_left = new QSplitter(Qt::Vertical, m_across);
    m_down = new QSplitter(Qt::Vertical, m_across);
    m_view = new CreatureView(m_session, m_hand, m_keys, m_shelf, m_down);
    m_anatomy = new AnatomyPanel(m_session, m_left);
    m_layers = new LayersPanel(m_session, m_growths, m_left);
    m_colours = new ColourPanel(m_session, m_hand, m_growths, m_left);
    m_posePanel = new PosePanel(m_session, m_hand, m_left);
    m_portraitPanel = new PortraitPanel(m_session, m_hand, m_left);
    connect(m_portraitPanel, &PortraitPanel::cameraChosen, m_view, &CreatureView::lookThrough);
    m_handPanel = new HandPanel(m_session, m_hand, m_across);
    m_angles = new AnglesStrip(m_session, m_down);
    m_plan = new PlanPanel(m_left);
    m_pictures = new PicturesPanel(m_session, m_shelf, m_plan);
    m_plan->addPage(tr("Proportions"), QStringLiteral("planProportions"), new ProportionsPanel(m_session, m_plan));
    m_plan->addPage(tr("Pictures"), QStringLiteral("planPictures"), m_pictures);
    m_plan->addPage(tr("Board"), QStringLiteral("planBoard"), new PictureBoard(m_session, m_shelf, m_plan));
    m_boardOver = new PictureBoard(m_session, m_shelf, m_view);
    m_boardOver->setObjectName(QStringLiteral("boardOver"));
    m_boardOver->hide();
    m_view->installEventFilter(this);                 // the board keeps to its corner
    m_left->setSizes({360, 340, 340, 440, 340, 340}); // one for each panel
    m_down->setStretchFactor(0, 1);
    m_down->setSizes({600, 104});
    m_across->setStretchFactor(1, 1);
    m_across->setSizes({252, 766, 262});
    for (QSplitter *s : {m_left, m_down, m_across}) {
        s->setHandleWidth(1);
        s->setChildrenCollapsible(false);
    }
}

void MainWindow::buildBenches(QWidget *line)
{
    auto *row = new QHBoxLayout(line);
    row->setContentsMargins(14, 0, 14, 0);
    m_title = new QLabel;
    m_saved = new QLabel;
    m_saved->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    for (QLabel *l : {m_title, m_saved}) {
        l->setProperty("soft", true);
        l->setFixedWidth(240); // alike on both sides, so that the benches stand in the middle
    }
    row->addWidget(m_title);
    row->addStretch();
    for (const BenchRow &bench : app::benches()) {
        auto *button = new BenchWord(benchTitle(bench));
        button->setObjectName(QStringLiteral("bench%1").arg(int(bench.bench)));
        button->setAccessibleName(tr("%1 bench").arg(benchTitle(bench)));
        connect(button, &QPushButton::clicked, this, [this, b = bench.bench] { m_session.setBench(b); });
        m_benches.push_back(button);
        row->addWidget(button);
    }
    row->addStretch();
    row->addWidget(m_saved);
}

void MainWindow::buildStatus()
{
    auto *bar = statusBar();
    bar->setSizeGripEnabled(false);
    m_hint = new QLabel;
    m_hint->setProperty("soft", true);
    m_hint->setContentsMargins(10, 0, 0, 0);
    m_message = new QLabel;
    m_message->setObjectName(QStringLiteral("message"));
    m_counts = new QLabel;
    m_counts->setProperty("soft", true);
    m_counts->setContentsMargins(0, 0, 10, 0);
    bar->addWidget(m_hint, 1);
    bar->addWidget(m_message, 2);
    bar->addPermanentWidget(m_counts);
    connect(m_fade, &QTimer::timeout, this, [this] {
        m_message->clear();
        m_hint->show();
    });
}

void MainWindow::showMessage(const QString &text, bool isTrouble)
{
    m_message->setText((isTrouble ? QStringLiteral("⚠ ") : QString()) + text);
    m_message->setToolTip(text);
    m_hint->setVisible(!isTrouble); // what went wrong has the whole line
    m_message->setStyleSheet(QStringLiteral("color: %1;").arg((isTrouble ? theme().rust : theme().ink).name()));
    m_fade->start();
}

QString MainWindow::leftKey() const
{
    return QStringLiteral("window/left%1").arg(m_left->count());
}

void MainWindow::showBench()
{
    m_benches[std::size_t(m_session.bench())]->setChecked(true);
    m_layers->setVisible(rowOf(m_session.bench()).hasLayers);
    m_colours->setVisible(rowOf(m_session.bench()).hasColours);
    m_posePanel->setVisible(rowOf(m_session.bench()).poses);
    m_portraitPanel->setVisible(rowOf(m_session.bench()).portrays);
    m_plan->setVisible(rowOf(m_session.bench()).hasPlan);
    showStatus();
}

void MainWindow::showStatus()
{
    setWindowTitle(
        QStringLiteral("%1%2 – Bone Moss").arg(m_session.title(), m_session.isChanged() ? QStringLiteral(" *") : QString()));
    m_title->setText(m_session.title());
    m_saved->setText(m_session.isSaving()         ? tr("saving…")
                     : m_session.isChanged()      ? tr("changes not saved")
                     : m_session.path().isEmpty() ? QString()
                                                  : tr("all changes saved"));
    m_actions.refresh();
    const auto &steps = m_session.history().steps();
    m_undo->setText(m_session.canUndo() ? tr("&Undo %1").arg(stepWords(steps[m_session.history().at()].title)) : tr("&Undo"));
    m_redo->setText(m_session.canRedo() ? tr("&Redo %1").arg(stepWords(steps[m_session.history().at() + 1].title)) : tr("&Redo"));
    const QString balance = m_view->balanceWords();
    m_counts->setText((balance.isEmpty() ? QString() : balance + QStringLiteral(" · "))
                      + tr("%1 faces · %2 MB · undo %3")
                            .arg(grouped(m_session.creature().faceCount()))
                            .arg(double(m_session.creature().memoryBytes()) / 1e6, 0, 'f', 0)
                            .arg(m_session.history().at()));
    if (QLayout *line = statusBar()->layout()) { // it does not make room for a longer text by itself
        line->invalidate();
        line->activate();
    }
}

void MainWindow::setDark(bool dark)
{
    applyTheme(*qApp, dark);
    QSettings().setValue(QStringLiteral("window/dark"), dark);
    m_session.showAgain();
    update();
}

} // namespace bonemoss::app
