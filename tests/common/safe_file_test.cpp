#include "common/safe_file.h"

#include <sys/resource.h>

#include <csignal>
#include <fstream>
#include <QTemporaryDir>

#include "common/hash.h"
#include "support/run.h"

namespace rasoir::test {
namespace fs = std::filesystem;

class SafeFileTest : public QObject {
    Q_OBJECT
private slots:
    void whatIsWrittenIsReadBack() {
        const QTemporaryDir folder;
        const fs::path path = folder.path().toStdString() + "/a.json";
        QVERIFY(writeText(path, "one"));
        QVERIFY(writeText(path, "two"));
        QCOMPARE(*readText(path), std::string("two"));
        QCOMPARE(std::distance(fs::directory_iterator(path.parent_path()), fs::directory_iterator()),
                 1);  // nothing left beside
    }
    void aFailedWriteLeavesTheOldFile() {
        const QTemporaryDir folder;
        const fs::path path = folder.path().toStdString() + "/a.json";
        QVERIFY(writeText(path, "old"));
        const auto failed = writeBeside(path, [](const fs::path& beside) -> Result<void> {
            std::ofstream(beside) << "half";
            return fail(ProblemKind::Storage, "no more room");
        });
        QVERIFY(!failed);
        QCOMPARE(failed.error().kind, ProblemKind::Storage);
        QCOMPARE(*readText(path), std::string("old"));
        QCOMPARE(std::distance(fs::directory_iterator(path.parent_path()), fs::directory_iterator()), 1);
    }
    void aFileIsKnownByItsHash() {
        const QTemporaryDir folder;
        const fs::path path = folder.path().toStdString() + "/a.txt";
        QVERIFY(writeText(path, "abc"));  // the standard's own example
        QCOMPARE(*sha256Of(path), std::string("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"));
        QVERIFY(!sha256Of(path.string() + ".none"));
    }
    void aFullDiskIsSaid() {
        // /dev/full answers every write as a full disk does; the real thing goes through the same branch.
        if (!fs::exists("/dev/full")) QSKIP("no /dev/full here");
        const QTemporaryDir folder;
        const fs::path path = folder.path().toStdString() + "/a.json";
        QVERIFY(writeText(path, "old"));
        const auto failed = writeBeside(path, [](const fs::path&) -> Result<void> {
            std::ofstream out("/dev/full");
            out << std::string(1 << 16, 'x');
            out.flush();
            if (!out) return fail(ProblemKind::Storage, "No space left on device");
            return {};
        });
        QVERIFY(!failed);
        QVERIFY(failed.error().what.find("No space left") != std::string::npos);
        QCOMPARE(*readText(path), std::string("old"));
    }
    void aFileCutShortBySystemLimitsLeavesTheOldOne() {
        // The system stops the write half way, as a disk that fills up does.
        const QTemporaryDir folder;
        const fs::path path = folder.path().toStdString() + "/a.json";
        QVERIFY(writeText(path, "old"));
        rlimit before{};
        QCOMPARE(getrlimit(RLIMIT_FSIZE, &before), 0);
        std::signal(SIGXFSZ, SIG_IGN);
        rlimit small = before;
        small.rlim_cur = 1000;
        QCOMPARE(setrlimit(RLIMIT_FSIZE, &small), 0);
        const auto failed = writeText(path, std::string(100000, 'x'));
        setrlimit(RLIMIT_FSIZE, &before);
        std::signal(SIGXFSZ, SIG_DFL);
        QVERIFY(!failed);
        QCOMPARE(failed.error().kind, ProblemKind::Storage);
        QCOMPARE(*readText(path), std::string("old"));
        QCOMPARE(std::distance(fs::directory_iterator(path.parent_path()), fs::directory_iterator()), 1);
    }
    void missingFoldersAndFoldersAreSaid() {
        QVERIFY(!writeText("/nowhere/at/all/a.json", "x"));
        const QTemporaryDir folder;
        QVERIFY(!writeText(folder.path().toStdString(), "x"));
        QVERIFY(!readText(folder.path().toStdString()));
        QVERIFY(!readText(folder.path().toStdString() + "/none"));
    }
};

static Registered<SafeFileTest> safeFileTest;

}  // namespace rasoir::test

#include "safe_file_test.moc"
