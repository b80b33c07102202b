#include "app/anatomy/anatomy_panel.h"

#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "document/items.h"
#include "command/fields.h"
#include "command/forms/form_fields.h"
#include "command/items/item_fields.h"
#include "outgrowth/outgrowth.h"

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

enum Role { IdRole = Qt::UserRole, KindRole };

bool isOf(const QTreeWidgetItem &item, std::string_view kind)
{
    return item.data(0, KindRole).toString().toStdString() == kind;
}
constexpr std::string_view kFormKind = "form";

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
    connect(solo, &QPushButton::clicked, this, &AnatomyPanel::soloAsked);
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
    connect(&session, &Session::creatureChanged, this, &AnatomyPanel::follow);
    connect(&session, &Session::lookChanged, this, &AnatomyPanel::follow);
    connect(&session, &Session::choiceChanged, this, &AnatomyPanel::showChoice);
    follow();
}

/// What the tree shows of an item.
struct AnatomyPanel::Row {
    std::uint32_t id, parent;
    QString name, what, tip;
    bool isHidden;
    std::string_view kind;
};

/// In their order; parents come before what hangs from them.
std::vector<AnatomyPanel::Row> AnatomyPanel::rowsOf() const
{
    std::vector<Row> rows;
    const document::Creature &c = m_session.creature();
    const auto add = [&](const Item &item, const QString &what, const QString &tip, std::string_view kind) {
        const QString marks = (item.isLocked ? tr(" · locked") : QString()) + (item.isHidden ? tr(" · hidden") : QString());
        rows.push_back({item.id, item.parent, QString::fromStdString(item.name), what + marks, tip, item.isHidden, kind});
    };
    for (const auto &p : c.pieces)
        add(*p, tr("skin · %1").arg(counted(p->skin.shown.topology->faceCount())), {}, document::Piece::kKind);
    document::eachItem(c, [&](const document::ItemKind &kind, std::size_t k, const Item &item) {
        if (kind.share(c, k) && kind.name != document::Piece::kKind)
            add(item, QStringLiteral("%1 · %2").arg(tableWords("Item", kind.name), QString::fromStdString(kind.about(c, k))), {},
                kind.name);
    });
    std::map<std::uint32_t, int> depth;
    for (const auto &f : c.armature.forms) {
        const auto parent = depth.find(f.parent);
        const int deep = depth[f.id] = parent == depth.end() ? 0 : parent->second + 1;
        const QString kind = tableWords("Form", nameOf(f.kind));
        // Deep in the tree the name needs the room; what a form is stands in its tooltip.
        const QString what = (deep < 4 ? kind : QString()) + (f.isMirrored ? QStringLiteral(" ⇄") : QString());
        add(f, what, QStringLiteral("%1 (%2)").arg(QString::fromStdString(f.name), kind), kFormKind);
    }
    return rows;
}

void AnatomyPanel::dress(QTreeWidgetItem *item, const Row &row)
{
    if (item->text(0) != row.name)
        item->setText(0, row.name);
    if (item->text(1) != row.what)
        item->setText(1, row.what);
    item->setToolTip(0, row.tip);
    item->setData(0, IdRole, row.id);
    item->setData(0, KindRole, textOf(row.kind));
    item->setFlags(item->flags() | Qt::ItemIsEditable);
    item->setForeground(0, row.isHidden ? theme().softInk : theme().ink);
    item->setForeground(1, theme().softInk);
    QFont f = m_tree->font();
    f.setBold(row.kind == document::Piece::kKind);
    item->setFont(0, f);
    item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
}

/// The tree takes over what changed: an item that stays keeps its fold and its place on the screen.
void AnatomyPanel::follow()
{
    m_isFilling = true;
    const std::vector<Row> rows = rowsOf();
    std::map<std::uint32_t, QTreeWidgetItem *> gone = std::exchange(m_items, {});
    std::map<std::uint32_t, bool> isFolded;
    for (const auto &[id, item] : gone)
        isFolded[id] = item->childCount() > 0 && !item->isExpanded();
    std::map<std::uint32_t, int> places; // of the next under each parent
    for (const Row &row : rows) {
        const auto above = m_items.find(row.parent);
        QTreeWidgetItem *parent = above == m_items.end() ? m_tree->invisibleRootItem() : above->second;
        const int place = places[above == m_items.end() ? 0 : row.parent]++;
        QTreeWidgetItem *item = nullptr;
        if (const auto old = gone.find(row.id); old != gone.end())
            item = old->second, gone.erase(old);
        const bool isNew = !item;
        if (isNew)
            item = new QTreeWidgetItem;
        QTreeWidgetItem *was = item->parent() ? item->parent() : isNew ? nullptr : m_tree->invisibleRootItem();
        if (was != parent || parent->indexOfChild(item) != place) {
            if (was)
                was->removeChild(item);
            parent->insertChild(std::min(place, parent->childCount()), item);
        }
        m_items[row.id] = item;
        dress(item, row);
    }
    for (const auto &[id, item] : gone) { // what hung from them has moved, or is gone as well
        for (QTreeWidgetItem *child : item->takeChildren())
            if (const auto left = std::find_if(gone.begin(), gone.end(), [&](const auto &g) { return g.second == child; });
                left == gone.end())
                m_tree->addTopLevelItem(child);
    }
    for (const auto &[id, item] : gone)
        delete item;
    for (const auto &[id, item] : m_items)
        if (item->childCount() > 0 && item->isExpanded() == isFolded[id])
            item->setExpanded(!isFolded[id]);
    m_isFilling = false;
    showChoice();
}

