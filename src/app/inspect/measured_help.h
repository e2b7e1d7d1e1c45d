// SPDX-License-Identifier: GPL-3.0-or-later
// Measured help in the window: runs one proposal at a time off the window's thread and keeps what came of it until it
// is taken or another frame is chosen.
#pragma once

#include <QObject>
#include <QString>
#include <functional>
#include <memory>
#include <optional>

#include "base/progress.h"
#include "latest.h"
#include "studio/proposing.h"

namespace optrel {

class MeasuredHelp : public QObject {
    Q_OBJECT
public:
    enum class Kind { colours, distortion, light, fringes };

    explicit MeasuredHelp(Jobs& jobs) : jobs_(jobs) {}

    /// `work` runs on a worker; its sentence is shown when it throws.
    void ask(Kind kind, std::function<FieldProposal(const Progress&)> work);
    void ask_fringes(std::function<std::vector<FringeFound>(const Progress&)> work);
    void forget();

    const std::optional<FieldProposal>& proposal() const { return proposal_; }
    const std::vector<FringeFound>& fringes() const { return fringes_; }

signals:
    /// What to say of a kind now, and whether there is something to take.
    void said(MeasuredHelp::Kind kind, const QString& text, bool takeable);

private:
    struct Answer {
        std::optional<FieldProposal> proposal;
        std::vector<FringeFound> fringes;
    };
    void start(Kind kind, std::function<Answer(const Progress&)> work);
    void finish(Kind kind, const Answer& answer);

    Jobs& jobs_;
    Latest<Answer> running_;
    std::optional<FieldProposal> proposal_;
    std::vector<FringeFound> fringes_;
};

}  // namespace optrel
