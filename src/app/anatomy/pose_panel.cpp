#include "app/anatomy/pose_panel.h"

#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "app/view/balance_mark.h"
#include "armature/balance.h"
#include "command/fields.h"
#include "command/forms/form_fields.h"
#include "command/pose/drive_fields.h"
#include "command/pose/pose_fields.h"
#include "export/shown_scene.h"
#include "mesh/measures.h"
#include "portrait/silhouette.h"

#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QScopedValueRollback>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <functional>

namespace bonemoss::app {

using nlohmann::json;

namespace {

constexpr int kBone = Qt::UserRole;
constexpr QSize kPicture(60, 34);
constexpr std::size_t kMostPictures = 64; ///< that are kept

/// A silhouette from the left, twice as fine as it is shown.
QImage pictureOf(const document::Creature &creature, const pose::Posture &posture, QRgb ink)
{
    const QSize size = kPicture * 2;
    QImage out(size, QImage::Format_ARGB32_Premultiplied);
    out.fill(Qt::transparent);
    const document::Creature now = posed(creature, posture, document::Standing::Part::Seen);
    if (now.bounds().isEmpty())
        return out;
    portrait::Camera camera;
    camera.isParallel = true;
    camera.rotation = portrait::viewRotation("left").value_or(Quat{});
    camera = portrait::framing(camera, now.bounds(), float(size.width()) / float(size.height()));
    const auto shape = portrait::silhouette(exporting::shownScene(now), camera, size.width(), size.height());
    for (int y = 0; y < size.height(); ++y)
        for (int x = 0; x < size.width(); ++x)
            if (shape[std::size_t(y) * std::size_t(size.width()) + std::size_t(x)])
                reinterpret_cast<QRgb *>(out.scanLine(y))[x] = ink;
    return out;
}

} // namespace

PosePanel::PosePanel(Session &session, HandModel &hand, QWidget *parent)
    : QWidget(parent), m_session(session), m_hand(hand), m_next([this](Drawn drawn) {
          m_pictures.push_back(std::move(drawn));
          m_shownPoses.clear(); // the list takes it up
          fillPoses();
      }),
      m_balance([this](const std::optional<armature::Balance> &balance) {
          const QString words = balance ? balanceWords(*balance) : QString();
          m_stands->setText(words.isEmpty() ? words : words.front().toUpper() + words.mid(1));
          m_hand.of<PoseHand>().setBalance(balance);
      })
{
    setObjectName(QStringLiteral("panel"));
    setAttribute(Qt::WA_StyledBackground);
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(12, 8, 8, 8);
    column->setSpacing(4);
    auto *top = new QHBoxLayout;
    auto *keep = new QPushButton(tr("+ pose"));
    keep->setObjectName(QStringLiteral("poseKeep"));
    keep->setProperty("word", true);
    keep->setToolTip(tr("Keeps the pose as it is now, under a name"));
    connect(keep, &QPushButton::clicked, this, &PosePanel::keep);
    top->addWidget(heading(tr("Poses"), 12));
    top->addStretch();
    top->addWidget(keep);
    column->addLayout(top);
    m_poses = new QListWidget;
    m_poses->setObjectName(QStringLiteral("poseList"));
    m_poses->setAccessibleName(tr("Poses"));
    m_poses->setToolTip(tr("A double click, or Enter, brings the creature into it; F2 renames it, dragging moves it"));
    connect(m_poses, &QListWidget::itemActivated, this, [this](QListWidgetItem *item) {
        run(toCommand(command::UsePose{.pose = command::ItemName(item->data(kBone).toString().toStdString())}));
    });
    m_poses->setDragDropMode(QAbstractItemView::InternalMove);
    m_poses->setEditTriggers(QAbstractItemView::EditKeyPressed);
    connect(m_poses->model(), &QAbstractItemModel::rowsMoved, this, [this] { // rest stays the first
        for (int row = 0; row < m_poses->count(); ++row) {
            const std::string name = m_poses->item(row)->data(kBone).toString().toStdString();
            const auto &poses = m_session.creature().posing.poses;
            const auto was = std::size_t(
                std::find_if(poses.begin(), poses.end(), [&](const pose::Pose &p) { return p.name == name; }) - poses.begin());
            const auto at = std::size_t(std::max(0, row - 1));
            if (was < poses.size() && was != at && m_poses->currentRow() == row) {
                m_shownPoses.clear();
                return run(toCommand(command::OrderPose{.pose = command::ItemName(name), .to = std::uint32_t(at)}));
            }
        }
        m_shownPoses.clear(), m_shownAs = {};
        QMetaObject::invokeMethod(this, &PosePanel::fillPoses, Qt::QueuedConnection);
    });
    connect(m_poses, &QListWidget::itemChanged, this, [this](QListWidgetItem *item) {
        const QString was = item->data(kBone).toString(), now = item->text().trimmed();
        if (m_isFilling || was == QLatin1String("rest") || now == was || now.isEmpty())
            return;
        m_shownPoses.clear();
        run(toCommand(command::RenamePose{.pose = command::ItemName(was.toStdString()), .name = now.toStdString()}));
    });
    m_poses->setMinimumHeight(96);
    m_poses->setIconSize(kPicture);
    column->addWidget(m_poses, 2);
    auto *line = new QHBoxLayout;
    const auto button = [&](const char *id, const QString &text, const QString &tip, auto command) {
        auto *b = new QPushButton(text);
        b->setObjectName(QLatin1String(id));
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, [this, command] {
            if (const QListWidgetItem *item = m_poses->currentItem())
                run(command(item->data(kBone).toString().toStdString()));
        });
        line->addWidget(b);
    };
    button("poseUse", tr("Use"), tr("Brings the creature into the chosen pose"),
           [](const std::string &name) { return toCommand(command::UsePose{.pose = command::ItemName(name)}); });
    button("poseDelete", tr("Delete"), tr("Forgets the chosen pose"),
           [](const std::string &name) { return toCommand(command::RemovePose{.pose = command::ItemName(name)}); });
    column->addLayout(line);
    auto *blend = new ValueSlider(tr("Towards the chosen pose"), {0, 1, false, QStringLiteral("%"), 0, 100});
    blend->setObjectName(QStringLiteral("poseBlend"));
    blend->setToolTip(tr("From the pose as it is now, shown while it is dragged"));
    const auto share = [this](double v) {
        const QListWidgetItem *item = m_poses->currentItem();
        return item ? toCommand(
                   command::UsePose{.pose = command::ItemName(item->data(kBone).toString().toStdString()), .share = float(v)})
                    : json();
    };
    connect(blend, &ValueSlider::edited, this, [this, share](double v) { m_hand.of<PoseHand>().tryCommand(share(v)); });
    connect(blend, &ValueSlider::released, this, [this, share, blend](double v) {
        m_hand.of<PoseHand>().tryCommand({});
        if (const json command = share(v); v > 0 && !command.is_null())
            run(command);
        blend->setValue(0);
    });
    column->addWidget(blend);
    m_stands = new QLabel;
    m_stands->setObjectName(QStringLiteral("poseStands"));
    m_stands->setProperty("soft", true);
    m_stands->setWordWrap(true);
    column->addWidget(m_stands);
    column->addWidget(heading(tr("Bones"), 12));
    m_bones = new QTreeWidget;
    m_bones->setObjectName(QStringLiteral("boneTree"));
    m_bones->setAccessibleName(tr("Bones"));
    m_bones->setHeaderHidden(true);
    m_bones->setIndentation(10);
    connect(m_bones, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem *item) {
        if (item && !m_isFilling)
            m_hand.of<PoseHand>().chooseBone(pose::boneKeyOf(item->data(0, kBone).toString().toStdString()));
    });
    m_bones->setEditTriggers(QAbstractItemView::EditKeyPressed);
    m_bones->setToolTip(tr("F2 renames the form that a bone comes from"));
    connect(m_bones, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem *item) {
        const auto &bones = m_hand.of<PoseHand>().skeleton();
        const std::uint32_t b = bones.find(pose::boneKeyOf(item->data(0, kBone).toString().toStdString()));
        std::string text = item->text(0).trimmed().toStdString();
        if (m_isFilling || b == kNone || text == bones.bones[b].name)
            return;
        m_shownBones.clear();
        if (const armature::Form *form = m_session.creature().armature.find(bones.bones[b].key.form)) {
            const std::string side = bones.bones[b].name.substr(form->name.size()); // and part, which are named by themselves
            if (!side.empty() && text.ends_with(side))
                text.resize(text.size() - side.size());
        }
        command::SetForm rename{.form = command::ItemName(bones.bones[b].key.form)};
        rename.changes.name = text;
        run(toCommand(rename));
    });
    m_bones->setMinimumHeight(64);
    column->addWidget(m_bones, 3);
    connect(&session, &Session::creatureChanged, this, &PosePanel::rebuild);
    connect(&session, &Session::benchChanged, this, &PosePanel::rebuild);
    connect(&m_hand.of<PoseHand>(), &BenchHand::ruleChanged, this, &PosePanel::chooseInTree);
    rebuild();
}

