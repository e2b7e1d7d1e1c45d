// SPDX-License-Identifier: GPL-3.0-or-later
#include "window_words.h"

#include <QDateTime>
#include <QRegularExpression>

#include "base/path_text.h"

namespace optrel {

QString q(const std::string& s) {
    QString out = QString::fromStdString(path_to_text(s));
    if (!out.contains("(--") && !out.contains("(or --")) return out;
    // Messages name command-line options in parentheses, which the window removes.
    static const QRegularExpression option(" ?\\((or )?--[a-z][^()]*\\)");
    return out.remove(option);
}

namespace {

/// Empty when the text is not a time with its zone: a day alone, for example, is the same day everywhere.
QDateTime here(const std::string& text) {
    const QDateTime time = QDateTime::fromString(q(text), Qt::ISODate);
    return time.isValid() && time.timeSpec() != Qt::LocalTime ? time.toLocalTime() : QDateTime();
}

}  // namespace

QString local_day(const std::string& utc) {
    const QDateTime time = here(utc);
    return time.isValid() ? time.toString("yyyy-MM-dd") : q(utc).left(10);
}

QString local_time(const std::string& utc) {
    const QDateTime time = here(utc);
    return time.isValid() ? time.toString("yyyy-MM-dd HH:mm") : q(utc);
}

QString full_local_time(const std::string& utc) {
    const QDateTime time = here(utc);
    if (!time.isValid()) return q(utc);
    // With its difference from UTC.
    return time.toOffsetFromUtc(time.offsetFromUtc()).toString(Qt::ISODate) + " (local time)";
}

}  // namespace optrel
