// SPDX-License-Identifier: GPL-3.0-or-later
// Colours of a body from frames of a patch chart, against known spectra.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "frames/colour_profile.h"
#include "frames/dng_writer.h"
#include "frames/icc_colours.h"
#include "patches/colour_measurement.h"
#include "patches/simulated_chart.h"
#include "render/colour_rendering.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

fs::path write_chart_frame(const TemporaryFolder& folder, const std::string& name, const RawPicture& raw,
                           const char* serial = "B2-0117") {
    Metadata m;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.body_serial = serial;
    m.iso = 100;
    write_dng(folder / name, raw, m, Existing::replace_ours);
    return folder / name;
}

ColourMeasurement measured(const PatchChart& chart, const std::vector<fs::path>& frames) {
    Progress progress;
    ColourRun run;
    run.chart = chart;
    run.frames = frames;
    return measure_colours(run, progress);
}

bool has_finding(const ColourMeasurement& m, const std::string& name) {
    return std::any_of(m.findings.begin(), m.findings.end(), [&](const ColourFinding& f) { return f.name == name; });
}

/// Mean dE2000 over the patches of a conversion of balanced camera values.
double mean_error(const ChartPhotograph& shot, const std::function<cv::Vec3d(const cv::Vec3d&)>& to_xyz) {
    const std::array<double, 3> white = shot.body.response(Spectrum(spectrum_size, 1.0), shot.light);
    double sum = 0;
    for (const Spectrum& s : shot.chart.patches) {
        const std::array<double, 3> v = shot.body.response(s, shot.light);
        const cv::Vec3d xyz = to_xyz({v[0] / white[0], v[1] / white[1], v[2] / white[2]});
        sum += de2000(lab_of(xyz_of(s, *standard_light("D50")), white_d50), lab_of(xyz, white_d50));
    }
    return sum / static_cast<double>(shot.chart.patches.size());
}

}  // namespace

TEST_CASE("standard lights have their whites, and CIEDE2000 its published values", "[patches]") {
    const std::pair<const char*, cv::Vec3d> whites[] = {{"A", {1.0985, 1, 0.3558}},
                                                        {"D50", {0.9642, 1, 0.8251}},
                                                        {"D55", {0.9568, 1, 0.9214}},
                                                        {"D65", {0.9505, 1, 1.0890}},
                                                        {"D75", {0.9497, 1, 1.2264}}};
    for (const auto& [name, xyz] : whites)
        for (int c = 0; c < 3; ++c) {
            INFO(name << " " << c);
            CHECK(white_of(*standard_light(name))[c] == Approx(xyz[c]).margin(0.0015));
        }
    CHECK_FALSE(standard_light("D66"));
    const std::tuple<cv::Vec3d, cv::Vec3d, double> published[] = {
        {{50, 2.6772, -79.7751}, {50, 0, -82.7485}, 2.0425},
        {{50, 3.1571, -77.2803}, {50, 0, -82.7485}, 2.8615},
        {{50, -1.3802, -84.2814}, {50, 0, -82.7485}, 1.0000},
        {{50, 2.5, 0}, {73, 25, -18}, 27.1492},
        {{50, 2.5, 0}, {61, -5, 29}, 22.8977},
        {{60.2574, -34.0099, 36.2677}, {60.4626, -34.1751, 39.4387}, 1.2644},
        {{22.7233, 20.0904, -46.6940}, {23.0331, 14.9730, -42.5619}, 2.0373},
        {{90.8027, -2.0831, 1.4410}, {91.1528, -1.6435, 0.0447}, 1.4441},
        {{2.0776, 0.0795, -1.1350}, {0.9033, -0.0636, -0.5514}, 0.9082}};
    for (const auto& [a, b, wanted] : published) {
        CHECK(de2000(a, b) == Approx(wanted).margin(1e-4));
        CHECK(de2000(b, a) == Approx(wanted).margin(1e-4));
    }
    const cv::Vec3d lab(61, -20, 35);
    CHECK(cv::norm(lab_of(xyz_of_lab(lab, white_d50), white_d50) - lab) < 1e-9);
}

