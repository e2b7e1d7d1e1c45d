// SPDX-License-Identifier: GPL-3.0-or-later
// The samples that a raw copy lists as bad, read and applied as the DNG specification says it (1.6, chapter 7,
// FixBadPixelsList), by nothing of Optrel's.
#include <catch2/catch.hpp>
#include <exiv2/exiv2.hpp>
#include <random>
#include <set>

#include "frames/dng_writer.h"
#include "studio/exports/exporting.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

using Place = std::pair<int, int>;  ///< row and column of the mosaic as it is stored

/// A frame with an invisible border and a few hot samples in its visible part.
struct HotFrame {
    VisiblePart visible;
    cv::Mat1w whole = cv::Mat1w(140, 180);
    std::set<Place> hot;

    explicit HotFrame(const VisiblePart& part) : visible(part) {
        std::mt19937 random(11);
        for (int row = 0; row < whole.rows; ++row)
            for (int i = 0; i < whole.cols; ++i) whole(row, i) = static_cast<std::uint16_t>(2000 + random() % 20);
        for (int n = 0; n < 12; ++n) {
            const Place at{visible.top + 8 + static_cast<int>(random() % unsigned(visible.height - 16)),
                           visible.left + 8 + static_cast<int>(random() % unsigned(visible.width - 16))};
            hot.insert(at);
            whole(at.first, at.second) = 60000;
        }
    }
    void write(const fs::path& path) const {
        RawMosaic mosaic;
        mosaic.whole = whole;
        mosaic.visible = visible;
        RawPicture& p = mosaic.picture;
        p.counts = whole(cv::Rect(visible.left, visible.top, visible.width, visible.height));
        p.filter = {{{0, 1}, {1, 2}}};  // of the visible part: red first
        p.black = {{{512, 512}, {512, 512}}};
        p.white = 65000;
        p.xyz_to_camera = cv::Matx33d(0.74, -0.24, -0.07, -0.46, 1.24, 0.25, -0.07, 0.15, 0.64);
        p.as_shot_neutral = {0.5, 1, 0.625};
        RawCopyContent content;
        content.metadata.maker = "Quenby";
        content.metadata.model = "Q1";
        content.metadata.focal_mm = 60;
        content.preview = cv::Mat3b(60, 90, cv::Vec3b(200, 120, 40));
        write_raw_copy(path, Existing::keep, mosaic, path, content, Progress());
    }
};

/// What stands under a tag of any directory of a file.
std::vector<unsigned char> tag_of(const fs::path& path, std::uint16_t tag) {
    const auto image = Exiv2::ImageFactory::open(path.string());
    image->readMetadata();
    for (const Exiv2::Exifdatum& d : image->exifData()) {
        if (d.tag() != tag) continue;
        std::vector<unsigned char> out(d.size());
        d.copy(out.data(), Exiv2::bigEndian);
        return out;
    }
    return {};
}

struct BadPixels {
    unsigned phase = 9;
    std::set<Place> points;
};

/// Byte for byte as the specification lays an opcode list out.
BadPixels listed_in(const std::vector<unsigned char>& bytes) {
    std::size_t at = 0;
    const auto next = [&] {
        REQUIRE(at + 4 <= bytes.size());
        const unsigned v = unsigned(bytes[at]) << 24 | unsigned(bytes[at + 1]) << 16 | unsigned(bytes[at + 2]) << 8 |
                           unsigned(bytes[at + 3]);
        at += 4;
        return v;
    };
    BadPixels out;
    REQUIRE(next() == 1);  // opcodes
    REQUIRE(next() == 5);  // FixBadPixelsList
    next();                // version
    next();                // flags
    next();                // bytes of parameters
    out.phase = next();
    const unsigned points = next();
    REQUIRE(next() == 0);  // rectangles
    for (unsigned i = 0; i < points; ++i) {
        const int row = static_cast<int>(next());
        out.points.insert({row, static_cast<int>(next())});
    }
    CHECK(at == bytes.size());
    return out;
}

/// The colour of a stored sample by the phase of the list: the phase names that of the first one.
int colour_by_phase(unsigned phase, int row, int column) {
    const int rows[4][4] = {{0, 1, 1, 2}, {1, 0, 2, 1}, {1, 2, 0, 1}, {2, 1, 1, 0}};
    return rows[phase][(row & 1) * 2 + (column & 1)];
}

}  // namespace

TEST_CASE("bad samples of a raw copy are where the specification looks for them, in their colour", "[studio][export]") {
    for (const VisiblePart& visible :
         {VisiblePart{0, 0, 140, 180}, VisiblePart{6, 8, 128, 160}, VisiblePart{5, 8, 128, 160},
          VisiblePart{6, 11, 128, 160}, VisiblePart{7, 9, 128, 160}}) {
        INFO("the border has " << visible.top << " rows and " << visible.left << " columns");
        const TemporaryFolder folder;
        const HotFrame frame(visible);
        frame.write(folder / "SP1.dng");
        FrameDevelopment facts = bare_development(folder / "SP1.dng");
        facts.fields.fields[static_cast<std::size_t>(Field::hot_pixel_repair)].value = {0, "on"};
        export_frame(folder / "SP1.dng", facts, plain_delivery(ExportFormat::dng), folder / "copy.dng", Existing::keep,
                     Progress());
        const BadPixels bad = listed_in(tag_of(folder / "copy.dng", 0xC740));
        CHECK(bad.points == frame.hot);
        REQUIRE(bad.phase < 4);
        for (int row = 0; row < 4; ++row)
            for (int column = 0; column < 4; ++column) {
                const int in_sight = ((row - visible.top) & 1) * 2 + ((column - visible.left) & 1);
                CHECK(colour_by_phase(bad.phase, row, column) == (in_sight + 1) / 2);
            }
    }
}