/// What is selected in the tree becomes what is chosen: several forms, or one piece.
void AnatomyPanel::takeChoice()
{
    QTreeWidgetItem *current = m_tree->currentItem();
    if (current && current->isSelected() && !isOf(*current, kFormKind)) {
        const std::uint32_t id = current->data(0, IdRole).toUInt();
        return isOf(*current, document::Piece::kKind) ? m_session.choosePiece(id) : m_session.chooseItem(id);
    }
    std::vector<std::uint32_t> ids;
    for (QTreeWidgetItemIterator it(m_tree, QTreeWidgetItemIterator::Selected); *it; ++it)
        if (isOf(**it, kFormKind))
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
        const bool isForm = isOf(**it, kFormKind);
        if (!isForm && !isOf(**it, document::Piece::kKind)) {
            (*it)->setSelected(id == m_session.chosenItem());
            continue;
        }
        if (isForm != forms || std::find(wanted.begin(), wanted.end(), id) == wanted.end())
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
    const std::uint32_t id = item->data(0, IdRole).toUInt();
    const json c = toCommand(command::SetItems{.items = {id}, .name = item->text(0).toStdString()});
    QMetaObject::invokeMethod(
        this,
        [this, c] { // the tree changes by it
            if (!m_session.run(c))
                follow();
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
    if (m_session.forms().empty() || (onto && isOf(*onto, document::Piece::kKind)))
        return true;
    const json c = toCommand(
        command::SetForms{.forms = command::namesOf(m_session.forms()), .parent = onto ? onto->data(0, IdRole).toUInt() : 0u});
    QMetaObject::invokeMethod(
        this, [this, c] { m_session.run(c); }, Qt::QueuedConnection);
    return true;
}

void AnatomyPanel::menuAt(QPoint at)
{
    QTreeWidgetItem *item = m_tree->itemAt(at);
    if (!item)
        return;
    const std::uint32_t id = item->data(0, IdRole).toUInt();
    const document::Creature &c = m_session.creature();
    const auto place = document::findItem(c, id);
    if (!place)
        return;
    const bool hidden = place->in(c).isHidden, locked = place->in(c).isLocked;
    const armature::Form *f = c.armature.find(id);
    QMenu menu;
    const auto add = [&](const QString &text, json command) {
        menu.addAction(text, this, [this, command] { m_session.run(command); });
    };
    menu.addAction(tr("Rename"), this, [this, item] { m_tree->editItem(item, 0); });
    add(hidden ? tr("Show") : tr("Hide"), toCommand(command::SetItems{.items = {id}, .isHidden = !hidden}));
    add(locked ? tr("Unlock") : tr("Lock"), toCommand(command::SetItems{.items = {id}, .isLocked = !locked}));
    if (f && m_session.forms().size() > 1) {
        const json chosen = m_session.forms();
        menu.addSeparator();
        add(tr("Group the chosen"), toCommand(command::GroupForms{.forms = command::namesOf(chosen)}));
        add(tr("Hide the chosen"), toCommand(command::SetForms{.forms = command::namesOf(chosen), .isHidden = true}));
        add(tr("Delete the chosen"), toCommand(command::RemoveForms{.forms = command::namesOf(chosen)}));
        menu.addSeparator();
    }
    if (f && f->kind == armature::FormKind::Group)
        add(tr("Break up the group"), toCommand(command::UngroupForms{.form = id}));
    if (f) {
        add(tr("Duplicate"), toCommand(command::DuplicateForm{.form = id}));
        add(f->isMirrored ? tr("Delete the twin") : tr("Mirror with its branch"),
            toCommand(command::SetForm{.form = id, .changes = {.isMirrored = !f->isMirrored}, .takesBranch = true}));
    }
    menu.addSeparator();
    add(tr("Delete"), toCommand(command::RemoveItems{.items = {id}}));
    menu.exec(m_tree->viewport()->mapToGlobal(at));
}

std::vector<std::uint32_t> AnatomyPanel::chosen() const
{
    if (rowOf(m_session.bench()).showsForms)
        return m_session.forms();
    std::vector<std::uint32_t> pieces;
    for (QTreeWidgetItemIterator it(m_tree, QTreeWidgetItemIterator::Selected); *it; ++it)
        if (isOf(**it, document::Piece::kKind))
            pieces.push_back((*it)->data(0, IdRole).toUInt());
    if (pieces.empty() && m_session.piece())
        pieces.push_back(m_session.piece());
    return pieces;
}

} // namespace bonemoss::app
