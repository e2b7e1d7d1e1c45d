// SPDX-License-Identifier: GPL-3.0-or-later
// Pieces of a long film that is being written, in a folder beside it, so that an interrupted order does not compute
// finished pieces again.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "base/files.h"

namespace optrel {

/// Minimum number of pictures in a piece.
inline constexpr long long film_piece = 500;
/// Folder of a film's pieces: "shot.mkv.pieces".
std::filesystem::path film_pieces_folder(const std::filesystem::path& out);

class FilmPieces {
public:
    struct Piece {
        std::filesystem::path path;
        long long pictures = 0;
        long long last = 0;  ///< end time, in units of the source's time base
        double seconds = 0;  ///< end time in seconds from the beginning of the source
    };

    /// Finds the pieces of the order `same` and removes pieces of other orders. Throws Error(file) when another program
    /// works on them, and for a folder that Optrel did not create.
    FilmPieces(const std::filesystem::path& out, const std::string& same);

    const std::vector<Piece>& done() const { return done_; }
    long long pictures() const;
    std::vector<std::filesystem::path> paths() const;
    /// Path for the next piece. The piece counts after keep().
    std::filesystem::path next() const { return folder_ / "next.nut"; }
    void keep(long long pictures, long long last, double seconds);
    /// Removes the pieces, after the film is complete.
    void remove();

private:
    std::filesystem::path folder_;
    std::optional<FileLock> claim_;
    std::vector<Piece> done_;
};

}  // namespace optrel
