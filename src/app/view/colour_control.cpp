#include "app/view/colour_control.h"

#include "app/benches/bench.h"
#include "app/theme/theme.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "skin/colour_layers.h"

#include <QCoreApplication>
#include <QOpenGLWidget>
#include <QPainter>
#include <QPainterPath>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

bool ColourControl::drawsLine() const
{
    const colour::RuleKind *kind = rowOf(m_session.bench()).hasColours ? held().kind() : nullptr;
    return kind && kind->source == colour::Source::Line;
}

ViewControl::Press ColourControl::press(const Pointer &pointer)
{
    if (!rowOf(m_session.bench()).hasColours)
        return Press::NotMine;
    if (held().picks()) {
        pick(pointer);
        return Press::Mine;
    }
    if (held().fills() != ColourHand::Fills::No) {
        fillFrom(pointer);
        return Press::Mine;
    }
    if (!pointer.held.isNone())
        return Press::NotMine;
    using Holding = ColourHand::Holding;
    const bool paints = held().holding() == Holding::Brush || held().holding() == Holding::Palette;
    if (!paints && !drawsLine())
        return Press::Camera; // a rule, a finish or the schemes are in hand: nothing is painted
    if (!drawsLine())
        return Press::NotMine;
    m_points.clear();
    if (const auto under = pointer.skin())
        m_points.push_back(under->point);
    return m_points.empty() ? Press::Camera : Press::Mine;
}

/// What was painted there, without light; beside the creature what the view shows.
void ColourControl::pick(const Pointer &pointer)
{
    held().setPicks(false);
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (const auto under = piece ? mesh::castRay(piece->skin.shown, pointer.view.rayAt(pointer.at)) : std::nullopt) {
        const std::uint32_t v = piece->skin.shown.topology->faceOf(under->block, under->face).v[0];
        const auto &channels = piece->skin.paint.channels;
        if (const float cover = channels[3].size() ? float(channels[3][v]) : 0; cover > 0) {
            const Vec3f c = Vec3f{float(channels[0][v]), float(channels[1][v]), float(channels[2][v])} * (1 / cover);
            rememberColour(c);
            return m_hand.setColour(c, 0);
        }
    }
    if (auto *gl = qobject_cast<QOpenGLWidget *>(m_view)) {
        const QImage image = gl->grabFramebuffer();
        const QPoint at = (pointer.at * gl->devicePixelRatio()).toPoint();
        if (image.rect().contains(at)) {
            rememberColour(fromQt(image.pixelColor(at)));
            m_hand.setColour(fromQt(image.pixelColor(at)), 0);
        }
    }
}

void ColourControl::fillFrom(const Pointer &pointer)
{
    const ColourHand::Fills fills = held().fills();
    const auto under = pointer.skin();
    if (!under)
        return;
    held().setFills(ColourHand::Fills::No);
    const sculpt::StrokeSettings &s = m_hand.settings(sculpt::Tool::Paint);
    command::FillColour fill{.piece = m_session.piece(), .colour = s.colour};
    if (s.entry)
        fill.entry = command::ItemName(s.entry);
    fill.where = fills == ColourHand::Fills::Island  ? command::FillWhere::Island
                 : fills == ColourHand::Fills::Angle ? command::FillWhere::Angle
                                                     : command::FillWhere::Border;
    fill.at = under->point, fill.limit = held().fillLimit(fills);
    if (m_session.colourLayer())
        fill.layer = command::ItemName(m_session.colourLayer());
    rememberColour(s.colour);
    QMetaObject::invokeMethod( // a dialog would come up under the press
        &m_session, [session = &m_session, view = m_view, command = toCommand(fill)] { session->runLong(command, view); },
        Qt::QueuedConnection);
}

void ColourControl::drag(const Pointer &pointer)
{
    const auto under = m_points.empty() ? std::nullopt : pointer.skin();
    if (under && length(under->point - m_points.back()) > 1)
        m_points.push_back(under->point);
}

void ColourControl::release(const Pointer &)
{
    std::vector<Vec3f> points;
    points.swap(m_points);
    if (points.size() < 2)
        return;
    colour::Rule rule = held().rule();
    rule.points = std::move(points);
    const bool isNew = held().layer() == 0;
    if (m_session.runLong(command::ruleCommand(m_session.piece(), held().layer(), rule, held().ramp()), m_view) && isNew)
        m_session.chooseColourLayer(m_session.creature().piece(m_session.piece())->skin.colourLayers.back().id);
}

void ColourControl::cancel()
{
    m_points.clear();
    if (held().picks() || held().fills() != ColourHand::Fills::No)
        held().setPicks(false);
}

void ColourControl::paintOn(QPainter &p, const Projection &view, const QString &)
{
    const std::vector<Vec3f> line = !m_points.empty()               ? m_points
                                    : drawsLine() && held().layer() ? held().rule().points
                                                                    : m_points;
    if (line.size() < 2)
        return;
    QPainterPath path(view.toScreen(line[0]));
    for (std::size_t k = 1; k < line.size(); ++k)
        path.lineTo(view.toScreen(line[k]));
    p.setBrush(Qt::NoBrush);
    for (const QPen &pen : {QPen(theme().field, 4.4), QPen(theme().moss, 2.4)}) {
        p.setPen(pen);
        p.drawPath(path);
        p.drawEllipse(view.toScreen(line[0]), 4, 4);
    }
}

QString ColourControl::hintFor(const HeldKeys &) const
{
    if (!rowOf(m_session.bench()).hasColours)
        return {};
    if (held().picks())
        return QCoreApplication::translate("Colour", "Colour · the next press takes the colour under it; Escape leaves it");
    if (held().fills() != ColourHand::Fills::No)
        return QCoreApplication::translate("Colour", "Colour · the next press fills from there on; Escape leaves it");
    if (drawsLine())
        return QCoreApplication::translate("Colour",
                                           "Colour · Gradient: draw a line on the skin, from the first colour to the last");
    return {};
}

const ControlRow kColourControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<ColourControl>(host.session, host.hand, host.view);
}};

} // namespace bonemoss::app
