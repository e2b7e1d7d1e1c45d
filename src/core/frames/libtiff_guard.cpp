// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/libtiff_guard.h"

#include <tiffio.h>

namespace optrel {

void mute_libtiff() {
    static const bool muted = [] {
        TIFFSetWarningHandler(nullptr);
        TIFFSetErrorHandler(nullptr);
        return true;
    }();
    (void)muted;
}

}  // namespace optrel
