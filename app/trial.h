// What a step would make, found out beside the window; nothing changes.
#pragma once
#include <memory>
#include <optional>
#include <QObject>
#include <thread>

#include "model/operation.h"

namespace rasoir::app {

class Trial : public QObject {
    Q_OBJECT
public:
    /// A step, and the model it would be taken on.
    struct Question {
        Model model;
        std::string operation;
        Json parameters;
        [[nodiscard]] bool isSame(const Question& other) const;
    };
    struct Answer {
        Outcome outcome;                 ///< tessellated; the model as it is where there is a problem
        std::optional<Problem> problem;  ///< why the step would not do
    };

    explicit Trial(QObject* parent = nullptr) : QObject(parent) {}
    ~Trial() override;

    /// Begins to find out; what was asked before is given up. What is known or on its way already is not asked twice.
    void ask(Question question);
    void forget();
    /// The answer to this question, if it is known.
    [[nodiscard]] const Answer* answerTo(const Question& question) const;

signals:
    void answered();

private:
    void begin();

    std::optional<Question> m_asked, m_waiting;
    std::optional<Answer> m_answer;
    std::shared_ptr<Progress> m_progress;
    std::thread m_thread;
};

}  // namespace rasoir::app
