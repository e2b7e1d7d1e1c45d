// SPDX-License-Identifier: GPL-3.0-or-later
#include "films/correct_film.h"

#include <fmt/format.h>

#include <cmath>

#include "base/error.h"
#include "base/files.h"
#include "base/paths.h"
#include "base/words.h"
#include "films/film_module.h"
#include "films/film_pieces.h"
#include "render/demosaic.h"
#include "render/resample.h"
#include "render/stages.h"
#include "render/tone.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

std::string note_of(const std::optional<AppliedProfile>& profile, const FilmSource& taken) {
    if (!profile) return "fields alone, no lens profile";
    return fmt::format("corrected by a lens profile at {:g} mm, {:g} mm of the sensor", taken.focal_mm,
                       taken.area_width_mm);
}

/// Refuses fields for raw frames, which would have no effect.
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

namespace {

/// The correction of one film, starting at the reader's next picture.
class FilmWork {
public:
    FilmWork(const FilmOrder& order, FilmReader& reader, const Framing& framing)
        : order_(order), reader_(reader), framing_(framing), tone_(tone_settings(order.fields, {})) {
        const cv::Size size(reader.facts().width, reader.facts().height);
        const Sampling whole = Sampling::all_of(size);
        if (framing.view.lens().has_falloff()) {
            Planes gain(size);
            for (cv::Mat1f& c : gain.channel) c.setTo(1);
            undo_falloff(gain, whole, framing.view.lens());
            reader.multiply_by(std::move(gain));
        }
        // Without displacement between colours, positions are computed once for all.
        if (framing.moves)
            mesh_.emplace(framing.view, whole, whole,
                          framing.fringes ? ColourPlanes::as_recorded : ColourPlanes::aligned);
    }

    /// The next picture of the source; false at its end.
    bool next() { return reader_.next(light_); }
    /// Corrects the current picture and writes it.
    void write(FilmWriter& to, Progress& progress) {
        progress.check();
        treat_noise(light_, order_.fields, nullptr, progress);
        if (mesh_)
            mesh_->resample(light_, corrected_, progress);
        else
            corrected_ = light_;
        apply_defringing(corrected_, defringing_settings(order_.fields));
        tone(corrected_, cv::Matx33f::eye(), tone_);
        sharpen_by(corrected_, order_.fields, nullptr);
        to.write(corrected_, reader_.time());
        progress.step();
    }

private:
    const FilmOrder& order_;
    FilmReader& reader_;
    const Framing& framing_;
    const ToneSettings tone_;
    std::optional<Mesh> mesh_;
    Planes light_, corrected_;
};

void none_left(const fs::path& film) {
    throw input_error(fmt::format("{} holds no picture that can be decoded.", printable(film.string())));
}

long long in_one_go(FilmWork& work, FilmReader& reader, const FilmTarget& target, const fs::path& film,
                    std::vector<std::string>& remarks, Progress& progress) {
    const auto writer = begin_film(target, reader);
    long long pictures = 0;
    for (; work.next(); ++pictures) work.write(*writer, progress);
    if (pictures == 0) none_left(film);
    writer->finish();
    remarks = writer->remarks();
    return pictures;
}

/// Continues after the last complete piece.
void write_pieces(FilmWork& work, FilmReader& reader, FilmPieces& pieces, FilmTarget target, const fs::path& film,
                  Progress& progress) {
    double shown = -1;
    if (!pieces.done().empty()) {
        shown = pieces.done().back().seconds;
        target.after = pieces.done().back().last;
        reader.seek(shown);
        for (long long i = 0; i < pieces.pictures(); ++i) progress.step();
    }
    constexpr double same_instant = 2e-6;  // pieces store microseconds
    bool more = work.next();
    while (more && !pieces.done().empty() && reader.seconds() <= shown + same_instant) {
        progress.check();
        more = work.next();
    }
    while (more) {
        long long pictures = 0;
        write_atomic_with(pieces.next(), [&](const fs::path& part) {
            target.part = part;
            const auto writer = begin_film(target, reader);
            // A piece ends where time advances, so that the beginning of the next one is known.
            while (more && (pictures < film_piece || reader.seconds() <= shown + same_instant)) {
                shown = reader.seconds();
                work.write(*writer, progress);
                ++pictures;
                more = work.next();
            }
            writer->finish();
            target.after = writer->last_time();
        });
        pieces.keep(pictures, target.after, shown);
    }
    if (pieces.done().empty()) none_left(film);
}

/// True when the container or the codec declares one frame rate for the whole film. Only then the source is read
/// completely to check it.
bool declares_rate(const FilmTarget& target) {
    return lowered_extension(target.wanted) == ".mkv" || target.codec == FilmCodec::h265;
}

Framing framing_of_film(const FilmOrder& order, const FilmFacts& facts) {
    const CaptureGeometry with{1000 * order.taken.area_width_mm / facts.width, order.taken.focal_mm, 1};
    return framing_of(order.fields, order.profile, {facts.width, facts.height}, with);
}

}  // namespace

FilmDone correct_film(const FilmOrder& order, const fs::path& out, FilmCodec codec, Existing existing,
                      Progress& progress) {
    const fs::path& film = order.film;
    if (same_file(film, out))
        throw input_error(fmt::format("{} is the film itself, which is never replaced; name another.", out.string()));
    check_output(out, film_output(), existing);
    if (order.fields[Field::crop].value != info(Field::crop).neutral)
        throw input_error("A crop would change the size of the film; leave it at none.");
    refuse_raw_fields(order.fields);
    const std::unique_ptr<FilmReader> reader = open_film(film);
    const FilmFacts& facts = reader->facts();
    const Framing framing = framing_of_film(order, facts);
    FilmWork work(order, *reader, framing);
    FilmTarget target{{}, out, codec, note_of(order.profile, order.taken), order.account};
    progress.start(static_cast<int>(std::min<long long>(facts.frames, 1 << 30)), "Correcting a film");
    if (declares_rate(target)) target.even_rate = reader->even_rate([&] { progress.check(); });
    FilmDone done;
    std::optional<FilmPieces> pieces;
    if (!order.same.empty() && facts.frames > film_piece) {
        pieces.emplace(out, order.same);
        FilmTarget piece = target;
        piece.piece = true;
        write_pieces(work, *reader, *pieces, piece, film, progress);
        done.frames = pieces->pictures();
    }
    write_output_with(out, film_output(), existing, [&](const fs::path& part) {
        target.part = part;
        if (pieces)
            done.remarks = join_film(target, *open_film(film), pieces->paths(), progress);
        else
            done.frames = in_one_go(work, *reader, target, film, done.remarks, progress);
    });
    if (pieces) pieces->remove();
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
