// The search among ways to close a wound, on a body that only counts what is tried.
#include "heal/closing.h"

#include <fmt/format.h>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class ClosingTest : public QObject {
    Q_OBJECT

    /// Three decisions with three ways each; the judge accepts `accepted` alone, and finds as many faces at fault as
    /// decisions differ from it.
    struct Search {
        Incidence topology{block(1, 1, 1)};
        HalfEdgeBody body{topology};
        std::vector<std::vector<int>> tried;
        std::vector<int> now;

        Result<std::set<int>> attempt(heal::Choices& choices) {
            body.begin();
            now.clear();
            for (int d = 0; d < 3; ++d) now.push_back(choices.next(3));
            tried.push_back(now);
            return std::set<int>{1};
        }
        Result<std::set<int>> run(const std::vector<int>& accepted, int most = 40) {
            const heal::Judge judge = [&](HalfEdgeBody&, const std::set<int>&) -> Result<void> {
                Place place;
                for (std::size_t d = 0; d < 3; ++d)
                    if (now[d] != accepted[d]) place.faces.push_back(static_cast<int>(d) + 1);
                if (place.faces.empty()) return {};
                const std::string what = fmt::format("{} are wrong.", place.faces.size());
                return fail(ProblemKind::NotPossible, what, {}, std::move(place));
            };
            return heal::firstAccepted(
                body, judge, [&](heal::Choices& choices) { return attempt(choices); }, most);
        }
    };

private slots:
    void theNearestComesFirst() {
        Search search;
        QVERIFY(search.run({0, 0, 0}));
        QCOMPARE(search.tried.size(), std::size_t(1));
    }
    void decisionByDecisionItFindsTheOne() {
        for (const std::vector<int>& wanted : {std::vector<int>{2, 0, 0}, {0, 1, 2}, {2, 2, 1}}) {
            Search search;
            QVERIFY(search.run(wanted));
            QVERIFY(search.now == wanted);
            QVERIFY(search.tried.size() <= 12u);
        }
    }
    void noWayIsTriedTwice() {
        Search search;
        QVERIFY(!search.run({7, 7, 7}));
        std::set<std::vector<int>> different(search.tried.begin(), search.tried.end());
        QCOMPARE(different.size(), search.tried.size());
        QVERIFY(search.tried.size() > 5u);
    }
    void theProblemToldIsThatOfTheNearest() {
        Search search;
        const auto none = search.run({7, 0, 0});
        QVERIFY(!none);
        QCOMPARE(QString::fromStdString(none.error().what), QString("1 are wrong."));
    }
    void itStopsInTime() {
        Search search;
        QVERIFY(!search.run({7, 7, 7}, 4));
        QCOMPARE(search.tried.size(), std::size_t(4));
    }
};

static Registered<ClosingTest> closingTest;

}  // namespace rasoir::test

#include "closing_test.moc"
