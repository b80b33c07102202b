#pragma once

#include "base/result.h"

#include <cstddef>
#include <filesystem>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

namespace bonemoss {

/// Whole file. Errors: Unreadable (with the system's words), for folders too.
Result<std::vector<std::byte>> readFile(const std::filesystem::path &path);

/// The one way to write a file of ours: a new file beside the target, under a name that no other program uses, that takes the
/// target's place when it is whole. Until then the target is not touched. Goes away by itself when it is not committed.
class NewFile
{
public:
    /// Makes the new file, empty. A target that is a link is followed. Errors: Unwritable.
    static Result<NewFile> beside(const std::filesystem::path &target);
    ~NewFile() { discard(); }
    NewFile(NewFile &&other) noexcept : m_target(std::move(other.m_target)), m_part(std::move(other.m_part))
    {
        other.m_part.clear();
    }
    NewFile &operator=(NewFile &&) = delete;

    const std::filesystem::path &path() const { return m_part; } ///< where to write
    const std::filesystem::path &target() const { return m_target; }
    Status write(std::string_view bytes);  ///< the file's whole contents
    Status append(std::string_view bytes); ///< behind what was appended before
    /// Syncs the file, gives it the target's permissions, renames it, syncs the folder. Errors: Unwritable; the target is then
    /// as it was.
    Status commit();
    void discard();

private:
    Status put(std::string_view bytes, int flag); ///< of open()
    NewFile(std::filesystem::path target, std::filesystem::path part) : m_target(std::move(target)), m_part(std::move(part)) {}
    std::filesystem::path m_target, m_part;
};

/// Puts a file with these bytes in place, as NewFile does.
Status writeFile(const std::filesystem::path &path, std::string_view bytes);

/// A lock that one process at a time holds and that the system takes away when the process ends, however it ends, and in
/// whichever container it ran.
class FileLock
{
public:
    enum class Failure { Held, Impossible }; ///< by another holder; or the lock file cannot be made here
    /// Takes the lock, on a file of that path, which is made when not there. words are left in it for who finds it held.
    static std::variant<FileLock, Failure> take(const std::filesystem::path &path, std::string_view words = {});
    /// Whether somebody holds it, without taking it.
    static bool isHeld(const std::filesystem::path &path);
    ~FileLock() { release(); }
    FileLock(FileLock &&other) noexcept : m_path(std::move(other.m_path)), m_fd(std::exchange(other.m_fd, -1)) {}
    FileLock &operator=(FileLock &&other) noexcept
    {
        release();
        m_path = std::move(other.m_path), m_fd = std::exchange(other.m_fd, -1);
        return *this;
    }

private:
    FileLock(std::filesystem::path path, int fd) : m_path(std::move(path)), m_fd(fd) {}
    void release(); ///< removes its file
    std::filesystem::path m_path;
    int m_fd = -1;
};

/// A path as text that is valid UTF-8, for messages, recipes and JSON: bytes that are not become U+FFFD.
std::string shownPath(const std::filesystem::path &path);

} // namespace bonemoss
