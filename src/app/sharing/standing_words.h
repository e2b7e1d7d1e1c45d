// SPDX-License-Identifier: GPL-3.0-or-later
// How the window shows what a signature is worth: a mark, a word and a colour.
#pragma once

#include <QColor>
#include <QString>

#include "optics/profile.h"
#include "theme.h"

namespace optrel {

inline QString standing_mark(Standing standing) {
    switch (standing) {
        case Standing::trusted: return QString::fromUtf8("✓");
        case Standing::unknown: return "?";
        default: return "!";
    }
}

inline QColor standing_colour(Standing standing) {
    switch (standing) {
        case Standing::trusted: return theme::mark;
        case Standing::unknown: return theme::warning;
        default: return theme::serious;
    }
}

}  // namespace optrel
