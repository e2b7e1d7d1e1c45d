// SPDX-License-Identifier: GPL-3.0-or-later
// An editable list of the register (models, bodies or lenses), with claims and history of the selected entry.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "base/choose.h"
#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

class RegisterPanel : public QWidget {
    Q_OBJECT
public:
    using Parts =
        SomeOf<FrameModel, RegisterModel, BaselineModel, ProfileModel, SharingService, Jobs, QUndoStack, Messages>;
    enum class Kind { bodies, lenses, models };
    RegisterPanel(const Parts& parts, Kind kind, QWidget* parent = nullptr);

    Table& table() { return *table_; }
    Table& history() { return *history_; }
    /// Empty when none is selected.
    std::string chosen_id() const;

private:
    void refresh();
    void refresh_detail();
    void edit(int row, int column, const QString& text);
    void add_entry();
    void merge();
    void merge_into(const std::string& id, const std::string& into);
    void take_out();
    void lay_out();
    /// Rows can be dragged to other programs as bundles.
    void give_bundles();
    void open_claim();
    Table* new_bodies_table();
    Table* new_lenses_table();
    Table* new_models_table();

    Parts parts_;
    template <class T>
    T by_kind(T of_bodies, T of_lenses, T of_models) const {
        return first_of<T>({{kind_ == Kind::bodies, of_bodies}, {kind_ == Kind::lenses, of_lenses}}, of_models);
    }

    Claim::Of of() const { return kind_ == Kind::bodies ? Claim::Of::body : Claim::Of::lens; }

    const Kind kind_;
    QPushButton *add_, *merge_, *remove_;
    QLabel* of_;
    Table* table_;
    std::function<void()> fill_;  ///< fills the table from the register
    TableOf<Claim>* claims_;
    TableOf<HistoryEntry>* history_;
};

}  // namespace optrel
