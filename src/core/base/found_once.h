#pragma once

#include <atomic>

namespace bonemoss {

/// Something worked out when it is first asked for, then kept. Any thread may ask; two may both find it out, and one wins.
/// A copy of what holds it starts without.
template <typename T> class FoundOnce
{
public:
    FoundOnce() = default;
    FoundOnce(const FoundOnce &) {}
    FoundOnce &operator=(const FoundOnce &) { return forget(), *this; }
    ~FoundOnce() { forget(); }

    bool isKnown() const { return m_kept.load(std::memory_order_relaxed) != nullptr; }
    template <typename Find> const T &get(const Find &find) const
    {
        if (const T *known = m_kept.load(std::memory_order_acquire))
            return *known;
        const T *made = new T(find()), *other = nullptr;
        if (m_kept.compare_exchange_strong(other, made, std::memory_order_acq_rel))
            return *made;
        delete made; // another thread was first
        return *other;
    }

private:
    void forget() { delete m_kept.exchange(nullptr, std::memory_order_relaxed); }
    mutable std::atomic<const T *> m_kept = nullptr;
};

} // namespace bonemoss
