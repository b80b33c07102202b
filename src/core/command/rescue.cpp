#include "command/rescue.h"

#include "command/command.h"

#include <algorithm>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <unistd.h>

namespace bonemoss::command {

using nlohmann::json;

namespace {

constexpr const char *kStep = "step"; ///< journal entry: back, or on again, to the state after so many commands

bool isRescue(const std::filesystem::path &file)
{
    return file.extension() == ".bonemoss" && file.filename().native().starts_with("rescue-");
}

std::filesystem::path notePath(const std::filesystem::path &file)
{
    return file.native() + ".of";
}

std::filesystem::path lockPath(const std::filesystem::path &file)
{
    return file.native() + ".lock";
}

/// What the note beside a rescue file says. The first versions wrote the path alone.
Rescue::Document documentOf(const std::filesystem::path &file)
{
    const auto note = readFile(notePath(file));
    if (!note)
        return {};
    const std::string text(reinterpret_cast<const char *>(note->data()), note->size());
    const json j = json::parse(text, nullptr, false);
    if (!j.is_object())
        return {text, {}};
    const auto number = [&](const char *name) { return j.contains(name) && j[name].is_number() ? j[name] : json(0); };
    return {j.contains("path") && j["path"].is_string() ? j["path"].get<std::string>() : std::string(),
            {number("state").get<std::int64_t>(), number("hash").get<std::uint64_t>()}};
}

/// The commands that led to the last state: without those that were undone.
std::vector<json> led(const std::vector<json> &entries)
{
    std::vector<json> to;
    std::size_t at = 0; // of `to`, how many count now
    for (const json &entry : entries) {
        if (entry.is_object() && entry.contains(kStep) && !entry.contains("do")) {
            if (entry[kStep].is_number_unsigned() && entry[kStep].get<std::size_t>() <= to.size())
                at = entry[kStep].get<std::size_t>();
            continue;
        }
        to.resize(at++);
        to.push_back(entry);
    }
    to.resize(at);
    return to;
}

void removeAll(const std::filesystem::path &file)
{
    std::error_code ec;
    for (const auto &path : {file, std::filesystem::path(file.native() + "-journal"), notePath(file)})
        std::filesystem::remove(path, ec);
}

} // namespace

Result<std::unique_ptr<Rescue>> Rescue::begin(const std::filesystem::path &folder, const Creature &start,
                                              const Document &document, bool isWork)
{
    std::error_code ec;
    std::filesystem::create_directories(folder, ec);
    for (int n = 0;; ++n) {
        const std::filesystem::path file = folder / fmt::format("rescue-{}-{}.bonemoss", ::getpid(), n);
        auto lock = FileLock::take(lockPath(file), fmt::format("{}", ::getpid()));
        if (const auto *failure = std::get_if<FileLock::Failure>(&lock)) {
            if (*failure == FileLock::Failure::Held)
                continue; // a session in another container may have the same process number
            return Error{ErrorCode::Unwritable, shownPath(folder), "no file can be made and locked here"};
        }
        if (std::filesystem::exists(file, ec)) // of a session that crashed
            continue;
        auto store = store::Store::open(file);
        if (!store)
            return store.error();
        // The constructor is private.
        std::unique_ptr<Rescue> rescue(new Rescue(file, std::get<FileLock>(std::move(lock)), std::move(*store)));
        // More than one state is what tells find() that there is work.
        for (int states = 0; states < 1 + isWork; ++states)
            if (const Status s = rescue->snapshot(start); !s)
                return s.error();
        if (const Status s = rescue->setDocument(document); !s)
            return s.error();
        return rescue;
    }
}

Rescue::~Rescue() = default;

Status Rescue::noteStep(std::size_t steps)
{
    return m_store->journal({{kStep, steps}});
}

Status Rescue::snapshot(const Creature &creature)
{
    const auto saved = m_store->save(creature);
    return saved ? Status(Done{}) : saved.error();
}

Status Rescue::setDocument(const Document &document)
{
    const json j = {{"path", document.path}, {"state", document.mark.id}, {"hash", document.mark.hash}};
    return writeFile(notePath(m_file), j.dump(-1, ' ', false, json::error_handler_t::replace));
}

void Rescue::end()
{
    m_store.reset();
    removeAll(m_file);
}

void Rescue::Found::remove()
{
    removeAll(file);
}

Rescue::Search Rescue::find(const std::filesystem::path &folder)
{
    Search search;
    std::error_code ec;
    for (const auto &entry : std::filesystem::directory_iterator(folder, ec)) {
        if (!isRescue(entry.path()))
            continue;
        auto lock = FileLock::take(lockPath(entry.path()));
        if (const auto *failure = std::get_if<FileLock::Failure>(&lock)) {
            search.stillHeld += *failure == FileLock::Failure::Held;
            continue;
        }
        if (!std::filesystem::exists(entry.path(), ec)) // its session ended well while the folder was read
            continue;
        if (auto store = store::Store::open(entry.path()); store && !(*store)->hasWork()) {
            store->reset();
            removeAll(entry.path());
            continue;
        }
        search.found.push_back({entry.path(), documentOf(entry.path()), std::get<FileLock>(std::move(lock))});
    }
    std::sort(search.found.begin(), search.found.end(), [](const Found &a, const Found &b) {
        std::error_code e;
        return std::filesystem::last_write_time(a.file, e) < std::filesystem::last_write_time(b.file, e);
    });
    return search;
}

Result<store::Loaded> Rescue::recover(const std::filesystem::path &file, const Progress &progress)
{
    store::Store::Journal journal;
    {
        auto store = store::Store::open(file);
        if (!store)
            return store.error();
        journal = (*store)->journalEntries();
    }
    progress.say(0, "opening the state it began with");
    auto loaded = store::loadStore(file, progress);
    if (!loaded)
        return loaded;
    if (journal.unreadable > 0)
        loaded->damage.push_back(
            fmt::format("{} of {} steps could not be read and were left out", journal.unreadable, journal.entries.size()));
    const std::vector<json> wanted = led(journal.entries);
    for (std::size_t i = 0; i < wanted.size(); ++i) {
        if (wanted[i].is_null())
            continue;
        if (progress.isCancelled())
            return Error{ErrorCode::Cancelled, "rescue", "stopped on request"};
        progress.say(float(i) / float(wanted.size()), fmt::format("step {} of {}: {}", i + 1, wanted.size(), titleOf(wanted[i])));
        CommandContext context{{{progress.stop, {}}, {}}, {}};
        auto next = apply(loaded->creature, wanted[i], context);
        if (!next && next.error().code == ErrorCode::Cancelled)
            return next.error();
        if (!next) {
            loaded->damage.push_back(fmt::format("{} could not be repeated ({}), nor the {} steps after it", titleOf(wanted[i]),
                                                 next.error().text(), wanted.size() - i - 1));
            break;
        }
        loaded->creature = std::move(*next);
    }
    return loaded;
}

} // namespace bonemoss::command
