// SPDX-License-Identifier: GPL-3.0-or-later
// 500 bodies, 2,000 tiers, 200,000 frames; and indexing 10,000 raw files beside a bare loop of Exiv2.
#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <exiv2/exiv2.hpp>

#include "base/files.h"
#include "base/parallel.h"
#include "baselines/lint.h"
#include "frames/dng_writer.h"
#include "large_studio.h"
#include "studio/frames/knowledge.h"
#include "studio/intake/take_in.h"

namespace optrel::bench {
namespace {

const LargeStudio& studio() {
    static const LargeStudio s = large_studio();
    return s;
}
const Fleet& fleet() {
    static const Fleet f(studio().entries, {});
    return f;
}
const FactsOfFrames& facts() {
    static const FactsOfFrames f = facts_of(studio().frames, fleet());
    return f;
}
const std::vector<FactsGroup>& groups() { return facts().groups(); }
const std::vector<FleetBody>& bodies() {
    static const std::vector<FleetBody> b = fleet_bodies(fleet(), studio().frames, facts());
    return b;
}

/// From metadata to fields: who took each frame, and what it gets.
void resolve_fleet(benchmark::State& state) {
    const Resolver resolver(studio().revision);
    for (auto _ : state) {
        const FactsOfFrames known = facts_of(studio().frames, fleet());
        parallel_for(
            static_cast<int>(known.size()),
            [&](int i) {
                ResolvedFrame out;
                resolver.resolve(known[i], out);
                benchmark::DoNotOptimize(out);
            },
            500);
    }
    state.counters["frames"] = static_cast<double>(studio().frames.size());
}

/// The same with every tier asked in order for a hundredth of the frames.
void resolve_plain(benchmark::State& state) {
    for (auto _ : state)
        for (std::size_t i = 0; i < facts().size(); i += 100) {
            const FrameFacts& f = facts()[i];
            std::vector<const Tier*> applying;
            for (const Tier& t : studio().revision.tiers)
                if (tier_applies(t, canonical_lens_of(t), f)) applying.push_back(&t);
            std::stable_sort(applying.begin(), applying.end(),
                             [](const Tier* a, const Tier* b) { return a->rank() < b->rank(); });
            ResolvedFrame out = neutral_start();
            for (const Tier* t : applying)
                for (const auto& [field, pin] : t->pins)
                    out.fields[static_cast<int>(field)].value = pin.at(field, f.iso);
            benchmark::DoNotOptimize(out);
        }
    state.counters["frames"] = static_cast<double>(facts().size() / 100);
}

/// What telling the reach of a changed pin takes: another resolver, and every group of frames twice.
void reach_of_a_change(benchmark::State& state) {
    const Resolver before(studio().revision);
    groups();
    bodies();
    for (auto _ : state) {
        Revision changed = studio().revision;
        changed.tiers[3].pins[Field::luminance_noise] = Pin::constant({33, ""});
        const Resolver after(changed);
        benchmark::DoNotOptimize(changed_values(before, after, Field::luminance_noise, groups(), bodies()));
    }
    state.counters["groups"] = static_cast<double>(groups().size());
}

void lint_all(benchmark::State& state) {
    groups();
    bodies();
    for (auto _ : state) benchmark::DoNotOptimize(lint(studio().revision, groups(), bodies()));
}

BENCHMARK(resolve_fleet)->Name("resolve_the_fleet/200000_frames")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(resolve_plain)
    ->Name("resolve_the_fleet/every_tier_in_order_2000_frames")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(reach_of_a_change)
    ->Name("reach_of_a_changed_pin/200000_frames")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(lint_all)->Name("lint/2000_tiers")->Unit(benchmark::kMillisecond)->UseRealTime();

/// Ten thousand small raw files with the metadata of a real one.
const std::vector<std::filesystem::path>& raw_files() {
    static const std::vector<std::filesystem::path> files = [] {
        const std::filesystem::path folder = std::filesystem::temp_directory_path() / "optrel-bench-raw";
        std::filesystem::create_directories(folder);
        RawPicture raw;
        raw.counts = cv::Mat1w(48, 64, std::uint16_t(900));
        raw.filter = {{{0, 1}, {1, 2}}};
        raw.black = {{{64, 64}, {64, 64}}};
        raw.white = 16000;
        Metadata m = studio().frames.front().metadata;
        m.distance_m = 1;
        write_dng(folder / "first.dng", raw, m);
        const std::string bytes = read_file(folder / "first.dng");
        std::vector<std::filesystem::path> out;
        for (int i = 0; i < 10000; ++i) {
            out.push_back(folder / fmt::format("f{:05}.dng", i));
            if (!std::filesystem::exists(out.back())) write_atomic(out.back(), bytes);
        }
        return out;
    }();
    return files;
}

void index_optrel(benchmark::State& state) {
    raw_files();
    const std::filesystem::path folder = std::filesystem::temp_directory_path() / "optrel-bench-index";
    for (auto _ : state) {
        std::filesystem::remove_all(folder);
        Store store(folder, Access::begin);
        std::vector<std::string> problems;
        Progress progress;
        index_files(
            raw_files(), {}, [&](const std::vector<FrameRecord>& portion) { store.frames().put(portion); }, problems,
            progress);
    }
}

void index_bare(benchmark::State& state) {
    raw_files();
    Exiv2::XmpParser::initialize();
    for (auto _ : state)
        for (const std::filesystem::path& path : raw_files()) {
            const auto image = Exiv2::ImageFactory::open(path.string());
            image->readMetadata();
            const Exiv2::ExifData& exif = image->exifData();
            std::string text;
            for (const auto get : {Exiv2::make, Exiv2::model, Exiv2::serialNumber, Exiv2::lensName, Exiv2::focalLength,
                                   Exiv2::fNumber, Exiv2::isoSpeed, Exiv2::subjectDistance})
                if (const auto it = get(exif); it != exif.end()) text += it->toString();
            for (const char* key :
                 {"Exif.Photo.BodySerialNumber", "Exif.Photo.LensModel", "Exif.Photo.LensSerialNumber",
                  "Exif.Photo.DateTimeOriginal", "Exif.Photo.FocalPlaneXResolution"})
                if (const auto it = exif.findKey(Exiv2::ExifKey(key)); it != exif.end()) text += it->toString();
            benchmark::DoNotOptimize(text);
        }
}

BENCHMARK(index_optrel)
    ->Name("index_10000_raw_files/optrel")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->Iterations(1);
BENCHMARK(index_bare)
    ->Name("index_10000_raw_files/bare_exiv2")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime()
    ->Iterations(1);

}  // namespace
}  // namespace optrel::bench
