// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/number_box.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QLocale>
#include <QToolTip>
#include <cmath>

#include "base/numbers.h"
#include "theme.h"

namespace optrel {

NumberBox::NumberBox(QWidget* parent) : QDoubleSpinBox(parent) {
    const QString own = QLocale::system().decimalPoint();
    sign_ = own.isEmpty() ? QChar('.') : own[0];
    // A mark for a special value disappears when the user types.
    connect(lineEdit(), &QLineEdit::textEdited, this, [this] { mark({}); });
    connect(this, &QDoubleSpinBox::valueChanged, this, [this] { mark({}); });
}

QString NumberBox::bare(const QString& text) const {
    QString out = text.trimmed();
    if (!suffix().isEmpty() && out.endsWith(suffix().trimmed())) out.chop(suffix().trimmed().size());
    if (!prefix().isEmpty() && out.startsWith(prefix())) out.remove(0, prefix().size());
    return out.trimmed();
}

namespace {

std::optional<double> number_in(QString text, QChar sign) {
    if (text.contains('.') && sign != '.' && text.contains(sign)) return std::nullopt;
    return parse_number(text.replace(sign, '.').replace(QChar(0x2212), '-').toStdString());
}

}  // namespace

QString NumberBox::what_is_wrong(const QString& text) const {
    const QString typed = bare(text);
    if (!specialValueText().isEmpty() && text == specialValueText()) return {};
    const std::optional<double> value = number_in(typed, sign_);
    const QString range = QString("%1 to %2").arg(textFromValue(minimum()), textFromValue(maximum()));
    if (!value) {
        const QString signs = sign_ == '.' ? "a point" : QString("a point or %1").arg(sign_);
        return QString("'%1' is no number: write figures with %2 before the decimals, from %3.")
            .arg(typed, signs, range);
    }
    const double slack = 1e-9 * std::max(std::abs(minimum()), std::abs(maximum()));
    if (*value < minimum() - slack || *value > maximum() + slack)
        return QString("%1 is out of range: %2.").arg(typed, range);
    return {};
}

QValidator::State NumberBox::validate(QString& text, int&) const {
    return what_is_wrong(text).isEmpty() ? QValidator::Acceptable : QValidator::Intermediate;
}

double NumberBox::valueFromText(const QString& text) const {
    if (!specialValueText().isEmpty() && text == specialValueText()) return minimum();
    return std::clamp(number_in(bare(text), sign_).value_or(value()), minimum(), maximum());
}

QString NumberBox::textFromValue(double value) const { return QString::number(value, 'f', decimals()); }

void NumberBox::mark(const QString& problem) {
    if (problem == problem_) return;
    if (problem_.isEmpty()) help_ = toolTip();
    problem_ = problem;
    setToolTip(problem.isEmpty() ? help_ : problem);
    setAccessibleDescription(problem);
    lineEdit()->setStyleSheet(problem.isEmpty() ? QString()
                                                : QString("color: %1; font-weight: 600").arg(theme::serious.name()));
    if (problem.isEmpty()) return;
    QToolTip::showText(mapToGlobal(QPoint(0, height())), problem, this);
    emit complained(problem);
}

template <class Handle>
void NumberBox::keeping_typed(const Handle& handle) {
    const QString typed = lineEdit()->text(), problem = what_is_wrong(typed);
    handle();
    if (problem.isEmpty()) return mark({});
    const QSignalBlocker quiet(lineEdit());
    lineEdit()->setText(typed);
    mark(problem);
}

void NumberBox::focusOutEvent(QFocusEvent* event) {
    keeping_typed([&] { QDoubleSpinBox::focusOutEvent(event); });
}

void NumberBox::keyPressEvent(QKeyEvent* event) {
    const bool ends = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
    if (ends)
        keeping_typed([&] { QDoubleSpinBox::keyPressEvent(event); });
    else
        QDoubleSpinBox::keyPressEvent(event);
}

}  // namespace optrel
