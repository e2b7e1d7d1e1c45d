// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/exposure_time.h"

#include <exiv2/exiv2.hpp>

namespace optrel {

double exposure_time(const OpenedFrame& frame) {
    try {
        const Exiv2::ExifData& exif = frame.image().exifData();
        const auto found = exif.findKey(Exiv2::ExifKey("Exif.Photo.ExposureTime"));
        if (found == exif.end() || found->count() == 0) return 0;
        const Exiv2::Rational r = found->toRational(0);
        return r.second == 0 || r.first <= 0 || r.second < 0 ? 0 : static_cast<double>(r.first) / r.second;
    } catch (const std::exception&) {
        return 0;  // who reads the frame tells what is wrong with it
    }
}

}  // namespace optrel
