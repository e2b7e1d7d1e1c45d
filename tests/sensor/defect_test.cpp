// SPDX-License-Identifier: GPL-3.0-or-later
// Defects of sensors, against the rig's truth.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <set>

#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "frames/bad_samples.h"
#include "frames/decode.h"
#include "frames/dng_writer.h"
#include "frames/opcode_lists.h"
#include "frames/opcodes.h"
#include "rig/camera.h"
#include "sensor/defect_kind.h"
#include "sensor/defect_search.h"
#include "sensor/line_search.h"
#include "sensor/sample_phases.h"
#include "studio/exports/account.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

using Places = std::set<std::pair<int, int>>;

rig::Body defect_body(std::uint64_t copy) {
    rig::Body body;
    body.width = 900;
    body.height = 600;
    body.maker = "Brimholt";
    body.model = "Brimholt B2";
    body.serial = fmt::format("B2-{}", copy);
    body.xyz_to_camera = cv::Matx33d::eye();
    body.sensor.seed = copy;
    body.sensor.prnu = 0.008;
    body.sensor.dsnu = 1;
    body.sensor.row_noise = 0.5;
    body.sensor.hot_per_million = 60;
    body.sensor.unstable_per_million = 40;
    body.sensor.dead_per_million = 40;
    body.sensor.bad_columns = 2;
    body.sensor.dust_specks = 3;
    return body;
}

struct Conditions {
    double level = 0, seconds = 1;
    int iso = 400;
};

/// Frames of a body; without light when the level is 0.
std::vector<fs::path> frames_of(const rig::Body& body, const TemporaryFolder& folder, const std::string& name,
                                int count, const Conditions& at) {
    rig::Lens lens;
    lens.focal_mm = 35;
    lens.cosine_power = 4;
    std::vector<fs::path> out;
    for (int i = 0; i < count; ++i) {
        rig::Exposure exposure;
        exposure.iso = at.iso;
        exposure.seconds = at.seconds;
        exposure.level = at.level;
        exposure.seed = 1000 * body.sensor.seed + fnv1a(name) % 997 * 31 + static_cast<std::uint64_t>(i);
        Metadata m;
        m.maker = body.maker;
        m.model = body.model;
        m.body_serial = body.serial;
        m.iso = at.iso;
        m.exposure_s = at.seconds;
        out.push_back(folder / fmt::format("{}-{}-{}.dng", name, body.serial, i));
        write_dng(out.back(), rig::photograph_flat(body, lens, exposure, Progress()), m, Existing::replace_ours);
    }
    return out;
}

DefectMap found(const rig::Body& body, const TemporaryFolder& folder) {
    Progress progress;
    const DefectSearch search = find_defects(frames_of(body, folder, "flat", 6, {0.6, 0.01, 100}),
                                             frames_of(body, folder, "dark", 8, {}), progress);
    CHECK(search.problems.empty());
    return search.map;
}

Places places_of(const DefectMap& map, DefectKind kind) {
    Places out;
    for (const DefectPixel& p : map.pixels)
        if (p.kind == kind) out.emplace(p.row, p.column);
    return out;
}

/// Sites of the truth that lie beside bad columns: a pixel of a line is told with the line.
template <class Site>
Places beside_lines(const std::vector<Site>& sites, const std::vector<rig::BadColumn>& columns) {
    Places out;
    for (const Site& s : sites)
        if (std::none_of(columns.begin(), columns.end(), [&](const rig::BadColumn& c) { return c.column == s.column; }))
            out.emplace(s.row, s.column);
    return out;
}

int missing(const Places& wanted, const Places& from) {
    return static_cast<int>(
        std::count_if(wanted.begin(), wanted.end(), [&](const auto& place) { return !from.contains(place); }));
}

DefectMap small_map() {
    DefectMap map;
    map.camera = "Brimholt B2";
    map.serial = "B2-7";
    map.width = 60;
    map.height = 40;
    map.settings = {{400, 1, 8, 3.0}, {400, 30, 8, 3.5}};
    map.pixels = {{5, 6, DefectKind::hot, {10, 300}, 0},
                  {9, 8, DefectKind::dead, {}, -80},
                  {12, 3, DefectKind::unstable, {0, 0}, 40}};
    map.lines = {{false, 20, 10, 39, 4, false}};
    map.author = "Mira";
    map.time = "2026-11-30T10:00:00Z";
    map.frames = {"D1.dng"};
    return map;
}

}  // namespace

