#pragma once

#include "app/theme/keys.h"
#include "app/view/cage_control.h"
#include "app/view/deform_control.h"
#include "app/view/form_control.h"
#include "app/view/guide_control.h"
#include "app/view/live_skin.h"
#include "app/view/picture_shelf.h"
#include "app/view/reference_control.h"
#include "app/view/tape_control.h"
#include "app/view/trim_control.h"
#include "app/view/renderer.h"
#include "app/view/stroke_control.h"

#include <QElapsedTimer>
#include <QOpenGLWidget>
#include <QTimer>

#include <memory>

namespace bonemoss::app {

/// The view in the middle: draws the creature, moves the camera, and hands presses to the controls.
class CreatureView : public QOpenGLWidget
{
    Q_OBJECT
public:
    CreatureView(Session &session, HandModel &hand, const KeyMap &keys, PictureShelf &shelf, QWidget *parent = nullptr);
    ~CreatureView() override;

    const portrait::Camera &camera() const { return m_camera; }
    void setCamera(const portrait::Camera &camera); ///< remembered for camera undo
    void lookFrom(const QString &viewKey);          ///< one of the six anatomical views
    void frameAll();
    void frameChosen();
    void cameraBack();
    void cameraForward();
    void setParallel(bool on);
    void setShowSkin(bool on); ///< skin beside the forms on the Armature bench
    void setShowTimes(bool on);
    void setShowLiveSkin(bool on); ///< what the forms would knit into, on the Armature bench
    bool showsLiveSkin() const { return m_showLive; }
    TapeControl &tape() { return m_tape; }
    void beginTrim(const TrimPlan &plan); ///< the next drag draws a cut over the chosen piece
    ReferenceControl &references() { return m_references; }
    const LiveSkin &liveSkin() const { return m_live; }
    QString balanceWords() const; ///< how the forms stand, empty when not known
    bool showsSkin() const { return m_showSkin; }
    void setLook(Look look);
    Look look() const { return m_look; }
    QString viewName() const;
    QString viewKey() const;                ///< of the anatomical view that is looked from, empty for a free view
    QString hint() const { return m_hint; } ///< what a press here will do, in words
    Projection projection() const { return {m_camera, QSizeF(size())}; }
    /// Shows a piece as it would be (a layer slider on its way); null shows the creature again.
    void setPreview(std::shared_ptr<const creature::Piece> piece);
    /// Shows a creature that was only tried out; null shows the one there is.
    void showTriedOut(std::shared_ptr<const creature::Creature> creature);
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
    void hintChanged(const QString &hint);
    void balanceChanged();
    void creatureDrawn(); ///< after a frame that showed new geometry

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
    void leaveEvent(QEvent *e) override;
    void contextMenuEvent(QContextMenuEvent *e) override;
    void focusOutEvent(QFocusEvent *e) override;

private:
    enum class Gesture { None, Orbit, Slide, Stroke, Form, Picture, Tape, Trim, Deform, Cage, Guide, Adjust };
    void pressAt(QPointF at, float pressure);
    void moveAt(QPointF at, float pressure);
    void releaseAt();
    void endTrim();
    void harvestAt(QPointF at);
    float mousePressure(QPointF at);
    void orbit(QPointF by);
    void slide(QPointF by);
    void nearer(double steps, QPointF at);
    void touchCamera();
    void rememberCamera();
    void settle();
    void adjust(QPointF at);
    bool hold(int key, bool isDown);
    Box3f frameBox(const QString &viewKey) const;
    Scene scene();
    bool showsForms() const;
    void updateShadow();
    void orderLight();
    void updateRing(QPointF at);
    void paintOverlay();
    void paintRing(QPainter &p) const;
    void paintLabels(QPainter &p) const;
    void paintBalance(QPainter &p) const;
    bool pressCage(QPointF at);
    std::optional<mesh::Hit> surfaceUnder(QPointF at);
    std::optional<Vec3f> placeUnder(QPointF at); ///< on the skin or the forms, whichever are shown
    std::vector<const mesh::Surface *> measured() const;
    void paintTape(QPainter &p) const;
    void updateHint();

    Session &m_session;
    HandModel &m_hand;
    const KeyMap &m_keys;
    StrokeControl m_strokes;
    FormControl m_forms;
    ReferenceControl m_references;
    TapeControl m_tape;
    TrimControl m_trim;
    DeformControl m_deform;
    CageControl m_cages;
    GuideControl m_guides;
    PictureShelf &m_shelf;
    LiveSkin m_live;
    std::unique_ptr<QOpenGLFunctions_3_3_Core> m_gl;
    std::unique_ptr<Renderer> m_renderer;
    portrait::Camera m_camera;
    std::vector<portrait::Camera> m_cameraBack, m_cameraForward;
    portrait::Camera m_gestureStart;
    Gesture m_gesture = Gesture::None;
    HeldKeys m_held;
    HeldKey m_adjustKey = HeldKey::None;
    QPointF m_last, m_pressed;
    Qt::KeyboardModifiers m_modifiers; ///< held at the event in hand
    float m_adjustStart = 0;
    bool m_penDown = false, m_showSkin = false, m_showLive = true, m_showTimes = false, m_moving = false, m_drewLight = false,
         m_framed = false;
    double m_fullFrameMs = 0, m_lastFrameMs = 0, m_strokeMs = 0;
    Look m_look = Look::Clay;
    float m_sizedAt = 0; ///< distance of the camera that the hand's sizes last went with
    QTimer m_settle;
    QElapsedTimer m_strokeClock;
    std::vector<PenMark> m_pen;
    std::optional<mesh::Hit> m_ring;
    std::shared_ptr<const creature::Creature> m_preview;
    std::optional<Vec3f> m_place;
    void paintPlace(QPainter &p) const;
    std::shared_ptr<std::atomic<bool>> m_alive;
    std::vector<std::uint32_t> m_lightOrdered;
    std::shared_ptr<const creature::Creature> m_shadowOf;
    QString m_hint;
};

} // namespace bonemoss::app
