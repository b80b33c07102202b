#pragma once

#include <functional>
#include <stop_token>
#include <string_view>

namespace bonemoss {

/// How long work says how far it is and learns that nobody wants it any more.
struct Progress {
    std::stop_token stop;
    /// Called with a fraction 0 to 1 and a few words; may be empty; called on the working thread.
    std::function<void(float, std::string_view)> report;

    void say(float fraction, std::string_view what) const
    {
        if (report)
            report(fraction, what);
    }
    bool isCancelled() const { return stop.stop_requested(); }
};

} // namespace bonemoss
