// Pages of the Pose bench's settings besides those of bones: controls, looking, painting weights, and layers that come and go with the pose.
#include "app/hand/pose_settings.h"

#include "app/hand/outgrowth_settings.h"
#include "app/hand/tile.h"
#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/layers/layer_fields.h"
#include "command/pose/drive_fields.h"
#include "document/ops/controls.h"
#include "pose/stretch.h"

#include <QCheckBox>
#include <QComboBox>
#include <QCoreApplication>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <cmath>

namespace bonemoss::app {

using skin::LayerDrive;

namespace {

/// Everything in a layout, made anew when the names of its rows change.
void clear(QLayout *layout)
{
    while (QLayoutItem *item = layout->takeAt(0)) {
        delete item->widget();
        delete item;
    }
}

} // namespace

void PoseSettings::addControls()
{
    auto *none =
        softWords(tr("Controls come with jaws, with toes and fingers that fan out from one bone, with eyes, and with poses "
                     "that are kept of some bones alone."));
    m_column->addWidget(none);
    auto *rows = new QVBoxLayout;
    rows->setSpacing(4);
    m_column->addLayout(rows);
    m_refresh.push_back([this, rows, none, names = std::vector<std::string>(), sliders = std::vector<ValueSlider *>()]() mutable {
        const auto &creature = m_session.creature();
        const std::vector<document::Control> controls = controlsOf(creature, held().skeleton());
        std::vector<std::string> now;
        for (const document::Control &c : controls)
            now.push_back(c.name);
        none->setVisible(controls.empty());
        if (now != names) {
            names = now;
            clear(rows);
            sliders.clear();
            for (const document::Control &c : controls) {
                const bool isShare = c.unit.empty() && c.low >= -1 && c.high <= 1;
                auto *s = new ValueSlider(QString::fromStdString(c.name),
                                          {double(c.low), double(c.high), false,
                                           isShare           ? QStringLiteral("%")
                                           : c.unit == "deg" ? tr("°")
                                                             : QString::fromUtf8(c.unit.data(), qsizetype(c.unit.size())),
                                           isShare || c.unit == "deg" ? 0 : 1, isShare ? 100.0 : 1.0});
                s->setObjectName(QStringLiteral("poseControl_") + QString::fromStdString(c.name));
                connect(s, &ValueSlider::edited, this, [this, name = c.name](double v) {
                    held().tryCommand(toCommand(command::SetControl{.control = name, .value = float(v)}));
                });
                connect(s, &ValueSlider::released, this, [this, name = c.name](double v) {
                    held().tryCommand({});
                    run(toCommand(command::SetControl{.control = name, .value = float(v)}));
                });
                rows->addWidget(s);
                sliders.push_back(s);
            }
        }
        for (std::size_t k = 0; k < controls.size(); ++k)
            if (!sliders[k]->hasFocus() || !held().triedCommand())
                sliders[k]->setValue(double(valueOf(creature, held().skeleton(), controls[k])));
    });
}

void PoseSettings::addLook()
{
    const auto check = [&](const char *id, const QString &text, const QString &tip, auto get, auto set) {
        auto *box = new QCheckBox(text);
        box->setObjectName(QLatin1String(id));
        box->setToolTip(tip);
        connect(box, &QCheckBox::clicked, this, [this, set](bool on) { (held().*set)(on); });
        m_column->addWidget(box);
        m_refresh.push_back([this, box, get] { box->setChecked((held().*get)()); });
    };
    check("poseLookHead", tr("The head turns"), tr("Off: the eyes alone"), &PoseHand::looksWithHead, &PoseHand::setLooksWithHead);
    check("poseLookNeck", tr("The neck helps"), tr("Bones of the neck take their share of the turn"), &PoseHand::looksWithNeck,
          &PoseHand::setLooksWithNeck);
    check("poseLookEyes", tr("The eyes turn"), tr("Eyes on the head look at the same place"), &PoseHand::looksWithEyes,
          &PoseHand::setLooksWithEyes);
}

void PoseSettings::addWeighing()
{
    auto *how = new QComboBox;
    how->setObjectName(QStringLiteral("poseWeighing"));
    how->setAccessibleName(tr("What a press does"));
    how->addItems({tr("A press chooses a bone"), tr("Paint: give to the bone"), tr("Paint: take from the bone"),
                   tr("Paint: even out all bones")});
    connect(how, &QComboBox::activated, this, [this](int k) { held().setWeighing(Weighing(k)); });
    m_column->addWidget(how);
    auto *size = new ValueSlider(tr("Radius"), {double(kLeastToolSize), double(kMostToolSize), true, tr("mm"), 1});
    size->setObjectName(QStringLiteral("poseWeighSize"));
    auto *strength = new ValueSlider(tr("Strength"), {0, 1, false, QStringLiteral("%"), 0, 100});
    strength->setObjectName(QStringLiteral("poseWeighStrength"));
    connect(size, &ValueSlider::edited, this, [this](double v) { m_hand.change([&](auto &s) { s.size = float(v); }); });
    connect(strength, &ValueSlider::edited, this, [this](double v) { held().setWeighStrength(float(v)); });
    m_column->addWidget(size), m_column->addWidget(strength);
    m_refresh.push_back([this, how, size, strength] {
        how->setCurrentIndex(int(held().weighing()));
        size->setValue(double(m_hand.settings().size)), strength->setValue(double(held().weighStrength()));
        size->setVisible(held().weighing() != Weighing::Choose), strength->setVisible(held().weighing() != Weighing::Choose);
    });
}

void PoseSettings::addPlace()
{
    auto *kinds = new QComboBox;
    kinds->setObjectName(QStringLiteral("posePlaced"));
    kinds->setAccessibleName(tr("Outgrowth"));
    for (const outgrowth::Kind &k : outgrowth::kinds())
        if (k.rooting == outgrowth::Rooting::Point || k.rooting == outgrowth::Rooting::Line)
            kinds->addItem(QCoreApplication::translate("Outgrowth", std::string(k.title).c_str()),
                           QVariant::fromValue(qulonglong(&k - outgrowth::kinds().data())));
    const auto choose = [this, kinds](int row) {
        held().setPlaced(&outgrowth::kinds()[std::size_t(kinds->itemData(row).toULongLong())]);
    };
    connect(kinds, &QComboBox::activated, this, choose);
    for (int row = 0; row < kinds->count(); ++row)
        if (&outgrowth::kinds()[std::size_t(kinds->itemData(row).toULongLong())] == held().placed())
            kinds->setCurrentIndex(row);
    choose(std::max(0, kinds->currentIndex()));
    m_column->addWidget(kinds);
    m_column->addWidget(
        softWords(tr("It takes root at rest where it is pressed in the pose, with usual settings; the Outgrowths bench "
                     "has the rest.")));
}

void PoseSettings::addBones()
{
    m_column->addWidget(heading(tr("Draw"), 11));
    m_column->addWidget(softWords(tr("Press on the skin from joint to joint. They hang from the chosen bone, or from nothing.")));
    auto *mirror = new QCheckBox(tr("Twins on the other side"));
    mirror->setObjectName(QStringLiteral("poseBonesMirror"));
    connect(mirror, &QCheckBox::clicked, this, [this](bool on) { held().setMirrorsBones(on); });
    m_column->addWidget(mirror);
    m_column->addWidget(heading(tr("Ready skeleton"), 11));
    auto *legs = new QComboBox;
    legs->setObjectName(QStringLiteral("poseLegs"));
    legs->setAccessibleName(tr("Legs"));
    legs->addItems({tr("Two legs"), tr("Four legs"), tr("Six legs")});
    connect(legs, &QComboBox::activated, this, [this](int k) {
        document::SkeletonPlan plan = held().plan();
        plan.legs = std::uint32_t(2 * (k + 1));
        held().setPlan(plan);
    });
    m_column->addWidget(legs);
    const std::tuple<const char *, QString, bool document::SkeletonPlan::*> parts[] = {
        {"poseArms", tr("Arms"), &document::SkeletonPlan::hasArms},
        {"poseWings", tr("Wings"), &document::SkeletonPlan::hasWings},
        {"poseTail", tr("Tail"), &document::SkeletonPlan::hasTail},
        {"poseDigits", tr("Toes and fingers, by their tips"), &document::SkeletonPlan::hasDigits}};
    for (const auto &[id, text, member] : parts) {
        auto *box = new QCheckBox(text);
        box->setObjectName(QLatin1String(id));
        connect(box, &QCheckBox::clicked, this, [this, m = member](bool on) {
            document::SkeletonPlan plan = held().plan();
            plan.*m = on;
            held().setPlan(plan);
        });
        m_column->addWidget(box);
        m_refresh.push_back([this, box, m = member] { box->setChecked(held().plan().*m); });
    }
    auto *show = new QPushButton(tr("Show its joints")), *make = new QPushButton, *drop = new QPushButton(tr("Start over"));
    show->setObjectName(QStringLiteral("poseLandmarks")), make->setObjectName(QStringLiteral("poseMakeBones")),
        drop->setObjectName(QStringLiteral("poseDropBones"));
    show->setToolTip(tr("They stand where a usual creature has them, to be dragged to their places"));
    connect(show, &QPushButton::clicked, this, [this] { held().showLandmarks(); });
    connect(make, &QPushButton::clicked, this, [this] {
        run(held().bonesCommand());
        QMetaObject::invokeMethod(&held(), &PoseHand::dropJoints, Qt::QueuedConnection);
    });
    connect(drop, &QPushButton::clicked, this, [this] { held().dropJoints(); });
    for (QPushButton *b : {show, make, drop})
        m_column->addWidget(b);
    m_refresh.push_back([this, mirror, legs, show, make, drop] {
        mirror->setChecked(held().mirrorsBones());
        legs->setCurrentIndex(int(held().plan().legs) / 2 - 1);
        show->setEnabled(!m_session.creature().pieces.empty());
        make->setText(held().landmarks().empty() ? tr("Make the bones") : tr("Make the skeleton"));
        make->setEnabled(held().canMakeBones()), drop->setEnabled(!held().joints().empty() || !held().landmarks().empty());
    });
}

void PoseSettings::drive(LayerDrive::By by, double none, double full, double curve)
{
    if (m_session.layer())
        run(toCommand(command::DriveLayer{.piece = m_session.piece(),
                                          .layer = m_session.layer(),
                                          .by = by,
                                          .none = float(none),
                                          .full = float(full),
                                          .curve = float(curve)}));
}

void PoseSettings::addCorrections()
{
    auto *make = new QPushButton(tr("New correction of this pose")), *other = new QPushButton(tr("The same on the other side"));
    make->setObjectName(QStringLiteral("poseCorrect")), other->setObjectName(QStringLiteral("poseCorrectOther"));
    make->setToolTip(tr("A layer that comes in with the angles of this pose and goes as they open; strokes fill it"));
    other->setToolTip(tr("A second correction, for the same pose of the bones on the other side"));
    connect(make, &QPushButton::clicked, this, [this] {
        QMetaObject::invokeMethod(
            &m_session,
            [session = &m_session, window = window()] {
                if (session->runLong(toCommand(command::CorrectPose{.piece = session->piece()}), window))
                    session->chooseLayer(session->creature().piece(session->piece())->skin.layers.back().id);
            },
            Qt::QueuedConnection);
    });
    connect(other, &QPushButton::clicked, this,
            [this] { run(toCommand(command::MirrorCorrection{.piece = m_session.piece(), .layer = m_session.layer()})); });
    m_column->addWidget(make), m_column->addWidget(other);
    auto *layers = new QComboBox, *by = new QComboBox;
    layers->setObjectName(QStringLiteral("poseLayer")), by->setObjectName(QStringLiteral("poseDrive"));
    layers->setAccessibleName(tr("Layer")), by->setAccessibleName(tr("What it comes and goes with"));
    layers->setToolTip(tr("Strokes go to this layer"));
    by->addItems({tr("Always shown"), tr("Comes as skin shrinks"), tr("Comes with the area"), tr("Comes as skin stretches"),
                  tr("Comes with this pose")});
    by->setToolTip(tr("Folds deepen where skin shrinks as a joint closes; what is taut comes where it stretches"));
    connect(layers, &QComboBox::activated, this, [this, layers](int k) { m_session.chooseLayer(layers->itemData(k).toUInt()); });
    m_column->addWidget(heading(tr("Layer"), 11));
    m_column->addWidget(layers), m_column->addWidget(by);
    auto *none = new ValueSlider(tr("Nothing at"), {0.2, 2, false, QStringLiteral("%"), 0, 100});
    auto *full = new ValueSlider(tr("All at"), {0.2, 2, false, QStringLiteral("%"), 0, 100});
    auto *curve = new ValueSlider(tr("Curve"), {0.25, 4, true, {}, 2});
    none->setObjectName(QStringLiteral("poseDriveNone")), full->setObjectName(QStringLiteral("poseDriveFull"));
    curve->setObjectName(QStringLiteral("poseDriveCurve"));
    none->setToolTip(tr("Length of the skin against rest at which nothing of the layer shows")),
        full->setToolTip(tr("Length of the skin against rest at which all of it shows"));
    curve->setToolTip(tr("Above 1 it comes late, below 1 early"));
    none->setValue(1), full->setValue(0.6), curve->setValue(1);
    for (ValueSlider *s : {none, full, curve}) {
        connect(s, &ValueSlider::released, this, [this, by, none, full, curve](double) {
            drive(LayerDrive::By(by->currentIndex()), none->value(), full->value(), curve->value());
        });
        m_column->addWidget(s);
    }
    connect(by, &QComboBox::activated, this, [this, none, full, curve](int k) {
        const auto to = LayerDrive::By(k);
        double at = none->value(), all = full->value();
        if ((to == LayerDrive::By::Grow) != (all > at)) // a usual pair the right way round
            at = 1, all = to == LayerDrive::By::Grow ? 1.4 : 0.6;
        drive(to, at, all, curve->value());
    });
    auto *rigid = new ValueSlider(tr("Scales keep their shape"), {0, 1, false, QStringLiteral("%"), 0, 100});
    rigid->setObjectName(QStringLiteral("poseRigid"));
    rigid->setToolTip(tr("What rises from this layer moves as one; the skin between stretches in its place"));
    connect(rigid, &ValueSlider::released, this, [this](double v) {
        if (m_session.layer())
            run(toCommand(command::SetLayer{.piece = m_session.piece(), .layer = m_session.layer(), .rigid = float(v)}));
    });
    m_column->addWidget(rigid);
    auto *shown = softWords({});
    shown->setObjectName(QStringLiteral("poseDriveShown"));
    m_column->addWidget(shown);
    m_refresh.push_back([this, make, other, layers, by, none, full, curve, rigid, shown] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        layers->clear();
        layers->addItem(tr("Body"), 0);
        if (piece)
            for (const skin::Layer &l : piece->skin.layers) {
                layers->addItem(QString::fromStdString(l.name), l.id);
                if (l.id == m_session.layer())
                    layers->setCurrentIndex(layers->count() - 1);
            }
        const skin::Layer *layer = piece ? piece->skin.layer(m_session.layer()) : nullptr;
        const pose::Posture &now = m_session.creature().posing.now;
        make->setEnabled(piece && !now.turns.empty());
        other->setEnabled(layer && layer->drive.by == LayerDrive::By::Pose);
        by->setEnabled(layer), rigid->setEnabled(layer);
        rigid->setValue(layer ? double(layer->rigid) : 0);
        by->setCurrentIndex(layer ? int(layer->drive.by) : 0);
        for (ValueSlider *s : {none, full, curve})
            s->setVisible(layer && layer->drive.isOfStretch());
        if (layer && layer->drive.isOfStretch())
            none->setValue(double(layer->drive.none)), full->setValue(double(layer->drive.full)),
                curve->setValue(double(layer->drive.curve));
        QString words = !piece ? tr("There is no skin yet.") : !layer ? tr("The body is always shown.") : QString();
        if (layer && layer->drive.by == LayerDrive::By::Pose) {
            const std::vector<float> shares = poseShares(piece->skin.layers, now);
            words =
                tr("Shown by %1 % in this pose").arg(std::lround(100 * shares[std::size_t(layer - piece->skin.layers.data())]));
        } else if (layer && layer->drive.isOfStretch()) {
            words =
                tr("At rest it shows by %1 %. A brush works on it as it rests: shape folds on a layer that is always shown, then "
                   "let it come and go.")
                    .arg(std::lround(100 * layer->drive.shareAtRest()));
        }
        shown->setText(words);
        shown->setVisible(!words.isEmpty());
    });
}

} // namespace bonemoss::app
