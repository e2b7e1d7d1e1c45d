// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/findings.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/median.h"
#include "calibration/next_setting.h"
#include "optics/frame_map.h"
#include "optics/linear.h"

namespace optrel {

void measure_coverage(const std::vector<View>& views, const PictureGeometry& geometry, ProfileNode& node) {
    constexpr int across = 30, down = 20;
    std::vector<char> hit(across * down, 0);
    double farthest = 0;
    for (const View& view : views)
        for (const ViewPoint& p : view.points) {
            if (p.rejected) continue;
            farthest = std::max(farthest, geometry.to_sensor(p.uv).norm());
            const int i = static_cast<int>(p.uv.x() / geometry.width * across),
                      j = static_cast<int>(p.uv.y() / geometry.height * down);
            for (int y = std::max(0, j - 1); y <= std::min(down - 1, j + 1); ++y)
                for (int x = std::max(0, i - 1); x <= std::min(across - 1, i + 1); ++x) hit[y * across + x] = 1;
        }
    node.quality.coverage = std::count(hit.begin(), hit.end(), 1) / double(across * down);
    node.largest_radius_mm = farthest;
    node.quality.largest_height = farthest / geometry.half_diagonal_mm();
}

void measure_straightness(const std::vector<View>& views, const PictureGeometry& geometry, ProfileNode& node) {
    const FrameMap map(node, geometry, geometry);
    std::vector<double> after;
    double before = 0;
    for (const View& view : views) {
        std::map<std::pair<int, long>, std::vector<const ViewPoint*>> lines;
        for (const ViewPoint& p : view.points) {
            if (p.rejected) continue;
            lines[{0, std::lround(100 * p.board_mm.x())}].push_back(&p);
            lines[{1, std::lround(100 * p.board_mm.y())}].push_back(&p);
        }
        for (const auto& [key, points] : lines) {
            if (points.size() < 4) continue;
            const auto distances = [&, &points = points](const auto& position) {
                Vec2 mean = Vec2::Zero();
                std::vector<Vec2> at;
                for (const ViewPoint* p : points)
                    if (const std::optional<Vec2> q = position(p->uv)) at.push_back(*q);
                for (const Vec2& q : at) mean += q / at.size();
                Eigen::Matrix2d spread = Eigen::Matrix2d::Zero();
                for (const Vec2& q : at) spread += (q - mean) * (q - mean).transpose();
                const Vec2 normal = symmetric_modes(spread).vectors.col(0);
                std::vector<double> out;
                for (const Vec2& q : at) out.push_back(std::abs(normal.dot(q - mean)));
                return out;
            };
            for (const double d : distances([](const Vec2& uv) { return std::optional(uv); }))
                before = std::max(before, d);
            if (node.model.kind()->angular()) continue;
            for (const double d : distances([&](const Vec2& uv) { return map.ideal(uv); })) after.push_back(d);
        }
    }
    node.quality.straightness_before_px = before;
    if (after.empty()) return;
    const auto p95 = after.begin() + static_cast<std::ptrdiff_t>(0.95 * (after.size() - 1));
    std::nth_element(after.begin(), p95, after.end());
    node.quality.straightness_after_px = *p95;
}

namespace {

/// An edge that is wider means that a frame is out of focus: the absolute limit, and the limit relative to the other
/// frames.
constexpr double blur_limit_px = 4, blur_factor = 1.8;

/// Largest plausible difference between the calibrated and the recorded focal length. Makers round the value, and
/// internal focusing changes it. Moving the whole lens forward to focus makes it longer by 1 + m.
constexpr double focal_share = 0.08;

/// Judges the frames of one lens setting.
class NodeJudge {
public:
    NodeJudge(const std::vector<RunFrame>& frames, const ChartSpec& chart, RunSolution& solution, int node)
        : frames_(frames),
          chart_(chart),
          solution_(solution),
          node_(solution.profile.nodes[node]),
          geometry_(solution.profile.geometry) {
        for (std::size_t i = 0; i < frames.size(); ++i)
            if (solution.outcomes[i].used && solution.outcomes[i].node == node && frames[i].role == RunRole::chart)
                charts_.push_back(static_cast<int>(i));
        if (solution.profile.nodes.size() > 1) {
            where_ = fmt::format("At {}: ", to_string(node_.setting));
            at_ = "@" + compact(node_.setting);
        }
    }

