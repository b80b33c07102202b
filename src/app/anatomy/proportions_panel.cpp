#include "app/anatomy/proportions_panel.h"

#include "app/theme/theme.h"
#include "armature/proportions.h"
#include "command/fields.h"
#include "command/forms/form_fields.h"

#include <QComboBox>
#include <QHeaderView>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {
constexpr int kIdRole = Qt::UserRole;
constexpr int kWanted = 3;
} // namespace

ProportionsPanel::ProportionsPanel(Session &session, QWidget *parent) : QWidget(parent), m_session(session)
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_unit = new QComboBox;
    m_unit->setObjectName(QStringLiteral("proportionUnit"));
    m_unit->setAccessibleName(tr("Form or piece whose length is one unit"));
    m_unit->setToolTip(tr("The form or piece whose length is one unit"));
    connect(m_unit, &QComboBox::activated, this,
            [this](int i) { m_session.run(toCommand(command::SetUnit{.form = m_unit->itemData(i).toUInt()})); });
    column->addWidget(m_unit);
    m_list = new QTreeWidget;
    m_list->setObjectName(QStringLiteral("proportionList"));
    m_list->setAccessibleName(tr("Proportions"));
    m_list->setRootIsDecorated(false);
    m_list->setHeaderLabels({tr("Part"), tr("mm"), tr("units"), tr("wanted")});
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int c = 1; c < 4; ++c)
        m_list->header()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    m_list->header()->setStretchLastSection(false);
    m_list->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_list->setToolTip(tr("Double-click under “wanted” to say how many units a part shall be long"));
    connect(m_list, &QTreeWidget::itemDoubleClicked, this, [this](QTreeWidgetItem *item, int c) {
        if (c == kWanted)
            m_list->editItem(item, c);
    });
    connect(m_list, &QTreeWidget::itemChanged, this, &ProportionsPanel::edited);
    connect(m_list, &QTreeWidget::itemClicked, this, [this](QTreeWidgetItem *item) {
        const std::uint32_t id = item->data(0, kIdRole).toUInt();
        if (m_session.creature().piece(id))
            m_session.choosePiece(id);
        else
            m_session.chooseForm(id);
    });
    column->addWidget(m_list);
    connect(&session, &Session::creatureChanged, this, &ProportionsPanel::rebuild);
    connect(&session, &Session::lookChanged, this, &ProportionsPanel::rebuild);
    connect(&session, &Session::benchChanged, this, &ProportionsPanel::rebuild);
    rebuild();
}

void ProportionsPanel::edited(QTreeWidgetItem *item, int column)
{
    if (m_isFilling || column != kWanted)
        return;
    const std::uint32_t id = item->data(0, kIdRole).toUInt();
    bool isNumber = false;
    const double ratio = locale().toDouble(item->text(kWanted).trimmed(), &isNumber);
    QMetaObject::invokeMethod(
        this,
        [this, id, ratio, isNumber, isEmpty = item->text(kWanted).trimmed().isEmpty()] { // the list is rebuilt by it
            if (!(isNumber || isEmpty)
                || !m_session.run(toCommand(command::SetTarget{.form = id, .ratio = isEmpty ? 0 : float(ratio)})))
                rebuild();
        },
        Qt::QueuedConnection);
}

void ProportionsPanel::rebuild()
{
    if (!rowOf(m_session.bench()).showsForms)
        return;
    m_isFilling = true;
    const document::Creature &now = m_session.creature();
    const armature::Armature &a = now.armature;
    m_unit->clear();
    m_unit->addItem(tr("unit: none"), 0u);
    for (const auto &f : a.forms)
        m_unit->addItem(tr("unit: %1").arg(QString::fromStdString(f.name)), f.id);
    for (const auto &p : now.pieces)
        m_unit->addItem(tr("unit: %1").arg(QString::fromStdString(p->name)), p->id);
    m_unit->setCurrentIndex(std::max(0, m_unit->findData(a.unitForm)));
    m_list->clear();
    for (const armature::Proportion &p : proportionsOf(now)) {
        auto *item = new QTreeWidgetItem(m_list);
        item->setData(0, kIdRole, p.form);
        item->setText(0, QString::fromStdString(p.name));
        item->setText(1, QString::number(double(p.lengthMm), 'f', 1));
        item->setText(2, p.inUnits > 0 ? QString::number(double(p.inUnits), 'f', 2) : QString());
        if (p.target) {
            // Not by colour alone: a word says which way.
            const QString wanted = locale().toString(double(p.target->ratio), 'g', 4);
            item->setText(kWanted, wanted);
            if (p.isMissed) {
                item->setText(2, (p.miss > 0 ? tr("%1 long") : tr("%1 short")).arg(item->text(2)));
                QFont strong = m_list->font();
                strong.setBold(true);
                for (int c = 0; c < 4; ++c) {
                    item->setFont(c, strong);
                    item->setForeground(c, theme().isDark ? theme().lichen : theme().lichen.darker(160));
                }
                item->setToolTip(0, tr("%1 % off the wanted length").arg(qRound(std::abs(p.miss) * 100)));
            }
        }
        for (int c = 1; c < 4; ++c)
            item->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable);
    }
    m_isFilling = false;
}

} // namespace bonemoss::app
