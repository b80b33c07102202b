#pragma once

#include <QOpenGLFunctions_3_3_Core>

#include <array>
#include <cstddef>
#include <optional>

namespace bonemoss::app {

/// How long the graphics card takes to draw a frame, without waiting for it: what it says of one frame is taken up in a later one.
class DrawTimer
{
public:
    explicit DrawTimer(QOpenGLFunctions_3_3_Core &gl); ///< its queries go with the context

    void begin();
    /// triangles, cpuMs: drawn, and time that the calls themselves took.
    void end(std::size_t triangles, double cpuMs);
    struct Frame {
        double ms = 0; ///< of the card or of the calls, whichever is longer
        std::size_t triangles = 0;
    };
    /// A frame whose time has become known since the last call; never waits.
    std::optional<Frame> take();

private:
    struct Slot {
        GLuint query = 0;
        bool isPending = false;
        std::size_t triangles = 0;
        double cpuMs = 0;
    };
    QOpenGLFunctions_3_3_Core &m_gl;
    std::array<Slot, 3> m_slots;
    Slot *m_open = nullptr;
};

} // namespace bonemoss::app