    void run(const NodeSolution& solved) {
        tilt();
        corners_of_the_picture();
        uncertainty();
        sharpness_and_light();
        unseen_frames();
        board_shape(solved.lens);
        systematic_residue();
        distances();
        printed_size();
        falloff();
        focal_length();
    }

private:
    /// A `serious` finding of a node concerns its mapping.
    void add(const char* name, bool serious, std::string text, std::string remedy, int frame = -1,
             std::optional<Vec2> place = {}) {
        if (!where_.empty() && frame < 0) text = where_ + text;
        solution_.findings.push_back({name + at_, std::move(text), std::move(remedy), serious, serious, frame, place});
    }
    const View& view(int frame) const { return solution_.outcomes[frame].view; }

    void tilt() {
        int tilted = 0;
        double steepest = 0;
        for (const int i : charts_) {
            const double degrees = view(i).tilt_degrees();
            steepest = std::max(steepest, degrees);
            tilted += degrees > 15;
        }
        if (steepest < 8)
            add("tilt", true,
                fmt::format("No chart frame is tilted (the steepest by {:.1f} degrees; at least 3 should be by more "
                            "than 15): the focal length cannot be told from the distance.",
                            steepest),
                "Shoot frames with the chart turned 25 to 40 degrees about different axes.");
        else if (tilted < 3)
            add("tilt", true,
                fmt::format("Only {} chart frames are tilted by more than 15 degrees (at least 3 are wanted; the "
                            "steepest has {:.0f}): the focal length is uncertain.",
                            tilted, steepest),
                "Shoot frames with the chart turned 25 to 40 degrees about different axes.");
    }

    void corners_of_the_picture() {
        const Vec2 places[] = {{0, 0},
                               {double(geometry_.width), 0},
                               {0, double(geometry_.height)},
                               {double(geometry_.width), double(geometry_.height)}};
        const double limit = 0.12 * std::hypot(geometry_.width, geometry_.height);
        int empty = 0;
        std::optional<Vec2> first;
        for (const Vec2& corner : places) {
            double nearest = 1e9;
            for (const int i : charts_)
                for (const ViewPoint& p : view(i).points)
                    if (!p.rejected) nearest = std::min(nearest, (p.uv - corner).norm());
            if (nearest <= limit) continue;
            ++empty;
            if (!first) first = corner;
        }
        if (empty)
            add("corners", true,
                fmt::format(
                    "{} of the 4 corners of the picture hold no measured point; data reach field height {:.2f}.", empty,
                    node_.quality.largest_height),
                "Shoot frames with the chart reaching over the corners of the picture.", -1, first);
    }

    void uncertainty() {
        const double sigma = node_.quality.max_sigma_px;
        if (sigma > 0.1)
            add("uncertain", true,
                fmt::format("The mapping is uncertain by up to {:.2f} px (one sigma; 0.1 px is wanted).", sigma),
                "Add chart frames where the coverage is thin.");
    }

