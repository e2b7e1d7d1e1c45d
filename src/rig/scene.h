// What stands before the simulated camera: flat things in a plane, and even light.
#pragma once

#include <array>
#include <cstdint>
#include <opencv2/core.hpp>

namespace optrel::rig {

/// A plane in space: points (X, Y) in mm on it lie at R (X, Y, 0) + t before the camera.
struct Placement {
    cv::Vec3d rotation_degrees{0, 0, 0};  ///< about x, then y, then z
    cv::Vec3d translation_mm{0, 0, 1000};

    /// Homography from camera coordinates (x, y, 1) to (X, Y, w).
    cv::Matx33d to_plane() const;
};

/// Linear reflectance in red, green and blue of a point on the plane, and a label that is constant inside evenly coloured areas
/// (0: not even, sample finely).
struct Surface {
    std::array<float, 3> reflectance;
    int label;
};

class Scene {
public:
    virtual ~Scene() = default;
    virtual Surface at(double x_mm, double y_mm) const = 0;
};

/// A plain checkerboard with a white margin, on a grey wall. The origin is the middle of the board.
class BoardScene : public Scene {
public:
    BoardScene(int squares_x, int squares_y, double square_mm) : nx_(squares_x), ny_(squares_y), square_(square_mm) {}
    Surface at(double x_mm, double y_mm) const override;

private:
    int nx_, ny_;
    double square_;
};

/// A pressed plant on a sheet with a ruler, straight rules, a row of colour patches and fine dark detail near the corners.
class SpecimenScene : public Scene {
public:
    explicit SpecimenScene(std::uint64_t seed);
    Surface at(double x_mm, double y_mm) const override;

private:
    cv::Mat3b sheet_;  // red first, sRGB-encoded
    std::array<float, 256> decode_;
};

}  // namespace optrel::rig
