#pragma once

#include "base/progress.h"

#include <QString>

#include <functional>
#include <optional>

class QWidget;

namespace bonemoss::app {

/// Runs work on a thread of its own while the window stays alive; after half a second a small dialog
/// shows progress and a Cancel button. Returns when the work has returned.
void runOnWorker(QWidget *window, const QString &what, const std::function<void(const Progress &)> &work);

template <typename T, typename Work> T runOnWorker(QWidget *window, const QString &what, const Work &work)
{
    std::optional<T> result;
    runOnWorker(window, what, [&](const Progress &p) { result.emplace(work(p)); });
    return std::move(*result);
}

} // namespace bonemoss::app
