#include "skin/colour_layers.h"
#include "document/ops/pieces.h"
#include "app/view/creature_view.h"

#include "app/benches/bench.h"
#include "app/hand/pose_hand.h"
#include "app/hand/portrait_hand.h"
#include "app/hand/proof_hand.h"
#include "command/params.h"
#include "document/items.h"
#include "export/shown_scene.h"
#include "portrait/silhouette.h"

#include <QCoreApplication>
#include <QThreadPool>

#include <cmath>

namespace bonemoss::app {

namespace {
constexpr double kSlowFrameMs = 45;    // above this the moving view draws its lighter version
constexpr double kStillFrameMs = 3000; // and above this the still one a version that can be drawn in that time
constexpr std::size_t kLightTriangles = 70000;
constexpr int kSettleMs = 180;
constexpr int kShadowSide = 192;
} // namespace

CreatureView::CreatureView(Session &session, HandModel &hand, const KeyMap &keys, PictureShelf &shelf, QWidget *parent)
    : QOpenGLWidget(parent), m_session(session), m_hand(hand), m_keys(keys), m_strokes(the<StrokeControl>(kStrokeControl)),
      m_forms(the<FormControl>(kFormControl)), m_references(the<ReferenceControl>(kReferenceControl)),
      m_tape(the<TapeControl>(kTapeControl)), m_trim(the<TrimControl>(kTrimControl)), m_guides(the<GuideControl>(kGuideControl)),
      m_curve(the<CurveControl>(kCurveControl)), m_stencil(the<StencilControl>(kStencilControl)),
      m_harvest(the<HarvestControl>(kHarvestControl)), m_shelf(shelf), m_stage(newStage()),
      m_alive(std::make_shared<std::atomic<bool>>(true))
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
    setFormat(format);
    pane().camera.rotation = *portrait::viewRotation("three-quarter");
    pane().camera.target = {0, 60, 0};
    pane().wasUsed = true;
    connect(&m_maps, &MapKeeper::changed, this, qOverload<>(&QWidget::update));
    m_settle.setSingleShot(true);
    m_settle.setInterval(kSettleMs);
    connect(&m_settle, &QTimer::timeout, this, &CreatureView::settle);
    connect(&m_live, &LiveSkin::changed, this, [this] {
        update();
        emit balanceChanged();
    });
    connect(&shelf, &PictureShelf::arrived, this, qOverload<>(&QWidget::update));
    QTimer::singleShot(2000, this, [this] {
        if (isVisible() && !isValid())
            m_session.complain(tr("The graphics driver gives no OpenGL context, so nothing can be shown. Nothing is lost: save, "
                                  "update the driver, or start with LIBGL_ALWAYS_SOFTWARE=1."));
    });
    followSession();
    followHand();
    m_portraitRest.setSingleShot(true);
    m_portraitRest.setInterval(150);
    connect(&m_portraitRest, &QTimer::timeout, this, &CreatureView::followPortrait);
    connect(&m_portrait, &PortraitView::changed, this, qOverload<>(&QWidget::update));
    connect(&m_portrait, &PortraitView::failed, &m_session, &Session::complain);
    PortraitHand &lights = m_hand.of<PortraitHand>();
    connect(&lights, &PortraitHand::tried, this, &CreatureView::followPortrait);
    connect(&lights, &PortraitHand::shotChanged, this, &CreatureView::followLens);
    connect(&lights, &PortraitHand::cameraWanted, this, [this](const Quat &rotation) {
        portrait::Camera c = pane().camera;
        c.rotation = rotation;
        setCamera(c);
    });
    connect(&lights, &PortraitHand::busyChanged, this, [this](bool isBusy) {
        if (isBusy)
            return m_portrait.hold();
        m_portrait.stop();
        followPortrait();
    });
    connect(&m_hand.of<ProofHand>(), &ProofHand::flyWanted, this, &CreatureView::flyTo);
    connect(&lights, &PortraitHand::markChosen, this, [this] { update(); });
    connect(&lights, &PortraitHand::mixChanged, this, [this] {
        m_portrait.setMix(m_hand.of<PortraitHand>().mix());
        update();
    });
    connect(&m_session, &Session::creatureChanged, this, [this] { m_portraitRest.start(); });
    connect(&m_session, &Session::benchChanged, this, [this] {
        if (rowOf(m_session.bench()).portrays)
            m_hand.of<PortraitHand>().takeLens(pane().camera, projection().aspect());
        followPortrait();
    });
    updateHint();
}

