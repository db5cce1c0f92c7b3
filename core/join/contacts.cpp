#include "join/contacts.h"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <thread>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/box_tree.h"
#include "geometry/integrals.h"
#include "join/common_matter.h"
#include "join/pair_contacts.h"

// 1. Every body of every part is made touchable once (touchable), whatever the number of its places.
// 2. A tree over the boxes of all bodies where they stand gives the pairs that come near. Pairs of the same two bodies
//    that lie to each other in the same way, as screws in their holes do, are one job.
// 3. Jobs are measured side by side (pair_contacts), and bodies whose boxes reach into one another are asked what they
//    have in common (common_matter).
// 4. What a job found is told for each of its pairs.

namespace rasoir::join {
namespace {

/// A body at a place.
struct Standing {
    std::size_t place = 0;
    std::size_t touchable = 0;
    int body = 1;
};

/// Two bodies that lie to each other in one way, and all pairs that do.
struct Job {
    std::size_t a = 0, b = 0;                                // touchables
    gp_Trsf placed;                                          // of A in the coordinates of B
    std::vector<std::pair<std::size_t, std::size_t>> pairs;  // standings
    std::vector<Contact> found;
    std::size_t tried = 0;
};

/// Whether two placements put everything within `size` [mm] of the origin in the same place within `tolerance` [mm].
bool isSame(const gp_Trsf& a, const gp_Trsf& b, double size, double tolerance) {
    for (int row = 1; row <= 3; ++row) {
        if (std::abs(a.Value(row, 4) - b.Value(row, 4)) > tolerance) return false;
        for (int column = 1; column <= 3; ++column)
            if (std::abs(a.Value(row, column) - b.Value(row, column)) * size > tolerance) return false;
    }
    return true;
}

/// Farthest that a box reaches from the origin [mm].
double reachOf(const Bnd_Box& box) {
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    return std::hypot(std::max(std::abs(low.X()), std::abs(high.X())), std::max(std::abs(low.Y()), std::abs(high.Y())),
                      std::max(std::abs(low.Z()), std::abs(high.Z())));
}

class Survey {
public:
    Survey(const Model& model, const ContactSearch& search, Progress& progress)
        : m_model(model),
          m_search(search),
          m_progress(progress),
          m_exact(10.0 * model.samePoint()),
          m_reach(std::max(search.upTo, m_exact)) {}

    Result<ContactReport> run() {
        if (!takeBodies()) return stopped();
        findJobs();
        measureJobs();
        if (m_progress.cancelled()) return stopped();
        if (m_search.overlaps && !findOverlaps()) return stopped();
        return told();
    }

private:
    const Model& m_model;
    const ContactSearch& m_search;
    Progress& m_progress;
    const double m_exact, m_reach;
    std::vector<std::unique_ptr<Touchable>> m_touchables;
    std::vector<Standing> m_standings;
    std::vector<Job> m_jobs;
    std::size_t m_known = 0;

    static tl::unexpected<Problem> stopped() { return fail(ProblemKind::Cancelled, "Stopped; nothing has changed."); }

    bool takeBodies() {
        std::map<std::size_t, std::size_t> firstOf;  // by part: its bodies follow
        std::vector<std::pair<std::shared_ptr<const Part>, int>> wanted;
        for (std::size_t o = 0; o < m_model.occurrences.size(); ++o) {
            const Occurrence& place = m_model.occurrences[o];
            const auto& part = m_model.parts[place.part];
            if (place.aside || part->lump || part->shape.IsNull()) continue;
            const int bodies = part->incidence().bodyCount();
            const auto [first, fresh] = firstOf.emplace(place.part, wanted.size());
            for (int body = 1; body <= bodies; ++body) {
                if (fresh) wanted.emplace_back(part, body);
                m_standings.push_back({o, first->second + static_cast<std::size_t>(body) - 1, body});
            }
        }
        m_touchables.resize(wanted.size());
        tbb::parallel_for(std::size_t{0}, wanted.size(), [&](std::size_t i) {
            if (!m_progress.cancelled())
                m_touchables[i] = std::make_unique<Touchable>(wanted[i].first, wanted[i].second, m_search.fromSkins);
        });
        if (m_progress.cancelled()) return false;
        std::erase_if(m_standings, [this](const Standing& one) { return m_touchables[one.touchable]->box().IsVoid(); });
        return true;
    }

