// A survey of the whole model shown: made once somebody asks, in the background, once for the model.
#pragma once
#include "session.h"

namespace rasoir::app {

/// What does not depend on what is found: asking, being asked again, and telling. What is asked for while something
/// else runs is asked for again by itself when that has ended; what was found is forgotten when the model changes.
class WholeSurveyBase : public QObject {
    Q_OBJECT
public:
    void request();
    [[nodiscard]] bool isWanted() const { return m_wanted; }
    /// The work that looks for it is running, or its result is being put in place.
    [[nodiscard]] bool isRunning() const { return m_job != 0 && m_job == m_session.lastJob(); }
    virtual void forget() = 0;

signals:
    void changed();  ///< it has been found; not told when it is forgotten

protected:
    WholeSurveyBase(Session& session, QString doing, std::function<void()> again);
    [[nodiscard]] virtual bool isFound() const = 0;
    /// Taken in the window's thread, run in another.
    [[nodiscard]] virtual Session::Job job() = 0;
    void arrived() { m_job = 0; }
    Session& m_session;

private:
    QString m_doing;
    bool m_wanted = false;    // asked for while something else was running
    std::uint64_t m_job = 0;  // the work that looks for it, until its result is in place
};

template <class Found>
class WholeSurvey : public WholeSurveyBase {
public:
    /// Run in another thread. Nothing is found where it fails; a failure that is an answer is a Found of its own.
    using Look = std::function<Result<Found>(const Model&, Progress&)>;
    /// What is to be looked for can depend on more than the model: taken in the window's thread, when it begins.
    using Prepare = std::function<Look()>;

    WholeSurvey(Session& session, QString doing, Look look)
        : WholeSurveyBase(session, std::move(doing), {}), m_prepare([look = std::move(look)] { return look; }) {}
    /// `again`: how to ask once more, where request() alone is not enough.
    WholeSurvey(Session& session, QString doing, Prepare prepare, std::function<void()> again)
        : WholeSurveyBase(session, std::move(doing), std::move(again)), m_prepare(std::move(prepare)) {}

    [[nodiscard]] const std::optional<Found>& found() const { return m_found; }
    void forget() override { m_found.reset(); }

private:
    Prepare m_prepare;
    std::optional<Found> m_found;

    [[nodiscard]] bool isFound() const override { return m_found.has_value(); }
    [[nodiscard]] Session::Job job() override {
        return [this, look = m_prepare(), model = m_session.model()](Progress& progress) -> Session::Finish {
            auto found = look(model, progress);
            return [this, found = std::move(found)]() mutable {
                arrived();
                if (!found) return;
                m_found = std::move(*found);
                emit changed();
            };
        };
    }
};

}  // namespace rasoir::app
