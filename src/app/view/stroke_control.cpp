#include "document/ops/colours.h"
#include "document/ops/pieces.h"
#include "app/view/stroke_control.h"
#include "app/hand/pose_hand.h"

#include "command/params.h"
#include "command/fields.h"
#include "command/colours/colour_fields.h"
#include "command/layers/layer_fields.h"
#include "command/pose/pose_fields.h"

#include <nlohmann/json.hpp>

#include <utility>

namespace bonemoss::app {

sculpt::StrokeSettings StrokeControl::settingsFor(const HeldKeys &keys) const
{
    sculpt::Tool tool = m_hand.tool();
    if (keys.mask)
        tool = sculpt::Tool::Mask;
    else if (keys.smooth)
        tool = sculpt::Tool::Smooth;
    sculpt::StrokeSettings s = m_hand.settings(tool);
    const PoseHand &pose = m_hand.of<PoseHand>();
    if (isWeighing()) {
        s = m_hand.settings(sculpt::Tool::Mask);
        s.isReversed = pose.weighing() == Weighing::Take, s.strength = pose.weighStrength();
    }
    s.size = m_hand.settings().size; // a held key keeps the ring as it is
    s.isMirrored = m_hand.isMirrored();
    s.isReversed = s.isReversed != keys.dig;
    return s;
}

bool StrokeControl::isWeighing() const
{
    return rowOf(m_session.bench()).poses && m_hand.of<PoseHand>().paintsWeights();
}

/// What to stroke with and on; false, and said why, when that cannot be stroked.
bool StrokeControl::prepare(const document::Piece *piece, const HeldKeys &keys)
{
    m_piece = piece->id;
    m_settings = settingsFor(keys);
    m_layer = paints(m_settings.tool) ? m_session.colourLayer() : m_session.layer();
    m_settings.symmetry = piece->symmetry;
    m_settings.stencil = m_stencil;
    m_settings.seed = m_seed++;
    if (m_settings.tool == sculpt::Tool::Stamp
        && !(m_settings.picture = document::stampNamed(m_session.creature(), m_settings.stamp)))
        m_settings.stamp = "scales",
        m_settings.picture = document::stampNamed(m_session.creature(), m_settings.stamp); // of another creature
    if (piece->isLocked) {
        m_session.complain(
            Session::tr("%1 is locked. Unlock it in the anatomy to sculpt it.").arg(QString::fromStdString(piece->name)));
        return false;
    }
    if (changesFaces(m_settings.tool) && !piece->skin.links.empty()) {
        m_session.complain(Session::tr("%1 has levels, and this tool needs one alone: Surface, Levels, Delete lower.")
                               .arg(QString::fromStdString(piece->name)));
        return false;
    }
    if (m_settings.tool == sculpt::Tool::Restore && m_layer == 0) {
        m_session.complain(Session::tr("Restore goes back to the skin without a layer, and the body is in hand. Choose the "
                                       "layer to take away under Detail layers."));
        return false;
    }
    m_weighed.clear();
    if (isWeighing())
        return prepareWeights(piece);
    if (paints(m_settings.tool))
        return prepareColour(piece);
    if (document::needsHandLayer(piece->skin, m_layer, m_settings.tool)) {
        if (!m_session.run(toCommand(command::MakeHandLayer{.piece = piece->id, .layer = m_layer})))
            return false;
        piece = m_session.creature().piece(m_session.piece());
        for (const skin::Layer &l : piece->skin.layers)
            if (l.handOver == m_layer) {
                m_layer = l.id;
                m_session.chooseLayer(l.id);
                break;
            }
    }
    const skin::Layer *layer = piece->skin.layer(m_layer);
    if (layer && layer->isLocked && !marks(m_settings.tool)) {
        m_session.complain(Session::tr("The layer %1 is locked. Unlock it under Detail layers to work on it.")
                               .arg(QString::fromStdString(layer->name)));
        return false;
    }
    if (layer && std::abs(layer->shownStrength()) < 0.01f && !marks(m_settings.tool)) {
        m_session.complain(Session::tr("The layer %1 is off or at 0 %, so a stroke on it would not be seen. Switch it on first.")
                               .arg(QString::fromStdString(layer->name)));
        return false;
    }
    return true;
}

/// A bone whose weights are painted, on a skin that has some.
bool StrokeControl::prepareWeights(const document::Piece *piece)
{
    const PoseHand &pose = m_hand.of<PoseHand>();
    const std::uint32_t bone = pose.bone().form ? pose.skeleton().find(pose.bone()) : kNone;
    if (bone == kNone && pose.weighing() != Weighing::Even) {
        m_session.complain(Session::tr("Choose the bone whose weights shall be painted first, in the list or by a press."));
        return false;
    }
    if (piece->skin.boneWeights.empty() && !m_session.run(toCommand(command::BindSkin{.piece = piece->id})))
        return false;
    m_weighed = bone == kNone ? pose.skeleton().bones[0].name : pose.skeleton().bones[bone].name;
    m_layer = 0;
    return true;
}

/// A colour layer to paint on: the first is made.
bool StrokeControl::prepareColour(const document::Piece *piece)
{
    if (!m_layer) {
        if (!m_session.run(toCommand(command::AddColourLayer{.piece = piece->id})))
            return false;
        m_layer = m_session.colourLayer();
        piece = m_session.creature().piece(m_piece);
    }
    const skin::ColourLayer *layer = skin::colourLayer(piece->skin, m_layer);
    if (layer && layer->isLocked)
        m_session.complain(Session::tr("The colour layer %1 is locked. Unlock it under Colour layers to paint on it.")
                               .arg(QString::fromStdString(layer->name)));
    else if (layer && (!layer->isShown() || layer->opacity < 0.01f))
        m_session.complain(
            Session::tr("The colour layer %1 is off or at 0 %, so a stroke on it would not be seen. Switch it on first.")
                .arg(QString::fromStdString(layer->name)));
    return layer && !layer->isLocked && layer->isShown() && layer->opacity >= 0.01f;
}

bool StrokeControl::begin(const mesh::Ray &ray, float pressure, const HeldKeys &keys, bool isStraight, Vec3f lean)
{
    const auto standing = m_session.standing();
    const document::Piece *piece = standing->piece(m_session.piece());
    if (!piece || piece->isHidden || !mesh::castRay(piece->skin.shown, ray))
        return false;
    if (!prepare(piece, keys))
        return true; // the press is used up: it must not turn the camera
    m_isStraight = isStraight && !takesHold(m_settings.tool);
    m_samples.clear();
    startLive();
    add({ray.origin, ray.direction, pressure, 0, lean});
    return true;
}

bool StrokeControl::show(const std::vector<sculpt::PenSample> &samples, const HeldKeys &keys)
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    m_live.reset();
    if (!piece || piece->isHidden || !prepare(piece, keys))
        return false;
    m_settings.seed = 1; // the same at every change of the curve
    m_isStraight = false;
    m_samples.clear();
    startLive();
    for (const sculpt::PenSample &s : samples)
        add(s);
    return true;
}