    void findJobs() {
        std::vector<Bnd_Box> boxes;
        for (const Standing& one : m_standings)
            boxes.push_back(m_touchables[one.touchable]->box().Transformed(m_model.occurrences[one.place].placement));
        const BoxTree tree(boxes);
        std::vector<std::pair<std::size_t, std::size_t>> pairs;
        for (std::size_t own = 0; own < boxes.size(); ++own)
            for (const std::size_t other : tree.near(boxes[own], m_reach))
                if (other > own && (m_search.ownBodies || m_standings[other].place != m_standings[own].place))
                    pairs.emplace_back(own, other);
        std::sort(pairs.begin(), pairs.end());
        std::map<std::pair<std::size_t, std::size_t>, std::vector<std::size_t>> jobsOf;  // by touchables
        for (const auto& [own, other] : pairs) {
            const Standing &a = m_standings[own], &b = m_standings[other];
            const gp_Trsf placed =
                m_model.occurrences[b.place].placement.Inverted() * m_model.occurrences[a.place].placement;
            auto& known = jobsOf[{a.touchable, b.touchable}];
            const double size = reachOf(m_touchables[a.touchable]->box());
            const auto same = std::find_if(known.begin(), known.end(), [&](std::size_t job) {
                return isSame(m_jobs[job].placed, placed, size, 0.01 * m_exact);
            });
            if (same != known.end()) {
                m_jobs[*same].pairs.emplace_back(own, other);
                ++m_known;
                continue;
            }
            known.push_back(m_jobs.size());
            m_jobs.push_back({a.touchable, b.touchable, placed, {{own, other}}, {}, 0});
        }
    }

    void measureJobs() {
        std::atomic<std::size_t> done = 0;
        const std::thread::id caller = std::this_thread::get_id();
        tbb::parallel_for(std::size_t{0}, m_jobs.size(), [&](std::size_t j) {
            if (m_progress.cancelled()) return;
            Job& job = m_jobs[j];
            job.found = contactsBetween(*m_touchables[job.a], *m_touchables[job.b], job.placed, m_search, m_exact,
                                        job.tried, m_progress);
            ++done;
            // Whoever listens expects to be called on one thread.
            if (std::this_thread::get_id() == caller)
                m_progress.report(static_cast<double>(done) / static_cast<double>(m_jobs.size()),
                                  "Looking for contacts");
        });
    }

    /// Bodies whose boxes reach into one another. Making triangles is not for several threads at once.
    bool findOverlaps() {
        std::map<std::size_t, std::unique_ptr<Seen>> seen;
        const auto seenOf = [&](std::size_t touchable) -> const Seen& {
            auto& one = seen[touchable];
            if (!one) one = std::make_unique<Seen>(*m_touchables[touchable], m_progress);
            return *one;
        };
        for (Job& job : m_jobs) {
            if (m_progress.cancelled()) return false;
            const Touchable &a = *m_touchables[job.a], &b = *m_touchables[job.b];
            if (a.faces().empty() || b.faces().empty() || !reachIn(job)) continue;
            Contact contact;
            contact.kind = ContactKind::Overlap;
            if (a.kind() == BodyKind::Solid && b.kind() == BodyKind::Solid) {
                const auto common = commonMatter(seenOf(job.a), seenOf(job.b), job.placed, m_exact);
                if (!common) continue;
                contact.where = common->where;
                contact.gap = contact.widest = common->depth;
                contact.volume = common->volume;
            } else {
                const bool touches = std::any_of(job.found.begin(), job.found.end(), [](const Contact& known) {
                    return known.kind == ContactKind::Touching;
                });
                const auto where =
                    touches ? std::nullopt : passesThrough(seenOf(job.a), seenOf(job.b), job.placed, m_exact);
                if (!where) continue;
                contact.where = *where;
            }
            // Where bodies reach into one another their edges pierce faces: that is no contact.
            std::erase_if(job.found, [](const Contact& known) { return known.edgeA > 0 || known.edgeB > 0; });
            job.found.push_back(contact);
        }
        return true;
    }

