#include "app/anatomy/anatomy_panel.h"

#include "app/theme/theme.h"

#include <QDropEvent>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <map>

namespace bonemoss::app {

using nlohmann::json;

namespace {

enum Role { IdRole = Qt::UserRole, IsPieceRole, IsCageRole };

QString counted(std::size_t n)
{
    if (n >= 1'000'000)
        return QString::number(double(n) / 1e6, 'f', 2) + QStringLiteral(" M");
    return n >= 10'000 ? QString::number(n / 1000) + QStringLiteral(" k") : QString::number(n);
}

} // namespace

AnatomyPanel::AnatomyPanel(Session &session, QWidget *parent) : QWidget(parent), m_session(session), m_tree(new QTreeWidget)
{
    setObjectName(QStringLiteral("panel"));
    setAttribute(Qt::WA_StyledBackground);
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(12, 10, 4, 4);
    auto *top = new QHBoxLayout;
    auto *title = new QLabel(tr("Anatomy"));
    title->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
    auto *solo = new QPushButton(tr("solo"));
    solo->setObjectName(QStringLiteral("soloButton"));
    solo->setProperty("word", true);
    solo->setToolTip(tr("Show only what is chosen, or all again (`)"));
    connect(solo, &QPushButton::clicked, this, &AnatomyPanel::toggleSolo);
    top->addWidget(title);
    top->addStretch();
    top->addWidget(solo);
    column->addLayout(top);
    m_tree->setObjectName(QStringLiteral("anatomyTree"));
    m_tree->setAccessibleName(tr("Anatomy"));
    m_tree->setColumnCount(2);
    m_tree->setHeaderHidden(true);
    m_tree->header()->setStretchLastSection(false);
    m_tree->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_tree->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    m_tree->setIndentation(6);
    m_tree->setRootIsDecorated(true);
    m_tree->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_tree->setDragDropMode(QAbstractItemView::InternalMove);
    m_tree->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked);
    m_tree->setContextMenuPolicy(Qt::CustomContextMenu);
    m_tree->viewport()->installEventFilter(this);
    column->addWidget(m_tree);
    connect(m_tree, &QTreeWidget::itemSelectionChanged, this, [this] {
        if (!m_isFilling)
            takeChoice();
    });
    connect(m_tree, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem *item) {
        if (!m_isFilling)
            itemRenamed(item);
    });
    connect(m_tree, &QWidget::customContextMenuRequested, this, &AnatomyPanel::menuAt);
    connect(&session, &Session::creatureChanged, this, &AnatomyPanel::rebuild);
    connect(&session, &Session::lookChanged, this, &AnatomyPanel::rebuild);
    connect(&session, &Session::choiceChanged, this, &AnatomyPanel::showChoice);
    rebuild();
}

void AnatomyPanel::rebuild()
{
    m_isFilling = true;
    m_tree->clear();
    const document::Creature &c = m_session.creature();
    const auto dress = [&](QTreeWidgetItem *item, std::uint32_t id, const std::string &name, const QString &kind, bool hidden,
                           bool locked, bool isPiece) {
        item->setText(0, QString::fromStdString(name));
        item->setText(1, kind + (locked ? tr(" · locked") : QString()) + (hidden ? tr(" · hidden") : QString()));
        item->setData(0, IdRole, id);
        item->setData(0, IsPieceRole, isPiece);
        item->setFlags(item->flags() | Qt::ItemIsEditable);
        item->setForeground(1, theme().softInk);
        if (hidden)
            item->setForeground(0, theme().softInk);
        QFont f = m_tree->font();
        f.setBold(isPiece);
        item->setFont(0, f);
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
    };
    for (const auto &p : c.pieces)
        dress(new QTreeWidgetItem(m_tree), p->id, p->name, tr("skin · %1").arg(counted(p->skin.shown.topology->faceCount())),
              p->isHidden, p->isLocked, true);
    for (const auto &cage : c.cages) {
        auto *item = new QTreeWidgetItem(m_tree);
        dress(item, cage->id, cage->name, tr("cage · %1").arg(cage->mesh.faces.size()), cage->isHidden, cage->isLocked, false);
        item->setData(0, IsCageRole, true);
    }
    std::map<std::uint32_t, QTreeWidgetItem *> items;
    for (const auto &f : c.armature.forms) {
        const auto parent = items.find(f.parent);
        auto *item = parent == items.end() ? new QTreeWidgetItem(m_tree) : new QTreeWidgetItem(parent->second);
        items[f.id] = item;
        int depth = 0;
        for (const QTreeWidgetItem *i = item->parent(); i; i = i->parent())
            ++depth;
        // Deep in the tree the name needs the room; what a form is stands in its tooltip.
        const QString kind = depth < 4 ? QString::fromUtf8(nameOf(f.kind).data()) : QString();
        item->setToolTip(0,
                         QStringLiteral("%1 (%2)").arg(QString::fromStdString(f.name), QString::fromUtf8(nameOf(f.kind).data())));
        dress(item, f.id, f.name, f.isMirrored ? kind + QStringLiteral(" ⇄") : kind, f.isHidden, f.isLocked, false);
    }
    m_tree->expandAll();
    m_isFilling = false;
    showChoice();
}

