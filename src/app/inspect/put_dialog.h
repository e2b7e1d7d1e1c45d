// SPDX-License-Identifier: GPL-3.0-or-later
// Copies hand-set values of a frame to others: choice of the fields, with a preview of the changes.
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
#include "studio/baselines/frame_sheets.h"
#include "widgets/table.h"

namespace optrel {

class PutDialog : public QDialog {
    Q_OBJECT
public:
    struct Target {
        std::filesystem::path frame;
        std::optional<Sheet> sheet;  ///< nothing: the sheet has not been read, or cannot be read
    };
    /// `text`: converts a value for display.
    PutDialog(const QString& from, const Layer& values, std::vector<Target> targets,
              std::function<QString(Field, const Value&)> text, QWidget* parent);
    /// The ticked fields.
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
