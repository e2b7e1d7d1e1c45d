// SPDX-License-Identifier: GPL-3.0-or-later
#include "films/correct_film.h"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "film_samples.h"
#include "films/film_pieces.h"
#include "render/stages.h"
#include "rig/film.h"
#include "rig/scenario.h"
#include "support/rig_run.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

TEST_CASE("the curves of films lead to light and back", "[films]") {
    for (int k = 0; k <= static_cast<int>(FilmCurve::linear); ++k) {
        const auto curve = static_cast<FilmCurve>(k);
        INFO(to_string(curve));
        for (int i = 0; i <= 200; ++i) {
            const double v = i / 200.0;
            CHECK(value_of(curve, light_of(curve, v)) == Approx(v).margin(2e-5));
        }
        CHECK(light_of(curve, 1) == Approx(1).epsilon(1e-4));
    }
    CHECK(light_of(FilmCurve::pq, 0.508078) == Approx(0.01).epsilon(2e-3));  // 100 cd/m2 (BT.2408)
    CHECK(light_of(FilmCurve::hlg, 0.5) == Approx(1 / 12.0).epsilon(1e-4));
    // By the tables, within a few steps of 16 bits, also in the dark.
    for (const FilmCurve curve : {FilmCurve::bt709, FilmCurve::pq, FilmCurve::hlg, FilmCurve::linear}) {
        const FilmLight light(curve);
        std::vector<std::uint16_t> in(65536), out(65536);
        for (int i = 0; i < 65536; ++i) in[static_cast<std::size_t>(i)] = static_cast<std::uint16_t>(i);
        Planes planes(cv::Size(256, 256));
        const std::uint16_t* from = in.data();
        std::uint16_t* to = out.data();
        light.to_light({from, from, from}, {256, 256, 256}, {}, planes);
        light.to_values(planes, {to, to, to}, {256, 256, 256});
        int worst = 0;
        for (int i = 64; i < 65536; ++i)
            worst = std::max(worst, std::abs(out[static_cast<std::size_t>(i)] - in[static_cast<std::size_t>(i)]));
        INFO(to_string(curve));
        CHECK(worst <= 8);
    }
}

TEST_CASE("lines of a corrected film are straight, in every picture", "[films]") {
    const TemporaryFolder folder;
    const cv::Size size(480, 270);
    write_film(folder / "a.mkv", size, 5);
    const FilmDone done = corrected(folder / "a.mkv", folder / "b.mkv");
    CHECK(done.frames == 5);
    CHECK(done.remarks.empty());
    const auto before = pictures_of(folder / "a.mkv"), after = pictures_of(folder / "b.mkv");
    REQUIRE(after.size() == 5);
    double bent = 0;
    for (std::size_t n = 0; n < 5; ++n)
        for (const int line : {60, 120, 180})
            for (int i = 40; i < 440; i += 8) {
                CHECK(line_at(after[n], line + static_cast<int>(n), i) == Approx(line + double(n)).margin(0.12));
                bent = std::max(bent, std::abs(line_at(before[n], line + static_cast<int>(n), i) - line - double(n)));
            }
    CHECK(bent > 2);
    CHECK(tag_of(folder / "b.mkv", "comment").find("made by Optrel: corrected by") == 0);
    CHECK(corrected(folder / "b.mkv", folder / "twice.mkv").remarks.size() == 1);
    // The film itself is never an output, nor is one that Optrel did not write.
    CHECK(error_of([&] { corrected(folder / "a.mkv", folder / "a.mkv"); }) == "input");
    CHECK(error_of([&] { corrected(folder / "a.mkv", folder / "b.mkv"); }) == "file");
    CHECK(error_of([&] { corrected(folder / "a.mkv", folder / "b.avi"); }) == "usage");
}

