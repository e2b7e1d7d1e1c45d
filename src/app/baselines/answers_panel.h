// SPDX-License-Identifier: GPL-3.0-or-later
// Explains the draft: the trace of the chosen cell, and the probe.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QSpinBox>

#include "baselines/draft_view.h"
#include "widgets/table.h"

namespace optrel {

class TracePanel : public QWidget {
    Q_OBJECT
public:
    explicit TracePanel(DraftView& view, QWidget* parent = nullptr);
    Table& table() { return *trace_; }

private:
    void refresh();
    DraftView& view_;
    QLabel* of_;
    TableOf<TraceStep>* trace_;
};

/// What would a frame of this body, lens, ISO and kind get?
class ProbePanel : public QWidget {
    Q_OBJECT
public:
    explicit ProbePanel(DraftView& view, QWidget* parent = nullptr);
    Table& table() { return *result_; }

private:
    void refresh_choices();
    void refresh();
    Subject asked() const;

    DraftView& view_;
    std::vector<Subject> subjects_;
    QComboBox *body_, *lens_, *kind_;
    QSpinBox* iso_;
    struct Answer {
        const FieldInfo* field;
        ResolvedField resolved;
        bool plain;  ///< no tier pins it
    };
    QString source_of(const Answer& answer) const;
    TableOf<Answer>* result_;
};

}  // namespace optrel