void CreatureView::followSession()
{
    const auto again = [this] {
        updateHint();
        update();
    };
    connect(&m_session, &Session::creatureChanged, this, [this] {
        m_curve.cancel(); // it was over another skin
        if (!m_framed && !m_session.creature().bounds().isEmpty())
            frameAll();
        updateHint();
        update();
    });
    m_session.watchHand({[this] { // what only moves the camera, or sets the hand, changes nothing of the creature
                             return m_gesture == Gesture::Control;
                         },
                         [this] { releaseAt(); }});
    connect(&m_session, &Session::lookChanged, this, qOverload<>(&QWidget::update));
    connect(&m_references, &ReferenceControl::linedUp, this, &CreatureView::frameAll);
    connect(&m_references, &ReferenceControl::changed, this, again);
    connect(&m_session, &Session::choiceChanged, this, again);
    connect(&m_session, &Session::benchChanged, this, [this] {
        m_forms.cancel();
        updateHint();
        update();
    });
    connect(&m_session, &Session::fileChanged, this, [this] {
        if (m_session.history().steps().size() == 1 && m_session.history().at() == 0)
            m_framed = false; // another document: frame it when it has something to show
    });
}

void CreatureView::followHand()
{
    const auto again = [this] {
        updateHint();
        update();
    };
    connect(&m_hand, &HandModel::stencilAsked, this, &CreatureView::useStencil);
    connect(&m_hand, &HandModel::curveAsked, this, [this, again](bool lays) {
        lays ? m_curve.lay() : m_curve.cancel();
        again();
    });
    connect(&m_hand, &HandModel::toolChanged, this, [this, again] {
        m_curve.isOn() ? m_curve.again() : m_curve.cancel();
        again();
    });
    connect(&m_hand.detail(), &DetailHand::changed, this, again);
    connect(&m_hand, &HandModel::settingsChanged, this, [this, again] {
        if (int(m_tape.kind()) != m_hand.armature().tapeKind())
            m_tape.setKind(TapeKind(m_hand.armature().tapeKind()));
        m_curve.isOn() ? m_curve.again() : m_curve.cancel();
        again();
    });
}

CreatureView::~CreatureView()
{
    *m_alive = false;
    m_session.watchHand({});
    makeCurrent();
    m_stage->renderer.reset();
    m_plates.reset();
    m_drawTimer.reset();
    m_canvas.reset();
    for (Pane &p : m_panes)
        p.keptStage.reset();
    doneCurrent();
}

bool CreatureView::showsForms() const
{
    return rowOf(m_session.bench()).showsForms;
}

void CreatureView::initializeGL()
{
    m_gl = std::make_unique<QOpenGLFunctions_3_3_Core>();
    m_stage->renderer.reset(); // of a context that was lost
    m_plates.reset();
    m_drawTimer.reset();
    for (Pane &p : m_panes)
        p.keptStage.reset();
    m_stage->shadowOf.reset();
    if (!m_gl->initializeOpenGLFunctions()) {
        m_gl.reset();
        const QSurfaceFormat has = context()->format();
        m_session.complain(
            tr("The graphics driver offers OpenGL %1.%2, and 3.3 is needed to show anything. Nothing is lost: save, "
               "update the driver, or start with LIBGL_ALWAYS_SOFTWARE=1.")
                .arg(has.majorVersion())
                .arg(has.minorVersion()));
        return;
    }
    m_stage->renderer = std::make_unique<Renderer>(*m_gl);
    m_plates = std::make_unique<Plates>(*m_gl);
    m_drawTimer = std::make_unique<DrawTimer>(*m_gl);
    m_canvas.reset();
    // Until it is measured: what a processor draws in software, or what the weakest card does.
    const QByteArray by(reinterpret_cast<const char *>(m_gl->glGetString(GL_RENDERER)));
    if (by.contains("llvmpipe") || by.contains("softpipe") || by.contains("swrast"))
        m_msPerTriangle = 4e-4;
}

