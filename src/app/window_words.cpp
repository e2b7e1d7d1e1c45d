// SPDX-License-Identifier: GPL-3.0-or-later
#include "window_words.h"

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

}  // namespace optrel
