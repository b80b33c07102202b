// Where the view looks from: moves of the camera, framing, and their own undo.
#include "app/view/creature_view.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

void CreatureView::touchCamera()
{
    m_moving = true;
    m_settle.start();
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
    if (!m_cameraBack.empty() && m_cameraBack.back() == m_gestureStart)
        return;
    m_cameraBack.push_back(m_gestureStart);
    if (m_cameraBack.size() > 200)
        m_cameraBack.erase(m_cameraBack.begin());
    m_cameraForward.clear();
}

void CreatureView::setCamera(const portrait::Camera &camera)
{
    m_gestureStart = m_camera;
    m_camera = camera;
    rememberCamera();
    touchCamera();
}

/// What there is to see from one of the anatomical views, or from anywhere.
Box3f CreatureView::frameBox(const QString &key) const
{
    Box3f box = m_session.creature().bounds();
    for (const creature::Reference &r : m_references.shown(key))
        for (const float u : {0.0f, 1.0f})
            for (const float v : {0.0f, 1.0f})
                box.add(placeOf(r, {u, v}));
    return box;
}

void CreatureView::lookFrom(const QString &key)
{
    if (const auto turn = portrait::viewTurn(key.toStdString())) {
        portrait::Camera c = m_camera;
        c.turn = *turn;
        setCamera(portrait::framing(c, frameBox(key), projection().aspect()));
    }
}

void CreatureView::frameAll()
{
    const Box3f box = frameBox(viewKey());
    if (box.isEmpty())
        return;
    m_framed = true;
    setCamera(portrait::framing(m_camera, box, projection().aspect()));
}

void CreatureView::frameChosen()
{
    const armature::Form *f = m_session.creature().armature.find(m_session.form());
    if (showsForms() && f) {
        const std::uint32_t id = f->id;
        const Box3f box = armature::makeDistance(m_session.creature().armature, {&id, 1})->bounds();
        return setCamera(portrait::framing(m_camera, box, projection().aspect()));
    }
    frameAll();
}

void CreatureView::cameraBack()
{
    if (m_cameraBack.empty())
        return;
    m_cameraForward.push_back(m_camera);
    m_camera = m_cameraBack.back();
    m_cameraBack.pop_back();
    touchCamera();
}

void CreatureView::cameraForward()
{
    if (m_cameraForward.empty())
        return;
    m_cameraBack.push_back(m_camera);
    m_camera = m_cameraForward.back();
    m_cameraForward.pop_back();
    touchCamera();
}

void CreatureView::setParallel(bool on)
{
    m_camera.isParallel = on;
    touchCamera();
}

void CreatureView::showPlace(std::optional<Vec3f> at)
{
    m_place = at;
    if (at) {
        portrait::Camera c = m_camera;
        const float near = std::max(m_session.creature().bounds().diagonal() / 5, 1e-3f);
        Box3f box;
        box.add(*at);
        box.grow(near);
        // From where the skin there faces, if that is known; an open border or a pocket may face anywhere.
        if (const creature::Piece *piece = m_session.creature().piece(m_session.piece()))
            if (const auto hit = mesh::nearestPoint(piece->skin.shown, *at)) {
                const Vec3f up = std::abs(hit->normal.y) < 0.95f ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1};
                c.turn = portrait::turnLooking(-hit->normal, up);
            }
        setCamera(portrait::framing(c, box, projection().aspect()));
    }
    update();
}

/// The crown stays up: turning about the upright axis, then tipping about the view's own.
void CreatureView::orbit(QPointF by)
{
    const float yaw = float(-by.x()) * 0.008f, tip = float(-by.y()) * 0.008f;
    const float pitch = std::asin(std::clamp(-m_camera.forward().y, -1.0f, 1.0f));
    const float wanted = std::clamp(pitch - tip, -1.55f, 1.55f);
    m_camera.turn = normalized(turnAbout({0, 1, 0}, yaw) * m_camera.turn);
    m_camera.turn = normalized(turnAbout(m_camera.right(), pitch - wanted) * m_camera.turn);
    touchCamera();
}

void CreatureView::slide(QPointF by)
{
    const float mm = projection().mmPerPoint(m_camera.target);
    m_camera.target += m_camera.right() * (float(-by.x()) * mm) + m_camera.up() * (float(by.y()) * mm);
    touchCamera();
}

void CreatureView::nearer(double steps, QPointF at)
{
    const float factor = std::pow(0.88f, float(steps));
    const Projection view = projection();
    const mesh::Ray ray = view.rayAt(at);
    const float slope = dot(ray.direction, m_camera.forward());
    const Vec3f under = ray.origin + ray.direction * (dot(m_camera.target - ray.origin, m_camera.forward()) / slope);
    const Box3f box = m_session.creature().bounds();
    const float size = box.isEmpty() ? 100 : box.diagonal();
    const float wanted = std::clamp(m_camera.distance * factor, size * 0.01f, size * 20);
    const float share = 1 - wanted / m_camera.distance;
    m_camera.distance = wanted;
    m_camera.target += (under - m_camera.target) * share; // what is under the pointer stays there
    touchCamera();
}

// --- presses ----------------------------------------------------------------------------------

} // namespace bonemoss::app