    void sharpness_and_light() {
        std::vector<double> blur;
        for (const int i : charts_) blur.push_back(frames_[i].detection.blur_px);
        if (blur.empty()) return;
        const double typical = median(blur);
        for (const int i : charts_) {
            const RunFrame& f = frames_[i];
            if (f.detection.blur_px > blur_factor * typical || f.detection.blur_px > blur_limit_px)
                add("soft", false,
                    fmt::format("{} is out of focus or shaken: its edges are {:.1f} px wide (limits {:.1f} px, and "
                                "{:.1f} times the {:.1f} px of the other frames).",
                                f.name(), f.detection.blur_px, blur_limit_px, blur_factor, typical),
                    "Look for movement or missed focus; drop the frame if the residuals say so.", i);
            if (f.detection.clipped > 0.05)
                add("clipped", false,
                    fmt::format("{} has {:.0f} % of its edge samples at the white level (limit 5 %).", f.name(),
                                100 * f.detection.clipped),
                    "Expose the chart darker.", i);
            if (f.detection.contrast < 0.02)
                add("dark", false,
                    fmt::format("{} is dark: the chart's contrast is {:.1f} % of the white level (2 % is wanted).",
                                f.name(), 100 * f.detection.contrast),
                    "Expose the chart longer.", i);
        }
    }

    void unseen_frames() {
        const NodeQuality& q = node_.quality;
        if (q.held_out_rms_px > 1.6 * q.rms_px + 0.02)
            add("unseen", q.held_out_rms_px > 3 * q.rms_px + 0.05,
                fmt::format("Frames that the solve did not see miss by {:.3f} px, those it saw by {:.3f} px (limit 1.6 "
                            "times): too few frames for this lens.",
                            q.held_out_rms_px, q.rms_px),
                "Add chart frames.");
    }

    void board_shape(const LensSolution& lens) {
        if (!lens.board_free) return;
        const double half_x = chart_.width_mm() / 2, half_y = chart_.height_mm() / 2;
        const double bow =
            std::max(std::abs(lens.board.bow_xx) * half_x * half_x, std::abs(lens.board.bow_yy) * half_y * half_y) /
            BoardShape::length_mm;
        const double stretch = lens.board.stretch_y;
        if (bow > 0.0004 * chart_.width_mm())
            add("bow", bow > 0.004 * chart_.width_mm(),
                fmt::format("The chart is not flat: it bows by {:.2f} mm from its middle to its edge (limit {:.2f} "
                            "mm). The bow was measured and taken out.",
                            bow, 0.0004 * chart_.width_mm()),
                "Mount the chart on a stiff board before the next measurement.");
        if (std::abs(stretch) > 3 * lens.board_sigma.stretch_y && std::abs(stretch) > 2e-4)
            add("stretch", std::abs(stretch) > 0.02,
                fmt::format("The chart's squares are {:.2f} % {} down than across (limit 0.02 %). The difference was "
                            "taken out.",
                            100 * std::abs(stretch), stretch > 0 ? "larger" : "smaller"),
                "Measure the check ruler on both axes and give both sizes.");
    }

    /// Mean residuals of cells of the picture: what frames have in common is an error of the model, not of the corners.
    void systematic_residue() {
        constexpr int across = 6, down = 4;
        Vec2 sum[across * down];
        double square[across * down] = {};
        int count[across * down] = {};
        for (Vec2& s : sum) s.setZero();
        for (const int i : charts_)
            for (const ViewPoint& p : view(i).points) {
                if (p.rejected) continue;
                const int k = geometry_.cell(p.uv, across, down);
                sum[k] += p.residual;
                square[k] += p.residual.squaredNorm() / 2;
                ++count[k];
            }
        int worst = -1;
        double largest = 0;
        for (int k = 0; k < across * down; ++k) {
            if (count[k] < 20) continue;
            const double mean = (sum[k] / count[k]).norm(), sigma = std::sqrt(square[k] / count[k] / count[k]);
            if (mean > 5 * sigma && mean > largest) {
                largest = mean;
                worst = k;
            }
        }
        if (worst >= 0 && largest > 0.03)
            add("residue", false,
                fmt::format("Corners of different frames miss alike by {:.3f} px in one part of the picture (limit "
                            "0.03 px): the lens model is too small there, or the chart is not even.",
                            largest),
                "Compare the models tried; look at the residuals of all frames together.", -1,
                Vec2((worst % across + 0.5) * geometry_.width / across,
                     (worst / across + 0.5) * geometry_.height / down));
    }

