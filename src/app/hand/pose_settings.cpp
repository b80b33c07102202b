#include "app/hand/pose_settings.h"

#include "app/hand/outgrowth_settings.h"
#include "app/hand/tile.h"
#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/pose/pose_fields.h"
#include "store/store.h"

#include <QCheckBox>
#include <QCoreApplication>
#include <QFile>
#include <QFileDialog>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <cmath>

namespace bonemoss::app {

using nlohmann::json;

namespace {

QString translated(const char *words)
{
    return QCoreApplication::translate("PoseTool", words);
}

/// A limb of two bones and what is done to it, in a box of 100 by 40.
QPainterPath picture(PoseTool tool)
{
    QPainterPath p;
    const auto knot = [&](double x, double y) { p.addEllipse(QPointF(x, y), 3.5, 3.5); };
    switch (tool) {
    case PoseTool::Limb:
        p.moveTo(26, 8), p.lineTo(50, 20), p.lineTo(40, 34);
        knot(26, 8), knot(50, 20);
        p.moveTo(48, 35), p.lineTo(72, 30), p.moveTo(65, 26), p.lineTo(72, 30), p.lineTo(67, 36);
        break;
    case PoseTool::Joint:
        p.moveTo(28, 30), p.lineTo(50, 20), p.lineTo(68, 8);
        knot(50, 20);
        p.arcMoveTo(QRectF(32, 2, 36, 36), -40), p.arcTo(QRectF(32, 2, 36, 36), -40, 110);
        break;
    case PoseTool::Chain:
        p.moveTo(20, 32), p.cubicTo(40, 32, 66, 30, 66, 16), p.cubicTo(66, 4, 46, 6, 50, 16);
        knot(20, 32), knot(44, 30), knot(64, 21);
        break;
    case PoseTool::Weights:
        p.moveTo(24, 30), p.lineTo(50, 20), p.lineTo(76, 26);
        knot(50, 20);
        for (int k = 0; k < 5; ++k)
            p.moveTo(38 + 6 * k, 8 - std::abs(k - 2)), p.lineTo(38 + 6 * k, 14 - std::abs(k - 2));
        break;
    case PoseTool::Look:
        p.moveTo(16, 22), p.quadTo(34, 6, 52, 22), p.quadTo(34, 38, 16, 22);
        knot(34, 22);
        p.moveTo(56, 22), p.lineTo(70, 22), p.moveTo(65, 17), p.lineTo(70, 22), p.lineTo(65, 27);
        break;
    case PoseTool::Place:
        p.moveTo(20, 34), p.quadTo(50, 24, 80, 34);
        p.moveTo(44, 29), p.quadTo(40, 14, 56, 6), p.quadTo(54, 18, 56, 29);
        break;
    case PoseTool::Bones:
        p.moveTo(16, 32), p.lineTo(32, 18), p.lineTo(50, 30), p.lineTo(66, 20);
        knot(16, 32), knot(32, 18), knot(50, 30), knot(66, 20);
        break;
    case PoseTool::Controls:
        for (const double y : {10.0, 20.0, 30.0})
            p.moveTo(18, y + 3), p.lineTo(66, y + 3);
        knot(30, 13), knot(54, 23), knot(40, 33);
        break;
    case PoseTool::Corrections:
        p.moveTo(20, 12), p.quadTo(48, 12, 48, 34);
        p.moveTo(32, 16), p.quadTo(38, 10, 42, 20), p.quadTo(50, 16, 46, 28);
        p.addEllipse(QPointF(60, 26), 8, 8);
        p.moveTo(60, 22), p.lineTo(60, 30), p.moveTo(56, 26), p.lineTo(64, 26);
        break;
    case PoseTool::Pins:
        p.moveTo(36, 4), p.lineTo(50, 18), p.lineTo(50, 30);
        knot(36, 4), knot(50, 18);
        p.addRoundedRect(QRectF(38, 30, 24, 7), 3, 3);
        break;
    }
    return p;
}

TileWords wordsOfPoseTool(const BenchRow &, std::size_t k)
{
    const PoseToolRow &row = poseTools()[k];
    return {QStringLiteral("poseTile_") + QLatin1String(row.id), translated(row.title), translated(row.hint), translated("Pose")};
}

} // namespace

const HandPart kPosePart{
    .count = [](const BenchRow &) { return poseTools().size(); },
    .words = wordsOfPoseTool,
    .tile = [](const BenchRow &bench, std::size_t k,
               int key) { return new Tile(wordsOfPoseTool(bench, k).title, key, picture(poseTools()[k].tool), false); },
    .pick = [](HandModel &hand, const BenchRow &, std::size_t k) { hand.of<PoseHand>().setTool(poseTools()[k].tool); },
    .held = [](const HandModel &hand,
               const BenchRow &) { return hand.of<PoseHand>().holdsBrush() ? -1 : int(hand.of<PoseHand>().tool()); },
    .settings = [](Session &session, HandModel &hand, QSet<QString> &open) -> HandSettings * {
        return new PoseSettings(session, hand, open);
    },
};

PoseSettings::PoseSettings(Session &session, HandModel &hand, QSet<QString> &)
    : m_session(session), m_hand(hand), m_column(new QVBoxLayout(this))
{
    m_column->setContentsMargins(0, 6, 0, 0);
    m_column->setSpacing(4);
    m_column->addWidget(softWords(translated(poseTools()[std::size_t(held().tool())].hint)));
    switch (held().tool()) {
    case PoseTool::Controls: addControls(); break;
    case PoseTool::Look: addLook(); break;
    case PoseTool::Corrections: addCorrections(); break;
    case PoseTool::Place: addPlace(); break;
    case PoseTool::Bones: addBones(); break;
    case PoseTool::Weights: addWeighing(); [[fallthrough]];
    default: addBone();
    }
    if (held().tool() != PoseTool::Corrections && held().tool() != PoseTool::Place && held().tool() != PoseTool::Bones)
        addPose();
    refresh();
}

void PoseSettings::refresh()
{
    for (const auto &show : m_refresh)
        show();
}

const pose::Bone *PoseSettings::bone() const
{
    const pose::Skeleton &skeleton = held().skeleton();
    const std::uint32_t b = held().bone().form ? skeleton.find(held().bone()) : kNone;
    return b == kNone ? nullptr : &skeleton.bones[b];
}

void PoseSettings::run(json command)
{
    QMetaObject::invokeMethod( // the panel may be made anew by it
        &m_session,
        [session = &m_session, window = window(), command = std::move(command)] { session->runLong(command, window); },
        Qt::QueuedConnection);
}

void PoseSettings::turn(int axis, double degrees)
{
    const pose::Bone *b = bone();
    if (!b)
        return;
    Vec3f angles = pose::anglesOf(m_session.creature().posing.now.turnOf(b->key));
    (axis == 0 ? angles.x : axis == 1 ? angles.y : angles.z) = float(degrees);
    run(toCommand(command::TurnBone{.bone = b->name, .angles = angles, .isMirrored = held().turnsTwins()}));
}

void PoseSettings::addBone()
{
    auto *name = heading({}, 11);
    name->setObjectName(QStringLiteral("poseBone"));
    m_column->addWidget(name);
    auto *none = softWords(tr("Press on the creature, or on a bone in the list, to choose one."));
    m_column->addWidget(none);
    const std::array<QString, 3> titles{tr("About its x"), tr("About its y"), tr("About its z")};
    std::array<ValueSlider *, 3> sliders;
    for (int axis = 0; axis < 3; ++axis) {
        auto *s = sliders[std::size_t(axis)] = new ValueSlider(titles[std::size_t(axis)], {-180, 180, false, tr("°"), 0});
        s->setObjectName(QStringLiteral("poseAngle%1").arg(axis));
        connect(s, &ValueSlider::released, this, [this, axis](double v) { turn(axis, v); });
        m_column->addWidget(s);
    }
    auto *limits = new QLabel;
    limits->setObjectName(QStringLiteral("poseLimits"));
    limits->setProperty("soft", true);
    limits->setWordWrap(true);
    m_column->addWidget(limits);
    auto *line = new QHBoxLayout;
    auto *pin = new QPushButton, *rest = new QPushButton(tr("To rest"));
    pin->setObjectName(QStringLiteral("posePin")), rest->setObjectName(QStringLiteral("poseBoneRest"));
    rest->setToolTip(tr("It and all that hangs from it"));
    connect(pin, &QPushButton::clicked, this, [this] {
        if (const pose::Bone *b = bone()) {
            const auto &pins = m_session.creature().posing.pins;
            const bool isPinned = std::any_of(pins.begin(), pins.end(), [&](const auto &p) { return p.bone == b->key; });
            run(toCommand(command::PinBone{.bone = b->name, .isOn = !isPinned}));
        }
    });
    connect(rest, &QPushButton::clicked, this, [this] {
        if (const pose::Bone *b = bone())
            run(toCommand(command::RestBones{.bone = b->name}));
    });
    line->addWidget(pin), line->addWidget(rest);
    m_column->addLayout(line);
    auto *give = new QPushButton(tr("Give it what is masked")), *even = new QPushButton;
    give->setObjectName(QStringLiteral("poseGive")), even->setObjectName(QStringLiteral("poseEven"));
    give->setToolTip(tr("What is masked goes with this bone, half where it is half masked"));
    even->setToolTip(tr("Makes the weights of all bones softer from place to place"));
    connect(give, &QPushButton::clicked, this, [this] {
        if (const pose::Bone *b = bone())
            run(toCommand(command::BindRigid{.piece = m_session.piece(), .bone = b->name, .isMasked = true}));
    });
    connect(even, &QPushButton::clicked, this, [this] { run(toCommand(command::EvenWeights{.piece = m_session.piece()})); });
    const bool isOfWeights = held().tool() == PoseTool::Weights;
    for (QPushButton *b : {give, even}) {
        b->setVisible(isOfWeights);
        if (isOfWeights)
            m_column->addWidget(b);
        else
            b->setParent(this);
    }
    m_refresh.push_back([this, give, even] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        const bool hasMask = piece && piece->skin.hasMask(), isBound = piece && !piece->skin.boneWeights.empty();
        give->setEnabled(bone() && hasMask && isBound);
        even->setEnabled(isBound);
        even->setText(hasMask ? tr("Even out what is masked") : tr("Even out"));
    });
    m_refresh.push_back([this, name, none, sliders, limits, pin, rest] {
        const pose::Bone *b = bone();
        name->setText(b ? QString::fromStdString(b->name) : QString());
        none->setVisible(!b), name->setVisible(b), limits->setVisible(b), pin->setVisible(b), rest->setVisible(b);
        for (ValueSlider *s : sliders)
            s->setVisible(b);
        if (!b)
            return;
        const auto &posing = m_session.creature().posing;
        const Quat turn = posing.now.turnOf(b->key);
        const Vec3f angles = pose::anglesOf(turn);
        for (int axis = 0; axis < 3; ++axis)
            sliders[std::size_t(axis)]->setValue(double(at(angles, axis)));
        const float by = beyondLimits(*b, turn);
        limits->setText(by > 0.5f ? tr("Beyond its limits by %1°").arg(std::lround(by))
                                  : tr("Limits %1 to %2°, %3 to %4°, %5 to %6°")
                                        .arg(std::lround(b->low.x))
                                        .arg(std::lround(b->high.x))
                                        .arg(std::lround(b->low.y))
                                        .arg(std::lround(b->high.y))
                                        .arg(std::lround(b->low.z))
                                        .arg(std::lround(b->high.z)));
        const bool isPinned =
            std::any_of(posing.pins.begin(), posing.pins.end(), [&](const auto &p) { return p.bone == b->key; });
        pin->setText(isPinned ? tr("Let go") : tr("Pin it"));
    });
}

