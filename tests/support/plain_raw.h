// SPDX-License-Identifier: GPL-3.0-or-later
// A sound raw picture, as small as a reader takes it.
#pragma once

#include "frames/picture.h"

namespace optrel::test {

/// 16 x 16 photosites, all equal.
inline RawPicture plain_raw() {
    RawPicture raw;
    raw.counts = cv::Mat1w(16, 16, std::uint16_t(900));
    raw.filter = {{{1, 2}, {0, 1}}};
    raw.black = {{{64, 64}, {64, 64}}};
    raw.white = 16000;
    return raw;
}

}  // namespace optrel::test
