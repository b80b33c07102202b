#pragma once

#include "app/theme/keys.h"
#include "app/view/curve_control.h"
#include "app/view/draw_timer.h"
#include "app/view/form_control.h"
#include "app/view/guide_control.h"
#include "app/view/harvest_control.h"
#include "app/view/live_skin.h"
#include "app/view/picture_shelf.h"
#include "app/view/plates.h"
#include "app/view/portrait_view.h"
#include "app/view/reference_control.h"
#include "app/view/stencil_control.h"
#include "app/view/tape_control.h"
#include "app/view/trim_control.h"
#include "app/view/pane.h"
#include "app/view/stroke_control.h"

#include <QElapsedTimer>
#include <QOpenGLFramebufferObject>
#include <QOpenGLWidget>
#include <QTimer>

#include <array>
#include <map>
#include <memory>

namespace bonemoss::app {

/// The view in the middle: draws the creature, moves the camera, and hands presses to the controls.
class CreatureView : public QOpenGLWidget
{
    Q_OBJECT
public:
    CreatureView(Session &session, HandModel &hand, const KeyMap &keys, PictureShelf &shelf, QWidget *parent = nullptr);
    ~CreatureView() override;

    // One view, or two or four side by side; each has its own camera and look. What follows is about the active one: the
    // one pressed last.
    void setPanes(int count); ///< 1, 2 or 4
    int panes() const { return int(m_paneCount); }
    int activePane() const { return int(m_active); }
    void activatePane(int index);
    QRectF paneArea(int index) const;
    /// Shows a creature that is not worked on, under a name, in the active view; null shows the one in work again.
    void keepInPane(std::shared_ptr<const document::Creature> creature, const QString &name);
    bool showsKept() const { return pane().kept != nullptr; }
    /// The active camera becomes the one that Look::Seen is about.
    void chooseCamera(); ///< that of the view
    void chooseCamera(const mesh::Sight &sight);

