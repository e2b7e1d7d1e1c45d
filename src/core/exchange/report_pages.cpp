// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/report_pages.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/figure_text.h"
#include "base/ticks.h"
#include "exchange/page_plot.h"
#include "exchange/run_report.h"
#include "optics/curves.h"

namespace optrel {
namespace {

constexpr PageColour ink{0.1, 0.12, 0.13}, faint{0.36, 0.4, 0.42}, mark{0.05, 0.4, 0.42}, warning{0.62, 0.3, 0},
    grid{0.82, 0.84, 0.85};
constexpr PageColour red{0.72, 0.15, 0.13}, green{0.1, 0.45, 0.2}, blue{0.13, 0.27, 0.66};
constexpr double full_width = PageFormat::right - PageFormat::left;

double line_height(double points) { return 1.35 * points * 25.4 / 72; }

/// Fills pages from top to bottom and starts a new page when something does not fit.
class Layout {
public:
    explicit Layout(std::string title) : title_(std::move(title)) { next_page(); }

    Page& page() { return pages_.back(); }
    double y() const { return y_; }
    void move(double by) { y_ += by; }
    void room(double height) {
        if (y_ + height > PageFormat::bottom) next_page();
    }
    std::vector<Page> finish() {
        for (std::size_t i = 0; i < pages_.size(); ++i)
            pages_[i].texts.push_back({PageFormat::right, PageFormat::top + 1, 7.5,
                                       fmt::format("page {} of {}", i + 1, pages_.size()), faint, false, false, true});
        return std::move(pages_);
    }

    void paragraph(const std::string& text, double points, const PageColour& colour = ink, bool bold = false,
                   double indent = 0) {
        for (const std::string& line : wrapped(text, full_width - indent, points, bold)) {
            room(line_height(points));
            y_ += line_height(points);
            page().texts.push_back(
                {PageFormat::left + indent, y_ - 0.3 * line_height(points), points, line, colour, bold});
        }
    }
    void heading(const std::string& text, double follows = 12) {
        room(8 + follows);
        y_ += 3;
        paragraph(text, 10, mark, true);
        y_ += 1;
    }
    /// A name and its figure, on one or more lines.
    void row(const std::string& name, const std::string& value) {
        constexpr double column = 92, points = 8.5;
        const auto lines = wrapped(value, full_width - column, points);
        room(lines.size() * line_height(points));
        page().texts.push_back({PageFormat::left, y_ + 0.7 * line_height(points), points, name, faint});
        for (const std::string& line : lines) {
            y_ += line_height(points);
            page().texts.push_back({PageFormat::left + column, y_ - 0.3 * line_height(points), points, line, ink});
        }
        y_ += 0.3;
    }

private:
    void next_page() {
        pages_.emplace_back();
        page().texts.push_back({PageFormat::left, PageFormat::top + 1, 7.5, title_, faint});
        y_ = PageFormat::top + 5;
    }

