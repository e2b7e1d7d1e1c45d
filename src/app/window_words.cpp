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

QString in_local_time(const std::string& utc, const QString& form) {
    QDateTime time = QDateTime::fromString(q(utc), Qt::ISODate);
    if (!time.isValid()) return q(utc);
    if (!utc.ends_with("Z") && time.timeSpec() == Qt::LocalTime) time.setTimeSpec(Qt::UTC);
    time = time.toLocalTime();
    // With its difference from UTC.
    if (form.isEmpty()) return time.toOffsetFromUtc(time.offsetFromUtc()).toString(Qt::ISODate) + " (local time)";
    return time.toString(form);
}

}  // namespace

QString local_day(const std::string& utc) { return in_local_time(utc, "yyyy-MM-dd"); }

QString local_time(const std::string& utc) { return in_local_time(utc, "yyyy-MM-dd HH:mm"); }

QString full_local_time(const std::string& utc) { return in_local_time(utc, {}); }

}  // namespace optrel
