#pragma once

#include "app/hand/hand_model.h"
#include "portrait/camera.h"

#include <QPointF>
#include <QSizeF>
#include <nlohmann/json_fwd.hpp>

#include <map>
#include <memory>
#include <optional>
#include <vector>

class QPainter;

namespace bonemoss::app {

/// Where things are on the screen: a camera and the view's size in points.
struct Projection {
    portrait::Camera camera;
    QSizeF size;

    mesh::Ray rayAt(QPointF p) const;
    QPointF toScreen(Vec3f p) const;
    float mmPerPoint(Vec3f at) const; ///< size of one point on the screen at a place
    float aspect() const { return float(size.width() / std::max(1.0, size.height())); }
};

/// Choosing, drawing and handling forms in the view. A drag works on a preview; one command goes to the
/// session at its end.
class FormControl
{
public:
    FormControl(Session &session, HandModel &hand);
    ~FormControl();

    /// The creature to show: the session's, or the preview of the drag in hand.
    const creature::Creature &shown() const { return m_preview ? *m_preview : m_session.creature(); }
    void hover(const Projection &view, QPointF at);
    /// False when the press met nothing of ours: the camera may have it.
    bool press(const Projection &view, QPointF at);
    void drag(const Projection &view, QPointF at);
    void release();
    void cancel();
    bool isActive() const { return m_drag != Drag::None; }
    std::uint32_t lit() const { return m_lit; }
    std::optional<Vec3f> pointUnder(const Projection &view, QPointF at);
    void paintHandles(QPainter &painter, const Projection &view) const;

private:
    enum class Drag { None, Move, MoveAxis, Turn, Size, PathPoint, PathRadius, NewForm };
    struct Handle {
        Drag kind = Drag::None;
        int axis = 0;  ///< of MoveAxis, Turn
        int point = 0; ///< of PathPoint, PathRadius
        QPointF at;
    };
    std::vector<Handle> handles(const Projection &view) const;
    Handle nearestHandle(const Projection &view, QPointF at) const;
    std::uint32_t pick(const mesh::Ray &ray, Vec3f *point = nullptr);
    Vec3f placeFor(const Projection &view, QPointF at);
    Vec3f onPlane(const Projection &view, QPointF at, Vec3f through) const;
    void startNew(const Projection &view, QPointF at);
    void dragNew(const Projection &view, QPointF at);
    void addDrawn(Vec3f point, float mm);
    void drawSide(const Projection &view, Vec3f end);
    nlohmann::json withName(nlohmann::json command) const;
    bool tryCommand(const nlohmann::json &command);

    Session &m_session;
    HandModel &m_hand;
    Drag m_drag = Drag::None;
    Handle m_handle, m_litHandle;
    std::uint32_t m_lit = 0;
    QPointF m_from;
    Vec3f m_start;
    Transform m_world;
    std::vector<armature::PathPoint> m_path;       // creature space
    std::vector<Vec3f> m_drawn;                    // of a tube, profile or side curve
    std::vector<Vec3f> m_crownLine, m_pendingLine; // of a body that is still without its belly
    std::unique_ptr<creature::Creature> m_preview;
    std::unique_ptr<nlohmann::json> m_command;
    struct Shape {
        armature::Form form;
        std::vector<Transform> places;
        mesh::Surface surface;
    };
    std::map<std::uint32_t, Shape> m_shapes;
};

} // namespace bonemoss::app
