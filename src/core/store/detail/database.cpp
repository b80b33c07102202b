// SQLite, "Atomic Commit In SQLite" (sqlite.org/atomiccommit.html): what a hot journal is and who rolls it back.
#include "store/detail/database.h"

#include "base/files.h"

#include <cstdlib>

namespace bonemoss::store::detail {

namespace {

constexpr int kPatienceMs = 10'000; // for another process that is just committing

std::filesystem::path journalOf(const std::filesystem::path &path)
{
    return path.native() + "-journal";
}

bool canBeRead(sqlite3 *db)
{
    return queryInt(db, "SELECT count(*) FROM sqlite_master") >= 0;
}

} // namespace

bool run(sqlite3 *db, const char *sql)
{
    return sqlite3_exec(db, sql, nullptr, nullptr, nullptr) == SQLITE_OK;
}

std::int64_t queryInt(sqlite3 *db, const char *sql)
{
    Statement s(db, sql);
    return s.step() == SQLITE_ROW ? sqlite3_column_int64(s.s, 0) : -1;
}

Error databaseError(sqlite3 *db, ErrorCode code, const std::string &subject)
{
    switch (sqlite3_errcode(db)) {
    case SQLITE_BUSY:
    case SQLITE_LOCKED: return {code, subject, "another program is writing to the file; try again when it has finished"};
    case SQLITE_FULL: return {code, subject, "the disk is full"};
    case SQLITE_IOERR: return {code, subject, "the disk or the network reported an error, or a file may not become that large"};
    case SQLITE_READONLY: return {code, subject, "the file is write-protected"};
    case SQLITE_NOTADB: return {ErrorCode::Malformed, subject, "is not a Bone Moss creature"};
    case SQLITE_CORRUPT: return {ErrorCode::Damaged, subject, "the database in the file is damaged"};
    case SQLITE_NOMEM: return {ErrorCode::TooLarge, subject, "the memory is full"};
    default: return {code, subject, sqlite3_errmsg(db)};
    }
}

Result<Database> openToWrite(const std::filesystem::path &path)
{
    sqlite3 *raw = nullptr;
    const int opened = sqlite3_open_v2(path.c_str(), &raw, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE, nullptr);
    Database db(raw);
    if (opened != SQLITE_OK)
        return databaseError(raw, ErrorCode::Unwritable, shownPath(path));
    sqlite3_busy_timeout(raw, kPatienceMs);
    if (!canBeRead(raw))
        return databaseError(raw, ErrorCode::Unwritable, shownPath(path));
    return db;
}

Result<std::unique_ptr<ReadDatabase>> ReadDatabase::open(const std::filesystem::path &path)
{
    auto out = std::make_unique<ReadDatabase>();
    sqlite3 *raw = nullptr;
    // Not read-only: only who may write may roll back. A file that is write-protected is opened for reading all the same.
    const int opened = sqlite3_open_v2(path.c_str(), &raw, SQLITE_OPEN_READWRITE, nullptr);
    out->m_db.reset(raw);
    sqlite3_busy_timeout(raw, kPatienceMs);
    if (opened == SQLITE_OK && canBeRead(raw))
        return out;
    const int code = sqlite3_errcode(raw);
    std::error_code ec;
    const bool isStuck = (code == SQLITE_READONLY || code == SQLITE_CANTOPEN || code == SQLITE_PERM)
                         && std::filesystem::exists(journalOf(path), ec);
    if (!isStuck)
        return databaseError(raw, ErrorCode::Unreadable, shownPath(path));
    if (const Status copied = out->openCopy(path); !copied)
        return copied.error();
    return out;
}

Status ReadDatabase::openCopy(const std::filesystem::path &path)
{
    std::error_code ec;
    const std::filesystem::path temporary = std::filesystem::temp_directory_path(ec);
    std::string name = (temporary / "bonemoss-XXXXXX").native();
    if (ec || !::mkdtemp(name.data()))
        return Error{ErrorCode::Unreadable, shownPath(path),
                     "a crash left it half-written, it is write-protected, and there is no room for a copy to put right"};
    m_copyFolder = name;
    const std::filesystem::path copy = m_copyFolder / "copy.bonemoss";
    for (const auto &[from, to] : {std::pair{path, copy}, std::pair{journalOf(path), journalOf(copy)}}) {
        if (!std::filesystem::copy_file(from, to, ec))
            return Error{ErrorCode::Unreadable, shownPath(path), ec.message()};
        std::filesystem::permissions(to, std::filesystem::perms::owner_read | std::filesystem::perms::owner_write, ec);
    }
    auto db = openToWrite(copy);
    if (!db)
        return Error{db.error().code, shownPath(path), db.error().detail};
    m_db = std::move(*db);
    return Done{};
}

ReadDatabase::~ReadDatabase()
{
    m_db.reset();
    std::error_code ec;
    if (!m_copyFolder.empty())
        std::filesystem::remove_all(m_copyFolder, ec);
}

Result<Database> settleBeforeReplacing(const std::filesystem::path &path)
{
    std::error_code ec;
    Database db;
    if (std::filesystem::is_regular_file(path, ec)) {
        sqlite3 *raw = nullptr;
        const int opened = sqlite3_open_v2(path.c_str(), &raw, SQLITE_OPEN_READWRITE, nullptr);
        db.reset(raw);
        sqlite3_busy_timeout(raw, kPatienceMs);
        if (opened == SQLITE_OK && run(raw, "BEGIN EXCLUSIVE"))
            return db;
        if (sqlite3_errcode(raw) == SQLITE_BUSY)
            return databaseError(raw, ErrorCode::Unwritable, shownPath(path));
        db.reset(); // not a database, or one that nobody can read: there is nothing to roll back
    }
    std::filesystem::remove(journalOf(path), ec);
    return db;
}

} // namespace bonemoss::store::detail
