#include "app/hand/portrait_hand.h"

#include "command/command.h"
#include "command/fields.h"
#include "command/portrait/stage_fields.h"
#include "document/ops/portraits.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

void PortraitHand::setPage(PortraitPage page)
{
    m_page = page;
    m_tried.reset();
    emit kindChanged();
}

const portrait::Light *PortraitHand::light() const
{
    const auto &lights = m_session.creature().stage.lights;
    const auto at = std::find_if(lights.begin(), lights.end(), [&](const portrait::Light &l) { return l.id == m_light; });
    return at != lights.end() ? &*at : lights.empty() ? nullptr : &lights.front();
}

void PortraitHand::chooseMark(std::uint32_t id)
{
    if (id == m_mark)
        return;
    m_mark = id;
    emit markChosen();
    QMetaObject::invokeMethod(
        this, [this] { emit kindChanged(); }, Qt::QueuedConnection); // its list makes itself anew
}

void PortraitHand::chooseLight(std::uint32_t id)
{
    m_light = id;
    emit kindChanged();
}

void PortraitHand::setShot(const portrait::Shot &shot, float lens)
{
    m_shot = shot, m_lens = lens;
    emit shotChanged();
}

float PortraitHand::fieldOfViewIn(float viewAspect) const
{
    return portrait::fieldOfViewOf(m_lens, std::min(m_shot.aspect, viewAspect));
}

portrait::Shot PortraitHand::shotOf(const portrait::Camera &view) const
{
    portrait::Shot out = m_shot;
    out.camera = view;
    out.camera.fieldOfView = portrait::fieldOfViewOf(m_lens, m_shot.aspect);
    return out;
}

void PortraitHand::takeLens(const portrait::Camera &view, float viewAspect)
{
    m_lens = portrait::lensOf(view, std::min(m_shot.aspect, viewAspect));
}

void PortraitHand::setGuides(bool thirds, bool frame)
{
    m_showsThirds = thirds, m_showsFrame = frame;
    emit mixChanged();
}

void PortraitHand::setMix(const portrait::LightMix &of)
{
    const auto at = std::find_if(m_mix.begin(), m_mix.end(), [&](const auto &m) { return m.light == of.light; });
    if (at == m_mix.end())
        m_mix.push_back(of);
    else
        *at = of;
    emit mixChanged();
}

void PortraitHand::dropMix()
{
    m_mix.clear();
    emit mixChanged();
}

portrait::Stage PortraitHand::stage() const
{
    return m_tried ? *m_tried : document::litStage(m_session.creature());
}

void PortraitHand::tryCommand(const nlohmann::json &command)
{
    m_tried.reset();
    if (!command.is_null()) {
        command::CommandContext context;
        document::Creature bare; // lights are all that is looked at
        bare.stage = m_session.creature().stage, bare.nextId = m_session.creature().nextId;
        bare.heightMm = document::sizeOf(m_session.creature());
        if (const auto after = command::apply(bare, command, context))
            m_tried = std::make_shared<const portrait::Stage>(document::litStage(*after));
    }
    emit tried();
}

void PortraitHand::leave()
{
    if (m_tried) {
        m_tried.reset();
        emit tried();
    }
}

float tiltOf(const portrait::Camera &c)
{
    const Quat turned = portrait::uprightRotation(-c.forward()).conjugate() * c.rotation;
    const float tilt = 2 * std::atan2(turned.z, turned.w) / kRadiansPerDegree;
    return tilt > 180 ? tilt - 360 : tilt < -180 ? tilt + 360 : tilt;
}

nlohmann::json keepCameraCommand(const std::string &name, const portrait::Shot &shot)
{
    const portrait::Camera &c = shot.camera;
    command::KeepCamera keep{.name = name};
    keep.changes.eye = c.eye(), keep.changes.target = c.target;
    keep.changes.tilt = tiltOf(c);
    keep.changes.lens = std::clamp(portrait::lensOf(c, shot.aspect), 8.0f, 1000.0f), keep.changes.aspect = shot.aspect;
    keep.changes.aperture = shot.aperture, keep.changes.focus = shot.focus, keep.changes.isParallel = c.isParallel;
    return toCommand(keep);
}

} // namespace bonemoss::app
