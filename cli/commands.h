// What rasoir-cli can do, one function a command. Each returns the process's exit code (docs/user-guide.md lists them).
#pragma once
#include <optional>
#include <string>
#include <vector>

namespace rasoir::cli {

enum ExitCode {
    Fine = 0,
    Partly = 1,     ///< done, but something was left with a reason
    BadUse = 2,     ///< the command line or a parameter makes no sense
    BadFile = 3,    ///< a file cannot be read, understood or written
    NeedsUnit = 4,  ///< the file states no unit: give --unit
    Refused = 5,    ///< the geometry does not allow what was asked; nothing was written
    Broken = 6      ///< a fault inside; nothing was written
};

struct Input {
    std::vector<std::string> files;  ///< several are read as one model
    std::string unit;                ///< "" : as the file says
    std::string targetSize;          ///< "" : suggested
    std::string variant;             ///< of a work file; "" : the one in hand
    bool json = false;
};

struct SurveyWanted {
    bool holes = false, reliefs = false, threads = false, small = false, rounds = false, received = false,
         copies = false, fasteners = false, hidden = false, defects = false, contacts = false, walls = false,
         symmetry = false, notFlush = false, openings = false, beams = false, bolts = false, welds = false,
         layers = false, smallBeside = false, leaks = false, reach = false, proof = false;
    std::string upTo;
    std::string seed;  ///< of leaks and reach: x,y,z [mm, model coordinates]
    std::string part;
    [[nodiscard]] bool anything() const {
        return holes || reliefs || threads || small || rounds || received || copies || fasteners || hidden || defects ||
               contacts || walls || symmetry || notFlush || openings || beams || bolts || welds || layers ||
               smallBeside || leaks || reach || proof;
    }
};

struct RunWanted {
    std::string ledger, out, report, outUnit, schema;
    std::vector<std::string> in;  ///< several are read as one model
    std::string unit;
    std::string as;  ///< with a work file: a variant of this name, from the model as it was received
    bool keepGoing = false;
    bool nearest = false;  ///< what a step misses is replaced by the nearest thing like it, told
};

struct MeshWanted {
    std::vector<std::string> parts;  ///< names or patterns; empty: all
    std::string out;                 ///< .vtu or .stl
};

struct ExportWanted {
    std::vector<std::string> parts;  ///< names or patterns; empty: all
    std::string out, unit, schema;
    std::string axes;       ///< the coordinate system it is written in
    bool each = false;      ///< a file for each part
    bool unproven = false;  ///< written although it does not read back as it was
};

int inspect(const Input& input);
int survey(const Input& input, const SurveyWanted& wanted);
int run(const RunWanted& wanted);
/// Whether the next program can use it: 0 when nothing stands in the way, 1 with warnings, 5 with errors.
int check(const Input& input);
/// A trial mesh, its measures, and to what bad elements are due: 0 done, 1 when faces were left.
int trialMesh(const Input& input, const MeshWanted& wanted);
/// What changed from one file to the next: 0 nothing, 1 something.
int compareFiles(const Input& before, const Input& after, bool json);
/// The variants of a work file, with their steps.
int variants(const std::string& file, bool json);
/// The page of a work file, or of a file as received.
struct ReportWanted {
    std::string out;  ///< .html or .pdf
    std::string author, checker, date;
    bool plain = false;  ///< without pictures
    bool mesh = false;   ///< with the trial mesh, before and after
    std::vector<std::string> exported;
};
int report(const Input& input, const ReportWanted& wanted);
int exportFile(const Input& input, const ExportWanted& wanted);
int listOperations(bool json);

}  // namespace rasoir::cli
