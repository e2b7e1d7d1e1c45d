// SPDX-License-Identifier: GPL-3.0-or-later
#include "films/correct_film.h"

#include <fmt/format.h>

#include <cmath>

#include "base/error.h"
#include "base/words.h"
#include "films/film_module.h"
#include "render/demosaic.h"
#include "render/resample.h"
#include "render/stages.h"
#include "render/tone.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

std::string note_of(const std::optional<AppliedProfile>& profile, const FilmTaken& taken) {
    if (!profile) return "fields alone, no lens profile";
    return fmt::format("corrected by a lens profile at {:g} mm, {:g} mm of the sensor", taken.focal_mm,
                       taken.area_width_mm);
}

/// What says something of raw frames only would be passed over in silence.
void refuse_raw_fields(const ResolvedFrame& fields) {
    for (const Field f :
         {Field::white_balance, Field::temperature, Field::tint, Field::warmth_offset, Field::tint_offset,
          Field::colour_source, Field::colour_look, Field::colour_curve, Field::hot_pixel_repair})
        if (fields[f].value != info(f).neutral)
            throw input_error(
                fmt::format("{} is for raw frames; a film has no use for it, so leave it out.", info(f).label));
}

void tell_of(const FilmReader& film, FilmDone& done) {
    const FilmFacts& f = film.facts();
    if (f.curve_assumed)
        done.remarks.push_back(fmt::format("The film does not say its curve; {} was assumed.", to_string(f.curve)));
    if (f.comment.find(std::string(film_mark) + ": corrected") != std::string::npos)
        done.remarks.emplace_back("The film says that it was corrected already; it was corrected once more.");
    if (film.damaged() > 0)
        done.remarks.push_back(fmt::format("{} pictures could not be decoded and are left out.", film.damaged()));
    const long long missing = f.frames - done.frames - film.damaged();
    if (f.frames > 0 && missing > std::max<long long>(2, f.frames / 100))
        done.remarks.push_back(fmt::format(
            "The pictures end after {} of {}: the film is cut off, or its sound is longer.", done.frames, f.frames));
}

}  // namespace

FilmDone correct_film(const FilmOrder& order, const fs::path& out, FilmCodec codec, Existing existing,
                      Progress& progress) {
    const fs::path& film = order.film;
    const FilmTaken& taken = order.taken;
    const ResolvedFrame& fields = order.fields;
    std::error_code ignored;
    if (fs::exists(out, ignored) && fs::equivalent(film, out, ignored))
        throw input_error(fmt::format("{} is the film itself, which is never replaced; name another.", out.string()));
    check_output(out, film_output(), existing);
    if (fields[Field::crop].value != info(Field::crop).neutral)
        throw input_error("A crop would change the size of the film; leave it at none.");
    refuse_raw_fields(fields);
    const std::unique_ptr<FilmReader> reader = open_film(film);
    const FilmFacts& facts = reader->facts();
    const cv::Size size(facts.width, facts.height);
    const TakenWith with{1000 * taken.area_width_mm / facts.width, taken.focal_mm, 1};
    const Framing framing = framing_of(fields, order.profile, size, with);
    const ToneSettings settings = tone_settings(fields, {});
    FilmDone done;
    write_output_with(out, film_output(), existing, [&](const fs::path& part) {
        const auto writer = begin_film({part, out, codec, note_of(order.profile, taken)}, *reader);
        if (framing.view.lens().has_falloff()) {
            Planes gain(size);
            for (cv::Mat1f& c : gain.channel) c.setTo(1);
            undo_falloff(gain, Sampling::all_of(size), framing.view.lens());
            reader->multiply_by(std::move(gain));
        }
        progress.start(static_cast<int>(std::min<long long>(facts.frames, 1 << 30)), "Correcting a film");
        std::optional<Mesh> mesh;
        const Sampling whole = Sampling::all_of(size);
        // Where nothing parts the colours, their places are looked up once.
        if (framing.moves)
            mesh.emplace(framing.view, whole, whole, framing.fringes ? Fringes::as_recorded : Fringes::aligned);
        Planes light, corrected;
        done.frames = 0;
        while (reader->next(light)) {
            progress.check();
            treat_noise(light, fields, progress);
            if (mesh)
                mesh->resample(light, corrected, progress);
            else
                corrected = light;
            suppress_fringes(corrected, fringe_recipe(fields));
            tone(corrected, cv::Matx33f::eye(), settings);
            sharpen_by(corrected, fields);
            writer->write(corrected, reader->time());
            ++done.frames;
            progress.step();
        }
        if (done.frames == 0)
            throw input_error(fmt::format("{} holds no picture that can be decoded.", printable(film.string())));
        writer->finish();
    });
    tell_of(*reader, done);
    return done;
}

Planes film_still(const fs::path& film, double seconds, FilmFacts& facts) {
    const std::unique_ptr<FilmReader> reader = open_film(film);
    facts = reader->facts();
    reader->seek(seconds);
    Planes light, before;
    bool any = false;
    while (reader->next(light)) {
        const double shown = reader->seconds();
        if (any && shown > seconds + 1e-6) return before;
        any = true;
        for (int c = 0; c < 3; ++c) light.channel[c].copyTo(before.channel[c]);
        if (facts.frames_per_second > 0 && shown + 0.999 / facts.frames_per_second > seconds) return before;
    }
    throw input_error(fmt::format("{} has no picture at {:g} s; it lasts {:.2f} s.", printable(film.string()), seconds,
                                  facts.seconds));
}

}  // namespace optrel
