// The head of the settings of outgrowths: how a new one is rooted, and what a drag does to one that stands.
#include "app/hand/outgrowth_settings.h"

#include "app/hand/outgrowth_hand.h"
#include "app/hand/value_slider.h"
#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "armature/form.h"
#include "command/fields.h"
#include "command/outgrowths/outgrowth_fields.h"
#include "document/ops/portraits.h"

#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QCoreApplication>
#include <QGuiApplication>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using nlohmann::json;

QString outgrowthWords(std::string_view s)
{
    return tableWords("Outgrowth", s);
}

QLabel *softWords(const QString &text)
{
    auto *label = new QLabel(text);
    label->setWordWrap(true);
    label->setProperty("soft", true);
    return label;
}

void OutgrowthSettings::addHead()
{
    const outgrowth::Outgrowth *o = m_hand.of<OutgrowthHand>().chosen();
    const outgrowth::Kind &kind = *m_hand.of<OutgrowthHand>().rule().kind;
    auto *title = new QLabel(o ? QString::fromStdString(o->name) : outgrowthWords(kind.title));
    title->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
    m_column->addWidget(title);
    m_column->addWidget(softWords(outgrowthWords(kind.text)));
    o ? addGestures(*o) : addNew(kind);
}

/// How a new one is rooted.
void OutgrowthSettings::addNew(const outgrowth::Kind &kind)
{
    const auto button = [this](const char *id, const QString &text, const auto &clicked) {
        auto *b = new QPushButton(text);
        b->setObjectName(QLatin1String(id));
        connect(b, &QPushButton::clicked, this, clicked);
        m_column->addWidget(b);
        return b;
    };
    switch (kind.rooting) {
    case outgrowth::Rooting::Area:
        m_column->addWidget(softWords(tr("It grows where the mask lies.")));
        button("outgrowthGrow", tr("Grow on the mask"), [this] {
            growAnew(command::outgrowCommand(m_session.piece(), 0, m_hand.of<OutgrowthHand>().rule()));
        })->setProperty("main", true);
        return;
    case outgrowth::Rooting::Lines: m_column->addWidget(softWords(tr("Draw two lines on the skin or more: its ribs."))); break;
    case outgrowth::Rooting::Line: m_column->addWidget(softWords(tr("Draw a line on the skin."))); break;
    case outgrowth::Rooting::Point: m_column->addWidget(softWords(tr("Press on the skin where it grows out."))); break;
    }
    if (kind.is(outgrowth::AtTips))
        button("outgrowthTips", tr("At all toe tips"), [this] {
            json command = command::outgrowCommand(m_session.piece(), 0, m_hand.of<OutgrowthHand>().rule());
            command["tips"] = 0.2;
            growAnew(std::move(command));
        })->setToolTip(tr("One at each tip of the armature's toes and fingers"));
    if (kind.is(outgrowth::OnJaws))
        addJaws();
    if (kind.is(outgrowth::Stretches))
        addBetween();
}

/// Along the edge of a form of the armature.
void OutgrowthSettings::addJaws()
{
    auto *forms = new QComboBox;
    forms->setObjectName(QStringLiteral("outgrowthJaw"));
    forms->setAccessibleName(tr("Jaw"));
    for (const armature::Form &f : m_session.creature().armature.forms)
        if (hasShape(f.kind)) {
            forms->addItem(QString::fromStdString(f.name), f.id);
            if (forms->itemText(forms->count() - 1).contains(QLatin1String("jaw"), Qt::CaseInsensitive))
                forms->setCurrentIndex(forms->count() - 1);
        }
    if (forms->count() == 0) {
        delete forms;
        return;
    }
    auto *isUpper = new QCheckBox(tr("Upper jaw"));
    isUpper->setObjectName(QStringLiteral("outgrowthUpper"));
    auto *along = new QPushButton(tr("Along its edge"));
    along->setObjectName(QStringLiteral("outgrowthAlongJaw"));
    along->setToolTip(tr("Finds the gum line: the edge of the form, on the skin"));
    connect(along, &QPushButton::clicked, this, [this, forms, isUpper] {
        json command = command::outgrowCommand(m_session.piece(), 0, m_hand.of<OutgrowthHand>().rule());
        command["jaw"] = forms->currentData().toUInt();
        command["upper"] = isUpper->isChecked();
        growAnew(std::move(command));
    });
    m_column->addWidget(softWords(tr("Or let the gum line be found:")));
    auto *row = new QHBoxLayout;
    row->addWidget(forms, 1);
    row->addWidget(isUpper);
    m_column->addLayout(row);
    m_column->addWidget(along);
}

/// Between the members of outgrowths that stand.
void OutgrowthSettings::addBetween()
{
    const document::Creature &c = m_session.creature();
    if (c.outgrowths.empty())
        return;
    m_column->addWidget(softWords(tr("Or between horns, spines or other members:")));
    auto *list = new QListWidget;
    list->setObjectName(QStringLiteral("outgrowthBetween"));
    list->setFixedHeight(76);
    for (const auto &o : c.outgrowths) {
        auto *item = new QListWidgetItem(QString::fromStdString(o->name), list);
        item->setData(Qt::UserRole, o->id);
        item->setCheckState(Qt::Unchecked);
    }
    auto *stretch = new QPushButton(tr("Stretch between those ticked"));
    stretch->setObjectName(QStringLiteral("outgrowthStretch"));
    connect(stretch, &QPushButton::clicked, this, [this, list] {
        json command = command::outgrowCommand(m_session.piece(), 0, m_hand.of<OutgrowthHand>().rule());
        command["between"] = json::array();
        for (int k = 0; k < list->count(); ++k)
            if (list->item(k)->checkState() == Qt::Checked)
                command["between"].push_back(list->item(k)->data(Qt::UserRole).toUInt());
        growAnew(std::move(command));
    });
    m_column->addWidget(list);
    m_column->addWidget(stretch);
}

