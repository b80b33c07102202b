#include "store/store.h"

#include "base/files.h"
#include "base/parallel.h"
#include "store/detail/database.h"
#include "store/detail/manifest.h"

#include <cstring>
#include <fmt/format.h>
#include <mutex>
#include <nlohmann/json.hpp>
#include <unordered_set>
#include <zstd.h>

namespace bonemoss::store {

using namespace detail;
using nlohmann::json;

namespace {

constexpr int kApplicationId = 0x424d5331; // "BMS1"
constexpr int kStoreVersion = 2;           // 2: names of blocks are listed in blobs of their own
constexpr int kStatesKept = 10;
constexpr int kZstdLevel = 1;
constexpr std::size_t kLargestBlob = 8u << 20; // a block of 4,096 vertices is far below

Status checkKind(sqlite3 *db, const std::string &path)
{
    if (queryInt(db, "PRAGMA application_id") != kApplicationId)
        return Error{ErrorCode::Malformed, path, "is not a Bone Moss creature"};
    const auto version = queryInt(db, "PRAGMA user_version");
    if (version > kStoreVersion)
        return Error{ErrorCode::Unsupported, path,
                     fmt::format("was saved by a newer program (format {}; this one knows {})", version, kStoreVersion)};
    return Done{};
}

/// Says that the file may hold states of this version.
bool mark(sqlite3 *db)
{
    return run(db, fmt::format("PRAGMA user_version={}", kStoreVersion).c_str());
}

bool makeTables(sqlite3 *db)
{
    return run(db, "BEGIN IMMEDIATE") && run(db, fmt::format("PRAGMA application_id={};", kApplicationId).c_str()) && mark(db)
           && run(
               db,
               "CREATE TABLE blob(id INTEGER PRIMARY KEY, hash TEXT NOT NULL UNIQUE, raw INTEGER NOT NULL, data BLOB NOT NULL);"
               "CREATE TABLE state(id INTEGER PRIMARY KEY, saved TEXT NOT NULL, manifest BLOB NOT NULL, raw INTEGER NOT NULL);"
               "CREATE TABLE journal(id INTEGER PRIMARY KEY, command TEXT NOT NULL); COMMIT;");
}

std::vector<std::byte> compress(std::span<const std::byte> bytes)
{
    std::vector<std::byte> out(ZSTD_compressBound(bytes.size()));
    out.resize(ZSTD_compress(out.data(), out.size(), bytes.data(), bytes.size(), kZstdLevel));
    return out;
}

std::optional<std::vector<std::byte>> expand(const void *data, std::size_t size, std::size_t raw)
{
    std::vector<std::byte> out(raw);
    const std::size_t n = ZSTD_decompress(out.data(), raw, data, size);
    if (ZSTD_isError(n) || n != raw)
        return {};
    return out;
}

/// Blobs wait here until they are compressed together, in parallel.
struct Pending {
    Hash name;
    std::vector<std::byte> raw, packed;
};

/// Collects what a state needs and what of it is missing.
class Collector
{
public:
    Collector(sqlite3 *db, const BlobNames &known) : m_known(known), m_has(db, "SELECT 1 FROM blob WHERE hash=?")
    {
        seen.reserve(known.size() + 64);
    }

    Hash operator()(Hash &remembered, const std::function<std::vector<std::byte>()> &bytes)
    {
        std::vector<std::byte> raw;
        if (remembered == Hash{}) {
            raw = bytes();
            remembered = hashOf(raw);
        }
        const Hash name = remembered;
        if (!seen.insert(name).second || m_known.contains(name))
            return name;
        const std::string hex = toHex(name);
        sqlite3_reset(m_has.s);
        sqlite3_bind_text(m_has.s, 1, hex.c_str(), -1, SQLITE_STATIC);
        if (m_has.step() != SQLITE_ROW)
            missing.push_back({name, raw.empty() ? bytes() : std::move(raw), {}});
        return name;
    }

