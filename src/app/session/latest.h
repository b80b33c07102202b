#pragma once

#include "base/progress.h"
#include "base/result.h"

#include <QCoreApplication>
#include <QThreadPool>

#include <chrono>
#include <condition_variable>
#include <cstdio>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>

namespace bonemoss::app {

/// How long the window, and a frame, wait for what is worked out beside them, so that what is quickly done comes at once.
inline constexpr std::chrono::milliseconds kWindowPatience{50}, kFramePatience{20};

/// What work gives, or something else when it throws: what is worked out beside the window is for showing, and nothing else depends
/// on it.
template <typename T, typename Work> T workedOut(T missing, const Work &work)
{
    try {
        return work();
    } catch (...) {
        std::fprintf(stderr, "bonemoss: %s\n", errorInFlight("beside the window").text().c_str());
        return missing;
    }
}

/// Works something out beside the window: one at a time, and next always what was asked for last. The result comes on the window's
/// thread. To be made, asked and destroyed there.
template <typename T> class Latest
{
public:
    using Work = std::function<T(const std::stop_token &)>;
    explicit Latest(std::function<void(T)> take) : m_shared(std::make_shared<Shared>()) { m_shared->take = std::move(take); }
    ~Latest()
    {
        m_shared->isAlive = false;
        m_shared->stop.request_stop();
    }
    Latest(const Latest &) = delete;
    Latest &operator=(const Latest &) = delete;

    bool isBusy() const { return m_shared->isBusy; }
    /// patience: how long to wait for it here and now, so that what is quickly done comes at once. Work that was asked for and
    /// has not begun is forgotten; work must hold on to all it needs.
    void ask(Work work, std::chrono::milliseconds patience = {})
    {
        m_shared->next = std::move(work);
        if (m_shared->isBusy)
            return;
        start(m_shared);
        if (patience.count() == 0)
            return;
        std::unique_lock lock(m_shared->mutex);
        if (!m_shared->done.wait_for(lock, patience, [&] { return m_shared->isDone; }))
            return;
        lock.unlock();
        takeIn(m_shared);
    }
    /// Forgets what was asked for; nothing comes any more.
    void forget()
    {
        auto take = std::move(m_shared->take);
        m_shared->isAlive = false;
        m_shared->stop.request_stop();
        m_shared = std::make_shared<Shared>();
        m_shared->take = std::move(take);
    }

private:
    struct Shared {
        std::function<void(T)> take;
        bool isAlive = true, isBusy = false; // the window's thread alone looks at these
        Work next;
        std::stop_source stop;
        std::mutex mutex;
        std::condition_variable done;
        bool isDone = false; // these two are guarded
        std::optional<T> result;
    };

    static void start(const std::shared_ptr<Shared> &s)
    {
        s->isBusy = true;
        s->isDone = false;
        QThreadPool::globalInstance()->start([s, work = std::exchange(s->next, {}), stop = s->stop.get_token()] {
            auto result = workedOut<std::optional<T>>(std::nullopt, [&] { return std::optional<T>(work(stop)); });
            {
                const std::lock_guard lock(s->mutex);
                s->result = std::move(result);
                s->isDone = true;
            }
            s->done.notify_all();
            QMetaObject::invokeMethod(
                QCoreApplication::instance(), [s] { takeIn(s); }, Qt::QueuedConnection);
        });
    }

    static void takeIn(const std::shared_ptr<Shared> &s)
    {
        std::optional<T> result;
        {
            const std::lock_guard lock(s->mutex);
            if (!std::exchange(s->isDone, false))
                return; // taken already
            result = std::exchange(s->result, std::nullopt);
        }
        s->isBusy = false;
        if (!s->isAlive)
            return;
        if (s->next)
            start(s);
        if (result)
            s->take(std::move(*result));
    }

    std::shared_ptr<Shared> m_shared;
};

} // namespace bonemoss::app
