#include "app/view/draw_timer.h"

#include <algorithm>

namespace bonemoss::app {

DrawTimer::DrawTimer(QOpenGLFunctions_3_3_Core &gl) : m_gl(gl)
{
    for (Slot &s : m_slots)
        m_gl.glGenQueries(1, &s.query);
}

void DrawTimer::begin()
{
    m_open = nullptr;
    for (Slot &s : m_slots)
        if (!s.isPending) {
            m_open = &s;
            m_gl.glBeginQuery(GL_TIME_ELAPSED, s.query);
            return;
        } // all on their way: this frame is not measured
}

void DrawTimer::end(std::size_t triangles, double cpuMs)
{
    if (!m_open)
        return;
    m_gl.glEndQuery(GL_TIME_ELAPSED);
    m_open->isPending = true, m_open->triangles = triangles, m_open->cpuMs = cpuMs;
    m_open = nullptr;
}

std::optional<DrawTimer::Frame> DrawTimer::take()
{
    for (Slot &s : m_slots) {
        GLint isKnown = 0;
        if (s.isPending)
            m_gl.glGetQueryObjectiv(s.query, GL_QUERY_RESULT_AVAILABLE, &isKnown);
        if (!isKnown)
            continue;
        GLuint64 ns = 0;
        m_gl.glGetQueryObjectui64v(s.query, GL_QUERY_RESULT, &ns);
        s.isPending = false;
        return Frame{std::max(double(ns) / 1e6, s.cpuMs), s.triangles};
    }
    return {};
}

} // namespace bonemoss::app
