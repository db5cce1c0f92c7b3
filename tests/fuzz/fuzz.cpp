// Hostile input: files that were damaged on purpose, read by each reader under the address checker, for a while.
//
// Seeds are small models written here, and files of the demo data. Each case takes one, damages it in a few places, and
// is read in a process of its own, so that whatever it does ends there. A case has failed when its process crashes,
// takes longer than it may, or needs more memory than a file of its size can ask for. What failed is kept, with the
// seed that makes it again. Usage: rasoir-fuzz READER SECONDS [SEED] [FOLDER]; READER is one of step, iges, brep, work,
// ledger, materials.
#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>
#include <zip.h>

#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <fstream>
#include <iostream>
#include <random>

#include "exchange/files.h"
#include "exchange/work_file.h"
#include "measure/facts.h"
#include "model/material.h"

using namespace rasoir;
namespace fs = std::filesystem;

namespace {

constexpr int longestSeconds = 20;  // of one case; address checking makes everything some four times slower
constexpr long mostMemory = 1500;   // [MB] resident, for files that are all below 2 MB

std::string contentsOf(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
}
void write(const fs::path& path, const std::string& text) {
    std::ofstream(path, std::ios::binary) << text;
}

/// Three small parts, one of them twice, with a group: what a file of ours can hold.
Model smallModel() {
    Model model;
    const auto put = [&model](const char* name, const TopoDS_Shape& shape) {
        model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {"set"}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>(name, shape));
    };
    put("block", BRepPrimAPI_MakeBox(30.0, 20.0, 10.0).Shape());
    put("pin", BRepPrimAPI_MakeCylinder(4.0, 25.0).Shape());
    put("ring", BRepPrimAPI_MakeTorus(12.0, 3.0).Shape());
    gp_Trsf aside;
    aside.SetTranslation(gp_Vec(50, 0, 0));
    model.occurrences.push_back({1, aside, "pin", {"set"}, std::nullopt});
    model.giveIds();
    model.groups.push_back(
        {"load", "load", std::nullopt, {{model.parts[0]->id, everyPlace, {EntityKind::Face, 1}}}, {}});
    model.name = "small";
    return model;
}

/// What the reader is begun with.
std::vector<std::string> seedsFor(const std::string& reader, const fs::path& folder) {
    Progress progress;
    std::vector<std::string> seeds;
    const fs::path demo = fs::path(RASOIR_SOURCE_DIR) / "demo-data";
    const Model model = smallModel();
    const auto written = [&](const std::string& name) {
        const fs::path path = folder / name;
        if (exchange::writeFile(model, path, {}, progress)) seeds.push_back(contentsOf(path));
    };
    if (reader == "step") {
        written("seed.step");
        seeds.push_back(contentsOf(demo / "hanger-bolt.step"));
    } else if (reader == "iges") {
        seeds.push_back(contentsOf(demo / "hanger-arm-as-received.igs"));
    } else if (reader == "brep") {
        written("seed.brep");
    } else if (reader == "work") {
        Work work(model, "small.step");
        work = work.withStep("divide.cut", Json{{"planes", {{{"through", {0, 0, 5}}, {"normal", {0, 0, 1}}}}}});
        measure::FactsCache facts;
        if (const auto done = work.replayed(facts, progress)) work = *done;
        const fs::path path = folder / "seed.rasoir";
        if (exchange::saveWork(work, Json::object(), path, progress)) seeds.push_back(contentsOf(path));
    } else if (reader == "ledger") {
        for (const auto& entry : fs::directory_iterator(demo))
            if (entry.path().string().ends_with(".ledger.json")) seeds.push_back(contentsOf(entry.path()));
    } else if (reader == "materials") {
        const fs::path path = folder / "seed.json";
        if (saveMaterials(standardMaterials(), path)) seeds.push_back(contentsOf(path));
    }
    std::erase_if(seeds, [](const std::string& seed) { return seed.empty(); });
    return seeds;
}

using Random = std::mt19937_64;
std::size_t below(Random& random, std::size_t limit) {
    return limit == 0 ? 0 : std::uniform_int_distribution<std::size_t>(0, limit - 1)(random);
}

