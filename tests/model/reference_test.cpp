#include "model/reference.h"

#include <BRepAdaptor_Curve.hxx>

#include "geometry/round_surface.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class ReferenceTest : public QObject {
    Q_OBJECT
private slots:
    void whatMovedByAFewHundredthsIsAnother() {
        // A face that kept its size and went a twentieth of it aside is not the one that was meant, nor is an edge.
        const auto plate = [](double x) {
            return modelOf(cut(block(100, 60, 8), rod(gp_Ax1(gp_Pnt(x, 20, -1), gp_Dir(0, 0, 1)), 4, 10)), "plate");
        };
        const Model was = plate(30), near = plate(30.05), far = plate(31);
        const Part& part = *was.parts[0];
        for (int f = 1; f <= part.incidence().faceCount(); ++f) {
            if (surfaceKind(part.incidence().face(f)) != SurfaceKind::Cylinder) continue;
            const EntityRef ref = makeRef(part, {EntityKind::Face, f});
            QVERIFY(findEntity(was, ref) && findEntity(near, ref));
            QVERIFY(!findEntity(far, ref));
            const FaceRef face = makeFaceRef(part, f);
            QVERIFY(findFace(was, face) && findFace(near, face));
            QVERIFY(!findFace(far, face));
            for (const int e : part.incidence().edgesOf(f)) {
                if (BRepAdaptor_Curve(part.incidence().edge(e)).GetType() != GeomAbs_Circle) continue;
                const EntityRef rim = makeRef(part, {EntityKind::Edge, e});
                QVERIFY(findEntity(near, rim) && !findEntity(far, rim));
            }
        }
    }
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
