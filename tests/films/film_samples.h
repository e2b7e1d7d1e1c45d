// SPDX-License-Identifier: GPL-3.0-or-later
// Films for tests: ruled by a lens that bends, with companions, and what is read back from them.
#pragma once

#include <string>
#include <vector>

#include "films/correct_film.h"
#include "libav.h"
#include "support/support.h"

namespace optrel::test {

inline constexpr double film_area_mm = 23.1616;  ///< the width of the sample profile's sensor

Profile film_lens();
FrameMap film_map(const cv::Size& size);
/// The height of the dark line nearest to a row, in a column.
double line_at(const Planes& p, int row, int column);

/// Lines that the lens bends and that move down by a pixel from picture to picture.
void write_film(const fs::path& path, const cv::Size& size, int pictures, FilmCodec codec = FilmCodec::ffv1,
                FilmCurve curve = FilmCurve::bt709, const std::vector<long long>& times = {});
/// The same film with a sound of its own, turned by 90 degrees, with a time code, or marked as interlaced.
void add_to_film(const fs::path& from, const fs::path& to, bool sound, bool turned, bool interlaced);

FilmDone corrected(const fs::path& film, const fs::path& out, FilmCodec codec = FilmCodec::ffv1);
std::vector<Planes> pictures_of(const fs::path& film, std::vector<long long>* times = nullptr);
/// The bytes of its sound.
std::string sound_of(const fs::path& film);
/// Of the whole film, or of one of its streams.
std::string tag_of(const fs::path& film, const char* key, int stream = -1);

}  // namespace optrel::test
