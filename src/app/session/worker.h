#pragma once

#include "base/progress.h"
#include "base/result.h"

#include <QString>

#include <functional>
#include <optional>
#include <type_traits>

class QWidget;

namespace bonemoss::app {

/// Runs work on a thread of its own while the window stays alive; after half a second a small dialog
/// shows progress and a Cancel button. Returns when the work has returned. An exception that the work threw is thrown on.
void runOnWorker(QWidget *window, const QString &what, const std::function<void(const Progress &)> &work, bool canPause = false);

template <typename T, typename Work> T runOnWorker(QWidget *window, const QString &what, const Work &work, bool canPause = false)
{
    std::optional<T> result;
    runOnWorker(
        window, what,
        [&](const Progress &p) {
            if constexpr (std::is_constructible_v<T, Error>) { // the one catch of this worker
                try {
                    result.emplace(work(p));
                } catch (...) {
                    result.emplace(errorInFlight({}));
                }
            } else {
                result.emplace(work(p));
            }
        },
        canPause);
    return std::move(*result);
}

} // namespace bonemoss::app
