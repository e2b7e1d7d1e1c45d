// SPDX-License-Identifier: GPL-3.0-or-later
// Form for editing a delivery; shows only the settings of its format.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QLineEdit>
#include <QSpinBox>

#include "exchange/delivery.h"

namespace optrel {

class NumberBox;

class DeliveryForm : public QWidget {
    Q_OBJECT
public:
    explicit DeliveryForm(QWidget* parent = nullptr);

    void show_delivery(const Delivery& delivery);
    /// The delivery in the form, not validated.
    Delivery delivery() const;

signals:
    void edited();

private:
    QComboBox* choice(const QString& label, const QStringList& items, const QString& hint);
    void add_resolution();
    void add_metadata();
    void refresh_rows();
    void take_format();

    QFormLayout* form_;
    QLineEdit *name_, *file_name_;
    QComboBox *format_, *bits_, *space_, *taken_, *geometry_, *falloff_, *codec_, *container_;
    QSpinBox *longest_, *quality_;
    NumberBox* resolution_;
    QComboBox* resolution_unit_;
    QWidget* resolution_row_;
    QCheckBox *compressed_, *original_;
    QWidget* along_;
    std::array<QCheckBox*, 5> metadata_;
    RawCopy raw_;  ///< settings that the form does not show
    bool showing_ = false;
};

}  // namespace optrel
