// SPDX-License-Identifier: GPL-3.0-or-later
// A recipe as it is edited: what its format has, and nothing else.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QLineEdit>
#include <QSpinBox>

#include "exchange/export_recipe.h"

namespace optrel {

class RecipeForm : public QWidget {
    Q_OBJECT
public:
    explicit RecipeForm(QWidget* parent = nullptr);

    void show_recipe(const ExportRecipe& recipe);
    /// As it stands in the form; not checked.
    ExportRecipe recipe() const;

signals:
    void edited();

private:
    QComboBox* choice(const QString& label, const QStringList& items, const QString& hint);
    void add_metadata();
    void refresh_rows();
    void take_format();

    QFormLayout* form_;
    QLineEdit *name_, *file_name_;
    QComboBox *format_, *bits_, *space_, *taken_, *geometry_, *falloff_, *codec_, *container_;
    QSpinBox *longest_, *quality_;
    QCheckBox *compressed_, *original_;
    QWidget* along_;
    std::array<QCheckBox*, 5> metadata_;
    RawCopy raw_;  ///< what the form does not show
    bool showing_ = false;
};

}  // namespace optrel
