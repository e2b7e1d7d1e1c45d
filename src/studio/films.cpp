// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/films.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "films/film_module.h"
#include "frames/picture_writer.h"
#include "render/stages.h"
#include "studio/account.h"
#include "studio/naming.h"
#include "studio/profile_file.h"

namespace optrel {

namespace {

FrameDevelopment development_by(const std::filesystem::path& film, const Profile* profile, const FilmTaken& taken) {
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

FrameDevelopment film_development(Store& store, const std::filesystem::path& film, const std::string& profile,
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

std::vector<FilmLook> look_at_films(Store& store, const std::vector<std::filesystem::path>& films,
                                    const Progress& progress) {
    std::vector<FilmLook> out;
    for (const std::filesystem::path& film : films) {
        progress.check();
        FilmLook look{film, {}, store.film_rules().rule_of(film), {}};
        try {
            look.facts = open_film(film)->facts();
        } catch (const std::exception& error) {
            look.problem = error.what();
        }
        out.push_back(std::move(look));
    }
    return out;
}

Exported export_film(const std::filesystem::path& film, const FrameDevelopment& facts, const Delivery& delivery,
                     const std::filesystem::path& out, Existing existing, Progress& progress) {
    check_output(out, film_output(), existing);
    FilmOrder order{film, *facts.film, facts.fields, facts.profile, {}};
    const Account account = account_of(film, file_hash(film, [&] { progress.check(); }), facts, delivery);
    order.account = account_to_json(account);
    Account timeless = account;
    timeless.time.clear();
    order.same = account_to_json(timeless);
    const FilmDone corrected = correct_film(order, out, delivery.film.codec, existing, progress);
    Exported done = about_to_export(film, facts, out);
    done.pictures = corrected.frames;
    for (const std::string& remark : corrected.remarks) done.remarks.push_back(film.string() + ": " + remark);
    return done;
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
    write_picture(out, existing, encoded(light), plain_delivery(ExportFormat::tiff).coding(),
                  icc_profile(ColourSpace::srgb), {film, metadata}, [] {});
}

}  // namespace optrel
