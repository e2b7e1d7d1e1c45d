// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/exports/films.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "films/film_module.h"
#include "frames/picture_writer.h"
#include "render/stages.h"
#include "studio/development/film_development.h"
#include "studio/exports/account.h"

namespace optrel {

std::vector<FilmLook> look_at_films(const Store& store, const std::vector<std::filesystem::path>& films,
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
