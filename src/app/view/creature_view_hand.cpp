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

ViewControl &CreatureView::control(const ControlRow &row)
{
    auto &made = m_controls[&row];
    if (!made)
        made = row.make({m_session, m_hand, this, [this](const ControlRow &other) -> ViewControl & { return control(other); }});
    return *made;
}

std::vector<ViewControl *> CreatureView::controls()
{
    std::vector<ViewControl *> out;
    for (const ControlRow *row : rowOf(m_session.bench()).controls)
        out.push_back(&control(*row));
    return out;
}

Pointer CreatureView::pointerAt(QPointF at, float pressure)
{
    Pointer p;
    p.view = m_gesture == Gesture::None ? projectionAt(at) : projection();
    p.at = at, p.pressed = m_pressed, p.viewKey = viewKey();
    p.pressure = pressure, p.timeMs = m_gesture == Gesture::Control ? float(m_strokeClock.elapsed()) : 0;
    p.held = m_held, p.modifiers = m_modifiers, p.lean = m_lean;
    p.skinAt = [this](QPointF there) { return surfaceUnder(there); };
    p.rest = [this, at] { return restUnder(at); };
    p.place = [this, at] { return placeUnder(at); };
    p.surfaces = [this] { return measured(); };
    return p;
}

CreatureView::Gesture CreatureView::gestureAt(QPointF at, float pressure)
{
    if (pane().kept)
        return Gesture::Orbit; // what is only looked at
    m_strokes.holdStencil(m_stencil.held(projection()));
    const Pointer pointer = pointerAt(at, pressure);
    for (ViewControl *c : controls()) {
        const ViewControl::Press press = c->press(pointer);
        if (press == ViewControl::Press::Camera)
            break;
        if (press == ViewControl::Press::NotMine)
            continue;
        m_inHand = c;
        m_strokeClock.start();
        if (c == &m_strokes)
            m_pen = {{at.x() / width(), at.y() / height(), double(pressure), 0}};
        updateHint();
        return Gesture::Control;
    }
    updateHint();
    return Gesture::Orbit;
}

void CreatureView::moveAt(QPointF at, float pressure)
{
    takeKeysFromWhereItCameIn(at);
    const QPointF by = at - m_last;
    switch (m_gesture) {
    case Gesture::Orbit: orbit(by); break;
    case Gesture::Slide: slide(by); break;
    case Gesture::Control: {
        QElapsedTimer clock;
        clock.start();
        m_inHand->drag(pointerAt(at, pressure));
        if (m_inHand == &m_strokes) {
            m_strokeMs = double(clock.nsecsElapsed()) / 1e6;
            m_pen.push_back({at.x() / width(), at.y() / height(), double(pressure), double(m_strokeClock.elapsed())});
        }
        break;
    }
    case Gesture::Adjust: adjust(at); break;
    case Gesture::None: {
        bool isOther = !showsForms(); // the ring goes along
        const Pointer pointer = pointerAt(at);
        for (ViewControl *c : controls())
            isOther = c->hover(pointer) || isOther;
        if (!isOther) {
            m_last = at;
            return; // nothing looks otherwise
        }
        break;
    }
    }
    m_last = at;
    if (m_gesture != Gesture::Orbit && m_gesture != Gesture::Slide)
        updateRing(at);
    update();
}

void CreatureView::beginTrim(const TrimPlan &plan)
{
    m_trim.begin(plan);
    setFocus();
    updateHint();
    update();
}

void CreatureView::releaseAt()
{
    const Gesture gesture = m_gesture;
    const Pointer pointer = pointerAt(m_last);
    m_gesture = Gesture::None;
    if (gesture == Gesture::Control) {
        ViewControl *c = std::exchange(m_inHand, nullptr);
        m_framed = m_framed || showsForms(); // who draws has chosen where to look from
        c->release(pointer);
        updateHint();
    } else if ((gesture == Gesture::Orbit || gesture == Gesture::Slide) && !(pane().camera == m_gestureStart)) {
        rememberCamera();
    }
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
        if (isDown && m_gesture == Gesture::None && rowOf(m_session.bench()).holdsTools)
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
    for (ViewControl *c : controls())
        if (c->key(e->key())) {
            updateHint();
            return update();
        }
    if (hold(e->key(), true))
        return;
    if (e->key() != Qt::Key_Escape)
        return QOpenGLWidget::keyPressEvent(e);
    // Only what is under way: a stencil stays before the stroke that is left.
    if (ViewControl *c = std::exchange(m_inHand, nullptr))
        c->cancel();
    else
        for (ViewControl *other : controls())
            other->cancel();
    m_gesture = Gesture::None;
    updateHint();
    update();
    m_session.handIsFree();
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

/// Where the pointer came in; the keys follow once it moves on. A dialog that closes over the view makes the pointer enter too,
/// and must not take the keys from what was chosen in it.
void CreatureView::enterEvent(QEnterEvent *e)
{
    m_cameInAt = e->position();
}

/// Held keys count from the first stroke on: whoever comes here with the pen need not press once before. What is being typed
/// elsewhere stays there.
void CreatureView::takeKeysFromWhereItCameIn(QPointF at)
{
    if (!m_cameInAt || (at - *m_cameInAt).manhattanLength() < 2)
        return;
    m_cameInAt.reset();
    const QWidget *now = window()->focusWidget();
    if (!qobject_cast<const QLineEdit *>(now) && !qobject_cast<const QAbstractSpinBox *>(now))
        setFocus();
}

void CreatureView::leaveEvent(QEvent *e)
{
    m_cameInAt.reset();
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