Scene CreatureView::scene(std::size_t index)
{
    Scene s;
    m_standing = m_session.standing(); // kept while it is drawn
    s.creature = m_preview ? m_preview.get() : m_standing.get();
    for (ViewControl *c : controls())
        if (const document::Creature *tried = c->tried()) {
            s.creature = tried;
            break;
        }
    s.showForms = showsForms();
    s.showPieces = !showsForms() || m_showSkin;
    const Pane &pane = m_panes[index];
    s.look = pane.look;
    s.mapValues = [this, look = pane.look](std::uint32_t piece) {
        return m_maps.values(m_session.share(), piece, look, m_strokes.isActive());
    };
    s.layer = m_session.layer(), s.colourLayer = m_session.colourLayer();
    s.bone = m_hand.of<PoseHand>().bone();
    if (rowOf(m_session.bench()).poses && !m_hand.of<PoseHand>().holdsBrush()
        && m_hand.of<PoseHand>().tool() == PoseTool::Weights)
        s.look = Look::BoneWeight;
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
    if (s.showPieces)
        s.late = m_strokes.takeLate();
    if (showsForms() && m_showLive && !s.showPieces) {
        m_live.want(s.creature->armature, m_forms.isActive());
        s.liveSkin = m_live.surface();
    }
    for (const document::Reference &r : m_references.shown(viewKeyOf(pane.camera)))
        if (const QImage *image = m_shelf.image(r.file))
            s.pictures.push_back({r.file.get(),
                                  image,
                                  {placeOf(r, {0, 0}), placeOf(r, {1, 0}), placeOf(r, {0, 1}), placeOf(r, {1, 1})},
                                  r.opacity,
                                  r.isOver});
    if (m_touch && m_touchOf == m_session.share() && m_gesture == Gesture::None && !m_preview)
        s.touch = &*m_touch;
    s.fineness = finenessNow();
    s.mostTriangles = std::size_t(3 * kStillFrameMs / m_msPerTriangle);
    return s;
}

/// By what all triangles would cost, in all views, at the speed that was measured.
Fineness CreatureView::finenessNow() const
{
    const double all = double(m_stage->renderer->fullTriangles()) * double(m_paneCount) * m_msPerTriangle;
    if ((m_moving || m_strokes.isActive()) && all > kSlowFrameMs)
        return Fineness::Moving;
    return all > kStillFrameMs ? Fineness::Still : Fineness::Full;
}

/// What an earlier state or another creature shows.
Scene CreatureView::keptScene(const Pane &pane) const
{
    Scene s;
    s.creature = pane.kept.get();
    s.showForms = pane.kept->pieces.empty();
    s.look = rowOf(pane.look).numbers == LookRow::Numbers::BesideTheWindow ? Look::Clay : pane.look;
    s.fineness = finenessNow();
    s.mostTriangles = std::size_t(3 * kStillFrameMs / m_msPerTriangle);
    return s;
}

void CreatureView::drawPane(std::size_t index)
{
    Pane &pane = m_panes[index];
    const QRectF area = paneArea(int(index));
    const double dpr = devicePixelRatioF();
    const int x = int(std::lround(area.left() * dpr)), y = int(std::lround((height() - area.bottom()) * dpr));
    const int w = int(std::lround(area.width() * dpr)), h = int(std::lround(area.height() * dpr));
    m_gl->glViewport(x, y, w, h);
    m_gl->glScissor(x, y, w, h);
    if (index == m_active && showsPicture()) // it covers all
        return;
    if (pane.kept && !pane.keptStage) {
        pane.keptStage = newStage();
        pane.keptStage->renderer = std::make_unique<Renderer>(*m_gl);
    }
    const std::shared_ptr<Stage> &stage = pane.kept ? pane.keptStage : m_stage;
    const auto shown = pane.kept ? pane.kept : m_session.standing();
    if (stage->shadowOf != shown && (pane.kept || !m_strokes.isActive()))
        orderShadow(*stage, shown);
    if (stage->newShadow) {
        stage->renderer->setContactShadow(stage->newShadow->values, stage->newShadow->side, stage->newShadow->area);
        stage->newShadow.reset();
    }
    const Scene s = pane.kept ? keptScene(pane) : scene(index);
    stage->renderer->update(s);
    QElapsedTimer clock;
    clock.start();
    stage->renderer->draw(s, pane.camera, projectionOf(index).aspect());
    m_drawMs += double(clock.nsecsElapsed()) / 1e6;
    m_drewLight = s.fineness == Fineness::Moving;
    m_leftOut = m_leftOut || stage->renderer->leftOut();
    m_drawnTriangles += stage->renderer->trianglesDrawn();
    orderLight(stage, shown);
}