TEST_CASE("a chart file is read in all its forms, and refused with the line", "[patches]") {
    const PatchChart chart = ChartSpectra(5).reference();
    const std::string text = patch_chart_to_text(chart);
    const PatchChart back = patch_chart_from(text, "chart.txt");
    REQUIRE(back.patches.size() == 48);
    CHECK(back.columns == 8);
    CHECK(back.patch_mm == 24);
    for (std::size_t i = 0; i < 48; ++i) CHECK(cv::norm(back.patches[i].xyz_d50 - chart.patches[i].xyz_d50) < 1e-4);

    std::string head = "CHART_COLUMNS 3\nCHART_ROWS 2\nPATCH_PITCH_MM 20\nPATCH_SIZE_MM 18\n";
    std::string xyz = head +
                      "ILLUMINANT D65\nBEGIN_DATA_FORMAT\nSAMPLE_ID SAMPLE_LOC XYZ_X XYZ_Y XYZ_Z\n"
                      "END_DATA_FORMAT\nBEGIN_DATA\n";
    for (int i = 0; i < 6; ++i)
        xyz += fmt::format("{} {}{} {} {} {}\n", i + 1, static_cast<char>('A' + i % 3), i / 3 + 1, 0.9505 * (10 + i),
                           10.0 + i, 1.0890 * (10 + i));
    xyz += "END_DATA\n";
    // A grey stays a grey when it is adapted.
    for (const ReferencePatch& p : patch_chart_from(xyz, "c").patches) {
        const cv::Vec3d lab = lab_of(p.xyz_d50, white_d50);
        CHECK(std::hypot(lab[1], lab[2]) < 0.3);
    }
    std::string spectra = head + "ILLUMINANT D50\nBEGIN_DATA_FORMAT\nSAMPLE_ID SAMPLE_LOC";
    for (int nm = 400; nm <= 700; nm += 20) spectra += fmt::format(" SPECTRAL_NM{}", nm);
    spectra += "\nEND_DATA_FORMAT\nBEGIN_DATA\n";
    for (int i = 0; i < 6; ++i) {
        spectra += fmt::format("{} {}{}", i + 1, static_cast<char>('A' + i % 3), i / 3 + 1);
        for (int nm = 400; nm <= 700; nm += 20) spectra += " 18.0";
        spectra += "\n";
    }
    spectra += "END_DATA\n";
    CHECK(patch_chart_from(spectra, "c").patches[0].xyz_d50[1] == Approx(0.18).margin(1e-6));

    const auto refused = [&](std::string changed, const std::string& reason) {
        try {
            patch_chart_from(changed, "The chart file");
            FAIL("nothing was refused: " << reason);
        } catch (const Error& e) {
            INFO(e.what());
            CHECK(is_one_sentence(e.what()));
            CHECK(std::string(e.what()).find(reason) != std::string::npos);
        }
    };
    const auto with = [&](const std::string& from, const std::string& to) {
        std::string out = xyz;
        out.replace(out.find(from), from.size(), to);
        return out;
    };
    refused(with("CHART_COLUMNS 3\n", ""), "CHART_COLUMNS");
    refused(with("CHART_COLUMNS 3", "CHART_COLUMNS many"), "line 1");
    refused(with("PATCH_SIZE_MM 18", "PATCH_SIZE_MM 28"), "pitch");
    refused(with("ILLUMINANT D65", "ILLUMINANT D66"), "D66");
    refused(with("10.89", "10,89"), "line 10: '10,89'");
    refused(with("1 A1 9.505 10 ", "1 A1 9.505 "), "line 10: 4 values");
    refused(with("2 B1", "2 Z9"), "'Z9'");
    refused(with("2 B1", "2 A1"), "two patches");
    refused(with("1 A1 9.505", "1 A1 950.5"), "no surface");
    refused(with(" XYZ_Z", " XYZ_W"), "LAB_L");
    refused(with("END_DATA\n", ""), "END_DATA");
    refused("", "BEGIN_DATA_FORMAT");
    refused(std::string(3000, 'x') + "\0\xff\xfe", "BEGIN_DATA_FORMAT");
}

