#include "app/hand/hand_model.h"

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
    for (const growth::GrowthKind &kind : growth::growthKinds())
        m_rules.push_back(growthOf(kind));
    connect(&session, &Session::benchChanged, this, [this] {
        m_deform.isOn = false; // it was about something else
        m_growing = {};
        emit toolChanged();
    });
    connect(&session, &Session::choiceChanged, this, [this] {
        m_deform.isOn = false;
        takeUpGrowth();
    });
}

/// A growth that is chosen among the layers comes into the hand; when another layer is chosen, it leaves it.
void HandModel::takeUpGrowth()
{
    if (!rowOf(m_session.bench()).grows)
        return;
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const skin::Layer *layer = piece ? piece->skin.layer(m_session.layer()) : nullptr;
    Growing next;
    if (layer && layer->growth)
        next.kind = layer->growth->kind, next.layer = layer->id;
    else if (m_growing.layer == 0)
        return; // a brush, or a new growth being set up
    if (next.kind != m_growing.kind || next.layer != m_growing.layer)
        setGrowing(next);
}

void HandModel::setGrowing(const Growing &growing)
{
    const bool isOther = growing.kind != m_growing.kind || growing.layer != m_growing.layer;
    m_growing = growing;
    if (isOther)
        emit toolChanged();
    else
        emit growingChanged();
}

growth::Growth HandModel::rule() const
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const skin::Layer *layer = piece && m_growing.layer ? piece->skin.layer(m_growing.layer) : nullptr;
    if (layer && layer->growth)
        return *layer->growth;
    return m_rules[std::size_t(m_growing.kind - growth::growthKinds().data())];
}

void HandModel::setRule(const growth::Growth &rule)
{
    m_rules[std::size_t(rule.kind - growth::growthKinds().data())] = rule;
    emit settingsChanged();
}

void HandModel::beginHarvest()
{
    m_harvests = true;
    emit growingChanged();
}

void HandModel::endHarvest()
{
    m_harvests = false;
    emit growingChanged();
}

void HandModel::setShowsFlow(bool on)
{
    m_showsFlow = on;
    emit growingChanged();
}

HandModel::Held &HandModel::held()
{
    return m_held[std::size_t(m_session.bench())];
}

Tool HandModel::tool() const
{
    return m_held[std::size_t(m_session.bench())].now;
}

void HandModel::setTool(Tool tool)
{
    if (tool != held().now) // each bench has its own
        held().before = held().now;
    m_growing = {};
    m_harvests = false;
    held().now = tool;
    emit toolChanged();
}

void HandModel::toolBefore()
{
    setTool(held().before);
}

void HandModel::setFormTile(FormTile tile)
{
    m_formTile = tile;
    emit toolChanged();
}

void HandModel::setSnaps(bool on)
{
    m_snaps = on;
    emit settingsChanged();
}

void HandModel::setDrawDepth(DrawDepth depth)
{
    m_drawDepth = depth;
    emit settingsChanged();
}

void HandModel::setPart(const QString &part)
{
    m_part = part;
    emit settingsChanged();
}

void HandModel::setCageChoice(CageChoice choice)
{
    m_cageChoice = std::move(choice);
    emit settingsChanged();
}

void HandModel::setTapeKind(int kind)
{
    m_tapeKind = kind;
    emit settingsChanged();
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

void HandModel::setCurveReach(float share)
{
    m_curveReach = share;
    emit settingsChanged();
}

void HandModel::setCurvePoint(std::size_t point)
{
    m_curvePoint = point;
    emit settingsChanged();
}

void HandModel::pickTile(int number)
{
    if (rowOf(m_session.bench()).showsForms) {
        if (number >= 1 && number <= kFormTileCount)
            setFormTile(FormTile(number - 1));
        return;
    }
    const auto tools = rowOf(m_session.bench()).tools;
    const auto kinds = growth::growthKinds();
    if (number >= 1 && number <= int(tools.size()))
        setTool(tools[std::size_t(number - 1)]);
    else if (rowOf(m_session.bench()).grows && number > int(tools.size()) && number <= int(tools.size() + kinds.size()))
        setGrowing({&kinds[std::size_t(number) - tools.size() - 1], 0, false, {}, -1});
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

QString formTileTitle(FormTile tile)
{
    static const char *const names[] = {QT_TR_NOOP("Choose"), QT_TR_NOOP("Ball"), QT_TR_NOOP("Ellipsoid"), QT_TR_NOOP("Limb"),
                                        QT_TR_NOOP("Block"),  QT_TR_NOOP("Cone"), QT_TR_NOOP("Tube"),      QT_TR_NOOP("Cylinder"),
                                        QT_TR_NOOP("Torus"),  QT_TR_NOOP("Disc"), QT_TR_NOOP("Wedge"),     QT_TR_NOOP("Turned"),
                                        QT_TR_NOOP("Body"),   QT_TR_NOOP("Blob"), QT_TR_NOOP("Cage"),      QT_TR_NOOP("Part"),
                                        QT_TR_NOOP("Tape")};
    return HandModel::tr(names[std::size_t(tile)]);
}

QString formTileHint(FormTile tile)
{
    switch (tile) {
    case FormTile::Choose:
        return HandModel::tr("Click a form to choose it; drag its handles to move, rotate and scale it; Shift adds");
    case FormTile::Cage: return HandModel::tr("Drag out a hard-edged cage, or draw a strip over what is there");
    case FormTile::Part: return HandModel::tr("Click where a ready part shall sit; drag sideways to size it");
    case FormTile::Tape: return HandModel::tr("Measures a length, a girth or an angle");
    case FormTile::Limb: return HandModel::tr("Drag from joint to end to draw a limb");
    case FormTile::Cone: return HandModel::tr("Drag from base to tip to draw a cone");
    case FormTile::Tube: return HandModel::tr("Draw a path to make a tube along it");
    case FormTile::Cylinder: return HandModel::tr("Drag from end to end to draw a cylinder");
    case FormTile::Turned: return HandModel::tr("Draw a profile beginning on its upright axis; it is turned about that axis");
    case FormTile::Body:
        return HandModel::tr("Draw the crown line, then the belly line, from a flank; later the left line from the crown");
    default: return HandModel::tr("Press at the middle and drag out to the size; a click on a form sets it down there");
    }
}

} // namespace bonemoss::app
