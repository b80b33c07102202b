#pragma once

#include "command/rescue.h"

#include <nlohmann/json_fwd.hpp>

#include <QObject>
#include <QString>

#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>
#include <utility>

namespace bonemoss::app {

/// Keeps the session's rescue file on a thread of its own: what is asked for is done one after another. A call waits a moment for
/// it, so that a large state does not hold up the window. A step is in the file before the next one begins, unless a large state
/// is being written before it, or the disk stands still.
/// Steps of the history are counted from the beginning of the document, those included that it has dropped.
class RescueKeeper : public QObject
{
    Q_OBJECT
public:
    using State = std::shared_ptr<const document::Creature>;
    explicit RescueKeeper(const QString &folder, QObject *parent = nullptr);
    ~RescueKeeper() override; ///< does what was asked for, and leaves the file

    QString folder() const { return m_folder; }
    /// A new file for another document; the one before must have been ended.
    void begin(State state, std::size_t step, const command::Rescue::Document &document, bool isWork);
    void note(const nlohmann::json &command);
    void goTo(std::size_t step, const State &state); ///< undo, redo
    void snapshot(const State &state, std::size_t step);
    void setDocument(const command::Rescue::Document &document);
    void end();    ///< removes the file
    void finish(); ///< waits until all is done that was asked for
    /// Whether there is a file, and all of it could be written so far.
    bool isKeptSafe() const;

signals:
    void failed(const QString &words); ///< on the window's thread

private:
    using Job = std::function<Status()>;
    /// Steps are short to write and are waited for longer.
    enum class Length { Step, State };
    void ask(Length length, Job job);
    void work(const std::stop_token &stop);

    QString m_folder;
    std::size_t m_base = 0, m_noted = 0, m_at = 0; ///< step of the last snapshot; commands since; of those, the one gone to
    std::unique_ptr<command::Rescue> m_rescue;     ///< of the thread
    mutable std::mutex m_mutex;
    std::condition_variable_any m_wake, m_idle;
    std::deque<std::pair<Length, Job>> m_jobs;
    std::optional<Length> m_now; ///< of the job that is being done
    bool m_isThere = false;
    std::jthread m_thread; ///< last: it uses the others
};

} // namespace bonemoss::app