    const portrait::Camera &camera() const { return pane().camera; }
    void setCamera(const portrait::Camera &camera);            ///< remembered for camera undo
    void lookFrom(const QString &viewKey);                     ///< one of the six anatomical views
    const PortraitView &picture() const { return m_portrait; } ///< on the bench for it
    void lookThrough(const portrait::Shot &shot);              ///< its camera and its lens
    /// A place large in the view, with what lies within so many mm of it; from outside of the surface.
    void flyTo(Vec3f at, Vec3f outward, float radius);
    void frameAll();
    void frameChosen();
    void cameraBack();
    void cameraForward();
    void setParallel(bool on);
    void setShowSkin(bool on); ///< skin beside the forms on the Armature bench
    void setShowTimes(bool on);
    void setSmoothEdges(bool on);  ///< four samples a pixel; without, drawing by the processor takes less
    void setShowLiveSkin(bool on); ///< what the forms would knit into, on the Armature bench
    bool showsLiveSkin() const { return m_showLive; }
    TapeControl &tape() { return m_tape; }
    void beginTrim(const TrimPlan &plan); ///< the next drag draws a cut over the chosen piece
    ReferenceControl &references() { return m_references; }
    const LiveSkin &liveSkin() const { return m_live; }
    QString balanceWords() const; ///< how the forms stand, empty when not known
    bool showsSkin() const { return m_showSkin; }
    void setLook(Look look);
    Look look() const { return pane().look; }
    bool worksOnLook() const { return m_maps.isBusy(); }
    QString viewName() const;
    QString viewKey() const;                ///< of the anatomical view that is looked from, empty for a free view
    QString hint() const { return m_hint; } ///< what a press here will do, in words
    Projection projection() const { return projectionOf(m_active); }
    /// Shows a piece as it would be (a layer slider on its way); null shows the creature again.
    void setPreview(std::shared_ptr<const document::Piece> piece);
    /// Shows a creature that was only tried out; null shows the one there is.
    void showTriedOut(std::shared_ptr<const document::Creature> creature);
    /// Flies to a place on the creature (mm) and marks it; null takes the mark away.
    void showPlace(std::optional<Vec3f> at);
    std::optional<Vec3f> place() const { return m_place; }
    bool isLight() const { return m_drewLight; }
    /// Writes the pen samples of the last stroke, as fractions of the view, for the pen simulator.
    struct PenMark {
        double x, y, pressure, timeMs;
    };
    const std::vector<PenMark> &lastPen() const { return m_pen; }

signals:
    void cameraChanged();
    void paneChanged(); ///< another view is active, or it shows something else
    void hintChanged(const QString &hint);
    void balanceChanged();

protected:
    void initializeGL() override;
    void paintGL() override;
    void mousePressEvent(QMouseEvent *e) override;
    void mouseMoveEvent(QMouseEvent *e) override;
    void mouseReleaseEvent(QMouseEvent *e) override;
    void tabletEvent(QTabletEvent *e) override;
    void wheelEvent(QWheelEvent *e) override;
    void keyPressEvent(QKeyEvent *e) override;
    void keyReleaseEvent(QKeyEvent *e) override;
    void enterEvent(QEnterEvent *e) override;
    void takeKeysFromWhereItCameIn(QPointF at);
    void leaveEvent(QEvent *e) override;
    void contextMenuEvent(QContextMenuEvent *e) override;
    void focusOutEvent(QFocusEvent *e) override;

private:
    enum class Gesture { None, Orbit, Slide, Control, Adjust }; ///< Control: of the one in hand
    void pressAt(QPointF at, float pressure);
    void moveAt(QPointF at, float pressure);
    void releaseAt();
    void followSession();
    void followHand();
    void useStencil(bool isPress);
    Gesture gestureAt(QPointF at, float pressure);
    Pointer pointerAt(QPointF at, float pressure = 1);
    ViewControl &control(const ControlRow &row); ///< made when it is asked for first
    template <typename T> T &the(const ControlRow &row) { return static_cast<T &>(control(row)); }
    /// Those of the bench, the first asked first.
    std::vector<ViewControl *> controls();
    std::optional<Vec3f> restUnder(QPointF at) const; ///< on the chosen piece as it is without the stroke in hand
    float mousePressure(QPointF at);
    void orbit(QPointF by);
    void slide(QPointF by);
    void nearer(double steps, QPointF at);
    void touchCamera();
    void rememberCamera();
    void settle();
    void adjust(QPointF at);
    bool hold(int key, bool isDown);
    static void holdBarrel(Qt::MouseButtons buttons, HeldKeys &held); ///< as the person set the buttons of the pen
    Box3f frameBox(const QString &viewKey) const;
    Pane &pane() { return m_panes[m_active]; }
    const Pane &pane() const { return m_panes[m_active]; }
    std::size_t paneAt(QPointF at) const;
    Projection projectionOf(std::size_t index) const { return {m_panes[index].camera, paneArea(int(index))}; }
    /// Of the view under the pointer, or during a gesture of the one it began in.
    Projection projectionAt(QPointF at) const { return projectionOf(m_gesture == Gesture::None ? paneAt(at) : m_active); }
    Scene scene(std::size_t index);
    Scene keptScene(const Pane &pane) const;
    Fineness finenessNow() const;
    void drawPane(std::size_t index);
    bool hasEdges() const;
    void beginCanvas();
    void endCanvas();
    bool showsForms() const;
    std::shared_ptr<Stage> newStage();
    void orderShadow(Stage &stage, const std::shared_ptr<const document::Creature> &creature);
    void orderLight(const std::shared_ptr<Stage> &stage, const std::shared_ptr<const document::Creature> &creature);
    void updateTouch();
    void updateRing(QPointF at);
    void paintOverlay();
    void paintPane(QPainter &p, std::size_t index);
    bool showsPicture() const { return !m_portrait.image().isNull() && !m_moving; }
    void followPortrait(); ///< asks for the picture of what is seen now, or for none
    void followLens();
    void paintFrames(QPainter &p) const; ///< of several views: the gaps, and which is active
    void paintRing(QPainter &p, const Projection &view) const;
    void plate(const char *name, std::size_t index, const QString &says, QRectF area,
               const std::function<void(QPainter &)> &paint);
    QStringList labels(std::size_t index, QString &foot) const;
    void plateWords(std::size_t index);
    void platePane(std::size_t index);
    QString wordsForNothing(const QString &key) const;
    std::optional<mesh::Hit> surfaceUnder(QPointF at);
    std::optional<Vec3f> placeUnder(QPointF at); ///< on the skin or the forms, whichever are shown
    std::vector<const mesh::Surface *> measured() const;
    void paintTape(QPainter &p, const Projection &view) const;
    QString strokesGoTo(sculpt::Tool tool) const;
    void updateHint();