TEST_CASE("a film that is corrected by nothing stays what it is", "[films]") {
    const TemporaryFolder folder;
    for (const FilmCurve curve : {FilmCurve::bt709, FilmCurve::hlg, FilmCurve::pq}) {
        const fs::path film = folder / (to_string(curve) + ".mkv"), out = folder / (to_string(curve) + "-b.mkv");
        write_film(film, {128, 72}, 3, FilmCodec::ffv1, curve);
        Progress progress;
        correct_film({film, {20, film_area_mm}, neutral_start(), std::nullopt}, out, FilmCodec::ffv1, Existing::keep,
                     progress);
        CHECK(open_film(out)->facts().curve == curve);
        CHECK_FALSE(open_film(out)->facts().curve_assumed);
        const auto a = pictures_of(film), b = pictures_of(out);
        REQUIRE(a.size() == b.size());
        for (std::size_t n = 0; n < a.size(); ++n)
            for (int c = 0; c < 3; ++c) CHECK(cv::norm(a[n].channel[c], b[n].channel[c], cv::NORM_INF) < 0.01);
    }
}

TEST_CASE("sound, tags, time code, clock and turn of a film go along", "[films]") {
    const TemporaryFolder folder;
    // A clock that runs unevenly.
    const std::vector<long long> times{0, 1, 3, 4, 8, 9};
    write_film(folder / "plain.mkv", {160, 90}, 6, FilmCodec::ffv1, FilmCurve::bt709, times);
    add_to_film(folder / "plain.mkv", folder / "a.mov", true, true, false);
    CHECK(open_film(folder / "a.mov")->facts().sounds == 1);
    CHECK(open_film(folder / "a.mov")->facts().turned_deg == 90);
    const FilmDone done = corrected(folder / "a.mov", folder / "b.mov");
    CHECK(done.frames == 6);
    CHECK(sound_of(folder / "b.mov") == sound_of(folder / "a.mov"));
    CHECK(sound_of(folder / "b.mov").size() == 6400);
    CHECK(open_film(folder / "b.mov")->facts().turned_deg == 90);
    CHECK(tag_of(folder / "b.mov", "title") == "A day at the bench");
    CHECK(tag_of(folder / "a.mov", "timecode", 0) == "10:00:00:00");
    CHECK(tag_of(folder / "b.mov", "timecode", 0) == "10:00:00:00");
    std::vector<long long> before, after;
    pictures_of(folder / "a.mov", &before);
    pictures_of(folder / "b.mov", &after);
    CHECK(before == after);
}

TEST_CASE("films are written for keeping, showing and going on", "[films]") {
    const TemporaryFolder folder;
    write_film(folder / "a.mkv", {320, 180}, 4);
    for (const auto& [codec, name] : {std::pair(FilmCodec::h264, "b.mp4"),
                                      {FilmCodec::h265, "c.mp4"},
                                      {FilmCodec::vc3, "d.mov"},
                                      {FilmCodec::h264_intra, "e.mov"}}) {
        INFO(name);
        CHECK(corrected(folder / "a.mkv", folder / name, codec).frames == 4);
        const auto pictures = pictures_of(folder / name);
        REQUIRE(pictures.size() == 4);
        CHECK(line_at(pictures[0], 120, 160) == Approx(120).margin(0.4));
    }
    CHECK(open_film(folder / "c.mp4")->facts().format.find("10") != std::string::npos);
    // At the size of most films, in a container that tells codings by it.
    write_film(folder / "large.mkv", {1920, 1080}, 2);
    CHECK(corrected(folder / "large.mkv", folder / "large.mov", FilmCodec::h264).frames == 2);
    CHECK(open_film(folder / "large.mov")->facts().format == "yuv420p");
    CHECK(pictures_of(folder / "large.mov").size() == 2);
    // What is to go on is close to what is kept, whichever way it is written.
    corrected(folder / "large.mkv", folder / "kept.mkv");
    const auto kept = pictures_of(folder / "kept.mkv");
    for (const auto& [codec, name] :
         {std::pair(FilmCodec::vc3, "on.mov"), {FilmCodec::h264_intra, "on.mp4"}, {FilmCodec::h264_intra, "on.mkv"}}) {
        INFO(name);
        corrected(folder / "large.mkv", folder / name, codec);
        CHECK(open_film(folder / name)->facts().format == "yuv422p10le");
        const auto written = pictures_of(folder / name);
        REQUIRE(written.size() == 2);
        for (int c = 0; c < 3; ++c)
            CHECK(cv::norm(written[1].channel[c], kept[1].channel[c], cv::NORM_L2) / std::sqrt(1920.0 * 1080) < 0.003);
    }
    CHECK(error_of([] { film_codec_from("ffv2"); }) == "input");
    // Of an odd size where colours stand for two pixels.
    write_film(folder / "odd.mkv", {320, 180}, 1);
    CHECK(error_of([&] { write_film(folder / "odd.mp4", {321, 181}, 1, FilmCodec::h264); }) == "input");
}

