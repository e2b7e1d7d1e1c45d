// SPDX-License-Identifier: GPL-3.0-or-later
#include "fuzz/readers.h"

#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>

#include "base/error.h"
#include "base/files.h"
#include "baselines/tier.h"
#include "exchange/camera_model.h"
#include "exchange/delivery.h"
#include "films/film_reader.h"
#include "fleet/claims.h"
#include "fleet/register_files.h"
#include "frames/colour_profile.h"
#include "frames/dng_writer.h"
#include "frames/embedded_preview.h"
#include "frames/metadata.h"
#include "frames/opcodes.h"
#include "optics/plausible.h"
#include "optics/profile_kind.h"
#include "render/planes.h"
#include "render/screen_colours.h"
#include "rollout/sheet.h"
#include "sensor/noise_json.h"
#include "sensor/noise_kind.h"
#include "sharing/bundle.h"
#include "sharing/exchange_answer.h"
#include "sharing/signing.h"
#include "support/colour_files.h"
#include "support/plain_raw.h"
#include "support/sample_measurements.h"
#include "support/sample_profile.h"

namespace optrel::test {
namespace {

namespace fs = std::filesystem;

/// Readers of other libraries want a path.
void as_file(const std::string& bytes, const char* ending, const std::function<void(const fs::path&)>& read) {
    const fs::path folder = fs::exists("/dev/shm") ? fs::path("/dev/shm") : fs::temp_directory_path();
    const fs::path file = folder / ("optrel-fuzz-" + std::to_string(::getpid()) + ending);
    std::ofstream(file, std::ios::binary).write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
    struct Remove {
        const fs::path& file;
        ~Remove() {
            std::error_code none;
            fs::remove(file, none);
        }
    } const removed{file};
    read(file);
}

std::string sound_opcodes() {
    WarpRectilinear warp;
    warp.planes = {{1, 0.1, 0.2, 0.3, 1e-4, 2e-4}};
    FixBadPixelsList bad;
    bad.points = {{3, 4}, {70, 9}};
    GainMap map;
    map.down = 2;
    map.across = 3;
    map.gain = {1, 2, 3, 4, 5, 6};
    return encode_opcodes({{warp}, {bad, false}, {map}, {FixVignetteRadial{{0.1}, {0.4, 0.6}}}});
}

std::string sound_sheet() {
    Sheet sheet;
    sheet.revision = 3;
    sheet.baseline[Field::exposure] = {0.5, ""};
    sheet.hand[Field::tint] = {3, ""};
    return sheet_to_xmp(sheet);
}

std::string sound_bundle() {
    Bundle b;
    b.title = "Seaweeds";
    b.parts = {{BundleKind::of(lens_profile_kind()), "p", "p", profile_to_json(sample_profile("a"))},
               {BundleKind::set, "s", "s", "{}"}};
    return bundle_bytes(b, nullptr);
}

std::string sound_camera() {
    const Profile p = sample_profile("a");
    return camera_to_text(fit_camera(FrameMap(p.nodes[0], p.geometry, p.geometry), false, 8), true, "");
}

std::string sound_page() {
    ExchangePage page;
    page.total = page.pages = 1;
    page.entries = {entry_of(sample_profile("a"))};
    page.entries[0].id = std::string(64, 'a');
    page.entries[0].key = std::string(64, 'b');
    return page_to_json(page);
}

std::string sound_frame() {
    Metadata m;
    m.maker = "Quenby";
    m.model = "Quenby Q5";
    m.body_serial = "77";
    m.lens = "Aldercroft 60mm";
    m.iso = 400;
    m.focal_mm = 60;
    std::string bytes;
    as_file("", ".dng", [&](const fs::path& file) {
        fs::remove(file);
        write_dng(file, plain_raw(), m);
        bytes = read_file(file);
    });
    return bytes;
}

/// Two grey pictures of 16 x 16 (YUV4MPEG2).
std::string sound_film() {
    std::string out = "YUV4MPEG2 W16 H16 F25:1 Ip A1:1 C420jpeg\n";
    for (int i = 0; i < 2; ++i) out += "FRAME\n" + std::string(16 * 16 * 3 / 2, '\x80');
    return out;
}

std::string sound_register() {
    Body body;
    body.maker = "Brimholt";
    body.model = "Brimholt B2";
    body.serial = "B2-0117";
    return bodies_to_csv({body});
}

std::string sound_noise() {
    NoiseMeasurement m;
    m.body.maker = "Brimholt";
    m.body.model = "Brimholt B2";
    m.body.body_serial = "B2-0117";
    m.frames = {"a.dng"};
    IsoNoise noise;
    noise.iso = 100;
    noise.white = 15871;
    for (ColourNoise& c : noise.colours) {
        c.gain = {2.5, 0.01};
        c.slope = {0.4, 0.001};
        c.floor = {1.5, 0.01};
        c.full_well = {40000, 100};
    }
    m.isos = {noise};
    m.findings = {{"light_leak", true, 100, "Dark frames are not dark.", "Cover the lens."}};
    return noise_to_json(m, "Iva", "2026-12-01T10:00:00Z");
}

std::string sound_defects() {
    DefectMap map = sample_defects("B2-7");
    map.pixels.push_back({9, 8, DefectKind::dead, {}, -80});
    map.lines = {{false, 20, 10, 39, 4, false}};
    return defects_to_json(map);
}

std::string sound_fingerprint() { return fingerprint_to_json(sample_fingerprint("B2-0117")); }

/// A raw copy of a small frame, with its preview.
std::string sound_preview() {
    RawMosaic mosaic;
    mosaic.whole = cv::Mat1w(32, 48, std::uint16_t(2000));
    mosaic.visible = {0, 0, 32, 48};
    mosaic.picture.counts = mosaic.whole;
    mosaic.picture.filter = {{{0, 1}, {1, 2}}};
    mosaic.picture.white = 16000;
    RawCopyContent content;
    content.metadata.maker = "Brimholt";
    content.metadata.model = "B2";
    content.preview = cv::Mat3b(24, 36, cv::Vec3b(200, 120, 40));
    std::string out;
    as_file("", ".dng", [&](const fs::path& file) {
        fs::remove(file);
        write_raw_copy(file, Existing::keep, mosaic, file, content, Progress());
        out = read_file(file);
    });
    return out;
}

/// All that a store does with a document.
void use_measurement(const MeasurementKind& kind, const std::string& bytes) {
    kind.read(bytes, "a.json");
    kind.require_plausible(bytes);
    kind.differences(kind.numbered(bytes, "m", 2), kind.with_source(bytes, {}));
    kind.following(bytes, bytes, OtherSettings::keep);
}

}  // namespace

const std::vector<FuzzedReader>& fuzzed_readers() {
    static const std::vector<FuzzedReader> all{
        {"sidecar",
         [](const std::string& bytes) {
             const Sheet sheet = sheet_from_xmp(bytes, "a.xmp");
             sheet_to_xmp(sheet);
         },
         sound_sheet},
        {"opcodes", [](const std::string& bytes) { encode_opcodes(decode_opcodes(bytes, "a.dng")); }, sound_opcodes},
        {"colours", [](const std::string& bytes) { colour_profile_from(bytes, "a.bin").contents(); },
         [] { return two_lights().bytes(); }},
        {"screen",
         [](const std::string& bytes) {
             if (bytes.empty()) return;  // stands for sRGB
             const ScreenColours screen({bytes, Intent::relative_colorimetric, true});
             Planes light(cv::Size(4, 1));
             for (cv::Mat1f& c : light.channel) c = cv::Mat1f(1, 4, 0.3f);
             screen.outside(light, screen.encoded(light));
         },
         [] { return icc_profile(ColourSpace::p3); }},
        {"profile", [](const std::string& bytes) { require_plausible(profile_from_json(bytes, "a.json")); },
         [] { return profile_to_json(sample_profile("a")); }},
        {"bundle", [](const std::string& bytes) { bundle_from(bytes, "a.optrel.zip"); }, sound_bundle},
        {"register", [](const std::string& bytes) { register_from_csv(bytes, "a.csv", {}); }, sound_register},
        {"preview",
         [](const std::string& bytes) {
             as_file(bytes, ".dng", [](const fs::path& file) { embedded_preview(file, 320); });
         },
         sound_preview},
        {"camera", [](const std::string& bytes) { node_of_camera(camera_from_text(bytes, "a.json"), {}, "a.json"); },
         sound_camera},
        {"answer", [](const std::string& bytes) { page_from_json(bytes, "an exchange"); }, sound_page},
        {"withdrawal", [](const std::string& bytes) { withdrawal_from_json(bytes, "an exchange"); },
         [] { return withdrawal_to_json(withdraw_key(SigningKey::make(), "Lost")); }},
        {"baseline", [](const std::string& bytes) { revision_to_json(revision_from_json(bytes, "a.json")); },
         [] { return revision_to_json(Revision{}); }},
        {"delivery", [](const std::string& bytes) { delivery_from_json(bytes, "a.json"); },
         [] { return delivery_to_json(plain_delivery(ExportFormat::tiff)); }},
        {"claim", [](const std::string& bytes) { claim_from_json(bytes, "a.json"); }, [] { return claim_to_json({}); }},
        {"noise", [](const std::string& bytes) { use_measurement(noise_kind(), bytes); }, sound_noise},
        {"defects", [](const std::string& bytes) { use_measurement(defect_kind(), bytes); }, sound_defects},
        {"fingerprint", [](const std::string& bytes) { use_measurement(fingerprint_kind(), bytes); },
         sound_fingerprint},
        {"metadata",
         [](const std::string& bytes) { as_file(bytes, ".dng", [](const fs::path& file) { read_metadata(file); }); },
         sound_frame},
        {"film",
         [](const std::string& bytes) {
             as_file(bytes, ".film", [](const fs::path& file) {
                 const auto film = open_film(file);
                 Planes light;
                 for (int i = 0; i < 3 && film->next(light);) ++i;
             });
         },
         sound_film},
    };
    return all;
}

bool reads(const FuzzedReader& reader, const std::string& bytes) {
    try {
        reader.read(bytes);
        return true;
    } catch (const Error& error) {
        if (std::string(error.what()).empty()) std::abort();
        return false;
    }
}

}  // namespace optrel::test
