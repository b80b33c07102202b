#include "creature/rescue.h"

#include "creature/command.h"
#include "io/mesh_file.h"

#include <algorithm>
#include <cerrno>
#include <csignal>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <unistd.h>

namespace bonemoss::creature {

using nlohmann::json;

namespace {

/// Process number in "rescue-PID-N.bonemoss", or 0.
int processOf(const std::filesystem::path &file)
{
    int pid = 0, n = 0;
    if (file.extension() != ".bonemoss")
        return 0;
    return std::sscanf(file.filename().c_str(), "rescue-%d-%d.bonemoss", &pid, &n) == 2 ? pid : 0;
}

bool isAlive(int pid)
{
    return ::kill(pid, 0) == 0 || errno == EPERM;
}

std::filesystem::path notePath(const std::filesystem::path &file)
{
    return file.string() + ".of";
}

} // namespace

Result<std::unique_ptr<Rescue>> Rescue::begin(const std::filesystem::path &folder, const Creature &start,
                                              const std::string &documentPath, bool isWork)
{
    std::error_code ec;
    std::filesystem::create_directories(folder, ec);
    std::filesystem::path file;
    for (int n = 0; file.empty() || std::filesystem::exists(file, ec); ++n)
        file = folder / fmt::format("rescue-{}-{}.bonemoss", ::getpid(), n);
    auto store = Store::open(file);
    if (!store)
        return store.error();
    std::unique_ptr<Rescue> rescue(new Rescue(file, std::move(*store))); // the constructor is private
    // More than one state is what tells find() that there is work.
    for (int states = 0; states < 1 + isWork; ++states)
        if (const Status s = rescue->snapshot(start); !s)
            return s.error();
    if (const Status s = rescue->setDocument(documentPath); !s)
        return s.error();
    return rescue;
}

Rescue::~Rescue() = default;

Status Rescue::snapshot(const Creature &creature)
{
    const auto saved = m_store->save(creature);
    return saved ? Status(Done{}) : saved.error();
}

Status Rescue::setDocument(const std::string &path)
{
    return io::writeFile(notePath(m_file), path);
}

void Rescue::end()
{
    m_store.reset();
    std::error_code ec;
    std::filesystem::remove(m_file, ec);
    std::filesystem::remove(m_file.string() + "-journal", ec);
    std::filesystem::remove(notePath(m_file), ec);
}

std::vector<Rescue::Found> Rescue::find(const std::filesystem::path &folder)
{
    std::vector<Found> found;
    std::error_code ec;
    for (const auto &entry : std::filesystem::directory_iterator(folder, ec)) {
        const int pid = processOf(entry.path());
        if (pid == 0 || isAlive(pid))
            continue;
        if (auto store = Store::open(entry.path()); store && !(*store)->hasWork()) {
            Rescue(entry.path(), std::move(*store)).end();
            continue;
        }
        Found f{entry.path(), {}};
        if (const auto note = io::readFile(notePath(entry.path())))
            f.documentPath.assign(reinterpret_cast<const char *>(note->data()), note->size());
        found.push_back(std::move(f));
    }
    std::sort(found.begin(), found.end(), [](const Found &a, const Found &b) {
        std::error_code e;
        return std::filesystem::last_write_time(a.file, e) < std::filesystem::last_write_time(b.file, e);
    });
    return found;
}

Result<Loaded> Rescue::recover(const std::filesystem::path &file, const Progress &progress)
{
    std::vector<json> commands;
    { // opening for writing first lets the database roll back what the kill cut short
        auto store = Store::open(file);
        if (!store)
            return store.error();
        auto entries = (*store)->journalEntries();
        if (entries)
            commands = std::move(*entries);
    }
    auto loaded = loadStore(file, progress);
    if (!loaded)
        return loaded;
    CommandContext context;
    for (const json &command : commands) {
        auto next = apply(loaded->creature, command, context);
        if (!next) {
            loaded->damage.push_back(fmt::format("{} could not be repeated: {}", titleOf(command), next.error().text()));
            break;
        }
        loaded->creature = std::move(*next);
    }
    return loaded;
}

} // namespace bonemoss::creature
