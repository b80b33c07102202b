#include "app/view/creature_view.h"

#include "app/view/compass.h"

#include "portrait/silhouette.h"

#include <QCoreApplication>
#include <QMenu>
#include <QMouseEvent>
#include <QThreadPool>
#include <QWheelEvent>

#include <nlohmann/json.hpp>

#include <cmath>

namespace bonemoss::app {

namespace {
constexpr double kSlowFrameMs = 45; // above this the moving view draws its lighter version
constexpr std::size_t kLightTriangles = 70000;
constexpr int kSettleMs = 180;
constexpr int kShadowSide = 192;
} // namespace

CreatureView::CreatureView(Session &session, HandModel &hand, const KeyMap &keys, PictureShelf &shelf, QWidget *parent)
    : QOpenGLWidget(parent), m_session(session), m_hand(hand), m_keys(keys), m_strokes(session, hand), m_forms(session, hand),
      m_references(session), m_trim(session), m_deform(session, hand), m_cages(session, hand), m_guides(session, hand, this),
      m_shelf(shelf), m_alive(std::make_shared<std::atomic<bool>>(true))
{
    setObjectName(QStringLiteral("creatureView"));
    setAccessibleName(tr("View of the creature"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumSize(320, 240);
    QSurfaceFormat format;
    format.setVersion(3, 3);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    format.setSamples(4);
    setFormat(format);
    m_camera.turn = *portrait::viewTurn("three-quarter");
    m_camera.target = {0, 60, 0};
    m_settle.setSingleShot(true);
    m_settle.setInterval(kSettleMs);
    connect(&m_settle, &QTimer::timeout, this, &CreatureView::settle);
    connect(&session, &Session::creatureChanged, this, [this] {
        if (!m_framed && !m_session.creature().bounds().isEmpty())
            frameAll();
        update();
    });
    connect(&m_live, &LiveSkin::changed, this, [this] {
        update();
        emit balanceChanged();
    });
    connect(&shelf, &PictureShelf::arrived, this, qOverload<>(&QWidget::update));
    connect(&m_references, &ReferenceControl::linedUp, this, &CreatureView::frameAll);
    connect(&m_references, &ReferenceControl::changed, this, [this] {
        updateHint();
        update();
    });
    connect(&session, &Session::choiceChanged, this, qOverload<>(&QWidget::update));
    connect(&session, &Session::benchChanged, this, [this] {
        m_forms.cancel();
        updateHint();
        update();
    });
    connect(&session, &Session::fileChanged, this, [this] {
        if (m_session.history().steps().size() == 1 && m_session.history().at() == 0)
            m_framed = false; // another document: frame it when it has something to show
    });
    connect(&hand, &HandModel::toolChanged, this, [this] {
        updateHint();
        update();
    });
    connect(&hand, &HandModel::growingChanged, this, [this] {
        updateHint();
        update();
    });
    connect(&hand, &HandModel::settingsChanged, this, [this] {
        if (int(m_tape.kind()) != m_hand.tapeKind())
            m_tape.setKind(TapeKind(m_hand.tapeKind()));
        updateHint();
        update();
    });
    updateHint();
}

CreatureView::~CreatureView()
{
    *m_alive = false;
    makeCurrent();
    m_renderer.reset();
    doneCurrent();
}

bool CreatureView::showsForms() const
{
    return m_session.bench() == Bench::Armature;
}

void CreatureView::initializeGL()
{
    m_gl = std::make_unique<QOpenGLFunctions_3_3_Core>();
    if (!m_gl->initializeOpenGLFunctions()) {
        qWarning("OpenGL 3.3 is not available");
        m_gl.reset();
        return;
    }
    m_renderer = std::make_unique<Renderer>(*m_gl);
}

Scene CreatureView::scene()
{
    Scene s;
    const creature::Creature *deformed = m_deform.preview();
    s.creature = m_cages.preview() ? m_cages.preview() : deformed ? deformed : m_preview ? m_preview.get() : &m_forms.shown();
    s.showForms = showsForms();
    s.showPieces = !showsForms() || m_showSkin;
    s.look = m_look;
    s.layer = m_session.layer();
    s.chosenForms = m_session.forms();
    s.litForm = showsForms() ? m_forms.lit() : 0;
    s.chosenPiece = m_session.piece();
    if (const auto *live = m_strokes.live()) {
        s.chosenPiece = m_strokes.piece();
        s.strokeSurface = &live->surface();
        s.strokeMask = &live->mask();
        s.strokeSkin = live->skin();
        s.strokeDirty = m_strokes.takeDirty();
        s.strokeTouched = live->stroke().touched();
    }
    if (showsForms() && m_showLive && !s.showPieces) {
        m_live.want(s.creature->armature, m_forms.isActive());
        s.liveSkin = m_live.surface();
    }
    for (const creature::Reference &r : m_references.shown(viewKey()))
        if (const QImage *image = m_shelf.image(r.file))
            s.pictures.push_back({r.file.get(),
                                  image,
                                  {placeOf(r, {0, 0}), placeOf(r, {1, 0}), placeOf(r, {0, 1}), placeOf(r, {1, 1})},
                                  r.opacity,
                                  r.isOver});
    s.preferLight = (m_moving || m_strokes.isActive()) && m_fullFrameMs > kSlowFrameMs;
    return s;
}

void CreatureView::paintGL()
{
    if (!m_renderer)
        return;
    QElapsedTimer clock;
    clock.start();
    if (m_sizedAt > 0 && m_camera.distance != m_sizedAt)
        QMetaObject::invokeMethod(
            &m_hand, [this, by = m_camera.distance / m_sizedAt] { m_hand.viewScaled(by); }, Qt::QueuedConnection);
    m_sizedAt = m_camera.distance;
    const Scene s = scene();
    if (m_shadowOf != m_session.share() && !m_strokes.isActive())
        updateShadow();
    m_renderer->update(s);
    m_renderer->draw(s, m_camera, float(width()) / float(std::max(1, height())));
    m_gl->glFinish(); // so that the time says what the frame cost
    m_lastFrameMs = double(clock.nsecsElapsed()) / 1e6;
    m_drewLight = s.preferLight;
    if (!s.preferLight)
        m_fullFrameMs = m_lastFrameMs;
    orderLight();
    paintOverlay();
    emit creatureDrawn();
}

/// Lighter versions are worked out beside the window and taken in when they are ready.
void CreatureView::orderLight()
{
    for (const std::uint32_t id : m_renderer->needLight(kLightTriangles * 2)) {
        if (std::find(m_lightOrdered.begin(), m_lightOrdered.end(), id) != m_lightOrdered.end() || m_strokes.isActive())
            continue;
        m_lightOrdered.push_back(id);
        const auto creature = m_session.share();
        QThreadPool::globalInstance()->start([this, alive = m_alive, creature, id] {
            const creature::Piece *p = creature->piece(id);
            auto light = p ? makeLightIndices(p->skin.shown, kLightTriangles) : nullptr;
            if (!*alive)
                return;
            QMetaObject::invokeMethod(QCoreApplication::instance(), [this, alive, id, light] {
                if (!*alive)
                    return;
                std::erase(m_lightOrdered, id);
                makeCurrent();
                if (m_renderer && light)
                    m_renderer->setLight(id, light);
                doneCurrent();
            });
        });
    }
}

void CreatureView::updateShadow()
{
    m_shadowOf = m_session.share();
    const creature::ShownShapes shapes = creature::shownShapes(*m_shadowOf);
    Box3f box;
    for (const auto *s : shapes.surfaces)
        box.add(s->box());
    if (box.isEmpty())
        return m_renderer->setContactShadow({0}, 1, {{-100, 0, -100}, {100, 1, 100}});
    const float half = std::max(box.size().x, box.size().z) * 0.62f;
    const Vec3f c = box.centre();
    const Box3f area{{c.x - half, box.lo.y, c.z - half}, {c.x + half, box.hi.y, c.z + half}};
    m_renderer->setContactShadow(portrait::contactShadow(shapes.surfaces, area, kShadowSide), kShadowSide, area);
}

// --- what is shown ------------------------------------------------------------------------------

void CreatureView::setLook(Look look)
{
    m_look = look;
    update();
}

void CreatureView::setShowSkin(bool on)
{
    m_showSkin = on;
    update();
}

void CreatureView::setPreview(std::shared_ptr<const creature::Piece> piece)
{
    m_preview.reset();
    if (piece) {
        auto shown = std::make_shared<creature::Creature>(m_session.creature());
        shown->put(std::move(piece));
        m_preview = std::move(shown);
        m_moving = true;
        m_settle.start();
    }
    update();
}

void CreatureView::showTriedOut(std::shared_ptr<const creature::Creature> creature)
{
    m_preview = std::move(creature);
    update();
}

void CreatureView::setShowLiveSkin(bool on)
{
    m_showLive = on;
    update();
    emit balanceChanged();
}

void CreatureView::setShowTimes(bool on)
{
    m_showTimes = on;
    update();
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
    const mesh::Ray ray = projection().rayAt(at);
    if (m_trim.isOn()) {
        m_trim.press(at);
        m_gesture = Gesture::Trim;
    } else if (m_deform.press(projection(), at)) {
        m_gesture = Gesture::Deform;
    } else if (m_references.press(projection(), at, viewKey())) {
        m_gesture = Gesture::Picture;
    } else if (showsForms() && pressCage(at)) {
        m_gesture = Gesture::Cage;
    } else if (showsForms() && m_hand.formTile() == FormTile::Tape) {
        m_tape.press(projection(), at, placeUnder(at));
        m_gesture = Gesture::Tape;
    } else if (showsForms()) {
        m_gesture = m_forms.press(projection(), at, m_modifiers) ? Gesture::Form : Gesture::Orbit;
    } else if (m_hand.harvests()) {
        harvestAt(at);
        m_gesture = Gesture::Orbit;
    } else if (m_guides.isOn() && m_held.isNone()) {
        m_gesture = m_guides.press(projection(), at, surfaceUnder(at)) ? Gesture::Guide : Gesture::Orbit;
    } else if (m_strokes.begin(ray, pressure, m_held, m_modifiers & Qt::ShiftModifier)) {
        m_gesture = Gesture::Stroke;
        m_strokeClock.start();
        m_pen = {{at.x() / width(), at.y() / height(), double(pressure), 0}};
    } else {
        m_gesture = Gesture::Orbit;
    }
    m_gestureStart = m_camera;
    update();
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
    case Gesture::Tape: m_tape.drag(projection(), at, placeUnder(at)); break;
    case Gesture::Stroke: {
        QElapsedTimer clock;
        clock.start();
        m_strokes.move(projection().rayAt(at), pressure, float(m_strokeClock.elapsed()));
        m_strokeMs = double(clock.nsecsElapsed()) / 1e6;
        m_pen.push_back({at.x() / width(), at.y() / height(), double(pressure), double(m_strokeClock.elapsed())});
        break;
    }
    case Gesture::Adjust: adjust(at); break;
    case Gesture::None:
        if (showsForms()) {
            const bool cage = m_cages.hover(projection(), at), form = m_forms.hover(projection(), at);
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

/// Takes a stamp of the ring's size from the skin, its top towards the top of the view.
void CreatureView::harvestAt(QPointF at)
{
    m_hand.endHarvest();
    const auto hit = surfaceUnder(at);
    if (!hit) {
        emit m_session.failed(tr("There is no skin there, so no stamp was taken."));
        return;
    }
    const Vec3f up = m_camera.up(), p = hit->point;
    if (!m_session.run({{"do", "stamp.harvest"},
                        {"piece", m_session.piece()},
                        {"at", {p.x, p.y, p.z}},
                        {"up", {up.x, up.y, up.z}},
                        {"size", m_hand.settings().size}}))
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
    else if (gesture == Gesture::Cage) {
        m_framed = true;
        m_cages.release();
    } else if (gesture == Gesture::Tape)
        m_tape.release(projection(), measured()), updateHint();
    else if ((gesture == Gesture::Orbit || gesture == Gesture::Slide) && !(m_camera == m_gestureStart))
        rememberCamera();
    m_moving = true; // one light frame now, the full one when all is still
    m_settle.start();
    update();
}

void CreatureView::mousePressEvent(QMouseEvent *e)
{
    m_modifiers = e->modifiers();
    if (e->source() != Qt::MouseEventNotSynthesized || m_gesture != Gesture::None)
        return;
    if (e->button() == Qt::LeftButton) {
        if (const QString key = compassKeyAt(m_camera, size(), e->position()); !key.isEmpty())
            return lookFrom(key);
        if (m_adjustKey != HeldKey::None) {
            m_gesture = Gesture::Adjust;
            m_pressed = e->position();
            return;
        }
        return pressAt(e->position(), mousePressure(e->position()));
    }
    m_last = m_pressed = e->position();
    m_gestureStart = m_camera;
    if (e->button() == Qt::RightButton)
        m_gesture = Gesture::Orbit;
    else if (e->button() == Qt::MiddleButton)
        m_gesture = Gesture::Slide;
}

void CreatureView::mouseMoveEvent(QMouseEvent *e)
{
    m_modifiers = e->modifiers();
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
    if (e->type() == QEvent::TabletPress && e->button() == Qt::LeftButton) {
        m_penDown = true;
        pressAt(e->position(), pressure);
    } else if (e->type() == QEvent::TabletMove) {
        moveAt(e->position(), pressure);
    } else if (e->type() == QEvent::TabletRelease && m_penDown) {
        m_penDown = false;
        releaseAt();
    }
}

void CreatureView::wheelEvent(QWheelEvent *e)
{
    m_gestureStart = m_camera;
    nearer(e->angleDelta().y() / 120.0, e->position());
    rememberCamera();
}

void CreatureView::adjust(QPointF at)
{
    const double by = at.x() - m_last.x();
    m_hand.change([&](sculpt::StrokeSettings &s) {
        if (m_adjustKey == HeldKey::Size)
            s.size = std::clamp(s.size * std::pow(1.008f, float(by)), 0.05f, 500.0f);
        else if (m_adjustKey == HeldKey::Strength)
            s.strength = std::clamp(s.strength + float(by) * 0.004f, 0.0f, 1.0f);
        else if (m_adjustKey == HeldKey::Falloff) {
            const int count = int(sculpt::kFalloffNames.size());
            const int step = int((at.x() - m_pressed.x()) / 40) - int((m_last.x() - m_pressed.x()) / 40);
            s.falloff = sculpt::Falloff(((int(s.falloff) + step) % count + count) % count);
        }
    });
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
    if (hold(e->key(), true))
        return;
    if (e->key() != Qt::Key_Escape)
        return QOpenGLWidget::keyPressEvent(e);
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

void CreatureView::leaveEvent(QEvent *e)
{
    if (m_gesture == Gesture::None)
        m_ring.reset();
    update();
    QOpenGLWidget::leaveEvent(e);
}

void CreatureView::contextMenuEvent(QContextMenuEvent *e)
{
    e->accept(); // the right button orbits
}

void CreatureView::updateRing(QPointF at)
{
    m_ring.reset();
    const creature::Piece *p = m_session.creature().piece(m_session.piece());
    if (showsForms() || !p || p->isHidden)
        return;
    const auto *live = m_strokes.live();
    m_ring = mesh::castRay(live ? live->surface() : p->skin.shown, projection().rayAt(at));
}

void CreatureView::updateHint()
{
    QString hint = m_references.hint();
    if (hint.isEmpty())
        hint = m_trim.hint();
    if (!hint.isEmpty()) {
        // lining up and cutting come first
    } else if (showsForms() && m_hand.formTile() == FormTile::Tape) {
        hint = m_tape.hint();
    } else if (showsForms()) {
        hint = tr("Armature · %1").arg(formTileHint(m_hand.formTile()));
    } else if (m_hand.harvests()) {
        hint = tr("Detail · a press takes the relief under the ring as a stamp, as it is seen from here; Escape leaves it");
    } else if (m_guides.isOn() && m_held.isNone()) {
        hint = m_guides.hint();
    } else {
        const sculpt::StrokeSettings s = m_strokes.settingsFor(m_held);
        const QString bench = m_session.bench() == Bench::Detail ? tr("Detail") : tr("Sculpt");
        hint = bench + QStringLiteral(" · ") + toolHint(s.tool);
        if (s.isReversed && s.tool != sculpt::Tool::Tendril)
            hint += s.tool == sculpt::Tool::Mask ? tr(" · taking away")
                    : changesFaces(s.tool)       ? tr(" · the other way")
                                                 : tr(" · digging");
        if (changesFaces(s.tool))
            hint += (s.tool == sculpt::Tool::Tendril ? tr(" · edges of at most %1 mm") : tr(" · edges of %1 mm"))
                        .arg(double(s.edgeMm()), 0, 'f', 2);
    }
    if (hint != m_hint)
        emit hintChanged(m_hint = hint);
}

} // namespace bonemoss::app
