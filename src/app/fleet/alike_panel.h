// SPDX-License-Identifier: GPL-3.0-or-later
// How far bodies render the same chart apart, and the pins that make them alike.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <memory>
#include <vector>

#include "session/parts.h"
#include "shared/running_measurement.h"
#include "studio/development/alike_bodies.h"
#include "studio/development/fleet_spread.h"
#include "widgets/table.h"

namespace optrel {

class NumberBox;
class PatchView;

class AlikePanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<RegisterModel, BaselineModel, ProfileModel, Jobs, QUndoStack, Messages>;
    explicit AlikePanel(const Parts& parts, QWidget* parent = nullptr);

    void show_something();
    /// Compares all measured bodies, and proposes pins.
    void compare();
    /// Pins what was proposed for the chosen bodies, or for all when none is chosen.
    void pin();
    bool compared() const { return found_ != nullptr; }
    Table& bodies() { return *bodies_; }
    Table& pairs() { return *pairs_; }
    PatchView& charts() { return *charts_; }

protected:
    void showEvent(QShowEvent* event) override;

private:
    struct Found {
        FleetSpread spread;
        AlikeResult alike;
        std::string reference;
        bool proposed = false;
        std::string problem;  ///< why nothing is proposed
    };
    struct SpanRow {
        std::string body;
        AlikeSpan span;
    };
    void build();
    void build_tables();
    void list_references();
    void show_found();
    void show_charts();
    void refresh();
    QString label(const std::string& body) const;

    Parts parts_;
    std::shared_ptr<const Found> found_;
    RunningMeasurement running_;
    bool stale_ = true;
    QComboBox* reference_;
    NumberBox *mean_, *p95_;
    QPushButton *compare_, *pin_;
    QLabel* said_;
    std::vector<SpanRow> rows_;  ///< of the table of proposed pins
    TableOf<SpanRow>* bodies_;
    TableOf<PairSpread>* pairs_;
    PatchView* charts_;
};

}  // namespace optrel
