// SPDX-License-Identifier: GPL-3.0-or-later
// What is corrected by hand on one frame: geometry, colours, light, framing. Values are seen while they are turned and
// written when they come to rest.
#pragma once

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <map>

#include "baselines/pin.h"
#include "baselines/resolver.h"
#include "rollout/sheet.h"
#include "scene/straighten.h"

class QGridLayout;

namespace optrel {

class HandPanel : public QWidget {
    Q_OBJECT
public:
    explicit HandPanel(QWidget* parent = nullptr);

    /// The fields of the frame that is shown, and those of them that were set by hand; nothing to edit without a frame.
    void show_fields(const ResolvedFrame& fields, const Layer& by_hand);
    void show_none();
    QDoubleSpinBox& number(Field field) { return *numbers_.at(field); }
    QComboBox& choice(Field field) { return *choices_.at(field); }
    QPushButton& back(Field field) { return *backs_.at(field); }

    /// What straightening found, and whether it can be taken.
    void show_straightened(const QString& text, bool takeable);
    TurnAngles angles() const;

signals:
    /// A value while it is turned.
    void tried(Field field, const Value& value);
    /// A value that came to rest.
    void settled(Field field, const Value& value);
    /// What lies beneath is wanted again.
    void returned(Field field);
    void lines_asked();
    void straightening_taken();

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    QGridLayout* section(const QString& title);
    void add_number(QGridLayout* grid, Field field, double step);
    void add_choice(QGridLayout* grid, Field field, const QStringList& more);
    void add_row(QGridLayout* grid, Field field, QWidget* editor);
    void build_straightening(QGridLayout* grid);
    void turned(Field field, const Value& value);
    void settle();
    void say_sense(double distortion);

    std::map<Field, QDoubleSpinBox*> numbers_;
    std::map<Field, QComboBox*> choices_;
    std::map<Field, QLabel*> labels_;
    std::map<Field, QPushButton*> backs_;
    QLabel *sense_, *straightened_;
    QComboBox* angles_;
    QPushButton *find_lines_, *take_;
    QTimer rest_;
    std::map<Field, Value> moving_;  ///< turned, not settled yet
    bool showing_ = false;           ///< values are set by show_fields(), not by a person
};

}  // namespace optrel
