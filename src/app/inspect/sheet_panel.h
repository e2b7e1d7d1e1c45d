// SPDX-License-Identifier: GPL-3.0-or-later
// Field sheet of the selected frame with the origin of each value, and edits for all selected frames.
#pragma once

#include <QCheckBox>
#include <QLineEdit>
#include <QPushButton>
#include <functional>
#include <optional>
#include <set>

#include "session/parts.h"
#include "studio/baselines/frame_trace.h"
#include "widgets/table.h"

namespace optrel {

class SheetPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<RegisterModel, BaselineModel, ProfileModel, SheetModel, QUndoStack, Messages>;
    /// `chosen`: returns the selected frames, the shown one first; called when needed, because frames are read again.
    using Chosen = std::function<std::vector<const FrameRecord*>()>;
    SheetPanel(const Parts& parts, Chosen chosen, QWidget* parent = nullptr);

    Table& table() { return *sheet_; }
    void refresh();
    void choose_field(Field field);
    QLineEdit& words() { return *words_; }
    /// One undoable edit of all selected frames; `change` is called with each sheet.
    void change_sheets(const QString& what, const std::function<void(const FrameRecord&, Sheet&)>& change);

    /// Copies hand-set values of the shown frame to the other selected ones, after a preview.
    void put_on_others();

    /// The same for one frame whose sheet has been read. Throws exceptions of `change`.
    void change_sheet(const std::filesystem::path& frame, const QString& what,
                      const std::function<void(Sheet&)>& change);

    /// Sheet of a frame as last read; empty when it was not read or cannot be read.
    Sheet sheet_of(const FrameRecord& frame) const;
    /// Resolved fields of a frame by its current sheet.
    ResolvedFrame fields_now(const FrameRecord& frame) const;

private:
    void build();
    /// Row of the table: a field, or a heading.
    struct Line {
        std::optional<Field> field;
        std::optional<FieldGroup> group;
    };
    std::vector<Line> lines() const;
    Row cells_of(const Line& line) const;
    bool in_effect(Field field) const;
    bool matches(Field field) const;
    std::optional<Field> field_at(int row) const;
    void toggle_group(int row);
    void refresh_buttons();
    void refresh_trace();
    QString text_of(Field field, const Value& value) const;
    void edit_hand(int row, const QString& text);
    void drop_chosen_field();
    void apply_set();
    void make_set();
    /// The shown frame; null when there is none.
    const FrameRecord* frame() const;
    /// Its sheet as last read; null when it was not read or cannot be read.
    const Sheet* sheet() const;

    Parts parts_;
    Chosen chosen_;
    struct Step {
        TraceLine line;
        bool won = false;
        QString value;
    };
    Table* sheet_;
    TableOf<Step>* trace_;
    QCheckBox* all_fields_;
    QLineEdit* words_;
    std::vector<Line> shown_;
    std::set<FieldGroup> closed_{FieldGroup::mixing};
    QPushButton *drop_, *apply_set_, *make_set_;
};

}  // namespace optrel
