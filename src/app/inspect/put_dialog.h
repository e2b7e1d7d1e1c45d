// SPDX-License-Identifier: GPL-3.0-or-later
// Putting what is set by hand on one frame on others: which fields, and what that changes, before anything is changed.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <filesystem>
#include <functional>
#include <optional>
#include <vector>

#include "rollout/sheet.h"
#include "studio/frame_sheets.h"
#include "widgets/table.h"

namespace optrel {

class PutDialog : public QDialog {
    Q_OBJECT
public:
    struct Target {
        std::filesystem::path frame;
        std::optional<Sheet> sheet;  ///< nothing: it was not read yet, or cannot be
    };
    /// `text`: a value for people.
    PutDialog(const QString& from, const Layer& values, std::vector<Target> targets,
              std::function<QString(Field, const Value&)> text, QWidget* parent);
    /// The fields that a person left ticked.
    Layer chosen() const;

private:
    void refresh();

    const Layer values_;
    const std::vector<Target> targets_;
    std::function<QString(Field, const Value&)> text_;
    QListWidget* fields_;
    struct Line {
        std::size_t target;
        HandChange change;
    };
    std::vector<Line> lines_;
    TableOf<Line>* changes_;
    QLabel* count_;
    QPushButton* put_;
};

}  // namespace optrel