TEST_CASE("a chart is found turned, tilted and half in shade, and its patches are read the right way round",
          "[patches]") {
    const TemporaryFolder folder;
    const PatchChart chart = ChartSpectra(5).reference();
    for (const double turn : {0.0, 12.0, -25.0, 88.0, 178.0, -94.0}) {
        INFO("turn " << turn);
        ChartPhotograph shot;
        shot.turn_degrees = turn;
        shot.shade = 0.45;
        if (turn == -25.0) shot.share = 0.45;
        if (std::abs(std::abs(turn) - 90) < 20) std::swap(shot.width, shot.height);
        const MeasuringPicture picture = read_for_measuring(write_chart_frame(folder, "t.dng", shot.taken()));
        const auto place = find_chart(picture, chart);
        REQUIRE(place);
        CHECK(place->correlation > 0.9);
        const cv::Matx33d truth = shot.to_frame();
        for (const auto& [x, y] : {std::pair(0.5, 0.5), {7.5, 0.5}, {7.5, 5.5}, {0.5, 5.5}, {4.0, 3.0}}) {
            const cv::Vec3d a = truth * cv::Vec3d(x, y, 1), b = place->to_frame * cv::Vec3d(x, y, 1);
            const double cell = shot.share * shot.width / 8;
            CHECK(std::hypot(a[0] / a[2] - b[0] / b[2], a[1] / a[2] - b[1] / b[2]) < 0.1 * cell);
        }
    }
}

TEST_CASE("the fitted matrix errs no more than the best one, and other frames agree", "[patches]") {
    const TemporaryFolder folder;
    ChartPhotograph shot;
    shot.shade = 0;
    const PatchChart chart = shot.chart.reference();
    const ColourMeasurement m = measured(chart, {write_chart_frame(folder, "a.dng", shot.taken())});
    REQUIRE(m.lights.size() == 1);
    const MeasuredLight& light = m.lights.front();
    const ColourFit& fit = light.fitted.fit;
    const std::array<double, 3> white = shot.body.response(Spectrum(spectrum_size, 1.0), shot.light);
    for (std::size_t c = 0; c < 3; ++c) CHECK(fit.neutral[c] == Approx(0.7 * white[c]).epsilon(0.01));
    CHECK(light.exposure_ev.value == Approx(std::log2(0.7 * white[1])).margin(0.02));
    CHECK(std::abs(light.mired.value) < 2);
    CHECK(std::abs(light.tint.value) < 2);
    // The same fit of the true values, without noise.
    std::vector<MeasuredPatch> exact;
    for (std::size_t i = 0; i < shot.chart.patches.size(); ++i) {
        MeasuredPatch p;
        p.column = static_cast<int>(i) % 8;
        p.row = static_cast<int>(i) / 8;
        const std::array<double, 3> v = shot.body.response(shot.chart.patches[i], shot.light);
        for (std::size_t c = 0; c < 3; ++c) p.raw[c] = 0.7 * v[c];
        exact.push_back(p);
    }
    const double best = mean_error(shot, fit_colours(chart, exact).form);
    CHECK(mean_error(shot, fit.form) < 1.1 * best);
    CHECK(fit.mean < 1.15 * best + 0.05);
    CHECK(fit.held_out_mean > 0.9 * fit.mean);
    CHECK(fit.form.noise_amplification() > 0.8);
    CHECK(cv::norm(fit.form({1, 1, 1}) - white_d50) < 1e-9);
    // Exposure does not move colours.
    const cv::Vec3d once = fit.form({0.3, 0.2, 0.1}), half = fit.form({0.15, 0.1, 0.05});
    CHECK(cv::norm(once * 0.5 - half) < 1e-9);
}

