// SPDX-License-Identifier: GPL-3.0-or-later
// Manual corrections of a frame: geometry, colours, light, framing. Changes are previewed while a control moves, and
// saved when it stops.
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

    /// Fields of the shown frame, and which of them are hand-set; disabled without a frame.
    void show_fields(const ResolvedFrame& fields, const Layer& by_hand);
    void show_none();
    /// Names of lens corrections in the file; empty: none.
    void show_carried(const QString& names);
    NumberBox& number(Field field) { return *numbers_.at(field); }
    QComboBox& choice(Field field) { return *choices_.at(field); }
    QPushButton& back(Field field) { return *backs_.at(field); }
    /// Saves pending changes at once.
    void settle();

    /// Result of straightening, and whether it can be applied.
    void show_straightened(const QString& text, bool takeable);
    TurnAngles angles() const;
    /// Result of a measured proposal, and whether it can be applied.
    void show_help(MeasuredHelp::Kind kind, const QString& text, bool takeable);
    /// Detected fringes by hue, which the user can tick for removal; those removed already are ticked.
    void show_fringes(const std::vector<FringeFound>& fringes, const DefringingSettings& now);
    /// Active tool on the picture.
    void show_tool(PictureTool tool);
    QListWidget& fringes() { return *fringe_list_; }

signals:
    /// A value while its control moves.
    void tried(Field field, const Value& value);
    /// A value after its control has stopped.
    void settled(Field field, const Value& value);
    /// The value of the layer below is wanted again.
    void returned(Field field);
    void lines_asked();
    void angles_changed();
    void straightening_taken();
    void help_asked(MeasuredHelp::Kind kind);
    void help_taken();
    /// A tool on the picture was started, or none is active.
    void tool_asked(PictureTool tool);
    /// Save the settings as a profile of the lens.
    void keep_asked();
    /// Compare the correction in the file, and perhaps save it as a profile.
    void carried_asked();
    /// Highlight a hue; -1: none.
    void fringe_chosen(int fringe);
    /// A hue was ticked or unticked.
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
    std::map<Field, Value> shown_;   ///< values of the frame
    std::map<Field, Value> moving_;  ///< changed but not saved
    bool showing_ = false;           ///< show_fields() is setting values, not the user
};

}  // namespace optrel
