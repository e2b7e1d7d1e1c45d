// SPDX-License-Identifier: GPL-3.0-or-later
// What is corrected by hand on one frame: geometry, colours, light, framing. Values are seen while they are turned and
// written when they come to rest.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTimer>
#include <map>

#include "baselines/pin.h"
#include "baselines/resolver.h"
#include "inspect/measured_help.h"
#include "inspect/picture_touch.h"
#include "rollout/sheet.h"
#include "scene/straighten.h"
#include "widgets/number_box.h"

class QGridLayout;
class QVBoxLayout;

namespace optrel {

class HandPanel : public QWidget {
    Q_OBJECT
public:
    explicit HandPanel(QWidget* parent = nullptr);

    /// The fields of the frame that is shown, and those of them that were set by hand; nothing to edit without a frame.
    void show_fields(const ResolvedFrame& fields, const Layer& by_hand);
    void show_none();
    /// The lens corrections that the file carries itself, by name; empty: none, and nothing is offered.
    void show_carried(const QString& names);
    NumberBox& number(Field field) { return *numbers_.at(field); }
    QComboBox& choice(Field field) { return *choices_.at(field); }
    QPushButton& back(Field field) { return *backs_.at(field); }
    /// What was turned and does not rest yet is settled at once.
    void settle();

    /// What straightening found, and whether it can be taken.
    void show_straightened(const QString& text, bool takeable);
    TurnAngles angles() const;
    /// What measured help says of a kind, and whether it can be taken.
    void show_help(MeasuredHelp::Kind kind, const QString& text, bool takeable);
    /// Fringes by hue, to be called faults by a tick; those that are taken away already are ticked.
    void show_fringes(const std::vector<FringeFound>& fringes, const FringeSettings& now);
    /// What is being done on the picture.
    void show_tool(PictureTool tool);
    QListWidget& fringes() { return *fringe_list_; }

signals:
    /// A value while it is turned.
    void tried(Field field, const Value& value);
    /// A value that came to rest.
    void settled(Field field, const Value& value);
    /// What lies beneath is wanted again.
    void returned(Field field);
    void lines_asked();
    void angles_changed();
    void straightening_taken();
    void help_asked(MeasuredHelp::Kind kind);
    void help_taken();
    /// Something is to be done on the picture, or nothing any more.
    void tool_asked(PictureTool tool);
    /// What is set is to be kept as a profile of the lens.
    void keep_asked();
    /// What the file carries itself is to be compared, and perhaps kept as a profile.
    void carried_asked();
    /// Where a hue lies is to be seen; -1: none.
    void fringe_chosen(int fringe);
    /// A hue is a fault, or is none after all.
    void fringe_ticked(int fringe, bool fault);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    QGridLayout* section(const QString& title);
    QGridLayout* build_colours();
    void build_keeping(QVBoxLayout* down);
    void add_number(QGridLayout* grid, Field field, double step);
    void add_choice(QGridLayout* grid, Field field, const QStringList& more);
    void add_row(QGridLayout* grid, Field field, QWidget* editor);
    void build_straightening(QGridLayout* grid);
    QPushButton* tool(PictureTool tool, const QString& text, const QString& hint);
    void add_help(QGridLayout* grid, MeasuredHelp::Kind kind, const QString& text, const QString& hint);
    void turned(Field field, const Value& value);
    void drop(Field field);
    void say_sense(double distortion);

    std::map<Field, NumberBox*> numbers_;
    std::map<Field, QComboBox*> choices_;
    std::map<Field, QLabel*> labels_;
    std::map<Field, QPushButton*> backs_;
    QLabel *sense_, *straightened_, *carried_;
    QComboBox* angles_;
    QPushButton *find_lines_, *take_, *take_carried_;
    struct Help {
        QPushButton *ask, *take;
        QLabel* text;
    };
    std::map<MeasuredHelp::Kind, Help> helps_;
    std::map<PictureTool, QPushButton*> tools_;
    QListWidget* fringe_list_;
    QTimer rest_;
    std::map<Field, Value> shown_;   ///< what the frame has
    std::map<Field, Value> moving_;  ///< turned, not settled yet
    bool showing_ = false;           ///< values are set by show_fields(), not by a person
};

}  // namespace optrel