TEST_CASE("warmth and tint come with a sigma that holds, also where the light falls off", "[patches]") {
    const TemporaryFolder folder;
    double square = 0, n = 0;
    for (unsigned seed = 1; seed <= 8; ++seed) {
        ChartPhotograph shot;
        shot.seed = seed;
        shot.noise = 0.03;
        shot.shade = 0.2;
        shot.body = BodySensitivities(seed);
        const ColourMeasurement m =
            measured(shot.chart.reference(), {write_chart_frame(folder, "s.dng", shot.taken())});
        const MeasuredLight& light = m.lights[0];
        // The frames record the neutral of a perfect diffuser.
        for (const ColourFigure& f : {light.mired, light.tint}) {
            CHECK(f.sigma < 3);
            square += (f.value / f.sigma) * (f.value / f.sigma);
            ++n;
        }
    }
    const double pull = std::sqrt(square / n);
    CHECK(pull > 0.4);
    CHECK(pull < 1.6);
}

TEST_CASE("what is wrong with a chart's frame is said", "[patches]") {
    const TemporaryFolder folder;
    const PatchChart chart = ChartSpectra(5).reference();
    ChartPhotograph turned;
    turned.turn_degrees = 180;
    CHECK(has_finding(measured(chart, {write_chart_frame(folder, "u.dng", turned.taken())}), "turned"));
    ChartPhotograph bright;
    bright.level = 1.4;
    bright.shade = 0;
    const ColourMeasurement clipped = measured(chart, {write_chart_frame(folder, "c.dng", bright.taken())});
    CHECK(has_finding(clipped, "clipped"));
    ChartPhotograph glare;
    glare.shade = 0;
    glare.extra = [](int column, int row) { return column == 2 && row == 1 ? 0.25 : 0.0; };
    const ColourMeasurement with_glare = measured(chart, {write_chart_frame(folder, "g.dng", glare.taken())});
    CHECK(has_finding(with_glare, "glare"));
    CHECK_FALSE(with_glare.lights[0].patches[8 + 2].used());
    ChartPhotograph lamp;
    lamp.light = planckian_light(2856);
    CHECK(has_finding(measured(chart, {write_chart_frame(folder, "l.dng", lamp.taken())}), "other_illuminant"));
    const auto refused = [&](const std::vector<fs::path>& frames, const PatchChart& of, const std::string& reason) {
        try {
            measured(of, frames);
            FAIL("nothing was refused: " << reason);
        } catch (const Error& e) {
            INFO(e.what());
            CHECK(std::string(e.what()).find(reason) != std::string::npos);
        }
    };
    const fs::path good = write_chart_frame(folder, "ok.dng", ChartPhotograph().taken());
    refused({good}, ChartSpectra(77).reference(), "another chart");
    RawPicture wall = ChartPhotograph().taken();
    wall.counts.setTo(6000);
    refused({write_chart_frame(folder, "w.dng", wall)}, chart, "No chart");
    write_bytes(folder / "no.dng", "nothing");
    refused({folder / "no.dng"}, chart, "no.dng");
    const fs::path other = write_chart_frame(folder, "o.dng", ChartPhotograph().taken(), "B2-0999");
    CHECK(has_finding(measured(chart, {good, other}), "unusable"));
    refused({}, chart, "no frame");
    // A frame that is named twice makes nothing more certain.
    const ColourMeasurement once = measured(chart, {good}), twice = measured(chart, {good, good});
    CHECK(has_finding(twice, "twice"));
    CHECK(twice.lights[0].patches[0].sigma == once.lights[0].patches[0].sigma);
}

