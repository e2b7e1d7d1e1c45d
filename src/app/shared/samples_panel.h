// SPDX-License-Identifier: GPL-3.0-or-later
// The frames that a rehearsal changes most, by each kind of change: how far they move, and patches before and after.
#pragma once

#include <QLabel>
#include <functional>
#include <memory>

#include "session/parts.h"
#include "shared/sample_board.h"
#include "widgets/table.h"

namespace optrel {

class SamplesPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<RolloutService, Jobs, Messages>;
    explicit SamplesPanel(const Parts& parts);
    ~SamplesPanel() override;

    /// They are developed as soon as somebody looks; null: nothing is rehearsed.
    void show_rehearsal(std::shared_ptr<const Rehearsal> rehearsal);
    /// The same of whatever gives samples, on a worker.
    using Look = std::function<void(const Store&, std::size_t most, const std::function<void(Sample)>&, Progress&)>;
    /// `none`: what is said where it gives none.
    void show_samples_of(Look of, const QString& none);
    const std::vector<Sample>& samples() const { return samples_; }
    bool looking() const { return progress_ != nullptr; }

protected:
    void showEvent(QShowEvent* event) override;

private:
    void look();
    void begin(Look of);
    void take(const std::shared_ptr<Progress>& from, Sample sample);
    void refresh();
    void show_chosen();

    Parts parts_;
    std::shared_ptr<const Rehearsal> rehearsal_;
    Look of_;
    QString none_ = "No field of any frame would change.";
    bool looked_ = false;
    std::shared_ptr<Progress> progress_;  ///< of what is under way
    std::vector<Sample> samples_;
    TableOf<Sample>* table_;
    SampleBoard* board_;
    QLabel* summary_;
};

}  // namespace optrel
