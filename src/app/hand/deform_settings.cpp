#include "app/hand/deform_settings.h"

#include "app/hand/value_slider.h"
#include "app/view/deform_control.h"

#include <QCheckBox>
#include <QComboBox>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {
constexpr int kMoves = 4; // in the list of what happens
} // namespace

DeformSettings::DeformSettings(Session &session, HandModel &hand) : m_session(session), m_hand(hand)
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    rebuild();
    connect(&hand, &HandModel::settingsChanged, this, &DeformSettings::refresh);
}

void DeformSettings::change(const std::function<void(DeformPlan &)> &edit)
{
    DeformPlan next = m_hand.deform();
    edit(next);
    m_hand.setDeform(next);
}

/// What of the piece takes part.
void DeformSettings::addPart(QVBoxLayout *column)
{
    const DeformPlan plan = m_hand.deform();
    auto *part = new QComboBox;
    part->setObjectName(QStringLiteral("deformPart"));
    part->setAccessibleName(tr("What takes part"));
    part->addItems({tr("All that is not masked"), tr("The island that is clicked"), tr("One group")});
    part->setCurrentIndex(int(plan.part));
    connect(part, &QComboBox::activated, this, [this](int i) {
        change([i](DeformPlan &p) { p.part = DeformPart(i); });
        rebuild();
    });
    column->addWidget(part);
    if (plan.part == DeformPart::Group) {
        auto *group = new QComboBox;
        group->setObjectName(QStringLiteral("deformGroup"));
        group->setAccessibleName(tr("Group"));
        group->setPlaceholderText(tr("The skin has no group"));
        if (const document::Piece *piece = m_session.creature().piece(m_session.piece()))
            for (const skin::Group &g : piece->skin.groups)
                group->addItem(QString::fromStdString(g.name));
        connect(group, &QComboBox::currentTextChanged, this,
                [this](const QString &name) { change([&](DeformPlan &p) { p.group = name.toStdString(); }); });
        group->setCurrentText(QString::fromStdString(plan.group));
        change([&](DeformPlan &p) { p.group = group->currentText().toStdString(); });
        column->addWidget(group);
    }
}

/// The handle in numbers.
void DeformSettings::addMove(QVBoxLayout *column)
{
    const auto box = [&](const char *id, const QString &name, const QString &tip, bool DeformPlan::*member) {
        auto *b = new QCheckBox(name);
        b->setObjectName(QLatin1String(id));
        b->setToolTip(tip);
        b->setChecked(m_hand.deform().*member);
        connect(b, &QCheckBox::toggled, this, [this, member](bool on) { change([&](DeformPlan &p) { p.*member = on; }); });
        column->addWidget(b);
    };
    box("deformPlace", tr("Drags place the handle alone"), tr("Rotation and scale are about the handle"),
        &DeformPlan::placesHandle);
    box("deformTwin", tr("The same on the other side"),
        tr("Beyond the plane of symmetry its mirror image is done, as for a pair of ears"), &DeformPlan::isTwinned);
    box("deformSoft", tr("Softly along a line"), tr("Nothing moves at the round end of the line, all at its square end"),
        &DeformPlan::isSoft);
    const char *const kIds[] = {"X", "Y", "Z"};
    const QString ways[] = {tr("Move x (left)"), tr("Move y (crown)"), tr("Move z (nose)")};
    const QString turns[] = {tr("About x (left to right)"), tr("About y (upright)"), tr("About z (nose to tail)")};
    const auto number = [&](const QString &id, const QString &name, ValueSlider::Range range, const auto &read,
                            const auto &write) {
        auto *s = new ValueSlider(name, range);
        s->setObjectName(id);
        connect(s, &ValueSlider::edited, this, [this, write](double v) { change([&](DeformPlan &p) { write(p, float(v)); }); });
        m_shown.push_back([this, s, read] { s->setValue(double(read(m_hand.deform()))); });
        column->addWidget(s);
    };
    const auto axis = [](Vec3f &v, int k) -> float & { return k == 0 ? v.x : k == 1 ? v.y : v.z; };
    for (int k = 0; k < 3; ++k)
        number(
            QStringLiteral("deformWay") + QLatin1String(kIds[k]), ways[k], {-300, 300, false, tr("mm"), 1},
            [axis, k](DeformPlan p) { return axis(p.by, k); }, [axis, k](DeformPlan &p, float v) { axis(p.by, k) = v; });
    for (int k = 0; k < 3; ++k)
        number(
            QStringLiteral("deformTurn") + QLatin1String(kIds[k]), turns[k], {-180, 180, false, tr("°"), 0},
            [axis, k](DeformPlan p) {
                Vec3f turn = toEulerDeg(p.turn);
                return axis(turn, k);
            },
            [axis, k](DeformPlan &p, float v) {
                Vec3f turn = toEulerDeg(p.turn);
                axis(turn, k) = v;
                p.turn = fromEulerDeg(turn);
            });
    number(
        QStringLiteral("deformSize"), tr("Size"), {0.05, 20, true, QStringLiteral("%"), 0, 100},
        [](const DeformPlan &p) { return p.scale.y; },
        [](DeformPlan &p, float v) {
            p.scale = {v, v, v};
        });
    refresh();
}

