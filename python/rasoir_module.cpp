// Rasoir for Python: open a file, look into it, run steps by name, save. See the user guide, "In Python".
//
// Everything that goes in and out as JSON in ledgers and in rasoir-cli --json goes in and out as dictionaries here, by
// way of Python's own json module: so the words are the same everywhere, and nothing has to be translated twice.
#include <pybind11/pybind11.h>
#include <pybind11/stl.h>

#include "exchange/files.h"
#include "exchange/work_file.h"
#include "handover/check.h"
#include "handover/export.h"
#include "measure/facts.h"
#include "measure/mass.h"
#include "mesh/mesh_files.h"
#include "mesh/quality.h"
#include "model/places.h"
#include "model/work.h"
#include "operations.h"
#include "surveys.h"

namespace py = pybind11;

namespace rasoir::python {
namespace {

py::object asPython(const Json& json) {
    return py::module_::import("json").attr("loads")(
        py::bytes(json.dump(-1, ' ', false, Json::error_handler_t::replace)));
}
Json asJson(const py::object& object) {
    return Json::parse(py::module_::import("json").attr("dumps")(object).cast<std::string>());
}

py::object& problemType() {
    static py::object type;
    return type;
}

/// Raises a problem as rasoir.Problem, with its sentence, place and remedy as attributes.
[[noreturn]] void raise(const Problem& problem) {
    py::object error = problemType()(sentence(problem));
    error.attr("what") = problem.what;
    error.attr("remedy") = problem.remedy;
    error.attr("part") = problem.where.part;
    error.attr("faces") = problem.where.faces;
    error.attr("nothing_to_do") = problem.kind == ProblemKind::NothingToDo;
    if (problem.where.point)
        error.attr("at_mm") =
            py::make_tuple(problem.where.point->X(), problem.where.point->Y(), problem.where.point->Z());
    else
        error.attr("at_mm") = py::none();
    PyErr_SetObject(problemType().ptr(), error.ptr());
    throw py::error_already_set();
}

/// What a long call returns, Python's lock given up meanwhile. Ctrl+C ends it.
template <class Function>
auto free(Function function) {
    Progress progress([](double, const std::string&) {});
    py::gil_scoped_release release;
    return function(progress);
}

/// A model and the steps that led to it.
class PyWork {
public:
    PyWork(Model model, std::string source) : m_states{std::move(model)}, m_source(std::move(source)) {}

    [[nodiscard]] const Model& model() const { return m_states.back(); }

    py::dict run(const std::string& name, const py::kwargs& parameters) {
        const Operation* operation = findOperation(name);
        if (operation == nullptr)
            raise({ProblemKind::BadInput, "There is no operation \"" + name + "\".", {}, "See rasoir.operations()."});
        const Json json = parameters.empty() ? Json::object() : asJson(parameters);
        auto outcome = free([&](Progress& progress) { return operation->run(model(), json, progress); });
        if (!outcome) raise(outcome.error());
        Json items = Json::array();
        for (const Item& item : outcome->items) {
            Json one{{"what", item.what}, {"done", item.done}};
            if (!item.done) one["problem"] = sentence(item.problem);
            items.push_back(std::move(one));
        }
        m_states.push_back(std::move(outcome->model));
        m_steps.push_back({{"operation", name}, {"parameters", json}});
        return asPython({{"summary", outcome->summary}, {"items", items}, {"notes", outcome->notes}});
    }
    void undo() {
        if (m_steps.empty()) raise({ProblemKind::NothingToDo, "There is no step to undo.", {}, ""});
        m_steps.erase(m_steps.size() - 1);
        m_states.pop_back();
    }
    [[nodiscard]] py::object steps() const { return asPython(m_steps); }

    py::object survey(const std::vector<std::string>& kinds, double upTo, const std::string& part) const {
        cli::SurveyWanted wanted;
        wanted.part = part;
        const std::map<std::string, bool*> known{{"holes", &wanted.holes},
                                                 {"rounds", &wanted.rounds},
                                                 {"reliefs", &wanted.reliefs},
                                                 {"threads", &wanted.threads},
                                                 {"small", &wanted.small},
                                                 {"received", &wanted.received},
                                                 {"copies", &wanted.copies},
                                                 {"fasteners", &wanted.fasteners},
                                                 {"hidden", &wanted.hidden},
                                                 {"defects", &wanted.defects},
                                                 {"contacts", &wanted.contacts},
                                                 {"walls", &wanted.walls},
                                                 {"openings", &wanted.openings},
                                                 {"bolts", &wanted.bolts},
                                                 {"welds", &wanted.welds},
                                                 {"beams", &wanted.beams},
                                                 {"symmetry", &wanted.symmetry},
                                                 {"layers", &wanted.layers},
                                                 {"small_beside", &wanted.smallBeside}};
        for (const std::string& kind : kinds) {
            const auto found = known.find(kind);
            if (found == known.end()) {
                std::string all;
                for (const auto& [name, flag] : known) all += (all.empty() ? "" : ", ") + name;
                raise({ProblemKind::BadInput, "There is no survey \"" + kind + "\".", {}, "There are: " + all + "."});
            }
            *found->second = true;
        }
        Json out = Json::object();
        const auto done =
            free([&](Progress& progress) { return cli::surveyAll(model(), wanted, upTo, true, out, progress); });
        if (!done) raise(done.error());
        return asPython(out);
    }