void PosePanel::run(json command)
{
    QMetaObject::invokeMethod(
        this, [this, command = std::move(command)] { m_session.runLong(command, window()); }, Qt::QueuedConnection);
}

void PosePanel::keep()
{
    bool isGiven = false;
    const QString name = QInputDialog::getText(this, tr("Keep the pose"), tr("Name"), QLineEdit::Normal, {}, &isGiven);
    if (isGiven && !name.trimmed().isEmpty())
        run(toCommand(command::KeepPose{.name = name.trimmed().toStdString()}));
}

void PosePanel::step(int by)
{
    const auto &posing = m_session.creature().posing;
    std::vector<const pose::Pose *> whole{nullptr}; // rest
    for (const pose::Pose &p : posing.poses)
        if (p.bones.empty())
            whole.push_back(&p);
    int at = 0;
    for (int k = 0; k < int(whole.size()); ++k)
        if (posing.now == (whole[std::size_t(k)] ? whole[std::size_t(k)]->posture : pose::Posture()))
            at = k;
    const int n = int(whole.size()), next = ((at + by) % n + n) % n;
    if (n > 1)
        run(toCommand(command::UsePose{.pose = command::ItemName(next ? whole[std::size_t(next)]->name : std::string("rest"))}));
}

void PosePanel::rebuild()
{
    if (!rowOf(m_session.bench()).poses)
        return;
    fillPoses();
    fillBones();
    const document::Creature &now = m_session.creature();
    if (now.pieces.empty()) {
        m_stands->setText(tr("A pose shows once there is a skin: knit the forms first."));
        return;
    }
    m_balance.ask([creature = m_session.share()](const std::stop_token &) {
        const document::Creature standing = posed(*creature, creature->posing.now, document::Standing::Part::Seen);
        const mesh::PolyMesh body = io::joined(exporting::skinScene(standing));
        return body.isEmpty() ? std::nullopt
                              : std::optional(armature::balanceOf(body.positions, mesh::massOf(body).centre,
                                                                  0.005f * creature->bounds().diagonal()));
    });
}

