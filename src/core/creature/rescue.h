#pragma once

#include "creature/store.h"

#include <filesystem>
#include <memory>
#include <optional>

namespace bonemoss::creature {

/// Keeps a session safe against a crash: a store with the state it began from, and every command since
/// in its journal. A kill costs at most the command in hand. The file goes when the session ends well.
class Rescue
{
public:
    /// A file of its own in folder (made when not there), named after the process. isWork: start can be had from nowhere
    /// else, as what was rescued before, and is kept though nothing more be done.
    static Result<std::unique_ptr<Rescue>> begin(const std::filesystem::path &folder, const Creature &start,
                                                 const std::string &documentPath, bool isWork = false);
    ~Rescue(); ///< leaves the file: only end() removes it

    Status note(const nlohmann::json &command) { return m_store->journal(command); }
    /// Writes the whole state (what is new of it); for undo, redo, imports and long journals.
    Status snapshot(const Creature &creature);
    /// The file in which it was saved now: after a crash the work is offered under that name.
    Status setDocument(const std::string &path);
    void end();

    struct Found {
        std::filesystem::path file;
        std::string documentPath; ///< what was being worked on; empty when never saved
    };
    /// Files of sessions that are gone and in which something was done, oldest first. Those in which nothing
    /// was done are removed.
    static std::vector<Found> find(const std::filesystem::path &folder);
    /// The creature as it was at the last finished command.
    static Result<Loaded> recover(const std::filesystem::path &file, const Progress &progress = {});

private:
    Rescue(std::filesystem::path file, std::unique_ptr<Store> store) : m_file(std::move(file)), m_store(std::move(store)) {}
    std::filesystem::path m_file;
    std::unique_ptr<Store> m_store;
};

} // namespace bonemoss::creature
