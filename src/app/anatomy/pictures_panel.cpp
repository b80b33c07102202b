#include "app/anatomy/pictures_panel.h"

#include "app/theme/table_words.h"
#include "app/hand/value_slider.h"
#include "app/view/picture_shelf.h"
#include "portrait/camera.h"
#include "command/fields.h"
#include "command/pictures/picture_fields.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <numbers>

namespace bonemoss::app {

using document::Reference;

namespace {
constexpr int kThumb = PictureShelf::kThumb;

std::vector<std::string> viewKeys()
{
    std::vector<std::string> keys;
    for (const portrait::NamedView &v : portrait::anatomicalViews())
        keys.emplace_back(v.key);
    keys.emplace_back(document::kBoard);
    return keys;
}

QIcon thumb(const QImage *image)
{
    QImage square(kThumb, kThumb, QImage::Format_RGBA8888);
    square.fill(Qt::transparent);
    if (image) {
        QPainter p(&square);
        p.drawImage((kThumb - image->width()) / 2, (kThumb - image->height()) / 2, *image);
    }
    return QIcon(QPixmap::fromImage(square));
}
} // namespace

QString pictureViewTitle(const std::string &view)
{
    for (const portrait::NamedView &v : portrait::anatomicalViews())
        if (v.key == view)
            return tableWords("View", v.title);
    return PicturesPanel::tr("Board");
}

PicturesPanel::PicturesPanel(Session &session, PictureShelf &shelf, QWidget *parent)
    : QWidget(parent), m_session(session), m_shelf(shelf)
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(5);
    m_list = new QListWidget;
    m_list->setObjectName(QStringLiteral("pictureList"));
    m_list->setAccessibleName(tr("Pictures"));
    m_list->setIconSize(QSize(kThumb, kThumb));
    m_list->setMinimumHeight(56);
    connect(m_list, &QListWidget::currentRowChanged, this, [this](int row) {
        if (!m_isFilling)
            m_session.choosePicture(row < 0 ? 0 : m_list->item(row)->data(Qt::UserRole).toUInt());
    });
    column->addWidget(m_list, 1);
    auto *add = new QPushButton(tr("Add picture…"));
    add->setObjectName(QStringLiteral("pictureAdd"));
    add->setToolTip(tr("PNG, JPEG, TIFF or EXR; it is kept inside the creature. Pictures can also be dropped on the view"));
    connect(add, &QPushButton::clicked, this, &PicturesPanel::addAsked);
    column->addWidget(add);
    connect(&session, &Session::creatureChanged, this, [this] {
        m_shelf.keepOnly(m_session.creature());
        rebuild();
    });
    connect(&session, &Session::choiceChanged, this, &PicturesPanel::rebuild);
    connect(&shelf, &PictureShelf::arrived, this, &PicturesPanel::rebuild);
    rebuild();
}

void PicturesPanel::rebuild()
{
    m_isFilling = true;
    m_list->clear();
    for (const Reference &r : m_session.creature().references) {
        auto *item = new QListWidgetItem(thumb(m_shelf.thumb(r.file)), QString::fromStdString(r.name), m_list);
        item->setData(Qt::UserRole, r.id);
        item->setToolTip(tr("%1 · %2 by %3 pixels").arg(pictureViewTitle(r.view)).arg(r.file->width).arg(r.file->height));
        if (r.id == m_session.picture())
            m_list->setCurrentItem(item);
    }
    m_isFilling = false;
    rebuildSettings();
}

void PicturesPanel::rebuildSettings()
{
    if (m_settings)
        m_settings->deleteLater(); // it may be one of its own controls that changed the picture
    m_settings = new QWidget;
    layout()->addWidget(m_settings);
    auto *column = new QVBoxLayout(m_settings);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    const Reference *r = m_session.creature().reference(m_session.picture());
    if (!r) {
        auto *words = new QLabel(m_session.creature().references.empty() ? tr("Drawings and photographs to work from.")
                                                                         : tr("Choose a picture to set it."));
        words->setProperty("soft", true);
        words->setWordWrap(true);
        column->addWidget(words);
        return;
    }
    addPlace(column, *r);
    addLook(column, *r);
    addButtons(column, *r);
}

/// A change of the chosen picture, for its controls.
std::function<void(command::PictureChanges)> PicturesPanel::sender(const Reference &r)
{
    return [this, id = r.id](command::PictureChanges changes) {
        m_session.run(toCommand(command::SetPicture{.picture = id, .changes = std::move(changes)}));
    };
}

