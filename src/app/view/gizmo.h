#pragma once

#include "app/view/projection.h"

#include <functional>
#include <vector>

class QPainter;

namespace bonemoss::app {

/// The handle by which something is moved, turned and sized about a place: a dot to move it, three stems along the axes, three
/// rings to turn it, a square to size it. Always as large on the screen.
struct Gizmo {
    enum class Part { None, Move, Axis, Turn, Size };
    struct Grip {
        Part part = Part::None;
        int axis = 0; ///< of Axis and Turn: left, crown, nose
        QPointF at;
    };
    struct Change {
        Vec3f by; ///< mm
        Quat turn;
        float scale = 1;
    };

    Projection view;
    Vec3f middle; ///< mm

    /// Those with a spot of their own; rings are met along their line.
    std::vector<Grip> spots() const;
    Grip ringAt(QPointF at) const;
    Grip at(QPointF at) const; ///< a spot or a ring
    /// What a drag of a grip from one point of the screen to another comes to.
    Change change(const Grip &grip, QPointF from, QPointF to) const;
    /// Rings and stems.
    void paintLines(QPainter &painter, const std::function<bool(Part, int)> &isLit) const;
    /// All of it, with words beside what is lit.
    void paint(QPainter &painter, const Grip &lit) const;

    static Vec3f axisOf(int axis);
    static QString wordsOf(const Grip &grip);
};

} // namespace bonemoss::app