/// Whether anything is there whose edges show. Making and averaging samples costs a start a fifth of its time.
bool CreatureView::hasEdges() const
{
    const document::Creature &c = m_forms.shown();
    return m_hasSmoothEdges && (m_canvas || m_gesture != Gesture::None || m_preview || m_paneCount > 1 || document::hasItems(c));
}

/// Draws what follows with several samples a pixel.
void CreatureView::beginCanvas()
{
    const QSize pixels = size() * devicePixelRatioF();
    if (!m_canvas || m_canvas->size() != pixels) {
        QOpenGLFramebufferObjectFormat format;
        format.setSamples(4);
        format.setAttachment(QOpenGLFramebufferObject::CombinedDepthStencil);
        m_canvas = std::make_unique<QOpenGLFramebufferObject>(pixels, format);
    }
    m_canvas->bind();
}

void CreatureView::endCanvas()
{
    const GLint w = m_canvas->width(), h = m_canvas->height();
    m_gl->glBindFramebuffer(GL_READ_FRAMEBUFFER, m_canvas->handle());
    m_gl->glBindFramebuffer(GL_DRAW_FRAMEBUFFER, defaultFramebufferObject());
    m_gl->glBlitFramebuffer(0, 0, w, h, 0, 0, w, h, GL_COLOR_BUFFER_BIT, GL_NEAREST);
    m_gl->glBindFramebuffer(GL_FRAMEBUFFER, defaultFramebufferObject());
}

void CreatureView::paintGL()
{
    if (!m_stage->renderer)
        return;
    const bool isSmooth = hasEdges();
    if (isSmooth)
        beginCanvas();
    QElapsedTimer clock;
    clock.start();
    const float perPoint = projection().mmPerPoint(pane().camera.target);
    if (m_sizedAt > 0 && perPoint != m_sizedAt)
        QMetaObject::invokeMethod(
            &m_hand, [this, by = perPoint / m_sizedAt] { m_hand.viewScaled(by); }, Qt::QueuedConnection);
    m_sizedAt = perPoint;
    std::vector<Look> looks;
    m_leftOut = false;
    m_drawnTriangles = 0;
    m_drawMs = 0;
    if (m_paneCount > 1)
        m_gl->glEnable(GL_SCISSOR_TEST);
    m_drawTimer->begin();
    for (std::size_t k = 0; k < m_paneCount; ++k) {
        drawPane(k);
        looks.push_back(m_panes[k].look);
    }
    m_gl->glDisable(GL_SCISSOR_TEST);
    m_gl->glViewport(0, 0, int(width() * devicePixelRatioF()), int(height() * devicePixelRatioF()));
    looks.push_back(Look::Clay); // colour and finish
    m_stage->renderer->dropTints(looks);
    m_drawTimer->end(m_drawnTriangles, m_drawMs);
    const double callsMs = double(clock.nsecsElapsed()) / 1e6;
    // What a triangle costs; where there are few, other things tell as well, and it costs at most that.
    while (const auto frame = m_drawTimer->take()) {
        m_lastFrameMs = std::max(callsMs, frame->ms);
        const double each = frame->ms / double(std::max<std::size_t>(1, frame->triangles));
        m_msPerTriangle = frame->triangles > 500'000 ? (m_msPerTriangle + each) / 2 : std::min(m_msPerTriangle, each);
    }
    paintOverlay();
    if (isSmooth)
        endCanvas();
}

