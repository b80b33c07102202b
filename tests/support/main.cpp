#include "support/run.h"

int main(int argc, char **argv)
{
    QCoreApplication app(argc, argv);
    return bonemoss::test::runTests(argc, argv);
}
