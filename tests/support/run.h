// Runs several test classes in one program, so that they link once.
#pragma once
#include <QCoreApplication>
#include <QtTest/QtTest>

#include "common/problem.h"
#include "common/progress.h"
#include "operations.h"

namespace rasoir::test {

using TestMaker = QObject* (*)();
inline std::vector<TestMaker>& testMakers() {
    static std::vector<TestMaker> makers;
    return makers;
}
template <class Test>
struct Registered {
    Registered() {
        testMakers().push_back([]() -> QObject* { return new Test; });
    }
};
/// RASOIR_ONLY=FilesTest runs that class alone, so that a function can be named on the command line.
inline int runAll(int argc, char** argv) {
    int failures = 0;
    const QByteArray only = qgetenv("RASOIR_ONLY");
    for (const TestMaker make : testMakers()) {
        const std::unique_ptr<QObject> test(make());
        if (!only.isEmpty() && !QByteArray(test->metaObject()->className()).endsWith("::" + only)) continue;
        failures += QTest::qExec(test.get(), argc, argv);
    }
    return failures;
}

/// The problem's sentence for QVERIFY2, or "fine".
template <class T>
const char* said(const Result<T>& result) {
    static thread_local std::string text;
    text = result ? "fine" : sentence(result.error());
    return text.c_str();
}
inline Progress& quietly() {
    static Progress progress;
    return progress;
}
/// One step, as the ledger would run it.
inline Result<Outcome> run(const Model& model, const std::string& operation, const Json& parameters = Json::object()) {
    return findOperation(operation)->run(model, parameters, quietly());
}
/// Folder of the committed demo files.
inline std::string demoFile(const std::string& name) {
    return std::string(RASOIR_SOURCE_DIR) + "/demo-data/" + name;
}

}  // namespace rasoir::test

#define QCOMPARE_NEAR(actual, wanted, allowed)                                                               \
    QVERIFY2(std::abs((actual) - (wanted)) <= (allowed), qPrintable(QString("%1 is %2, wanted %3 within %4") \
                                                                        .arg(#actual)                        \
                                                                        .arg(double(actual), 0, 'g', 15)     \
                                                                        .arg(double(wanted), 0, 'g', 15)     \
                                                                        .arg(double(allowed))))