    std::string title_;
    std::vector<Page> pages_;
    double y_ = 0;
};

std::string falloff_text(const Profile& profile, int node) {
    const Falloff& f = *profile.nodes[node].falloff;
    const PlacedNode placed = measured_node(profile, node);
    const double half = profile.geometry.half_diagonal_mm();
    std::string out;
    for (const double h : {0.25, 0.5, 0.75, 1.0})
        out += (out.empty() ? "" : ", ") + number_text(figures::falloff, falloff_ev(f, Channel::green, h, half));
    return fmt::format("{} EV ± {} in the corner{}", out,
                       number_text(figures::falloff_size, falloff_sigma_ev(profile, placed, Channel::green, half)),
                       f.from_chart ? ", from the chart's white squares" : "");
}

void add_figures(Layout& out, const RunSolution& s, int node) {
    const ProfileNode& n = s.profile.nodes[node];
    const NodeQuality& k = n.quality;
    const PictureGeometry& g = s.profile.geometry;
    out.heading("Figures at " + to_string(n.setting));
    out.row("Model", to_string(n.model.kind()));
    out.row("Focal length, calibrated", fmt::format("{} ({})", figure_text(figures::length, n.focal_mm),
                                                    figure_text(figures::place, n.focal_mm / g.pitch_mm())));
    out.row("Optical centre from the middle", pair_text(figures::length, n.centre_mm.x(), n.centre_mm.y()));
    out.row("Distortion, extreme (ISO 17850)", figure_text(figures::distortion, k.distortion_extreme_percent));
    out.row("RMS of both axes on used, on held-out frames",
            pair_text(figures::reprojection_error, k.rms_px, k.held_out_rms_px));
    out.row("Largest field uncertainty, one sigma of an axis",
            figure_text(figures::reprojection_error, k.max_sigma_px));
    out.row("Coverage, largest field height",
            figure_text(figures::share, 100 * k.coverage) + ", " + number_text(figures::ratio, k.largest_height));
    out.row("Straightness before, after correction",
            fmt::format("{} at most, {} (95 %)", figure_text(figures::shift, k.straightness_before_px),
                        figure_text(figures::shift, k.straightness_after_px)));
    if (n.red && n.blue)
        out.row("Left of red, blue after correction (95 %, ISO 19084)",
                pair_text(figures::reprojection_error, n.red->residual_p95_px, n.blue->residual_p95_px));
    if (n.falloff) out.row("Falloff at heights 0.25, 0.5, 0.75, 1 (ISO 17957)", falloff_text(s.profile, node));
}

PlotCurve plot_curve(const LensCurve& curve, bool several) {
    const bool is_red = curve.channel == Channel::red, is_blue = curve.channel == Channel::blue;
    PlotCurve out{"green", several ? green : ink, {}, {}};
    if (curve.run) out.name = to_string(*curve.run);
    if (curve.run == LineRun::tangential) out.dash = {1.6, 0.8};
    if (is_red) out = {"red", red, {}, {}};
    if (is_blue) out = {"blue", blue, {}, {}};
    if (is_red && several) out.dash = {1.6, 0.7, 0.4, 0.7};
    if (is_blue) out.dash = {1.6, 0.8};
    for (const CurveSample& s : curve.samples) out.samples.push_back({s.height, s.value, s.sigma});
    return out;
}

void add_curves(Layout& out, const Profile& profile, int node) {
    const LensCurves curves = lens_curves(profile, measured_node(profile, node));
    const bool four = !curves.resolution.empty();
    const double height = four ? 50 : 56, gap = 6, width = (full_width - (four ? 3 : 2) * gap) / (four ? 4 : 3);
    out.heading("Curves at " + to_string(profile.nodes[node].setting), height + 8);
    int column = 0;
    const auto plot = [&](const char* title, const char* axis, double least, const std::vector<LensCurve>& list) {
        if (list.empty()) return;
        PagePlot p{title, "field height", axis, 0, 1, least, {}};
        for (const LensCurve& c : list) p.curves.push_back(plot_curve(c, list.size() == 3));
        add_plot(out.page(), p, PageFormat::left + column++ * (width + gap), out.y(), width, height);
    };
    plot("Distortion", "%", 0.5, curves.distortion);
    plot("Red and blue", "px", 0.2, curves.fringe);
    plot("Falloff", "EV", 0.5, curves.falloff);
    plot("MTF50, green", "c/px", 0.1, curves.resolution);
    out.move(height + 1);
    out.paragraph("The bands are one sigma.", 7, faint);
}

/// A length such as 0.01, 0.02 or 0.05 at most so large.

/// Draws where corners were seen, and the common residuals in cells of the picture as arrows.
void add_residuals(Layout& out, const std::vector<RunFrame>& frames, const RunSolution& s, int node) {
    const PictureGeometry& g = s.profile.geometry;
    const double width = 120, height = width * g.height / g.width;
    out.heading("Coverage and residuals at " + to_string(s.profile.nodes[node].setting), height + 10);
    const double scale = width / g.width, left = PageFormat::left, top = out.y();
    Page& page = out.page();
    page.blocks.push_back({"coverage and residuals", left, top, full_width, height + 6});
    page.lines.push_back(
        {{{left, top}, {left + width, top}, {left + width, top + height}, {left, top + height}, {left, top}},
         0.2,
         faint});
    constexpr int across = 12, down = 8;
    std::vector<Vec2> sum(across * down, Vec2::Zero());
    std::vector<int> count(across * down, 0);
    std::vector<double> sizes;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        if (!s.outcomes[i].used || s.outcomes[i].node != node || frames[i].role != RunRole::chart) continue;
        for (const ViewPoint& p : s.outcomes[i].view.points) {
            const double x = left + p.uv.x() * scale, y = top + p.uv.y() * scale;
            page.lines.push_back({{{x - 0.22, y}, {x + 0.22, y}}, 0.44, p.rejected ? warning : grid});
            if (p.rejected) continue;
            sizes.push_back(p.residual.norm());
            const int k = g.cell(p.uv, across, down);
            sum[k] += p.residual;
            ++count[k];
        }
    }
    double largest = 0;
    for (int k = 0; k < across * down; ++k)
        if (count[k] >= 4) largest = std::max(largest, (sum[k] / count[k]).norm());
    const double bar_px = largest > 0 ? round_below(largest) : 0.001, magnified = 8 / std::max(bar_px, largest);
    for (int k = 0; k < across * down; ++k) {
        if (count[k] < 4) continue;
        const double x = left + (k % across + 0.5) * width / across, y = top + (k / across + 0.5) * height / down;
        const Vec2 tip = sum[k] / count[k] * magnified;
        page.lines.push_back({{{x, y}, {x + tip.x(), y + tip.y()}}, 0.3, mark});
        page.lines.push_back({{{x - 0.4, y}, {x + 0.4, y}}, 0.8, mark});
    }
    const double column = left + width + 5;
    double y = top + 3;
    const auto say = [&](const std::string& text) {
        for (const std::string& line : wrapped(text, PageFormat::right - column, 8)) {
            page.texts.push_back({column, y, 8, line, ink});
            y += line_height(8);
        }
        y += 1.5;
    };
    say("Grey: corners that were used. Arrows: the mean residual of all frames in each cell of the picture.");
    page.lines.push_back({{{column, y}, {column + bar_px * magnified, y}}, 0.3, mark});
    page.texts.push_back({column + bar_px * magnified + 1.5, y + 1, 8, fmt::format("{:g} px", bar_px), ink});
    y += 6;
    if (!sizes.empty()) {
        std::sort(sizes.begin(), sizes.end());
        say(fmt::format(
            "{} corners; half of the residuals are below {}, 95 % below {}.", sizes.size(),
            figure_text(figures::reprojection_error, sizes[sizes.size() / 2]),
            figure_text(figures::reprojection_error, sizes[static_cast<std::size_t>(0.95 * (sizes.size() - 1))])));
    }
    out.move(height + 4);
}

void add_board_frames(Layout& out, const std::vector<RunFrame>& frames, const RunSolution& s,
                      const std::vector<cv::Mat3b>& looks) {
    constexpr int columns = 5;
    constexpr double gap = 3, width = (full_width - (columns - 1) * gap) / columns, caption = 8;
    out.heading("Board frames", 40);
    int column = 0;
    double row_height = 0;
    const auto end_row = [&] {
        out.move(row_height + caption);
        column = 0;
        row_height = 0;
    };
    for (std::size_t i = 0; i < frames.size(); ++i) {
        if (frames[i].role != RunRole::chart) continue;
        const bool look = i < looks.size() && !looks[i].empty();
        const double ratio = look ? double(looks[i].rows) / looks[i].cols : 0.667;
        // A portrait frame gets the height of a landscape one.
        const double height = width * 0.667, own_width = std::min(width, height / ratio),
                     own_height = own_width * ratio;
        if (column == 0) out.room(height + caption);
        const double x = PageFormat::left + column * (width + gap);
        if (look)
            out.page().pictures.push_back({x + (width - own_width) / 2, out.y(), own_width, own_height, looks[i]});
        out.page().blocks.push_back({"frame " + frames[i].name(), x, out.y(), width, height + caption});
        const FrameOutcome& o = s.outcomes[i];
        std::string name = frames[i].name();
        while (name.size() > 4 && text_width_mm(name, 6.5) > width) name = name.substr(0, name.size() - 4) + "…";
        out.page().texts.push_back({x, out.y() + height + 2.8, 6.5, name, ink});
        out.page().texts.push_back(
            {x, out.y() + height + 5.6, 6.5,
             o.used ? "RMS " + figure_text(figures::reprojection_error, o.view.rms_px) : "left out",
             o.used ? faint : warning});
        row_height = std::max(row_height, height);
        if (++column == columns) end_row();
    }
    if (column) end_row();
}

void add_provenance(Layout& out, const Provenance& p) {
    out.heading("Provenance");
    out.row("Measured by, when", (p.author.empty() ? "not said" : p.author) + ", " + p.time);
    out.row("With, chart as measured", p.program + ", " + p.chart);
    if (!p.note.empty()) out.row("Note", p.note);
    out.heading("Frames and the SHA-256 of their contents");
    constexpr double points = 7;
    for (const auto& [name, hash] : p.frames) {
        const double hash_width = text_width_mm(hash, points, false, true);
        std::string shown = name;
        while (shown.size() > 8 && text_width_mm(shown, points) > full_width - hash_width - 3)
            shown = shown.substr(0, shown.size() - 4) + "…";
        out.room(line_height(points));
        out.move(line_height(points));
        const double y = out.y() - 0.3 * line_height(points);
        out.page().texts.push_back({PageFormat::left, y, points, shown, ink});
        out.page().texts.push_back({PageFormat::right - hash_width, y, points, hash, faint, false, true});
    }
}

}  // namespace

