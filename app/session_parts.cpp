// The surveys of a session that nobody asks for: part by part as soon as a model is there, and the stock that is taken
// of all of them. The parts next to the middle of the view come first, and what is found of one is told kind by kind,
// so that a large model shows something soon and a slow part holds up nobody.
#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <chrono>

#include "common/guard.h"
#include "session.h"

namespace rasoir::app {
namespace {

/// A part that waits for its surveys, with what is known of it already.
struct Waiting {
    std::shared_ptr<const Part> part;
    PartKnowledge known;
    gp_Trsf placement;  // of its first place
    gp_Pnt middle;      // [mm] there
};

/// In the model; where it is drawn, from the triangles.
gp_Pnt middleOf(const Waiting& one) {
    Bnd_Box box;
    if (!one.part->shape.IsNull()) BRepBndLib::Add(one.part->shape, box, true);
    if (box.IsVoid()) return {};
    return gp_Pnt(0.5 * (box.CornerMin().XYZ() + box.CornerMax().XYZ())).Transformed(one.placement);
}

}  // namespace

void Session::requestSurvey() {
    m_surveyWanted = false;
    if (isEmpty()) return;
    std::vector<Waiting> waiting;
    bool carried = false;
    for (std::size_t p = 0; p < model().parts.size(); ++p) {
        const auto& part = model().parts[p];
        const auto own = m_known.find(part.get());
        if (own != m_known.end() && own->second.second.complete) continue;
        // A part that only changed its name or its material keeps what is known of its shape.
        const auto same = std::find_if(m_known.begin(), m_known.end(), [&part](const auto& entry) {
            const auto other = entry.second.first.lock();
            return other && !part->shape.IsNull() && other->shape.IsEqual(part->shape) &&
                   other->meantOpen.size() == part->meantOpen.size() &&
                   other->sharpened.size() == part->sharpened.size() && entry.second.second.complete;
        });
        if (same != m_known.end()) {
            m_known[part.get()] = {part, PartKnowledge(same->second.second)};
            carried = true;
            continue;
        }
        Waiting one{part, own == m_known.end() ? PartKnowledge() : own->second.second, {}, {}};
        const auto place = std::find_if(model().occurrences.begin(), model().occurrences.end(),
                                        [p](const Occurrence& occurrence) { return occurrence.part == p; });
        if (place != model().occurrences.end()) one.placement = place->placement;
        waiting.push_back(std::move(one));
    }
    if (carried) emit knowledgeChanged();
    if (isBusy()) {
        m_surveyWanted = true;
        return;
    }
    if (waiting.empty()) {
        takeStock();
        return;
    }
    start(
        "Surveying",
        [this, waiting = std::move(waiting), sight = m_sight, size = model().targetSize,
         exact = std::max(1e-6, model().samePoint())](Progress& progress) mutable -> Finish {
            using Clock = std::chrono::steady_clock;
            constexpr std::chrono::milliseconds often(200);  // each telling fills lists anew
            Clock::time_point told = Clock::now();
            Learned news;
            const auto tellInTime = [&](const Waiting& one) {
                if (Clock::now() - told < often) return;
                news.emplace_back(one.part, one.known);
                QMetaObject::invokeMethod(this, [this, size, news = std::exchange(news, {})] { learn(news, size); });
                told = Clock::now();
            };
            for (Waiting& one : waiting) one.middle = middleOf(one);
            const std::size_t count = waiting.size();
            while (!waiting.empty() && !progress.cancelled()) {
                // Asked before each part, since the view may have been turned meanwhile.
                const auto nearest =
                    std::min_element(waiting.begin(), waiting.end(), [&sight](const Waiting& a, const Waiting& b) {
                        return sight->distanceOf(a.middle) < sight->distanceOf(b.middle);
                    });
                Waiting one = std::move(*nearest);
                waiting.erase(nearest);
                progress.report(static_cast<double>(count - waiting.size() - 1) / static_cast<double>(count),
                                "Surveying " + one.part->name);
                surveyPart(*one.part, size, exact, one.known, progress, [&] { tellInTime(one); });
                news.emplace_back(one.part, std::move(one.known));
            }
            return [this, size, news = std::move(news)] {
                learn(news, size);
                if (!m_surveyWanted && !isBusy()) takeStock();
            };
        },
        Kind::Background);
}

void Session::learn(const Learned& learned, double targetSize) {
    if (targetSize != model().targetSize) return;  // told late: costs are counted at another size now
    for (const auto& [part, known] : learned) {
        auto& own = m_known[part.get()];
        if (own.second.complete) continue;
        const auto thickness = own.second.thickness;  // measured meanwhile
        own = {part, known};
        if (!known.thickness) own.second.thickness = thickness;
    }
    emit knowledgeChanged();
}

void Session::takeStock() {
    const auto known = facts();
    std::vector<const Part*> parts;
    for (const auto& part : model().parts) parts.push_back(part.get());
    if (!known || isEmpty() || (m_report && parts == m_reportOf)) return;
    std::vector<std::shared_ptr<const Part>> unchecked;
    for (const auto& part : model().parts)
        if (const auto& entry = m_known.at(part.get()).second; entry.defects && !entry.checked)
            unchecked.push_back(part);
    start(
        "Taking stock",
        [this, parts, unchecked, model = model(), known = *known](Progress& progress) -> Finish {
            auto report = guarded("Taking stock", [&] { return survey::receivingReport(model, known, progress); });
            std::vector<std::pair<std::shared_ptr<const Part>, std::vector<survey::Defect>>> unsound;
            for (const auto& part : unchecked)
                if (auto found = survey::findUnsound(*part, progress); !progress.cancelled())
                    unsound.emplace_back(part, std::move(found));
            return [this, parts, report = std::move(report), unsound = std::move(unsound)]() mutable {
                bool news = false;
                for (auto& [part, found] : unsound) {
                    const auto entry = m_known.find(part.get());
                    if (entry == m_known.end() || !entry->second.second.defects || entry->second.second.checked)
                        continue;
                    auto& defects = entry->second.second.defects->defects;
                    defects.insert(defects.end(), found.begin(), found.end());
                    entry->second.second.checked = true;
                    news = news || !found.empty();
                }
                if (news) emit knowledgeChanged();
                if (!report) return;
                m_report = std::move(*report);
                m_reportOf = parts;
                emit reportChanged();
            };
        },
        Kind::Background);
}

void Session::requestThickness(const std::set<std::size_t>& wanted) {
    std::vector<std::shared_ptr<const Part>> missing;
    for (std::size_t p = 0; p < model().parts.size(); ++p) {
        if (!wanted.empty() && !wanted.contains(p)) continue;
        const PartKnowledge* known = knowledge(p);
        if (known == nullptr || !known->thickness) missing.push_back(model().parts[p]);
    }
    if (missing.empty()) return;
    start("Measuring walls", [this, missing](Progress& progress) -> Finish {
        std::vector<std::pair<std::shared_ptr<const Part>, measure::ThicknessMap>> found;
        for (const auto& part : missing)
            if (auto map = guarded("Measuring walls", [&] { return measure::thicknessMap(part, progress); }))
                found.emplace_back(part, std::move(*map));
        return [this, found = std::move(found)]() mutable {
            for (auto& [part, map] : found) {
                auto& entry = m_known[part.get()];
                entry.first = part;
                entry.second.thickness = std::move(map);
            }
            emit knowledgeChanged();
        };
    });
}

}  // namespace rasoir::app
