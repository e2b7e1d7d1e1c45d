// SPDX-License-Identifier: GPL-3.0-or-later
// The printed report, checked by its geometry: what stands where, before it is drawn.
#include "exchange/report_pages.h"
#include "exchange/page_plot.h"

#include <algorithm>
#include <catch2/catch.hpp>

#include "support/rig_run.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A run of many frames with long names: more than one page can take.
std::vector<Page> pages_of_a_long_run() {
    auto [frames, settings] = measured_rig_run("A technician with a long name in the second room on the left");
    RunSolution solution = solve_run(frames, settings, Progress());
    while (solution.profile.provenance.frames.size() < 60) {
        solution.profile.provenance.frames.push_back(
            {"a-frame-with-quite-a-long-name-" + std::to_string(solution.profile.provenance.frames.size()) + ".dng",
             std::string(64, 'a')});
        RunFrame more = frames[0];
        frames.push_back(more);
        solution.outcomes.push_back(solution.outcomes[0]);
    }
    for (int i = 0; i < 25; ++i)
        solution.findings.push_back(
            {"a-name",
             "A finding that says at some length what is the matter with a figure of 0.123 px (limit 0.1 px).",
             "And what is to be done about it.",
             i < 3,
             i,
             {}});
    return report_pages(frames, solution,
                        std::vector<cv::Mat3b>(frames.size(), cv::Mat3b(60, 90, cv::Vec3b(90, 120, 90))));
}

const std::vector<Page>& pages() {
    static const std::vector<Page> made = pages_of_a_long_run();
    return made;
}

}  // namespace

TEST_CASE("nothing on a report's pages leaves the margins", "[exchange]") {
    constexpr double slack = 0.6;
    REQUIRE(pages().size() > 1);
    for (const Page& page : pages()) {
        for (const PageText& t : page.texts) {
            if (t.upwards) continue;
            const double width = text_width_mm(t.text, t.points, t.bold, t.fixed_pitch),
                         left = t.to_the_left ? t.x - width : t.x;
            INFO(t.text);
            CHECK(left > PageFormat::left - slack);
            CHECK(left + width < PageFormat::right + slack);
            CHECK(t.y < PageFormat::bottom + 8);  // the page's number stands beneath
            CHECK(t.y > PageFormat::top - 1);
            CHECK(t.points >= 6);
        }
        for (const PageLine& l : page.lines)
            for (const auto& [x, y] : l.points) {
                CHECK(x > PageFormat::left - slack);
                CHECK(x < PageFormat::right + slack);
                CHECK(y > PageFormat::top - slack);
                CHECK(y < PageFormat::bottom + slack);
            }
        for (const PagePicture& p : page.pictures) {
            CHECK(p.x > PageFormat::left - slack);
            CHECK(p.x + p.width < PageFormat::right + slack);
            CHECK(p.y + p.height < PageFormat::bottom + slack);
        }
    }
}

TEST_CASE("no two blocks of a report lie over one another", "[exchange]") {
    int blocks = 0;
    for (const Page& page : pages())
        for (std::size_t i = 0; i < page.blocks.size(); ++i) {
            ++blocks;
            for (std::size_t k = 0; k < i; ++k) {
                const PageBlock &a = page.blocks[i], &b = page.blocks[k];
                INFO(a.name << " and " << b.name);
                const double across = std::min(a.x + a.width, b.x + b.width) - std::max(a.x, b.x),
                             down = std::min(a.y + a.height, b.y + b.height) - std::max(a.y, b.y);
                CHECK((across < 0.3 || down < 0.3));
            }
        }
    CHECK(blocks > 5);
}

TEST_CASE("the hashes of all frames stand on the last pages of a report, in type that can be read", "[exchange]") {
    int whole = 0;
    for (const Page& page : pages())
        for (const PageText& t : page.texts)
            if (t.text.find(std::string(64, 'a')) != std::string::npos) {
                ++whole;
                CHECK(t.points >= 6.5);
            }
    CHECK(whole >= 40);
    const std::string pdf = pdf_of(pages(), "Report");
    CHECK(pdf.rfind("%PDF", 0) == 0);
    CHECK(pdf.size() > 10000);
}

TEST_CASE("the figures beside a plot's axis are multiples of its step, and nought is nought", "[exchange]") {
    for (const auto& [low, high] :
         {std::pair(-1.02, 1.1), std::pair(-2.58, 0.0), std::pair(-0.003, 0.002), std::pair(-0.7, 12.0)}) {
        Page page;
        PagePlot plot;
        plot.least_height = 0.001;
        plot.curves.push_back({"", {}, {}, {{0, 0, 0}, {0.5, low, 0}, {1, high, 0}}});
        add_plot(page, plot, 20, 20, 80, 60);
        std::vector<double> values;
        std::vector<std::string> seen;
        for (const PageText& t : page.texts)
            if (t.to_the_left) {
                CHECK(std::find(seen.begin(), seen.end(), t.text) == seen.end());
                seen.push_back(t.text);
                values.push_back(std::stod(t.text));
            }
        REQUIRE(values.size() > 2);
        const double step = values[1] - values[0];
        for (std::size_t i = 1; i < values.size(); ++i) CHECK(values[i] - values[i - 1] == Approx(step));
        CHECK(std::any_of(values.begin(), values.end(), [](double v) { return v == 0; }));
        CHECK(std::none_of(seen.begin(), seen.end(),
                           [](const std::string& s) { return s.rfind("-0", 0) == 0 && std::stod(s) == 0; }));
    }
}
