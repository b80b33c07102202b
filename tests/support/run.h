#pragma once

#include <QtTest>

#include <functional>
#include <string_view>

namespace bonemoss::test {

/// A class of tests in a program that holds several: ctest names the one to run by the name of its file.
struct Entry {
    Entry(const char *file, std::function<int(QStringList)> run);
    std::string_view name; ///< "tst_layers"
    std::function<int(QStringList)> run;
};
/// Runs the class that the first argument names with the other arguments; all of them when none is named.
int runTests(int argc, char **argv);

/// What a program that a test started has said.
struct Ran {
    int code; ///< -1: it crashed, or took too long
    QByteArray out, err;
};
/// Starts a program and waits for it, five minutes at most. It is started by posix_spawn, which the thread sanitizer can follow.
Ran runProgram(const QString &program, const QStringList &words, const QString &folder = QStringLiteral("."));

} // namespace bonemoss::test

#define BONEMOSS_TEST(Class)                                                                                                     \
    static const ::bonemoss::test::Entry s_entry##Class(__FILE__, [](QStringList arguments) {                                    \
        Class object;                                                                                                            \
        return QTest::qExec(&object, arguments);                                                                                 \
    });
