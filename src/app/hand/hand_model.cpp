#include "app/hand/hand_model.h"

#include <QDir>
#include <QSettings>
#include <QStandardPaths>

#include <algorithm>

namespace bonemoss::app {

using sculpt::Tool;

HandModel::HandModel(Session &session, QObject *parent) : QObject(parent), m_session(session)
{
    for (std::size_t t = 0; t < sculpt::kToolCount; ++t) {
        m_settings[t].tool = Tool(t);
        m_settings[t].size = 12;
    }
    const auto of = [&](Tool t) -> sculpt::StrokeSettings & { return m_settings[std::size_t(t)]; };
    for (const Tool t : {Tool::Tug, Tool::Knead, Tool::Twist}) {
        of(t).strength = 1;
        of(t).size = 18;
    }
    of(Tool::Twist).falloff = sculpt::Falloff::Soft;
    for (const Tool t : {Tool::Daub, Tool::Slab, Tool::Plane, Tool::Gouge})
        of(t).falloff = sculpt::Falloff::Plateau;
    of(Tool::Slab).strength = 1;
    of(Tool::Gouge).size = of(Tool::Pinch).size = 6;
    of(Tool::Crease).size = 6;
    of(Tool::Smooth).strength = 0.6f;
    of(Tool::Mask).falloff = sculpt::Falloff::Plateau;
    of(Tool::Mask).strength = 1;
    of(Tool::Stamp).strength = 0.5f;
    of(Tool::Stamp).falloff = sculpt::Falloff::Plateau;
    of(Tool::Stamp).spacing = 1.2f;
    of(Tool::Stamp).isDragged = true;
    of(Tool::Tendril).strength = 1;
    of(Tool::Tendril).falloff = sculpt::Falloff::Plateau;
    of(Tool::Tendril).edge = 0.22f;
    of(Tool::Denser).spacing = of(Tool::Sparser).spacing = 0.3f;
    of(Tool::Sparser).edge = 0.3f;
    for (const detail::GrowthKind &kind : detail::growthKinds())
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
    if (m_session.bench() != Bench::Detail)
        return;
    const creature::Piece *piece = m_session.creature().piece(m_session.piece());
    const detail::Layer *layer = piece ? piece->skin.layer(m_session.layer()) : nullptr;
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

detail::Growth HandModel::rule() const
{
    const creature::Piece *piece = m_session.creature().piece(m_session.piece());
    const detail::Layer *layer = piece && m_growing.layer ? piece->skin.layer(m_growing.layer) : nullptr;
    if (layer && layer->growth)
        return *layer->growth;
    return m_rules[std::size_t(m_growing.kind - detail::growthKinds().data())];
}

void HandModel::setRule(const detail::Growth &rule)
{
    m_rules[std::size_t(rule.kind - detail::growthKinds().data())] = rule;
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

Tool HandModel::tool() const
{
    return m_session.bench() == Bench::Detail ? m_detailTool : m_sculptTool;
}

std::vector<Tool> HandModel::toolsOf(Bench bench) const
{
    if (bench == Bench::Sculpt) {
        std::vector<Tool> all;
        for (std::size_t t = 0; t < sculpt::kToolCount; ++t)
            if (Tool(t) != Tool::Stamp)
                all.push_back(Tool(t));
        return all;
    }
    if (bench == Bench::Detail)
        return {Tool::Stamp, Tool::Crease, Tool::Raise, Tool::Swell, Tool::Slab, Tool::Restore, Tool::Smooth, Tool::Mask};
    return {};
}

void HandModel::setTool(Tool tool)
{
    if (tool != this->tool()) // each bench has its own
        (m_session.bench() == Bench::Detail ? m_beforeDetail : m_before) = this->tool();
    m_growing = {};
    m_harvests = false;
    (m_session.bench() == Bench::Detail ? m_detailTool : m_sculptTool) = tool;
    emit toolChanged();
}

void HandModel::toolBefore()
{
    setTool(m_session.bench() == Bench::Detail ? m_beforeDetail : m_before);
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
    if (m_session.bench() == Bench::Armature) {
        if (number >= 1 && number <= kFormTileCount)
            setFormTile(FormTile(number - 1));
        return;
    }
    const auto tools = toolsOf(m_session.bench());
    const auto kinds = detail::growthKinds();
    if (number >= 1 && number <= int(tools.size()))
        setTool(tools[std::size_t(number - 1)]);
    else if (m_session.bench() == Bench::Detail && number > int(tools.size()) && number <= int(tools.size() + kinds.size()))
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

/// Every setting of a tool that is remembered, by its name.
template <typename Number, typename Switch>
void eachSetting(sculpt::StrokeSettings &s, const Number &number, const Switch &toggle)
{
    number("size", s.size, 0.05f, 500);
    number("strength", s.strength, 0, 1);
    number("spacing", s.spacing, 0.02f, 4);
    number("steadiness", s.steadiness, 0, 0.95f);
    number("rope", s.rope, 0, 10);
    number("tilt", s.tilt, 0, 1);
    number("depth", s.depth, 0, 100);
    number("edge", s.edge, 0.02f, 0.6f);
    number("limit", s.limit, 0, 100);
    number("scatter", s.scatter, 0, 10);
    number("sizeScatter", s.sizeScatter, 0, 1);
    number("reach", s.reach, 0, 0.5f);
    number("strengthCurve", s.strengthCurve, 0.2f, 5);
    number("sizeCurve", s.sizeCurve, 0.2f, 5);
    for (std::size_t k = 0; k < s.drawn.size(); ++k)
        number(("curve" + std::to_string(k)).c_str(), s.drawn[k], 0, 1);
    toggle("connected", s.isConnected);
    toggle("frontOnly", s.isFrontOnly);
    toggle("islandOnly", s.isIslandOnly);
    toggle("guardThin", s.guardsThin);
    toggle("pressureToStrength", s.pressureToStrength);
    toggle("pressureToSize", s.pressureToSize);
    toggle("shrink", s.shrinks);
}

/// The choices among them, as numbers: which of how many.
template <typename Choice> void eachChoice(sculpt::StrokeSettings &s, const Choice &choice)
{
    const auto one = [&](const char *name, auto &value, std::size_t count) {
        using Kind = std::decay_t<decltype(value)>;
        value = Kind(choice(name, int(value), int(count)));
    };
    one("falloff", s.falloff, sculpt::kFalloffNames.size());
    one("planeSide", s.planeSide, std::size(sculpt::kPlaneSides));
    one("planeFrom", s.planeFrom, std::size(sculpt::kPlaneFroms));
    one("knead", s.knead, std::size(sculpt::kKneadKinds));
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
        eachSetting(
            tool,
            [&](const char *key, float &value, float least, float most) {
                value = std::clamp(s.value(group + QLatin1String(key), value).toFloat(), least, most);
            },
            [&](const char *key, bool &value) { value = s.value(group + QLatin1String(key), value).toBool(); });
        eachChoice(tool, [&](const char *key, int value, int count) {
            return std::clamp(s.value(group + QLatin1String(key), value).toInt(), 0, count - 1);
        });
        if (tool.planeFrom == sculpt::PlaneFrom::Locked) {
            const QVariantList plane = s.value(group + QStringLiteral("plane")).toList();
            if (plane.size() == 6) {
                const auto at = [&](int k) { return plane[k].toFloat(); };
                tool.planePoint = {at(0), at(1), at(2)}, tool.planeNormal = normalized(Vec3f{at(3), at(4), at(5)});
            }
            if (plane.size() != 6 || tool.planeNormal == Vec3f{})
                tool.planeFrom = sculpt::PlaneFrom::Area;
        }
    }
    m_isMirrored = s.value(QStringLiteral("tools/mirror"), true).toBool();
    m_isSizeOnScreen = s.value(QStringLiteral("tools/sizeOnScreen"), false).toBool();
    m_tintsTouch = s.value(QStringLiteral("tools/tintTouch"), false).toBool();
}

void HandModel::store()
{
    QSettings s;
    for (auto &tool : m_settings) {
        const QString group = groupOf(tool.tool);
        eachSetting(
            tool, [&](const char *key, float &value, float, float) { s.setValue(group + QLatin1String(key), value); },
            [&](const char *key, bool &value) { s.setValue(group + QLatin1String(key), value); });
        eachChoice(tool, [&](const char *key, int value, int) {
            s.setValue(group + QLatin1String(key), value);
            return value;
        });
        const Vec3f p = tool.planePoint, n = tool.planeNormal;
        s.setValue(group + QStringLiteral("plane"), QVariantList{p.x, p.y, p.z, n.x, n.y, n.z});
    }
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
        tool.size = std::clamp(tool.size * factor, 0.05f, 500.0f);
    emit settingsChanged();
}

namespace {

struct ToolWords {
    const char *title, *hint;
};
/// In the order of the tools.
constexpr ToolWords kToolWords[sculpt::kToolCount] = {
    {QT_TRANSLATE_NOOP("HandModel", "Raise"), QT_TRANSLATE_NOOP("HandModel", "Raise lifts the skin along the area's normal")},
    {QT_TRANSLATE_NOOP("HandModel", "Daub"),
     QT_TRANSLATE_NOOP("HandModel", "Daub lays flat-topped passes and fills hollows first")},
    {QT_TRANSLATE_NOOP("HandModel", "Swell"),
     QT_TRANSLATE_NOOP("HandModel", "Swell pushes every point out along its own normal")},
    {QT_TRANSLATE_NOOP("HandModel", "Slab"),
     QT_TRANSLATE_NOOP("HandModel", "Slab lays a fixed thickness over the skin as it was, never more")},
    {QT_TRANSLATE_NOOP("HandModel", "Tug"), QT_TRANSLATE_NOOP("HandModel", "Tug drags what is connected under the ring")},
    {QT_TRANSLATE_NOOP("HandModel", "Knead"),
     QT_TRANSLATE_NOOP("HandModel", "Knead drags the skin as an elastic body that keeps its volume")},
    {QT_TRANSLATE_NOOP("HandModel", "Tendril"),
     QT_TRANSLATE_NOOP("HandModel", "Tendril draws a limb out of the skin, with new faces as it grows")},
    {QT_TRANSLATE_NOOP("HandModel", "Twist"),
     QT_TRANSLATE_NOOP("HandModel", "Twist turns the skin as the pen goes round where it came down")},
    {QT_TRANSLATE_NOOP("HandModel", "Crease"), QT_TRANSLATE_NOOP("HandModel", "Crease cuts a tight valley with a soft shoulder")},
    {QT_TRANSLATE_NOOP("HandModel", "Pinch"), QT_TRANSLATE_NOOP("HandModel", "Pinch draws the skin together along the stroke")},
    {QT_TRANSLATE_NOOP("HandModel", "Plane"), QT_TRANSLATE_NOOP("HandModel", "Plane flattens the skin to a plane")},
    {QT_TRANSLATE_NOOP("HandModel", "Gouge"),
     QT_TRANSLATE_NOOP("HandModel", "Gouge cuts a channel away from you, along the view")},
    {QT_TRANSLATE_NOOP("HandModel", "Smooth"), QT_TRANSLATE_NOOP("HandModel", "Smooth evens the skin and keeps its volume")},
    {QT_TRANSLATE_NOOP("HandModel", "Relax"), QT_TRANSLATE_NOOP("HandModel", "Relax evens the faces and keeps the shape")},
    {QT_TRANSLATE_NOOP("HandModel", "Restore"),
     QT_TRANSLATE_NOOP("HandModel", "Restore goes back towards the skin without the chosen layer")},
    {QT_TRANSLATE_NOOP("HandModel", "Mask"), QT_TRANSLATE_NOOP("HandModel", "Mask keeps what it covers as it is")},
    {QT_TRANSLATE_NOOP("HandModel", "Denser"), QT_TRANSLATE_NOOP("HandModel", "Denser gives the skin shorter edges")},
    {QT_TRANSLATE_NOOP("HandModel", "Sparser"), QT_TRANSLATE_NOOP("HandModel", "Sparser gives the skin longer edges")},
    {QT_TRANSLATE_NOOP("HandModel", "Stamp"), QT_TRANSLATE_NOOP("HandModel", "Stamp presses a height picture into the skin")},
};

} // namespace

QString toolTitle(Tool tool)
{
    return HandModel::tr(kToolWords[std::size_t(tool)].title);
}

QString toolHint(Tool tool)
{
    return HandModel::tr(kToolWords[std::size_t(tool)].hint);
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