/// What is selected in the tree becomes what is chosen: several forms, or one piece.
void AnatomyPanel::takeChoice()
{
    QTreeWidgetItem *current = m_tree->currentItem();
    if (current && current->isSelected() && current->data(0, IsPieceRole).toBool())
        return m_session.choosePiece(current->data(0, IdRole).toUInt());
    if (current && current->isSelected() && current->data(0, IsCageRole).toBool())
        return m_session.chooseCage(current->data(0, IdRole).toUInt());
    std::vector<std::uint32_t> ids;
    for (QTreeWidgetItemIterator it(m_tree, QTreeWidgetItemIterator::Selected); *it; ++it)
        if (!(*it)->data(0, IsPieceRole).toBool() && !(*it)->data(0, IsCageRole).toBool())
            ids.push_back((*it)->data(0, IdRole).toUInt());
    if (current) // the one clicked last leads
        if (const auto at = std::find(ids.begin(), ids.end(), current->data(0, IdRole).toUInt()); at != ids.end())
            std::rotate(at, at + 1, ids.end());
    m_session.chooseForms(std::move(ids));
}

void AnatomyPanel::showChoice()
{
    const bool forms = rowOf(m_session.bench()).showsForms;
    const std::vector<std::uint32_t> wanted = forms ? m_session.forms() : std::vector<std::uint32_t>{m_session.piece()};
    m_isFilling = true;
    m_tree->clearSelection();
    QTreeWidgetItem *last = nullptr;
    for (QTreeWidgetItemIterator it(m_tree); *it; ++it) {
        const std::uint32_t id = (*it)->data(0, IdRole).toUInt();
        if ((*it)->data(0, IsCageRole).toBool()) {
            (*it)->setSelected(id == m_session.cage());
            continue;
        }
        if ((*it)->data(0, IsPieceRole).toBool() == forms || std::find(wanted.begin(), wanted.end(), id) == wanted.end())
            continue;
        (*it)->setSelected(true);
        if (id == wanted.back())
            last = *it;
    }
    m_tree->setCurrentItem(last, 0, QItemSelectionModel::NoUpdate);
    m_isFilling = false;
}

void AnatomyPanel::itemRenamed(QTreeWidgetItem *item)
{
    const bool isPiece = item->data(0, IsPieceRole).toBool();
    const std::uint32_t id = item->data(0, IdRole).toUInt();
    const std::string who = item->data(0, IsCageRole).toBool() ? "cage" : isPiece ? "piece" : "form";
    json c = {{"do", who + ".set"}, {who, id}, {"name", item->text(0).toStdString()}};
    QMetaObject::invokeMethod(
        this,
        [this, c] { // the tree is rebuilt by it
            if (!m_session.run(c))
                rebuild();
        },
        Qt::QueuedConnection);
}

/// A drop nests a form under the one it falls on, or lets it stand on its own.
bool AnatomyPanel::eventFilter(QObject *watched, QEvent *event)
{
    if (event->type() != QEvent::Drop)
        return QWidget::eventFilter(watched, event);
    auto *drop = static_cast<QDropEvent *>(event);
    const QTreeWidgetItem *onto = m_tree->itemAt(drop->position().toPoint());
    drop->setDropAction(Qt::IgnoreAction);
    drop->accept();
    if (m_session.forms().empty() || (onto && onto->data(0, IsPieceRole).toBool()))
        return true;
    const json c = {{"do", "forms.set"}, {"forms", m_session.forms()}, {"parent", onto ? onto->data(0, IdRole).toUInt() : 0u}};
    QMetaObject::invokeMethod(
        this, [this, c] { m_session.run(c); }, Qt::QueuedConnection);
    return true;
}

