// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/report.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "base/files.h"
#include "base/json_text.h"
#include "exchange/report_pages.h"
#include "exchange/run_report.h"
#include "frames/orientation.h"
#include "render/quick_look.h"

namespace optrel {
namespace {

bool is_pdf(const std::filesystem::path& path) { return lowered_extension(path) == ".pdf"; }

/// Thumbnails of board frames in display orientation; missing and damaged files have none.
std::vector<cv::Mat3b> looks_of(const std::vector<RunFrame>& frames, Progress& progress) {
    constexpr int width = 420;
    std::vector<cv::Mat3b> out(frames.size());
    progress.start(static_cast<int>(frames.size()), "Collecting pictures for the report");
    for (std::size_t i = 0; i < frames.size(); ++i) {
        progress.check();
        if (frames[i].role == RunRole::chart) try {
                const cv::Mat3b whole = as_held(quick_look(frames[i].path), frames[i].metadata.orientation);
                cv::resize(whole, out[i], {width, std::max(1, width * whole.rows / whole.cols)}, 0, 0, cv::INTER_AREA);
            } catch (const std::exception&) {
                out[i].release();
            }
        progress.step();
    }
    return out;
}

}  // namespace

void check_report_path(const std::filesystem::path& path, Existing existing) {
    check_output(path, is_pdf(path) ? pdf_output() : json_output(), existing);
}

void write_report(const std::filesystem::path& path, Existing existing, const std::vector<RunFrame>& frames,
                  const RunSolution& solution, Progress& progress) {
    check_report_path(path, existing);
    if (!is_pdf(path))
        return write_output(path, json_output(), existing, json_text(run_report(frames, solution), 2) + "\n");
    const std::vector<Page> pages = report_pages(frames, solution, looks_of(frames, progress));
    write_output(path, pdf_output(), existing, pdf_of(pages, "Calibration of " + solution.profile.name));
}

}  // namespace optrel