TEST_CASE("colour files render the chart as the fit does", "[patches]") {
    const TemporaryFolder folder;
    ChartPhotograph day, lamp;
    day.shade = lamp.shade = 0;
    lamp.light = planckian_light(2856);
    const PatchChart chart = day.chart.reference();
    const ColourMeasurement m = measured(
        chart, {write_chart_frame(folder, "d.dng", day.taken()), write_chart_frame(folder, "l.dng", lamp.taken())});
    REQUIRE(m.lights.size() == 2);
    CHECK(m.lights[0].fitted.kelvin < m.lights[1].fitted.kelvin);
    const ColourFileText text{"Brimholt B2, measured by Optrel", "", "No copyright, use freely"};
    const ColourProfile both =
        colour_profile_from(dng_profile_of({m.lights[0].fitted, m.lights[1].fitted}, text), "the colour file");
    REQUIRE(both.dng);
    REQUIRE(both.dng->lights.size() == 2);
    const MeasuredLight& light = m.lights[1];
    for (const ColourForm::Kind kind : {ColourForm::Kind::matrix, ColourForm::Kind::root_polynomial}) {
        FittedLight fitted = light.fitted;
        if (kind == ColourForm::Kind::root_polynomial) {
            // Roots that move greens, and keep white.
            Eigen::MatrixXd weights(3, 6);
            const cv::Matx33d linear = fitted.fit.form.matrix();
            for (int r = 0; r < 3; ++r) {
                for (int k = 0; k < 3; ++k) weights(r, k) = linear(r, k) - 0.02;
                for (int k = 3; k < 6; ++k) weights(r, k) = 0.02;
            }
            fitted.fit.form = ColourForm(kind, weights);
        }
        const ColourForm& form = fitted.fit.form;
        const ColourProfile of_light = colour_profile_from(dng_profile_of({fitted}, text), "the colour file"),
                            icc = colour_profile_from(icc_of(fitted, text), "the ICC profile");
        REQUIRE(icc.is_icc());
        CHECK(icc.name == text.name);
        RawPicture raw = day.taken();
        const std::array<double, 3> neutral{fitted.fit.neutral[0] / fitted.fit.neutral[1], 1,
                                            fitted.fit.neutral[2] / fitted.fit.neutral[1]};
        const ColourRendering by_profile(of_light, raw, neutral, false, false);
        const IccColours by_icc(icc.bytes);
        const cv::Matx33d to_romm = xyz_d50_to_romm();
        const cv::Matx33f srgb_to_romm = srgb_to(ColourSpace::romm);
        for (const cv::Vec3d& balanced :
             {cv::Vec3d(0.5, 0.5, 0.5), {0.3, 0.2, 0.1}, {0.1, 0.3, 0.2}, {0.2, 0.25, 0.5}, {0.05, 0.04, 0.05}}) {
            const cv::Vec3d lab = lab_of(form(balanced), white_d50);
            float in_icc[3] = {static_cast<float>(balanced[0]), static_cast<float>(balanced[1]),
                               static_cast<float>(balanced[2])};
            by_icc.apply(in_icc, 1);
            CHECK(de2000(lab, lab_of(to_romm.inv() * cv::Vec3d(in_icc[0], in_icc[1], in_icc[2]), white_d50)) < 0.4);
            Planes one(cv::Size(1, 1));
            for (std::size_t c = 0; c < 3; ++c)
                one.channel[c](0, 0) = static_cast<float>(balanced[static_cast<int>(c)]);
            by_profile.begin(one, 1);
            const cv::Vec3f romm =
                srgb_to_romm * cv::Vec3f(one.channel[0](0, 0), one.channel[1](0, 0), one.channel[2](0, 0));
            CHECK(de2000(lab, lab_of(to_romm.inv() * cv::Vec3d(romm[0], romm[1], romm[2]), white_d50)) < 0.4);
        }
    }
}

