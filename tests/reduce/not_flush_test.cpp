// What is not flush in sheets, made wrong on purpose: found by its size, and put right to areas that one knows.
#include "reduce/not_flush.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepPrimAPI_MakePrism.hxx>

#include "exchange/work_file.h"
#include "geometry/integrals.h"
#include "make_flush.h"
#include "model/reference.h"
#include "model/work.h"
#include "support/bodies.h"
#include "support/run.h"
#include "topology/edge_angle.h"

namespace rasoir::test {

using namespace reduce;

class NotFlushTest : public QObject {
    Q_OBJECT

    static gp_Trsf turned() {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(7, 3, 1), gp_Dir(1, 2, 3)), 0.6);
        return turn;
    }
    static TopoDS_Shape polygon(const std::vector<std::pair<double, double>>& outline) {
        BRepBuilderAPI_MakePolygon polygon;
        for (const auto& [x, y] : outline) polygon.Add(gp_Pnt(x, y, 0));
        polygon.Close();
        return BRepBuilderAPI_MakeFace(polygon.Wire()).Face();
    }
    static TopoDS_Shape profile(const std::vector<std::pair<double, double>>& outline, double length = 100.0) {
        BRepBuilderAPI_MakePolygon polygon;
        for (const auto& [x, z] : outline) polygon.Add(gp_Pnt(x, 0, z));
        polygon.Close();
        return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(polygon.Wire()).Face(), gp_Vec(0, length, 0)).Shape();
    }
    struct Sheet {
        std::string name;
        TopoDS_Shape shape;
        double thickness;
    };
    static Model sheets(const std::vector<Sheet>& all, const gp_Trsf& move = gp_Trsf()) {
        Model model;
        for (const auto& [name, shape, thickness] : all) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            auto part = std::make_shared<Part>(name, moved(shape, move));
            for (int f = 1; thickness > 0.0 && f <= part->incidence().faceCount(); ++f) {
                Thickness own;
                own.at = thickness;
                own.from = part->incidence().skin(f).centre;
                part->known.thickness[{EntityKind::Face, f}] = own;
            }
            model.parts.push_back(std::move(part));
        }
        model.targetSize = 5.0;
        model.giveIds();
        return model;
    }
    static std::vector<Flaw> flawsIn(const Model& model, double upTo = 0.0) {
        std::vector<std::size_t> places;
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) places.push_back(o);
        return findNotFlush(model, places, upTo, quietly()).value();
    }
    static std::size_t countOf(const std::vector<Flaw>& flaws, FlawKind kind) {
        return static_cast<std::size_t>(
            std::count_if(flaws.begin(), flaws.end(), [kind](const Flaw& flaw) { return flaw.kind == kind; }));
    }
    static double commonLength(const Model& model) {
        double length = 0.0;
        for (const Joint& joint : model.joints)
            if (joint.kind == EntityKind::Edge) {
                const std::size_t place = *model.placeOf(joint.uses[0].place);
                length += lengthOf(model.parts[model.occurrences[place].part]->incidence().edge(joint.uses[0].number));
            }
        return length;
    }
    static double totalArea(const Model& model) {
        double area = 0.0;
        for (const auto& part : model.parts) area += areaOf(part->shape);
        return area;
    }
    /// Area times thickness of all sheets.
    static double drawnVolume(const Model& model) {
        double volume = 0.0;
        for (const auto& part : model.parts)
            for (const auto& [entity, own] : part->known.thickness)
                volume += own.at * part->incidence().area(entity.number);
        return volume;
    }
    static EntityRef edgeAt(const Part& part, const gp_Pnt& point) {
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) {
            EntityRef ref = makeRef(part, {EntityKind::Edge, e});
            if (ref.at.Distance(point) < 1e-6) return ref;
        }
        throw std::logic_error("no edge there");
    }
    static FaceRef faceAt(const Part& part, const gp_Pnt& point) {
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (part.incidence().skin(f).centre.Distance(point) < 1e-6) return makeFaceRef(part, f);
        throw std::logic_error("no face there");
    }
    static Json planeAt(const gp_Pnt& through, const gp_Dir& normal) {
        return {{"through", {through.X(), through.Y(), through.Z()}}, {"normal", {normal.X(), normal.Y(), normal.Z()}}};
    }