void PicturesPanel::addPlace(QBoxLayout *column, const Reference &r)
{
    using Changes = command::PictureChanges;
    const auto send = sender(r);
    auto *row = new QHBoxLayout;
    auto *view = new QComboBox;
    view->setObjectName(QStringLiteral("pictureView"));
    view->setAccessibleName(tr("View that the picture lies on"));
    for (const std::string &key : viewKeys())
        view->addItem(pictureViewTitle(key), QString::fromStdString(key));
    view->setCurrentIndex(view->findData(QString::fromStdString(r.view)));
    connect(view, &QComboBox::activated, this,
            [send, view](int i) { send({.view = view->itemData(i).toString().toStdString()}); });
    row->addWidget(view, 1);
    const auto number = [&](QBoxLayout *to, const char *id, const QString &tip, double value, double least, const QString &unit,
                            const std::function<Changes(float)> &change) {
        auto *spin = new QDoubleSpinBox;
        spin->setObjectName(QLatin1String(id));
        spin->setAccessibleName(tip);
        spin->setToolTip(tip);
        spin->setRange(least, 1e6);
        spin->setDecimals(1);
        spin->setSuffix(unit);
        spin->setValue(value);
        spin->setKeyboardTracking(false);
        spin->setMinimumWidth(56);
        spin->setEnabled(!r.isLocked);
        connect(
            spin, &QDoubleSpinBox::valueChanged, this, [send, change](double x) { send(change(float(x))); },
            Qt::QueuedConnection);
        to->addWidget(spin);
    };
    auto *numbers = new QHBoxLayout;
    numbers->setSpacing(4);
    number(row, "pictureHeight", tr("Height of the whole picture, mm"), double(r.heightMm), 0.1, tr(" mm"),
           [](float x) { return Changes{.height = x}; });
    number(numbers, "pictureAcross", tr("Centre x, mm"), double(r.across), -1e6, tr(" →"), [up = r.up](float x) {
        return Changes{.middle = std::array{x, up}};
    });
    number(numbers, "pictureUp", tr("Centre y, mm"), double(r.up), -1e6, tr(" ↑"), [across = r.across](float x) {
        return Changes{.middle = std::array{across, x}};
    });
    number(numbers, "pictureTurn", tr("Rotation, degrees"), double(r.rotation) * 180 / std::numbers::pi, -360, tr("°"),
           [](float x) { return Changes{.turn = std::clamp(x, -360.0f, 360.0f)}; });
    column->addLayout(row);
    column->addLayout(numbers);
}

void PicturesPanel::addLook(QBoxLayout *column, const Reference &r)
{
    using Changes = command::PictureChanges;
    const auto send = sender(r);
    auto *opacity = new ValueSlider(tr("Opacity"), {0, 1, false, QStringLiteral("%"), 0, 100});
    opacity->setObjectName(QStringLiteral("pictureOpacity"));
    opacity->setValue(double(r.opacity));
    connect(opacity, &ValueSlider::released, this, [send](double v) { send({.opacity = float(v)}); });
    column->addWidget(opacity);
    auto *switches = new QHBoxLayout;
    const auto toggle = [&](const char *id, const QString &name, bool on, std::optional<bool> Changes::*member) {
        auto *box = new QCheckBox(name);
        box->setObjectName(QLatin1String(id));
        box->setChecked(on);
        connect(
            box, &QCheckBox::toggled, this,
            [send, member](bool now) {
                Changes changes;
                changes.*member = now;
                send(std::move(changes));
            },
            Qt::QueuedConnection);
        switches->addWidget(box);
    };
    toggle("pictureOver", tr("over"), r.isOver, &Changes::isOver);
    toggle("pictureLocked", tr("locked"), r.isLocked, &Changes::isLocked);
    toggle("pictureHidden", tr("hidden"), r.isHidden, &Changes::isHidden);
    switches->addStretch();
    column->addLayout(switches);
}

void PicturesPanel::addButtons(QBoxLayout *column, const Reference &r)
{
    auto *buttons = new QHBoxLayout;
    auto *lineUp = new QPushButton(tr("Line up…"));
    lineUp->setObjectName(QStringLiteral("pictureLineUp"));
    lineUp->setToolTip(tr("Press on crown and ground: the picture comes to the final height and to the middle plane"));
    lineUp->setEnabled(r.view != document::kBoard && !r.isLocked);
    connect(lineUp, &QPushButton::clicked, this, [this, id = r.id] { emit lineUpAsked(id); });
    auto *remove = new QPushButton(tr("Delete"));
    remove->setObjectName(QStringLiteral("pictureRemove"));
    remove->setEnabled(!r.isLocked);
    connect(
        remove, &QPushButton::clicked, this,
        [this, id = r.id] { m_session.run(toCommand(command::RemovePicture{.picture = id})); }, Qt::QueuedConnection);
    buttons->addWidget(lineUp);
    buttons->addWidget(remove);
    column->addLayout(buttons);
}

} // namespace bonemoss::app
