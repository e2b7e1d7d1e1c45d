// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/kept_metadata.h"

#include <fmt/format.h>

#include <functional>
#include <string_view>

namespace optrel {
namespace {

constexpr std::string_view exif_form = "0000:00:00 00:00:00";

/// The digits of a time in the format of Exif (DateTimeOriginal) as a number; negative for other texts.
std::int64_t figures_of(const std::string& time) {
    if (time.size() != exif_form.size()) return -1;
    std::int64_t out = 0;
    for (std::size_t i = 0; i < time.size(); ++i) {
        if (exif_form[i] != '0') {
            if (time[i] != exif_form[i]) return -1;
        } else {
            if (time[i] < '0' || time[i] > '9') return -1;
            out = 10 * out + (time[i] - '0');
        }
    }
    return out;
}

std::string time_of(std::int64_t figures) {
    std::string out(exif_form);
    for (std::size_t i = out.size(); i-- > 0;) {
        if (exif_form[i] != '0') continue;
        out[i] = static_cast<char>('0' + figures % 10);
        figures /= 10;
    }
    return out;
}

}  // namespace

KeptMetadata::KeptMetadata(const Metadata& metadata) : SettingMetadata(metadata), time_(figures_of(metadata.time)) {
    gear_ = std::make_shared<const Gear>(Gear{metadata, time_ < 0 ? metadata.time : std::string()});
}

KeptMetadata::operator Metadata() const { return {*gear_, *this, time()}; }

std::string KeptMetadata::time() const { return time_ < 0 ? gear_->odd_time : time_of(time_); }

std::size_t KeptMetadata::Hash::operator()(const std::shared_ptr<const Gear>& g) const {
    const std::hash<std::string> text;
    std::size_t h = 0;
    for (const std::size_t part :
         {text(g->maker), text(g->model), text(g->body_serial), text(g->lens), text(g->lens_serial),
          static_cast<std::size_t>(g->width), static_cast<std::size_t>(g->orientation), text(g->odd_time)})
        h = (h ^ part) * 0x9e3779b97f4a7c15ull + (h >> 29);
    return h;
}

KeptMetadata MetadataPool::of(const Metadata& metadata) {
    KeptMetadata out(metadata);
    out.gear_ = *gear_.insert(out.gear_).first;
    return out;
}

}  // namespace optrel
