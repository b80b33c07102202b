#include "app/hand/deform_settings.h"

#include "app/hand/value_slider.h"
#include "app/view/deform_control.h"

#include <QComboBox>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

DeformSettings::DeformSettings(Session &session, HandModel &hand) : m_session(session), m_hand(hand)
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    rebuild();
}

void DeformSettings::rebuild()
{
    if (m_inside)
        m_inside->deleteLater();
    m_inside = new QWidget;
    layout()->addWidget(m_inside);
    auto *column = new QVBoxLayout(m_inside);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    const DeformPlan plan = m_hand.deform();
    auto *begin = new QPushButton(plan.isOn ? tr("Leave as it was") : tr("Deform…"));
    begin->setObjectName(QStringLiteral("deformBegin"));
    begin->setToolTip(tr("Bend, twist, taper or stretch along an axis; drag the axis by its ends in the view"));
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
    auto *kind = new QComboBox;
    kind->setObjectName(QStringLiteral("deformKind"));
    kind->setAccessibleName(tr("What happens along the axis"));
    kind->addItems({tr("Bend"), tr("Twist"), tr("Taper"), tr("Stretch or squash")});
    kind->setCurrentIndex(int(plan.kind));
    connect(kind, &QComboBox::activated, this, [this](int i) {
        DeformPlan next = m_hand.deform();
        next.kind = SpaceMapKind(i);
        next.amount = i < 2 ? 0 : 1;
        m_hand.setDeform(next);
        rebuild();
    });
    column->addWidget(kind);
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