    Session &m_session;
    HandModel &m_hand;
    const KeyMap &m_keys;
    std::map<const ControlRow *, std::unique_ptr<ViewControl>> m_controls;
    // Those that more than presses is told of.
    StrokeControl &m_strokes;
    FormControl &m_forms;
    ReferenceControl &m_references;
    TapeControl &m_tape;
    TrimControl &m_trim;
    GuideControl &m_guides;
    CurveControl &m_curve;
    StencilControl &m_stencil;
    HarvestControl &m_harvest;
    ViewControl *m_inHand = nullptr; ///< during a gesture of a control
    PictureShelf &m_shelf;
    LiveSkin m_live;
    std::unique_ptr<QOpenGLFunctions_3_3_Core> m_gl;
    std::unique_ptr<Plates> m_plates;
    std::unique_ptr<DrawTimer> m_drawTimer;
    std::unique_ptr<QOpenGLFramebufferObject> m_canvas; ///< with several samples a pixel; from when something is there
    std::shared_ptr<Stage> m_stage;
    std::array<Pane, kMostPanes> m_panes;
    std::size_t m_paneCount = 1, m_active = 0;
    MapKeeper m_maps;
    PortraitView m_portrait;
    QTimer m_portraitRest; ///< the picture begins when it has run out
    std::optional<sculpt::Touch> m_touch;
    std::shared_ptr<const document::Creature> m_touchOf;
    portrait::Camera m_gestureStart;
    Gesture m_gesture = Gesture::None;
    HeldKeys m_held;
    HeldKey m_adjustKey = HeldKey::None;
    QPointF m_last, m_pressed;
    std::optional<QPointF> m_cameInAt; ///< until the pointer moves on
    Vec3f m_lean;                      ///< of the pen, in creature space; zero for a mouse
    Qt::KeyboardModifiers m_modifiers; ///< held at the event in hand
    float m_adjustStart = 0;
    QElapsedTimer m_wheelClock;  ///< since the wheel was last turned
    portrait::Camera m_wheelEnd; ///< where that led
    bool m_penDown = false, m_showSkin = false, m_showLive = true, m_showTimes = false, m_hasSmoothEdges = true, m_moving = false,
         m_drewLight = false, m_leftOut = false, m_hasChosenCamera = false, m_framed = false;
    double m_msPerTriangle = 1e-5, m_lastFrameMs = 0, m_strokeMs = 0; ///< as measured
    std::size_t m_drawnTriangles = 0;                                 ///< in the last frame, in all views
    double m_drawMs = 0;                                              ///< that their drawing took
    float m_sizedAt = 0; ///< mm in a point of the screen that the hand's sizes last went with
    QTimer m_settle;
    QElapsedTimer m_strokeClock;
    std::vector<PenMark> m_pen;
    std::optional<mesh::Hit> m_ring;
    std::shared_ptr<const document::Creature> m_standing; ///< what is drawn
    std::shared_ptr<const document::Creature> m_preview;
    std::optional<Vec3f> m_place;
    void paintPlace(QPainter &p, const Projection &view) const;
    std::shared_ptr<std::atomic<bool>> m_alive;
    QString m_hint;
};

/// Of the anatomical view that a camera looks from, empty for a free view.
QString viewKeyOf(const portrait::Camera &camera);

} // namespace bonemoss::app
