#pragma once

#include "base/result.h"

#include <filesystem>
#include <memory>
#include <sqlite3.h>
#include <string>

namespace bonemoss::store::detail {

struct CloseDatabase {
    void operator()(sqlite3 *db) const { sqlite3_close(db); }
};
using Database = std::unique_ptr<sqlite3, CloseDatabase>;

struct Statement {
    sqlite3_stmt *s = nullptr;
    Statement(sqlite3 *db, const char *sql) { sqlite3_prepare_v2(db, sql, -1, &s, nullptr); }
    ~Statement() { sqlite3_finalize(s); }
    Statement(const Statement &) = delete;
    Statement &operator=(const Statement &) = delete;
    int step() { return s ? sqlite3_step(s) : SQLITE_ERROR; }
    std::string text(int column) const
    {
        const auto *t = reinterpret_cast<const char *>(sqlite3_column_text(s, column));
        return t ? std::string(t, std::size_t(sqlite3_column_bytes(s, column))) : std::string();
    }
};

/// Runs statements without results.
bool run(sqlite3 *db, const char *sql);
/// The first number of the first row; -1 when it cannot be had.
std::int64_t queryInt(sqlite3 *db, const char *sql);
/// What the database says went wrong, in words for people. A file that is none of ours is Malformed, whatever code says.
Error databaseError(sqlite3 *db, ErrorCode code, const std::string &subject);

/// Opens for reading and writing; makes the file when wanted and not there. Whoever writes is waited for.
Result<Database> openToWrite(const std::filesystem::path &path);

/// A database that is read: the file itself, or a copy where the file needs to be rolled back and cannot be written.
class ReadDatabase
{
public:
    /// Rolls back first what a crash left half-written, and waits for a process that is just committing. Errors: Unreadable,
    /// Malformed.
    static Result<std::unique_ptr<ReadDatabase>> open(const std::filesystem::path &path);
    ~ReadDatabase();
    sqlite3 *get() const { return m_db.get(); }

private:
    Status openCopy(const std::filesystem::path &path);
    Database m_db;
    std::filesystem::path m_copyFolder; ///< empty for none
};

/// Before another file takes the place of a database: rolls back what was half-written, so that no journal is left that would be
/// applied to the new file, and keeps every other process from writing until the result is closed. Null where there is
/// no database. Errors: Unwritable, when another process goes on writing.
Result<Database> settleBeforeReplacing(const std::filesystem::path &path);

} // namespace bonemoss::store::detail
