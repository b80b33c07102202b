#pragma once

#include <QProcess>
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

/// A program that a test starts. It is started by a plain fork: after a fork that shares memory the thread sanitizer takes this
/// process for the child.
class Process : public QProcess
{
public:
    Process()
    {
        setChildProcessModifier([] {});
    }
};

} // namespace bonemoss::test

#define BONEMOSS_TEST(Class)                                                                                                     \
    static const ::bonemoss::test::Entry s_entry##Class(__FILE__, [](QStringList arguments) {                                    \
        Class object;                                                                                                            \
        return QTest::qExec(&object, arguments);                                                                                 \
    });
