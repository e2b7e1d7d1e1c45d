#include "charts/whites.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace optrel {

std::vector<WhitePatch> measure_whites(const MeasuringPicture& picture, const ChartDetection& detection) {
    std::vector<WhitePatch> out;
    if (detection.markers > 0) return out;
    std::map<std::pair<int, int>, const ChartCorner*> at;
    for (const ChartCorner& c : detection.corners) at[{c.column, c.row}] = &c;
    for (const auto& [cell, first] : at) {
        std::array<const ChartCorner*, 4> corner{first};
        bool whole = true;
        int k = 0;
        for (const auto& [dx, dy] : {std::pair(0, 0), std::pair(1, 0), std::pair(1, 1), std::pair(0, 1)}) {
            const auto it = at.find({cell.first + dx, cell.second + dy});
            whole = whole && it != at.end();
            if (whole) corner[k++] = it->second;
        }
        if (!whole) continue;
        Vec2 middle = Vec2::Zero();
        double grey = 0;  // between dark and bright, by the corners' own fits
        for (const ChartCorner* c : corner) {
            middle += c->green().position / 4;
            grey += c->green().base / 4;
        }
        for (const SamplePlane& plane : picture.planes) {
            double sum = 0;
            int n = 0, clipped = 0;
            double reach_u = 0, reach_v = 0;
            for (const ChartCorner* c : corner) {
                reach_u = std::max(reach_u, std::abs(c->green().position.x() - middle.x()) / 2);
                reach_v = std::max(reach_v, std::abs(c->green().position.y() - middle.y()) / 2);
            }
            const int left = std::max(0, static_cast<int>(std::ceil((middle.x() - reach_u - plane.u0) / plane.step)));
            const int right = std::min(plane.values.cols - 1,
                                       static_cast<int>(std::floor((middle.x() + reach_u - plane.u0) / plane.step)));
            const int top = std::max(0, static_cast<int>(std::ceil((middle.y() - reach_v - plane.v0) / plane.step)));
            const int bottom = std::min(plane.values.rows - 1,
                                        static_cast<int>(std::floor((middle.y() + reach_v - plane.v0) / plane.step)));
            for (int j = top; j <= bottom; ++j)
                for (int i = left; i <= right; ++i) {
                    // Inside the square shrunk to half its size about its middle.
                    const Vec2 p(plane.u0 + i * plane.step, plane.v0 + j * plane.step);
                    bool inside = true;
                    for (int e = 0; e < 4 && inside; ++e) {
                        const Vec2 a = 0.5 * (corner[e]->green().position + middle),
                                   b = 0.5 * (corner[(e + 1) % 4]->green().position + middle);
                        const Vec2 along = b - a, to = p - a, in = middle - a;
                        inside =
                            (along.x() * to.y() - along.y() * to.x()) * (along.x() * in.y() - along.y() * in.x()) >= 0;
                    }
                    if (!inside) continue;
                    const float v = plane.values(j, i);
                    sum += v;
                    clipped += v > 0.985f;
                    ++n;
                }
            if (n < 6 || clipped * 50 > n) continue;
            const double mean = sum / n;
            if (plane.channel == Channel::green && mean <= grey) break;  // a dark square: green decides for all planes
            out.push_back({middle, plane.channel, mean});
        }
    }
    // A dark square may have given its red plane before green told; keep only places that have green.
    std::map<std::pair<double, double>, bool> has_green;
    for (const WhitePatch& p : out)
        if (p.channel == Channel::green) has_green[{p.uv.x(), p.uv.y()}] = true;
    out.erase(std::remove_if(out.begin(), out.end(),
                             [&](const WhitePatch& p) {
                                 return !has_green.count({p.uv.x(), p.uv.y()});
                             }),
              out.end());
    return out;
}

}  // namespace optrel