    [[nodiscard]] bool reachIn(const Job& job) const {
        const Touchable &a = *m_touchables[job.a], &b = *m_touchables[job.b];
        const Bnd_Box box = a.box().Transformed(job.placed);
        // Solids that only lie on each other have no more in common than the tolerances round their boxes; most pairs
        // are such, and triangles need not be made for them. A flat sheet has no depth of its own.
        const bool solids = a.kind() == BodyKind::Solid && b.kind() == BodyKind::Solid;
        for (int way = 1; way <= 3; ++way)
            if (std::min(box.CornerMax().Coord(way), b.box().CornerMax().Coord(way)) -
                    std::max(box.CornerMin().Coord(way), b.box().CornerMin().Coord(way)) <
                (solids ? 2.0 * m_exact : -m_exact))
                return false;
        return true;
    }

    ContactReport told() {
        ContactReport report;
        report.pairsKnown = m_known;
        report.safe = safeLimit(m_model);
        for (const Job& job : m_jobs) {
            report.pairsTried += job.tried;
            for (const auto& [own, other] : job.pairs)
                for (Contact contact : job.found) {
                    const Standing &a = m_standings[own], &b = m_standings[other];
                    contact.placeA = a.place;
                    contact.placeB = b.place;
                    contact.bodyA = a.body;
                    contact.bodyB = b.body;
                    contact.where.Transform(m_model.occurrences[b.place].placement);
                    report.contacts.push_back(contact);
                }
        }
        std::stable_sort(report.contacts.begin(), report.contacts.end(), [](const Contact& a, const Contact& b) {
            return std::tuple(a.placeA, a.placeB, a.kind, a.bodyA, a.bodyB, a.faceA, a.faceB, a.edgeA, a.edgeB) <
                   std::tuple(b.placeA, b.placeB, b.kind, b.bodyA, b.bodyB, b.faceA, b.faceB, b.edgeA, b.edgeB);
        });
        return report;
    }
};

}  // namespace

const char* contactKindName(ContactKind kind) {
    switch (kind) {
        case ContactKind::Touching:
            return "touching";
        case ContactKind::Line:
            return "line of contact";
        case ContactKind::Point:
            return "point of contact";
        case ContactKind::Near:
            return "near miss";
        case ContactKind::Overlap:
            return "overlap";
    }
    return "";
}

SafeLimit safeLimit(const Model& model, const std::vector<std::size_t>& places) {
    SafeLimit limit{0.1 * model.targetSize, "a tenth of the target size"};
    std::set<std::size_t> parts;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (places.empty() ? !model.occurrences[o].aside : std::find(places.begin(), places.end(), o) != places.end())
            parts.insert(model.occurrences[o].part);
    struct Wall {
        const Part* part;
        double mm = std::numeric_limits<double>::infinity();
    };
    std::vector<Wall> walls;
    for (const std::size_t p : parts) walls.push_back({model.parts[p].get()});
    tbb::parallel_for(std::size_t{0}, walls.size(), [&](std::size_t i) {
        const Part& part = *walls[i].part;
        if (part.shape.IsNull() || part.lump || part.kind() != BodyKind::Solid) return;
        const double area = areaOf(part.shape), volume = volumeOf(part.shape);
        if (area > 0.0 && volume > 0.0)
            walls[i].mm = 2.0 * volume / area;  // of a plate its thickness, of a tube its wall
    });
    for (const Wall& wall : walls)
        if (wall.mm / 3.0 < limit.mm)
            limit = {wall.mm / 3.0, fmt::format("a third of the walls of \"{}\"", wall.part->name)};
    // A limit is read and typed by people: the 1, 2 or 5 times a power of ten next below.
    const double power = std::pow(10.0, std::floor(std::log10(std::max(limit.mm, Tolerance::noWay)) + 1e-9));
    for (const double step : {5.0, 2.0, 1.0})
        if (step * power <= limit.mm * (1.0 + Tolerance::rounding)) {
            limit.mm = step * power;
            break;
        }
    return limit;
}

Result<ContactReport> findContacts(const Model& model, const ContactSearch& search, Progress& progress) {
    if (!(search.upTo >= 0.0) || !std::isfinite(search.upTo))
        return fail(ProblemKind::BadInput, "The widest gap is no length.");
    return guarded("Looking for contacts",
                   [&]() -> Result<ContactReport> { return Survey(model, search, progress).run(); });
}

}  // namespace rasoir::join