void PoseSettings::saveFrozen()
{
    QString path =
        QFileDialog::getSaveFileName(this, tr("Frozen copy"), QStringLiteral("frozen.bonemoss"), tr("Creature (*.bonemoss)"));
    if (path.isEmpty())
        return;
    if (!path.endsWith(QLatin1String(".bonemoss")))
        path += QLatin1String(".bonemoss");
    command::CommandContext context;
    const auto frozen = command::apply(m_session.creature(), toCommand(command::ApplyPose{}), context);
    std::optional<Error> error;
    if (!frozen)
        error = frozen.error();
    else if (const auto saved = store::saveAs(QFile::encodeName(path).toStdString(), *frozen); !saved)
        error = saved.error();
    if (error)
        m_session.complain(tr("The copy was not written: %1").arg(QString::fromStdString(error->text())));
}

void PoseSettings::addPose()
{
    auto *keeps = new QCheckBox(tr("Joints keep their limits"));
    keeps->setObjectName(QStringLiteral("poseKeepsLimits"));
    connect(keeps, &QCheckBox::clicked, this, [this](bool on) { held().setKeepsLimits(on); });
    auto *twins = new QCheckBox(tr("The other side too"));
    twins->setObjectName(QStringLiteral("poseTwins"));
    twins->setToolTip(tr("Angles turn the bone on the other side likewise"));
    connect(twins, &QCheckBox::clicked, this, [this](bool on) { held().setTurnsTwins(on); });
    m_column->addWidget(keeps), m_column->addWidget(twins);
    m_refresh.push_back(
        [this, keeps, twins] { keeps->setChecked(held().keepsLimits()), twins->setChecked(held().turnsTwins()); });
    auto *grid = new QGridLayout;
    const auto add = [&](const char *id, const QString &text, const QString &tip, int row, int column, json command) {
        auto *b = new QPushButton(text);
        b->setObjectName(QLatin1String(id));
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, [this, command] {
            json now = command;
            if (now.value("do", std::string()) == command::BindSkin::kName) // of the piece that is chosen by then
                now = toCommand(command::BindSkin{.piece = m_session.piece()});
            run(now);
        });
        grid->addWidget(b, row, column);
    };
    using command::MirrorPose;
    using command::MirrorPosture;
    add("poseSwap", tr("Swap sides"), tr("Left takes the pose of right, and right that of left"), 0, 0,
        toCommand(MirrorPosture{}));
    add("poseRest", tr("All to rest"), tr("The creature as it was built"), 0, 1, toCommand(command::RestBones{}));
    add("poseFromLeft", tr("Left to right"), tr("The right side is posed as the left"), 1, 0,
        toCommand(MirrorPosture{.how = MirrorPose::FromLeft}));
    add("poseFromRight", tr("Right to left"), tr("The left side is posed as the right"), 1, 1,
        toCommand(MirrorPosture{.how = MirrorPose::FromRight}));
    add("poseSettle", tr("Settle"), tr("Lets the creature down on the ground, and tells what bears it"), 3, 0,
        toCommand(command::Settle{}));
    m_column->addLayout(grid);
    auto *relax = new ValueSlider(tr("Relax"), {0, 1, false, QStringLiteral("%"), 0, 100});
    relax->setObjectName(QStringLiteral("poseRelax"));
    relax->setToolTip(tr("A share of the way to rest, when it is let go"));
    connect(relax, &ValueSlider::released, this, [this, relax](double v) {
        if (v > 0)
            run(toCommand(command::RestBones{.share = float(v)}));
        relax->setValue(0);
    });
    m_column->addWidget(relax);
    add("poseBind", tr("Bind anew"), tr("Works out anew how much each bone moves each place of the skin"), 2, 0,
        toCommand(command::BindSkin{}));
    auto *copy = new QPushButton(tr("Frozen copy…"));
    copy->setObjectName(QStringLiteral("poseFreeze"));
    copy->setToolTip(tr("Writes a creature that rests as this one stands; this one stays as it is"));
    connect(copy, &QPushButton::clicked, this, &PoseSettings::saveFrozen);
    m_refresh.push_back([this, copy] { copy->setEnabled(!m_session.creature().posing.now.isRest()); });
    grid->addWidget(copy, 3, 1);
    add("poseApply", tr("Make it the rest"), tr("The creature as it stands becomes what it rests as"), 2, 1,
        toCommand(command::ApplyPose{}));
}

} // namespace bonemoss::app