TEST_CASE("defects of many sensors are found where they are, and nothing else", "[sensor][defects]") {
    const TemporaryFolder folder;
    int hot = 0, unstable = 0, dead = 0, missed_hot = 0, missed_unstable = 0, missed_dead = 0, wrong = 0, lines = 0;
    for (std::uint64_t copy = 1; copy <= 4; ++copy) {
        const rig::Body body = defect_body(copy);
        const DefectMap map = found(body, folder);
        const auto columns = rig::bad_columns(body.sensor, body.width, body.height);
        const Places true_hot = beside_lines(rig::hot_pixels(body.sensor, body.width, body.height), columns),
                     true_unstable = beside_lines(rig::unstable_pixels(body.sensor, body.width, body.height), columns),
                     true_dead = beside_lines(rig::dead_pixels(body.sensor, body.width, body.height), columns);
        Places all;
        for (const DefectPixel& p : map.pixels) all.emplace(p.row, p.column);
        hot += static_cast<int>(true_hot.size());
        unstable += static_cast<int>(true_unstable.size());
        dead += static_cast<int>(true_dead.size());
        missed_hot += missing(true_hot, places_of(map, DefectKind::hot));
        missed_dead += missing(true_dead, places_of(map, DefectKind::dead));
        missed_unstable += missing(true_unstable, places_of(map, DefectKind::unstable));
        for (const auto& place : all)
            wrong += !true_hot.contains(place) && !true_unstable.contains(place) && !true_dead.contains(place);
        CHECK(map.lines.size() == columns.size());
        for (const rig::BadColumn& c : columns)
            for (const DefectLine& l : map.lines)
                if (!l.is_row && l.index == c.column) {
                    ++lines;
                    CHECK(std::abs(l.first - c.first_row) <= 3);
                    CHECK(l.last == body.height - 1);
                }
    }
    CHECK(hot == 4 * 32);
    CHECK(dead > 80);
    CHECK(lines == 8);
    CHECK(missed_hot == 0);
    CHECK(missed_dead == 0);
    // Of eight frames at least two must be bright and one dark: 96 percent are expected.
    CHECK(missed_unstable <= 0.1 * unstable);
    CHECK(wrong <= 1);
}

TEST_CASE("a hot pixel is replaced where its exposure makes it visible", "[sensor][defects]") {
    const DefectMap map = small_map();
    const auto hot = [&](int iso, double seconds) {
        const BadSamples bad = bad_samples_at(map, iso, seconds);
        return std::find(bad.points.begin(), bad.points.end(), cv::Point(6, 5)) != bad.points.end();
    };
    CHECK(hot(400, 1));     // 10 counts exceed three sigma of 3
    CHECK(hot(400, 0.01));  // as at the shortest time that was measured
    CHECK(hot(1600, 30));
    CHECK(hot(400, 0));  // unknown: the largest counts
    CHECK(hot(400, 120));
    DefectMap faint = map;
    faint.pixels[0].excess = {2, 300};
    const auto faint_hot = [&](double seconds) { return bad_samples_at(faint, 400, seconds).points.size() == 3; };
    CHECK_FALSE(faint_hot(0.5));
    CHECK_FALSE(faint_hot(1.5));  // 2 + 0.5 / 29 of 298 counts are below 9
    CHECK(faint_hot(3));          // 22.6 counts
    // Dead and unstable pixels and lines always are.
    const BadSamples bad = bad_samples_at(faint, 400, 0.5);
    CHECK(bad.points.size() == 2);
    REQUIRE(bad.areas.size() == 1);
    CHECK(bad.areas[0] == cv::Rect(20, 10, 1, 30));
}

