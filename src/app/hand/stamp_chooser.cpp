#include "app/hand/stamp_chooser.h"

#include "app/dialogs/command_dialog.h"
#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/pictures/picture_fields.h"

#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QHash>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {

constexpr int kIcon = 44;

} // namespace

QImage stampPicture(const image::HeightPicture &picture, int side)
{
    QImage icon(side, side, QImage::Format_RGB32);
    icon.fill(qRgb(168, 160, 144)); // beside a narrow picture
    const float d = 0.5f / float(side), longest = float(std::max(picture.width, picture.height));
    for (int y = 0; y < side; ++y)
        for (int x = 0; x < side; ++x) {
            const float u = 0.5f + ((float(x) + 0.5f) / float(side) - 0.5f) * longest / float(picture.width),
                        v = 0.5f + ((float(y) + 0.5f) / float(side) - 0.5f) * longest / float(picture.height);
            if (u < 0 || v < 0 || u > 1 || v > 1)
                continue;
            const float slope = picture.at(u + d, v) - picture.at(u - d, v) + picture.at(u, v + d) - picture.at(u, v - d);
            const int grey = std::clamp(int(168 + 190 * slope + 50 * (picture.at(u, v) - picture.middle)), 30, 245);
            icon.setPixel(x, y, qRgb(grey, int(grey * 0.95), int(grey * 0.86)));
        }
    return icon;
}

StampChooser::StampChooser(Session &session, QWidget *parent) : QWidget(parent), m_session(session)
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto *row = new QHBoxLayout;
    m_search = new QLineEdit;
    m_search->setObjectName(QStringLiteral("stampSearch"));
    m_search->setAccessibleName(tr("Find a stamp"));
    m_search->setPlaceholderText(tr("Search"));
    m_search->setClearButtonEnabled(true);
    m_folder = new QComboBox;
    m_folder->setObjectName(QStringLiteral("stampFolder"));
    m_folder->setAccessibleName(tr("Folder"));
    row->addWidget(m_search, 1);
    row->addWidget(m_folder);
    column->addLayout(row);
    m_list = new QListWidget;
    m_list->setObjectName(QStringLiteral("stampList"));
    m_list->setAccessibleName(tr("Stamps"));
    m_list->setViewMode(QListView::IconMode);
    m_list->setResizeMode(QListView::Adjust);
    m_list->setMovement(QListView::Static);
    m_list->setIconSize(QSize(kIcon, kIcon));
    m_list->setGridSize(QSize(kIcon + 10, kIcon + 6));
    m_list->setUniformItemSizes(true);
    m_list->setFixedHeight(3 * (kIcon + 6) + 8);
    column->addWidget(m_list);
    auto *more = new QHBoxLayout;
    auto *add = new QPushButton(tr("Picture…"));
    add->setObjectName(QStringLiteral("stampAdd"));
    add->setToolTip(tr("Takes a picture of 8, 16 or 32 bits as a stamp of this creature"));
    connect(add, &QPushButton::clicked, this, &StampChooser::addPicture);
    auto *harvest = new QPushButton(tr("From the skin"));
    harvest->setObjectName(QStringLiteral("stampHarvest"));
    harvest->setToolTip(tr("The next click on the skin takes the relief under the ring as a stamp, a drag that in a rectangle. "
                           "Of a group: in the menu Masks"));
    connect(harvest, &QPushButton::clicked, this, &StampChooser::harvestAsked);
    more->addWidget(add);
    more->addWidget(harvest);
    column->addLayout(more);
    connect(m_search, &QLineEdit::textChanged, this, &StampChooser::fill);
    connect(m_folder, &QComboBox::activated, this, &StampChooser::fill);
    m_list->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(m_list, &QWidget::customContextMenuRequested, this, &StampChooser::showMenu);
    connect(m_list, &QListWidget::itemClicked, this, [this](QListWidgetItem *item) {
        m_chosen = item->data(Qt::UserRole).toString();
        emit chosen(m_chosen);
    });
    connect(&session, &Session::creatureChanged, this, &StampChooser::fill);
    connect(&session, &Session::lookChanged, this, &StampChooser::fill);
    fill();
}

void StampChooser::setChosen(const QString &name)
{
    m_chosen = name;
    for (int i = 0; i < m_list->count(); ++i)
        if (m_list->item(i)->data(Qt::UserRole).toString() == name)
            m_list->setCurrentRow(i);
}

