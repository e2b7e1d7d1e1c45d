// SPDX-License-Identifier: GPL-3.0-or-later
// Selects frames by their properties.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QFormLayout>
#include <QLineEdit>
#include <QSpinBox>
#include <functional>

#include "studio/frames/frame_scope.h"

namespace optrel {

class ScopeDialog : public QDialog {
    Q_OBJECT
public:
    /// Suggestions; other names can be typed.
    struct Names {
        QStringList folders, bodies, lenses;
    };
    /// `take` gets the scope and the name for saving it (empty: none), and returns whether it succeeded.
    ScopeDialog(const QString& title, const QString& answer, const FrameScope& scope, const Names& names,
                bool can_be_kept, std::function<bool(const FrameScope&, const QString& name)> take,
                QWidget* parent = nullptr);
    /// Throws Error(input) for an invalid entry.
    FrameScope scope() const;

private:
    QLineEdit* list_line(QFormLayout* form, const char* label, const QStringList& names,
                         const std::vector<std::string>& now);

    std::vector<std::filesystem::path> frames_;  ///< explicit frames, which the dialog keeps
    QLineEdit *folders_, *jobs_, *bodies_, *lenses_, *from_, *to_, *name_;
    QSpinBox *iso_from_, *iso_to_;
    QCheckBox* beneath_;
    std::vector<QCheckBox*> states_;
};

}  // namespace optrel
