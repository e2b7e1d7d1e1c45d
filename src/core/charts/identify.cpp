// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/identify.h"

#include <array>
#include <optional>

#include <map>
#include <opencv2/aruco.hpp>
#include <opencv2/imgproc.hpp>

namespace optrel {
namespace {

/// A dictionary of marker codes, and the size of the markers in squares.
struct Code {
    const cv::aruco::Dictionary* words;
    double share;
    int side() const { return words->markerSize + 2; }
};

const cv::aruco::Dictionary& dictionary(int name) {
    static const std::map<int, cv::Ptr<cv::aruco::Dictionary>> all = [] {
        std::map<int, cv::Ptr<cv::aruco::Dictionary>> out;
        for (const int n : {cv::aruco::DICT_5X5_1000, cv::aruco::DICT_4X4_1000, cv::aruco::DICT_6X6_1000,
                            cv::aruco::DICT_7X7_1000, cv::aruco::DICT_ARUCO_ORIGINAL})
            out[n] = cv::aruco::getPredefinedDictionary(n);
        return out;
    }();
    return *all.at(name);
}

/// Reads the cells of the marker in a square with these corners (clockwise from the top left of the lattice). Empty
/// when the square has no two tones or the border is not black.
cv::Mat1b read_bits(const cv::Mat1f& picture, const std::array<Vec2, 4>& corners, const Code& code) {
    const int side = code.side();
    const double margin = (1 - code.share) / 2, cell = code.share / side;
    cv::Point2f from[4] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}}, to[4];
    for (int k = 0; k < 4; ++k) to[k] = {static_cast<float>(corners[k].x()), static_cast<float>(corners[k].y())};
    const cv::Matx33d h = cv::getPerspectiveTransform(from, to);
    cv::Mat1f mean(side, side);
    double low = 1e9, high = -1e9;
    for (int j = 0; j < side; ++j)
        for (int i = 0; i < side; ++i) {
            float sum = 0;
            for (const double dy : {0.3, 0.5, 0.7})
                for (const double dx : {0.3, 0.5, 0.7}) {
                    const cv::Vec3d p = h * cv::Vec3d(margin + (i + dx) * cell, margin + (j + dy) * cell, 1);
                    const Vec2 at(p[0] / p[2], p[1] / p[2]);
                    if (!(at.x() >= 0 && at.y() >= 0 && at.x() < picture.cols - 1 && at.y() < picture.rows - 1))
                        return {};
                    sum += sample_at(picture, at) / 9;
                }
            mean(j, i) = sum;
            low = std::min<double>(low, sum);
            high = std::max<double>(high, sum);
        }
    if (high - low < 0.05) return {};
    cv::Mat1b out(side, side);
    int border = 0;
    for (int j = 0; j < side; ++j)
        for (int i = 0; i < side; ++i) {
            out(j, i) = mean(j, i) > 0.5 * (low + high);
            if (i == 0 || j == 0 || i == side - 1 || j == side - 1) border += out(j, i);
        }
    return border <= 2 ? out : cv::Mat1b();
}

std::pair<int, int> turned(int column, int row, int turn) {
    for (int k = 0; k < turn; ++k) std::tie(column, row) = std::pair(-row, column);
    return {column, row};
}

}  // namespace

std::pair<int, int> BoardPlace::corner(int column, int row) const {
    const auto [c, r] = turned(column, row, turn);
    return {c + shift_column, r + shift_row};
}

cv::Mat1b marker_bits(int id) {
    cv::Mat marker;
    constexpr int side = 7;
    cv::aruco::drawMarker(cv::makePtr<cv::aruco::Dictionary>(dictionary(cv::aruco::DICT_5X5_1000)), id, side, marker,
                          1);
    cv::Mat1b out(side, side);
    for (int j = 0; j < side; ++j)
        for (int i = 0; i < side; ++i) out(j, i) = marker.at<uchar>(j, i) > 127;
    return out;
}