    BlobNames seen;
    std::vector<Pending> missing;

private:
    const BlobNames &m_known;
    Statement m_has;
};

bool insertBlobs(sqlite3 *db, const std::vector<Pending> &blobs)
{
    Statement s(db, "INSERT OR IGNORE INTO blob(hash, raw, data) VALUES(?,?,?)");
    for (const Pending &p : blobs) {
        sqlite3_reset(s.s);
        sqlite3_bind_text(s.s, 1, toHex(p.name).c_str(), -1, SQLITE_TRANSIENT);
        sqlite3_bind_int64(s.s, 2, sqlite3_int64(p.raw.size()));
        sqlite3_bind_blob(s.s, 3, p.packed.data(), int(p.packed.size()), SQLITE_STATIC);
        if (s.step() != SQLITE_DONE)
            return false;
    }
    return true;
}

bool insertState(sqlite3 *db, const std::vector<std::byte> &packed, std::size_t raw)
{
    Statement s(db, "INSERT INTO state(saved, manifest, raw) VALUES(datetime('now'),?,?)");
    sqlite3_bind_blob(s.s, 1, packed.data(), int(packed.size()), SQLITE_STATIC);
    sqlite3_bind_int64(s.s, 2, sqlite3_int64(raw));
    return s.step() == SQLITE_DONE;
}

/// Drops old states and, when most blobs belong to none any more, those blobs.
bool dropUnusedBlobs(sqlite3 *db, const BlobNames &used)
{
    if (!run(db, fmt::format("DELETE FROM state WHERE id <= (SELECT max(id) FROM state) - {}", kStatesKept).c_str()))
        return false;
    const auto all = queryInt(db, "SELECT count(hash) FROM blob INDEXED BY sqlite_autoindex_blob_1");
    if (std::size_t(std::max<std::int64_t>(all, 0)) < used.size() * 4 + 64)
        return true;
    if (!run(db, "DELETE FROM state WHERE id < (SELECT max(id) FROM state);"
                 "CREATE TEMP TABLE IF NOT EXISTS used(hash TEXT PRIMARY KEY); DELETE FROM used;"))
        return false;
    Statement s(db, "INSERT INTO used VALUES(?)");
    for (const Hash &h : used) {
        sqlite3_reset(s.s);
        sqlite3_bind_text(s.s, 1, toHex(h).c_str(), -1, SQLITE_TRANSIENT);
        if (s.step() != SQLITE_DONE)
            return false;
    }
    return run(db, "DELETE FROM blob WHERE hash NOT IN (SELECT hash FROM used)");
}

/// Makes the file smaller when it is mostly room that nothing uses, which costs as much as writing the rest. The state is safe
/// already: where there is no room for that (a full disk), the file stays as large as it is.
void giveBackRoom(sqlite3 *db)
{
    constexpr std::int64_t kWorthIt = 16 << 20; // bytes
    const auto pages = queryInt(db, "PRAGMA page_count"), unused = queryInt(db, "PRAGMA freelist_count");
    if (unused * 2 > pages && unused * queryInt(db, "PRAGMA page_size") >= kWorthIt)
        run(db, "VACUUM");
}

StateMark newestOf(sqlite3 *db)
{
    Statement s(db, "SELECT id, manifest FROM state ORDER BY id DESC LIMIT 1");
    if (s.step() != SQLITE_ROW)
        return {};
    const auto *bytes = static_cast<const std::byte *>(sqlite3_column_blob(s.s, 1));
    const Hash hash = hashOf({bytes, std::size_t(sqlite3_column_bytes(s.s, 1))});
    return {sqlite3_column_int64(s.s, 0), hash[0]};
}

/// Blocks remember their hashes while any store writes them.
std::mutex &savingMutex()
{
    static std::mutex mutex;
    return mutex;
}

} // namespace

Result<std::unique_ptr<Store>> Store::open(const std::filesystem::path &path)
{
    auto db = openToWrite(path);
    if (!db)
        return db.error();
    if (queryInt(db->get(), "SELECT count(*) FROM sqlite_master") == 0) {
        if (!makeTables(db->get()))
            return databaseError(db->get(), ErrorCode::Unwritable, shownPath(path));
    } else if (const Status kind = checkKind(db->get(), shownPath(path)); !kind) {
        return kind.error();
    }
    return std::unique_ptr<Store>(new Store(db->release())); // the constructor is private
}

Store::~Store()
{
    sqlite3_close(m_db);
}

Result<Store::Saved> Store::save(const Creature &creature, std::optional<StateMark> last)
{
    const std::lock_guard lock(savingMutex());
    const auto stop = [&](Error e) {
        run(m_db, "ROLLBACK");
        return e;
    };
    if (!run(m_db, "BEGIN IMMEDIATE")) // from here on nobody else takes blobs away or adds a state
        return databaseError(m_db, ErrorCode::Unwritable, "saving");
    if (last && newestOf(m_db) != *last)
        return stop({ErrorCode::Conflict, "saving", "the file was saved by somebody else since it was opened here"});
    Collector collect(m_db, m_known);
    std::string text;
    try { // the JSON library reports text that is no UTF-8 by exception
        text = toManifest(creature, std::ref(collect)).dump();
    } catch (const json::exception &e) {
        return stop({ErrorCode::BadValue, "saving", e.what()});
    }
    std::vector<std::byte> packed;
    forEachBlock(collect.missing.size() + 1, 1, [&](BlockRange r) { // the manifest takes as long as several blocks
        if (r.begin == 0)
            packed = compress(std::as_bytes(std::span(text)));
        else
            collect.missing[r.begin - 1].packed = compress(collect.missing[r.begin - 1].raw);
    });
    const bool done = mark(m_db) && insertBlobs(m_db, collect.missing) && insertState(m_db, packed, text.size())
                      && run(m_db, "DELETE FROM journal") && dropUnusedBlobs(m_db, collect.seen);
    if (!done)
        return stop(databaseError(m_db, ErrorCode::Unwritable, "saving"));
    Saved saved;
    saved.mark = newestOf(m_db);
    if (!run(m_db, "COMMIT"))
        return stop(databaseError(m_db, ErrorCode::Unwritable, "saving"));
    giveBackRoom(m_db);
    saved.blocksWritten = collect.missing.size();
    saved.blocksKept = collect.seen.size() - collect.missing.size();
    for (const Pending &p : collect.missing)
        saved.bytesWritten += p.packed.size();
    m_known = std::move(collect.seen); // dropping unused ones never takes these away
    return saved;
}

Status Store::journal(const json &command)
{
    Statement s(m_db, "INSERT INTO journal(command) VALUES(?)");
    const std::string text = command.dump();
    sqlite3_bind_text(s.s, 1, text.c_str(), int(text.size()), SQLITE_STATIC);
    if (s.step() != SQLITE_DONE)
        return databaseError(m_db, ErrorCode::Unwritable, "journal");
    return Done{};
}

Store::Journal Store::journalEntries()
{
    Journal out;
    Statement s(m_db, "SELECT command FROM journal ORDER BY id");
    while (s.step() == SQLITE_ROW) {
        json command = json::parse(s.text(0), nullptr, false);
        out.unreadable += !command.is_object();
        out.entries.push_back(command.is_object() ? std::move(command) : json());
    }
    return out;
}

bool Store::hasWork() const
{
    // The number of the newest state tells how many there were, however many were dropped since.
    const auto steps = queryInt(m_db, "SELECT (SELECT count(*) FROM journal) + (SELECT ifnull(max(id), 0) FROM state)");
    return steps < 0 || steps > 1; // what cannot be read may be work
}

Result<Loaded> loadStore(const std::filesystem::path &path, const Progress &progress)
{
    std::error_code ec;
    if (!std::filesystem::is_regular_file(path, ec))
        return Error{ErrorCode::Unreadable, shownPath(path),
                     std::filesystem::exists(path, ec) ? "is not a file" : "there is no such file"};
    const auto opened = ReadDatabase::open(path);
    if (!opened)
        return opened.error();
    sqlite3 *raw = (*opened)->get();
    if (const Status kind = checkKind(raw, shownPath(path)); !kind)
        return kind.error();
    // All is read as it was at one moment, whatever somebody saves meanwhile.
    if (!run(raw, "BEGIN"))
        return databaseError(raw, ErrorCode::Unreadable, shownPath(path));
    Statement find(raw, "SELECT raw, data FROM blob WHERE hash=?");
    std::mutex reading; // of the file; blobs are unpacked and checked side by side
    const ReadBlob read = [&](Hash name) -> Result<std::vector<std::byte>> {
        const std::string hex = toHex(name);
        if (progress.isCancelled())
            return Error{ErrorCode::Cancelled, "open", "stopped on request"};
        const Error damaged{ErrorCode::Damaged, "block " + hex.substr(0, 8), "its contents do not match its name"};
        thread_local std::vector<std::byte> packed;
        std::size_t size = 0;
        {
            const std::lock_guard lock(reading);
            sqlite3_reset(find.s);
            sqlite3_bind_text(find.s, 1, hex.c_str(), -1, SQLITE_STATIC);
            if (find.step() != SQLITE_ROW)
                return Error{ErrorCode::Damaged, "block " + hex.substr(0, 8), "is missing"};
            size = std::size_t(sqlite3_column_int64(find.s, 0));
            const auto *data = static_cast<const std::byte *>(sqlite3_column_blob(find.s, 1));
            packed.assign(data, data + sqlite3_column_bytes(find.s, 1));
        }
        if (size > kLargestBlob)
            return damaged;
        auto bytes = expand(packed.data(), packed.size(), size);
        if (!bytes || hashOf(*bytes) != name)
            return damaged;
        return std::move(*bytes);
    };
    Statement states(raw, "SELECT manifest, raw FROM state ORDER BY id DESC");
    Loaded loaded;
    loaded.mark = newestOf(raw);
    while (states.step() == SQLITE_ROW) {
        const auto size = std::size_t(sqlite3_column_int64(states.s, 1));
        const auto text = size < (1u << 30)
                              ? expand(sqlite3_column_blob(states.s, 0), std::size_t(sqlite3_column_bytes(states.s, 0)), size)
                              : std::nullopt;
        const json manifest = text ? json::parse(reinterpret_cast<const char *>(text->data()),
                                                 reinterpret_cast<const char *>(text->data()) + text->size(), nullptr, false)
                                   : json(json::value_t::discarded);
        if (!manifest.is_discarded()) {
            auto creature = fromManifest(manifest, read, loaded.damage);
            if (progress.isCancelled())
                return Error{ErrorCode::Cancelled, "open", "stopped on request"};
            if (creature) {
                loaded.creature = std::move(*creature);
                return loaded;
            }
        }
        loaded.damage.push_back("the newest saved state could not be read; an older one was opened");
    }
    return Error{ErrorCode::Damaged, shownPath(path), "holds no state that can be read"};
}

Result<StateMark> saveAs(const std::filesystem::path &path, const Creature &creature)
{
    auto file = NewFile::beside(path);
    if (!file)
        return file.error();
    StateMark mark;
    {
        auto store = Store::open(file->path());
        if (!store)
            return Error{store.error().code, shownPath(path), store.error().detail};
        const auto saved = (*store)->save(creature);
        if (!saved)
            return Error{saved.error().code, shownPath(path), saved.error().detail};
        mark = saved->mark;
    }
    const auto old = settleBeforeReplacing(file->target()); // held until the new file is in place
    if (!old)
        return old.error();
    if (const Status done = file->commit(); !done)
        return done.error();
    return mark;
}

} // namespace bonemoss::store
