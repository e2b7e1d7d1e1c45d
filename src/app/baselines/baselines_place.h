// Baselines: tiers with their pins, the matrix of bodies by ISO for one field, the trace of a cell, the probe.
#pragma once

#include <QComboBox>
#include <QSpinBox>

#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class CurvePlot;

class BaselinesPlace : public PlaceWidget {
    Q_OBJECT
public:
    explicit BaselinesPlace(Session& session);
    void show_something() override;

    Table& matrix() { return *matrix_; }
    Table& tiers() { return *tiers_; }
    Table& pins() { return *pins_; }
    Table& trace() { return *trace_; }
    void choose_field(Field field);
    void publish(const std::string& note);

private:
    struct MatrixRow {
        QString label;
        FrameFacts facts;  ///< without ISO
    };
    void build();
    QWidget* build_tiers();
    QWidget* build_probe();
    void refresh();
    void refresh_tiers();
    void refresh_pins();
    void refresh_matrix();
    void refresh_trace();
    void refresh_probe();
    void edit_pin(int row, const QString& text);
    void add_tier();
    void delete_tier();
    /// Replaces the draft, undoable.
    void change_draft(const QString& what, const Revision& after);
    Field field() const;
    FrameFacts chosen_facts() const;

    std::unique_ptr<Resolver> resolver_;
    std::vector<MatrixRow> rows_;
    std::vector<double> isos_;
    int cell_row_ = 0, cell_column_ = 1;

    QComboBox *field_choice_, *probe_body_, *probe_lens_, *probe_kind_;
    QSpinBox* probe_iso_;
    QPushButton *publish_, *delete_tier_;
    QLabel *state_, *trace_of_, *pins_of_;
    Table *tiers_, *pins_, *matrix_, *trace_, *probe_;
    CurvePlot* ramp_;
};

}  // namespace optrel