void PosePanel::fillPoses()
{
    const auto &posing = m_session.creature().posing;
    std::vector<const void *> pieces;
    for (const auto &piece : m_session.creature().pieces)
        pieces.push_back(piece.get());
    if (pieces != m_drawnOf)
        m_drawnOf = pieces, m_pictures.clear(), m_shownPoses.clear();
    if (m_poses->count() > 0 && m_shownPoses == posing.poses && m_shownAs == posing.now)
        return;
    m_shownPoses = posing.poses, m_shownAs = posing.now;
    const QScopedValueRollback filling(m_isFilling, true);
    const QString chosen = m_poses->currentItem() ? m_poses->currentItem()->data(kBone).toString() : QString();
    m_poses->clear();
    QPixmap blank(kPicture);
    blank.fill(Qt::transparent);
    const auto add = [&](const QString &shown, const std::string &name, const pose::Posture &posture, bool isOfSome = false) {
        const bool isNow = posture == posing.now;
        auto *item = new QListWidgetItem(shown, m_poses);
        QFont font = item->font();
        font.setBold(isNow), font.setItalic(isOfSome);
        item->setFont(font);
        item->setToolTip(isNow ? tr("The creature stands so now") : isOfSome ? tr("Of some bones: a control too") : QString());
        item->setData(kBone, QString::fromStdString(name));
        if (name != "rest")
            item->setFlags(item->flags() | Qt::ItemIsEditable);
        const auto picture =
            std::find_if(m_pictures.begin(), m_pictures.end(), [&](const Drawn &d) { return d.posture == posture; });
        item->setIcon(picture == m_pictures.end() ? QIcon(blank) : QIcon(QPixmap::fromImage(picture->picture)));
        if (item->data(kBone).toString() == chosen)
            m_poses->setCurrentItem(item);
    };
    add(tr("Rest"), "rest", {});
    for (const pose::Pose &p : posing.poses)
        add(QString::fromStdString(p.name), p.name, p.posture, !p.bones.empty());
    askPicture();
}

void PosePanel::askPicture()
{
    std::vector<pose::Posture> wanted{{}};
    for (const pose::Pose &p : m_session.creature().posing.poses)
        wanted.push_back(p.posture);
    if (m_pictures.size() > kMostPictures)
        m_pictures.clear();
    for (const pose::Posture &posture : wanted)
        if (std::none_of(m_pictures.begin(), m_pictures.end(), [&](const Drawn &d) { return d.posture == posture; }))
            return m_next.ask([creature = m_session.share(), posture, ink = theme().ink.rgba()](const std::stop_token &) {
                return Drawn{posture, pictureOf(*creature, posture, ink)};
            });
}

void PosePanel::fillBones()
{
    const pose::Skeleton &skeleton = m_hand.of<PoseHand>().skeleton();
    std::vector<std::string> names;
    for (const pose::Bone &b : skeleton.bones)
        names.push_back(textOf(b.key) + b.name);
    if (names == m_shownBones)
        return chooseInTree();
    m_shownBones = names;
    m_isFilling = true;
    m_bones->clear();
    std::vector<QTreeWidgetItem *> items;
    for (const pose::Bone &b : skeleton.bones) {
        auto *item = b.parent == kNone ? new QTreeWidgetItem(m_bones) : new QTreeWidgetItem(items[b.parent]);
        item->setText(0, QString::fromStdString(b.name));
        item->setFlags(item->flags() | Qt::ItemIsEditable);
        item->setData(0, kBone, QString::fromStdString(textOf(b.key)));
        items.push_back(item);
    }
    m_bones->expandAll();
    m_isFilling = false;
    chooseInTree();
}

void PosePanel::chooseInTree()
{
    const QString key = QString::fromStdString(textOf(m_hand.of<PoseHand>().bone()));
    for (QTreeWidgetItemIterator it(m_bones); *it; ++it)
        if ((*it)->data(0, kBone).toString() == key && m_bones->currentItem() != *it) {
            m_isFilling = true;
            m_bones->setCurrentItem(*it);
            m_isFilling = false;
        }
}

} // namespace bonemoss::app
