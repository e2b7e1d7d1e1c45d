#include "rollout/sheet.h"

#include <catch2/catch.hpp>

#include "base/files.h"
#include "frames/xmp_packet.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Sheet sample() {
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
    write_sheet(folder / "a.dng", sample());
    CHECK(read_sheet(folder / "a.dng") == sample());
    CHECK(fs::exists(folder / "a.dng.optrel.xmp"));
    CHECK(read_file(folder / "a.dng") == "frame");
    write_sheet(folder / "a.dng", Sheet{});
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
    for (const FrameState state : {FrameState::untouched, FrameState::on_baseline, FrameState::hand_set, FrameState::exempt}) CHECK_FALSE(to_string(state).empty());
}

TEST_CASE("later layers win, and exempt frames get nothing", "[rollout]") {
    Sheet s = sample();
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
        CHECK(is_one_sentence(sentence_of([&] { read_sheet(folder / "a.dng"); })));
        CHECK(is_one_sentence(sentence_of([&] { write_sheet(folder / "a.dng", sample()); })));
        CHECK(read_file(folder / "a.dng.optrel.xmp") == bytes);
    }
    write_bytes(folder / "a.xmp", "another program's");
    remove_durable(folder / "a.dng.optrel.xmp");
    write_sheet(folder / "a.dng", sample());
    CHECK(read_file(folder / "a.xmp") == "another program's");
}

TEST_CASE("sidecars with impossible content are refused in one sentence", "[rollout]") {
    for (const XmpProperties& p : {XmpProperties{{"format", "99"}}, {{"format", "x"}}, {{"format", "1"}, {"revision", "many"}}, {{"format", "1"}, {"hand/glow", "1"}},
                                   {{"format", "1"}, {"hand/exposure", "99"}}, {{"format", "1"}, {"baseline/border", "melt"}}}) {
        const std::string sentence = sentence_of([&] { sheet_from_xmp(encode_xmp(p), "F.xmp"); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
    }
}
