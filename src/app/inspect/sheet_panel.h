// SPDX-License-Identifier: GPL-3.0-or-later
// The field sheet of the chosen frame, where each value comes from, and the edits of the sheets of all chosen frames.
#pragma once

#include <QCheckBox>
#include <QLineEdit>
#include <QPushButton>
#include <functional>
#include <optional>
#include <set>

#include "session/parts.h"
#include "studio/frame_trace.h"
#include "widgets/table.h"

namespace optrel {

class SheetPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<RegisterBook, BaselineBook, ProfileBook, SheetBook, QUndoStack, Voice>;
    /// `chosen`: the frames that are chosen, the one that is shown in front; asked whenever it matters, since frames
    /// are read anew.
    using Chosen = std::function<std::vector<const FrameRecord*>()>;
    SheetPanel(const Parts& parts, Chosen chosen, QWidget* parent = nullptr);

    Table& table() { return *sheet_; }
    void refresh();
    void choose_field(Field field);
    QLineEdit& words() { return *words_; }
    /// One undoable edit for all chosen frames; `change` gets each sheet.
    void change_sheets(const QString& what, const std::function<void(const FrameRecord&, Sheet&)>& change);

    /// Puts what is set by hand on the frame that is shown on the other chosen ones, once a person saw what changes.
    void put_on_others();

    /// The same for one frame, once its sheet was read. Throws what `change` throws.
    void change_sheet(const std::filesystem::path& frame, const QString& what,
                      const std::function<void(Sheet&)>& change);

    /// The sheet of a frame as last read; an empty one while it was not read or cannot be.
    Sheet sheet_of(const FrameRecord& frame) const;
    /// Every field of a frame as its sheet has it now.
    ResolvedFrame fields_now(const FrameRecord& frame) const;

private:
    void build();
    /// What a row shows: a field, or the heading of a group, or of what is in effect.
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
    /// The frame that is shown; null when none is.
    const FrameRecord* frame() const;
    /// Its sheet as last read; null when it was not read yet or cannot be.
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