private slots:
    void edgesOfACornerAreCarriedToEachOther() {
        // Two plates of 4 under a right angle: each middle ends at the other plate's inner skin.
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const Model model = sheets({{"floor", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(48, 0, 0), gp_Vec(0, 30, 0)), 4.0},
                                        {"wall", sheetAt(gp_Pnt(50, 0, 2), gp_Vec(0, 30, 0), gp_Vec(0, 0, 28)), 4.0}},
                                       move);
            const auto found = flawsIn(model);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(found[0].kind, FlawKind::Apart);
            QVERIFY(found[0].expected);
            QCOMPARE_NEAR(found[0].size, 2.0 * std::sqrt(2.0), 1e-6);
            const auto done = run(model, "reduce.makeFlush");
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(totalArea(done->model), 50.0 * 30.0 + 30.0 * 30.0, 1e-6);
            QCOMPARE_NEAR(commonLength(done->model), 30.0, 1e-6);
            QVERIFY(flawsIn(done->model).empty());
            for (const auto& part : done->model.parts) QVERIFY(isValid(part->shape));
        }
    }
    void aGapFaceToFaceIsClosed() {
        const Model model = sheets({{"left", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0},
                                    {"right", sheetAt(gp_Pnt(40.2, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0}});
        const auto found = flawsIn(model);
        QCOMPARE(found.size(), std::size_t(1));
        QCOMPARE_NEAR(found[0].size, 0.2, 1e-6);
        const auto done = run(model, "reduce.makeFlush");
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(totalArea(done->model), 80.2 * 30.0, 1e-6);
        QCOMPARE_NEAR(commonLength(done->model), 30.0, 1e-6);
        // Farther apart than is expected of sheets they are told only up to the limit, and closed when it is asked for.
        const Model far = sheets({{"left", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0},
                                  {"right", sheetAt(gp_Pnt(44, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0}});
        QVERIFY(flawsIn(far).empty());
        QCOMPARE(run(far, "reduce.makeFlush").error().kind, ProblemKind::NothingToDo);
        const auto asked = run(far, "reduce.makeFlush", {{"upTo", 5.0}});
        QVERIFY2(asked, said(asked));
        QCOMPARE_NEAR(totalArea(asked->model), 84.0 * 30.0, 1e-6);
    }
    void lipsAreCutOff() {
        // A web that reaches through its flange by half of the flange's thickness, joined in one sheet of four faces;
        // and the same in two parts that have the line in common.
        BRepBuilderAPI_Sewing sewing(1e-6, true, true, true, true);
        for (const auto& [x, w] : {std::pair(0.0, 25.0), std::pair(25.0, 25.0)})
            sewing.Add(sheetAt(gp_Pnt(x, 0, 0), gp_Vec(w, 0, 0), gp_Vec(0, 30, 0)));
        sewing.Add(sheetAt(gp_Pnt(25, 0, 0), gp_Vec(0, 30, 0), gp_Vec(0, 0, 20)));
        sewing.Add(sheetAt(gp_Pnt(25, 0, 0), gp_Vec(0, 30, 0), gp_Vec(0, 0, -1)));
        sewing.Perform();
        const Model one = sheets({{"T", sewing.SewedShape(), 2.0}}, turned());
        auto found = flawsIn(one);
        QCOMPARE(found.size(), std::size_t(1));
        QCOMPARE(found[0].kind, FlawKind::Lip);
        QCOMPARE_NEAR(found[0].size, 1.0, 1e-6);
        auto done = run(one, "reduce.makeFlush");
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(totalArea(done->model), 50.0 * 30.0 + 20.0 * 30.0, 1e-6);
        QCOMPARE(facesIn(done->model.parts[0]->shape), 3);
        QVERIFY(flawsIn(done->model).empty());
        const Model two = sheets({{"flange", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(50, 0, 0), gp_Vec(0, 30, 0)), 2.0},
                                  {"web", sheetAt(gp_Pnt(25, 0, -1), gp_Vec(0, 30, 0), gp_Vec(0, 0, 21)), 2.0}});
        const auto joined = run(two, "join.pairs");
        QVERIFY2(joined, said(joined));
        found = flawsIn(joined->model);
        QCOMPARE(countOf(found, FlawKind::Lip), std::size_t(1));
        done = run(joined->model, "reduce.makeFlush");
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(totalArea(done->model), 50.0 * 30.0 + 20.0 * 30.0, 1e-6);
        QCOMPARE_NEAR(commonLength(done->model), 30.0, 1e-6);  // they are still joined
    }
    void tabsAndSlitsOfTheOutline_data() {
        QTest::addColumn<bool>("slit");
        QTest::newRow("a tab of 1") << false;
        QTest::newRow("a slit of 0.8") << true;
    }
    void tabsAndSlitsOfTheOutline() {
        QFETCH(bool, slit);
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const TopoDS_Shape plate =
                slit ? polygon({{0, 0}, {20, 0}, {20, 6}, {20.8, 6}, {20.8, 0}, {50, 0}, {50, 30}, {0, 30}})
                     : polygon({{0, 0}, {50, 0}, {50, 10}, {53, 10}, {53, 11}, {50, 11}, {50, 30}, {0, 30}});
            const Model model = sheets({{"plate", plate, 2.0}}, move);
            const auto found = flawsIn(model);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(found[0].kind, slit ? FlawKind::Slit : FlawKind::Tab);
            QCOMPARE_NEAR(found[0].size, slit ? 0.8 : 1.0, 1e-6);
            QVERIFY(!found[0].expected);  // the designer may have meant it
            QVERIFY(!run(model, "reduce.makeFlush"));
            const auto done = run(model, "reduce.makeFlush", {{"upTo", 1.0}});
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(totalArea(done->model), 1500.0, 1e-6);
            QCOMPARE(done->model.parts[0]->incidence().faceCount(), 1);
            QCOMPARE(done->model.parts[0]->incidence().edgeCount(), 4);
            QVERIFY(isValid(done->model.parts[0]->shape));
        }
    }
    void sheetsThatOverlapAreCountedOnce() {
        // In one plane, over 10 of their length; one of them turned over.
        for (const bool over : {false, true}) {
            TopoDS_Shape right = sheetAt(gp_Pnt(30, 5, 0), gp_Vec(40, 0, 0), gp_Vec(0, 20, 0));
            if (over) right.Reverse();
            const Model model = sheets(
                {{"left", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0}, {"right", right, 2.0}},
                turned());
            const auto found = flawsIn(model);
            QCOMPARE(countOf(found, FlawKind::Overlap), std::size_t(1));
            const auto done = run(model, "reduce.makeFlush");
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(totalArea(done->model), 1200.0 + 600.0, 1e-6);
            QCOMPARE_NEAR(drawnVolume(done->model), 3600.0, 1e-6);
            QVERIFY(commonLength(done->model) >= 20.0 - 1e-6);
            QVERIFY(flawsIn(done->model).empty());
        }
    }
    void lappedSheetsAreDrawnOntoOneSurface() {
        // Plates of 2 and 1 that lap over 10: their middles lie 1.5 apart. Drawn onto one, that field is 3 thick.
        for (const double within : {1.0, 1.6}) {
            const Model model =
                sheets({{"left", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0},
                        {"right", sheetAt(gp_Pnt(30, 0, 1.5), gp_Vec(20, 0, 0), gp_Vec(0, 30, 0)), 1.0}},
                       turned());
            const auto done = run(model, "reduce.drawOnto", {{"within", within}});
            if (within < 1.5) {
                QVERIFY(!done);
                QCOMPARE(done.error().kind, ProblemKind::NothingToDo);
                continue;
            }
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(totalArea(done->model), 1200.0 + 300.0, 1e-6);
            QCOMPARE_NEAR(drawnVolume(done->model), 2.0 * 900.0 + 3.0 * 300.0 + 1.0 * 300.0, 1e-6);
            // Walls stay where they were: the thinner one 1.5 above its sheet, the thick field half above.
            std::vector<double> offsets;
            for (const auto& part : done->model.parts)
                for (const auto& [entity, own] : part->known.thickness) offsets.push_back(own.offset);
            std::sort(offsets.begin(), offsets.end());
            QCOMPARE(offsets.size(), std::size_t(3));
            QCOMPARE_NEAR(std::abs(offsets[0]), 0.0, 1e-9);
            QCOMPARE_NEAR(std::abs(offsets[1]), 0.5, 1e-9);
            QCOMPARE_NEAR(std::abs(offsets[2]), 1.5, 1e-9);
            QCOMPARE_NEAR(commonLength(done->model), 30.0, 1e-6);
        }
        const Model upon = sheets({{"left", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0},
                                   {"right", sheetAt(gp_Pnt(10, 5, 0.5), gp_Vec(20, 0, 0), gp_Vec(0, 20, 0)), 1.0}});
        const auto refused = run(upon, "reduce.drawOnto", {{"within", 1.0}});
        QVERIFY(!refused);
        QVERIFY(refused.error().what.find("nothing of it would be left") != std::string::npos);
        QVERIFY(!run(upon, "reduce.drawOnto", {{"within", -1.0}}));
        // Beside a pair that can be drawn together, what is refused stands where it stood.
        Model both = upon;
        for (const Model& more :
             {sheets({{"third", sheetAt(gp_Pnt(0, 200, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0},
                      {"fourth", sheetAt(gp_Pnt(30, 200, 0.5), gp_Vec(20, 0, 0), gp_Vec(0, 30, 0)), 1.0}})})
            for (const auto& part : more.parts) {
                auto own = part->copy();
                own->id = 0;
                both.occurrences.push_back({both.parts.size(), gp_Trsf(), own->name, {}, std::nullopt});
                both.parts.push_back(std::move(own));
            }
        both.giveIds();
        const auto some = run(both, "reduce.drawOnto", {{"within", 1.0}});
        QVERIFY2(some, said(some));
        QCOMPARE(std::count_if(some->items.begin(), some->items.end(), [](const Item& item) { return item.done; }), 1);
        QCOMPARE_NEAR(some->model.parts[1]->incidence().skin(1).centre.Z(), 0.5, 1e-9);
    }
    void whatTheSolidHadIsKnown() {
        // An L of 2 and 3 thick: its sheets are cut short, carried on too far, one loses its thickness.
        const TopoDS_Shape angle = profile({{0, 0}, {40, 0}, {40, 3}, {2, 3}, {2, 30}, {0, 30}});
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            Model model = modelOf(moved(angle, move), "angle");
            model.targetSize = 5.0;
            const auto made = run(model, "reduce.midsurface");
            QVERIFY2(made, said(made));
            const double area = totalArea(made->model);
            QCOMPARE_NEAR(area, 100.0 * (39.0 + 28.5), 1e-6);
            QVERIFY(flawsIn(made->model, 10.0).empty());
            const EntityRef end = edgeAt(*made->model.parts[0], gp_Pnt(40, 50, 1.5).Transformed(move));
            const auto cut =
                run(made->model, "reduce.cutBack",
                    {{"edges", {end}},
                     {"plane", planeAt(gp_Pnt(37, 0, 0).Transformed(move), gp_Dir(1, 0, 0).Transformed(move))}});
            QVERIFY2(cut, said(cut));
            auto found = flawsIn(cut->model);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(found[0].kind, FlawKind::BeforeRim);
            QCOMPARE_NEAR(found[0].size, 3.0, 1e-3);
            auto done = run(cut->model, "reduce.makeFlush");
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(totalArea(done->model), area, 1e-6);
            QCOMPARE(facesIn(done->model.parts[0]->shape), 2);
            const auto on = run(made->model, "reduce.carryOn", {{"edges", {end}}, {"by", 4.0}});
            QVERIFY2(on, said(on));
            found = flawsIn(on->model);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(found[0].kind, FlawKind::BeyondRim);
            QCOMPARE_NEAR(found[0].size, 4.0, 1e-3);
            done = run(on->model, "reduce.makeFlush");
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(totalArea(done->model), area, 1e-6);
            Model bare = made->model;
            auto part = bare.parts[0]->copy();
            part->known.thickness.erase({EntityKind::Face, 1});
            bare.parts[0] = part;
            found = flawsIn(bare);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(found[0].kind, FlawKind::NoThickness);
            done = run(bare, "reduce.makeFlush");
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(drawnVolume(done->model), drawnVolume(made->model), 1e-6);
        }
    }
    void rimsThatLeanAreFollowed() {
        // A plate of 2 whose end is cut at 20 degrees: the sheet ends square to where both skins are, a little short.
        const double lean = 2.0 * std::tan(20.0 * M_PI / 180.0);
        Model model = modelOf(profile({{0, 0}, {60 + lean, 0}, {60, 2}, {0, 2}}), "plate");
        model.targetSize = 5.0;
        auto made = run(model, "reduce.midsurface");
        QVERIFY2(made, said(made));
        if (!flawsIn(made->model).empty()) {
            const auto done = run(made->model, "reduce.makeFlush");
            QVERIFY2(done, said(done));
            *made = *done;
        }
        QCOMPARE_NEAR(totalArea(made->model), 100.0 * (60.0 + 0.5 * lean), 1e-6);
        QVERIFY(flawsIn(made->model).empty());
    }
    void wallsWithoutASheetAreCovered() {
        // A T of which the web was not taken.
        const TopoDS_Shape tee = profile({{0, 0}, {40, 0}, {40, 2}, {21, 2}, {21, 32}, {19, 32}, {19, 2}, {0, 2}});
        Model model = modelOf(tee, "tee");
        model.targetSize = 5.0;
        const auto whole = run(model, "reduce.midsurface");
        QVERIFY2(whole, said(whole));
        Model half = whole->model;
        // By hand: the web's face goes.
        const EntityRef top = edgeAt(*half.parts[0], gp_Pnt(20, 50, 32));
        const auto cut = run(half, "reduce.cutBack", {{"edges", {top}}, {"lips", true}});
        QVERIFY2(cut, said(cut));
        QCOMPARE_NEAR(totalArea(cut->model), 4000.0, 1e-6);
        QCOMPARE(facesIn(cut->model.parts[0]->shape), 1);  // and the flange is one again
        const auto found = flawsIn(cut->model);
        QCOMPARE(found.size(), std::size_t(1));
        QCOMPARE(found[0].kind, FlawKind::NotCovered);
        QCOMPARE_NEAR(found[0].size, 2.0, 1e-9);
        const auto done = run(cut->model, "reduce.makeFlush");
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(totalArea(done->model), totalArea(whole->model), 1e-6);
        QCOMPARE_NEAR(commonLength(done->model), 100.0, 1e-6);
        QVERIFY(flawsIn(done->model).empty());
    }
    void reliefsAndRimsOfTheSolidAreNoFlaws() {
        // A slot of 0.4 in a plate of 2, and a gap of 0.5 between two flanges of one sheet: meant by the designer.
        const TopoDS_Shape slotted = cut(block(100, 60, 2), moved(block(0.6, 40, 2), by(50, -1, 0)));
        Model model = modelOf(slotted, "slotted");
        model.targetSize = 5.0;
        const auto made = run(model, "reduce.midsurface");
        QVERIFY2(made, said(made));
        for (const Flaw& flaw : flawsIn(made->model)) QVERIFY2(!flaw.expected, flawWords(flaw.kind));
        QVERIFY(!run(made->model, "reduce.makeFlush"));
    }
    void chosenOnesAlone() {
        // Two gaps, of which one is named by its place.
        const Model model = sheets({{"a", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0},
                                    {"b", sheetAt(gp_Pnt(40.2, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0},
                                    {"c", sheetAt(gp_Pnt(80.4, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0)), 2.0}});
        QCOMPARE(flawsIn(model).size(), std::size_t(2));
        const auto one = run(model, "reduce.makeFlush", {{"only", {{{"kind", "apart"}, {"at", {80.3, 15, 0}}}}}});
        QVERIFY2(one, said(one));
        QCOMPARE(flawsIn(one->model).size(), std::size_t(1));
        const auto kinds = run(model, "reduce.makeFlush", {{"kinds", {"lip"}}});
        QVERIFY(!kinds);
        QCOMPARE(kinds.error().kind, ProblemKind::NothingToDo);
        for (const Json& bad :
             {Json{{"kinds", {"nonsense"}}}, Json{{"upTo", -1.0}},
              Json{{"only", {{{"kind", "nonsense"}, {"at", {0, 0, 0}}}}}}, Json{{"places", {"nobody"}}}})
            QVERIFY2(!run(model, "reduce.makeFlush", bad), bad.dump().c_str());
        const auto all = run(model, "reduce.makeFlush");
        QVERIFY2(all, said(all));
        QVERIFY(flawsIn(all->model).empty());
        QCOMPARE_NEAR(commonLength(all->model), 60.0, 1e-6);  // joints of the first gap are kept beside the second's
    }
    void theSolidBehindASheetIsSaved() {
        measure::FactsCache facts;
        Work work = Work(modelOf(profile({{0, 0}, {40, 0}, {40, 3}, {2, 3}, {2, 30}, {0, 30}}), "angle"), "angle.step")
                        .withStep("reduce.midsurface", Json::object());
        const auto done = work.replayed(facts, quietly());
        QVERIFY2(done, said(done));
        QVERIFY(done->current().parts[0]->standsFor);
        QTemporaryDir folder;
        const std::filesystem::path path = std::filesystem::path(folder.path().toStdString()) / "angle.rasoir";
        const auto saved = exchange::saveWork(*done, Json::object(), path, quietly());
        QVERIFY2(saved, said(saved));
        const auto opened = exchange::openWork(path, quietly());
        QVERIFY2(opened, said(opened));
        const Model& now = opened->work.current();
        QVERIFY(now.parts[0]->standsFor);
        QCOMPARE_NEAR(volumeOf(now.parts[0]->standsFor->shape), volumeOf(work.received().parts[0]->shape), 1e-9);
        QVERIFY(!now.parts[0]->standsFor->standsFor);
    }
    void sidesAreMadeAlike() {
        // A box tube of four walls, sewn, two of them turned over; each wall has its offset.
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            BRepBuilderAPI_Sewing sewing(1e-6);
            const std::array corners{gp_Pnt(0, 0, 0), gp_Pnt(40, 0, 0), gp_Pnt(40, 30, 0), gp_Pnt(0, 30, 0)};
            for (std::size_t i = 0; i < 4; ++i)
                sewing.Add(sheetAt(corners[i], gp_Vec(corners[i], corners[(i + 1) % 4]), gp_Vec(0, 0, 100)));
            sewing.Perform();
            Model model = sheets({{"tube", sewing.SewedShape(), 2.0}}, move);
            const auto normalAt = [&](const Part& part, int face) {
                const int edge = part.incidence().edgesOf(face).front();
                const BRepAdaptor_Curve curve(part.incidence().edge(edge));
                return outwardNormal(part.incidence().face(face), part.incidence().edge(edge),
                                     0.5 * (curve.FirstParameter() + curve.LastParameter()));
            };
            const gp_Pnt axis = gp_Pnt(20, 15, 50).Transformed(move);
            const auto outward = [&](const Model& of) {
                int count = 0;
                for (int f = 1; f <= 4; ++f)
                    count += normalAt(*of.parts[0], f).Dot(gp_Vec(axis, of.parts[0]->incidence().skin(f).centre)) > 0.0;
                return count;
            };
            const int before = outward(model);
            QVERIFY(before == 0 || before == 4);
            // The walls lie outside of the tube's sheet, whichever way a face looks.
            auto part = model.parts[0]->copy();
            for (auto& [entity, own] : part->known.thickness) own.offset = before == 4 ? 0.5 : -0.5;
            model.parts[0] = part;
            const auto over = run(model, "reduce.sides", {{"faces", {makeFaceRef(*model.parts[0], 2)}}});
            QVERIFY2(over, said(over));
            QCOMPARE(outward(over->model), 4 - before);
            for (const auto& [entity, own] : over->model.parts[0]->known.thickness)
                QCOMPARE_NEAR(own.offset, before == 4 ? -0.5 : 0.5, 1e-12);
            QCOMPARE(run(over->model, "reduce.sides").error().kind, ProblemKind::NothingToDo);
            QVERIFY(isValid(over->model.parts[0]->shape));
        }
        const Model solid = modelOf(block(5, 5, 5));
        QVERIFY(!run(solid, "reduce.sides", {{"faces", {makeFaceRef(*solid.parts[0], 1)}}}));
    }
    void oddSidesAreFound() {
        // Three faces in a row, the middle one put in the wrong way round, which sewing would not do.
        const BRep_Builder builder;
        const Model whole = modelOf(profile({{0, 0}, {90, 0}, {90, 3}, {60, 3}, {60, 2}, {30, 2}, {30, 3}, {0, 3}}));
        const auto made = run(whole, "reduce.midsurface");
        QVERIFY2(made, said(made));
        Model model = made->model;
        const Part& part = *model.parts[0];
        QCOMPARE(part.incidence().faceCount(), 3);
        TopoDS_Shell shell;
        builder.MakeShell(shell);
        for (int f = 1; f <= 3; ++f)
            builder.Add(shell, f == 2 ? part.incidence().face(f).Reversed() : TopoDS_Shape(part.incidence().face(f)));
        auto odd = part.copy();
        odd->setShape(shell);
        model.parts[0] = odd;
        const auto done = run(model, "reduce.sides");
        QVERIFY2(done, said(done));
        QCOMPARE(done->items.size(), std::size_t(1));
        QVERIFY(done->items[0].what.find("1 face") != std::string::npos);
        QCOMPARE(run(done->model, "reduce.sides").error().kind, ProblemKind::NothingToDo);
    }
};
static const Registered<NotFlushTest> notFlushTest;

}  // namespace rasoir::test

#include "not_flush_test.moc"
