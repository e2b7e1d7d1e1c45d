#include "rig/scene.h"

#include <cmath>

namespace optrel::rig {

cv::Matx33d Placement::to_plane() const {
    const double k = 3.14159265358979323846 / 180;
    const double cx = std::cos(k * rotation_degrees[0]), sx = std::sin(k * rotation_degrees[0]);
    const double cy = std::cos(k * rotation_degrees[1]), sy = std::sin(k * rotation_degrees[1]);
    const double cz = std::cos(k * rotation_degrees[2]), sz = std::sin(k * rotation_degrees[2]);
    const cv::Matx33d rx(1, 0, 0, 0, cx, -sx, 0, sx, cx), ry(cy, 0, sy, 0, 1, 0, -sy, 0, cy), rz(cz, -sz, 0, sz, cz, 0, 0, 0, 1);
    const cv::Matx33d r = rz * ry * rx;
    const cv::Matx33d to_camera(r(0, 0), r(0, 1), translation_mm[0], r(1, 0), r(1, 1), translation_mm[1], r(2, 0), r(2, 1), translation_mm[2]);
    return to_camera.inv();
}

Surface BoardScene::at(double x, double y) const {
    const double u = x / square_ + nx_ / 2.0, v = y / square_ + ny_ / 2.0;
    if (u < -0.7 || v < -0.7 || u > nx_ + 0.7 || v > ny_ + 0.7) return {{0.32f, 0.33f, 0.34f}, 1};
    if (u < 0 || v < 0 || u >= nx_ || v >= ny_) return {{0.84f, 0.85f, 0.83f}, 2};
    const int i = static_cast<int>(u), j = static_cast<int>(v);
    const float light = static_cast<float>(1 + 0.03 * x / 300 - 0.02 * y / 300);
    if ((i + j) & 1) return {{0.84f * light, 0.85f * light, 0.83f * light}, 3 + j * nx_ + i};
    return {{0.042f * light, 0.041f * light, 0.043f * light}, 3 + j * nx_ + i};
}

}  // namespace optrel::rig