/// One wound. Besides bytes at random, what readers stumble over: numbers beyond all size, numbers that are none,
/// references to nothing, pieces that come twice or not at all, and texts without end.
void damage(std::string& text, Random& random) {
    if (text.empty()) return;
    const std::size_t at = below(random, text.size());
    static const std::vector<std::string> numbers{
        "nan",        "inf",         "-1",   "0", "1e999", "-1e308", "4294967296", "1e-320", "99999999999999999999",
        "2147483647", "-2147483648", "1e40", "#0"};
    switch (below(random, 10)) {
        case 0:
            text[at] = static_cast<char>(below(random, 256));
            break;
        case 1:  // a bit
            text[at] = static_cast<char>(text[at] ^ (1 << below(random, 8)));
            break;
        case 2:  // cut short
            text.resize(at);
            break;
        case 3:  // a piece gone
            text.erase(at, 1 + below(random, 64));
            break;
        case 4:  // a piece twice
            text.insert(at, text.substr(below(random, text.size()), 1 + below(random, 200)));
            break;
        case 5:
        case 6: {  // a number for another
            const std::size_t digit = text.find_first_of("0123456789", at);
            if (digit == std::string::npos) break;
            const std::size_t end = text.find_first_not_of("0123456789.eE+-", digit);
            text.replace(digit, (end == std::string::npos ? text.size() : end) - digit,
                         numbers[below(random, numbers.size())]);
            break;
        }
        case 7: {  // two lines change places
            const std::size_t a = text.find('\n', at), b = text.find('\n', below(random, text.size()));
            if (a == std::string::npos || b == std::string::npos) break;
            const std::size_t c = text.find('\n', a + 1), d = text.find('\n', b + 1);
            if (c == std::string::npos || d == std::string::npos || c > b) break;
            const std::string one = text.substr(a, c - a), other = text.substr(b, d - b);
            text.replace(b, d - b, one);
            text.replace(a, c - a, other);
            break;
        }
        case 8:  // brackets without end
            text.insert(at, std::string(1 + below(random, 5000), "([{'\""[below(random, 5)]));
            break;
        default:
            text.insert(at, std::string(1 + below(random, 3000), static_cast<char>(below(random, 256))));
    }
}

/// A work file is a zip: damaged as a whole, and more often within, where the checksums are right again.
std::string damagedZip(const std::string& seed, const fs::path& scratch, Random& random) {
    write(scratch, seed);
    int error = 0;
    zip_t* archive = zip_open(scratch.c_str(), 0, &error);
    if (archive == nullptr) return seed;
    const auto count = static_cast<std::size_t>(std::max<zip_int64_t>(0, zip_get_num_entries(archive, 0)));
    std::vector<std::string> kept;  // until the archive is closed, which is when it is written
    kept.reserve(4);
    for (std::size_t k = 0; k < 1 + below(random, 3) && count > 0; ++k) {
        const zip_uint64_t entry = below(random, count);
        zip_stat_t known;
        if (zip_stat_index(archive, entry, 0, &known) != 0 || known.size > 4000000) continue;
        std::string text(known.size, '\0');
        if (zip_file_t* file = zip_fopen_index(archive, entry, 0)) {
            (void)zip_fread(file, text.data(), text.size());
            zip_fclose(file);
        }
        for (std::size_t d = 0; d < 1 + below(random, 4); ++d) damage(text, random);
        kept.push_back(std::move(text));
        zip_source_t* source = zip_source_buffer(archive, kept.back().data(), kept.back().size(), 0);
        if (zip_file_replace(archive, entry, source, ZIP_FL_OVERWRITE) != 0) zip_source_free(source);
    }
    if (zip_close(archive) != 0) zip_discard(archive);
    return contentsOf(scratch);
}

