// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/profile_use.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <unordered_map>

#include "base/error.h"
#include "base/times.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/sensor_size.h"
#include "studio/profiles/frame_profile.h"

namespace optrel {
namespace {

/// Caches the answer for frames that no profile can distinguish.
class Grader {
public:
    explicit Grader(const std::vector<Profile>& profiles) : profiles_(profiles) {}

    struct Answer {
        MatchGrade grade = MatchGrade::none;
        std::vector<std::string> against;
    };
    const Answer& operator()(const Metadata& m, const PictureGeometry& geometry) {
        const std::string key =
            fmt::format("{}\n{}\n{:.3g} {:.3g} {:.2g} {} {} {:.4g}", m.lens, m.lens_serial, m.focal_mm, m.aperture,
                        m.distance_m, geometry.width, geometry.height, geometry.pitch_um);
        const auto [it, fresh] = known_.try_emplace(key);
        if (fresh) {
            const std::vector<ProfileMatch> all = candidates(profiles_, m, geometry);
            if (!all.empty()) it->second = {all.front().grade, all.front().against};
        }
        return it->second;
    }

private:
    const std::vector<Profile>& profiles_;
    std::unordered_map<std::string, Answer> known_;
};

/// Hypothetical frame with a lens, at the middle of its range.
Metadata imagined(const Body& body, const ModelEntry* model, const LensEntry& lens) {
    Metadata m;
    m.maker = body.maker;
    m.model = body.model;
    m.body_serial = body.serial;
    m.lens = lens.lens;
    m.lens_serial = lens.serial;
    m.focal_mm = lens.zoom() ? std::sqrt(lens.focal_min_mm * lens.focal_max_mm) : lens.focal_min_mm;
    const bool own = body.width > 0 || !model;
    m.width = own ? body.width : model->width;
    m.height = own ? body.height : model->height;
    m.pitch_um = own ? body.pitch_um : model->pitch_um;
    return m;
}

}  // namespace

std::vector<LensUse> lens_use(const std::vector<FrameRecord>& frames, const Fleet& fleet,
                              const std::vector<Profile>& profiles) {
    Grader grade(profiles);
    std::map<std::string, LensUse> found;
    for (const FrameRecord& f : frames) {
        const FrameKnowledge known = know(f.path, f.metadata, fleet);
        LensUse& use = found[canonical_lens_text(known.metadata.lens)];
        if (use.frames++ == 0) use.lens = known.metadata.lens;
        if (known.metadata.lens.empty()) {
            ++use.grades[MatchGrade::none];
            continue;
        }
        const Metadata m = with_pitch(known.metadata, profiles);
        const Grader::Answer& answer = grade(m, geometry_of(m));
        ++use.grades[answer.grade];
        if (answer.grade == MatchGrade::none) use.against = answer.against;
    }
    std::vector<LensUse> out;
    for (auto& [lens, use] : found) out.push_back(std::move(use));
    std::stable_sort(out.begin(), out.end(),
                     [](const LensUse& a, const LensUse& b) { return a.without() > b.without(); });
    return out;
}

std::vector<ProfileConcern> profile_concerns(const std::vector<Profile>& profiles) {
    std::map<std::string, std::vector<const Profile*>> by_id;
    for (const Profile& p : profiles) by_id[p.id].push_back(&p);
    std::vector<ProfileConcern> out;
    for (auto& [id, versions] : by_id) {
        std::sort(versions.begin(), versions.end(),
                  [](const Profile* a, const Profile* b) { return a->version > b->version; });
        const Profile& newest = *versions.front();
        const std::string name = newest.name + (newest.lens_serial.empty() ? "" : " " + newest.lens_serial);
        if (versions.size() < 2) continue;
        // The same lens setting in both versions, if there is one.
        for (const ProfileNode& node : newest.nodes)
            for (const ProfileNode& before : versions[1]->nodes) {
                if (std::abs(std::log(node.focal_mm / before.focal_mm)) > 0.03 ||
                    std::abs(node.setting.aperture - before.setting.aperture) > 0.05)
                    continue;
                try {
                    const ProfileDifference d =
                        compare_nodes(before, node, newest.geometry, same_lens(*versions[1], newest));
                    if (d.verdict != RepeatVerdict::agrees && (out.empty() || out.back().profile_id != id))
                        out.push_back({id, name, d.verdict,
                                       fmt::format("Version {} against version {} at {}: {}", newest.version,
                                                   versions[1]->version, to_string(node.setting), d.sentence())});
                } catch (const Error&) {
                    // Too little overlap for a comparison.
                }
            }
    }
    return out;
}

LensGrid lens_grid(const std::vector<FrameRecord>& frames, const Fleet& fleet, const std::vector<Profile>& profiles,
                   Progress& progress) {
    LensGrid grid;
    std::unordered_map<std::string, std::size_t> row, column;
    for (const Body& b : fleet.entries().bodies) {
        row[b.id] = grid.bodies.size();
        grid.bodies.push_back({b.id, b.label(), 0});
    }
    for (const LensEntry& l : fleet.entries().lenses) {
        column[l.id] = grid.lenses.size();
        grid.lenses.push_back({l.id, l.label(), 0});
    }
    const auto column_of = [&](const LensAnswer& lens) {
        const std::string key = fleet.lens(lens.id) ? lens.id : canonical_lens_text(lens.lens);
        const auto [it, fresh] = column.try_emplace(key, grid.lenses.size());
        if (fresh) grid.lenses.push_back({key, lens.lens + " (copy unknown)", 0});
        return it->second;
    };
    Grader grade(profiles);
    std::map<std::pair<std::size_t, std::size_t>, GridCell> taken;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        if (i % 1000 == 0) progress.check();
        const FrameKnowledge known = know(frames[i].path, frames[i].metadata, fleet);
        const auto r = row.find(known.facts.body);
        if (r == row.end() || known.lens.lens.empty()) continue;
        const std::size_t c = column_of(known.lens);
        GridCell& cell = taken[{r->second, c}];
        const Metadata m = with_pitch(known.metadata, profiles);
        const PictureGeometry geometry = geometry_of(m);
        const MatchGrade g = grade(m, geometry).grade;
        if (cell.frames == 0 || g < cell.poorest()) {
            cell.example = m;
            cell.geometry = geometry;
        }
        ++cell.frames;
        ++cell.grades[g];
        ++grid.bodies[r->second].frames;
        ++grid.lenses[c].frames;
    }
    grid.cells.resize(grid.bodies.size() * grid.lenses.size());
    for (std::size_t r = 0; r < grid.bodies.size(); ++r) {
        progress.check();
        const Body& body = *fleet.body(grid.bodies[r].id);
        for (std::size_t c = 0; c < grid.lenses.size(); ++c) {
            GridCell& cell = grid.cells[r * grid.lenses.size() + c];
            if (const auto it = taken.find({r, c}); it != taken.end()) {
                cell = std::move(it->second);
                continue;
            }
            const LensEntry* lens = fleet.lens(grid.lenses[c].id);
            if (!lens) continue;
            cell.example = imagined(body, fleet.model(body.camera()), *lens);
            if (cell.example.width <= 0) continue;
            cell.geometry = geometry_of(cell.example);
            ++cell.grades[grade(cell.example, cell.geometry).grade];
        }
    }
    return grid;
}

}  // namespace optrel
