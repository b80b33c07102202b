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
    of(Tool::Tug).strength = 1;
    of(Tool::Tug).size = 18;
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
    connect(&session, &Session::benchChanged, this, [this] {
        m_deform.isOn = false; // it was about something else
        emit toolChanged();
    });
    connect(&session, &Session::choiceChanged, this, [this] { m_deform.isOn = false; });
}

Tool HandModel::tool() const
{
    return m_session.bench() == Bench::Detail ? m_detailTool : m_sculptTool;
}

std::vector<Tool> HandModel::toolsOf(Bench bench) const
{
    if (bench == Bench::Sculpt)
        return {Tool::Raise, Tool::Swell,   Tool::Tug,    Tool::Crease, Tool::Smooth,
                Tool::Mask,  Tool::Tendril, Tool::Denser, Tool::Sparser};
    if (bench == Bench::Detail)
        return {Tool::Stamp, Tool::Crease, Tool::Raise, Tool::Swell, Tool::Smooth, Tool::Mask};
    return {};
}

void HandModel::setTool(Tool tool)
{
    m_before = this->tool();
    (m_session.bench() == Bench::Detail ? m_detailTool : m_sculptTool) = tool;
    emit toolChanged();
}

void HandModel::toolBefore()
{
    setTool(m_before);
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
    if (number >= 1 && number <= int(tools.size()))
        setTool(tools[std::size_t(number - 1)]);
}

void HandModel::setMirrored(bool on)
{
    m_isMirrored = on;
    emit settingsChanged();
}

void HandModel::setMousePressure(MousePressure mode, float slider)
{
    m_mousePressure = mode;
    m_mouseSlider = slider;
    emit settingsChanged();
}

void HandModel::load()
{
    QSettings s;
    for (auto &tool : m_settings) {
        const QString group = QStringLiteral("tools/") + QString::fromUtf8(nameOf(tool.tool).data()) + QLatin1Char('/');
        const auto number = [&](const char *key, float &value, float least, float most) {
            value = std::clamp(s.value(group + QLatin1String(key), value).toFloat(), least, most);
        };
        number("size", tool.size, 0.05f, 500);
        number("strength", tool.strength, 0, 1);
        number("spacing", tool.spacing, 0.02f, 4);
        number("steadiness", tool.steadiness, 0, 0.95f);
        number("depth", tool.depth, 0, 100);
        number("edge", tool.edge, 0.02f, 0.6f);
        tool.isConnected = s.value(group + QStringLiteral("connected"), true).toBool();
    }
    m_isMirrored = s.value(QStringLiteral("tools/mirror"), true).toBool();
}

void HandModel::store() const
{
    QSettings s;
    for (const auto &tool : m_settings) {
        const QString group = QStringLiteral("tools/") + QString::fromUtf8(nameOf(tool.tool).data()) + QLatin1Char('/');
        s.setValue(group + QStringLiteral("size"), tool.size);
        s.setValue(group + QStringLiteral("strength"), tool.strength);
        s.setValue(group + QStringLiteral("spacing"), tool.spacing);
        s.setValue(group + QStringLiteral("steadiness"), tool.steadiness);
        s.setValue(group + QStringLiteral("depth"), tool.depth);
        s.setValue(group + QStringLiteral("edge"), tool.edge);
        s.setValue(group + QStringLiteral("connected"), tool.isConnected);
    }
    s.setValue(QStringLiteral("tools/mirror"), m_isMirrored);
}

QString toolTitle(Tool tool)
{
    switch (tool) {
    case Tool::Raise: return HandModel::tr("Raise");
    case Tool::Swell: return HandModel::tr("Swell");
    case Tool::Crease: return HandModel::tr("Crease");
    case Tool::Tug: return HandModel::tr("Tug");
    case Tool::Smooth: return HandModel::tr("Smooth");
    case Tool::Stamp: return HandModel::tr("Stamp");
    case Tool::Mask: return HandModel::tr("Mask");
    case Tool::Tendril: return HandModel::tr("Tendril");
    case Tool::Denser: return HandModel::tr("Denser");
    case Tool::Sparser: return HandModel::tr("Sparser");
    }
    return {};
}

QString toolHint(Tool tool)
{
    switch (tool) {
    case Tool::Raise: return HandModel::tr("Raise lifts the skin along the area's normal");
    case Tool::Swell: return HandModel::tr("Swell pushes every point out along its own normal");
    case Tool::Crease: return HandModel::tr("Crease cuts a tight valley with a soft shoulder");
    case Tool::Tug: return HandModel::tr("Tug drags what is connected under the ring");
    case Tool::Smooth: return HandModel::tr("Smooth evens the skin and keeps its volume");
    case Tool::Stamp: return HandModel::tr("Stamp presses a height picture into the chosen layer");
    case Tool::Mask: return HandModel::tr("Mask keeps what it covers as it is");
    case Tool::Tendril: return HandModel::tr("Tendril draws a limb out of the skin, with new faces as it grows");
    case Tool::Denser: return HandModel::tr("Denser gives the skin shorter edges");
    case Tool::Sparser: return HandModel::tr("Sparser gives the skin longer edges");
    }
    return {};
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
        return HandModel::tr("Click a form to choose it; drag its handles to move, turn and size it; Shift adds");
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
