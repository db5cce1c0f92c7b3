// Reads the sources: what the product exists for is written here, not called from the kernel.
#include <QDirIterator>
#include <QFile>
#include <QProcess>
#include <QRegularExpression>

#include "support/run.h"

namespace rasoir::test {

class SourcesTest : public QObject {
    Q_OBJECT

    static QStringList filesIn(const QString& folder) {
        QStringList files;
        QDirIterator it(QString(RASOIR_SOURCE_DIR) + "/" + folder, {"*.h", "*.cpp"}, QDir::Files,
                        QDirIterator::Subdirectories);
        while (it.hasNext()) files << it.next();
        return files;
    }
    static QString textOf(const QString& path) {
        QFile file(path);
        return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
    }
    static const QRegularExpression& overTheLine() {
        static const QRegularExpression line(
            "\\b(ShapeFix|ShapeUpgrade|ShapeAnalysis|ShapeBuild|ShapeCustom|ShapeExtend|ShapeProcess|BRepAlgoAPI|"
            "BRepAlgo|BOPAlgo|BOPDS|BOPTools|"
            "IntTools|TopOpeBRep|BRepFeat|LocOpe|BRepOffset|BRepMAT2d)\\w*|\\bBRepBuilderAPI_(Sewing|FastSewing)\\b");
        return line;
    }

    /// Lines of a source with a small number (1e-7) that nobody gives a reason for: neither in a comment on a line of
    /// its statement nor in one right above the statement. What a sentence for the user contains does not count.
    static QStringList unexplainedNumbers(const QString& source) {
        static const QRegularExpression texts("\"(\\\\.|[^\"\\\\])*\""), number("\\de-\\d"),
            ended("[;{}:]\\s*(//.*)?$");
        QStringList lines = source.split('\n'), found;
        for (QString& line : lines) line.replace(texts, "\"\"");
        for (int i = 0; i < lines.size(); ++i) {
            if (!lines[i].section("//", 0, 0).contains(number)) continue;
            int first = i;
            const auto begins = [&](int line) {
                const QString before = lines[line - 1].trimmed();
                return before.isEmpty() || before.startsWith("//") || before.startsWith('#') || before.contains(ended);
            };
            while (first > 0 && !begins(first)) --first;
            bool told = first > 0 && lines[first - 1].trimmed().startsWith("//");
            for (int line = first; line <= i; ++line) told = told || lines[line].contains("//");
            if (!told) found << lines[i].trimmed();
        }
        return found;
    }

private slots:
    void coreAppAndCliStayOnOurSideOfTheLine() {
        QStringList files = filesIn("core") + filesIn("app") + filesIn("cli") + filesIn("print");
        QVERIFY(files.size() > 40);
        for (const QString& path : files) {
            const auto found = overTheLine().match(textOf(path));
            QVERIFY2(!found.hasMatch(), qPrintable(path + ": " + found.captured()));
        }
    }
    void theLineIsWatched() {  // the pattern itself catches what it should
        for (const char* bad : {"ShapeFix_Shape fix;", "#include <BRepAlgoAPI_Cut.hxx>", "BRepBuilderAPI_Sewing s;",
                                "BRepOffsetAPI_MakeFilling f;", "TopOpeBRepTool x"})
            QVERIFY2(overTheLine().match(bad).hasMatch(), bad);
        for (const char* fine : {"BRepBuilderAPI_Transform t;", "BRepCheck_Analyzer a;", "GeomAPI_IntSS i;"})
            QVERIFY2(!overTheLine().match(fine).hasMatch(), fine);
    }
    void theCoreKnowsNoWindow() {
        for (const QString& path : filesIn("core")) {
            const QString text = textOf(path);
            QVERIFY2(!text.contains(QRegularExpression("#include <Q[A-Z]")) && !text.contains("#include <AIS_") &&
                         !text.contains("#include <V3d_"),
                     qPrintable(path));
        }
    }
    void oneFormatEverywhere() {
        QStringList files;
        for (const char* folder : {"core", "app", "cli", "print", "python", "tests", "tools"}) files += filesIn(folder);
        QProcess formatter;
        formatter.setProcessChannelMode(QProcess::MergedChannels);
        formatter.start("clang-format", QStringList{"--dry-run", "-Werror", "-style=file"} + files);
        QVERIFY2(formatter.waitForFinished(120000), "clang-format is missing, or hangs");
        const QByteArray said = formatter.readAll();
        QVERIFY2(formatter.exitCode() == 0, said.left(2000) + "\nRun tools/format.");
    }
    void smallNumbersHaveAReason() {
        for (const QString& path : filesIn("core")) {
            if (path.endsWith("common/tolerance.h")) continue;  // there every number has its own
            const QStringList found = unexplainedNumbers(textOf(path));
            QVERIFY2(found.isEmpty(), qPrintable(path + ": " + found.join("\n") +
                                                 "\nTake it from common/tolerance.h, or say why it is what it is."));
        }
    }
    void reasonsAreAskedFor() {
        for (const char* bare :
             {"if (x < 1e-9) return;", "int a;\nif (x < y &&\n    z < 2.5e-3)", "f(\"// 1e-3\", 1e-3);"})
            QCOMPARE(unexplainedNumbers(bare).size(), 1);
        for (const char* told :
             {"if (x < 1e-9) return;  // of a turn", "// Of a turn.\nif (x < y &&\n    z < 1e-3)",
              "if (x < y &&  // of a turn\n    z < 1e-3)", "say(\"1e-3\");", "x = Tolerance::least;"})
            QVERIFY2(unexplainedNumbers(told).isEmpty(), told);
    }
    void everyHeaderSaysWhatItIs() {
        for (const QString& path : filesIn("core") + filesIn("app") + filesIn("cli") + filesIn("print")) {
            if (!path.endsWith(".h")) continue;
            const QString text = textOf(path);
            QVERIFY2(text.startsWith("//"), qPrintable(path));
            QVERIFY2(text.contains("#pragma once"), qPrintable(path));
        }
    }
};

static Registered<SourcesTest> sourcesTest;

}  // namespace rasoir::test

int main(int argc, char** argv) {
    QCoreApplication application(argc, argv);
    return rasoir::test::runAll(argc, argv);
}

#include "kernel_line_test.moc"
