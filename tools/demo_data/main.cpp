// Makes the demo files and their tables of truth. Usage: rasoir-demo-data FOLDER
#include <fmt/format.h>

#include <IGESControl_Controller.hxx>
#include <IGESControl_Writer.hxx>
#include <TopExp_Explorer.hxx>

#include "common/safe_file.h"
#include "exchange/files.h"
#include "shapes.h"
#include "truth.h"

int main(int argc, char** argv) {
    using namespace rasoir;
    if (argc != 2) {
        fmt::print(stderr, "Usage: rasoir-demo-data FOLDER\n");
        return 2;
    }
    const std::filesystem::path folder = argv[1];
    const auto made = guarded("Making the demo data", [&]() -> Result<void> {
        Progress quiet;
        const demo::PartWithTruth arm = demo::hangerArm();
        Model single;
        single.name = "hanger arm";
        single.fileUnit = Unit::Millimetre;
        auto part = std::make_shared<Part>("hanger arm", arm.shape);
        part->colour = Colour{0.42, 0.44, 0.47};
        single.parts.push_back(part);
        single.occurrences.push_back({0, gp_Trsf(), "hanger arm", {}, std::nullopt});
        if (auto done = exchange::writeFile(single, folder / "hanger-arm.step", {}, quiet); !done) return done;
        if (auto done = writeText(folder / "hanger-arm.json", demo::truthOf(arm).dump(1) + "\n"); !done) return done;
        const demo::PartWithTruth next = demo::hangerArm(true);
        Model revised = single;
        auto later = std::make_shared<Part>("hanger arm", next.shape);
        later->colour = part->colour;
        revised.parts = {later};
        if (auto done = exchange::writeFile(revised, folder / "hanger-arm-revised.step", {}, quiet); !done) return done;
        Json changed = demo::truthOf(next);
        changed.update(demo::revisionTruth());
        if (auto done = writeText(folder / "hanger-arm-revised.json", changed.dump(1) + "\n"); !done) return done;
        const demo::DamagedArm damaged = demo::damagedArm(arm.shape);
        Model received = single;
        received.name = "hanger arm as received";
        auto loose = std::make_shared<Part>("hanger arm as received", damaged.shape);
        loose->colour = part->colour;
        received.parts = {loose};
        received.occurrences = {{0, gp_Trsf(), loose->name, {}, std::nullopt}};
        if (auto done = exchange::writeFile(received, folder / "hanger-arm-as-received.step", {}, quiet); !done)
            return done;
        if (auto done = writeText(folder / "hanger-arm-as-received.json", demo::truthOf(damaged, arm).dump(1) + "\n");
            !done)
            return done;
        {
            IGESControl_Controller::Init();
            IGESControl_Writer writer("MM", 1);  // faces as B-rep entities
            for (TopExp_Explorer it(damaged.shape, TopAbs_FACE); it.More(); it.Next()) writer.AddShape(it.Current());
            writer.ComputeModel();
            if (!writer.Write((folder / "hanger-arm-as-received.igs").c_str()))
                return fail(ProblemKind::Storage, "The IGES file could not be written.");
        }
        const demo::ReliefTruth cover = demo::clampCover();
        Model clamp = single;
        clamp.name = "clamp cover";
        auto housing = std::make_shared<Part>("clamp cover", cover.shape);
        housing->colour = part->colour;
        clamp.parts = {housing};
        clamp.occurrences = {{0, gp_Trsf(), housing->name, {}, std::nullopt}};
        if (auto done = exchange::writeFile(clamp, folder / "clamp-cover.step", {}, quiet); !done) return done;
        if (auto done = writeText(folder / "clamp-cover.json", demo::truthOf(cover).dump(1) + "\n"); !done) return done;
        const demo::BoltTruth bolt = demo::hangerBolt();
        Model fastener = single;
        fastener.name = "hanger bolt";
        auto threaded = std::make_shared<Part>("hanger bolt", bolt.shape);
        threaded->colour = part->colour;
        fastener.parts = {threaded};
        fastener.occurrences = {{0, gp_Trsf(), threaded->name, {}, std::nullopt}};
        if (auto done = exchange::writeFile(fastener, folder / "hanger-bolt.step", {}, quiet); !done) return done;
        if (auto done = writeText(folder / "hanger-bolt.json", demo::truthOf(bolt).dump(1) + "\n"); !done) return done;
        const Model whole = demo::carrier(arm.shape);
        if (auto done = exchange::writeFile(whole, folder / "carrier.step", {}, quiet); !done) return done;
        Json parts = Json::array();
        double sum = 0.0;
        std::map<std::size_t, int> copies;
        for (const Occurrence& occurrence : whole.occurrences) ++copies[occurrence.part];
        for (std::size_t p = 0; p < whole.parts.size(); ++p) {
            const double volume = demo::volumeOf(whole.parts[p]->shape);
            sum += volume * copies[p];
            parts.push_back(Json{{"name", whole.parts[p]->name}, {"occurrences", copies[p]}, {"volume_mm3", volume}});
        }
        return writeText(
            folder / "carrier.json",
            Json{{"occurrences", whole.occurrences.size()}, {"volume_mm3", sum}, {"parts", parts}}.dump(1) + "\n");
    });
    if (!made) {
        fmt::print(stderr, "{}\n", sentence(made.error()));
        return 1;
    }
    return 0;
}
