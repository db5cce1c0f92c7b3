// Pictures drawn by rays: what is seen has the size and the colour that it should have, and a report shows what
// changed.
#include "handover/picture.h"

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>

#include "handover/report.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class PictureTest : public QObject {
    Q_OBJECT

    static std::array<int, 3> pixel(const handover::Picture& picture, int x, int y) {
        const std::size_t at =
            3 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(picture.width) + static_cast<std::size_t>(x));
        return {picture.rgb[at], picture.rgb[at + 1], picture.rgb[at + 2]};
    }
    static int inked(const handover::Picture& picture) {
        int count = 0;
        for (int y = 0; y < picture.height; ++y)
            for (int x = 0; x < picture.width; ++x) count += pixel(picture, x, y) != std::array<int, 3>{255, 255, 255};
        return count;
    }
    static handover::Sight fromAbove(double height) {
        return {gp_Dir(0, 0, -1), gp_Dir(0, 1, 0), gp_Pnt(10, 5, 5), height};
    }

private slots:
    void aBlockFromAboveHasItsAreaAndItsColour() {
        auto part = std::make_shared<Part>("block", block(20, 10, 10));
        part->colour = Colour{1.0, 0.0, 0.0};
        Model model;
        model.parts.push_back(part);
        model.occurrences.push_back({0, gp_Trsf(), "block", {}, std::nullopt});
        model.giveIds();
        const RayField field(model, {}, 1e-3, quietly());
        const auto picture = handover::pictureOf(model, field, fromAbove(40), 200, 200);
        const double perPixel = 40.0 * 40.0 / (200 * 200);
        QCOMPARE_NEAR(inked(picture) * perPixel, 200.0, 8.0);
        const auto middle = pixel(picture, 100, 100);
        QVERIFY(middle[0] > 2 * middle[1] && middle[1] == middle[2]);
        QCOMPARE(pixel(picture, 3, 3), (std::array<int, 3>{255, 255, 255}));
        // The top face is marked: no red is left of it. The face below it, which is not seen, changes nothing.
        const auto topOf = [&](double z) {
            for (int f = 1; f <= 6; ++f) {
                Bnd_Box box;
                BRepBndLib::Add(part->incidence().face(f), box, false);
                if (std::abs(box.CornerMin().Z() - z) < 1e-3 && std::abs(box.CornerMax().Z() - z) < 1e-3) return f;
            }
            return 0;
        };
        const auto marked = handover::pictureOf(model, field, fromAbove(40), 200, 200, {{0, {topOf(10)}}});
        QVERIFY(pixel(marked, 100, 100)[1] > middle[1] + 40);
        const auto hidden = handover::pictureOf(model, field, fromAbove(40), 200, 200, {{0, {topOf(0)}}});
        QVERIFY(hidden.rgb == picture.rgb);
    }

    void everythingIsInsideAndWiresAreDrawn() {
        Model model = modelOf(block(20, 10, 10));
        const auto sight = handover::sightOf(model, 120, 90);
        const RayField field(model, {}, 1e-3, quietly());
        const auto picture = handover::pictureOf(model, field, sight, 120, 90);
        QVERIFY(inked(picture) > 120 * 90 / 10);
        for (int x = 0; x < 120; ++x)
            for (const int y : {0, 89}) QCOMPARE(pixel(picture, x, y), (std::array<int, 3>{255, 255, 255}));
        for (int y = 0; y < 90; ++y)
            for (const int x : {0, 119}) QCOMPARE(pixel(picture, x, y), (std::array<int, 3>{255, 255, 255}));
        const TopoDS_Wire line =
            BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Pnt(0, 5, 5), gp_Pnt(20, 5, 5)).Edge()).Wire();
        Model beam = modelOf(line);
        const RayField none(beam, {}, 1e-3, quietly());
        const int length = inked(handover::pictureOf(beam, none, fromAbove(40), 200, 200));
        QVERIFY2(length >= 99 && length <= 102, qPrintable(QString::number(length)));  // 20 mm of 40 in 200 pixels
    }

    void aPictureIsPackedAsTheFormatsHaveIt() {
        handover::Picture picture{5, 3, std::vector<std::uint8_t>(45, 200)};
        const auto png = handover::pngOf(picture);
        QVERIFY2(png, said(png));
        QVERIFY(png->starts_with("\x89PNG\r\n\x1a\n"));
        QCOMPARE(static_cast<int>((*png)[19]), 5);
        QCOMPARE(static_cast<int>((*png)[23]), 3);
        for (const std::size_t length : {0, 1, 2, 3, 4, 57}) {
            const std::string some = png->substr(0, length);
            QCOMPARE(QString::fromStdString(handover::asDataUrl(some)),
                     "data:image/png;base64," + QByteArray::fromStdString(some).toBase64());
        }
    }

    void aReportShowsWhatAStepChanged() {
        measure::FactsCache facts;
        Model plate = modelOf(drilledPlate(100, 60, 8, 4, 5), "plate");
        plate.fileHashes = {std::string(64, 'a')};
        const auto work = Work(plate, "plate.step")
                              .withStep("shave.removeHoles", {{"upTo", 8.0}})
                              .withStep("handover.note", {{"text", "as agreed"}})
                              .replayed(facts, quietly());
        QVERIFY2(work, said(work));
        handover::ReportOptions options;
        options.author = "A & B";
        options.date = "2026-01-02";
        const auto page = handover::reportOf(*work, options, facts, quietly());
        QVERIFY2(page, said(page));
        const QString text = QString::fromStdString(*page);
        QCOMPARE(text.count("<img "), 4);  // before and after, of the whole and of the step; the note has none
        QVERIFY(text.contains("made by A &amp; B") && text.contains("2026-01-02"));
        QVERIFY(!text.contains("checked by"));
        QVERIFY(text.contains(QString(64, 'a')));
        // Named views come after the first pictures, each twice; a camera that looks nowhere is none.
        options.views = handover::sightsIn(
            {{"from <above>",
              {{"eye_mm", {50, 30, 500}}, {"at_mm", {50, 30, 0}}, {"up", {0, 1, 0}}, {"scale_mm", 80.0}}},
             {"nowhere", {{"eye_mm", {1, 1, 1}}, {"at_mm", {1, 1, 1}}, {"up", {0, 1, 0}}, {"scale_mm", 80.0}}},
             {"damaged", {{"eye_mm", "?"}}}});
        QCOMPARE(options.views.size(), std::size_t(1));
        const auto viewed = handover::reportOf(*work, options, facts, quietly());
        QVERIFY2(viewed, said(viewed));
        QCOMPARE(QString::fromStdString(*viewed).count("<img "), 6);
        QVERIFY(viewed->find("from &lt;above&gt;") != std::string::npos);
        options.pictures = false;
        const auto plain = handover::reportOf(*work, options, facts, quietly());
        QVERIFY(plain && plain->find("<img ") == std::string::npos);
    }
};

static Registered<PictureTest> pictureTest;

}  // namespace rasoir::test

#include "picture_test.moc"
