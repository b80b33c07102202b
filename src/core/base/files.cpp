#include "base/files.h"

#include <atomic>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <random>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

namespace bonemoss {

namespace {

/// A file descriptor that closes itself.
struct Descriptor {
    int fd = -1;
    explicit Descriptor(int opened) : fd(opened) {}
    ~Descriptor()
    {
        if (fd >= 0)
            ::close(fd);
    }
    Descriptor(const Descriptor &) = delete;
    Descriptor &operator=(const Descriptor &) = delete;
    explicit operator bool() const { return fd >= 0; }
};

Error unwritable(const std::filesystem::path &path, int code)
{
    return {ErrorCode::Unwritable, shownPath(path), std::strerror(code)};
}

bool writeAll(int fd, std::string_view bytes)
{
    for (std::size_t done = 0; done < bytes.size();) {
        const ssize_t n = ::write(fd, bytes.data() + done, bytes.size() - done);
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return false;
        done += std::size_t(n);
    }
    return true;
}

/// A name that no other program, thread or earlier run chose. Names may not be longer than 255 bytes.
std::string freshName(const std::string &name)
{
    static std::atomic<unsigned> count{0};
    static const unsigned start = std::random_device{}();
    constexpr std::size_t kMostOfName = 200;
    const std::string ending = std::filesystem::path(name).extension().string(); // some writers choose the format by it
    std::string out(1, '.');
    out.append(name, 0, kMostOfName).append(".").append(std::to_string(::getpid()));
    out.append("-").append(std::to_string(start + count++)).append(".part");
    return out.append(ending.size() < 12 ? ending : std::string());
}

std::filesystem::path folderOf(const std::filesystem::path &path)
{
    return path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
}

} // namespace

Result<std::vector<std::byte>> readFile(const std::filesystem::path &path)
{
    const auto fail = [&](const char *why) { return Error{ErrorCode::Unreadable, shownPath(path), why}; };
    const Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK)); // a pipe would make it wait for ever
    if (!file)
        return fail(std::strerror(errno));
    struct stat info = {};
    if (::fstat(file.fd, &info) != 0 || !S_ISREG(info.st_mode))
        return fail(S_ISDIR(info.st_mode) ? "is a folder, not a file" : "is not a regular file");
    std::vector<std::byte> bytes(std::size_t(info.st_size));
    std::size_t done = 0;
    while (done < bytes.size()) {
        const ssize_t n = ::read(file.fd, bytes.data() + done, bytes.size() - done);
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            break;
        done += std::size_t(n);
    }
    if (done != bytes.size())
        return fail("could not be read to its end");
    return bytes;
}

Result<NewFile> NewFile::beside(const std::filesystem::path &wanted)
{
    std::error_code ec;
    std::filesystem::path target = wanted;
    if (std::filesystem::is_symlink(target, ec))
        target = std::filesystem::weakly_canonical(target, ec);
    if (std::filesystem::is_directory(target, ec))
        return unwritable(wanted, EISDIR);
    if (target.filename().empty())
        return unwritable(wanted, ENOENT);
    for (;;) {
        const std::filesystem::path part = folderOf(target) / freshName(target.filename().string());
        const Descriptor made(::open(part.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666));
        if (made)
            return NewFile(std::move(target), part);
        if (errno != EEXIST)
            return unwritable(wanted, errno);
    }
}

Status NewFile::put(std::string_view bytes, int flag)
{
    const Descriptor file(::open(m_part.c_str(), O_WRONLY | O_CLOEXEC | flag));
    if (!file || !writeAll(file.fd, bytes))
        return unwritable(m_target, errno);
    return Done{};
}

Status NewFile::write(std::string_view bytes)
{
    return put(bytes, O_TRUNC);
}

Status NewFile::append(std::string_view bytes)
{
    return put(bytes, O_APPEND);
}

