#pragma once

#include "app/session/session.h"

namespace bonemoss::app {

/// Shows only some things; asked again, what it hid comes back, and nothing else.
class Solo
{
public:
    explicit Solo(Session &session) : m_session(session) {}
    /// chosen  the forms or pieces that stay
    void toggle(const std::vector<std::uint32_t> &chosen);

private:
    Session &m_session;
    std::vector<std::uint32_t> m_hidden; ///< by it; empty when it is off
};

} // namespace bonemoss::app
