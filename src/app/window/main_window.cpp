#include "app/window/main_window.h"

#include "app/anatomy/anatomy_panel.h"
#include "app/anatomy/layers_panel.h"
#include "app/anatomy/picture_board.h"
#include "app/anatomy/pictures_panel.h"
#include "app/anatomy/plan_panel.h"
#include "app/anatomy/proportions_panel.h"
#include "app/angles/angles_strip.h"
#include "app/dialogs/dialogs.h"
#include "app/hand/hand_panel.h"
#include "app/session/worker.h"
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/pen_simulator.h"
#include "app/window/recipe_player.h"

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

nlohmann::json withDensity(nlohmann::json command, field::Density density)
{
    if (density.faces)
        command["faces"] = density.faces;
    else
        command["spacing"] = density.spacing;
    return command;
}

} // namespace

MainWindow::MainWindow(const QString &rescueFolder) : m_session(rescueFolder), m_hand(m_session)
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
    m_left->restoreState(s.value(QStringLiteral("window/left")).toByteArray());
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
    m_layers = new LayersPanel(m_session, m_left);
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
    m_view->installEventFilter(this); // the board keeps to its corner
    m_left->setSizes({360, 340, 340});
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
    connect(m_fade, &QTimer::timeout, m_message, &QLabel::clear);
}

void MainWindow::showMessage(const QString &text, bool isTrouble)
{
    m_message->setText((isTrouble ? QStringLiteral("⚠ ") : QString()) + text);
    m_message->setToolTip(text);
    m_message->setStyleSheet(QStringLiteral("color: %1;").arg((isTrouble ? theme().rust : theme().ink).name()));
    m_fade->start();
}

void MainWindow::showBench()
{
    m_benches[std::size_t(m_session.bench())]->setChecked(true);
    m_layers->setVisible(rowOf(m_session.bench()).hasLayers);
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
    m_undo->setText(m_session.canUndo() ? tr("&Undo %1").arg(QString::fromStdString(steps[m_session.history().at()].title))
                                        : tr("&Undo"));
    m_redo->setText(m_session.canRedo() ? tr("&Redo %1").arg(QString::fromStdString(steps[m_session.history().at() + 1].title))
                                        : tr("&Redo"));
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

void MainWindow::knit()
{
    const auto source = armature::makeDistance(m_session.creature().armature);
    const Box3f box = source->bounds();
    if (box.isEmpty())
        return showMessage(tr("There are no forms to knit yet."), true);
    const Vec3f size = box.size();
    const float longest = std::max({size.x, size.y, size.z});
    const auto density = askDensity(this, tr("Knit forms into a skin"), longest / 200, longest, [&](float h) {
        const auto n = field::forecastFaces(*source, h);
        return n ? *n : std::size_t(0);
    });
    if (!density)
        return;
    if (!m_session.runLong(withDensity({{"do", "knit.forms"}}, *density), this))
        return;
    m_session.choosePiece(m_session.creature().pieces.back()->id);
    m_session.setBench(benchThat(&BenchRow::holdsTools));
}

void MainWindow::reknit()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!piece)
        return showMessage(tr("There is no skin to re-knit."), true);
    const mesh::PolyMesh shown = toPolyMesh(piece->skin.shown);
    const Vec3f size = mesh::boundsOf(shown.positions).size();
    const auto density = askDensity(this, tr("Re-knit %1").arg(QString::fromStdString(piece->name)),
                                    field::spacingOf(piece->skin.shown), std::max({size.x, size.y, size.z}), [&](float h) {
                                        const auto n = field::forecastFaces(shown, h);
                                        return n ? *n : std::size_t(0);
                                    });
    if (!density)
        return;
    m_session.runLong(withDensity({{"do", "piece.reknit"}, {"piece", piece->id}}, *density), this);
}

void MainWindow::fuse()
{
    mesh::PolyMesh all;
    for (const auto &p : m_session.creature().pieces)
        if (!p->isHidden)
            mesh::append(all, toPolyMesh(p->skin.shown));
    if (all.isEmpty())
        return showMessage(tr("There are no pieces to fuse."), true);
    const Vec3f size = mesh::boundsOf(all.positions).size();
    const float longest = std::max({size.x, size.y, size.z});
    const auto density = askDensity(this, tr("Fuse pieces"), longest / 220, longest, [&](float h) {
        const auto n = field::forecastFaces(all, h);
        return n ? *n : std::size_t(0);
    });
    if (density)
        m_session.runLong(withDensity({{"do", "knit.pieces"}}, *density), this);
}

void MainWindow::refine()
{
    if (!m_session.piece())
        return showMessage(tr("There is no skin to refine."), true);
    m_session.runLong({{"do", "piece.refine"}, {"piece", m_session.piece()}}, this);
}

void MainWindow::showHistory()
{
    QDialog dialog(this);
    dialog.setObjectName(QStringLiteral("historyDialog"));
    dialog.setWindowTitle(tr("History"));
    dialog.resize(340, 480);
    auto *column = new QVBoxLayout(&dialog);
    auto *words = new QLabel;
    words->setWordWrap(true);
    column->addWidget(words);
    auto *list = new QListWidget;
    list->setObjectName(QStringLiteral("historyList"));
    list->setAccessibleName(tr("Steps"));
    const auto fill = [this, words, list] {
        const QSignalBlocker quiet(list);
        const command::History &history = m_session.history();
        words->setText(tr("Click a step to go there. Nothing is lost until you work on from an earlier one.")
                       + (history.dropped()
                              ? QLatin1Char('\n')
                                    + tr("It goes back %1 steps; the %2 before them were dropped to keep within the "
                                         "memory below.")
                                          .arg(history.steps().size() - 1)
                                          .arg(history.dropped())
                              : QString()));
        list->clear();
        for (const auto &step : history.steps())
            list->addItem(QString::fromStdString(step.title));
        list->setCurrentRow(int(history.at()));
    };
    fill();
    connect(list, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0)
            m_session.goTo(std::size_t(row));
    });
    column->addWidget(list);
    auto *line = new QHBoxLayout;
    auto *budget = new QSpinBox;
    budget->setObjectName(QStringLiteral("historyBudget"));
    budget->setRange(16, 1 << 20);
    budget->setSuffix(tr(" MB"));
    budget->setValue(int(m_session.history().budget() >> 20));
    budget->setToolTip(tr("Memory that undo may use. Past it the oldest steps are dropped; the creature itself is not counted."));
    auto *name = new QLabel(tr("Memory for &undo"));
    name->setBuddy(budget);
    line->addWidget(name);
    line->addWidget(budget);
    line->addStretch();
    line->addWidget(new QLabel(tr("%1 MB in use").arg(m_session.history().bytes() >> 20)));
    column->addLayout(line);
    connect(budget, &QSpinBox::editingFinished, this, [this, budget, fill] {
        QSettings().setValue(QStringLiteral("memory/undoMb"), budget->value());
        m_session.setHistoryBudget(std::size_t(budget->value()) << 20);
        fill();
    });
    dialog.exec();
}

void MainWindow::setDark(bool dark)
{
    applyTheme(*qApp, dark);
    QSettings().setValue(QStringLiteral("window/dark"), dark);
    emit m_session.lookChanged();
    update();
}

} // namespace bonemoss::app
