#pragma once

#include "app/view/projection.h"
#include "document/creature.h"
#include "mesh/surface.h"

#include <QString>

#include <functional>
#include <memory>
#include <optional>

class QPainter;
class QWidget;

namespace bonemoss::app {

class HandModel;
class Session;

/// What keys held while stroking change about it.
struct HeldKeys {
    bool dig = false, smooth = false, mask = false;
    bool isNone() const { return !dig && !smooth && !mask; }
};

/// The pointer over a view. What lies under it is looked up when asked.
struct Pointer {
    Projection view;
    QPointF at, pressed; ///< pressed: where the gesture began
    QString viewKey;     ///< of the anatomical view that is looked from, empty for a free view
    float pressure = 1, timeMs = 0;
    HeldKeys held;
    Qt::KeyboardModifiers modifiers;
    Vec3f lean;                                                   ///< of the pen, in creature space; zero for a mouse
    std::function<std::optional<mesh::Hit>(QPointF)> skinAt;      ///< the surface under a point
    std::optional<mesh::Hit> skin() const { return skinAt(at); }  ///< under the pointer
    std::function<std::optional<Vec3f>()> rest;                   ///< on the chosen piece as it is without the stroke in hand
    std::function<std::optional<Vec3f>()> place;                  ///< on the skin or the forms, whichever are shown
    std::function<std::vector<const mesh::Surface *>()> surfaces; ///< that can be measured
};

/// Something in the view that takes presses. It works on a preview while it drags and sends one command at its end.
class ViewControl
{
public:
    virtual ~ViewControl() = default;

    /// Whose a press is: Mine begins a gesture of it; Camera leaves it to the camera, whatever comes after in the list.
    enum class Press { NotMine, Mine, Camera };
    virtual Press press(const Pointer &pointer) = 0;
    virtual void drag(const Pointer &) {}
    virtual void release(const Pointer &) {}
    /// Lights what a press here would take; true when that is something else than before.
    virtual bool hover(const Pointer &) { return false; }
    /// Leaves what is under way, or the control itself when nothing is (Escape).
    virtual void cancel() = 0;
    virtual bool key(int) { return false; } ///< false when it means nothing to it
    virtual void paintOn(QPainter &, const Projection &, const QString & /*viewKey*/) {}
    virtual bool isOfActiveView() const { return false; }          ///< painted there alone
    virtual QString hintFor(const HeldKeys &) const { return {}; } ///< what the next press means; empty when it says nothing
    virtual const document::Creature *tried() { return nullptr; }  ///< the creature as it would be, while it differs
};

struct ControlRow;

/// What a control is made with. other: another control of the same view.
struct ControlHost {
    Session &session;
    HandModel &hand;
    QWidget *view;
    std::function<ViewControl &(const ControlRow &)> other;
    template <typename T> T &the(const ControlRow &row) const { return static_cast<T &>(other(row)); }
};

/// A control that views can have. Benches list theirs, the first asked first; a view makes each once.
struct ControlRow {
    std::unique_ptr<ViewControl> (*make)(const ControlHost &host);
};

} // namespace bonemoss::app
