#pragma once

#include "base/progress.h"
#include "document/creature.h"

#include <nlohmann/json_fwd.hpp>

#include <array>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <unordered_set>
#include <vector>

struct sqlite3;

namespace bonemoss::store {

using namespace document;

/// Names of blobs: hashes of what is in them, so that one half tells them apart well enough.
struct FirstHalf {
    std::size_t operator()(const std::array<std::uint64_t, 2> &name) const { return std::size_t(name[0]); }
};
using BlobNames = std::unordered_set<std::array<std::uint64_t, 2>, FirstHalf>;

/// Tells one saved state from every other: when the newest of a file is another than expected, somebody else saved.
struct StateMark {
    std::int64_t id = 0;
    std::uint64_t hash = 0; ///< of its manifest
    friend bool operator==(const StateMark &, const StateMark &) = default;
};

/// A .bonemoss file: one SQLite database of compressed blocks named by their content, and states that
/// list them. See docs/store-format.md.
class Store
{
public:
    /// Opens for writing; makes the file when it is not there. Errors: Unwritable, Malformed (not a
    /// store), Unsupported (newer version).
    static Result<std::unique_ptr<Store>> open(const std::filesystem::path &path);
    ~Store();
    Store(const Store &) = delete;
    Store &operator=(const Store &) = delete;

    struct Saved {
        std::size_t blocksWritten = 0, bytesWritten = 0, blocksKept = 0;
        StateMark mark;
    };
    /// Writes a state in one transaction: only blocks that are not there yet. A failure (full disk)
    /// leaves the file as it was. Drops journal entries: the state holds them. last: what the newest state must be. Errors:
    /// Unwritable, BadValue (a name that is no UTF-8), Conflict (the newest state is another).
    Result<Saved> save(const Creature &creature, std::optional<StateMark> last = {});

    /// Appends a command that led on from the newest state; safe against a kill once it returns.
    Status journal(const nlohmann::json &command);
    struct Journal {
        std::vector<nlohmann::json> entries; ///< null where one cannot be read
        std::size_t unreadable = 0;          ///< of them
    };
    Journal journalEntries();
    /// Whether anything was kept after the first state, though it was pruned since.
    bool hasWork() const;

private:
    explicit Store(sqlite3 *db) : m_db(db) {}
    sqlite3 *m_db;
    BlobNames m_known; ///< of the last save: surely in the file
};

struct Loaded {
    Creature creature;
    StateMark mark;                  ///< of the newest state
    std::vector<std::string> damage; ///< what could not be read, in plain sentences; empty when all is well
};
/// Newest state of a store. A piece with damaged blocks is left out and named. What a crash left half-written is rolled back,
/// and a process that is just committing is waited for. Errors: Unreadable, Malformed, Unsupported, Damaged (nothing could be read).
Result<Loaded> loadStore(const std::filesystem::path &path, const Progress &progress = {});

/// Saves to a path by way of a new file beside it. What is there stays as it was until the new file is whole.
Result<StateMark> saveAs(const std::filesystem::path &path, const Creature &creature);

} // namespace bonemoss::store
