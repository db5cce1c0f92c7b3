#include "common/text.h"

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class TextTest : public QObject {
    Q_OBJECT
private slots:
    void lengthsAreReadWithTheirUnits_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<double>("millimetres");
        QTest::newRow("bare") << "8" << 8.0;
        QTest::newRow("unit") << "8 mm" << 8.0;
        QTest::newRow("no space") << "8mm" << 8.0;
        QTest::newRow("inch") << "0.5in" << 12.7;
        QTest::newRow("fraction") << "1/4in" << 6.35;
        QTest::newRow("metre") << "0.1 m" << 100.0;
        QTest::newRow("elements") << "2 el" << 6.0;
        QTest::newRow("elements, dense") << "2el" << 6.0;
        QTest::newRow("exponent") << "1e-3 m" << 1.0;
        QTest::newRow("decimal comma") << "2,5" << 2.5;
        QTest::newRow("foot") << "1 foot" << 304.8;
        QTest::newRow("product") << "3*2.5" << 7.5;
        QTest::newRow("sum of units") << "1 in + 2 mm" << 27.4;
        QTest::newRow("brackets") << "(10-4)/2 mm" << 3.0;
        QTest::newRow("length less a bare number") << "1 in - 0.4" << 25.0;
        QTest::newRow("times a length") << "3 * 1/4in" << 19.05;
        QTest::newRow("length by number") << "2 el / 4" << 1.5;
    }
    void lengthsAreReadWithTheirUnits() {
        QFETCH(QString, typed);
        QFETCH(double, millimetres);
        const auto length = parseLength(typed.toStdString(), Unit::Millimetre, 3.0);
        QVERIFY2(length, said(length));
        QCOMPARE_NEAR(*length, millimetres, 1e-12 * millimetres);
    }
    void nonsenseIsRefusedWithWhatWasTyped() {
        for (const char* typed : {"", "abc", "-3", "1/0", "nan", "inf", "8 parsec", "1//2", "2 el x", "--4", "1e999",
                                  "2 mm * 3 mm", "(3", "3)", "3*", "2 mm in", "1-2"}) {
            const auto length = parseLength(typed, Unit::Millimetre, 3.0);
            QVERIFY2(!length, typed);
            QVERIFY(length.error().what.find(typed) != std::string::npos);
        }
    }
    void numbersAreReadable() {
        QCOMPARE(readable(1234567.0, 0), std::string("1\u2009234\u2009567"));
        QCOMPARE(readable(-12.5, 1), std::string("\u221212.5"));
        QCOMPARE(readable(-0.001, 1), std::string("0.0"));
        QCOMPARE(readable(0.0), std::string("0"));
        QCOMPARE(readable(6.5), std::string("6.5"));
        QCOMPARE(readable(999.96, 1), std::string("1\u2009000.0"));
        QCOMPARE(readableChange(3.0, 0), std::string("+3"));
        QCOMPARE(counted(1, "hole"), std::string("1 hole"));
        QCOMPARE(counted(2, "hole"), std::string("2 holes"));
    }
    void encodingsAreRepaired() {
        QCOMPARE(repairedEncoding("plain"), std::string("plain"));
        QCOMPARE(repairedEncoding("Tr\u00e4ger"), std::string("Tr\u00e4ger"));        // in order
        QCOMPARE(repairedEncoding("Tr\u00c3\u00a4ger"), std::string("Tr\u00e4ger"));  // UTF-8 taken for Latin-1
        QCOMPARE(repairedEncoding("Tr\u00c3\u0192\u00c2\u00a4ger"),
                 std::string("Tr\u00e4ger"));                                     // twice, by the Windows page
        QCOMPARE(repairedEncoding("Tr\xe4ger"), std::string("Tr\u00e4ger"));      // bare Latin-1
        QCOMPARE(repairedEncoding("\u540d\u524d"), std::string("\u540d\u524d"));  // other scripts stay
        QCOMPARE(repairedEncoding("a\tb\x01"), std::string("a b "));
        Random random(1);
        for (int round = 0; round < 2000; ++round) {
            std::string bytes;
            for (int i = 0; i < 12; ++i) bytes += static_cast<char>(between(random, 0, 255.999));
            const std::string once = repairedEncoding(bytes);
            QVERIFY(QString::fromUtf8(once.c_str()).toStdString() == once);  // whatever came, it is UTF-8 now
        }
    }
    void unitsAreKnownByTheirNames() {
        for (const Unit unit :
             {Unit::Millimetre, Unit::Centimetre, Unit::Metre, Unit::Micrometre, Unit::Inch, Unit::Foot})
            QCOMPARE(unitFromName(unitName(unit)), std::optional(unit));
        QCOMPARE(unitFromName("INCH"), std::optional(Unit::Inch));
        QVERIFY(!unitFromName("cubit"));
    }
};

static Registered<TextTest> textTest;

}  // namespace rasoir::test

#include "text_test.moc"
