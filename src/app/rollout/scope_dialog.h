// SPDX-License-Identifier: GPL-3.0-or-later
// Which frames, by what is known of them.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QFormLayout>
#include <QLineEdit>
#include <QSpinBox>
#include <functional>

#include "studio/frame_scope.h"

namespace optrel {

class ScopeDialog : public QDialog {
    Q_OBJECT
public:
    /// Names to choose from; others can be written.
    struct Names {
        QStringList folders, bodies, lenses;
    };
    /// `take` gets the scope and the name under which it is to be kept (empty: none), and says whether that went well.
    ScopeDialog(const QString& title, const QString& answer, const FrameScope& scope, const Names& names,
                bool can_be_kept, std::function<bool(const FrameScope&, const QString& name)> take,
                QWidget* parent = nullptr);
    /// Throws Error(input) for what cannot be read.
    FrameScope scope() const;

private:
    QLineEdit* list_line(QFormLayout* form, const char* label, const QStringList& names,
                         const std::vector<std::string>& now);

    std::vector<std::filesystem::path> frames_;  ///< chosen elsewhere; they stay
    QLineEdit *folders_, *jobs_, *bodies_, *lenses_, *from_, *to_, *name_;
    QSpinBox *iso_from_, *iso_to_;
    QCheckBox* beneath_;
    std::vector<QCheckBox*> states_;
};

}  // namespace optrel
