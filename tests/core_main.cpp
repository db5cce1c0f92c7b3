#include "support/run.h"

int main(int argc, char** argv) {
    QCoreApplication application(argc, argv);
    return rasoir::test::runAll(argc, argv);
}