TEST_CASE("films that cannot be are told in one sentence, and cut ones are taken as far as they go", "[films]") {
    const TemporaryFolder folder;
    write_film(folder / "a.mkv", {320, 180}, 40);
    add_to_film(folder / "a.mkv", folder / "interlaced.mov", false, false, true);
    const std::string whole = read_file(folder / "a.mkv");
    write_bytes(folder / "half.mkv", whole.substr(0, whole.size() / 2));
    write_bytes(folder / "begin.mkv", whole.substr(0, 60));
    write_bytes(folder / "empty.mkv", "");
    write_bytes(folder / "words.mov", "a film of words");
    write_bytes(folder / "list.mkv", "#EXTM3U\n#EXTINF:1,\nfile:///etc/hostname\n");
    for (const char* name : {"interlaced.mov", "begin.mkv", "empty.mkv", "words.mov", "list.mkv", "none.mkv"}) {
        INFO(name);
        const std::string s = sentence_of([&] { corrected(folder / name, folder / "out.mkv"); });
        INFO(s);
        CHECK(is_one_sentence(s));
        CHECK_FALSE(fs::exists(folder / "out.mkv"));
    }
    const FilmDone half = corrected(folder / "half.mkv", folder / "half-out.mkv");
    CHECK(half.frames > 5);
    CHECK(half.frames < 40);
    CHECK_FALSE(half.remarks.empty());
    std::mt19937 random(3);
    for (int i = 0; i < 6; ++i) {
        std::string hurt = whole;
        for (int k = 0; k < 400; ++k) hurt[random() % hurt.size()] = static_cast<char>(random());
        write_bytes(folder / "hurt.mkv", hurt);
        try {
            corrected(folder / "hurt.mkv", folder / fmt::format("hurt-{}.mkv", i));
        } catch (const Error& error) {
            CHECK(is_one_sentence(error.what()));
        }
    }
    // Cancelled in the middle nothing is left.
    const Profile p = film_lens();
    Progress progress;
    progress.cancel();
    CHECK_THROWS_AS(
        correct_film({folder / "a.mkv", {20, film_area_mm}, neutral_start(), AppliedProfile{p.nodes[0], p.geometry}},
                     folder / "cancelled.mkv", FilmCodec::ffv1, Existing::keep, progress),
        Cancelled);
    for (const auto& entry : fs::directory_iterator(folder.path()))
        CHECK(entry.path().filename().string().find("cancelled") == std::string::npos);
}

