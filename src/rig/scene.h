// SPDX-License-Identifier: GPL-3.0-or-later
// Scenes in front of the simulated camera: plane objects, and uniform light.
#pragma once

#include <array>
#include <cstdint>
#include <opencv2/core.hpp>

namespace optrel::rig {

/// A plane in space: its points (X, Y) in mm are at R (X, Y, 0) + t in camera coordinates.
struct Placement {
    cv::Vec3d rotation_degrees{0, 0, 0};  ///< about x, then y, then z
    cv::Vec3d translation_mm{0, 0, 1000};

    /// Board to camera.
    cv::Matx33d rotation() const;
};

/// Linear reflectance in red, green and blue of a point on the plane, and a label that is constant within uniform areas
/// (0: not uniform, needs fine sampling).
struct Surface {
    std::array<float, 3> reflectance;
    int label;
};

class Scene {
public:
    virtual ~Scene() = default;
    virtual Surface at(double x_mm, double y_mm) const = 0;
    /// Distance of the surface from the plane, mm along its normal (away from the camera).
    virtual double height(double, double) const { return 0; }
    /// Whether at() gives what the camera records in place of reflectances: surfaces with spectra.
    virtual bool gives_camera_values() const { return false; }
};

/// Appearance and shape of a checkerboard.
struct Board {
    int squares_x = 15, squares_y = 10;
    double square_mm = 30;
    bool coded = false;        ///< markers in the white squares, as described in charts/chart.h
    double stretch_y = 0;      ///< excess of the squares' height over their width, as a share
    double bow_mm = 0;         ///< distance by which the middle of the upper and lower edge lies behind the middle row
    cv::Vec2d light_ev{0, 0};  ///< difference in brightness between right and left, and between bottom and top, EV
    cv::Vec3d glare_mm{0, 0, 0};  ///< middle and radius of a reflection; radius 0: none
    double white = 0.84;          ///< reflectance of the paper
    bool clutter = false;         ///< objects with corners and stripes beside the board
    bool mirrored = false;
};

/// A checkerboard with a white margin, on a grey wall. The origin is the middle of the board.
class BoardScene : public Scene {
public:
    explicit BoardScene(const Board& board) : board_(board) {}
    Surface at(double x_mm, double y_mm) const override;
    double height(double x_mm, double y_mm) const override;

private:
    Surface wall(double x_mm, double y_mm) const;

    Board board_;
};

/// A pressed plant on a sheet with a ruler, straight lines, a row of colour patches and fine dark detail near the
/// corners.
class SpecimenScene : public Scene {
public:
    explicit SpecimenScene(std::uint64_t seed);
    Surface at(double x_mm, double y_mm) const override;

private:
    cv::Mat3b sheet_;  // red first, sRGB-encoded
    std::array<float, 256> decode_;
};

}  // namespace optrel::rig
