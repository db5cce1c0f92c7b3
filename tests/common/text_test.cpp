#include "common/text.h"

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
    }
    void lengthsAreReadWithTheirUnits() {
        QFETCH(QString, typed);
        QFETCH(double, millimetres);
        const auto length = parseLength(typed.toStdString(), Unit::Millimetre, 3.0);
        QVERIFY2(length, said(length));
        QCOMPARE_NEAR(*length, millimetres, 1e-12 * millimetres);
    }
    void nonsenseIsRefusedWithWhatWasTyped() {
        for (const char* typed : {"", "abc", "-3", "1/0", "nan", "inf", "8 parsec", "1//2", "2 el x", "--4", "1e999"}) {
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
    void unitsAreKnownByTheirNames() {
        for (const Unit unit : {Unit::Millimetre, Unit::Centimetre, Unit::Metre, Unit::Micrometre, Unit::Inch, Unit::Foot})
            QCOMPARE(unitFromName(unitName(unit)), std::optional(unit));
        QCOMPARE(unitFromName("INCH"), std::optional(Unit::Inch));
        QVERIFY(!unitFromName("cubit"));
    }
};

static Registered<TextTest> textTest;

}  // namespace rasoir::test

#include "text_test.moc"
