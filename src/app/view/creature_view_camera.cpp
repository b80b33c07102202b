// Where the view looks from: moves of the camera, framing, and their own undo.
#include "app/view/creature_view.h"

#include "app/benches/bench.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

void CreatureView::touchCamera()
{
    m_moving = true;
    m_settle.start();
    m_portrait.stop();
    m_portraitRest.start();
    emit cameraChanged();
    update();
}

void CreatureView::settle()
{
    m_moving = false;
    update();
}

void CreatureView::rememberCamera()
{
    if (!pane().back.empty() && pane().back.back() == m_gestureStart)
        return;
    pane().back.push_back(m_gestureStart);
    if (pane().back.size() > 200)
        pane().back.erase(pane().back.begin());
    pane().forward.clear();
}

void CreatureView::setCamera(const portrait::Camera &camera)
{
    m_gestureStart = pane().camera;
    pane().camera = camera;
    rememberCamera();
    touchCamera();
}

/// What there is to see from one of the anatomical views, or from anywhere.
Box3f CreatureView::frameBox(const QString &key) const
{
    Box3f box = m_session.creature().bounds();
    for (const document::Reference &r : m_references.shown(key))
        for (const float u : {0.0f, 1.0f})
            for (const float v : {0.0f, 1.0f})
                box.add(placeOf(r, {u, v}));
    return box;
}

void CreatureView::lookFrom(const QString &key)
{
    if (const auto turn = portrait::viewRotation(key.toStdString())) {
        portrait::Camera c = pane().camera;
        c.rotation = *turn;
        setCamera(portrait::framing(c, frameBox(key), projection().aspect()));
    }
}

void CreatureView::frameAll()
{
    const Box3f box = frameBox(viewKey());
    if (box.isEmpty())
        return;
    m_framed = true;
    setCamera(portrait::framing(pane().camera, box, projection().aspect()));
}

void CreatureView::frameChosen()
{
    const BenchRow &bench = rowOf(m_session.bench());
    const Box3f box = m_session.hasChosenHere() && bench.framed ? bench.framed(m_session) : Box3f{};
    if (box.isEmpty())
        return frameAll();
    setCamera(portrait::framing(pane().camera, box, projection().aspect()));
}

void CreatureView::flyTo(Vec3f at, Vec3f outward, float radius)
{
    portrait::Camera c = pane().camera;
    if (dot(c.forward(), outward) > -0.3f) // seen from behind, or along the surface
        c.rotation = portrait::uprightRotation(outward);
    Box3f box; // with what lies about it, so that one sees where it is
    const float reach = std::max(3 * radius, 0.04f * m_session.standing()->bounds().diagonal());
    box.add(at - Vec3f{reach, reach, reach}), box.add(at + Vec3f{reach, reach, reach});
    setCamera(portrait::framing(c, box, projection().aspect()));
}

void CreatureView::cameraBack()
{
    if (pane().back.empty())
        return;
    pane().forward.push_back(pane().camera);
    pane().camera = pane().back.back();
    pane().back.pop_back();
    touchCamera();
}

void CreatureView::cameraForward()
{
    if (pane().forward.empty())
        return;
    pane().back.push_back(pane().camera);
    pane().camera = pane().forward.back();
    pane().forward.pop_back();
    touchCamera();
}

void CreatureView::setParallel(bool on)
{
    pane().camera.isParallel = on;
    touchCamera();
}

void CreatureView::showPlace(std::optional<Vec3f> at)
{
    m_place = at;
    if (at) {
        portrait::Camera c = pane().camera;
        const float near = std::max(m_session.creature().bounds().diagonal() / 5, 1e-3f);
        Box3f box;
        box.add(*at);
        box.grow(near);
        // From where the skin there faces, if that is known; an open border or a pocket may face anywhere.
        if (const document::Piece *piece = m_session.creature().piece(m_session.piece()))
            if (const auto hit = mesh::nearestPoint(piece->skin.shown, *at)) {
                const Vec3f up = std::abs(hit->normal.y) < 0.95f ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1};
                c.rotation = portrait::rotationLooking(-hit->normal, up);
            }
        setCamera(portrait::framing(c, box, projection().aspect()));
    }
    update();
}

/// The crown stays up: turning about the upright axis, then tipping about the view's own.
void CreatureView::orbit(QPointF by)
{
    const float yaw = float(-by.x()) * 0.008f, tip = float(-by.y()) * 0.008f;
    const float pitch = std::asin(std::clamp(-pane().camera.forward().y, -1.0f, 1.0f));
    const float wanted = std::clamp(pitch - tip, -1.55f, 1.55f);
    pane().camera.rotation = normalized(rotationAbout({0, 1, 0}, yaw) * pane().camera.rotation);
    pane().camera.rotation = normalized(rotationAbout(pane().camera.right(), pitch - wanted) * pane().camera.rotation);
    touchCamera();
}

void CreatureView::slide(QPointF by)
{
    const float mm = projection().mmPerPoint(pane().camera.target);
    pane().camera.target += pane().camera.right() * (float(-by.x()) * mm) + pane().camera.up() * (float(by.y()) * mm);
    touchCamera();
}

void CreatureView::nearer(double steps, QPointF at)
{
    const float factor = std::pow(0.88f, float(steps));
    const Projection view = projection();
    const mesh::Ray ray = view.rayAt(at);
    const float slope = dot(ray.direction, pane().camera.forward());
    const Vec3f under = ray.origin + ray.direction * (dot(pane().camera.target - ray.origin, pane().camera.forward()) / slope);
    const Box3f box = m_session.creature().bounds();
    const float size = box.isEmpty() ? 100 : box.diagonal();
    const float wanted = std::clamp(pane().camera.distance * factor, size * 0.01f, size * 20);
    const float share = 1 - wanted / pane().camera.distance;
    pane().camera.distance = wanted;
    pane().camera.target += (under - pane().camera.target) * share; // what is under the pointer stays there
    touchCamera();
}

// --- presses ----------------------------------------------------------------------------------

} // namespace bonemoss::app
