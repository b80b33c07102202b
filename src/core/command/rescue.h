#pragma once

#include "base/files.h"
#include "store/store.h"

#include <filesystem>
#include <memory>
#include <optional>

namespace bonemoss::command {

/// Keeps a session safe against a crash: a store with the state it began from, and every command since
/// in its journal. A kill costs at most the command in hand. The file goes when the session ends well. A lock beside the file
/// tells whether its session lives.
class Rescue
{
public:
    /// The file that is being worked on; an empty path when it was never saved.
    struct Document {
        std::string path;
        store::StateMark mark; ///< of the newest state in it that is known here
    };
    /// A file of its own in folder (made when not there). isWork: start can be had from nowhere else, as what was rescued before,
    /// and is kept though nothing more be done.
    static Result<std::unique_ptr<Rescue>> begin(const std::filesystem::path &folder, const document::Creature &start,
                                                 const Document &document, bool isWork = false);
    ~Rescue(); ///< leaves the file: only end() removes it

    Status note(const nlohmann::json &command) { return m_store->journal(command); }
    /// Notes that the work went back, or on again, to the state after that many of the commands noted since the last snapshot,
    /// those left out that a later command took the place of.
    Status noteStep(std::size_t steps);
    /// Writes the whole state (what is new of it); for imports, whose file may go away, and what was never noted.
    Status snapshot(const document::Creature &creature);
    /// The file in which it was saved now: after a crash the work is offered under that name.
    Status setDocument(const Document &document);
    void end();

    struct Found {
        std::filesystem::path file;
        Document document;
        FileLock lock; ///< held, so that no other program offers it meanwhile
        void remove(); ///< for good
    };
    struct Search {
        std::vector<Found> found;  ///< of sessions that are gone and in which something was done, oldest first
        std::size_t stillHeld = 0; ///< of sessions that live, or are still on their way out
    };
    /// Files in which nothing was done, of sessions that are gone, are removed.
    static Search find(const std::filesystem::path &folder);
    /// The creature as it was at the last finished command. Entries of the journal that cannot be read are left out; at the first
    /// command that fails it ends. Both are told as damage: then the file holds more than what is returned.
    static Result<store::Loaded> recover(const std::filesystem::path &file, const Progress &progress = {});

private:
    Rescue(std::filesystem::path file, FileLock lock, std::unique_ptr<store::Store> store)
        : m_file(std::move(file)), m_lock(std::move(lock)), m_store(std::move(store))
    {}
    std::filesystem::path m_file;
    FileLock m_lock;
    std::unique_ptr<store::Store> m_store;
};

} // namespace bonemoss::command