TEST_CASE("a long film that was interrupted goes on behind its last piece, and comes out the same", "[films]") {
    const TemporaryFolder folder;
    const int count = static_cast<int>(2 * film_piece + 40);
    std::vector<long long> times;
    for (int i = 0; i < count; ++i) times.push_back(2 * i + (i % 7 == 0));
    for (const char* ending : {"mkv", "mov"}) {
        INFO(ending);
        const fs::path plain = folder / fmt::format("plain.{}", ending), film = folder / fmt::format("a.{}", ending);
        write_film(plain, {64, 48}, count, FilmCodec::ffv1, FilmCurve::bt709, times);
        add_to_film(plain, film, true, false, false);
        const Profile p = film_lens();
        FilmOrder order{film, {20, film_area_mm}, neutral_start(), AppliedProfile{p.nodes[0], p.geometry}, "{}", ""};
        Progress progress;
        const fs::path whole = folder / fmt::format("whole.{}", ending), out = folder / fmt::format("out.{}", ending);
        correct_film(order, whole, FilmCodec::h264, Existing::keep, progress);
        order.same = "this order";
        for (const int stop : {700, 1010}) {
            Progress* active = nullptr;
            Progress stopping([&](int done, int, const std::string&) {
                if (done >= stop) active->cancel();
            });
            active = &stopping;
            CHECK_THROWS_AS(correct_film(order, out, FilmCodec::h264, Existing::keep, stopping), Cancelled);
            CHECK_FALSE(fs::exists(out));
            CHECK(FilmPieces(out, order.same).done().size() == static_cast<std::size_t>(stop / film_piece));
        }
        // Another order does not take what this one left; here it is only asked for, in a folder of its own.
        fs::copy(film_pieces_folder(out), film_pieces_folder(folder / "other.mkv"));
        CHECK(FilmPieces(folder / "other.mkv", "another order").done().empty());
        fs::remove_all(film_pieces_folder(folder / "other.mkv"));
        CHECK(correct_film(order, out, FilmCodec::h264, Existing::keep, progress).frames == count);
        CHECK_FALSE(fs::exists(film_pieces_folder(out)));
        std::vector<long long> source, before, after;
        pictures_of(film, &source);
        const auto a = pictures_of(whole, &before), b = pictures_of(out, &after);
        REQUIRE(a.size() == static_cast<std::size_t>(count));
        REQUIRE(b.size() == a.size());
        CHECK((before == after));
        CHECK((source == after));
        // Coded from where a piece begins, so not to the last digit.
        for (const std::size_t i : {0, 499, 500, 777, 1001, 1039})
            CHECK(cv::norm(a[i].channel[1], b[i].channel[1], cv::NORM_L2) / std::sqrt(64.0 * 48) < 0.02);
        CHECK(sound_of(out) == sound_of(film));
        CHECK(tag_of(out, "title") == "A day at the bench");
    }
    // A folder of somebody else is not taken for one of pieces.
    fs::create_directories(film_pieces_folder(folder / "mine.mkv"));
    write_bytes(film_pieces_folder(folder / "mine.mkv") / "notes.txt", "mine");
    CHECK(error_of([&] { FilmPieces(folder / "mine.mkv", "x"); }) == "file");
    CHECK(fs::exists(film_pieces_folder(folder / "mine.mkv") / "notes.txt"));
}

TEST_CASE("a film of the rig's lens is straight after the profile that was measured of it", "[films]") {
    const TemporaryFolder folder;
    const Profile lens = profile_from_json(read_file(solved_rig_profile()), "the rig's");
    const rig::FilmScene scene{{960, 540}, 2, 23.1616};
    Progress progress;
    rig::make_film(rig::scenario_lens(rig::demo_scenario()), scene, folder / "a.mkv", Existing::keep, progress);
    correct_film({folder / "a.mkv",
                  {35, scene.area_width_mm},
                  neutral_start(),
                  AppliedProfile{node_at(lens, {35, 0, 0}).node, lens.geometry}},
                 folder / "b.mkv", FilmCodec::ffv1, Existing::keep, progress);
    // Lines run where a lens without distortion of the calibrated focal length has them: straight, and evenly apart.
    const auto bow = [&](const fs::path& film) {
        const Planes p = pictures_of(film)[0];
        double worst = 0;
        for (int row = 40; row < 500; row += 30) {
            // Only where a line is near in the middle, and followed from there.
            const auto dark = [&](int column, double about) {
                double sum = 0, weight = 0;
                if (!std::isfinite(about)) return HUGE_VAL;
                const int from = static_cast<int>(about) - 9;
                for (int r = from; r < from + 18; ++r) {
                    const double w = std::max(0.0, 0.3 - p.channel[1](std::clamp(r, 0, 539), column));
                    sum += w * (r + 0.5);
                    weight += w;
                }
                return weight > 0.05 ? sum / weight : HUGE_VAL;
            };
            // Once more about what was found, so that a line is whole within the rows. Columns lie between vertical
            // lines, of which one stands every 59.4 pixels.
            const auto settled = [&](int column, double about) {
                for (int k = 0; k < 3; ++k) about = dark(column, about);
                return about;
            };
            const double middle = settled(510, row), left = settled(510 - 356, middle),
                         right = settled(510 + 356, middle);
            if (std::isfinite(middle) && std::isfinite(left) && std::isfinite(right))
                worst = std::max(worst, std::abs(0.5 * (left + right) - middle));
        }
        return worst;
    };
    CHECK(bow(folder / "a.mkv") > 0.8);
    CHECK(bow(folder / "b.mkv") < 0.15);
}

