#include "calibration/findings.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace optrel {

void measure_coverage(const std::vector<View>& views, const PictureGeometry& geometry, ProfileNode& node) {
    constexpr int across = 30, down = 20;
    std::vector<char> hit(across * down, 0);
    double farthest = 0;
    for (const View& view : views)
        for (const ViewPoint& p : view.points) {
            if (p.rejected) continue;
            farthest = std::max(farthest, geometry.to_sensor(p.uv).norm());
            const int i = static_cast<int>(p.uv.x() / geometry.width * across), j = static_cast<int>(p.uv.y() / geometry.height * down);
            for (int y = std::max(0, j - 1); y <= std::min(down - 1, j + 1); ++y)
                for (int x = std::max(0, i - 1); x <= std::min(across - 1, i + 1); ++x) hit[y * across + x] = 1;
        }
    node.quality.coverage = std::count(hit.begin(), hit.end(), 1) / double(across * down);
    node.largest_radius_mm = farthest;
    node.quality.largest_height = farthest / geometry.half_diagonal_mm();
}

std::vector<Finding> judge(const std::vector<RunFrame>& frames, const RunSolution& solution, const PictureGeometry& geometry) {
    std::vector<Finding> out;
    const auto add = [&](bool serious, std::string text, std::string remedy) { out.push_back({std::move(text), std::move(remedy), serious}); };
    const ProfileNode& node = solution.profile.nodes.front();
    const NodeQuality& q = node.quality;

    int tilted = 0;
    double steepest = 0;
    std::vector<double> blur;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        if (!solution.outcomes[i].used || frames[i].role != RunRole::chart) continue;
        const double tilt = solution.outcomes[i].view.tilt_degrees();
        steepest = std::max(steepest, tilt);
        tilted += tilt > 15;
        blur.push_back(frames[i].detection.blur_px);
    }
    if (tilted < 3)
        add(true, fmt::format("Only {} chart frames are tilted by more than 15 degrees (at least 3 are wanted; the steepest has {:.0f}): the focal length is uncertain.", tilted, steepest),
            "Shoot frames with the chart turned 25 to 40 degrees about different axes.");
    int empty_corners = 0;
    for (const Vec2& corner : {Vec2(0, 0), Vec2(geometry.width, 0), Vec2(0, geometry.height), Vec2(geometry.width, geometry.height)}) {
        double nearest = 1e9;
        for (const FrameOutcome& outcome : solution.outcomes)
            for (const ViewPoint& p : outcome.view.points)
                if (!p.rejected) nearest = std::min(nearest, (p.uv - corner).norm());
        empty_corners += nearest > 0.12 * std::hypot(geometry.width, geometry.height);
    }
    if (empty_corners)
        add(true, fmt::format("{} of the 4 corners of the picture hold no measured point; data reach field height {:.2f}.", empty_corners, q.largest_height),
            "Shoot frames with the chart reaching over the corners of the picture.");
    if (q.max_sigma_px > 0.1)
        add(true, fmt::format("The mapping is uncertain by up to {:.2f} px (one sigma; 0.1 px is wanted).", q.max_sigma_px), "Add chart frames where the coverage is thin.");
    if (!blur.empty()) {
        std::vector<double> sorted = blur;
        std::nth_element(sorted.begin(), sorted.begin() + sorted.size() / 2, sorted.end());
        const double typical = sorted[sorted.size() / 2];
        for (std::size_t i = 0, b = 0; i < frames.size(); ++i) {
            if (!solution.outcomes[i].used || frames[i].role != RunRole::chart) continue;
            const double own = blur[b++];
            if (own > 1.8 * typical)
                add(false, fmt::format("{} is soft: its edges are {:.1f} px wide, the other frames' {:.1f} px.", frames[i].name(), own, typical),
                    "Look for movement or missed focus; drop the frame if the residuals say so.");
        }
    }
    for (std::size_t i = 0; i < frames.size(); ++i) {
        const RunFrame& f = frames[i];
        if (f.role == RunRole::chart && f.detection.clipped > 0.05)
            add(false, fmt::format("{} has {:.0f} % of its edge samples at the white level (limit 5 %).", f.name(), 100 * f.detection.clipped), "Expose the chart darker.");
        if (f.role == RunRole::chart && f.detection.found() && f.detection.contrast < 0.02)
            add(false, fmt::format("{} is dark: the chart's contrast is {:.1f} % of the white level (2 % is wanted).", f.name(), 100 * f.detection.contrast), "Expose the chart longer.");
        if (!solution.outcomes[i].used && !f.dropped && !solution.outcomes[i].reason.empty())
            add(false, "Left out: " + solution.outcomes[i].reason, "");
    }
    if (q.held_out_rms_px > 1.6 * q.rms_px + 0.02)
        add(false, fmt::format("Frames that the solve did not see miss by {:.3f} px, those it saw by {:.3f} px: too few frames for this lens.", q.held_out_rms_px, q.rms_px),
            "Add chart frames.");
    if (!node.falloff)
        add(false, "There is no usable flat field: falloff was not measured.", "Shoot two flat fields, turn the light round half-way, shoot two more.");
    else if (!node.falloff->centre_measured)
        add(false, "All flat fields have the light from one direction: an off-centre falloff cannot be told from the lamp's gradient.",
            "Turn the light (or the camera) round half-way and shoot two more.");
    return out;
}

}  // namespace optrel