void StrokeControl::startLive()
{
    skin::Skin skin = m_session.standing()->piece(m_piece)->skin;
    m_isPosed = m_session.isPosed();
    if (m_isPosed)
        m_settings.symmetry = {.hasPlane = false}; // the other side follows when the stroke is done
    if (!m_weighed.empty())                        // what is painted shows as a mask of its own
        skin.mask = skin::Bytes(skin.body.size()), m_takesWeights = std::exchange(m_settings.isReversed, false);
    if (const skin::PaletteColour *c = document::paletteColour(m_session.creature(), m_settings.entry))
        skin::usePaletteColour(skin, *c);
    else
        m_settings.entry = 0; // it is gone: its colour is painted with
    m_live = std::make_unique<document::LiveStroke>(skin, m_settings, m_layer);
}

void StrokeControl::add(const sculpt::PenSample &sample)
{
    m_samples.push_back(sample);
    m_live->add(sample);
}

void StrokeControl::move(const mesh::Ray &ray, float pressure, float timeMs, Vec3f lean)
{
    if (!m_live)
        return;
    if (m_isStraight) { // again from the skin as it was
        m_samples.resize(1);
        startLive();
        m_live->add(m_samples.front());
    }
    add({ray.origin, ray.direction, pressure, timeMs, lean});
}

void StrokeControl::end()
{
    if (!m_live)
        return;
    const auto live = std::move(m_live);
    if (live->stroke().touched().empty())
        return; // nothing was met: no step in the history
    const std::vector<std::uint32_t> undrawn = live->takeDirty();
    m_late[m_piece].insert(m_late[m_piece].end(), undrawn.begin(), undrawn.end());
    if (m_settings.tool == sculpt::Tool::Plane)
        m_hand.setLastPlane(live->stroke().lastDab().base, live->stroke().lastDab().normal);
    if (!m_weighed.empty()) {
        sculpt::StrokeSettings settings = m_settings;
        const PoseHand &pose = m_hand.of<PoseHand>();
        settings.isReversed = m_takesWeights;
        const bool evens = pose.weighing() == Weighing::Even;
        m_session.run(
            command::strokeCommand({m_piece, 0, m_isPosed, evens ? std::string() : m_weighed, evens}, settings, m_samples));
        return;
    }
    if (m_isPosed || (m_settings.isTinting && !paints(m_settings.tool))) { // both at once, as one step
        m_session.run(command::strokeCommand({m_piece, m_layer, m_isPosed}, m_settings, m_samples));
        return;
    }
    m_session.commitStroke(*live, m_piece, command::strokeCommand({m_piece, m_layer}, m_settings, m_samples));
}

void StrokeControl::cancel()
{
    m_live.reset();
}

StrokeControl::Late StrokeControl::takeLate()
{
    return std::exchange(m_late, {});
}

std::vector<std::uint32_t> StrokeControl::takeDirty()
{
    return m_live ? m_live->takeDirty() : std::vector<std::uint32_t>{};
}

const ControlRow kStrokeControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<StrokeControl>(host.session, host.hand);
}};

} // namespace bonemoss::app