TEST_CASE("bad samples are replaced from their own colour, along edges, in every layout", "[frames][defects]") {
    for (const SampleLayout layout :
         {SampleLayout::bayer, SampleLayout::six_by_six, SampleLayout::monochrome, SampleLayout::interpolated}) {
        INFO("layout " << static_cast<int>(layout));
        RawPicture raw;
        raw.layout = layout;
        if (layout == SampleLayout::bayer) raw.filter = {{0, 1}, {1, 2}};
        if (layout == SampleLayout::six_by_six)
            raw.filter = {6, [](int row, int column) { return (row + column) % 3 == 0 ? 1 : (row * 5 + column) % 3; }};
        if (layout == SampleLayout::monochrome || layout == SampleLayout::interpolated)
            raw.filter = SitePattern<int>(1);
        // Light that grows downwards, a vertical edge, and another level for each colour.
        const auto light = [&](int row, int column, int channel) {
            return static_cast<ushort>((column < 30 ? 1000 : 6000) + 10 * row + 400 * channel);
        };
        raw.counts.create(60, 60);
        for (int row = 0; row < 60; ++row)
            for (int column = 0; column < 60; ++column)
                raw.counts(row, column) = light(row, column, raw.filter.at(row, column));
        if (layout == SampleLayout::interpolated) {
            raw.interpolated.create(60, 60);
            for (int row = 0; row < 60; ++row)
                for (int column = 0; column < 60; ++column)
                    raw.interpolated(row, column) = {light(row, column, 0), light(row, column, 1),
                                                     light(row, column, 2)};
        }
        const RawPicture before = raw;
        const cv::Mat1w kept = raw.counts.clone();
        BadSamples bad;
        bad.points = {{20, 20}, {29, 25}, {31, 40}, {21, 20}, {999, 3}, {-1, 2}};
        bad.areas = {{44, 30, 1, 30}, {50, 58, 100, 1}};
        cv::Mat1w spoilt = raw.counts.clone();
        const cv::Mat1b mask = marked(bad, raw.counts.size());
        spoilt.setTo(60000, mask);
        raw.counts = spoilt;
        if (layout == SampleLayout::interpolated) {
            raw.interpolated = before.interpolated.clone();
            raw.interpolated.setTo(cv::Scalar(60000, 60000, 60000), mask);
        }
        replace_bad_samples(raw, bad);
        double worst = 0;
        for (int row = 0; row < 60; ++row)
            for (int column = 0; column < 60; ++column)
                worst = std::max(worst, std::abs(double(raw.counts(row, column)) - kept(row, column)));
        CHECK(worst < 130);  // of steps of 5000 at the edge, and 10 a row
        CHECK(spoilt(20, 20) == 60000);
        if (layout == SampleLayout::interpolated) {
            CHECK(std::abs(raw.interpolated(20, 20)[0] - before.interpolated(20, 20)[0]) < 20);
            CHECK(raw.counts(20, 20) == raw.interpolated(20, 20)[1]);
        }
    }
}

TEST_CASE("a faint column is found among noisy rows, and noise alone shows no line", "[sensor][defects]") {
    const auto lines_of = [](const cv::Mat1f& samples) {
        return deviating_lines(samples, less_local_median(samples, 2), 2, 0.2);
    };
    int wrong = 0;
    for (int seed = 1; seed <= 20; ++seed) {
        cv::RNG random(static_cast<std::uint64_t>(seed));
        cv::Mat1f noise(400, 600);
        random.fill(noise, cv::RNG::NORMAL, 0, 1);
        for (int row = 0; row < noise.rows; ++row) noise.row(row) += 0.2 * random.gaussian(1);
        wrong += static_cast<int>(lines_of(noise).size());
        noise.col(77).rowRange(200, 400) += 1;
        const std::vector<DeviatingLine> lines = lines_of(noise);
        REQUIRE(lines.size() == 1);
        CHECK_FALSE(lines[0].is_row);
        CHECK(lines[0].index == 77);
        CHECK(std::abs(lines[0].first - 200) <= 24);
        CHECK(lines[0].last == 399);
        CHECK(lines[0].mean == Approx(1).margin(0.3));
    }
    CHECK(wrong == 0);
}

TEST_CASE("frames that tell nothing of defects are refused by name", "[sensor][defects]") {
    const TemporaryFolder folder;
    const rig::Body body = defect_body(5);
    const std::vector<fs::path> darks = frames_of(body, folder, "dark", 2, {});
    const auto problem_of = [&](const std::vector<fs::path>& flats, std::vector<fs::path> with) {
        Progress progress;
        with.insert(with.end(), darks.begin(), darks.end());
        const DefectSearch search = find_defects(flats, with, progress);
        CHECK(search.map.settings.size() == 1);
        REQUIRE(search.problems.size() == 1);
        CHECK(is_one_sentence(search.problems[0]));
        return search.problems[0];
    };
    CHECK(problem_of({}, frames_of(body, folder, "leak", 1, {0.1, 1, 400})).find("shows light") != std::string::npos);
    CHECK(problem_of({}, frames_of(body, folder, "alone", 1, {0, 7, 400})).find("one dark frame") != std::string::npos);
    CHECK(problem_of(frames_of(body, folder, "over", 1, {3, 1, 400}), {}).find("overexposed") != std::string::npos);
    CHECK(problem_of(frames_of(body, folder, "black", 1, {0.001, 1, 400}), {}).find("too dark") != std::string::npos);
    rig::Body small = body;
    small.width = 450;
    CHECK(problem_of(frames_of(small, folder, "small", 1, {0.6, 1, 400}), {}).find("450 x 600") != std::string::npos);
    write_bytes(folder / "no.dng", "nothing");
    CHECK_FALSE(problem_of({}, {folder / "no.dng"}).empty());
    Progress progress;
    const rig::Body other = defect_body(6);
    CHECK_THROWS_WITH(find_defects({}, {darks[0], frames_of(other, folder, "other", 1, {})[0]}, progress),
                      Catch::Contains("one body at a time"));
    CHECK_THROWS_AS(find_defects({}, {}, progress), Error);
    progress.cancel();
    CHECK_THROWS_AS(find_defects({}, darks, progress), Cancelled);
}

