#include <CLI/CLI.hpp>

#include "commands.h"

int main(int argc, char** argv) {
    using namespace rasoir::cli;
    CLI::App app("rasoir-cli: look into CAD files, find what is too small to mesh, and run ledgers, without a window.");
    app.footer(
        "Examples:\n"
        "  rasoir-cli inspect arm.step\n"
        "  rasoir-cli survey arm.step --holes --up-to 8mm --json\n"
        "  rasoir-cli run shave.json --in arm.step --out arm-shaved.step --report effect.json\n"
        "Exit codes: 0 done; 1 done, but something was left with a reason; 2 the command line makes no sense;\n"
        "  3 a file cannot be read, understood or written; 4 the file states no unit, give --unit;\n"
        "  5 refused, nothing written; 6 a fault inside, nothing written.");
    app.set_version_flag("--version", "rasoir " RASOIR_VERSION);
    app.require_subcommand(1);

    Input input;
    const auto addInput = [&input](CLI::App* command) {
        command->add_option("FILE", input.files, "STEP, IGES, BREP or .rasoir files; several become one model")
            ->required();
        command->add_option("--unit", input.unit, "length unit, for files that state none: mm, cm, m, um, in, ft");
        command->add_option("--target-size", input.targetSize, "intended element size, such as 4mm or 1/8in");
        command->add_option("--variant", input.variant, "of a .rasoir file; else the one in hand");
        command->add_flag("--json", input.json, "print JSON");
    };
    CLI::App* inspectCommand = app.add_subcommand("inspect", "parts, sizes, volume, mass, health of a file");
    addInput(inspectCommand);
    inspectCommand->footer("Example: rasoir-cli inspect carrier.step --json");

    SurveyWanted surveyWanted;
    CLI::App* surveyCommand = app.add_subcommand("survey", "find small features");
    addInput(surveyCommand);
    surveyCommand->add_flag("--holes", surveyWanted.holes, "holes and slots");
    surveyCommand->add_flag("--rounds", surveyWanted.rounds, "rounds and chamfers");
    surveyCommand->add_flag("--reliefs", surveyWanted.reliefs,
                            "marks, bosses, pockets, cutouts, notches, ribs and steps");
    surveyCommand->add_flag("--threads", surveyWanted.threads, "modelled threads");
    surveyCommand->add_flag("--small", surveyWanted.small,
                            "small faces and short edges that belong to no other feature");
    surveyCommand->add_flag("--received", surveyWanted.received,
                            "the receiving report: what came and what is odd about it");
    surveyCommand->add_flag("--copies", surveyWanted.copies, "parts of one shape, moved, turned or mirrored");
    surveyCommand->add_flag("--fasteners", surveyWanted.fasteners, "bolts, nuts, washers and pins by their shape");
    surveyCommand->add_flag("--hidden", surveyWanted.hidden, "places that cannot be seen from outside");
    surveyCommand->add_flag("--defects", surveyWanted.defects,
                            "gaps, openings, doubled faces, slivers and all else that is not sound");
    surveyCommand->add_flag("--contacts", surveyWanted.contacts, "what touches what, near misses and overlaps");
    surveyCommand->add_flag("--openings", surveyWanted.openings, "openings that a lid would close, for a flow space");
    surveyCommand->add_flag("--leaks", surveyWanted.leaks,
                            "how a fluid in --seed gets outside though all openings have lids");
    surveyCommand->add_flag("--reach", surveyWanted.reach,
                            "which faces a fluid in --seed reaches, all openings with lids, and on how long a way");
    surveyCommand->add_option("--seed", surveyWanted.seed, "a point in the fluid: x,y,z in mm");
    surveyCommand->add_flag("--beams", surveyWanted.beams,
                            "bars of one section, straight or bent, from which beams can be made");
    surveyCommand->add_flag("--bolts", surveyWanted.bolts, "bolts and what they clamp");
    surveyCommand->add_flag("--welds", surveyWanted.welds, "lines where bodies that touch could be welded");
    surveyCommand->add_flag("--layers", surveyWanted.layers,
                            "bodies that mesh in layers, what forbids it, and the cuts that would free them");
    surveyCommand->add_flag("--small-beside", surveyWanted.smallBeside,
                            "narrow faces and short edges that run on smoothly: to be meshed as one with a neighbour");
    surveyCommand->add_flag("--symmetry", surveyWanted.symmetry, "mirror planes, turning symmetry, a common axis");
    surveyCommand->add_flag("--proof", surveyWanted.proof,
                            "sheets and beams of a work file held against the solids that they stand for");
    surveyCommand->add_flag("--walls", surveyWanted.walls, "thin walls, from which sheets can be made");
    surveyCommand->add_flag("--not-flush", surveyWanted.notFlush,
                            "gaps, lips, laps and rims of sheets, and walls without one");
    surveyCommand->add_option("--up-to", surveyWanted.upTo, "largest size, such as 8, 8mm, 1/4in or 2el (elements)");
    surveyCommand->add_option("--part", surveyWanted.part, "only the part of this name");
    surveyCommand->footer(
        "Examples: rasoir-cli survey arm.step --holes --up-to 8mm --json\n          rasoir-cli survey carrier.step "
        "--received --fasteners");

    RunWanted runWanted;
    CLI::App* runCommand = app.add_subcommand("run", "run a ledger on a file");
    runCommand->add_option("LEDGER", runWanted.ledger, "ledger, JSON")->required();
    runCommand->add_option("--in", runWanted.in, "file to work on; several become one model")->required();
    runCommand->add_option("--out", runWanted.out, "file to write: .step, .stp, .brep, or .rasoir for the whole work");
    runCommand->add_option("--report", runWanted.report,
                           "report of every step and its effect: .json, or .html as a page to read");
    runCommand->add_option("--unit", runWanted.unit, "length unit, for files that state none");
    runCommand->add_option("--out-unit", runWanted.outUnit, "length unit of the file to write; else as it came");
    runCommand->add_option("--schema", runWanted.schema, "ap203, ap214 or ap242")
        ->check(CLI::IsMember({"ap203", "ap214", "ap242"}));
    runCommand->add_option("--as", runWanted.as,
                           "with a .rasoir file in: run on the model as it was received, as a variant of this name "
                           "beside those there are");
    runCommand->add_flag(
        "--nearest", runWanted.nearest,
        "on a revision: where a step names what is not there any more, take the nearest thing like it");
    runCommand->add_flag("--keep-going", runWanted.keepGoing, "go on after a step that does not fit, and write");
    runCommand->footer("Example: rasoir-cli run shave.json --in arm.step --out arm-shaved.step --report effect.json");

    Input checkInput;
    CLI::App* checkCommand =
        app.add_subcommand("check", "whether the next program can use it: errors, warnings, notes");
    checkCommand->add_option("FILE", checkInput.files, "STEP, IGES, BREP or .rasoir files")->required();
    checkCommand->add_option("--unit", checkInput.unit, "length unit, for files that state none");
    checkCommand->add_option("--target-size", checkInput.targetSize, "intended element size, such as 4mm");
    checkCommand->add_option("--variant", checkInput.variant, "of a .rasoir file; else the one in hand");
    checkCommand->add_flag("--json", checkInput.json, "print JSON");
    checkCommand->footer("Exit codes: 0 nothing stands in the way; 1 warnings; 5 errors.");

    Input meshInput;
    MeshWanted meshWanted;
    CLI::App* meshCommand = app.add_subcommand("mesh", "a trial mesh, to look at and to measure");
    meshCommand->add_option("FILE", meshInput.files, "STEP, IGES, BREP or .rasoir files")->required();
    meshCommand->add_option("--unit", meshInput.unit, "length unit, for files that state none");
    meshCommand->add_option("--target-size,--size", meshInput.targetSize, "element size, such as 4mm");
    meshCommand->add_option("--part", meshWanted.parts, "only parts of these names or patterns");
    meshCommand->add_option("--variant", meshInput.variant, "of a .rasoir file; else the one in hand");
    meshCommand->add_option("--out", meshWanted.out, "file to write: .vtu or .stl");
    meshCommand->add_flag("--json", meshInput.json, "print JSON");
    meshCommand->footer("Example: rasoir-cli mesh arm.step --size 2mm --out arm.vtu");

    Input compareBefore, compareAfter;
    std::string fileBefore, fileAfter;
    CLI::App* compareCommand = app.add_subcommand("compare", "what changed from one file to the next");
    compareCommand->add_option("BEFORE", fileBefore, "STEP, IGES, BREP or .rasoir file")->required();
    compareCommand->add_option("AFTER", fileAfter, "the same, later")->required();
    compareCommand->add_option("--unit", compareBefore.unit, "length unit, for files that state none");
    compareCommand->add_option("--before-variant", compareBefore.variant, "of BEFORE, a .rasoir file");
    compareCommand->add_option("--after-variant", compareAfter.variant, "of AFTER, a .rasoir file");
    compareCommand->add_flag("--json", compareBefore.json, "print JSON");
    compareCommand->footer("Exit codes: 0 nothing changed; 1 something did.");

    Input reportInput;
    ReportWanted reportWanted;
    CLI::App* reportCommand = app.add_subcommand("report", "one page on what was done to a file, and its effect");
    reportCommand->add_option("FILE", reportInput.files, "a .rasoir file; others are told as received")->required();
    reportCommand->add_option("--out", reportWanted.out, "page to write, .html or .pdf")->required();
    reportCommand->add_option("--author", reportWanted.author, "who made it");
    reportCommand->add_option("--checker", reportWanted.checker, "who checked it");
    reportCommand->add_option("--date", reportWanted.date, "the date as it is to stand there");
    reportCommand->add_flag("--plain", reportWanted.plain, "without pictures");
    reportCommand->add_flag("--mesh", reportWanted.mesh, "with the trial mesh as received and now, measured");
    reportCommand->add_option("--exported", reportWanted.exported,
                              "files that were exported: read again and held against the work");
    reportCommand->add_option("--variant", reportInput.variant, "of a .rasoir file; else the one in hand");
    reportCommand->add_option("--unit", reportInput.unit, "length unit, for files that state none");
    reportCommand->add_option("--target-size", reportInput.targetSize, "intended element size, such as 4mm");

    Input exportInput;
    ExportWanted exportWanted;
    CLI::App* exportCommand = app.add_subcommand("export", "write a file for the next program");
    exportCommand->add_option("FILE", exportInput.files, "STEP, IGES, BREP or .rasoir files")->required();
    exportCommand->add_option("--out", exportWanted.out, "file to write: .step, .stp, .brep or .dxf")->required();
    exportCommand->add_option("--part", exportWanted.parts, "only parts or places of these names or patterns");
    exportCommand->add_option("--axes", exportWanted.axes,
                              "the coordinate system it is written in: a group of that purpose");
    exportCommand->add_flag("--each", exportWanted.each, "a file for each part, its name put before the suffix");
    exportCommand->add_flag("--unproven", exportWanted.unproven, "write without reading it back and comparing");
    exportCommand->add_option("--variant", exportInput.variant, "of a .rasoir file; else the one in hand");
    exportCommand->add_option("--unit", exportInput.unit, "length unit, for files that state none");
    exportCommand->add_option("--out-unit", exportWanted.unit, "length unit of the file to write; else as it came");
    exportCommand->add_option("--schema", exportWanted.schema, "ap203, ap214 or ap242")
        ->check(CLI::IsMember({"ap203", "ap214", "ap242"}));
    exportCommand->footer("Example: rasoir-cli export carrier.rasoir --out arm.step --part \"hanger arm\"");

    std::string variantsOf;
    bool variantsJson = false;
    CLI::App* variantsCommand = app.add_subcommand("variants", "the variants of a work file");
    variantsCommand->add_option("FILE", variantsOf, "a .rasoir file")->required();
    variantsCommand->add_flag("--json", variantsJson, "print JSON");
    variantsCommand->footer(
        "Example: rasoir-cli compare a.rasoir a.rasoir --before-variant first --after-variant sheets");

    bool operationsJson = false;
    CLI::App* operationsCommand =
        app.add_subcommand("operations", "every operation with its parameters, units and defaults");
    operationsCommand->add_flag("--json", operationsJson, "print JSON");

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? Fine : BadUse;
    }
    if (*inspectCommand) return inspect(input);
    if (*surveyCommand) return survey(input, surveyWanted);
    if (*checkCommand) return check(checkInput);
    if (*meshCommand) return trialMesh(meshInput, meshWanted);
    if (*runCommand) return run(runWanted);
    if (*compareCommand) {
        compareAfter.unit = compareBefore.unit;
        compareBefore.files = {fileBefore};
        compareAfter.files = {fileAfter};
        return compareFiles(compareBefore, compareAfter, compareBefore.json);
    }
    if (*reportCommand) return report(reportInput, reportWanted);
    if (*variantsCommand) return variants(variantsOf, variantsJson);
    if (*exportCommand) return exportFile(exportInput, exportWanted);
    return listOperations(operationsJson);
}
