#include "support/run.h"

#include <QTemporaryFile>

#include <cstdio>
#include <vector>

#include <csignal>
#include <fcntl.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

namespace bonemoss::test {

namespace {

std::vector<const Entry *> &entries()
{
    static std::vector<const Entry *> all;
    return all;
}

} // namespace

Entry::Entry(const char *file, std::function<int(QStringList)> body) : name(file), run(std::move(body))
{
    name.remove_prefix(name.rfind('/') + 1);
    name.remove_suffix(name.size() - name.rfind('.'));
    entries().push_back(this);
}

Ran runProgram(const QString &program, const QStringList &words, const QString &folder)
{
    QTemporaryFile out, err;
    if (!out.open() || !err.open())
        return {-1, {}, "no temporary file"};
    std::vector<QByteArray> bytes{QFile::encodeName(program)};
    for (const QString &word : words)
        bytes.push_back(QFile::encodeName(word));
    std::vector<char *> arguments;
    for (QByteArray &b : bytes)
        arguments.push_back(b.data());
    arguments.push_back(nullptr);
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addchdir_np(&actions, QFile::encodeName(folder).constData());
    posix_spawn_file_actions_addopen(&actions, STDIN_FILENO, "/dev/null", O_RDONLY, 0);
    posix_spawn_file_actions_adddup2(&actions, out.handle(), STDOUT_FILENO);
    posix_spawn_file_actions_adddup2(&actions, err.handle(), STDERR_FILENO);
    pid_t child = 0;
    const int failed = ::posix_spawnp(&child, arguments[0], &actions, nullptr, arguments.data(), environ);
    posix_spawn_file_actions_destroy(&actions);
    if (failed)
        return {-1, {}, "not started"};
    int status = 0;
    QElapsedTimer clock;
    clock.start();
    while (::waitpid(child, &status, WNOHANG) == 0) {
        if (clock.elapsed() > 300000)
            ::kill(child, SIGKILL);
        QTest::qSleep(5);
    }
    out.seek(0), err.seek(0);
    return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, out.readAll(), err.readAll()};
}

int runTests(int argc, char **argv)
{
    QStringList arguments;
    for (int i = 0; i < argc; ++i)
        arguments << QString::fromLocal8Bit(argv[i]);
    const std::string wanted = argc > 1 ? argv[1] : "";
    const bool isNamed = wanted.starts_with("tst_");
    if (isNamed)
        arguments.removeAt(1);
    int failed = 0;
    bool isFound = false;
    for (const Entry *e : entries())
        if (!isNamed || e->name == wanted)
            isFound = true, failed += e->run(arguments);
    if (!isFound)
        std::fprintf(stderr, "there is no test %s here\n", wanted.c_str());
    return isFound ? failed : 1;
}

} // namespace bonemoss::test
