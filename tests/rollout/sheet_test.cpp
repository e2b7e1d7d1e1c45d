// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/sheet.h"

#include <catch2/catch.hpp>
#include <fstream>
#include <thread>

#include "base/files.h"
#include "frames/xmp_packet.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Sheet sample_sheet() {
    Sheet s;
    s.revision = 4;
    s.baseline = {{Field::sharpening_amount, {25, ""}}, {Field::border, {0, "fill"}}};
    s.hand = {{Field::exposure, {-0.25, ""}}};
    return s;
}

}  // namespace

TEST_CASE("a sheet survives its sidecar", "[rollout]") {
    const TemporaryFolder folder;
    write_bytes(folder / "a.dng", "frame");
    put_sheet(folder / "a.dng", sample_sheet());
    CHECK(read_sheet(folder / "a.dng") == sample_sheet());
    CHECK(fs::exists(folder / "a.dng.optrel.xmp"));
    CHECK(read_file(folder / "a.dng") == "frame");
    put_sheet(folder / "a.dng", Sheet{});
    CHECK_FALSE(fs::exists(folder / "a.dng.optrel.xmp"));
    CHECK(read_sheet(folder / "a.dng").state() == FrameState::untouched);
}

TEST_CASE("states are as defined", "[rollout]") {
    Sheet s;
    CHECK(s.state() == FrameState::untouched);
    s.revision = 1;
    CHECK(s.state() == FrameState::on_baseline);
    s.hand[Field::tint] = {3, ""};
    CHECK(s.state() == FrameState::hand_set);
    s.exempt = true;
    CHECK(s.state() == FrameState::exempt);
    for (const FrameState state :
         {FrameState::untouched, FrameState::on_baseline, FrameState::hand_set, FrameState::exempt})
        CHECK_FALSE(to_string(state).empty());
}

TEST_CASE("later layers win, and exempt frames get nothing", "[rollout]") {
    Sheet s = sample_sheet();
    s.set[Field::sharpening_amount] = {50, ""};
    CHECK(effective(s)[Field::sharpening_amount].value.number == 50);
    s.hand[Field::sharpening_amount] = {60, ""};
    CHECK(effective(s)[Field::sharpening_amount].value.number == 60);
    CHECK(effective(s)[Field::border].value.text == "fill");
    CHECK(effective(s)[Field::contrast].value.number == 0);
    s.exempt = true;
    CHECK(effective(s)[Field::sharpening_amount].value.number == 0);
}

TEST_CASE("sidecars of others are neither read nor replaced", "[rollout]") {
    const TemporaryFolder folder;
    write_bytes(folder / "a.dng", "frame");
    for (const std::string& bytes : {std::string("not xml"), std::string(), random_bytes(400, 3)}) {
        write_bytes(folder / "a.dng.optrel.xmp", bytes);
        CHECK(error_of([&] { read_sheet(folder / "a.dng"); }) == "input");
        CHECK(error_of([&] { put_sheet(folder / "a.dng", sample_sheet()); }) == "input");
        CHECK(read_file(folder / "a.dng.optrel.xmp") == bytes);
    }
    write_bytes(folder / "a.xmp", "another program's");
    remove_durable(folder / "a.dng.optrel.xmp");
    put_sheet(folder / "a.dng", sample_sheet());
    CHECK(read_file(folder / "a.xmp") == "another program's");
}