TEST_CASE("frames are sorted by their light", "[sensor][defects]") {
    const TemporaryFolder folder;
    const rig::Body body = defect_body(7);
    std::vector<fs::path> frames = frames_of(body, folder, "dark", 2, {});
    const std::vector<fs::path> flats = frames_of(body, folder, "flat", 2, {0.5, 1, 100});
    frames.insert(frames.end(), flats.begin(), flats.end());
    Progress progress;
    const SortedFrames sorted = sorted_by_light(frames, progress);
    CHECK(sorted.flats == flats);
    CHECK(sorted.darks.size() == 2);
}

TEST_CASE("a defect map is read as it was written, and a damaged one is refused in a sentence", "[sensor][defects]") {
    const DefectMap map = small_map();
    const std::string document = defects_to_json(map);
    const DefectMap back = defects_from_json(document, "The map");
    CHECK(defects_to_json(back) == document);
    CHECK(defects_to_csv(map) ==
          "kind,row,column,last_row,last_column,strength,unit\r\n"
          "hot,5,6,5,6,300,counts\r\ndead,9,8,9,8,-80,percent\r\nunstable,12,3,12,3,40,counts\r\n"
          "column,10,20,39,20,4,counts\r\n");
    const auto refused = [&](const std::function<void(json&)>& change) {
        json j = json::parse(document);
        change(j);
        try {
            defect_kind().require_plausible(j.dump());
            defects_from_json(j.dump(), "The map");
            FAIL("nothing was refused: " << j.dump());
        } catch (const Error& e) {
            CHECK(is_one_sentence(e.what()));
        }
    };
    refused([](json& j) { j["pixels"][0]["row"] = 40; });
    refused([](json& j) { j["pixels"][0]["row"] = -1; });
    refused([](json& j) { j["pixels"][0]["excess"] = {1}; });
    refused([](json& j) { j["pixels"][0]["kind"] = "odd"; });
    refused([](json& j) { j["lines"][0]["last"] = 4000; });
    refused([](json& j) { j["lines"][0]["index"] = "x"; });
    refused([](json& j) { j["dark_settings"][0]["iso"] = 0; });
    refused([](json& j) { j["width"] = 0; });
    refused([](json& j) { j["height"] = 2000000000; });
    refused([](json& j) { j["format_version"] = 9; });
    refused([](json& j) { j["format"] = "optrel-noise"; });
    refused([](json& j) { j.erase("dust"); });
    refused([](json& j) { j["serial"] = ""; });
    refused([](json& j) {
        for (int i = 0; i < 60; ++i)
            j["lines"].push_back({{"is_row", false}, {"index", i}, {"first", 0}, {"last", 39}});
    });
    // A map that would replace the picture is not even read, whoever put it into the store.
    json all = json::parse(document);
    for (int i = 0; i < 60; ++i) all["lines"].push_back({{"is_row", false}, {"index", i}, {"first", 0}, {"last", 39}});
    CHECK_THROWS_AS(defects_from_json(all.dump(), "The map"), Error);
    for (const std::size_t length : {std::size_t(0), std::size_t(1), document.size() / 2, document.size() - 3})
        CHECK_THROWS_AS(defects_from_json(document.substr(0, length), "The map"), Error);
    DefectMap later = map;
    later.pixels.pop_back();
    later.pixels.push_back({30, 30, DefectKind::dead, {}, -100});
    CHECK(defect_kind().differences(document, defects_to_json(later)) ==
          std::vector<std::string>{"1 pixel new", "1 pixel no longer defect"});
}