TEST_CASE("colours are measured by the command line", "[patches][cli]") {
    const TemporaryFolder folder;
    const ChartPhotograph shot;
    const fs::path frame = write_chart_frame(folder, "a.dng", shot.taken());
    write_bytes(folder / "chart.txt", patch_chart_to_text(shot.chart.reference()));
    const std::string common =
        fmt::format("colour measure --chart '{}' --frames '{}'", (folder / "chart.txt").string(), frame.string());
    const CommandResult r = cli(fmt::format("{} --out '{}' --json", common, (folder / "b.dcp").string()));
    INFO(r.err);
    REQUIRE(r.status == 0);
    const json m = json::parse(r.out);
    CHECK(m["patches"].size() == 48);
    CHECK(m["patches"][0]["used"] == true);
    CHECK(m["patches"][0]["raw"].size() == 3);
    CHECK((m["form"] == "matrix" || m["form"] == "root-polynomial"));
    CHECK(m["mean_de2000"].get<double>() < m["max_de2000"].get<double>());
    CHECK(m["exposure_ev"]["sigma"].get<double>() > 0);
    CHECK(std::abs(m["neutral"]["mired"].get<double>()) < 3);
    CHECK(read_colour_profile(folder / "b.dcp").dng);
    CHECK(cli(fmt::format("{} --out '{}'", common, (folder / "b.icc").string())).status == 0);
    CHECK(read_colour_profile(folder / "b.icc").is_icc());
    // Its own file is replaced on request, another one never.
    CHECK(cli(fmt::format("{} --out '{}'", common, (folder / "b.icc").string())).status == 1);
    CHECK(cli(fmt::format("{} --overwrite --out '{}'", common, (folder / "b.icc").string())).status == 0);
    write_bytes(folder / "mine.dcp", "something else");
    CHECK(cli(fmt::format("{} --overwrite --out '{}'", common, (folder / "mine.dcp").string())).status == 1);
    CHECK(read_file(folder / "mine.dcp") == "something else");
    CHECK(cli(fmt::format("{} --out '{}'", common, (folder / "b.jpg").string())).status != 0);
    CHECK(cli(common + " --corners 1,2 3,4").status == 2);
    CHECK(cli(common + " --corners 1,2 3,4 5,x 7,8").status == 2);
    // By corners, as found.
    std::string corners;
    const cv::Matx33d h = shot.to_frame();
    for (const auto& [x, y] : {std::pair(0, 0), {8, 0}, {8, 6}, {0, 6}}) {
        const cv::Vec3d v = h * cv::Vec3d(x, y, 1);
        corners += fmt::format(" {:.1f},{:.1f}", v[0] / v[2], v[1] / v[2]);
    }
    const json by_corners = json::parse(cli(common + " --json --corners" + corners).out);
    CHECK(by_corners["mean_de2000"].get<double>() == Approx(m["mean_de2000"].get<double>()).margin(0.15));
}

TEST_CASE("a hue table corrects what depends on hue, keeps white, and is chosen only where it helps", "[patches]") {
    HueCorrection hues;
    hues.nodes[2] = {8, std::log(1.15), 0.02};
    const ColourForm plain(ColourForm::Kind::matrix, [] {
        Eigen::MatrixXd identity(3, 3);
        const cv::Matx33d m = xyz_d50_to_romm().inv();
        for (int r = 0; r < 3; ++r)
            for (int c = 0; c < 3; ++c) identity(r, c) = m(r, c);
        return identity;
    }());
    const ColourForm bent = plain.with(hues);
    CHECK(plain.is_matrix());
    CHECK_FALSE(bent.is_matrix());
    CHECK(bent.name() == "matrix+hue-table");
    CHECK(cv::norm(bent({1, 1, 1}) - plain({1, 1, 1})) < 1e-4);
    CHECK(cv::norm(bent({0.2, 0.2, 0.2}) - plain({0.2, 0.2, 0.2})) < 1e-4);
    // Brightness does not enter; reds, on the other side, stay as they are.
    CHECK(cv::norm(2 * bent({0.1, 0.3, 0.15}) - bent({0.2, 0.6, 0.3})) < 1e-6);
    CHECK(cv::norm(bent({0.5, 0.1, 0.1}) - plain({0.5, 0.1, 0.1})) < 1e-6);
    CHECK(cv::norm(bent({0.1, 0.4, 0.1}) - plain({0.1, 0.4, 0.1})) > 0.01);

    // Patches whose colours a matrix and such a table explain: the fit finds it.
    const ChartPhotograph photograph;
    PatchChart chart = photograph.chart.reference();
    std::vector<MeasuredPatch> patches;
    for (ReferencePatch& p : chart.patches) {
        const cv::Vec3d balanced = xyz_d50_to_romm() * p.xyz_d50;
        MeasuredPatch m;
        m.column = p.column;
        m.row = p.row;
        for (std::size_t c = 0; c < 3; ++c) m.raw[c] = std::max(0.001, 0.6 * balanced[static_cast<int>(c)]);
        m.sigma = {1e-4, 1e-4, 1e-4};
        patches.push_back(m);
    }
    const ColourFit straight = fit_colours(chart, patches);
    CHECK(straight.form.is_matrix());
    for (auto& node : hues.nodes) node = {6, 0.12, -0.02};
    hues.nodes[0] = {-7, -0.1, 0};
    hues.nodes[3] = {-5, 0.1, 0.03};
    const ColourForm truth = plain.with(hues);
    for (std::size_t i = 0; i < patches.size(); ++i)
        chart.patches[i].xyz_d50 = truth({patches[i].raw[0] / 0.6, patches[i].raw[1] / 0.6, patches[i].raw[2] / 0.6});
    const ColourFit fit = fit_colours(chart, patches);
    INFO(fit.form.name() << " " << fit.mean << " " << fit.held_out_mean << " " << fit.other_held_out_mean);
    CHECK_FALSE(fit.form.is_matrix());
    CHECK(fit.form.name().find("hue-table") != std::string::npos);
    CHECK(fit.mean < 0.7);
    CHECK(fit.held_out_mean < fit.other_held_out_mean);
}