/// What a drag in the view does, and how to go back from what was done so.
void OutgrowthSettings::addGestures(const outgrowth::Outgrowth &o)
{
    OutgrowthHand &hand = m_hand.of<OutgrowthHand>();
    auto *box = new QComboBox;
    box->setObjectName(QStringLiteral("outgrowthGesture"));
    box->setAccessibleName(tr("A drag in the view"));
    box->setToolTip(tr("What a drag in the view does"));
    for (const GestureRow &row : gestures())
        if (row.fits(*o.kind))
            box->addItem(QCoreApplication::translate("Gesture", row.title), int(row.gesture));
    if (box->count() > 1) {
        box->setCurrentIndex(std::max(0, box->findData(int(hand.gesture()))));
        connect(box, &QComboBox::activated, this, [&hand, box](int k) { // the box goes with it
            QMetaObject::invokeMethod(
                &hand, [&hand, g = Gesture(box->itemData(k).toInt())] { hand.setGesture(g); }, Qt::QueuedConnection);
        });
        m_column->addWidget(softWords(tr("A drag in the view")));
        m_column->addWidget(box);
    } else {
        delete box;
    }
    if (const GestureRow &row = rowOf(hand.gesture()); row.map || row.gesture == Gesture::Part) {
        auto *radius = new ValueSlider(tr("Stroke radius"), {0.5, 100, true, tr("mm"), 1});
        radius->setObjectName(QStringLiteral("outgrowthRadius"));
        radius->setValue(double(hand.radius()));
        connect(radius, &ValueSlider::released, this, [&hand](double v) { hand.setRadius(float(v)); });
        m_column->addWidget(radius);
    }
    const auto button = [this](const char *id, const QString &text, bool (*isMeant)(const outgrowth::Outgrowth &),
                               const auto &clicked) {
        auto *b = new QPushButton(text);
        b->setObjectName(QLatin1String(id));
        connect(b, &QPushButton::clicked, this, clicked);
        m_refresh.push_back([this, b, isMeant] { b->setVisible(isMeant(m_hand.of<OutgrowthHand>().rule())); });
        m_column->addWidget(b);
    };
    using outgrowth::Outgrowth;
    if (o.kind->is(outgrowth::TakesPath))
        button(
            "outgrowthNoLine", tr("Its line by rule again"), [](const Outgrowth &r) { return !r.path.empty(); },
            [this] {
                Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
                rule.path.clear();
                apply(rule);
            });
    if (o.kind->is(outgrowth::Looks))
        button(
            "outgrowthNoLook", tr("Gaze by the angles again"), [](const Outgrowth &r) { return r.look.has_value(); },
            [this] {
                Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
                rule.look.reset();
                apply(rule);
            });
    if (const auto &shots = m_session.creature().stage.shots; o.kind->is(outgrowth::Culled) && !shots.empty()) {
        auto *cameras = new QComboBox;
        cameras->setObjectName(QStringLiteral("outgrowthSeenBy"));
        cameras->setAccessibleName(tr("Only what a camera sees"));
        cameras->setToolTip(tr("Grows only where a kept camera sees the skin: quick, for a picture from there"));
        cameras->addItem(tr("Only what a camera sees…"));
        for (const portrait::Shot &s : shots)
            cameras->addItem(textOf(s.name), s.id);
        connect(cameras, &QComboBox::activated, this, [this, cameras](int k) {
            const auto shot = document::keptCamera(m_session.creature(), cameras->itemData(k).toString().toStdString());
            cameras->setCurrentIndex(0);
            if (k == 0 || !shot)
                return;
            Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
            rule.seenFrom = shot->camera.eye();
            apply(rule);
        });
        m_column->addWidget(cameras);
    }
    if (o.kind->is(outgrowth::Culled))
        button(
            "outgrowthEverywhere", tr("Grow it everywhere again"), [](const Outgrowth &r) { return r.seenFrom.has_value(); },
            [this] {
                Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
                rule.seenFrom.reset();
                apply(rule);
            });
    if (o.kind->is(outgrowth::IsCut))
        button(
            "outgrowthUncut", tr("Close the last cut"), [](const Outgrowth &r) { return !r.roots.empty(); },
            [this] {
                const Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
                runLater(toCommand(command::CutOutgrowth{.outgrowth = rule.id, .remove = std::uint32_t(rule.starts.size())}));
            });
}

/// Makes a new one and chooses it.
void OutgrowthSettings::growAnew(json command)
{
    QMetaObject::invokeMethod(
        &m_session,
        [session = &m_session, window = window(), command = std::move(command)] {
            if (session->runLong(command, window))
                session->chooseItem(session->creature().outgrowths.back()->id);
        },
        Qt::QueuedConnection);
}

/// Takes up what was copied, in this creature or another.
void OutgrowthSettings::addPaste()
{
    const json copied = json::parse(QGuiApplication::clipboard()->text().toStdString(), nullptr, false);
    if (!command::pastedRule(copied))
        return;
    auto *paste = new QPushButton(tr("Paste the copied settings"));
    paste->setObjectName(QStringLiteral("outgrowthPaste"));
    connect(paste, &QPushButton::clicked, this, [this, copied] {
        OutgrowthHand &hand = m_hand.of<OutgrowthHand>();
        QMetaObject::invokeMethod(
            &hand,
            [&hand, rule = *command::pastedRule(copied)] {
                hand.setNewRule(rule);
                hand.setKind(rule.kind);
            },
            Qt::QueuedConnection);
    });
    m_column->addWidget(paste);
}

} // namespace bonemoss::app