namespace {

using LatticePoints = std::map<std::pair<int, int>, Vec2>;
using Vote = std::array<int, 4>;  ///< mirrored, turn, shift of columns, shift of rows

/// The four corners of a lattice cell in order; empty when one is missing.
std::optional<std::array<Vec2, 4>> corners_of(const LatticePoints& lattice, int column, int row) {
    std::array<Vec2, 4> corners;
    int k = 0;
    for (const auto& [dx, dy] : {std::pair(0, 0), std::pair(1, 0), std::pair(1, 1), std::pair(0, 1)}) {
        const auto it = lattice.find({column + dx, row + dy});
        if (it == lattice.end()) return std::nullopt;
        corners[k++] = it->second;
    }
    return corners;
}

/// Column and row of a marker's square on the board: white squares row by row.
std::pair<int, int> square_of(int id, const ChartSpec& chart) {
    int left = id, row = 0;
    for (; row < chart.squares_y; ++row) {
        const int whites = (chart.squares_x + (row & 1)) / 2;
        if (left < whites) break;
        left -= whites;
    }
    return {2 * left + ((row & 1) ? 0 : 1), row};
}

/// The position of the lattice on the board according to the marker in a cell; empty when it is no code of this chart.
/// `words` counts those of the dictionary.
std::optional<Vote> vote_of(const cv::Mat1b& seen, const std::pair<int, int>& cell, const ChartSpec& chart,
                            const Code& code, int& words) {
    const int bits = code.words->markerSize;
    for (const int mirrored : {0, 1}) {
        cv::Mat1b inner = seen(cv::Rect(1, 1, bits, bits)).clone();
        if (mirrored) cv::flip(inner, inner, 1);
        int id = -1, rotation = 0;
        if (!code.words->identify(inner, id, rotation, 0.4)) continue;
        ++words;
        if (id >= chart.markers()) continue;
        if (mirrored) return Vote{1, 0, 0, 0};
        // Inner corner (column - 1, row - 1) is the square's top left on the board. `rotation` counts the quarter
        // turns after which the word stands the right way up: the board's top left is that corner of the lattice
        // cell, counted anticlockwise.
        static constexpr int corner_x[4] = {0, 0, 1, 1}, corner_y[4] = {0, 1, 1, 0};
        const auto [column, row] = square_of(id, chart);
        const auto [tc, tr] = turned(cell.first + corner_x[rotation], cell.second + corner_y[rotation], rotation);
        return Vote{0, rotation, column - 1 - tc, row - 1 - tr};
    }
    return std::nullopt;
}

BoardPlace read_board(const SearchPicture& picture, const LatticePoints& lattice, const ChartSpec& chart,
                      const Code& code) {
    std::map<Vote, int> votes;
    int all = 0;
    for (const auto& [cell, position] : lattice) {
        const auto corners = corners_of(lattice, cell.first, cell.second);
        if (!corners) continue;
        const cv::Mat1b seen = read_bits(picture.values, *corners, code);
        if (seen.empty()) continue;
        if (const std::optional<Vote> vote = vote_of(seen, cell, chart, code, all)) ++votes[*vote];
    }
    BoardPlace out;
    for (const auto& [vote, count] : votes)
        if (count > out.markers) {
            out.markers = count;
            out.mirrored = vote[0];
            out.turn = vote[1];
            out.shift_column = vote[2];
            out.shift_row = vote[3];
        }
    out.contradicting = all - out.markers;
    out.marker_share = code.share;
    return out;
}

}  // namespace

BoardPlace identify_board(const SearchPicture& picture, const std::map<std::pair<int, int>, Vec2>& lattice,
                          const ChartSpec& chart) {
    BoardPlace best =
        read_board(picture, lattice, chart, {&dictionary(cv::aruco::DICT_5X5_1000), ChartSpec::marker_share});
    if (best.certain() || chart.kind != ChartKind::coded) return best;
    for (const int name : {cv::aruco::DICT_5X5_1000, cv::aruco::DICT_4X4_1000, cv::aruco::DICT_6X6_1000,
                           cv::aruco::DICT_7X7_1000, cv::aruco::DICT_ARUCO_ORIGINAL})
        for (const double share : {0.75, 0.8, 0.7, 0.6, 2.0 / 3, 0.5}) {
            const BoardPlace place = read_board(picture, lattice, chart, {&dictionary(name), share});
            if (place.certain() && place.markers > best.markers) best = place;
        }
    return best;
}

}  // namespace optrel
