// SPDX-License-Identifier: GPL-3.0-or-later
// Measured proposals in the window: computes one at a time on a worker, and keeps the result until it is applied or
// another frame is selected.
#pragma once

#include <QObject>
#include <QString>
#include <functional>
#include <memory>
#include <optional>

#include "base/progress.h"
#include "latest_result.h"
#include "studio/development/proposing.h"

namespace optrel {

class MeasuredHelp : public QObject {
    Q_OBJECT
public:
    enum class Kind { colours, distortion, light, fringes, neutral };

    explicit MeasuredHelp(Jobs& jobs) : jobs_(jobs) {}

    /// `work` runs on a worker; the text of its exception is shown.
    void ask(Kind kind, std::function<FieldProposal(const Progress&)> work);
    void ask_fringes(std::function<std::vector<FringeFound>(const Progress&)> work);
    void forget();

    const std::optional<FieldProposal>& proposal() const { return proposal_; }
    const std::vector<FringeFound>& fringes() const { return fringes_; }

signals:
    /// Current text for a kind of proposal, and whether it can be applied.
    void said(MeasuredHelp::Kind kind, const QString& text, bool takeable);

private:
    struct Answer {
        std::optional<FieldProposal> proposal;
        std::vector<FringeFound> fringes;
    };
    void start(Kind kind, std::function<Answer(const Progress&)> work);
    void finish(Kind kind, const Answer& answer);

    Jobs& jobs_;
    LatestResult<Answer> running_;
    std::optional<FieldProposal> proposal_;
    std::vector<FringeFound> fringes_;
};

}  // namespace optrel