/// Lighter versions are worked out beside the window and taken in when they are ready: where there are too many faces for a
/// still picture one for that first, from which the one for moving is then quickly made.
void CreatureView::orderLight(const std::shared_ptr<Stage> &stage, const std::shared_ptr<const document::Creature> &creature)
{
    if (m_strokes.isActive())
        return;
    const auto most = std::size_t(kStillFrameMs / m_msPerTriangle / double(m_paneCount));
    const std::size_t still = std::clamp<std::size_t>(most, 300'000, 8'000'000);
    std::vector<std::uint32_t> wanted = stage->renderer->needLight(Fineness::Moving, kLightTriangles * 2);
    if (finenessNow() == Fineness::Still) // it may have been quick enough without when the other was made
        for (const std::uint32_t id : stage->renderer->needLight(Fineness::Still, still * 2))
            if (std::find(wanted.begin(), wanted.end(), id) == wanted.end())
                wanted.push_back(id);
    for (const std::uint32_t id : wanted) {
        if (std::find(stage->lightOrdered.begin(), stage->lightOrdered.end(), id) != stage->lightOrdered.end())
            continue;
        stage->lightOrdered.push_back(id);
        QThreadPool::globalInstance()->start([this, alive = m_alive, to = std::weak_ptr(stage), creature, id, still] {
            const document::Piece *p = creature->piece(id);
            if (!p)
                return;
            using Light = std::shared_ptr<const LightIndices>;
            Light fine;
            if (p->skin.shown.topology->faceCount() > still) // twice as many triangles
                fine = workedOut<Light>(nullptr, [&] { return makeLightIndices(p->skin.shown, still); });
            const auto coarse =
                workedOut<Light>(nullptr, [&] { return makeLightIndices(p->skin.shown, kLightTriangles, fine.get()); });
            if (!*alive)
                return;
            QMetaObject::invokeMethod(QCoreApplication::instance(), [this, alive, to, id, fine, coarse] {
                const auto stillThere = to.lock();
                if (!*alive || !stillThere)
                    return;
                std::erase(stillThere->lightOrdered, id);
                makeCurrent();
                if (stillThere->renderer) {
                    if (fine)
                        stillThere->renderer->setLight(id, Fineness::Still, *fine);
                    if (coarse)
                        stillThere->renderer->setLight(id, Fineness::Moving, *coarse);
                }
                doneCurrent();
                if (fine || m_leftOut)
                    update();
            });
        });
    }
}

std::shared_ptr<Stage> CreatureView::newStage()
{
    return std::make_shared<Stage>([this] { update(); });
}

void CreatureView::orderShadow(Stage &stage, const std::shared_ptr<const document::Creature> &creature)
{
    stage.shadowOf = creature;
    stage.shadow.ask(
        [creature](const std::stop_token &) -> ContactShadow {
            const io::Scene scene = exporting::shownScene(*creature);
            const Box3f box = scene.box();
            if (box.isEmpty())
                return {{0}, 1, {{-100, 0, -100}, {100, 1, 100}}};
            const float half = std::max(box.size().x, box.size().z) * 0.62f;
            const Vec3f c = box.centre();
            const Box3f area{{c.x - half, box.lo.y, c.z - half}, {c.x + half, box.hi.y, c.z + half}};
            return {portrait::contactShadow(scene, area, kShadowSide), kShadowSide, area};
        },
        kFramePatience);
}

// --- what is shown ------------------------------------------------------------------------------

void CreatureView::setLook(Look look)
{
    pane().look = look;
    if (rowOf(look).dependsOnCamera && !m_hasChosenCamera)
        chooseCamera(); // none yet: this one
    emit paneChanged();
    update();
}

void CreatureView::setShowSkin(bool on)
{
    m_showSkin = on;
    update();
}

void CreatureView::setPreview(std::shared_ptr<const document::Piece> piece)
{
    m_preview.reset();
    if (piece) {
        auto shown = std::make_shared<document::Creature>(m_session.creature());
        shown->put(std::move(piece));
        m_preview = std::move(shown);
        m_moving = true;
        m_settle.start();
    }
    update();
}

void CreatureView::showTriedOut(std::shared_ptr<const document::Creature> creature)
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

void CreatureView::setSmoothEdges(bool on)
{
    m_hasSmoothEdges = on;
    update();
}

void CreatureView::setShowTimes(bool on)
{
    m_showTimes = on;
    update();
}

void CreatureView::updateRing(QPointF at)
{
    m_ring.reset();
    const auto standing = m_session.standing();
    const document::Piece *p = standing->piece(m_session.piece());
    const bool isKept = m_panes[m_gesture == Gesture::None ? paneAt(at) : m_active].kept != nullptr;
    const bool hasBrush = m_hand.strokes() || !m_held.isNone();
    if (!showsForms() && p && !p->isHidden && !isKept && hasBrush) {
        const auto *live = m_strokes.live();
        m_ring = mesh::castRay(live ? live->surface() : p->skin.shown, projectionAt(at).rayAt(at));
    }
    updateTouch();
}

/// What a stroke from here would touch, while the pen hovers.
void CreatureView::updateTouch()
{
    m_touch.reset();
    const auto standing = m_session.standing();
    const document::Piece *p = standing->piece(m_session.piece());
    const bool isBrush = !m_guides.isOn() && !m_hand.detail().harvests() && !m_trim.isOn();
    if (!m_hand.tintsTouch() || !m_ring || !p || m_gesture != Gesture::None || !isBrush)
        return;
    sculpt::StrokeSettings s = m_strokes.settingsFor(m_held);
    s.symmetry = p->symmetry;
    s.stencil = m_stencil.held(projection());
    m_touch = sculpt::touchOf(p->skin.shown, p->skin.mask, s, *m_ring);
    m_touchOf = m_session.share();
}

/// The body or the layer that strokes of a tool change; empty where there is no choice.
QString CreatureView::strokesGoTo(sculpt::Tool tool) const
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (piece && paints(tool)) {
        const skin::ColourLayer *layer = skin::colourLayer(piece->skin, m_session.colourLayer());
        return layer ? tr("on %1").arg(QString::fromStdString(layer->name)) : tr("on a new colour layer");
    }
    if (!piece || piece->skin.layers.empty() || marks(tool) || changesFaces(tool))
        return {};
    const skin::Layer *layer = piece->skin.layer(m_session.layer());
    if (!layer)
        return tr("on the body itself");
    return (document::needsHandLayer(piece->skin, layer->id, tool) ? tr("by hand over %1") : tr("on %1"))
        .arg(QString::fromStdString(layer->name));
}

