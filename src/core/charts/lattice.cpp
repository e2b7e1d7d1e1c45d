// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/lattice.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <deque>
#include <set>

#include "base/angle.h"

namespace optrel {
namespace {

double angle_between(double a, double b) { return std::abs(std::remainder(a - b, 2 * pi)); }

/// True when there is an edge between two corners that is bright on the expected side at four places.
bool edge_holds(const cv::Mat1f& s, const Vec2& from, const Vec2& to, bool bright_on_positive, double contrast) {
    const Vec2 along = to - from;
    const double length = along.norm();
    const Vec2 across = Vec2(-along.y(), along.x()) / length;   // positive angle side
    const double offset = std::clamp(0.12 * length, 1.2, 3.5);  // short of a coded board's markers
    int good = 0;
    for (const double t : {0.25, 0.4, 0.6, 0.75}) {
        const Vec2 at = from + t * along;
        const Vec2 a = at + offset * across, b = at - offset * across;
        for (const Vec2& p : {a, b})
            if (p.x() < 0 || p.y() < 0 || p.x() > s.cols - 1 || p.y() > s.rows - 1) return false;
        const double difference = sample_at(s, a) - sample_at(s, b);
        if ((bright_on_positive ? difference : -difference) > 0.25 * contrast) ++good;
    }
    return good >= 3;
}

struct Link {
    int to = -1;
    int back = -1;  // the ray of `to` that points back
};
using Links = std::vector<std::array<Link, 4>>;

Links link_neighbours(const cv::Mat1f& s, const std::vector<Saddle>& saddles) {
    const int n = static_cast<int>(saddles.size());
    Links links(n);
    // Only the nearest ones can be neighbours in the lattice; on a coded board many saddles belong to markers.
    constexpr int nearest = 128;
    std::vector<std::pair<double, int>> near;
    for (int p = 0; p < n; ++p) {
        near.clear();
        for (int q = 0; q < n; ++q)
            if (q != p) near.emplace_back((saddles[q].position - saddles[p].position).squaredNorm(), q);
        if (static_cast<int>(near.size()) > nearest) {
            std::nth_element(near.begin(), near.begin() + nearest, near.end());
            near.resize(nearest);
        }
        for (int k = 0; k < 4; ++k) {
            std::vector<std::pair<double, int>> ahead;
            for (const auto& [square, q] : near) {
                const Vec2 d = saddles[q].position - saddles[p].position;
                if (angle_between(std::atan2(d.y(), d.x()), saddles[p].ray[k]) < 0.24) ahead.emplace_back(square, q);
            }
            std::sort(ahead.begin(), ahead.end());
            int tried = 0;
            for (const auto& [distance, q] : ahead) {
                if (++tried > 4) break;
                const double back_angle = std::atan2(saddles[p].position.y() - saddles[q].position.y(),
                                                     saddles[p].position.x() - saddles[q].position.x());
                int back = -1;
                for (int m = 0; m < 4; ++m)
                    if (angle_between(back_angle, saddles[q].ray[m]) < 0.3 &&
                        saddles[q].bright_after(m) != saddles[p].bright_after(k))
                        back = m;
                if (back < 0) continue;
                if (!edge_holds(s, saddles[p].position, saddles[q].position, saddles[p].bright_after(k),
                                std::min(saddles[p].contrast, saddles[q].contrast)))
                    continue;
                links[p][k] = {q, back};
                break;
            }
        }
    }
    for (int p = 0; p < n; ++p)
        for (Link& link : links[p])
            if (link.to >= 0 && links[link.to][link.back].to != p) link = {};
    return links;
}

/// Assigns lattice coordinates along mutual links, from one start.
std::map<std::pair<int, int>, int> spread(const Links& links, int start, std::vector<char>& seen) {
    struct Place {
        int column, row, turn;  // ray k of the saddle points in lattice direction (k + turn) % 4
    };
    static constexpr int dx[4] = {1, 0, -1, 0}, dy[4] = {0, 1, 0, -1};
    std::map<int, Place> place{{start, {0, 0, 0}}};
    std::map<std::pair<int, int>, int> taken{{{0, 0}, start}};
    std::deque<int> queue{start};
    seen[start] = 1;
    while (!queue.empty()) {
        const int p = queue.front();
        queue.pop_front();
        const Place at = place.at(p);
        for (int k = 0; k < 4; ++k) {
            const Link& link = links[p][k];
            if (link.to < 0 || seen[link.to]) continue;
            const int direction = (k + at.turn) % 4;
            const std::pair<int, int> cell{at.column + dx[direction], at.row + dy[direction]};
            if (taken.count(cell)) continue;
            // Accept a corner that closes a square or continues a line, or one of the first few.
            taken[cell] = link.to;
            place[link.to] = {cell.first, cell.second, ((direction + 2 - link.back) % 4 + 4) % 4};
            seen[link.to] = 1;
            queue.push_back(link.to);
        }
    }
    return taken;
}

/// Predicts the position of a corner from its neighbours; false when too few are known.
bool predict(const Lattice& lattice, int c, int r, Vec2& p, double& spacing) {
    const auto at = [&](int i, int j) {
        const auto it = lattice.find({i, j});
        return it == lattice.end() ? nullptr : &it->second;
    };
    Vec2 sum = Vec2::Zero();
    int n = 0;
    spacing = 0;
    for (const auto& [dx, dy] : {std::pair<int, int>{1, 0}, {0, 1}, {-1, 0}, {0, -1}}) {
        const Vec2 *a = at(c + dx, r + dy), *b = at(c + 2 * dx, r + 2 * dy), *d = at(c + 3 * dx, r + 3 * dy);
        if (!a || !b) continue;
        sum += d ? Vec2(3 * *a - 3 * *b + *d) : Vec2(2 * *a - *b);
        spacing = std::max(spacing, (*a - *b).norm());
        ++n;
    }
    for (const int dx : {-1, 1})
        if (const Vec2* a = at(c + dx, r), *b = at(c - dx, r); dx == 1 && a && b) {
            sum += 2 * (0.5 * (*a + *b));
            spacing = std::max(spacing, 0.5 * (*a - *b).norm());
            n += 2;
        }
    if (n == 0) return false;
    p = sum / n;
    return true;
}

void fill_gaps(const cv::Mat1f& smooth, Lattice& lattice) {
    for (int round = 0; round < 6; ++round) {
        const LatticeExtent e = extent_of(lattice);
        Lattice added;
        for (int r = e.top - 1; r <= e.bottom + 1; ++r)
            for (int c = e.left - 1; c <= e.right + 1; ++c) {
                if (lattice.count({c, r})) continue;
                Vec2 p;
                double spacing;
                Saddle found;
                if (!predict(lattice, c, r, p, spacing) || !saddle_at(smooth, p, std::max(2.0, 0.15 * spacing), found))
                    continue;
                // A real edge must connect the new corner to a neighbour; otherwise clutter beside the board would
                // extend it.
                bool joined = false;
                for (const auto& [dx, dy] : {std::pair<int, int>{1, 0}, {0, 1}, {-1, 0}, {0, -1}}) {
                    const auto it = lattice.find({c + dx, r + dy});
                    if (it == lattice.end()) continue;
                    const Vec2 d = it->second - found.position;
                    for (int k = 0; k < 4; ++k)
                        if (angle_between(std::atan2(d.y(), d.x()), found.ray[k]) < 0.35 &&
                            edge_holds(smooth, found.position, it->second, found.bright_after(k), found.contrast))
                            joined = true;
                }
                if (joined) added[{c, r}] = found.position;
            }
        if (added.empty()) break;
        lattice.insert(added.begin(), added.end());
    }
}

/// Drops corners that deviate from the line of their neighbours, and corners of no complete square. What remains of
/// clutter are chains and staircases, while every corner of a board belongs to a complete square.
void prune(Lattice& lattice) {
    bool again = true;
    while (again) {
        again = false;
        for (auto it = lattice.begin(); it != lattice.end();) {
            const auto [c, r] = it->first;
            bool closes = false, bent = false;
            for (const int x : {0, -1})
                for (const int y : {0, -1})
                    closes = closes || (lattice.count({c + x, r + y}) && lattice.count({c + x + 1, r + y}) &&
                                        lattice.count({c + x, r + y + 1}) && lattice.count({c + x + 1, r + y + 1}));
            for (const auto& [dx, dy] : {std::pair<int, int>{1, 0}, {0, 1}}) {
                const auto a = lattice.find({c + dx, r + dy}), b = lattice.find({c - dx, r - dy});
                if (a == lattice.end() || b == lattice.end()) continue;
                const double h = 0.5 * (a->second - b->second).norm();
                if ((a->second + b->second - 2 * it->second).norm() > 0.35 * h) bent = true;
            }
            if (!closes || bent) {
                it = lattice.erase(it);
                again = true;
            } else {
                ++it;
            }
        }
    }
}

/// True when at least half of the corners lie in full blocks of 3 x 3. This holds for every board, however the picture
/// cuts it, and not for other patterns that happen to form chains.
bool is_solid(const Lattice& lattice) {
    std::set<std::pair<int, int>> in_block;
    for (const auto& [cell, position] : lattice) {
        bool full = true;
        for (int y = 0; y < 3 && full; ++y)
            for (int x = 0; x < 3 && full; ++x) full = lattice.count({cell.first + x, cell.second + y}) > 0;
        for (int y = 0; y < 3 && full; ++y)
            for (int x = 0; x < 3; ++x) in_block.insert({cell.first + x, cell.second + y});
    }
    return 2 * in_block.size() >= lattice.size();
}

}  // namespace

LatticeExtent extent_of(const Lattice& lattice) {
    LatticeExtent e{1 << 20, 1 << 20, -(1 << 20), -(1 << 20)};
    for (const auto& [cell, position] : lattice) {
        e.left = std::min(e.left, cell.first);
        e.right = std::max(e.right, cell.first);
        e.top = std::min(e.top, cell.second);
        e.bottom = std::max(e.bottom, cell.second);
    }
    return e;
}

Lattice grow_lattice(const SearchPicture& picture) {
    const std::vector<Saddle> saddles = find_saddles(picture.values);
    const cv::Mat1f smooth = smoothed_for_saddles(picture.values);
    const Links links = link_neighbours(smooth, saddles);
    std::vector<char> seen(saddles.size(), 0);
    Lattice lattice;
    for (std::size_t start = 0; start < saddles.size(); ++start) {
        if (seen[start]) continue;
        const auto component = spread(links, static_cast<int>(start), seen);
        if (component.size() <= lattice.size()) continue;
        Lattice candidate;
        for (const auto& [cell, index] : component) candidate[cell] = saddles[index].position;
        prune(candidate);
        if (candidate.size() > lattice.size() && is_solid(candidate)) lattice = std::move(candidate);
    }
    if (lattice.size() < 6) return {};
    fill_gaps(smooth, lattice);
    prune(lattice);
    if (lattice.size() < 9) return {};
    const LatticeExtent e = extent_of(lattice);
    if (e.columns() < 3 || e.rows() < 3) return {};
    return lattice;
}

}  // namespace optrel
