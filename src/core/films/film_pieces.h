// SPDX-License-Identifier: GPL-3.0-or-later
// The pieces of a long film that is being written, in a folder beside it: what was finished once is not computed again
// when the order was interrupted.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "base/files.h"

namespace optrel {

/// How many pictures a piece has, at least.
inline constexpr long long film_piece = 500;
/// "shot.mkv.pieces": the folder of the pieces of a film.
std::filesystem::path film_pieces_folder(const std::filesystem::path& out);

class FilmPieces {
public:
    struct Piece {
        std::filesystem::path path;
        long long pictures = 0;
        long long last = 0;  ///< when its last picture is shown, in the units of the source's clock
        double seconds = 0;  ///< the same, from the beginning of the source
    };

    /// Finds the pieces of an order; those of another are removed. `same` says which order it is. Throws Error(file)
    /// where another program works on them, and for a folder that Optrel did not make.
    FilmPieces(const std::filesystem::path& out, const std::string& same);

    const std::vector<Piece>& done() const { return done_; }
    long long pictures() const;
    std::vector<std::filesystem::path> paths() const;
    /// Where the next piece is written, whole or not at all; it counts once it is kept.
    std::filesystem::path next() const { return folder_ / "next.nut"; }
    void keep(long long pictures, long long last, double seconds);
    /// When the film is there.
    void remove();

private:
    std::filesystem::path folder_;
    std::optional<FileLock> claim_;
    std::vector<Piece> done_;
};

}  // namespace optrel
