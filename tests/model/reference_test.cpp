#include "model/reference.h"

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class ReferenceTest : public QObject {
    Q_OBJECT
private slots:
    void everyFaceOfAPlateIsFoundAgain() {
        const Model model = modelOf(drilledPlate(100, 60, 8, 5, 5));
        for (int f = 1; f <= model.parts[0]->incidence().faceCount(); ++f) {
            FaceRef reference = makeFaceRef(*model.parts[0], f);
            Json json;
            to_json(json, reference);
            FaceRef back;
            from_json(Json::parse(json.dump()), back);
            back.face = 0;  // the number may have changed: the fingerprint has to do
            const auto found = findFace(model, back);
            QVERIFY2(found, said(found));
            QCOMPARE(found->face, f);
        }
    }
    void aFaceThatIsGoneIsSaid() {
        const Model with = modelOf(drilledPlate(100, 60, 8, 4, 5)), without = modelOf(block(100, 60, 8));
        for (int f = 1; f <= with.parts[0]->incidence().faceCount(); ++f) {
            const FaceRef reference = makeFaceRef(*with.parts[0], f);
            if (reference.surface == "cylinder") QVERIFY(!findFace(without, reference));
        }
        FaceRef elsewhere = makeFaceRef(*with.parts[0], 1);
        elsewhere.part = "another";
        const auto found = findFace(with, elsewhere);
        QVERIFY(!found);
        QVERIFY(found.error().what.find("another") != std::string::npos);
    }
    void twoThatFitAreNotGuessedBetween() {
        Model model = modelOf(block(10, 10, 10));
        model.parts.push_back(model.parts[0]);  // two parts of one name
        FaceRef reference = makeFaceRef(*model.parts[0], 3);
        reference.face = 0;
        const auto found = findFace(model, reference);
        QVERIFY(!found);
        QVERIFY(found.error().what.find("2 faces fit") != std::string::npos);
    }
};

static Registered<ReferenceTest> referenceTest;

}  // namespace rasoir::test

#include "reference_test.moc"
