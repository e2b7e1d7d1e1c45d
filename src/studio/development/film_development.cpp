// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/film_development.h"

#include <fmt/format.h>

#include "base/error.h"
#include "films/film_module.h"
#include "films/film_reader.h"
#include "studio/baselines/naming.h"
#include "studio/profiles/profile_file.h"

namespace optrel {

namespace {

FrameDevelopment development_by(const std::filesystem::path& film, const Profile* profile, const FilmSource& taken) {
    if (!(taken.focal_mm > 0) || !(taken.area_width_mm > 0))
        throw input_error(fmt::format(
            "The film {} does not say its focal length, nor what part of the sensor it shows; give both in mm "
            "(--focal, --area), or make a rule for its folder.",
            film.string()));
    const FilmFacts facts = open_film(film)->facts();
    FrameDevelopment out;
    out.film = taken;
    out.fields = neutral_start();
    out.metadata.kind = FrameKind::rendered;
    out.metadata.width = facts.width;
    out.metadata.height = facts.height;
    out.metadata.focal_mm = taken.focal_mm;
    out.metadata.pitch_um = 1000 * taken.area_width_mm / facts.width;
    if (facts.comment.find(std::string(film_mark) + ": corrected") != std::string::npos)
        out.metadata.corrected = facts.comment;
    if (!profile) return out;
    const PlacedNode placed = node_at(*profile, {taken.focal_mm, 0, 0});
    if (placed.placement == Placement::extrapolated)
        throw input_error(fmt::format("The profile {} was not measured at {:g} mm, nor about it; choose another.",
                                      profile->name, taken.focal_mm));
    if (0.5 * taken.area_width_mm > 1.15 * placed.node.largest_radius_mm)
        throw input_error(
            fmt::format("The film shows {:g} mm of the sensor, the profile {} reaches {:.1f} mm from the "
                        "middle; look whether the width is right.",
                        taken.area_width_mm, profile->name, placed.node.largest_radius_mm));
    out.profile = AppliedProfile{placed.node, profile->geometry};
    out.chosen = fmt::format("{} version {}", profile->name, profile->version);
    out.profile_id = profile->id;
    out.profile_version = profile->version;
    out.metadata.lens = profile->name;
    return out;
}

}  // namespace

FrameDevelopment film_development(const Store& store, const std::filesystem::path& film, const std::string& profile,
                                  double focal_mm, double area_width_mm) {
    FilmRule rule = store.film_rules().rule_of(film).value_or(FilmRule());
    if (focal_mm > 0) rule.focal_mm = focal_mm;
    if (area_width_mm > 0) rule.area_width_mm = area_width_mm;
    if (!profile.empty()) rule.profile = profile;
    FrameDevelopment out;
    if (rule.profile.empty()) {
        out = development_by(film, nullptr, {rule.focal_mm, rule.area_width_mm});
    } else {
        const std::vector<Profile> profiles = store.profiles().all_versions();
        out = development_by(film, &profile_named(profiles, rule.profile), {rule.focal_mm, rule.area_width_mm});
    }
    out.body = rule.body;
    return out;
}

FrameDevelopment film_development(const std::filesystem::path& film, const std::filesystem::path& profile,
                                  double focal_mm, double area_width_mm) {
    const Profile p = read_profile(profile);
    return development_by(film, &p, {focal_mm, area_width_mm});
}

}  // namespace optrel