void CreatureView::updateHint()
{
    QString hint;
    for (const ViewControl *c : controls())
        if (hint.isEmpty())
            hint = c->hintFor(m_held);
    if (!hint.isEmpty()) {
        // what a control has in mind comes first
    } else if (showsForms()) {
        hint = tr("%1 · %2").arg(benchTitle(rowOf(m_session.bench())), formTileHint(m_hand.armature().formTile()));
    } else if (!rowOf(m_session.bench()).holdsTools) {
        hint = tr("%1 · choose a kind, or click an outgrowth to change it").arg(benchTitle(rowOf(m_session.bench())));
    } else {
        const sculpt::StrokeSettings s = m_strokes.settingsFor(m_held);
        const QString bench = benchTitle(rowOf(m_session.bench()));
        hint = bench + QStringLiteral(" · ")
               + (m_curve.isOn() ? toolTitle(s.tool) + QStringLiteral(": ") + m_curve.hint() : toolHint(s.tool));
        if (s.isReversed && s.tool != sculpt::Tool::Tendril)
            hint += s.tool == sculpt::Tool::Mask ? tr(" · taking away")
                    : changesFaces(s.tool)       ? tr(" · the other way")
                                                 : tr(" · digging");
        if (changesFaces(s.tool))
            hint += (s.tool == sculpt::Tool::Tendril ? tr(" · edges of at most %1 mm") : tr(" · edges of %1 mm"))
                        .arg(double(s.edgeMm()), 0, 'f', 2);
        if (const QString where = strokesGoTo(s.tool); !where.isEmpty())
            hint += QStringLiteral(" · ") + where;
    }
    if (hint != m_hint)
        emit hintChanged(m_hint = hint);
}

} // namespace bonemoss::app
