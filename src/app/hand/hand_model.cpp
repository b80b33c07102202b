#include "app/hand/hand_model.h"

#include "app/hand/colour_hand.h"
#include "app/hand/pose_hand.h"
#include "app/hand/hand_part.h"
#include "app/theme/table_words.h"
#include "app/benches/bench.h"
#include "command/sculpt/stroke_fields.h"
#include "image/picture.h"

#include <QDir>
#include <QSettings>
#include <QStandardPaths>

#include <algorithm>

namespace bonemoss::app {

using nlohmann::json;
using sculpt::Tool;

HandModel::HandModel(Session &session, QObject *parent) : QObject(parent), m_session(session)
{
    for (const sculpt::ToolRow &row : sculpt::tools()) {
        sculpt::StrokeSettings &s = m_settings[std::size_t(row.tool)];
        s.tool = row.tool, s.size = kUsualToolSize;
        if (row.usual)
            row.usual(s);
    }
    for (const BenchRow &bench : benches())
        m_held.push_back({bench.first, bench.tools.empty() ? bench.first : bench.tools[bench.tools.size() / 2]});
    connect(&m_armature, &ArmatureHand::tileChanged, this, &HandModel::toolChanged);
    connect(&m_armature, &ArmatureHand::changed, this, &HandModel::settingsChanged);
    connect(&session, &Session::benchChanged, this, [this] {
        m_deform.isOn = false; // it was about something else
        for (const auto &[type, held] : m_benchHands)
            held->leave();
        emit toolChanged();
    });
    connect(&session, &Session::choiceChanged, this, [this] {
        m_deform.isOn = false;
        for (const auto &[type, held] : m_benchHands)
            held->takeUp();
    });
}

void HandModel::follow(BenchHand &hand) const
{
    hand.takeUp();
    connect(&hand, &BenchHand::kindChanged, this, &HandModel::toolChanged);
    connect(&hand, &BenchHand::ruleChanged, this, &HandModel::settingsChanged);
}

HandModel::Held &HandModel::held()
{
    return m_held[std::size_t(m_session.bench())];
}

Tool HandModel::tool() const
{
    return m_held[std::size_t(m_session.bench())].now;
}

bool HandModel::strokes() const
{
    const BenchRow &row = rowOf(m_session.bench());
    return !row.strokes || row.strokes(*this);
}

void HandModel::setTool(Tool tool)
{
    if (tool != held().now) // each bench has its own
        held().before = held().now;
    detail().drop();
    of<ColourHand>().drop();
    if (rowOf(m_session.bench()).poses)
        of<PoseHand>().takeBrush();
    held().now = tool;
    emit toolChanged();
}

void HandModel::setColour(Vec3f srgb, std::uint32_t entry)
{
    for (sculpt::StrokeSettings &s : m_settings) // of those that shape too: they may paint with it
        s.colour = srgb, s.entry = entry;
    emit settingsChanged();
}

void HandModel::toolBefore()
{
    setTool(held().before);
}

void HandModel::setDeform(const DeformPlan &plan)
{
    m_deform = plan;
    emit settingsChanged();
}

void HandModel::setStencil(const StencilPlan &plan)
{
    m_stencil = plan;
    emit settingsChanged();
}

void HandModel::setDrawsCurves(bool on)
{
    m_drawsCurves = on;
    emit settingsChanged();
}

void HandModel::setFadesEnds(bool on)
{
    m_fadesEnds = on;
    emit settingsChanged();
}

void HandModel::pickTile(int number)
{
    const BenchRow &bench = rowOf(m_session.bench());
    auto k = std::size_t(number - 1);
    for (const HandPart *part : bench.hand) {
        if (k < part->count(bench))
            return part->pick(*this, bench, k);
        k -= part->count(bench);
    }
}

void HandModel::setMirrored(bool on)
{
    m_isMirrored = on;
    emit settingsChanged();
}

void HandModel::setLastPlane(Vec3f point, Vec3f normal)
{
    m_lastPlane = {point, normal};
    emit settingsChanged();
}

void HandModel::setMousePressure(MousePressure mode, float slider)
{
    m_mousePressure = mode;
    m_mouseSlider = slider;
    emit settingsChanged();
}

namespace {

/// A setting as it is remembered, and back: what no longer fits its description is as it was.
QVariant remembered(const json &value)
{
    if (value.is_boolean())
        return value.get<bool>();
    if (value.is_number())
        return value.get<double>();
    return QString::fromStdString(value.is_string() ? value.get<std::string>() : value.dump());
}

json recalled(const QVariant &kept, const command::ParamSpec &spec)
{
    using command::ParamKind;
    switch (spec.kind) {
    case ParamKind::Switch: return kept.toBool();
    case ParamKind::Number: return kept.toDouble();
    case ParamKind::Integer: return kept.toULongLong();
    case ParamKind::Choice: { // once kept by their number
        bool isNumber = false;
        const auto k = kept.toUInt(&isNumber);
        return isNumber && k < spec.choices.size() ? spec.choices[k] : kept.toString().toStdString();
    }
    case ParamKind::Text: return kept.toString().toStdString();
    default: return json::parse(kept.toString().toStdString(), nullptr, false);
    }
}

/// The value of a setting as it is kept now, or under the name it once had; invalid where there is neither.
QVariant keptValue(const QSettings &s, const QString &group, const std::string &name)
{
    if (name == "curve" && !s.contains(group + QStringLiteral("curve")) && s.contains(group + QStringLiteral("curve0"))) {
        json heights = json::array();
        for (std::size_t k = 0; k < sculpt::kFirstDrawn.size(); ++k)
            heights.push_back(s.value(group + QStringLiteral("curve%1").arg(k)).toFloat());
        return QString::fromStdString(heights.dump());
    }
    const QString once = group + (name == "side" ? QStringLiteral("planeSide") : QStringLiteral("planeFrom"));
    if ((name == "side" || name == "plane") && s.contains(once))
        return s.value(once);
    return s.value(group + QString::fromStdString(name));
}

/// Calls use(field) for what is remembered of a tool: all but which tool it is, and what the hand has for all tools alike.
template <typename Use> void eachKept(Tool tool, const Use &use)
{
    for (const auto &field : command::strokeFields())
        if (field.spec.name != "tool" && field.spec.name != "mirror" && field.spec.name != "seed" && command::uses(tool, field))
            use(field);
}

QString groupOf(Tool tool)
{
    return QStringLiteral("tools/") + QString::fromUtf8(nameOf(tool).data()) + QLatin1Char('/');
}

} // namespace

void HandModel::load()
{
    QSettings s;
    for (auto &tool : m_settings) {
        const QString group = groupOf(tool.tool);
        eachKept(tool.tool, [&](const auto &field) {
            const QVariant kept = keptValue(s, group, field.spec.name);
            if (!kept.isValid())
                return;
            const json value = recalled(kept, field.spec);
            if (command::complaint(field.spec, value).empty())
                field.read(value, tool);
        });
        tool.size = std::clamp(tool.size, kLeastToolSize, kMostToolSize);
        if (const sculpt::StrokeSettings fresh; tool.stamp != fresh.stamp && !image::builtInStamp(tool.stamp))
            tool.stamp = fresh.stamp; // it belonged to another creature
        if (tool.planeFrom == sculpt::PlaneFrom::Locked && tool.planeNormal == Vec3f{})
            tool.planeFrom = sculpt::PlaneFrom::Area;
    }
    m_isMirrored = s.value(QStringLiteral("tools/mirror"), true).toBool();
    m_isSizeOnScreen = s.value(QStringLiteral("tools/sizeOnScreen"), false).toBool();
    m_tintsTouch = s.value(QStringLiteral("tools/tintTouch"), false).toBool();
}

void HandModel::store()
{
    QSettings s;
    for (const auto &tool : m_settings)
        eachKept(tool.tool, [&](const auto &field) {
            const QString group = groupOf(tool.tool);
            if (field.spec.name == "side" || field.spec.name == "plane")
                s.remove(group + (field.spec.name == "side" ? QStringLiteral("planeSide") : QStringLiteral("planeFrom")));
            s.setValue(group + QString::fromStdString(field.spec.name), remembered(field.write(tool)));
        });
    s.setValue(QStringLiteral("tools/mirror"), m_isMirrored);
    s.setValue(QStringLiteral("tools/sizeOnScreen"), m_isSizeOnScreen);
    s.setValue(QStringLiteral("tools/tintTouch"), m_tintsTouch);
}

void HandModel::setTintsTouch(bool on)
{
    m_tintsTouch = on;
    emit settingsChanged();
}

void HandModel::setSizeOnScreen(bool on)
{
    m_isSizeOnScreen = on;
    emit settingsChanged();
}

void HandModel::viewScaled(float factor)
{
    if (!m_isSizeOnScreen || !(factor > 0) || factor == 1)
        return;
    for (auto &tool : m_settings)
        tool.size = std::clamp(tool.size * factor, kLeastToolSize, kMostToolSize);
    emit settingsChanged();
}

QString toolTitle(Tool tool)
{
    return tableWords("Tool", rowOf(tool).title);
}

QString toolHint(Tool tool)
{
    return HandModel::tr(rowOf(tool).hint.data());
}

QString ownPartsFolder()
{
    const QString path =
        QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) + QStringLiteral("/bonemoss/parts");
    QDir().mkpath(path);
    return path;
}

} // namespace bonemoss::app