    /// With a wrong printed size, the corners give another distance than the recorded focus distance.
    void printed_size() {
        std::vector<double> ratio;
        for (const int i : charts_) {
            const double focused = 1000 * frames_[i].metadata.distance_m;
            if (!(focused > 0)) continue;
            Vec2 middle = Vec2::Zero();
            for (const ViewPoint& p : view(i).points) middle += p.board_mm / view(i).points.size();
            ratio.push_back((view(i).pose.matrix() * Vec3(middle.x(), middle.y(), 0) + view(i).pose.translation).z() /
                            focused);
        }
        if (ratio.size() < 3) return;
        const double typical = median(ratio);
        if (typical > 1.6 || typical < 0.6)
            add("printed-size", false,
                fmt::format("By its printed size the chart stood at {:.2f} times the distance that the lens was "
                            "focused at (limits 0.60 and 1.60): the size of the squares may be wrong.",
                            typical),
                "Measure the check rulers and give the size of the squares; distortion does not depend on it.");
    }

    void distances() {
        double near = 1e9, far = 0;
        for (const int i : charts_) {
            const double d = frames_[i].metadata.distance_m;
            if (!(d > 0)) continue;
            near = std::min(near, d);
            far = std::max(far, d);
        }
        if (far > 1.12 * near)
            add("distances", false,
                fmt::format("The focus distance changes between the chart frames, from {:.3g} to {:.3g} m (limit 12 "
                            "%): the lens breathes while it is measured.",
                            near, far),
                "Focus once, by hand, and leave the focus alone.");
    }

    void falloff() {
        const std::optional<Falloff>& f = node_.falloff;
        if (!f)
            add("falloff", false, "There is no usable flat field: falloff was not measured.",
                "Shoot two flat fields, turn the light round half-way, shoot two more.");
        else if (f->from_chart)
            add("falloff", false,
                "There is no usable flat field: falloff is estimated from the white squares of the chart, which is "
                "second best.",
                "Shoot two flat fields, turn the light round half-way, shoot two more.");
        else if (!f->centre_measured)
            add("light-directions", false,
                "All flat fields have the light from one direction: an off-centre falloff cannot be told from the "
                "lamp's gradient.",
                "Turn the light (or the camera) round half-way and shoot two more.");
    }

    void focal_length() {
        const double recorded = node_.setting.focal_mm, distance_mm = 1000 * node_.setting.distance_m;
        if (!(recorded > 0) || solution_.profile.pitch_assumed) return;
        const double magnification = distance_mm > 2 * recorded ? recorded / (distance_mm - recorded) : 0;
        const double sigma = node_.covariance.rows() > 0 ? std::sqrt(std::max(0.0, node_.covariance(0, 0))) : 0;
        const double low = recorded * (1 - focal_share) - 3 * sigma,
                     high = recorded * (1 + focal_share) * (1 + magnification) + 3 * sigma;
        if (node_.focal_mm >= low && node_.focal_mm <= high) return;
        add("focal-length", true,
            fmt::format("The focal length comes out as {:.2f} mm (one sigma {:.2f} mm), but the frames record {:.4g} "
                        "mm (limits {:.2f} and {:.2f} mm).",
                        node_.focal_mm, sigma, recorded, low, high),
            "Check the pixel pitch of the body, and whether the frames were taken with this lens; tilted frames make "
            "the focal length certain.");
    }