TEST_CASE("whole pictures are converted by a table as single colours are", "[patches]") {
    Eigen::MatrixXd weights(3, 6);
    const cv::Matx33d linear = xyz_d50_to_romm().inv();
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c) {
            weights(r, c) = linear(r, c) - 0.05;
            weights(r, c + 3) = 0.05;
        }
    FittedLight light;
    light.fit.form = ColourForm(ColourForm::Kind::root_polynomial, weights);
    light.fit.neutral = {0.5, 1, 0.6};
    light.kelvin = 5500;
    light.white = {0.3324, 0.3474};
    RawPicture raw;
    raw.xyz_to_camera = cv::Matx33d(0.74, -0.24, -0.07, -0.46, 1.24, 0.25, -0.07, 0.15, 0.64);
    const std::array<double, 3> neutral{0.5, 1, 0.6};
    const ColourRendering rendering(colour_profile_from(dng_profile_of({light}, {"a", "", "free"}), "the file"), raw,
                                    neutral, false, false);
    Planes whole(cv::Size(1200, 100));
    cv::RNG random(3);
    for (cv::Mat1f& c : whole.channel) random.fill(c, cv::RNG::UNIFORM, 0.001, 1.3);
    Planes part(cv::Size(1200, 10));
    for (std::size_t c = 0; c < 3; ++c) whole.channel[c].rowRange(0, 10).copyTo(part.channel[c]);
    rendering.begin(whole, 1);
    rendering.begin(part, 1);
    double worst = 0;
    for (int i = 0; i < 1200; ++i)
        for (int row = 0; row < 10; ++row) {
            const auto xyz_of_pixel = [&](const Planes& p) {
                return cv::Vec3d(p.channel[0](row, i), p.channel[1](row, i), p.channel[2](row, i));
            };
            worst = std::max(
                worst, cv::norm(xyz_of_pixel(whole) - xyz_of_pixel(part)) / (0.01 + cv::norm(xyz_of_pixel(part))));
        }
    INFO("largest relative difference " << worst);
    CHECK(worst < 0.004);

    // A matrix in an ICC profile needs no conversion by the library; a table does.
    CHECK_FALSE(IccColours(icc_of(light, {"a", "", "free"})).linear());
    light.fit.form = ColourForm(ColourForm::Kind::matrix, weights.leftCols(3));
    const auto matrix = IccColours(icc_of(light, {"a", "", "free"})).linear();
    REQUIRE(matrix);
}
