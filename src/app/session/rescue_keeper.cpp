#include "app/session/rescue_keeper.h"

#include "app/session/latest.h"

#include <QMetaObject>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <chrono>
#include <utility>

namespace bonemoss::app {

using command::Rescue;

namespace {
constexpr std::chrono::milliseconds kStepPatience{3000};
}

RescueKeeper::RescueKeeper(const QString &folder, QObject *parent)
    : QObject(parent), m_folder(folder), m_thread([this](const std::stop_token &stop) { work(stop); })
{}

RescueKeeper::~RescueKeeper()
{
    finish();
    m_thread.request_stop();
    m_thread.join();
}

void RescueKeeper::work(const std::stop_token &stop)
{
    for (;;) {
        Job job;
        {
            std::unique_lock lock(m_mutex);
            m_now.reset();
            m_idle.notify_all();
            if (!m_wake.wait(lock, stop, [this] { return !m_jobs.empty(); }))
                return;
            m_now = m_jobs.front().first;
            job = std::move(m_jobs.front().second);
            m_jobs.pop_front();
        }
        Status done = Done{};
        try {
            done = job();
        } catch (...) {
            done = errorInFlight("rescue");
        }
        if (done)
            continue;
        m_rescue.reset(); // what it holds stays, to be offered at the next start
        {
            const std::lock_guard lock(m_mutex);
            m_isThere = false;
        }
        QMetaObject::invokeMethod(
            this,
            [this, why = QString::fromStdString(done.error().text())] {
                emit failed(tr("The rescue file could not be written (%1). Save often: after a crash, work since the last save "
                               "would be lost.")
                                .arg(why));
            },
            Qt::QueuedConnection);
    }
}

void RescueKeeper::ask(Length length, Job job)
{
    std::unique_lock lock(m_mutex);
    m_jobs.emplace_back(length, std::move(job));
    m_wake.notify_all();
    const bool isLong = m_now == Length::State || std::any_of(m_jobs.begin(), m_jobs.end(), [](const auto &waiting) {
                            return waiting.first == Length::State;
                        });
    m_idle.wait_for(lock, isLong ? kWindowPatience : kStepPatience, [this] { return m_jobs.empty() && !m_now; });
}

void RescueKeeper::finish()
{
    std::unique_lock lock(m_mutex);
    m_idle.wait(lock, [this] { return m_jobs.empty() && !m_now; });
}

bool RescueKeeper::isKeptSafe() const
{
    const std::lock_guard lock(m_mutex);
    return m_isThere;
}

void RescueKeeper::begin(State state, std::size_t step, const Rescue::Document &document, bool isWork)
{
    if (m_folder.isEmpty())
        return;
    m_base = step;
    m_noted = m_at = 0;
    {
        const std::lock_guard lock(m_mutex);
        m_isThere = true;
    }
    ask(Length::State, [this, state = std::move(state), document, isWork]() -> Status {
        auto rescue = Rescue::begin(m_folder.toStdString(), *state, document, isWork);
        if (!rescue)
            return rescue.error();
        m_rescue = std::move(*rescue);
        return Done{};
    });
}

void RescueKeeper::note(const nlohmann::json &command)
{
    m_noted = ++m_at;
    ask(Length::Step, [this, command] { return m_rescue ? m_rescue->note(command) : Done{}; });
}

void RescueKeeper::goTo(std::size_t step, const State &state)
{
    if (step < m_base || step - m_base > m_noted)
        return snapshot(state, step);
    m_at = step - m_base;
    ask(Length::Step, [this, at = m_at] { return m_rescue ? m_rescue->noteStep(at) : Done{}; });
}

void RescueKeeper::snapshot(const State &state, std::size_t step)
{
    m_base = step;
    m_noted = m_at = 0;
    ask(Length::State, [this, state] { return m_rescue ? m_rescue->snapshot(*state) : Done{}; });
}

void RescueKeeper::setDocument(const Rescue::Document &document)
{
    ask(Length::Step, [this, document] { return m_rescue ? m_rescue->setDocument(document) : Done{}; });
}

void RescueKeeper::end()
{
    ask(Length::State, [this]() -> Status {
        if (m_rescue)
            m_rescue->end();
        m_rescue.reset();
        return Done{};
    });
    finish();
    const std::lock_guard lock(m_mutex);
    m_isThere = false;
}

} // namespace bonemoss::app
