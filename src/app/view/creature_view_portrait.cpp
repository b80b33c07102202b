// The view as a picture, on the bench for it.
#include "app/view/creature_view.h"

#include "app/benches/bench.h"
#include "app/hand/portrait_hand.h"

namespace bonemoss::app {

void CreatureView::followPortrait()
{
    if (!rowOf(m_session.bench()).portrays || pane().kept || m_session.creature().bounds().isEmpty()) {
        if (m_portrait.isWanted())
            m_portrait.stop(), update();
        return;
    }
    const Projection view = projection();
    PortraitHand &held = m_hand.of<PortraitHand>();
    portrait::Shot shot = held.shot();
    shot.camera = view.camera;
    if (shot.camera != held.shot().camera) { // what is kept, and made to a file, is what is seen
        const QSignalBlocker quiet(&held);
        held.setShot(shot, held.lens());
    }
    shot.name.clear(), shot.id = 0;
    shot.aspect = view.aspect();
    const double scale = devicePixelRatioF();
    m_portrait.setMix(held.mix());
    m_portrait.want(m_session.standing(), held.stage(), shot,
                    {std::max(1, int(view.area.width() * scale)), std::max(1, int(view.area.height() * scale))});
    update();
}

/// The lens in hand goes before the view; the creature keeps its size in it.
void CreatureView::followLens()
{
    if (!rowOf(m_session.bench()).portrays)
        return;
    portrait::Camera c = pane().camera;
    const float wanted = m_hand.of<PortraitHand>().fieldOfViewIn(projection().aspect());
    if (std::abs(wanted - c.fieldOfView) > 1e-4f) {
        c.distance *= std::tan(c.fieldOfView / 2) / std::tan(wanted / 2);
        c.fieldOfView = wanted;
        pane().camera = c;
        touchCamera();
    }
    m_portraitRest.start();
}

void CreatureView::lookThrough(const portrait::Shot &shot)
{
    PortraitHand &held = m_hand.of<PortraitHand>();
    {
        const QSignalBlocker quiet(&held);
        held.setShot(shot, portrait::lensOf(shot.camera, shot.aspect));
    }
    portrait::Camera c = shot.camera;
    c.fieldOfView = held.fieldOfViewIn(projection().aspect());
    setCamera(c);
    emit held.shotChanged();
}

} // namespace bonemoss::app