namespace {

/// A studio with a film, its lens and a rule for its folder.
struct StudioWithFilm : StudioByHand {
    StudioWithFilm() {
        fs::create_directories(path("films"));
        write_film(film, {320, 180}, 10);
        id = Store(path("s").string(), Access::write).profiles().publish(film_lens()).id;
    }
    void assign() const {
        good("film assign",
             fmt::format("'{}/*' --profile {} --focal 20 --area {}", path("films").string(), id, film_area_mm));
    }
    std::string correct(const std::string& more, const std::string& out) const {
        return fmt::format("'{}' {} --out '{}'", film.string(), more, path(out).string());
    }

    const fs::path film = path("films") / "shot.mkv";
    std::string id;
};

}  // namespace

TEST_CASE("films by the command line: rules for folders, a still, corrections by hand", "[cli][films]") {
    const StudioWithFilm s;
    const fs::path& film = s.film;
    const std::string& id = s.id;
    CHECK(json::parse(cli(fmt::format("film info '{}' --json", film.string())).out)["frames"] == 10);
    const auto correct = [&](const std::string& more, const std::string& out) { return s.correct(more, out); };
    s.refused("film correct", correct("", "a.mkv"));  // nobody says its focal length
    s.refused("film assign", fmt::format("'{}/*' --profile nothing --focal 20 --area 23", s.path("films").string()));
    s.assign();
    CHECK(json::parse(s.good("film rules", "--json")).size() == 1);
    const json done = json::parse(s.good("film correct", correct("--json", "a.mkv")));
    CHECK(done["frames"] == 10);
    CHECK(done["profile"].get<std::string>().find("version 1") != std::string::npos);
    s.refused("film correct", correct("--codec ffv7", "b.mkv"));
    s.refused("film correct", correct("--focal 90", "b.mkv"));  // far from what was measured
    s.refused("film correct", correct("--area 60", "b.mkv"));   // more than the profile reaches
    s.refused("film correct", correct("--set crop=largest", "b.mkv"));
    s.refused("film correct", correct("--set temperature=4000", "b.mkv"));  // of raw frames
    s.refused("film correct", correct("--profile-file p.json --profile " + id, "b.mkv"), 2);
    s.good("film correct", correct("--set sharpening_amount=90", "sharp.mkv"));
    const cv::Mat1f soft = pictures_of(s.path("a.mkv"))[0].channel[1],
                    sharp = pictures_of(s.path("sharp.mkv"))[0].channel[1];
    CHECK(cv::norm(sharp, soft, cv::NORM_INF) > 0.05);
    s.refused("film correct", correct("", "a.mkv"));
    s.good("film correct", correct("--set border=fill --set exposure=0.5", "c.mkv"));
    CHECK(pictures_of(s.path("c.mkv"))[0].channel[1](90, 20) > pictures_of(s.path("a.mkv"))[0].channel[1](90, 20));
    CHECK(cli(fmt::format("film still '{}' --at 0.2 --out '{}'", film.string(), s.path("still.tif").string())).status ==
          0);
    CHECK(read_metadata(s.path("still.tif")).width == 320);
    CHECK(cli(fmt::format("film still '{}' --at 9 --out '{}'", film.string(), s.path("x.tif").string())).status == 1);
    // As any export does, films by their rules and frames as maps.
    const json all = json::parse(s.good(
        "export", fmt::format("--as film --frames '{}' --out '{}' --json", film.string(), s.path("all").string())));
    CHECK(open_film(all["exported"][0]["out"].get<std::string>())->facts().width == 320);
    s.good("export",
           fmt::format("--as exr --frames '{}' --out '{}'", s.frame("SP0001").string(), s.path("all").string()));
    CHECK(fs::exists(s.path("all") / "SP0001.exr"));
    s.refused("export",
              fmt::format("--as exr --delivery Review --frames '{}' --out '{}'", s.frame("SP0001").string(),
                          s.path("all").string()),
              2);
    s.refused("export",
              fmt::format("--as film --frames '{}' --out '{}'", s.frame("SP0001").string(), s.path("all").string()));
    s.refused("export",
              fmt::format("--as exr --quality 80 --frames '{}' --out '{}'", s.frame("SP0001").string(),
                          s.path("all").string()),
              2);
    s.refused("export", fmt::format("--as exr --overwrite --frames '{0}' '{0}' --out '{1}'", s.frame("SP0001").string(),
                                    s.path("all").string()));
    s.good("film forget", fmt::format("'{}/*'", s.path("films").string()));
    s.refused("film forget", fmt::format("'{}/*'", s.path("films").string()));
}