void StampChooser::fill()
{
    static QHash<QString, QIcon> icons; // of those that come with the program
    const auto &own = m_session.creature().stamps;
    QString what = m_search->text() + QLatin1Char('/') + m_folder->currentText();
    for (const auto &s : own)
        what += QStringLiteral("/%1 %2").arg(QString::fromStdString(s.name)).arg(quintptr(s.picture.get()));
    if (what == m_filledWith)
        return;
    QStringList folders{tr("All"), tr("Own")};
    for (const std::string_view name : image::builtInStamps())
        if (!folders.contains(textOf(image::folderOfStamp(name))))
            folders << textOf(image::folderOfStamp(name));
    const QString folder = m_folder->currentText().isEmpty() ? folders[0] : m_folder->currentText();
    m_folder->clear();
    m_folder->addItems(folders);
    m_folder->setCurrentText(folder);
    m_filledWith = what;
    m_list->clear();
    const auto put = [&](const QString &name, const QString &in, const QIcon &icon) {
        if (!name.contains(m_search->text(), Qt::CaseInsensitive) || (folder != folders[0] && folder != in))
            return;
        auto *item = new QListWidgetItem(icon, QString(), m_list);
        item->setData(Qt::UserRole, name);
        item->setToolTip(name);
        item->setData(Qt::AccessibleTextRole, name);
    };
    for (const auto &s : own)
        put(QString::fromStdString(s.name), folders[1], QIcon(QPixmap::fromImage(stampPicture(*s.picture, kIcon))));
    for (const std::string_view name : image::builtInStamps()) {
        QIcon &icon = icons[textOf(name)];
        if (icon.isNull())
            icon = QIcon(QPixmap::fromImage(stampPicture(image::drawStamp(name, kIcon), kIcon)));
        put(textOf(name), textOf(image::folderOfStamp(name)), icon);
    }
    setChosen(m_chosen);
}

void StampChooser::addPicture()
{
    QFileDialog ask(window(), tr("Picture for a stamp"), QString(), tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.exr)"));
    ask.setObjectName(QStringLiteral("stampFileDialog"));
    ask.setFileMode(QFileDialog::ExistingFile);
    if (ask.exec() != QDialog::Accepted || ask.selectedFiles().isEmpty())
        return;
    const QString path = ask.selectedFiles().first();
    const auto command = askCommand(
        window(),
        toCommand(command::AddStamp{.path = path.toStdString(), .name = QFileInfo(path).completeBaseName().toStdString()}),
        {QStringLiteral("name"), QStringLiteral("middle"), QStringLiteral("depth"), QStringLiteral("invert"),
         QStringLiteral("tile")});
    if (command && m_session.run(*command))
        emit chosen(m_chosen = QString::fromStdString(m_session.creature().stamps.back().name));
}

/// Over a stamp of the creature's own: its middle, depth and borders, and an end to it.
void StampChooser::showMenu(QPoint at)
{
    const QListWidgetItem *item = m_list->itemAt(at);
    const QString name = item ? item->data(Qt::UserRole).toString() : QString();
    const auto &own = m_session.creature().stamps;
    const auto stamp = std::find_if(own.begin(), own.end(), [&](const auto &s) { return s.name == name.toStdString(); });
    if (stamp == own.end())
        return;
    const auto named = toCommand(command::SetStamp{.name = stamp->name, .middle = stamp->picture->middle, .depth = stamp->depth});
    QMenu menu;
    menu.setObjectName(QStringLiteral("stampMenu"));
    menu.addAction(tr("Change…"), this, [this, named, name] {
        const auto command =
            askCommand(window(), named,
                       {QStringLiteral("middle"), QStringLiteral("depth"), QStringLiteral("invert"), QStringLiteral("tile")});
        if (command && m_session.run(*command))
            emit chosen(m_chosen = name);
    });
    menu.addAction(tr("Delete"), this, [this, name] {
        if (m_session.run(toCommand(command::RemoveStamp{.name = name.toStdString()})) && m_chosen == name)
            emit chosen(m_chosen = textOf(image::builtInStamps().front()));
    });
    menu.exec(m_list->viewport()->mapToGlobal(at));
}

} // namespace bonemoss::app
