#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/outgrowth_hand.h"
#include "app/view/outgrowth_handles.h"
#include "app/view/tried_command.h"
#include "app/view/view_control.h"
#include "mesh/surface.h"

#include <QCoreApplication>

#include <map>
#include <memory>
#include <optional>

namespace bonemoss::app {

/// Outgrowths in the view: rooting new ones, choosing one and its members, and moving their roots and lines.
class OutgrowthControl : public ViewControl
{
    Q_DECLARE_TR_FUNCTIONS(OutgrowthControl)

public:
    OutgrowthControl(Session &session, HandModel &hand, QWidget *window);
    ~OutgrowthControl() override;

    Press press(const Pointer &pointer) override;
    void drag(const Pointer &pointer) override;
    void release(const Pointer &pointer) override;
    bool hover(const Pointer &pointer) override;
    void cancel() override;
    void paintOn(QPainter &painter, const Projection &view, const QString &) override;
    QString hintFor(const HeldKeys &) const override;
    const document::Creature *tried() override;

private:
    enum class Drag { None, NewPoint, NewLine, Root, Knot, Tip, Middle, Profile, Choose };
    struct Under {
        std::uint32_t outgrowth = 0;
        ChosenMember member;
        float distance = 0;
        friend bool operator==(const Under &a, const Under &b) { return a.outgrowth == b.outgrowth && a.member == b.member; }
    };
    /// The nearest member that a ray meets.
    std::optional<Under> memberOn(const mesh::Ray &ray);
    const mesh::Surface &surfaceOf(const std::shared_ptr<const mesh::PolyMesh> &shape);
    std::vector<std::size_t> knots(const outgrowth::Outgrowth &o) const; ///< roots of a line that can be dragged
    int handleAt(const Projection &view, QPointF at) const;              ///< a knot; -1 for none, below that the tip or the bend
    void begin(const Pointer &pointer);
    void dragLine();
    void dragKnot(const outgrowth::Outgrowth &o, Vec3f to);

    Session &m_session;
    HandModel &m_hand;
    QWidget *m_window;
    Drag m_drag = Drag::None;
    std::size_t m_knot = 0;
    std::vector<Vec3f> m_points;
    std::vector<std::vector<Vec3f>> m_lines; ///< drawn before it, of a kind that stands between lines
    std::optional<Under> m_lit;
    TriedCommand m_tried;
    /// What the preview shows of what the settings try out: on which creature, and with which values.
    std::shared_ptr<const document::Creature> m_triedOn;
    std::optional<outgrowth::Outgrowth> m_triedRule;
    std::map<const mesh::PolyMesh *, std::pair<std::weak_ptr<const mesh::PolyMesh>, mesh::Surface>> m_surfaces;
};

extern const ControlRow kOutgrowthControl;

} // namespace bonemoss::app