    [[nodiscard]] py::object parts() const {
        const auto facts = free([&](Progress& progress) { return measure::factsOfParts(model(), false, progress); });
        if (!facts) raise(facts.error());
        Json all = Json::array();
        for (std::size_t p = 0; p < model().parts.size(); ++p) {
            const Part& part = *model().parts[p];
            Json one = measure::toJson((*facts)[p], measure::massOf(model(), part, (*facts)[p]));
            one["name"] = part.name;
            one["kind"] = bodyKindName(part.kind());
            one["material"] = part.material;
            one["places"] = std::count_if(model().occurrences.begin(), model().occurrences.end(),
                                          [p](const Occurrence& place) { return place.part == p; });
            all.push_back(std::move(one));
        }
        return asPython(all);
    }

    [[nodiscard]] py::object check() const {
        const auto found = free([&](Progress& progress) { return handover::check(model(), progress); });
        if (!found) raise(found.error());
        Json all = Json::array();
        for (const handover::CheckFinding& finding : *found)
            all.push_back({{"severity", handover::severityName(finding.severity)},
                           {"what", finding.what},
                           {"why", finding.why},
                           {"bench", finding.bench}});
        return asPython(all);
    }

    py::object mesh(double size, const std::string& path) const {
        mesh::SizeRules rules;
        rules.target = size > 0.0 ? size : model().targetSize;
        const auto made = free([&](Progress& progress) { return mesh::makeTrialMesh(model(), {}, rules, progress); });
        if (!made) raise(made.error());
        if (!path.empty())
            if (const auto written = mesh::writeMesh(model(), *made, path); !written) raise(written.error());
        Json json{{"targetSize_mm", rules.target}, {"triangles", made->triangles}, {"lines", made->lines}};
        for (const mesh::Measure measure : mesh::measures) {
            const auto figures = mesh::qualityOf(model(), *made, measure, mesh::customaryLimit(measure, rules.target));
            json[mesh::measureName(measure)] = {
                {"worst", figures.worst}, {"mean", figures.mean}, {"bad", figures.bad}, {"limit", figures.limit}};
        }
        return asPython(json);
    }

    void save(const std::string& path) const {
        const auto written =
            free([&](Progress& progress) { return handover::exportFile(model(), path, {}, progress); });
        if (!written) raise(written.error());
    }

    [[nodiscard]] double targetSize() const { return model().targetSize; }
    void setTargetSize(double size) {
        if (!(size > 0.0)) raise({ProblemKind::BadInput, "The target size must be a positive length.", {}, ""});
        m_states.back().targetSize = size;
    }
    [[nodiscard]] std::string source() const { return m_source; }

private:
    std::vector<Model> m_states;
    Json m_steps = Json::array();
    std::string m_source;
};

PyWork open(const std::string& path, const std::string& unit, double targetSize) {
    exchange::ReadOptions options;
    if (!unit.empty()) {
        options.unit = unitFromName(unit);
        if (!options.unit)
            raise({ProblemKind::BadInput, "\"" + unit + "\" is not a unit.", {}, "Use mm, cm, m, um, in or ft."});
    }
    auto model = free([&](Progress& progress) { return exchange::readFile(path, options, progress); });
    if (!model) raise(model.error());
    if (targetSize > 0.0) model->targetSize = targetSize;
    return {std::move(*model), path};
}

}  // namespace

PYBIND11_MODULE(rasoir, module) {
    catchKernelSignals();
    module.doc() = "Prepares CAD geometry for analysis: the core of Rasoir.";
    problemType() = py::reinterpret_steal<py::object>(PyErr_NewExceptionWithDoc(
        "rasoir.Problem", "What stopped a call: what, remedy, part, faces, at_mm, nothing_to_do.", PyExc_RuntimeError,
        nullptr));
    module.attr("Problem") = problemType();
    module.def("open", &open, py::arg("path"), py::arg("unit") = "", py::arg("target_size") = 0.0,
               "Reads a STEP, IGES, BREP or .rasoir file. Lengths in mm; target_size 0: suggested.");
    module.def(
        "operations",
        [] {
            Json all = Json::array();
            for (const Operation& operation : operations()) all.push_back(toJson(operation));
            return asPython(all);
        },
        "Every step with its parameters, as rasoir-cli operations --json tells them.");
    py::class_<PyWork>(module, "Work", "A model and the steps that led to it.")
        .def("run", &PyWork::run, py::arg("operation"), "Runs a step by its name, its parameters as keyword arguments.")
        .def("undo", &PyWork::undo, "Takes the last step back.")
        .def(
            "survey",
            [](const PyWork& work, const py::args& kinds, double upTo, const std::string& part) {
                std::vector<std::string> names;
                for (const auto& kind : kinds) names.push_back(kind.cast<std::string>());
                return work.survey(names, upTo, part);
            },
            py::arg("up_to") = 0.0, py::arg("part") = "",
            "Runs surveys by their names; a dictionary of what they found.")
        .def("check", &PyWork::check, "What the next program would choke on.")
        .def("mesh", &PyWork::mesh, py::arg("size") = 0.0, py::arg("path") = "",
             "A trial mesh: its measures; with a path (.vtu, .stl) it is written.")
        .def("save", &PyWork::save, py::arg("path"), "Writes STEP, BREP or DXF by the suffix.")
        .def_property_readonly("parts", &PyWork::parts, "Parts with their facts.")
        .def_property_readonly("steps", &PyWork::steps, "The steps so far, as a ledger holds them.")
        .def_property_readonly("source", &PyWork::source, "The file it was opened from.")
        .def_property("target_size", &PyWork::targetSize, &PyWork::setTargetSize, "The element size intended [mm].");
}

}  // namespace rasoir::python
