// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/body_run_work.h"

#include <fmt/format.h>

#include <cmath>
#include <map>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "frames/exposure_time.h"
#include "frames/metadata.h"
#include "studio/calibration/run_work.h"

namespace optrel {

std::vector<BodyRun> noise_runs_of_folder(const std::filesystem::path& folder, std::vector<std::string>& problems,
                                          Progress& progress) {
    std::map<std::string, BodyRun> by_body;
    for (const auto& [path, m] : metadata_of_folder(folder, problems, progress)) {
        if (m.kind != FrameKind::raw) continue;
        const std::string body = trimmed(camera_name(m) + " " + m.body_serial);
        BodyRun& run = by_body[body];
        run.name = "Noise of " + body;
        run.folder = plain_path(folder);
        run.frames.push_back({path, false});
    }
    if (by_body.empty())
        throw input_error(
            "The folder " + printable(folder.string()) +
            " holds no raw frame that can be read; choose the folder of the flat fields and dark frames.");
    std::vector<BodyRun> out;
    for (auto& [body, run] : by_body) out.push_back(std::move(run));
    return out;
}

std::vector<BodyRunShot> body_run_shots(const std::vector<std::filesystem::path>& frames) {
    std::vector<BodyRunShot> out;
    for (const auto& path : frames) {
        BodyRunShot shot;
        try {
            const OpenedFrame frame(path);
            shot.iso = read_metadata(frame).iso;
            shot.exposure_s = exposure_time(frame);
        } catch (const std::exception& error) {
            shot.problem = reason_for(path, error);
        }
        out.push_back(std::move(shot));
    }
    return out;
}

std::string exposure_text(double seconds) {
    if (!(seconds > 0)) return {};
    if (seconds < 0.35) return fmt::format("1/{} s", std::lround(1 / seconds));
    return fmt::format("{:.2g} s", seconds);
}

}  // namespace optrel
