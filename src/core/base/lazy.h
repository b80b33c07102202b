#pragma once

#include <atomic>
#include <mutex>

namespace bonemoss {

/// Something worked out when it is first asked for, then kept. Any thread may ask; two may both find it out, and one wins.
/// A copy of what holds it starts without.
template <typename T> class Lazy
{
public:
    Lazy() = default;
    Lazy(const Lazy &) {}
    Lazy &operator=(const Lazy &) { return forget(), *this; }
    ~Lazy() { forget(); }

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

/// The same in place, for what must be at hand without another look at memory; a second thread that asks waits for the first.
/// find must not wait for other threads.
template <typename T> class LazyInPlace
{
public:
    bool isKnown() const { return m_isKnown.load(std::memory_order_acquire); }
    template <typename Find> const T &get(const Find &find) const
    {
        if (!isKnown())
            std::call_once(m_once, [&] {
                m_kept = find();
                m_isKnown.store(true, std::memory_order_release);
            });
        return m_kept;
    }

private:
    mutable std::atomic<bool> m_isKnown = false;
    mutable std::once_flag m_once;
    mutable T m_kept;
};

} // namespace bonemoss
