#include "calibration/fringe.h"

#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>

#include "base/median.h"

namespace optrel {
std::optional<Fringe> fit_fringe(const std::vector<FringePoint>& points, const Vec2& centre_mm, const PictureGeometry& geometry) {
    if (points.size() < 40) return std::nullopt;
    const double half = geometry.half_diagonal_mm();
    using Terms = Eigen::Matrix<double, 5, 1>;
    const auto rows = [&](const FringePoint& p, Terms& x, Terms& y) {
        const Vec2 s = (p.green_mm - centre_mm) / half;
        const double q = s.squaredNorm();
        x << s.x(), s.x() * q, s.x() * q * q, 1, 0;
        y << s.y(), s.y() * q, s.y() * q * q, 0, 1;
    };
    Terms terms = Terms::Zero();
    double scale = 0;  // robust one sigma of a normalised residual
    for (int round = 0; round < 8; ++round) {
        Eigen::Matrix<double, 5, 5> normal = Eigen::Matrix<double, 5, 5>::Zero();
        Terms right = Terms::Zero();
        std::vector<double> residuals;
        for (const FringePoint& p : points) {
            Terms x, y;
            rows(p, x, y);
            const Vec2 r = p.displacement_mm - Vec2(x.dot(terms), y.dot(terms));
            const double normalised = r.norm() / p.sigma_mm;
            residuals.push_back(normalised);
            const double huber = scale > 0 && normalised > 2 * scale ? 2 * scale / normalised : 1;
            const double w = huber / (p.sigma_mm * p.sigma_mm);
            normal += w * (x * x.transpose() + y * y.transpose());
            right += w * (x * p.displacement_mm.x() + y * p.displacement_mm.y());
        }
        terms = normal.ldlt().solve(right);
        std::nth_element(residuals.begin(), residuals.begin() + residuals.size() / 2, residuals.end());
        scale = round == 0 ? 0 : residuals[residuals.size() / 2] / 1.177;
    }
    Fringe f;
    f.c0 = terms[0] / half;
    f.c1 = terms[1] / half;
    f.c2 = terms[2] / half;
    f.shift_mm = {terms[3], terms[4]};
    // What remains: median residuals of cells of the picture, so that neither corner noise nor a wrong corner poses as aberration.
    constexpr int cells = 8;
    std::vector<double> in_x[cells][cells], in_y[cells][cells];
    for (const FringePoint& p : points) {
        Terms x, y;
        rows(p, x, y);
        const Vec2 at = geometry.to_image(p.green_mm);
        const int i = std::clamp(static_cast<int>(at.x() / geometry.width * cells), 0, cells - 1);
        const int j = std::clamp(static_cast<int>(at.y() / geometry.height * cells), 0, cells - 1);
        in_x[i][j].push_back(p.displacement_mm.x() - x.dot(terms));
        in_y[i][j].push_back(p.displacement_mm.y() - y.dot(terms));
    }
    std::vector<double> remains;
    for (int i = 0; i < cells; ++i)
        for (int j = 0; j < cells; ++j)
            if (in_x[i][j].size() >= 5) remains.push_back(Vec2(median(in_x[i][j]), median(in_y[i][j])).norm() / geometry.pitch_mm());
    if (!remains.empty()) {
        std::sort(remains.begin(), remains.end());
        f.residual_p95_px = remains[static_cast<std::size_t>(0.95 * (remains.size() - 1))];
    }
    return f;
}

}  // namespace optrel
