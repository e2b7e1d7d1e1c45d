// SPDX-License-Identifier: GPL-3.0-or-later
#include "films/film_pieces.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <regex>

#include "base/error.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

constexpr const char *order_file = "order.txt", *mark = "optrel film pieces, form 2\n";

/// "00003-500-38400-59960000.nut": number, pictures, clock, microseconds.
std::optional<FilmPieces::Piece> piece_of(const fs::path& path) {
    static const std::regex form("[0-9]{5}-([0-9]{1,9})-(-?[0-9]{1,18})-([0-9]{1,15})\\.nut");
    std::smatch parts;
    const std::string name = path.filename().string();
    if (!std::regex_match(name, parts, form)) return std::nullopt;
    return FilmPieces::Piece{path, std::stoll(parts[1]), std::stoll(parts[2]), 1e-6 * std::stod(parts[3])};
}

}  // namespace

fs::path film_pieces_folder(const fs::path& out) { return out.parent_path() / (out.filename().string() + ".pieces"); }

FilmPieces::FilmPieces(const fs::path& out, const std::string& same) : folder_(film_pieces_folder(out)) {
    const fs::path order = folder_ / order_file;
    std::error_code none;
    if (fs::exists(folder_, none) && !fs::is_regular_file(order, none) && !fs::is_empty(folder_, none))
        throw file_error(fmt::format(
            "{} is to hold the pieces of the film, but something else stands there; move it away.", folder_.string()));
    if (!fs::is_directory(folder_, none) && !make_folder_durable(folder_) && !fs::is_directory(folder_, none))
        throw file_error(
            fmt::format("The folder {} for the pieces of the film cannot be made; look whether the disk "
                        "may be written to.",
                        folder_.string()));
    if (auto claim = FileLock::try_own(folder_ / "lock"))
        claim_.emplace(std::move(*claim));
    else
        throw file_error(
            fmt::format("{} is being written by another program; wait for it, or name another file.", out.string()));
    const std::string wanted = mark + same;
    const bool known = fs::is_regular_file(order, none) && read_file(order) == wanted;
    std::vector<Piece> found;
    for (const auto& entry : fs::directory_iterator(folder_))
        if (auto piece = piece_of(entry.path())) found.push_back(std::move(*piece));
    std::sort(found.begin(), found.end(), [](const Piece& a, const Piece& b) { return a.path < b.path; });
    for (Piece& piece : found) {
        const bool follows = piece.path.filename().string().rfind(fmt::format("{:05}-", done_.size() + 1), 0) == 0;
        if (known && follows)
            done_.push_back(std::move(piece));
        else
            fs::remove(piece.path, none);
    }
    if (!known) write_atomic(order, wanted);
}

long long FilmPieces::pictures() const {
    long long out = 0;
    for (const Piece& p : done_) out += p.pictures;
    return out;
}

std::vector<fs::path> FilmPieces::paths() const {
    std::vector<fs::path> out;
    for (const Piece& p : done_) out.push_back(p.path);
    return out;
}

void FilmPieces::keep(long long pictures, long long last, double seconds) {
    const fs::path path = folder_ / fmt::format("{:05}-{}-{}-{}.nut", done_.size() + 1, pictures, last,
                                                std::llround(1e6 * std::max(0.0, seconds)));
    fs::rename(next(), path);  // after a power failure the piece is computed again
    done_.push_back({path, pictures, last, seconds});
}

void FilmPieces::remove() {
    std::error_code none;
    claim_.reset();
    for (const Piece& p : done_) fs::remove(p.path, none);
    sweep_parts(folder_);
    for (const char* name : {order_file, "next.nut", "lock"}) fs::remove(folder_ / name, none);
    fs::remove(folder_, none);  // fails when it contains other files
}

}  // namespace optrel