void AnatomyPanel::menuAt(QPoint at)
{
    QTreeWidgetItem *item = m_tree->itemAt(at);
    if (!item)
        return;
    const bool isPiece = item->data(0, IsPieceRole).toBool();
    const std::uint32_t id = item->data(0, IdRole).toUInt();
    const char *who = item->data(0, IsCageRole).toBool() ? "cage" : isPiece ? "piece" : "form";
    const std::string set = std::string(who) + ".set";
    const document::Creature &c = m_session.creature();
    const armature::Form *f = isPiece ? nullptr : c.armature.find(id);
    const document::Piece *p = isPiece ? c.piece(id) : nullptr;
    const document::Cage *cage = c.cage(id);
    if (!f && !p && !cage)
        return;
    const bool hidden = f ? f->isHidden : p ? p->isHidden : cage->isHidden;
    const bool locked = f ? f->isLocked : p ? p->isLocked : cage->isLocked;
    QMenu menu;
    const auto add = [&](const QString &text, json command) {
        menu.addAction(text, this, [this, command] { m_session.run(command); });
    };
    menu.addAction(tr("Rename"), this, [this, item] { m_tree->editItem(item, 0); });
    add(hidden ? tr("Show") : tr("Hide"), {{"do", set}, {who, id}, {"hidden", !hidden}});
    add(locked ? tr("Unlock") : tr("Lock"), {{"do", set}, {who, id}, {"locked", !locked}});
    if (f && m_session.forms().size() > 1) {
        const json chosen = m_session.forms();
        menu.addSeparator();
        add(tr("Group the chosen"), {{"do", "form.group"}, {"forms", chosen}});
        add(tr("Hide the chosen"), {{"do", "forms.set"}, {"forms", chosen}, {"hidden", true}});
        add(tr("Delete the chosen"), {{"do", "forms.remove"}, {"forms", chosen}});
        menu.addSeparator();
    }
    if (f && f->kind == armature::FormKind::Group)
        add(tr("Break up the group"), {{"do", "form.ungroup"}, {"form", id}});
    if (f) {
        add(tr("Duplicate"), {{"do", "form.duplicate"}, {"form", id}});
        add(f->isMirrored ? tr("Delete the twin") : tr("Mirror with its branch"),
            {{"do", "form.set"}, {"form", id}, {"mirror", !f->isMirrored}, {"branch", true}});
    }
    menu.addSeparator();
    add(tr("Delete"), {{"do", std::string(who) + ".remove"}, {who, id}});
    menu.exec(m_tree->viewport()->mapToGlobal(at));
}

void AnatomyPanel::toggleSolo()
{
    const document::Creature &c = m_session.creature();
    const bool isForms = rowOf(m_session.bench()).showsForms;
    std::vector<std::uint32_t> chosen, shown, hidden; // of the kind that is looked at
    const auto see = [&](std::uint32_t id, bool isHidden) { (isHidden ? hidden : shown).push_back(id); };
    if (isForms) {
        chosen = m_session.forms();
        for (const auto &f : c.armature.forms)
            see(f.id, f.isHidden);
    } else {
        for (QTreeWidgetItemIterator it(m_tree, QTreeWidgetItemIterator::Selected); *it; ++it)
            if ((*it)->data(0, IsPieceRole).toBool())
                chosen.push_back((*it)->data(0, IdRole).toUInt());
        if (chosen.empty() && m_session.piece())
            chosen.push_back(m_session.piece());
        for (const auto &p : c.pieces)
            see(p->id, p->isHidden);
    }
    const auto has = [](const std::vector<std::uint32_t> &ids, std::uint32_t id) {
        return std::find(ids.begin(), ids.end(), id) != ids.end();
    };
    std::vector<std::uint32_t> back = std::exchange(m_hiddenBySolo, {});
    std::erase_if(back, [&](std::uint32_t id) { return !has(hidden, id); }); // gone, or shown by hand since
    if (!back.empty()) {
        m_session.run({{"do", "items.show"}, {"show", back}});
        return;
    }
    std::erase_if(shown, [&](std::uint32_t id) { return has(chosen, id); });
    std::vector<std::uint32_t> wanted;
    std::copy_if(hidden.begin(), hidden.end(), std::back_inserter(wanted), [&](std::uint32_t id) { return has(chosen, id); });
    if (chosen.empty() || (shown.empty() && wanted.empty()))
        return;
    if (m_session.run({{"do", "items.show"}, {"hide", shown}, {"show", wanted}}))
        m_hiddenBySolo = shown;
}

} // namespace bonemoss::app
