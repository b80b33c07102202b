#pragma once

#include "app/view/view_control.h"
#include "app/hand/hand_model.h"
#include "app/view/projection.h"
#include "document/creature.h"

#include <nlohmann/json_fwd.hpp>

#include <memory>
#include <optional>

class QPainter;

namespace bonemoss::app {

class FormControl;

/// Cages in the view: drawing new ones, choosing faces, edges and points of one, and moving them.
class CageControl : public ViewControl
{
public:
    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override { drag(pointer.view, pointer.at, pointer.skin()); }
    void release(const Pointer &) override { release(); }
    bool hover(const Pointer &pointer) override { return hover(pointer.view, pointer.at); }
    void paintOn(QPainter &painter, const Projection &view, const QString &) override { paint(painter, view); }
    const document::Creature *tried() override { return preview(); }

    /// forms: what else a press may mean there.
    CageControl(Session &session, HandModel &hand, FormControl &forms);
    ~CageControl() override;

    const document::Creature *preview() const { return m_preview.get(); }
    /// How far along a ray the nearest visible cage lies; nothing when it meets none.
    std::optional<float> distanceTo(const mesh::Ray &ray) const;
    bool meetsHandle(const Projection &view, QPointF at) const;
    /// True when an edge or a point of the chosen cage lies under the pointer.
    bool meetsOutline(const Projection &view, QPointF at) const;
    /// Lights what a press here would choose; true when that changed.
    bool hover(const Projection &view, QPointF at);
    /// False when the press met neither handle nor cage. under: the surface under the pointer, to draw on.
    bool press(const Projection &view, QPointF at, Qt::KeyboardModifiers held, std::optional<mesh::Hit> under);
    void drag(const Projection &view, QPointF at, std::optional<mesh::Hit> under);
    void release();
    void cancel() override;
    void paint(QPainter &painter, const Projection &view) const;

private:
    enum class Drag { None, New, Move };
    struct Handle {
        int axis = -1; ///< 0 to 2; 3 moves freely
        QPointF at;
    };
    std::vector<Handle> handles(const Projection &view) const;
    const document::Cage *shownCage() const;
    std::vector<std::uint32_t> chosenPoints(const document::Cage &cage) const;
    CageChoice pickOn(const document::Cage &cage, const Projection &view, QPointF at) const;
    bool isSeen(const document::Cage &cage, const Projection &view, Vec3f point) const;
    std::optional<std::uint32_t> faceAt(const document::Cage &cage, const mesh::Ray &ray, float &distance) const;
    bool tryCommand(const nlohmann::json &command);

    Session &m_session;
    HandModel &m_hand;
    FormControl &m_forms;
    Drag m_drag = Drag::None;
    Handle m_handle;
    CageChoice m_lit; ///< under the pointer
    QPointF m_from;
    Vec3f m_start, m_normal;
    std::vector<Vec3f> m_drawn, m_drawnNormals;
    std::unique_ptr<nlohmann::json> m_command;
    std::unique_ptr<document::Creature> m_preview;
};

extern const ControlRow kCageControl;

} // namespace bonemoss::app
