// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/small_picture.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <fstream>
#include <vector>

#include "base/error.h"
#include "base/files.h"
#include "baselines/resolver.h"
#include "frames/decode.h"
#include "frames/embedded_preview.h"
#include "frames/jpeg_bytes.h"
#include "frames/metadata.h"
#include "frames/orientation.h"
#include "studio/development/prepare_frame.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

constexpr int kept_quality = 85;
constexpr std::uintmax_t largest_kept = std::uintmax_t{4} << 20;

/// Neutral development, reduced to `side` px.
cv::Mat3b developed(const fs::path& frame, const Metadata& metadata, int side, const Progress& progress) {
    const auto prepared = prepare_frame(frame, metadata, {}, progress);
    const Sampling whole = Sampling::reduced(cv::Rect({0, 0}, prepared->size()), side);
    return dithered(prepared->look(neutral_start(), std::nullopt, whole, progress).rgb);
}

bool is_kept_picture(const fs::path& file) {
    const std::string stem = file.stem().string();
    return file.extension() == ".jpg" && stem.size() == 62 &&
           stem.find_first_not_of("0123456789abcdef") == std::string::npos;
}

}  // namespace

cv::Mat3b small_picture(const fs::path& path, int side, const Progress& progress) {
    const OpenedFrame frame(path);
    const Metadata metadata = read_metadata(frame);
    std::optional<cv::Mat3b> picture = embedded_preview(frame, side);
    progress.check();
    if (!picture) picture = developed(path, metadata, side, progress);
    return as_held(*picture, metadata.orientation);
}

SmallPictureCache::SmallPictureCache(fs::path folder, std::uintmax_t most_bytes)
    : folder_(std::move(folder)), most_bytes_(most_bytes) {}

fs::path SmallPictureCache::file_of(Of of) const {
    if (of.size < 0) {
        std::error_code missing;
        of.size = static_cast<long long>(fs::file_size(of.frame, missing));
        of.modified = fs::last_write_time(of.frame, missing).time_since_epoch().count();
    }
    const std::string key =
        bytes_hash(fmt::format("1\n{}\n{}\n{}\n{}", of.frame.string(), of.size, of.modified, of.side));
    return folder_ / key.substr(0, 2) / (key.substr(2) + ".jpg");
}

std::optional<cv::Mat3b> SmallPictureCache::find(const Of& of) {
    const fs::path file = file_of(of);
    try {
        cv::Mat3b out = decode_jpeg_reduced(read_file(file, largest_kept), of.side, file);
        std::error_code ignored;
        const auto now = fs::file_time_type::clock::now();
        if (fs::last_write_time(file, ignored) < now - std::chrono::hours(24)) fs::last_write_time(file, now, ignored);
        return out;
    } catch (const Error&) {
        return std::nullopt;  // missing, or damaged: it is made again
    }
}

cv::Mat3b SmallPictureCache::get(const Of& of, const Progress& progress) {
    if (std::optional<cv::Mat3b> kept = find(of)) return *kept;
    cv::Mat3b made = small_picture(of.frame, of.side, progress);
    keep(file_of(of), made);
    return made;
}

void SmallPictureCache::keep(const fs::path& file, const cv::Mat3b& picture) {
    const std::string bytes = jpeg_bytes(picture, kept_quality);
    std::error_code failed;
    if (!fs::exists(folder_, failed)) {
        fs::create_directories(folder_, failed);
        fs::permissions(folder_, fs::perms::owner_all, failed);
    }
    fs::create_directories(file.parent_path(), failed);
    // Not flushed to the disk, unlike all other writes: a damaged file is noticed and made again.
    const fs::path part = part_beside(file);
    {
        std::ofstream out(part, std::ios::binary);
        out.write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
        out.close();
        if (!out) {
            fs::remove(part, failed);
            return;
        }
    }
    fs::rename(part, file, failed);
    if (failed) {
        fs::remove(part, failed);
        return;
    }
    const std::lock_guard lock(mutex_);
    count();
    *bytes_ += bytes.size();
    if (*bytes_ > most_bytes_) make_room();
}

std::uintmax_t SmallPictureCache::kept_bytes() {
    const std::lock_guard lock(mutex_);
    count();
    return *bytes_;
}

namespace {

struct KeptFile {
    fs::path path;
    std::uintmax_t size;
    fs::file_time_type used;
};

std::vector<KeptFile> kept_files(const fs::path& folder) {
    std::vector<KeptFile> out;
    std::error_code failed;
    for (fs::recursive_directory_iterator it(folder, failed), end; !failed && it != end; it.increment(failed)) {
        std::error_code gone;
        if (!it->is_regular_file(gone) || !is_kept_picture(it->path())) continue;
        KeptFile file{it->path(), it->file_size(gone), it->last_write_time(gone)};
        if (!gone) out.push_back(std::move(file));
    }
    return out;
}

}  // namespace

void SmallPictureCache::count() {
    if (bytes_) return;
    bytes_ = 0;
    // Files that killed programs were writing.
    std::error_code failed;
    for (fs::directory_iterator it(folder_, failed), end; !failed && it != end; it.increment(failed))
        if (std::error_code gone; it->is_directory(gone)) sweep_parts(it->path());
    for (const KeptFile& file : kept_files(folder_)) *bytes_ += file.size;
}

/// Removes the oldest until a quarter of the limit is free, so that this is done rarely.
void SmallPictureCache::make_room() {
    std::vector<KeptFile> files = kept_files(folder_);
    std::sort(files.begin(), files.end(), [](const KeptFile& a, const KeptFile& b) { return a.used < b.used; });
    std::uintmax_t left = 0;
    for (const KeptFile& file : files) left += file.size;
    for (const KeptFile& file : files) {
        if (left <= most_bytes_ / 4 * 3) break;
        std::error_code failed;
        if (fs::remove(file.path, failed)) left -= file.size;
    }
    bytes_ = left;
}

}  // namespace optrel
