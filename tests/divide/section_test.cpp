// Cross-sections, symmetries and kept sectors, on models of known answer.
#include "divide/section.h"

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <gp_Pln.hxx>
#include <QFile>
#include <QMap>
#include <QSet>
#include <QTemporaryDir>
#include <TopoDS.hxx>

#include "divide/sector.h"
#include "exchange/files.h"
#include "geometry/integrals.h"
#include "join/joint_faults.h"
#include "join/pairs.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/symmetry.h"

namespace rasoir::test {

class SectionTest : public QObject {
    Q_OBJECT

    static Model withParts(const std::vector<std::pair<std::string, TopoDS_Shape>>& parts) {
        Model model;
        for (const auto& [name, shape] : parts) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        model.giveIds();
        return model;
    }
    static const Part& partOf(const Model& model, const std::string& name) {
        return *model.parts[*model.partNamed(name)];
    }
    /// A pin in a bush in a ring, about an axis that lies anyhow; and a block far off.
    static Model stack(const gp_Trsf& move) {
        const gp_Ax1 axis(gp_Pnt(), gp::DZ());
        return withParts({{"pin", moved(rod(axis, 5, 40), move)},
                          {"bush", moved(cut(rod(axis, 8, 30), rod(axis, 5, 30)), move)},
                          {"ring", moved(cut(rod(axis, 20, 10), rod(axis, 8, 10)), move)}});
    }

private slots:
    void whatLiesInTheMirrorPlaneIsHalved() {
        // A block across the plane x = 0, a sheet in it, and a lump with its centre in it.
        gp_Trsf half;
        half.SetTranslation(gp_Vec(-20, 0, 0));
        Model model;
        const TopoDS_Shape wall = BRepBuilderAPI_MakeFace(gp_Pln(gp::YOZ()), 0.0, 30.0, 0.0, 20.0).Face();
        auto sheet = std::make_shared<Part>("sheet", wall);
        sheet->known.thickness[{EntityKind::Face, 1}].at = 4.0;
        auto weight = std::make_shared<Part>("weight", block(2, 2, 2));
        weight->lump = Lump{6.0, gp_Pnt(0, 5, 5), {2, 2, 2, 0, 0, 0}};
        for (const std::shared_ptr<Part>& part :
             {std::make_shared<Part>("block", moved(block(40, 30, 10), half)), sheet, weight}) {
            Occurrence place;
            place.part = model.parts.size();
            place.name = part->name;
            model.occurrences.push_back(place);
            model.parts.push_back(part);
        }
        model.giveIds();
        for (const double sense : {1.0, -1.0}) {
            const auto done =
                run(model, "divide.keepSector", {{"planes", {{{"through", {0, 0, 0}}, {"normal", {sense, 0, 0}}}}}});
            QVERIFY2(done, said(done));
            const auto named = [&](const std::string& name) -> const Part& {
                return **std::find_if(done->model.parts.begin(), done->model.parts.end(),
                                      [&](const auto& part) { return part->name.starts_with(name); });
            };
            QCOMPARE_NEAR(volumeOf(named("block").shape), 6000.0, 1e-6);
            const Thickness& thin = named("sheet").known.thickness.at({EntityKind::Face, 1});
            QCOMPARE_NEAR(thin.at, 2.0, 1e-12);
            // Its normal looks along x: the half that is left lies in front of it, or behind.
            QCOMPARE_NEAR(thin.offset, sense * 1.0, 1e-12);
            QCOMPARE_NEAR(named("weight").lump->mass, 3.0, 1e-12);
            QCOMPARE_NEAR(named("weight").lump->inertia[0], 1.0, 1e-12);
        }
    }
    void aSectionIsWrittenAsDxf() {
        const auto done = run(stack(gp_Trsf()), "divide.crossSection");
        QVERIFY2(done, said(done));
        QTemporaryDir folder;
        const std::string path = (folder.path() + "/stack.dxf").toStdString();
        const auto written = exchange::writeFile(done->model, path, {}, quietly());
        QVERIFY2(written, said(written));
        QFile file(QString::fromStdString(path));
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QStringList lines = QString::fromUtf8(file.readAll()).split('\n');
        QCOMPARE(lines[lines.size() - 2], QString("EOF"));
        // Every line of the drawing, added up: the outlines of three rectangles, common edges once.
        double length = 0.0;
        QSet<QString> layers;
        for (int i = 0; i + 1 < lines.size(); i += 2)
            if (lines[i] == "0" && lines[i + 1] == "LINE") {
                QMap<int, double> values;
                for (int k = i + 2; lines[k] != "0"; k += 2) {
                    values[lines[k].toInt()] = lines[k + 1].toDouble();
                    if (lines[k] == "8") layers.insert(lines[k + 1]);
                }
                length += std::hypot(values[11] - values[10], values[21] - values[20]);
            }
        double wanted = 0.0;
        for (const auto& part : done->model.parts)
            for (int e = 1; e <= part->incidence().edgeCount(); ++e) wanted += lengthOf(part->incidence().edge(e));
        for (const Joint& joint : done->model.joints)
            if (joint.kind == EntityKind::Edge) {
                const auto place = *done->model.placeOf(joint.uses[0].place);
                wanted -= lengthOf(
                    done->model.parts[done->model.occurrences[place].part]->incidence().edge(joint.uses[0].number));
            }
        QCOMPARE_NEAR(length, wanted, 1e-6);
        QCOMPARE(layers.size(), 3);
        // A solid is no section, and says so.
        const auto solid = exchange::writeFile(stack(gp_Trsf()), path, {}, quietly());
        QVERIFY(!solid);
        QVERIFY(solid.error().what.find("no flat sheet") != std::string::npos);
    }
    void aStackAboutItsAxis_data() {
        QTest::addColumn<gp_Trsf>("move");
        gp_Trsf turned;
        turned.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, 2, -1)), 1.1);
        QTest::newRow("upright") << gp_Trsf();
        QTest::newRow("anyhow") << turned;
    }
    void aStackAboutItsAxis() {
        QFETCH(gp_Trsf, move);
        const Model model = stack(move);
        const auto done = run(model, "divide.crossSection");
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), std::size_t(3));
        for (const auto& [name, area] : {std::pair{"pin", 200.0}, {"bush", 90.0}, {"ring", 120.0}}) {
            const Part& sheet = partOf(done->model, std::string(name) + ", section");
            QCOMPARE_NEAR(areaOf(sheet.shape), area, 1e-6);
            QVERIFY(isValid(sheet.shape));
        }
        // Brought to the XY plane, the axis on Y, nothing left of it.
        for (const Occurrence& place : done->model.occurrences) {
            const Bnd_Box box = [&] {
                Bnd_Box own;
                for (int v = 1; v <= done->model.parts[place.part]->incidence().vertexCount(); ++v)
                    own.Add(BRep_Tool::Pnt(TopoDS::Vertex(done->model.parts[place.part]->incidence().vertex(v)))
                                .Transformed(place.placement));
                return own;
            }();
            QVERIFY(box.CornerMin().X() > -1e-6);
            QVERIFY(std::abs(box.CornerMin().Z()) < 1e-6 && std::abs(box.CornerMax().Z()) < 1e-6);
        }
        // Pin and bush touch along 30 mm, bush and ring along 10: one edge each, not two.
        double shared = 0.0;
        std::size_t edges = 0;
        for (const Joint& joint : done->model.joints) {
            if (joint.kind != EntityKind::Edge) continue;
            ++edges;
            const auto o = done->model.placeOf(joint.uses[0].place);
            shared +=
                lengthOf(done->model.parts[done->model.occurrences[*o].part]->incidence().edge(joint.uses[0].number));
        }
        QCOMPARE(edges, std::size_t(2));
        QCOMPARE_NEAR(shared, 40.0, 1e-6);
        QVERIFY(join::faultsInJoints(done->model).empty());
    }
    void aPlaneThroughAnAssembly() {
        const Model model = withParts({{"cube", block(10, 10, 10)},
                                       {"neighbour", moved(block(10, 10, 10),
                                                           [] {
                                                               gp_Trsf by;
                                                               by.SetTranslation(gp_Vec(10, 4, 0));
                                                               return by;
                                                           }())},
                                       {"far", moved(block(5, 5, 5), [] {
                                            gp_Trsf by;
                                            by.SetTranslation(gp_Vec(0, 0, 100));
                                            return by;
                                        }())}});
        const auto done =
            run(model, "divide.crossSection", {{"plane", {{"through", {0, 0, 3}}, {"normal", {0, 0, 1}}}}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(areaOf(partOf(done->model, "cube, section").shape), 100.0, 1e-9);
        QCOMPARE_NEAR(areaOf(partOf(done->model, "neighbour, section").shape), 100.0, 1e-9);
        // What is missed is set aside and told.
        const auto missed =
            std::find_if(done->items.begin(), done->items.end(), [](const Item& item) { return !item.done; });
        QVERIFY(missed != done->items.end() && missed->problem.what.find("missed") != std::string::npos);
        QVERIFY(std::any_of(done->model.occurrences.begin(), done->model.occurrences.end(),
                            [](const auto& o) { return o.aside; }));
        const auto none =
            run(model, "divide.crossSection", {{"plane", {{"through", {0, 0, 50}}, {"normal", {0, 0, 1}}}}});
        QVERIFY(!none && none.error().kind == ProblemKind::NothingToDo);
        const auto noAxis = run(model, "divide.crossSection");
        QVERIFY(!noAxis && noAxis.error().what.find("no common axis") != std::string::npos);
    }
    void overlapsGoToTheFirst() {
        const Model model = withParts({{"a", block(10, 10, 10)}, {"b", moved(block(10, 10, 10), [] {
                                                                      gp_Trsf by;
                                                                      by.SetTranslation(gp_Vec(8, 0, 0));
                                                                      return by;
                                                                  }())}});
        const auto done =
            run(model, "divide.crossSection", {{"plane", {{"through", {0, 0, 3}}, {"normal", {0, 0, 1}}}}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(areaOf(partOf(done->model, "a, section").shape), 100.0, 1e-9);
        QCOMPARE_NEAR(areaOf(partOf(done->model, "b, section").shape), 80.0, 1e-9);
        QVERIFY(!done->notes.empty());
    }
    void symmetriesOfKnownBodies_data() {
        QTest::addColumn<TopoDS_Shape>("shape");
        QTest::addColumn<int>("mirrors");  // whole ones
        QTest::addColumn<int>("order");    // highest of a turn; 0: any angle, -1: none
        QTest::newRow("brick") << block(10, 20, 30) << 3 << 2;
        QTest::newRow("cube") << block(10, 10, 10) << 9 << 4;
        QTest::newRow("wedge with a hole")
            << cut(block(10, 20, 30), rod(gp_Ax1(gp_Pnt(2, 3, -1), gp::DZ()), 1, 40)) << 1 << -1;
        TopoDS_Shape flange = rod(gp_Ax1(gp_Pnt(), gp::DZ()), 30, 5);
        for (int i = 0; i < 6; ++i)
            flange =
                cut(flange,
                    rod(gp_Ax1(gp_Pnt(20 * std::cos(i * M_PI / 3), 20 * std::sin(i * M_PI / 3), -1), gp::DZ()), 3, 10));
        QTest::newRow("flange of six") << flange << 7 << 6;
        QTest::newRow("rod") << rod(gp_Ax1(gp_Pnt(), gp::DZ()), 3, 40) << -1 << 0;
    }
    void symmetriesOfKnownBodies() {
        QFETCH(TopoDS_Shape, shape);
        QFETCH(int, mirrors);
        QFETCH(int, order);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(5, -3, 2), gp_Dir(1, 1, 3)), 0.9);
        for (const TopoDS_Shape& body : {shape, moved(shape, turn)}) {
            const auto found = survey::findSymmetries(withParts({{"body", body}}), {}, 1e-4, quietly());
            QVERIFY2(found, said(found));
            int whole = 0, best = -1;
            bool any = false;
            for (const survey::Symmetry& one : *found) {
                if (!one.whole()) continue;
                whole += one.mirror;
                if (!one.mirror && one.order == 0) any = true;
                if (!one.mirror) best = std::max(best, one.order);
                QVERIFY(one.deviation < 1e-6);
            }
            if (mirrors >= 0) QCOMPARE(whole, mirrors);
            if (order == 0) QVERIFY(any);
            if (order != 0) QCOMPARE(best, order);
        }
    }
    void aHalfAndASixthOfAFlange() {
        TopoDS_Shape flange = rod(gp_Ax1(gp_Pnt(), gp::DZ()), 30, 5);
        for (int i = 0; i < 6; ++i)
            flange =
                cut(flange,
                    rod(gp_Ax1(gp_Pnt(20 * std::cos(i * M_PI / 3), 20 * std::sin(i * M_PI / 3), -1), gp::DZ()), 3, 10));
        const Model model = withParts({{"flange", flange}});
        const double whole = (900 - 54) * M_PI * 5;
        const auto half =
            run(model, "divide.keepSector", {{"planes", {{{"through", {0, 0, 0}}, {"normal", {1, 0, 0}}}}}});
        QVERIFY2(half, said(half));
        QCOMPARE_NEAR(rasoir::volumeOf(half->model.parts.at(0)->shape), 0.5 * whole, 1e-6 * whole);
        QCOMPARE(half->model.groups.size(), std::size_t(1));
        QVERIFY(half->model.groups[0].name == "symmetry x = 0");
        const auto sixth =
            run(model, "divide.keepSector",
                {{"turn", {{"through", {0, 0, 0}}, {"direction", {0, 0, 1}}, {"count", 6}, {"from", 30}}}});
        QVERIFY2(sixth, said(sixth));
        QCOMPARE_NEAR(rasoir::volumeOf(sixth->model.parts.at(0)->shape), whole / 6.0, 1e-6 * whole);
        QCOMPARE(sixth->model.groups.size(), std::size_t(2));
        double sides[2]{};
        for (std::size_t k = 0; k < 2; ++k)
            for (const Member& member : sixth->model.groups[k].members)
                sides[k] += areaOf(sixth->model.parts[0]->incidence().face(member.entity.number));
        QCOMPARE_NEAR(sides[0], 150.0, 1e-6);
        QCOMPARE_NEAR(sides[1], sides[0], 1e-6);
        const auto missed =
            run(model, "divide.keepSector", {{"planes", {{{"through", {-50, 0, 0}}, {"normal", {1, 0, 0}}}}}});
        QVERIFY(!missed && missed.error().kind == ProblemKind::NothingToDo);
    }
};
static Registered<SectionTest> sectionTest;

}  // namespace rasoir::test

#include "section_test.moc"
