#include "support/run.h"

#include <cstdio>
#include <vector>

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