TEST_CASE("a published map repairs the body's frames in pictures, raw copies and accounts", "[sensor][defects][cli]") {
    const StudioByHand s;
    const fs::path spoilt = s.path("frames") / "SPOILT.dng";
    RawPicture raw = read_raw(s.frame("SP0001"));
    const Metadata m = read_metadata(s.frame("SP0001"));
    const cv::Mat1w clean = raw.counts.clone();
    DefectMap map;
    map.camera = camera_name(m);
    map.serial = m.body_serial;
    map.width = raw.counts.cols;
    map.height = raw.counts.rows;
    map.flats = 4;
    for (int i = 0; i < 40; ++i) {
        const int row = 40 + 15 * i, column = 60 + 20 * i;
        raw.counts(row, column) = static_cast<ushort>(raw.white);
        map.pixels.push_back({row, column, DefectKind::dead, {}, 90});
    }
    raw.counts.col(333).rowRange(100, 300).setTo(600);
    map.lines.push_back({false, 333, 100, 299, -30, true});
    map.time = "2026-11-30T10:00:00Z";
    write_dng(spoilt, raw, m, Existing::replace_ours);
    write_bytes(s.path("map.json"), defects_to_json(map));
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));

    const auto developed = [&](const fs::path& frame, const std::string& out) {
        s.good("export", fmt::format("--as png --frames '{}' --out '{}'", frame.string(), s.path(out).string()));
        return cv::Mat3w(decode_picture(s.path(out) / frame.filename().replace_extension(".png")));
    };
    const cv::Mat3w wanted = developed(s.frame("SP0001"), "clean"), bad = developed(spoilt, "bad");
    const CommandResult published =
        s.run("store publish-defects", fmt::format("--yes '{}'", s.path("map.json").string()));
    CHECK(published.status == 0);
    CHECK(published.err.find(": 0 frames") == std::string::npos);
    s.refused("store publish-defects", fmt::format("--yes '{}'", s.path("map.json").string()));  // the same again
    const cv::Mat3w mended = developed(spoilt, "mended");
    CHECK(cv::norm(mended, wanted, cv::NORM_L2) < 0.15 * cv::norm(bad, wanted, cv::NORM_L2));

    const Account account = read_account(s.path("mended") / "SPOILT.png");
    CHECK(account.defects_version == 1);
    CHECK(in_words(account).find("Defect pixels replaced") != std::string::npos);
    s.good("export", fmt::format("--as dng --frames '{}' --out '{}'", spoilt.string(), s.path("copies").string()));
    const OpenedFrame copy(s.path("copies") / "SPOILT.dng");
    // The samples stay what the camera wrote; the list tells readers which to replace.
    CHECK(cv::norm(read_raw(copy).counts, raw.counts, cv::NORM_INF) == 0);
    const std::vector<Opcode> list = decode_opcodes(read_opcode_lists(copy)[0], "the copy");
    REQUIRE(list.size() == 1);
    CHECK(std::get<FixBadPixelsList>(list[0].what).points.size() == 240);

    // Withdrawn, it repairs nothing; the account still finds its version.
    const std::string id = account.defects_id;
    s.good("store withdraw", id + "@1 --yes --reason 'The wrong body'");
    CHECK(cv::norm(developed(spoilt, "again"), bad, cv::NORM_INF) == 0);
    Store store(s.path("s"), Access::read);
    CHECK(development_of(account, store, spoilt).sensor.defects);
    const json growth = json::parse(s.good("defects growth", fmt::format("--body '{}' --json", m.body_serial)));
    REQUIRE(growth.size() == 1);
    CHECK(growth[0]["dead"] == 40);
    CHECK(growth[0]["current"] == false);
    s.refused("defects growth", "--body nobody");
}

TEST_CASE("the command finds defects, writes them as text, and refuses what is mistyped", "[sensor][defects][cli]") {
    const TemporaryFolder folder;
    const rig::Body body = defect_body(8);
    frames_of(body, folder, "dark", 4, {});
    const std::string darks = fmt::format(
        "{0}/dark-B2-8-0.dng {0}/dark-B2-8-1.dng {0}/dark-B2-8-2.dng {0}/dark-B2-8-3.dng", folder.path().string());
    const CommandResult r = cli(fmt::format("defects find --darks {} --out {}/map.json --text {}/list.csv --json",
                                            darks, folder.path().string(), folder.path().string()));
    INFO(r.err);
    REQUIRE(r.status == 0);
    const json map = json::parse(r.out);
    CHECK(map["dark_settings"][0]["exposure_s"] == 1);
    CHECK(map["pixels"].size() > 30);
    const std::string list = read_file(folder / "list.csv");
    CHECK(list.find("hot,") != std::string::npos);
    CHECK(cli(fmt::format("defects text {}/map.json", folder.path().string())).out == list);
    CHECK(cli("defects find").status == 2);
    CHECK(cli(fmt::format("defects find --darks {} --out {}/map.json", darks, folder.path().string())).status == 1);
    CHECK(cli(fmt::format("defects text {}/list.csv", folder.path().string())).status == 1);
}