    const std::vector<RunFrame>& frames_;
    const ChartSpec& chart_;
    RunSolution& solution_;
    const ProfileNode& node_;
    const PictureGeometry& geometry_;
    std::vector<int> charts_;
    std::string where_, at_;  ///< the lens setting for sentences and for names, when there are several
};

/// Findings that do not depend on the lens setting.
void judge_frames(const std::vector<RunFrame>& frames, const SolveSettings& settings, RunSolution& solution) {
    int charts = 0, rendered = 0, nameless = 0;
    double recorded_pitch = 0;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        if (frames[i].role != RunRole::chart || !solution.outcomes[i].used) continue;
        const Metadata& m = frames[i].metadata;
        ++charts;
        rendered += m.kind == FrameKind::rendered;
        nameless += m.lens.empty() && m.lens_serial.empty() && m.focal_mm <= 0;
        if (m.pitch_um > 0) recorded_pitch = m.pitch_um;
    }
    const auto add = [&](const char* name, bool serious, std::string text, std::string remedy) {
        solution.findings.push_back({name, std::move(text), std::move(remedy), serious, serious, -1, {}});
    };
    if (rendered > 0 && rendered < charts)
        add("mixed-kinds", false,
            fmt::format("{} of the {} chart frames are rendered pictures, the others raw: what rendered them may have "
                        "moved corners.",
                        rendered, charts),
            "Measure raw frames alone, or rendered ones alone.");
    if (nameless > 0)
        add("no-lens", false,
            fmt::format("{} of the {} chart frames record neither a lens nor a focal length: nothing says that they "
                        "were taken with one lens at one setting.",
                        nameless, charts),
            "Check by the residuals that all belong together; register the lens and assign the profile by hand.");
    constexpr double pitch_limit = 0.005, square_limit = 0.003;
    if (settings.pitch_um > 0 && recorded_pitch > 0 && std::abs(settings.pitch_um / recorded_pitch - 1) > pitch_limit)
        add("pitch", true,
            fmt::format("The pixel pitch is given as {:g} um, but the frames record {:.4g} um (limit {:g} %).",
                        settings.pitch_um, recorded_pitch, 100 * pitch_limit),
            "Leave the pitch to the frames, or find out which of the two is wrong.");
    if (const std::optional<Vec2>& square = settings.square_by_ruler_mm) {
        const Vec2 given(settings.chart.square_mm, settings.chart.square_y_mm);
        const double off = ((given - *square).array() / square->array()).abs().maxCoeff();
        if (off > square_limit)
            add("square-size", true,
                fmt::format("The squares are given as {:g} x {:g} mm, but by the check rulers they are {:.3f} x {:.3f} "
                            "mm (limit {:g} %).",
                            given.x(), given.y(), square->x(), square->y(), 100 * square_limit),
                "Give the size of the squares that the rulers say, or measure the rulers again.");
    }
}

/// Findings that a person must accept before publication are stored with the profile.
void keep_serious(RunSolution& solution) {
    solution.profile.findings.clear();
    for (const Finding& f : solution.findings)
        if (f.serious) solution.profile.findings.push_back({f.name, f.text, f.of_mapping, "", "", ""});
}

}  // namespace

void judge(const std::vector<RunFrame>& frames, const SolveSettings& settings, RunSolution& solution) {
    for (std::size_t n = 0; n < solution.nodes.size(); ++n) {
        // A node that has the mapping of another node has no mapping to judge.
        if (solution.profile.nodes[n].mapping_from_aperture > 0) continue;
        NodeJudge(frames, settings.chart, solution, static_cast<int>(n)).run(solution.nodes[n]);
    }
    judge_frames(frames, settings, solution);
    constexpr double limit_px = 0.2;
    if (const auto next = next_focal_length(solution.profile); next && next->sigma_px > limit_px)
        solution.findings.push_back(
            {"next-setting",
             next->sentence() + fmt::format(" The limit is {} px.", limit_px),
             fmt::format("Where frames are taken there, add a chart set at {:.3g} mm to the run.", next->focal_mm),
             false,
             false,
             -1,
             {}});
    for (std::size_t i = 0; i < frames.size(); ++i)
        if (!solution.outcomes[i].used && !frames[i].dropped && !solution.outcomes[i].reason.empty())
            solution.findings.push_back(
                {"left-out", "Left out: " + solution.outcomes[i].reason, "", false, false, static_cast<int>(i), {}});
    std::stable_sort(solution.findings.begin(), solution.findings.end(),
                     [](const Finding& a, const Finding& b) { return a.serious > b.serious; });
    keep_serious(solution);
}

}  // namespace optrel
