#include "trial.h"

#include "operations.h"
#include "session.h"
#include "tessellate.h"

namespace rasoir::app {

bool Trial::Question::isSame(const Question& other) const {
    return operation == other.operation && model.parts == other.model.parts &&
           model.targetSize == other.model.targetSize && parameters == other.parameters;
}

Trial::~Trial() {
    if (m_progress) m_progress->cancel();
    if (m_thread.joinable()) m_thread.join();
}

const Trial::Answer* Trial::answerTo(const Question& question) const {
    return m_answer && m_asked && m_asked->isSame(question) ? &*m_answer : nullptr;
}

void Trial::forget() {
    m_waiting.reset();
    m_answer.reset();
    if (m_progress) m_progress->cancel();
    if (!m_thread.joinable()) m_asked.reset();
}

void Trial::ask(Question question) {
    const auto& latest = m_waiting ? m_waiting : m_asked;
    if (latest && latest->isSame(question) && (m_answer || m_thread.joinable()) &&
        !(m_progress && m_progress->cancelled() && !m_waiting))
        return;
    m_answer.reset();
    m_waiting = std::move(question);
    if (m_thread.joinable())
        m_progress->cancel();  // the next begins when it has stopped
    else
        begin();
}

void Trial::begin() {
    m_asked = std::exchange(m_waiting, std::nullopt);
    m_progress = std::make_shared<Progress>();
    m_thread = std::thread([this, question = *m_asked, progress = m_progress] {
        Answer answer;
        const Operation* operation = findOperation(question.operation);
        auto outcome = operation != nullptr ? operation->run(question.model, question.parameters, *progress)
                                            : fail(ProblemKind::BadInput, "There is no such step.");
        if (outcome) {
            answer.outcome = std::move(*outcome);
            tessellate(answer.outcome.model, *progress);
        } else {
            answer.outcome.model = question.model;
            answer.problem = outcome.error();
        }
        QMetaObject::invokeMethod(this, [this, progress, made = std::move(answer)]() mutable {
            m_thread.join();
            m_thread = std::thread();
            const bool given = !progress->cancelled();
            m_progress.reset();
            if (given)
                m_answer = std::move(made);
            else
                m_asked.reset();
            if (m_waiting)
                begin();
            else if (given)
                emit answered();
        });
    });
}

}  // namespace rasoir::app