/// Reads, and does what anybody would do next. True when it was understood.
bool readCase(const std::string& reader, const fs::path& path) {
    Progress progress;
    if (reader == "ledger") {
        auto ledger = exchange::readLedger(path);
        if (!ledger) return false;
        // What it asks for is run on a small model: parameters are input as well.
        measure::FactsCache facts;
        const auto done =
            Work(smallModel(), "small.step").withLedger(std::move(*ledger)).replayed(facts, progress, true);
        return done.has_value();
    }
    if (reader == "materials") return materialLibrary(path).has_value();
    if (reader == "work") {
        const auto opened = exchange::openWork(path, progress);
        (void)exchange::ledgerOfWorkFile(path);
        return opened.has_value();
    }
    exchange::ReadOptions options;
    options.unit = Unit::Millimetre;
    const auto model = exchange::readFile(path, options, progress);
    if (model) (void)measure::factsOfParts(*model, false, progress);
    return model.has_value();
}

enum class Ending { Understood, Refused, Crashed, Slow, Greedy };

Ending ended(const std::string& reader, const fs::path& path) {
    std::fflush(stdout);  // else the child would say it again
    const pid_t child = fork();
    if (child == 0) {
        if (std::freopen("/dev/null", "w", stdout) == nullptr) _exit(3);
        _exit(readCase(reader, path) ? 0 : 1);
    }
    const auto begun = std::chrono::steady_clock::now();
    int status = 0;
    rusage used{};
    while (wait4(child, &status, WNOHANG, &used) == 0) {
        if (std::chrono::steady_clock::now() - begun > std::chrono::seconds(longestSeconds)) {
            kill(child, SIGKILL);
            wait4(child, &status, 0, &used);
            return Ending::Slow;
        }
        usleep(2000);
    }
    if (WIFSIGNALED(status) || (WIFEXITED(status) && WEXITSTATUS(status) > 1)) return Ending::Crashed;
    if (used.ru_maxrss / 1024 > mostMemory) return Ending::Greedy;
    return WEXITSTATUS(status) == 0 ? Ending::Understood : Ending::Refused;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 3) {
        fmt::print("rasoir-fuzz READER SECONDS [SEED] [FOLDER]\n");
        return 2;
    }
    const std::string reader = argv[1];
    const double seconds = std::atof(argv[2]);
    const std::uint64_t seed = argc > 3 ? std::strtoull(argv[3], nullptr, 10) : std::random_device{}();
    const fs::path folder = argc > 4 ? fs::path(argv[4]) : fs::temp_directory_path() / ("rasoir-fuzz-" + reader);
    fs::create_directories(folder);
    const auto seeds = seedsFor(reader, folder);
    if (seeds.empty()) {
        fmt::print("{}: nothing to begin with\n", reader);
        return 2;
    }
    std::map<Ending, int> counts;
    int cases = 0, failed = 0;
    const auto begun = std::chrono::steady_clock::now();
    while (std::chrono::steady_clock::now() - begun < std::chrono::duration<double>(seconds)) {
        Random random(seed + static_cast<std::uint64_t>(cases));
        std::string text = seeds[below(random, seeds.size())];
        if (reader == "work" && below(random, 4) != 0)
            text = damagedZip(text, folder / "inner.rasoir", random);
        else
            for (std::size_t d = 0; d < 1 + below(random, 5); ++d) damage(text, random);
        const fs::path path = folder / (reader == "step"   ? "case.step"
                                        : reader == "iges" ? "case.igs"
                                        : reader == "brep" ? "case.brep"
                                        : reader == "work" ? "case.rasoir"
                                                           : "case.json");
        write(path, text);
        const Ending ending = ended(reader, path);
        ++counts[ending];
        if (ending >= Ending::Crashed) {
            const char* how = ending == Ending::Crashed ? "crashed" : ending == Ending::Slow ? "slow" : "greedy";
            const fs::path kept = folder / fmt::format("{}-{}{}", how, seed + static_cast<std::uint64_t>(cases),
                                                       path.extension().string());
            write(kept, text);
            fmt::print("  {} {}: {}\n", reader, how, kept.string());
            ++failed;
        }
        ++cases;
    }
    fmt::print("{}: {} cases from seed {}: {} understood, {} refused, {} crashed, {} slow, {} greedy\n", reader, cases,
               seed, counts[Ending::Understood], counts[Ending::Refused], counts[Ending::Crashed], counts[Ending::Slow],
               counts[Ending::Greedy]);
    return failed == 0 ? 0 : 1;
}
