// Puts a page of HTML on paper: rasoir-paper PAGE.html OUT.pdf. A program of its own, which the command line starts
// when a PDF is asked for: loading Qt and the libraries below it would cost every other command a third of its start.
#include <fmt/format.h>

#include "common/safe_file.h"
#include "pdf.h"
#include "terminal.h"

int main(int argc, char** argv) {
    using namespace rasoir;
    if (argc != 3) {
        fmt::print(stderr, "usage: rasoir-paper PAGE.html OUT.pdf\n");
        return cli::BadUse;
    }
    const auto page = readText(argv[1]);
    if (!page) return cli::complain(page.error());
    const auto done = print::writePdf(*page, argv[2]);
    return done ? cli::Fine : cli::complain(done.error());
}