TEST_CASE("sidecars with impossible content are refused in one sentence", "[rollout]") {
    for (const XmpProperties& p : {XmpProperties{{"format", "x"}},
                                   {{"format", "1"}, {"revision", "many"}},
                                   {{"format", "1"}, {"hand/glow", "1"}},
                                   {{"format", "1"}, {"hand/exposure", "99"}},
                                   {{"format", "1"}, {"baseline/border", "melt"}}}) {
        const std::string sentence = sentence_of([&] { sheet_from_xmp(encode_xmp(p), "F.xmp"); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
    }
}

TEST_CASE("what a newer version put into a sidecar is kept", "[rollout]") {
    const TemporaryFolder folder;
    const fs::path frame = folder / "a.dng";
    write_bytes(frame, "frame");
    const XmpProperties newer{{"format", "99"},        {"state", "hand-set"},    {"revision", "7"},
                              {"baseline/glow", "12"}, {"hand/exposure", "0.5"}, {"hand/border", "melt"},
                              {"hand/halo", "on"},     {"rating", "4"}};
    write_bytes(sidecar_path(frame), encode_xmp(newer));
    const Sheet read = read_sheet(frame);
    CHECK(read.revision == 7);
    CHECK(read.state() == FrameState::hand_set);
    CHECK(read.hand.at(Field::exposure).number == 0.5);
    CHECK(read.later.size() == 4);
    // An edit of a field that is known leaves the others as they are.
    edit_sheet(frame, [](Sheet& s) { s.hand[Field::exposure] = {1, ""}; });
    XmpProperties expected = newer;
    expected["hand/exposure"] = "1";
    CHECK(decode_xmp(read_file(sidecar_path(frame)), "a") == expected);
    // What is set here takes the place of what was not understood.
    edit_sheet(frame, [](Sheet& s) { s.hand[Field::border] = {0, "fill"}; });
    expected["hand/border"] = "fill";
    CHECK(decode_xmp(read_file(sidecar_path(frame)), "a") == expected);
}

TEST_CASE("a sheet is written in place of the one that was seen, and edits of two stations go together", "[rollout]") {
    const TemporaryFolder folder;
    const fs::path frame = folder / "a.dng";
    write_bytes(frame, "frame");
    put_sheet(frame, sample_sheet());
    Sheet theirs = sample_sheet(), mine = sample_sheet();
    theirs.hand[Field::contrast] = {12, ""};
    mine.hand[Field::tint] = {5, ""};
    mine.hand.erase(Field::exposure);
    put_sheet(frame, theirs);
    const SheetWrite together = replace_sheet(frame, sample_sheet(), mine);
    CHECK(together.clash.empty());
    Sheet both = mine;
    both.hand[Field::contrast] = {12, ""};
    CHECK(together.sheet == both);
    CHECK(read_sheet(frame) == both);
}

TEST_CASE("where two stations changed the same field the disk's stays, and the other is kept beside it", "[rollout]") {
    const TemporaryFolder folder;
    const fs::path frame = folder / "a.dng";
    write_bytes(frame, "frame");
    put_sheet(frame, sample_sheet());
    Sheet theirs = sample_sheet(), mine = sample_sheet(), bare;
    theirs.hand[Field::exposure] = {1, ""};
    mine.hand[Field::exposure] = {-1, ""};
    bare.exempt = true;
    put_sheet(frame, theirs);
    int n = 0;
    for (const Sheet& wanted : {mine, bare}) {
        const SheetWrite told = replace_sheet(frame, sample_sheet(), wanted);
        CHECK(is_one_sentence(told.clash));
        CHECK(told.sheet == theirs);
        CHECK(read_sheet(frame) == theirs);
        const fs::path kept = frame.string() + ".optrel.clash-" + std::to_string(++n) + ".xmp";
        CHECK(sheet_from_xmp(read_file(kept), "kept") == wanted);
    }
    // The same change made twice is none.
    CHECK(replace_sheet(frame, sample_sheet(), theirs).clash.empty());
}

TEST_CASE("a sidecar that is a link, a folder or cannot be looked at is not taken for none", "[rollout]") {
    const TemporaryFolder folder;
    const fs::path frame = folder / "a.dng";
    write_bytes(frame, "frame");
    write_bytes(folder / "elsewhere", "precious");
    for (const fs::path& target : {folder / "elsewhere", folder / "nowhere"}) {
        fs::create_symlink(target, sidecar_path(frame));
        CHECK(error_of([&] { read_sheet(frame); }) == "file");
        CHECK(error_of([&] { put_sheet(frame, sample_sheet()); }) == "file");
        CHECK(error_of([&] { replace_sheet(frame, {}, sample_sheet()); }) == "file");
        CHECK(fs::is_symlink(sidecar_path(frame)));
        fs::remove(sidecar_path(frame));
    }
    CHECK(read_file(folder / "elsewhere") == "precious");
    fs::create_directory(sidecar_path(frame));
    CHECK(error_of([&] { put_sheet(frame, sample_sheet()); }) == "file");
    CHECK(error_of([&] { put_sheet(folder / "gone.dng", sample_sheet()); }) == "file");
    std::ofstream(folder / "b.dng.optrel.xmp").seekp(500ll << 20).put('x');
    write_bytes(folder / "b.dng", "frame");
    CHECK(error_of([&] { read_sheet(folder / "b.dng"); }) == "file");
}

TEST_CASE("hand edits made while sidecars are carried over are never lost", "[rollout][threads]") {
    const TemporaryFolder folder;
    constexpr int frames = 30;
    const auto frame = [&](int i) { return folder / ("F" + std::to_string(100 + i) + ".dng"); };
    for (int i = 0; i < frames; ++i) write_bytes(frame(i), "frame");
    Sheet base;
    base.revision = 1;
    base.baseline[Field::sharpening_amount] = {30, ""};
    const std::string bytes = sheet_to_xmp(base);
    std::thread carrier([&] {
        for (int i = 0; i < frames; ++i) replace_sidecar_if_unchanged(frame(i), std::nullopt, bytes);
    });
    for (int i = frames - 1; i >= 0; --i) edit_sheet(frame(i), [](Sheet& s) { s.hand[Field::exposure] = {1, ""}; });
    carrier.join();
    for (int i = 0; i < frames; ++i) CHECK(read_sheet(frame(i)).hand.count(Field::exposure) == 1);
}
