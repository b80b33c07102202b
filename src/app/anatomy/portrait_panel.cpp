#include "app/anatomy/portrait_panel.h"

#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/portrait/light_fields.h"
#include "command/portrait/stage_fields.h"

#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QScopedValueRollback>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using nlohmann::json;

namespace {
constexpr int kId = Qt::UserRole;
}

PortraitPanel::PortraitPanel(Session &session, HandModel &hand, QWidget *parent)
    : QWidget(parent), m_session(session), m_hand(hand)
{
    setObjectName(QStringLiteral("panel"));
    setAttribute(Qt::WA_StyledBackground);
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(12, 8, 8, 8);
    column->setSpacing(4);
    const auto top = [&](const QString &title, const char *id, const QString &word, const QString &tip, auto act) {
        auto *line = new QHBoxLayout;
        auto *b = new QPushButton(word);
        b->setObjectName(QLatin1String(id));
        b->setProperty("word", true);
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, act);
        line->addWidget(heading(title, 12));
        line->addStretch();
        line->addWidget(b);
        column->addLayout(line);
    };
    const auto list = [&](const char *id, const QString &name, const QString &tip) {
        auto *l = new QListWidget;
        l->setObjectName(QLatin1String(id));
        l->setAccessibleName(name);
        l->setToolTip(tip);
        l->setEditTriggers(QAbstractItemView::EditKeyPressed);
        column->addWidget(l, 1);
        return l;
    };
    top(tr("Cameras"), "cameraKeep", tr("+ camera"), tr("Keeps the view with its lens, under a name"), [this] { keep(); });
    m_cameras =
        list("cameraList", tr("Cameras"), tr("A double click, or Enter, looks through it; F2 renames it, Del forgets it"));
    connect(m_cameras, &QListWidget::itemActivated, this, [this](QListWidgetItem *item) {
        if (const portrait::Shot *s = m_session.creature().stage.shot(item->data(kId).toUInt()))
            emit cameraChosen(*s);
    });
    connect(m_cameras, &QListWidget::itemChanged, this, [this](QListWidgetItem *item) {
        const std::string name = item->text().trimmed().toStdString();
        if (!m_isFilling)
            run(toCommand(command::SetCamera{.camera = item->data(kId).toUInt(), .name = name}));
    });
    auto *line = new QHBoxLayout;
    auto *look = new QPushButton(tr("Look through")), *drop = new QPushButton(tr("Delete"));
    look->setObjectName(QStringLiteral("cameraLook")), drop->setObjectName(QStringLiteral("cameraDelete"));
    connect(look, &QPushButton::clicked, this, [this] {
        if (QListWidgetItem *item = m_cameras->currentItem())
            emit m_cameras->itemActivated(item);
    });
    connect(drop, &QPushButton::clicked, this, [this] {
        if (const QListWidgetItem *item = m_cameras->currentItem())
            run(toCommand(command::RemoveCamera{.camera = item->data(kId).toUInt()}));
    });
    line->addWidget(look), line->addWidget(drop);
    column->addLayout(line);
    top(tr("Lights"), "lightAdd", tr("+ key"), tr("Adds a key light; other kinds are on the Light page"),
        [this] { run(toCommand(command::AddLight{})); });
    m_lights = list("lightList", tr("Lights"), tr("Press to choose; the check switches it; F2 renames it"));
    connect(m_lights, &QListWidget::currentItemChanged, this, [this](QListWidgetItem *item) {
        if (!m_isFilling && item) {
            m_hand.of<PortraitHand>().chooseLight(item->data(kId).toUInt());
            m_hand.of<PortraitHand>().setPage(PortraitPage::Lights);
        }
    });
    connect(m_lights, &QListWidget::itemChanged, this, [this](QListWidgetItem *item) {
        if (m_isFilling)
            return;
        command::SetLight set{.light = item->data(kId).toUInt()};
        portrait::Stage stage = m_session.creature().stage;
        const portrait::Light *was = stage.light(item->data(kId).toUInt());
        const std::string name = item->text().trimmed().toStdString();
        if (!was)
            return;
        if (!name.empty() && name != was->name)
            set.name = name;
        set.changes.isOn = item->checkState() == Qt::Checked;
        m_shownLights.clear();
        run(toCommand(set));
    });
    connect(&session, &Session::creatureChanged, this, &PortraitPanel::fill);
    connect(&session, &Session::benchChanged, this, &PortraitPanel::fill);
    fill();
}

void PortraitPanel::run(json command)
{
    QMetaObject::invokeMethod(
        &m_session, [session = &m_session, command = std::move(command)] { session->run(command); }, Qt::QueuedConnection);
}

void PortraitPanel::keep()
{
    bool isSaid = false;
    const QString name = QInputDialog::getText(window(), tr("Keep camera"), tr("Name of the camera"), QLineEdit::Normal,
                                               tr("camera %1").arg(m_session.creature().stage.shots.size() + 1), &isSaid);
    if (isSaid && !name.trimmed().isEmpty())
        run(keepCameraCommand(name.trimmed().toStdString(),
                              m_hand.of<PortraitHand>().shotOf(m_hand.of<PortraitHand>().shot().camera)));
}

void PortraitPanel::fill()
{
    const portrait::Stage &stage = m_session.creature().stage;
    if (m_wasShown && stage.shots == m_shownCameras && stage.lights == m_shownLights)
        return;
    m_wasShown = true, m_shownCameras = stage.shots, m_shownLights = stage.lights;
    const QScopedValueRollback filling(m_isFilling, true);
    m_cameras->clear(), m_lights->clear();
    for (const portrait::Shot &s : stage.shots) {
        auto *item = new QListWidgetItem(textOf(s.name), m_cameras);
        item->setData(kId, s.id);
        item->setFlags(item->flags() | Qt::ItemIsEditable);
        item->setToolTip(tr("%1 mm").arg(double(portrait::lensOf(s.camera, s.aspect)), 0, 'f', 0));
    }
    for (const portrait::Light &l : stage.lights) {
        auto *item = new QListWidgetItem(textOf(l.name), m_lights);
        item->setData(kId, l.id);
        item->setFlags(item->flags() | Qt::ItemIsEditable | Qt::ItemIsUserCheckable);
        item->setCheckState(l.isOn ? Qt::Checked : Qt::Unchecked);
    }
}

} // namespace bonemoss::app
