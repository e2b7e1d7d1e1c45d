#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "base/files.h"
#include "base/parallel.h"
#include "calibration/run.h"
#include "charts/saddle_finder.h"

namespace optrel {
namespace {

/// A flat field is smooth at the scale of a few percent of the picture; a chart or a scene is not.
bool is_smooth(const MeasuringPicture& picture) {
    const cv::Mat1f small = search_picture(picture, 350).values;
    cv::Mat1f fine, coarse;
    cv::GaussianBlur(small, fine, {0, 0}, 1.5);
    cv::GaussianBlur(small, coarse, {0, 0}, 10);
    std::vector<float> difference;
    difference.reserve(fine.total());
    for (int y = 12; y < fine.rows - 12; ++y)
        for (int x = 12; x < fine.cols - 12; ++x) difference.push_back(std::abs(fine(y, x) - coarse(y, x)));
    const auto at = difference.begin() + static_cast<std::ptrdiff_t>(0.99 * difference.size());
    std::nth_element(difference.begin(), at, difference.end());
    return *at < 0.03 * cv::mean(small)[0];
}

}  // namespace

RunFrame measure_frame(const std::filesystem::path& path, MeasureAs as, const Progress& progress) {
    RunFrame frame;
    frame.path = path;
    try {
        progress.check();
        const MeasuringPicture picture = read_for_measuring(path);
        frame.metadata = picture.metadata;
        frame.width = picture.width;
        frame.height = picture.height;
        frame.hash = file_hash(path);
        progress.check();
        const bool flat = as == MeasureAs::flat || (as == MeasureAs::automatic && is_smooth(picture));
        if (flat) {
            frame.role = RunRole::flat;
            if (picture.metadata.kind != FrameKind::raw) {
                frame.problem = fmt::format("{} is a rendered picture, but falloff can only be measured on raw flat fields; use the raw file.", frame.name());
                return frame;
            }
            frame.flat = measure_flat(frame.name(), picture);
            if (frame.flat.clipped > 0.02)
                frame.problem = fmt::format("{} is clipped in {:.0f} % of its area (limit 2 %); expose flat fields at about half of the white level.",
                                            frame.name(), 100 * frame.flat.clipped);
            else if (frame.flat.level < 0.01)
                frame.problem = fmt::format("{} is too dark ({:.1f} % of the white level, at least 1 % is needed); expose it longer.", frame.name(), 100 * frame.flat.level);
            return frame;
        }
        frame.detection = detect_checker(picture, progress);
        if (frame.detection.found()) {
            frame.role = RunRole::chart;
        } else {
            frame.role = as == MeasureAs::chart ? RunRole::chart : RunRole::neither;
            frame.problem = fmt::format("{} shows no checkerboard of at least 3 by 3 corners; check focus and light, or leave it out.", frame.name());
        }
    } catch (const Cancelled&) {
        throw;
    } catch (const Error& error) {
        frame.problem = error.what();
        if (as == MeasureAs::chart) frame.role = RunRole::chart;
        if (as == MeasureAs::flat) frame.role = RunRole::flat;
    }
    return frame;
}

std::vector<RunFrame> measure_frames(const std::vector<std::filesystem::path>& paths, MeasureAs as, Progress& progress) {
    std::vector<RunFrame> frames(paths.size());
    progress.start(static_cast<int>(paths.size()), "Measuring frames");
    parallel_for(static_cast<int>(paths.size()), [&](int i) {
        frames[i] = measure_frame(paths[i], as, progress);
        progress.step();
    });
    progress.check();
    return frames;
}

}  // namespace optrel
