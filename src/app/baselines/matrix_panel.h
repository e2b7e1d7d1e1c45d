// SPDX-License-Identifier: GPL-3.0-or-later
// Matrix of bodies by ISO for one field; also differences to a revision or between two bodies.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>

#include "baselines/draft_view.h"
#include "widgets/table.h"

namespace optrel {

class MatrixPanel : public QWidget {
    Q_OBJECT
public:
    explicit MatrixPanel(DraftView& view, QWidget* parent = nullptr);

    Table& table() { return *table_; }
    void choose_cell(int row, int column);
    /// Shows only rows whose name or model contains the words.
    void set_filter(const QString& words) { filter_->setText(words); }

signals:
    /// The user entered a value in a cell.
    void cell_edited(const Subject& subject, const QString& text);

private:
    enum Show { values, against_revision, against_body };
    void lay_out();
    void listen();
    void refresh_rows();
    void refresh_choices();
    void refresh_cells();
    void load_revision();
    Cell cell(int row, int column) const;
    Subject subject_at(int row, int column) const;
    QString short_text(Field field, const Value& value) const;

    DraftView& view_;
    std::vector<Subject> all_rows_, rows_;  ///< without ISO
    std::vector<double> isos_;
    std::shared_ptr<const Resolver> other_;  ///< of the revision for comparison
    QComboBox *field_, *show_, *which_;
    QLineEdit* filter_;
    QCheckBox* thirds_;
    Table* table_;
};

}  // namespace optrel
