#include "common/shared_vector.h"

#include <numeric>

#include "support/run.h"

namespace rasoir::test {

class SharedVectorTest : public QObject {
    Q_OBJECT

    using List = SharedVector<std::string>;
    static std::vector<std::string> read(const List& list) { return {list.begin(), list.end()}; }
    /// How many elements two lists hold in common.
    static std::size_t shared(const List& a, const List& b) {
        std::set<const std::string*> own;
        for (const std::string& one : a) own.insert(&one);
        return static_cast<std::size_t>(
            std::count_if(b.begin(), b.end(), [&own](const std::string& one) { return own.contains(&one); }));
    }

private slots:
    void aCopySharesUntilItIsChanged() {
        const List first{"a", "b", "c"};
        List second = first;
        QCOMPARE(shared(first, second), std::size_t(3));
        second.change(1) = "changed";
        QCOMPARE(shared(first, second), std::size_t(2));
        QCOMPARE(read(first), (std::vector<std::string>{"a", "b", "c"}));
        QCOMPARE(read(second), (std::vector<std::string>{"a", "changed", "c"}));
        // What is its own already is not copied again.
        const std::string* own = &second[1];
        second.change(1) += " twice";
        QCOMPARE(&second[1], own);
    }
    void onlyWhatIsWantedIsChanged() {
        const List first{"pin", "plate", "pin"};
        List second = first;
        second.changeWhere([](const std::string& one) { return one == "pin"; }, [](std::string& one) { one += "!"; });
        QCOMPARE(read(second), (std::vector<std::string>{"pin!", "plate", "pin!"}));
        QCOMPARE(shared(first, second), std::size_t(1));
        second.changeAll([](std::string& one) { one += "?"; });
        QCOMPARE(shared(first, second), std::size_t(0));
        QCOMPARE(first[0], std::string("pin"));
    }
    void listsArePutTogetherWithoutCopying() {
        const List first{"a", "b", "c", "d"};
        List second;
        for (const std::size_t i : {std::size_t(3), std::size_t(1)}) second.share(first, i);
        second.push_back("new");
        second.insert(1, "between");
        QCOMPARE(read(second), (std::vector<std::string>{"d", "between", "b", "new"}));
        QCOMPARE(shared(first, second), std::size_t(2));
        second.stableSort(std::less<>());
        QCOMPARE(read(second), (std::vector<std::string>{"b", "between", "d", "new"}));
        QCOMPARE(shared(first, second), std::size_t(2));
        second.erase(0);
        second.resize(4);
        QCOMPARE(read(second), (std::vector<std::string>{"between", "d", "new", ""}));
        second.eraseWhere([](const std::string& one) { return one == "new"; });
        QCOMPARE(read(second), (std::vector<std::string>{"between", "d", ""}));
        second.changeLast() = "last";
        QCOMPARE(second.back(), std::string("last"));
        QVERIFY_EXCEPTION_THROWN(second.change(3), std::out_of_range);
    }
    void itIsReadByTheStandardAlgorithms() {
        SharedVector<int> numbers{5, 3, 8};
        QCOMPARE(std::accumulate(numbers.begin(), numbers.end(), 0), 16);
        QCOMPARE(*std::max_element(numbers.begin(), numbers.end()), 8);
        QCOMPARE(std::find(numbers.begin(), numbers.end(), 3) - numbers.begin(), std::ptrdiff_t(1));
        QCOMPARE(numbers.end()[-1], 8);
        QCOMPARE(*(numbers.begin() + 2), 8);
    }
};

static Registered<SharedVectorTest> sharedVectorTest;

}  // namespace rasoir::test

#include "shared_vector_test.moc"