TEST_CASE("a film tells what was done to it, and is made again", "[cli][films]") {
    const StudioWithFilm s;
    s.assign();
    s.good("film correct", s.correct("", "a.mkv"));
    // It carries its account, from which it is explained and made again, byte for byte.
    const json told = json::parse(cli(fmt::format("explain '{}' --json", s.path("a.mkv").string())).out);
    CHECK(told["changed"].empty());
    CHECK(told["account"]["film"] == json({{"focal_mm", 20.0}, {"area_width_mm", film_area_mm}}));
    CHECK(told["account"]["profile"]["id"] == s.id);
    CHECK(told["account"]["original"]["name"] == "shot.mkv");
    CHECK(cli(fmt::format("explain '{}'", s.path("a.mkv").string())).out.find("A film at 20 mm") != std::string::npos);
    CHECK(cli(fmt::format("explain '{}'", s.film.string())).status == 1);  // none of Optrel's
    s.good("remake", fmt::format("'{}' --frame '{}' --out '{}'", s.path("a.mkv").string(), s.film.string(),
                                 s.path("again.mkv").string()));
    CHECK(read_file(s.path("again.mkv")) == read_file(s.path("a.mkv")));
    for (const char* name : {"a.mov", "a.mp4"}) {
        s.good("film correct", s.correct("--codec h264", name));
        CHECK(json::parse(film_account(s.path(name)))["profile"]["id"] == s.id);
    }
}

TEST_CASE("a delivery for films is kept like any, and does not take frames", "[cli][films]") {
    const StudioWithFilm s;
    s.assign();
    s.good("delivery save", "Daily --as film --codec h264 --container mp4 --name '{name}-daily'");
    s.good("export",
           fmt::format("--delivery Daily --frames '{}' --out '{}'", s.film.string(), s.path("daily").string()));
    CHECK(fs::exists(s.path("daily") / "shot-daily.mp4"));
    s.refused("export", fmt::format("--delivery Daily --frames '{}' --out '{}'", s.frame("SP0001").string(),
                                    s.path("daily").string()));
    s.refused("export",
              fmt::format("--delivery Review --frames '{}' --out '{}'", s.film.string(), s.path("daily").string()));
    s.refused("delivery save", "Daily2 --as film --codec h264 --container ogg");
    s.refused("delivery save", "Daily2 --as film --bits 16", 2);
    s.refused("export",
              fmt::format("--as tiff --codec h264 --frames '{}' --out '{}'", s.frame("SP0001").string(),
                          s.path("daily").string()),
              2);
}
