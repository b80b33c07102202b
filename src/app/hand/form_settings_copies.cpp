// How often a form stands, and how its joint turns.
#include "app/hand/form_settings_rows.h"
#include "command/fields.h"
#include "command/forms/form_fields.h"

#include <QCheckBox>
#include <QComboBox>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>

#include <algorithm>

namespace bonemoss::app {

using armature::FormKind;
using armature::RepeatMode;
using nlohmann::json;

/// How often a form stands, and by what rule.
void FormSettings::showCopies()
{
    QVBoxLayout *column = section(tr("Copies"), QStringLiteral("sectionCopies"));
    if (!column)
        return;
    const armature::Repeat &r = m_form.repeat;
    const armature::Armature &a = m_session.creature().armature;
    const auto change = [this](command::RepeatForm changes) {
        changes.form = m_form.id;
        run(toCommand(changes));
    };
    QComboBox *mode = choice(column, QStringLiteral("repeatMode"), tr("Copies"), {tr("Stands once"), tr("Round an axis")},
                             std::min(int(r.mode), 1));
    for (const armature::Form &guide : a.forms)
        if (guide.id != m_form.id && (hasPath(guide.kind) || guide.kind == FormKind::Body))
            mode->addItem(tr("Along %1").arg(QString::fromStdString(guide.name)), guide.id);
    if (r.mode == RepeatMode::Along)
        mode->setCurrentIndex(std::max(0, mode->findData(r.guide)));
    const armature::Form *parent = a.find(m_form.parent);
    const Transform frame = parent ? a.worldPlace(*parent) : Transform{};
    connect(mode, &QComboBox::activated, this, [this, change, mode, frame](int i) {
        const std::uint32_t count = std::max(m_form.repeat.count, 3u);
        if (i == 0)
            change({.mode = RepeatMode::None});
        else if (i == 1) // about the parent's joint, upright, until told otherwise
            change({.mode = RepeatMode::Around, .count = count, .centre = frame.translation, .axis = Vec3f{0, 1, 0}});
        else
            change({.mode = RepeatMode::Along, .count = count, .guide = mode->itemData(i).toUInt()});
    });
    if (r.mode == RepeatMode::None)
        return;
    const auto keep = [change, mode = r.mode, count = r.count](command::RepeatForm changes) {
        changes.mode = mode, changes.count = count;
        change(std::move(changes));
    };
    auto *grid = addGrid(column);
    int line = 0;
    auto *count = new QSpinBox;
    count->setObjectName(QStringLiteral("repeatCount"));
    count->setAccessibleName(tr("How many in all"));
    count->setToolTip(tr("How many in all"));
    count->setRange(1, 1000);
    count->setValue(int(r.count));
    count->setKeyboardTracking(false);
    connect(count, &QSpinBox::valueChanged, this,
            [change, mode = r.mode](int n) { change({.mode = mode, .count = std::uint32_t(n)}); });
    grid->addWidget(soft(tr("Count")), line, 0);
    grid->addWidget(count, line++, 1);
    if (r.mode == RepeatMode::Around) {
        single(grid, line, tr("Spread °"), QStringLiteral("repeatSpread"), double(r.spread * kDegrees), -360, 360,
               [keep](double v) { keep({.spread = float(v)}); });
        triple(grid, line, tr("Centre"), QStringLiteral("repeatCentre"), frame.apply(r.centre), -1e5, 1e5,
               [keep](Vec3f v) { keep({.centre = v}); });
        triple(grid, line, tr("Axis"), QStringLiteral("repeatAxis"), rotate(frame.rotation, r.axis), -1, 1,
               [keep](Vec3f v) { keep({.axis = v}); });
    } else {
        single(grid, line, tr("From share"), QStringLiteral("repeatFrom"), double(r.from), 0, 1,
               [keep](double v) { keep({.from = float(v)}); });
        single(grid, line, tr("To share"), QStringLiteral("repeatTo"), double(r.to), 0, 1,
               [keep](double v) { keep({.to = float(v)}); });
    }
    const float first = r.sizes.empty() ? 1 : r.sizes.front(), last = r.sizes.empty() ? 1 : r.sizes.back();
    const auto sizes = [this, keep](float from, float to) {
        std::vector<float> all = m_form.repeat.sizes; // what lies between the ends is kept
        if (all.size() < 2)
            all = {from, to};
        all.front() = from, all.back() = to;
        keep({.sizes = std::move(all)});
    };
    grid->addWidget(soft(tr("Sizes")), line, 0);
    grid->addWidget(number(double(first), 0.01, 100, QStringLiteral("repeatSizeFirst"), tr("Size of the first copy"),
                           [sizes, last](double v) { sizes(float(v), last); }),
                    line, 1);
    grid->addWidget(number(double(last), 0.01, 100, QStringLiteral("repeatSizeLast"), tr("Size of the last copy"),
                           [sizes, first](double v) { sizes(first, float(v)); }),
                    line++, 2);
    showOneCopy(column);
    button(column, QStringLiteral("repeatBreak"), tr("Break free"), tr("Every copy becomes a form of its own"),
           [this] { run(toCommand(command::BreakCopies{.form = m_form.id})); });
}

/// One copy against the rule: which one, and what it does otherwise.
void FormSettings::showOneCopy(QVBoxLayout *column)
{
    const std::uint32_t index = std::min(m_hand.armature().copyInHand(), m_form.repeat.count - 1);
    armature::CopyChange now{index, {}, {}, 1, false};
    for (const armature::CopyChange &c : m_form.repeat.changes)
        if (c.index == index)
            now = c;
    const auto change = [this, index](command::AdjustCopy changes) {
        changes.form = m_form.id, changes.copy = index;
        run(toCommand(changes));
    };
    auto *row = new QHBoxLayout;
    row->addWidget(soft(tr("Copy")));
    auto *which = new QSpinBox;
    which->setObjectName(QStringLiteral("copyIndex"));
    which->setAccessibleName(tr("Copy"));
    which->setRange(1, int(m_form.repeat.count));
    which->setValue(int(index) + 1);
    connect(which, &QSpinBox::valueChanged, this, [this](int n) {
        m_hand.armature().setCopyInHand(std::uint32_t(n - 1));
        emit rebuildAsked();
    });
    row->addWidget(which);
    auto *hidden = new QCheckBox(tr("left out"));
    hidden->setObjectName(QStringLiteral("copyHidden"));
    hidden->setChecked(now.isHidden);
    connect(hidden, &QCheckBox::toggled, this, [change](bool on) { change({.isHidden = on}); });
    row->addWidget(hidden);
    row->addStretch();
    column->addLayout(row);
    auto *grid = addGrid(column);
    int line = 0;
    triple(grid, line, tr("Beside"), QStringLiteral("copyMove"), now.translation, -1e4, 1e4,
           [change](Vec3f v) { change({.move = v}); });
    triple(grid, line, tr("Rotation °"), QStringLiteral("copyTurn"), toEulerDeg(now.rotation), -360, 360,
           [change](Vec3f v) { change({.turn = v}); });
    single(grid, line, tr("Size"), QStringLiteral("copyScale"), double(now.scale), 0.01, 100,
           [change](double v) { change({.scale = float(v)}); });
}

/// How the joint rests and how far it turns; posing keeps to it.
void FormSettings::showJoint()
{
    QVBoxLayout *column = section(tr("Joint"), QStringLiteral("sectionJoint"));
    if (!column)
        return;
    const auto set = [this](command::SetJoint changes) {
        changes.form = m_form.id;
        run(toCommand(changes));
    };
    auto *grid = addGrid(column);
    int line = 0;
    triple(grid, line, tr("Rest °"), QStringLiteral("jointRest"), m_form.joint.rest, -180, 180,
           [set](Vec3f v) { set({.rest = v}); });
    triple(grid, line, tr("Min °"), QStringLiteral("jointLow"), m_form.joint.low, -180, 180, [set](Vec3f v) { set({.low = v}); });
    triple(grid, line, tr("Max °"), QStringLiteral("jointHigh"), m_form.joint.high, -180, 180,
           [set](Vec3f v) { set({.high = v}); });
    button(column, QStringLiteral("jointHere"), tr("Set rest rotation"),
           tr("The rotation it has now against its parent becomes its rest"), [set] { set({.isHere = true}); });
}

} // namespace bonemoss::app
