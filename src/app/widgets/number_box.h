// SPDX-License-Identifier: GPL-3.0-or-later
// A field for a number that never makes another number of what was typed. It takes a point, or the decimal sign of the
// person's own locale, and no grouping. What cannot be read, or is out of range, stays as it was typed and is marked,
// with a sentence; the value stays what it was.
#pragma once

#include <QDoubleSpinBox>

namespace optrel {

class NumberBox : public QDoubleSpinBox {
    Q_OBJECT
public:
    explicit NumberBox(QWidget* parent = nullptr);

    QValidator::State validate(QString& text, int& position) const override;
    double valueFromText(const QString& text) const override;
    QString textFromValue(double value) const override;
    /// The base class would leave out a comma, which makes 5 of 0,5.
    void fixup(QString&) const override {}
    /// What is wrong with what was typed; empty: nothing.
    const QString& problem() const { return problem_; }
    /// The sign besides the point that a number may have; of the person's locale unless it is set.
    void set_decimal_sign(QChar sign) { sign_ = sign; }

signals:
    void complained(const QString& sentence);

protected:
    void focusOutEvent(QFocusEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    QString bare(const QString& text) const;
    QString what_is_wrong(const QString& text) const;
    /// Does what the base class does when something was typed to its end, but keeps what cannot be read.
    template <class Handle>
    void keeping_typed(const Handle& handle);
    void mark(const QString& problem);

    QChar sign_;
    QString problem_, help_;
};

}  // namespace optrel
