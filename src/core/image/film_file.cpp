#include "image/film_file.h"

#include "base/files.h"
#include "image/detail/load_module.h"
#include "image/detail/picture_module.h"

#include <fmt/format.h>

#include <sys/socket.h>
#include <sys/wait.h>
#include <fcntl.h>
#include <spawn.h>
#include <unistd.h>

#include <cstdlib>
#include <string>
#include <vector>

extern char **environ;

namespace bonemoss::image {

namespace {

class WebpFilm : public FilmFile
{
public:
    WebpFilm(std::filesystem::path path, void *film, int framesPerSecond)
        : m_path(std::move(path)), m_film(film), m_perSecond(framesPerSecond)
    {}
    ~WebpFilm() override
    {
        if (m_film)
            fromModule<BonemossEndFilm>("bonemossEndFilm")(m_film, 0, nullptr, nullptr);
    }
    Status add(const ColourPicture &frame) override
    {
        if (fromModule<BonemossAddFrame>("bonemossAddFrame")(m_film, frame.rgba.data(), m_frames++ * 1000 / m_perSecond))
            return Done{};
        return Error{ErrorCode::Unwritable, shownPath(m_path), "a frame could not be added; is there too little memory?"};
    }
    Status finish() override
    {
        std::uint8_t *bytes = nullptr;
        std::size_t size = 0;
        const int isMade = fromModule<BonemossEndFilm>("bonemossEndFilm")(std::exchange(m_film, nullptr),
                                                                          m_frames * 1000 / m_perSecond, &bytes, &size);
        const std::unique_ptr<std::uint8_t, void (*)(void *)> held(bytes, std::free);
        if (!isMade)
            return Error{ErrorCode::Unwritable, shownPath(m_path), "the film could not be put together"};
        return writeFile(m_path, std::string_view(reinterpret_cast<const char *>(bytes), size));
    }

private:
    std::filesystem::path m_path;
    void *m_film;
    int m_perSecond, m_frames = 0;
};

/// Frames go to an encoder of the machine's through a socket, since a closed one is an error there and no signal.
class EncodedFilm : public FilmFile
{
public:
    static Result<std::unique_ptr<FilmFile>> begin(const std::filesystem::path &path, int width, int height, int framesPerSecond)
    {
        auto film = std::unique_ptr<EncodedFilm>(new EncodedFilm);
        film->m_path = path, film->m_part = path;
        film->m_part += ".part.mp4";
        int ends[2];
        if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0)
            return Error{ErrorCode::Unwritable, shownPath(path), "no way to the encoder could be opened"};
        film->m_socket = ends[0];
        const std::string size = fmt::format("{}x{}", width, height), rate = std::to_string(framesPerSecond);
        const std::vector<std::string> words{"ffmpeg",
                                             "-y",
                                             "-loglevel",
                                             "error",
                                             "-f",
                                             "rawvideo",
                                             "-pixel_format",
                                             "rgba",
                                             "-video_size",
                                             size,
                                             "-framerate",
                                             rate,
                                             "-i",
                                             "-",
                                             "-vf",
                                             "pad=ceil(iw/2)*2:ceil(ih/2)*2",
                                             "-pix_fmt",
                                             "yuv420p",
                                             "-movflags",
                                             "+faststart",
                                             film->m_part.native()};
        std::vector<char *> arguments;
        for (const std::string &w : words)
            arguments.push_back(const_cast<char *>(w.c_str()));
        arguments.push_back(nullptr);
        posix_spawn_file_actions_t actions;
        posix_spawn_file_actions_init(&actions);
        posix_spawn_file_actions_adddup2(&actions, ends[1], 0);
        const int failed = posix_spawnp(&film->m_encoder, "ffmpeg", &actions, nullptr, arguments.data(), environ);
        posix_spawn_file_actions_destroy(&actions);
        close(ends[1]);
        if (failed) {
            film->m_encoder = -1;
            return Error{ErrorCode::Unsupported, shownPath(path),
                         "MP4 needs the program ffmpeg, which this machine has not; write .webp, or install it"};
        }
        return std::unique_ptr<FilmFile>(std::move(film));
    }
    ~EncodedFilm() override
    {
        end();
        std::error_code ec;
        std::filesystem::remove(m_part, ec);
    }
    Status add(const ColourPicture &frame) override
    {
        const std::uint8_t *from = frame.rgba.data();
        for (std::size_t left = frame.rgba.size(); left > 0;) {
            const ssize_t n = send(m_socket, from, left, MSG_NOSIGNAL);
            if (n <= 0)
                return Error{ErrorCode::Unwritable, shownPath(m_path), "the encoder took no more frames; is the disk full?"};
            from += n, left -= std::size_t(n);
        }
        return Done{};
    }
    Status finish() override
    {
        std::error_code ec;
        if (end() != 0)
            return Error{ErrorCode::Unwritable, shownPath(m_path), "the encoder failed; is the disk full?"};
        std::filesystem::rename(m_part, m_path, ec);
        return ec ? Status(Error{ErrorCode::Unwritable, shownPath(m_path), ec.message()}) : Status(Done{});
    }

private:
    int end()
    {
        if (m_socket >= 0)
            close(std::exchange(m_socket, -1));
        int state = -1;
        if (m_encoder > 0)
            waitpid(std::exchange(m_encoder, -1), &state, 0);
        return state;
    }
    std::filesystem::path m_path, m_part;
    int m_socket = -1;
    pid_t m_encoder = -1;
};

} // namespace

Result<std::unique_ptr<FilmFile>> FilmFile::begin(const std::filesystem::path &path, int width, int height, int framesPerSecond)
{
    if (width < 1 || height < 1 || width > 16383 || height > 16383 || framesPerSecond < 1 || framesPerSecond > 120)
        return Error{ErrorCode::BadValue, "film", "must be 1 to 16,383 pixels wide and high, of 1 to 120 frames a second"};
    if (path.extension() == ".mp4")
        return EncodedFilm::begin(path, width, height, framesPerSecond);
    if (path.extension() != ".webp")
        return Error{ErrorCode::Unsupported, shownPath(path), "films are written as .webp, or as .mp4 where there is an encoder"};
    const auto start = fromModule<BonemossBeginFilm>("bonemossBeginFilm");
    if (!start)
        return noModule();
    if (void *film = start(width, height, 82))
        return std::unique_ptr<FilmFile>(new WebpFilm(path, film, framesPerSecond));
    return Error{ErrorCode::Unsupported, shownPath(path), "the film could not be begun"};
}

} // namespace bonemoss::image
