// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/films.h"

#include <fmt/format.h>

#include "base/error.h"
#include "exchange/export_recipe.h"
#include "frames/picture_writer.h"
#include "render/stages.h"
#include "studio/naming.h"
#include "studio/profile_file.h"

namespace optrel {

namespace {

FilmRecipe recipe_by(const Profile* profile, const FilmTaken& taken) {
    if (!(taken.focal_mm > 0) || !(taken.area_width_mm > 0))
        throw input_error(
            "A film does not say its focal length, nor what part of the sensor it shows; give both in mm (--focal, "
            "--area), or make a rule for its folder.");
    FilmRecipe out;
    out.taken = taken;
    out.fields = neutral_start();
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
    return out;
}

}  // namespace

FilmRecipe film_recipe(Store& store, const std::filesystem::path& film, const std::string& profile, double focal_mm,
                       double area_width_mm) {
    FilmRule rule = store.film_rules().rule_of(film).value_or(FilmRule());
    if (focal_mm > 0) rule.focal_mm = focal_mm;
    if (area_width_mm > 0) rule.area_width_mm = area_width_mm;
    if (!profile.empty()) rule.profile = profile;
    if (rule.profile.empty()) return recipe_by(nullptr, {rule.focal_mm, rule.area_width_mm});
    const std::vector<Profile> newest = store.profiles().newest();
    return recipe_by(&profile_named(newest, rule.profile), {rule.focal_mm, rule.area_width_mm});
}

FilmRecipe film_recipe(const std::filesystem::path& profile, double focal_mm, double area_width_mm) {
    const Profile p = read_profile(profile);
    return recipe_by(&p, {focal_mm, area_width_mm});
}

void write_film_still(const std::filesystem::path& film, double seconds, const std::filesystem::path& out,
                      Existing existing) {
    const OutputFormat& format = export_output(ExportFormat::tiff);
    check_output(out, format, existing);
    FilmFacts facts;
    Planes light = film_still(film, seconds, facts);
    if (facts.wide_colours) {
        const cv::Matx33f to_srgb = srgb_to(ColourSpace::rec2020).inv();
        for (int row = 0; row < light.size().height; ++row)
            for (int i = 0; i < light.size().width; ++i) {
                const cv::Vec3f c =
                    to_srgb * cv::Vec3f(light.channel[0](row, i), light.channel[1](row, i), light.channel[2](row, i));
                for (int k = 0; k < 3; ++k) light.channel[k](row, i) = c[k];
            }
    }
    Metadata metadata;
    metadata.kind = FrameKind::rendered;
    write_picture(out, existing, encoded(light), plain_recipe(ExportFormat::tiff).coding(),
                  icc_profile(ColourSpace::srgb), {film, metadata}, [] {});
}

}  // namespace optrel