void DeformSettings::refresh()
{
    for (const auto &show : m_shown)
        show();
}

void DeformSettings::addBend(QVBoxLayout *column)
{
    const DeformPlan plan = m_hand.deform();
    if (plan.kind == SpaceMapKind::Bend) {
        auto *side = new QComboBox;
        side->setObjectName(QStringLiteral("deformSide"));
        side->setAccessibleName(tr("Towards"));
        side->addItems({tr("towards the left"), tr("towards the right"), tr("towards the crown"), tr("towards the belly"),
                        tr("towards the nose"), tr("towards the tail")});
        side->setCurrentIndex(plan.side);
        connect(side, &QComboBox::activated, this, [this](int i) {
            DeformPlan next = m_hand.deform();
            next.side = i;
            m_hand.setDeform(next);
        });
        column->addWidget(side);
    }
    const bool isAngle = plan.kind == SpaceMapKind::Bend || plan.kind == SpaceMapKind::Twist;
    auto *amount = isAngle ? new ValueSlider(tr("By"), {plan.kind == SpaceMapKind::Bend ? -180.0 : -360.0,
                                                        plan.kind == SpaceMapKind::Bend ? 180.0 : 360.0, false, tr("°"), 0})
                           : new ValueSlider(plan.kind == SpaceMapKind::Taper ? tr("Thickness at the end") : tr("Length"),
                                             {0.2, 5, true, QStringLiteral("%"), 0, 100});
    amount->setObjectName(QStringLiteral("deformAmount"));
    amount->setValue(double(plan.amount));
    connect(amount, &ValueSlider::edited, this, [this](double v) {
        DeformPlan next = m_hand.deform();
        next.amount = float(v);
        m_hand.setDeform(next);
    });
    column->addWidget(amount);
}

void DeformSettings::rebuild()
{
    m_shown.clear();
    if (m_inside)
        m_inside->deleteLater();
    m_inside = new QWidget;
    layout()->addWidget(m_inside);
    auto *column = new QVBoxLayout(m_inside);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    const DeformPlan plan = m_hand.deform();
    auto *begin = new QPushButton(plan.isOn                             ? tr("Cancel")
                                  : rowOf(m_session.bench()).showsForms ? tr("Deform…")
                                                                        : tr("Move or deform…"));
    begin->setObjectName(QStringLiteral("deformBegin"));
    begin->setToolTip(rowOf(m_session.bench()).showsForms
                          ? tr("Bend, twist, taper or stretch along an axis; drag the axis by its ends in the view")
                          : tr("Move, rotate, scale, bend, twist, taper or stretch it or a part of it, by a handle in the view"));
    connect(begin, &QPushButton::clicked, this, [this] {
        DeformPlan next = m_hand.deform();
        if (next.isOn)
            next.isOn = false;
        else
            next = startDeform(m_session);
        m_hand.setDeform(next);
        rebuild();
    });
    if (!plan.isOn) {
        column->addWidget(begin);
        return;
    }
    const bool hasHandle = !rowOf(m_session.bench()).showsForms;
    auto *kind = new QComboBox;
    kind->setObjectName(QStringLiteral("deformKind"));
    kind->setAccessibleName(tr("What happens to it"));
    kind->addItems({tr("Bend"), tr("Twist"), tr("Taper"), tr("Stretch or squash")});
    if (hasHandle)
        kind->addItem(tr("Move, rotate, scale"));
    kind->setCurrentIndex(plan.moves ? kMoves : int(plan.kind));
    connect(kind, &QComboBox::activated, this, [this](int i) {
        DeformPlan next = m_hand.deform();
        next.moves = i == kMoves;
        if (!next.moves)
            next.kind = SpaceMapKind(i);
        next.amount = i < 2 ? 0 : 1;
        m_hand.setDeform(next);
        rebuild();
    });
    column->addWidget(kind);
    if (hasHandle)
        addPart(column);
    plan.moves ? addMove(column) : addBend(column);
    auto *row = new QHBoxLayout;
    auto *apply = new QPushButton(tr("Apply"));
    apply->setObjectName(QStringLiteral("deformApply"));
    connect(apply, &QPushButton::clicked, this, [this] {
        const nlohmann::json command = deformCommand(m_session, m_hand);
        DeformPlan done = m_hand.deform();
        done.isOn = false;
        m_hand.setDeform(done);
        if (command.is_null())
            return rebuild();
        QMetaObject::invokeMethod(
            &m_session, [session = &m_session, command] { session->run(command); }, Qt::QueuedConnection);
    });
    row->addWidget(apply);
    row->addWidget(begin);
    column->addLayout(row);
}

} // namespace bonemoss::app