std::vector<Page> report_pages(const std::vector<RunFrame>& frames, const RunSolution& s,
                               const std::vector<cv::Mat3b>& looks) {
    const Profile& p = s.profile;
    const std::string copy = p.lens_serial.empty() ? "" : " " + p.lens_serial;
    Layout out(fmt::format("Calibration of {}{}, {}", p.name, copy, p.provenance.time));
    out.paragraph(p.name + copy, 15, ink, true);
    out.move(1);
    out.row("Measured on", fmt::format("{}, {} × {} px of {}", p.camera, p.geometry.width, p.geometry.height,
                                       figure_text(figures::pitch, p.geometry.pitch_um)));
    const int nodes = static_cast<int>(p.nodes.size());
    for (int node = 0; node < nodes; ++node) add_figures(out, s, node);
    out.heading("Findings");
    if (s.findings.empty())
        out.paragraph("Nothing to object to: coverage, tilt, sharpness and flat fields are as they should be.", 8.5);
    for (const Finding& f : s.findings) {
        out.paragraph((f.serious ? "! " : "· ") + f.text + (f.remedy.empty() ? "" : " " + f.remedy), 8.5,
                      f.serious ? warning : ink);
        out.move(0.8);
    }
    for (int node = 0; node < nodes; ++node) add_curves(out, p, node);
    for (int node = 0; node < nodes; ++node)
        if (p.nodes[node].mapping_from_aperture == 0) add_residuals(out, frames, s, node);
    add_board_frames(out, frames, s, looks);
    add_provenance(out, p.provenance);
    return out.finish();
}

}  // namespace optrel
