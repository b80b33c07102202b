// What presses, moves and keys do in the view: gestures, and which control each belongs to.
#include "app/view/creature_view.h"

#include "app/view/compass.h"

#include <QAbstractSpinBox>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QSettings>
#include <QWheelEvent>
#include <nlohmann/json.hpp>

#include <cmath>

namespace bonemoss::app {

namespace {
constexpr qint64 kOneTurnMs = 600; // turns of the wheel that follow each other sooner are one step of the camera
}

float CreatureView::mousePressure(QPointF at)
{
    switch (m_hand.mousePressure()) {
    case MousePressure::Slider: return m_hand.mouseSlider();
    case MousePressure::Speed: {
        const double speed = std::hypot((at - m_last).x(), (at - m_last).y());
        return float(std::clamp(1.0 - speed / 60.0, 0.15, 1.0));
    }
    case MousePressure::Full: break;
    }
    return 1;
}

void CreatureView::pressAt(QPointF at, float pressure)
{
    m_last = m_pressed = at;
    m_gesture = gestureAt(at, pressure); // only now: a command that a press needs first must not end it
    m_gestureStart = pane().camera;
    update();
}

CreatureView::Gesture CreatureView::gestureAt(QPointF at, float pressure)
{
    if (pane().kept)
        return Gesture::Orbit; // what is only looked at
    if (m_trim.isOn()) {
        m_trim.press(at);
        return Gesture::Trim;
    }
    if (m_deform.press(projection(), at, surfaceUnder(at)))
        return Gesture::Deform;
    if (m_hand.deform().isOn && !showsForms())
        return Gesture::Orbit; // no stroke on what is shown otherwise than it is
    if (m_references.press(projection(), at, viewKey()))
        return Gesture::Picture;
    if (!showsForms())
        return pressBrush(at, pressure);
    if (pressCage(at))
        return Gesture::Cage;
    if (m_hand.formTile() == FormTile::Tape) {
        m_tape.press(projection(), at, placeUnder(at));
        return Gesture::Tape;
    }
    return m_forms.press(projection(), at, m_modifiers) ? Gesture::Form : Gesture::Orbit;
}

/// A press with a brush, or with what takes its place.
CreatureView::Gesture CreatureView::pressBrush(QPointF at, float pressure)
{
    m_strokes.holdStencil(m_stencil.held(projection()));
    if (m_hand.harvests())
        return Gesture::Harvest;
    if (m_stencil.press(projection(), at))
        return Gesture::Stencil;
    if (m_guides.isOn() && m_held.isNone())
        return m_guides.press(projection(), at, surfaceUnder(at)) ? Gesture::Guide : Gesture::Orbit;
    if (m_curve.isOn()) {
        const bool isOnSkin = m_curve.press(projection(), at, restUnder(at), m_held);
        updateHint();
        return isOnSkin ? Gesture::Curve : Gesture::Orbit;
    }
    if (!m_strokes.begin(projection().rayAt(at), pressure, m_held, m_modifiers & Qt::ShiftModifier, m_lean))
        return Gesture::Orbit;
    m_strokeClock.start();
    m_pen = {{at.x() / width(), at.y() / height(), double(pressure), 0}};
    return Gesture::Stroke;
}

void CreatureView::moveAt(QPointF at, float pressure)
{
    const QPointF by = at - m_last;
    switch (m_gesture) {
    case Gesture::Orbit: orbit(by); break;
    case Gesture::Slide: slide(by); break;
    case Gesture::Form: m_forms.drag(projection(), at, m_modifiers); break;
    case Gesture::Picture: m_references.drag(projection(), at); break;
    case Gesture::Deform: m_deform.drag(projection(), at); break;
    case Gesture::Trim: m_trim.drag(at); break;
    case Gesture::Cage: m_cages.drag(projection(), at, surfaceUnder(at)); break;
    case Gesture::Guide: m_guides.drag(surfaceUnder(at)); break;
    case Gesture::Curve: m_curve.drag(restUnder(at)); break;
    case Gesture::Stencil: m_stencil.drag(projection(), at); break;
    case Gesture::Tape: m_tape.drag(projection(), at, placeUnder(at)); break;
    case Gesture::Stroke: {
        QElapsedTimer clock;
        clock.start();
        m_strokes.move(projection().rayAt(at), pressure, float(m_strokeClock.elapsed()), m_lean);
        m_strokeMs = double(clock.nsecsElapsed()) / 1e6;
        m_pen.push_back({at.x() / width(), at.y() / height(), double(pressure), double(m_strokeClock.elapsed())});
        break;
    }
    case Gesture::Adjust: adjust(at); break;
    case Gesture::Harvest: break; // the rectangle lies between where it began and m_last
    case Gesture::None:
        m_deform.hover(projectionAt(at), at);
        m_stencil.hover(projectionAt(at), at);
        m_trim.hover(at);
        if (showsForms()) {
            const bool cage = m_cages.hover(projectionAt(at), at), form = m_forms.hover(projectionAt(at), at);
            if (!cage && !form) {
                m_last = at;
                return; // nothing looks otherwise
            }
        }
        break;
    }
    m_last = at;
    if (m_gesture != Gesture::Orbit && m_gesture != Gesture::Slide)
        updateRing(at);
    update();
}

bool CreatureView::framesHarvest() const
{
    return m_gesture == Gesture::Harvest && QLineF(m_pressed, m_last).length() > 8;
}

/// Takes a stamp from the skin, its top towards the top of the view: what lies in the rectangle that was drawn, as it is seen from
/// here, or of the ring's size where there was a click.
void CreatureView::harvest()
{
    m_hand.endHarvest();
    const bool isFramed = QLineF(m_pressed, m_last).length() > 8;
    const auto hit = surfaceUnder(isFramed ? (m_pressed + m_last) / 2 : m_pressed);
    if (!hit) {
        emit m_session.failed(tr("There is no skin there, so no stamp was taken."));
        return;
    }
    const Vec3f up = pane().camera.up(), forward = pane().camera.forward(), p = hit->point;
    nlohmann::json command = {{"do", "stamp.harvest"},
                              {"piece", m_session.piece()},
                              {"at", {p.x, p.y, p.z}},
                              {"up", {up.x, up.y, up.z}},
                              {"size", m_hand.settings().size}};
    if (isFramed) {
        const Vec3f d = projection().onPlane(m_last, p) - projection().onPlane(m_pressed, p);
        command["size"] = std::max(0.5f * std::abs(dot(d, cross(forward, up))), 0.01f);
        command["height"] = std::max(0.5f * std::abs(dot(d, up)), 0.01f);
        command["normal"] = {-forward.x, -forward.y, -forward.z};
    }
    if (!m_session.run(command))
        return;
    const creature::Stamp &taken = m_session.creature().stamps.back();
    m_hand.change([&](sculpt::StrokeSettings &s) { s.stamp = taken.name, s.depth = taken.depth; });
}

void CreatureView::beginTrim(const TrimPlan &plan)
{
    m_trim.begin(plan);
    setFocus();
    updateHint();
    update();
}

void CreatureView::endTrim()
{
    const nlohmann::json command = m_trim.release(projection());
    updateHint();
    if (!command.is_null())
        m_session.runLong(command, this);
}

void CreatureView::releaseAt()
{
    const Gesture gesture = m_gesture;
    m_gesture = Gesture::None;
    if (gesture == Gesture::Stroke)
        m_strokes.end();
    else if (gesture == Gesture::Harvest)
        harvest();
    else if (gesture == Gesture::Trim)
        endTrim();
    else if (gesture == Gesture::Form) {
        m_framed = true; // who draws has chosen where to look from
        m_forms.release(projection());
    } else if (gesture == Gesture::Picture)
        m_references.release();
    else if (gesture == Gesture::Deform)
        m_deform.release();
    else if (gesture == Gesture::Guide)
        m_guides.release();
    else if (gesture == Gesture::Curve)
        m_curve.release();
    else if (gesture == Gesture::Stencil)
        m_stencil.release();
    else if (gesture == Gesture::Cage) {
        m_framed = true;
        m_cages.release();
    } else if (gesture == Gesture::Tape)
        m_tape.release(projection(), measured()), updateHint();
    else if ((gesture == Gesture::Orbit || gesture == Gesture::Slide) && !(pane().camera == m_gestureStart))
        rememberCamera();
    m_moving = true; // one light frame now, the full one when all is still
    m_settle.start();
    update();
    m_session.handIsFree();
}

void CreatureView::mousePressEvent(QMouseEvent *e)
{
    m_modifiers = e->modifiers();
    if (e->source() != Qt::MouseEventNotSynthesized || m_gesture != Gesture::None)
        return;
    m_lean = {};
    activatePane(int(paneAt(e->position())));
    if (e->button() == Qt::LeftButton) {
        if (const QString key = compassKeyAt(pane().camera, paneArea(activePane()), e->position()); !key.isEmpty())
            return lookFrom(key);
        if (m_adjustKey != HeldKey::None) {
            m_gesture = Gesture::Adjust;
            m_pressed = e->position();
            return;
        }
        return pressAt(e->position(), mousePressure(e->position()));
    }
    m_last = m_pressed = e->position();
    m_gestureStart = pane().camera;
    if (e->button() == Qt::RightButton)
        m_gesture = Gesture::Orbit;
    else if (e->button() == Qt::MiddleButton)
        m_gesture = Gesture::Slide;
}

void CreatureView::mouseMoveEvent(QMouseEvent *e)
{
    m_modifiers = e->modifiers();
    if (!m_penDown)
        m_lean = {};
    if (!m_penDown)
        moveAt(e->position(), mousePressure(e->position()));
}

void CreatureView::mouseReleaseEvent(QMouseEvent *e)
{
    const bool stillDown = e->buttons() != Qt::NoButton;
    if (!m_penDown && m_gesture != Gesture::None && !stillDown)
        releaseAt();
}

void CreatureView::tabletEvent(QTabletEvent *e)
{
    m_modifiers = e->modifiers();
    e->accept();
    const auto pressure = float(e->pressure());
    constexpr double kRadians = 3.14159265358979 / 180;
    m_lean = {};
    if (e->xTilt() != 0 || e->yTilt() != 0) { // to the right, and towards who holds it
        const portrait::Camera &c = m_panes[m_gesture == Gesture::None ? paneAt(e->position()) : m_active].camera;
        m_lean = normalized(c.right() * float(std::tan(e->xTilt() * kRadians)) - c.up() * float(std::tan(e->yTilt() * kRadians))
                            - c.forward());
    }
    if (e->type() == QEvent::TabletPress && e->button() == Qt::LeftButton) {
        activatePane(int(paneAt(e->position())));
        if (const QString key = compassKeyAt(pane().camera, paneArea(activePane()), e->position()); !key.isEmpty())
            return lookFrom(key);
        m_penDown = true;
        const HeldKeys byKeys = m_held;
        m_held.dig = m_held.dig != (e->pointerType() == QPointingDevice::PointerType::Eraser);
        holdBarrel(e->buttons(), m_held);
        pressAt(e->position(), pressure);
        m_held = byKeys;
    } else if (e->type() == QEvent::TabletMove) {
        moveAt(e->position(), pressure);
    } else if (e->type() == QEvent::TabletRelease && m_penDown) {
        m_penDown = false;
        releaseAt();
    }
}

void CreatureView::wheelEvent(QWheelEvent *e)
{
    if (m_gesture == Gesture::None)
        activatePane(int(paneAt(e->position())));
    const portrait::Camera before = pane().camera;
    const bool goesOn = m_wheelClock.isValid() && m_wheelClock.elapsed() < kOneTurnMs && m_wheelEnd == before;
    nearer(e->angleDelta().y() / 120.0, e->position());
    if (!goesOn) { // what follows at once is the same turn of the wheel
        m_gestureStart = before;
        rememberCamera();
    }
    m_wheelClock.restart();
    m_wheelEnd = pane().camera;
}

void CreatureView::adjust(QPointF at)
{
    const double by = at.x() - m_last.x();
    m_hand.change([&](sculpt::StrokeSettings &s) {
        if (m_adjustKey == HeldKey::Size)
            s.size = std::clamp(s.size * std::pow(1.008f, float(by)), kLeastToolSize, kMostToolSize);
        else if (m_adjustKey == HeldKey::Strength)
            s.strength = std::clamp(s.strength + float(by) * 0.004f, 0.0f, 1.0f);
        else if (m_adjustKey == HeldKey::Falloff) {
            const int count = int(sculpt::kFalloffNames.size());
            const int step = int((at.x() - m_pressed.x()) / 40) - int((m_last.x() - m_pressed.x()) / 40);
            s.falloff = sculpt::Falloff(((int(s.falloff) + step) % count + count) % count);
        }
    });
}

void CreatureView::holdBarrel(Qt::MouseButtons buttons, HeldKeys &held)
{
    const QSettings s;
    for (const auto &[button, key, first] :
         {std::tuple{Qt::RightButton, "pen/barrel1", "smooth"}, std::tuple{Qt::MiddleButton, "pen/barrel2", "mask"}}) {
        if (!(buttons & button))
            continue;
        const QString what = s.value(QLatin1String(key), QLatin1String(first)).toString();
        held.dig = held.dig != (what == QLatin1String("dig"));
        held.smooth = held.smooth || what == QLatin1String("smooth");
        held.mask = held.mask || what == QLatin1String("mask");
    }
}

bool CreatureView::hold(int key, bool isDown)
{
    const HeldKey held = m_keys.held(key);
    switch (held) {
    case HeldKey::None: return false;
    case HeldKey::Dig: m_held.dig = isDown; break;
    case HeldKey::Smooth: m_held.smooth = isDown; break;
    case HeldKey::Mask: m_held.mask = isDown; break;
    default:
        m_adjustKey = isDown ? held : HeldKey::None;
        if (isDown && m_gesture == Gesture::None && !showsForms())
            m_gesture = Gesture::Adjust, m_pressed = m_last; // a sideways move is enough, no press needed
        else if (!isDown && m_gesture == Gesture::Adjust)
            m_gesture = Gesture::None;
    }
    updateHint();
    update();
    return true;
}

void CreatureView::keyPressEvent(QKeyEvent *e)
{
    if (e->isAutoRepeat() || e->modifiers() & (Qt::ControlModifier | Qt::AltModifier))
        return QOpenGLWidget::keyPressEvent(e);
    if (controlKey(e->key()) || hold(e->key(), true))
        return;
    if (e->key() != Qt::Key_Escape)
        return QOpenGLWidget::keyPressEvent(e);
    m_curve.cancel();
    m_strokes.cancel();
    m_forms.cancel();
    m_references.cancel();
    m_tape.clear();
    m_trim.cancel();
    m_cages.cancel();
    m_guides.cancel();
    if (m_hand.harvests())
        m_hand.endHarvest();
    m_gesture = Gesture::None;
    updateHint();
    update();
    m_session.handIsFree();
}

/// Enter and Backspace while a curve is being set up.
bool CreatureView::controlKey(int key)
{
    if (!m_curve.hasPoints() || (key != Qt::Key_Return && key != Qt::Key_Enter && key != Qt::Key_Backspace))
        return false;
    key == Qt::Key_Backspace ? m_curve.takeBack() : m_curve.lay();
    updateHint();
    update();
    return true;
}

void CreatureView::keyReleaseEvent(QKeyEvent *e)
{
    if (!e->isAutoRepeat() && !hold(e->key(), false))
        QOpenGLWidget::keyReleaseEvent(e);
}

void CreatureView::focusOutEvent(QFocusEvent *e)
{
    m_held = {};
    m_adjustKey = HeldKey::None;
    if (m_gesture == Gesture::Adjust)
        m_gesture = Gesture::None;
    QOpenGLWidget::focusOutEvent(e);
}

/// Held keys count from the first stroke on: whoever comes here with the pen need not press once before. What is being typed
/// elsewhere stays there.
void CreatureView::enterEvent(QEnterEvent *)
{
    const QWidget *now = window()->focusWidget();
    if (!qobject_cast<const QLineEdit *>(now) && !qobject_cast<const QAbstractSpinBox *>(now))
        setFocus();
}

void CreatureView::leaveEvent(QEvent *e)
{
    if (m_gesture == Gesture::None) {
        m_ring.reset();
        m_touch.reset();
    }
    update();
    QOpenGLWidget::leaveEvent(e);
}

void CreatureView::contextMenuEvent(QContextMenuEvent *e)
{
    e->accept(); // the right button orbits
}

} // namespace bonemoss::app