Status NewFile::commit()
{
    {
        const Descriptor file(::open(m_part.c_str(), O_RDWR | O_CLOEXEC));
        if (!file || ::fsync(file.fd) != 0)
            return unwritable(m_target, errno);
        struct stat old = {};
        if (::stat(m_target.c_str(), &old) == 0 && S_ISREG(old.st_mode))
            static_cast<void>(::fchmod(file.fd, old.st_mode & 07777)); // no reason to lose what was written
    }
    if (std::rename(m_part.c_str(), m_target.c_str()) != 0)
        return unwritable(m_target, errno);
    m_part.clear();
    // The file is in place; a folder that cannot be synced (some network disks) takes nothing away from that.
    const Descriptor folder(::open(folderOf(m_target).c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (folder)
        ::fsync(folder.fd);
    return Done{};
}

void NewFile::discard()
{
    if (!m_part.empty())
        ::unlink(m_part.c_str());
    m_part.clear();
}

Status writeFile(const std::filesystem::path &path, std::string_view bytes)
{
    auto file = NewFile::beside(path);
    if (!file)
        return file.error();
    if (const Status written = file->write(bytes); !written)
        return written;
    return file->commit();
}

std::variant<FileLock, FileLock::Failure> FileLock::take(const std::filesystem::path &path, std::string_view words)
{
    for (;;) {
        Descriptor file(::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666));
        if (!file)
            return Failure::Impossible;
        if (::flock(file.fd, LOCK_EX | LOCK_NB) != 0)
            return errno == EWOULDBLOCK ? Failure::Held : Failure::Impossible;
        // Between opening and locking, its last holder may have removed it: then this is the lock of nothing.
        struct stat mine = {}, there = {};
        if (::fstat(file.fd, &mine) != 0 || ::stat(path.c_str(), &there) != 0 || mine.st_ino != there.st_ino
            || mine.st_dev != there.st_dev)
            continue;
        if (!words.empty() && (::ftruncate(file.fd, 0) != 0 || !writeAll(file.fd, words)))
            return Failure::Impossible;
        return FileLock(path, std::exchange(file.fd, -1));
    }
}

bool FileLock::isHeld(const std::filesystem::path &path)
{
    const Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
    return file && ::flock(file.fd, LOCK_SH | LOCK_NB) != 0 && errno == EWOULDBLOCK;
}

void FileLock::release()
{
    if (m_fd < 0)
        return;
    ::unlink(m_path.c_str()); // first, so that nobody locks a file that goes away
    ::close(m_fd);
    m_fd = -1;
}

std::string shownPath(const std::filesystem::path &path)
{
    const std::string &bytes = path.native();
    std::string out;
    out.reserve(bytes.size());
    for (std::size_t i = 0; i < bytes.size();) {
        const auto byte = [&](std::size_t k) { return static_cast<unsigned char>(bytes[k]); };
        const unsigned char first = byte(i);
        const std::size_t n = first < 0x80                    ? 1
                              : first >= 0xC2 && first < 0xE0 ? 2
                              : first >= 0xE0 && first < 0xF0 ? 3
                              : first >= 0xF0 && first < 0xF5 ? 4
                                                              : 0;
        bool isWhole = n > 0 && i + n <= bytes.size();
        for (std::size_t k = 1; isWhole && k < n; ++k)
            isWhole = (byte(i + k) & 0xC0) == 0x80;
        if (isWhole && n >= 3) // overlong forms, surrogates, beyond U+10FFFF: RFC 3629, section 4
            isWhole = !(first == 0xE0 && byte(i + 1) < 0xA0) && !(first == 0xED && byte(i + 1) > 0x9F)
                      && !(first == 0xF0 && byte(i + 1) < 0x90) && !(first == 0xF4 && byte(i + 1) > 0x8F);
        if (isWhole)
            out.append(bytes, i, n), i += n;
        else
            out += "\xEF\xBF\xBD", ++i;
    }
    return out;
}

} // namespace bonemoss
