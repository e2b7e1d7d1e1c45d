// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/camera_model.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <opencv2/calib3d.hpp>

#include "base/error.h"
#include "base/words.h"
#include "optics/linear.h"

namespace optrel {
namespace {

constexpr int counts[] = {5, 8, 12, 14};
constexpr double half_pixel = 0.5;

/// Projected directions with their derivatives by fx + fy, cx, cy and the coefficients.
struct Projected {
    std::vector<Vec2> places;
    Eigen::MatrixXd by;  ///< two rows for each direction
};

cv::Matx33d matrix_of(const CameraModel& m) { return {m.fx, 0, m.cx, 0, m.fy, m.cy, 0, 0, 1}; }

/// Evaluates the formula here, because OpenCV's function takes directions by their tangents and mirrors those beyond 90
/// degrees.
Projected project_fisheye(const CameraModel& m, const std::vector<cv::Point3d>& points) {
    Projected out;
    out.by.setZero(2 * static_cast<Eigen::Index>(points.size()), 7);
    for (std::size_t i = 0; i < points.size(); ++i) {
        const cv::Point3d& d = points[i];
        const double across = std::hypot(d.x, d.y), angle = std::atan2(across, d.z), q = angle * angle;
        const Vec2 azimuth = across > 0 ? Vec2(d.x / across, d.y / across) : Vec2(1, 0);
        double powers[4], bent = angle;
        for (int k = 0; k < 4; ++k) {
            powers[k] = angle * std::pow(q, k + 1);
            bent += m.coefficients[static_cast<std::size_t>(k)] * powers[k];
        }
        out.places.emplace_back(m.cx + m.fx * bent * azimuth.x(), m.cy + m.fy * bent * azimuth.y());
        auto rows = out.by.middleRows<2>(2 * static_cast<Eigen::Index>(i));
        rows.col(0) = bent * azimuth;
        rows.block<2, 2>(0, 1).setIdentity();
        for (int k = 0; k < 4; ++k) rows.col(3 + k) = Vec2(m.fx * azimuth.x(), m.fy * azimuth.y()) * powers[k];
    }
    return out;
}

Projected project(const CameraModel& m, const std::vector<cv::Point3d>& points, bool derivatives) {
    if (m.fisheye) return project_fisheye(m, points);
    const cv::Vec3d none(0, 0, 0);
    std::vector<cv::Point2d> image;
    cv::Mat jacobian;
    Projected out;
    cv::projectPoints(points, none, none, matrix_of(m), m.coefficients, image,
                      derivatives ? cv::OutputArray(jacobian) : cv::OutputArray(cv::noArray()));
    for (const cv::Point2d& p : image) out.places.emplace_back(p.x, p.y);
    if (!derivatives) return out;
    // Columns: rotation, translation, focal (2), centre (2), coefficients.
    constexpr int focal = 6;
    const auto n = static_cast<int>(m.coefficients.size());
    out.by.resize(jacobian.rows, 3 + n);
    for (int row = 0; row < jacobian.rows; ++row) {
        const auto* j = jacobian.ptr<double>(row);
        out.by(row, 0) = j[focal] + j[focal + 1];
        out.by(row, 1) = j[focal + 2];
        out.by(row, 2) = j[focal + 3];
        for (int k = 0; k < n; ++k) out.by(row, 3 + k) = j[focal + 4 + k];
    }
    return out;
}

/// Directions over the frame with their positions, px in OpenCV's convention.
struct Sightings {
    std::vector<cv::Point3d> directions;
    std::vector<Vec2> places;
    double widest = 0;  ///< radians from the axis
};

Sightings sightings_of(const FrameMap& lens) {
    Sightings out;
    for (const Vec2& at : picture_grid(lens.geometry(), 41, 31)) {
        const std::optional<Vec3> ray = lens.ray(at);
        if (!ray) continue;
        out.directions.emplace_back(ray->x(), ray->y(), ray->z());
        out.places.push_back(at - Vec2(half_pixel, half_pixel));
        out.widest = std::max(out.widest, std::acos(std::clamp(ray->z(), -1.0, 1.0)));
    }
    if (out.places.size() < 600)
        throw input_error("The profile reaches too little of the picture for a camera model of it.");
    return out;
}

void measure(FittedCamera& fit, const Sightings& seen) {
    const std::vector<Vec2> places = project(fit.model, seen.directions, false).places;
    double sum = 0;
    fit.largest_px = 0;
    for (std::size_t i = 0; i < places.size(); ++i) {
        const double off = (places[i] - seen.places[i]).norm();
        sum += off * off;
        fit.largest_px = std::isfinite(off) ? std::max(fit.largest_px, off) : HUGE_VAL;
    }
    fit.rms_px = std::sqrt(sum / static_cast<double>(places.size()));
}

/// Levenberg-Marquardt. Coefficients of high powers are nearly interchangeable; the damping keeps undetermined ones
/// near zero.
FittedCamera fitted(const Sightings& seen, FittedCamera fit) {
    measure(fit, seen);
    double damping = 1e-3;
    for (int step = 0; step < 80 && damping < 1e9; ++step) {
        const Projected now = project(fit.model, seen.directions, true);
        const auto rows = now.by.rows(), columns = now.by.cols();
        const Eigen::VectorXd scale = now.by.colwise().norm().transpose().cwiseMax(1e-12);
        Eigen::MatrixXd a(rows + columns, columns);
        Eigen::VectorXd b = Eigen::VectorXd::Zero(rows + columns);
        a.topRows(rows) = now.by * scale.cwiseInverse().asDiagonal();
        a.bottomRows(columns) = std::sqrt(damping) * Eigen::MatrixXd::Identity(columns, columns);
        for (std::size_t i = 0; i < seen.places.size(); ++i)
            b.segment<2>(2 * static_cast<Eigen::Index>(i)) = seen.places[i] - now.places[i];
        const Eigen::VectorXd by = least_squares(a, b).cwiseQuotient(scale);
        FittedCamera next = fit;
        next.model.fx = next.model.fy = fit.model.fx + by(0);
        next.model.cx += by(1);
        next.model.cy += by(2);
        for (std::size_t k = 0; k < next.model.coefficients.size(); ++k)
            next.model.coefficients[k] += by(3 + static_cast<Eigen::Index>(k));
        measure(next, seen);
        if (next.rms_px < fit.rms_px) {
            const bool settled = fit.rms_px - next.rms_px < 1e-7 * fit.rms_px + 1e-12;
            fit = next;
            damping = std::max(1e-12, damping / 5);
            if (settled) break;
        } else {
            damping *= 8;
        }
    }
    return fit;
}

/// The denominator of a pinhole's quotient at an angle from the axis.
double divisor(const CameraModel& m, double angle) {
    if (m.coefficients.size() < 8) return 1;
    const double q = std::tan(angle) * std::tan(angle);
    return 1 + q * (m.coefficients[5] + q * (m.coefficients[6] + q * m.coefficients[7]));
}

/// True when the radius stops growing before directions leave the picture.
bool folds(const CameraModel& m) {
    for (int azimuth = 0; azimuth < 72; ++azimuth) {
        const double a = 2 * M_PI * azimuth / 72;
        double before = -1;
        bool left = false;
        for (int i = 1; i <= 1500 && !left; ++i) {
            const double angle = (m.fisheye ? 0.999 * M_PI : 0.495 * M_PI) * i / 1500;
            const Vec2 at = m.place({std::sin(angle) * std::cos(a), std::sin(angle) * std::sin(a), std::cos(angle)});
            const double radius = (at - Vec2(m.cx, m.cy)).norm();
            if (!std::isfinite(radius) || radius <= before) return true;
            // A pole between two samples changes the sign of the denominator.
            if (!m.fisheye && divisor(m, angle) <= 0) return true;
            before = radius;
            left = at.x() < -half_pixel || at.y() < -half_pixel || at.x() > m.width - half_pixel ||
                   at.y() > m.height - half_pixel;
        }
        if (!left) return !m.fisheye;  // the image circle of a fisheye may lie within the picture
    }
    return false;
}

}  // namespace

Vec2 CameraModel::place(const Vec3& d) const { return project(*this, {{d.x(), d.y(), d.z()}}, false).places.front(); }

std::string CameraModel::form() const {
    return fmt::format("{}, {} coefficients", fisheye ? "fisheye" : "pinhole", coefficients.size());
}

FittedCamera fit_camera(const FrameMap& lens, bool fisheye, int coefficients) {
    if (fisheye ? coefficients != 4 : std::find(std::begin(counts), std::end(counts), coefficients) == std::end(counts))
        throw input_error(fmt::format("There is no {} camera model of {} coefficients; choose {}.",
                                      fisheye ? "fisheye" : "pinhole", coefficients, fisheye ? "4" : "5, 8, 12 or 14"));
    const Sightings seen = sightings_of(lens);
    if (!fisheye && seen.widest > 80 * M_PI / 180)
        throw input_error(
            fmt::format("The lens sees {:.0f} degrees from its axis, where a pinhole camera has no places; choose the "
                        "fisheye model.",
                        seen.widest * 180 / M_PI));
    FittedCamera fit;
    fit.model.width = lens.geometry().width;
    fit.model.height = lens.geometry().height;
    fit.model.fx = fit.model.fy = lens.focal_px();
    fit.model.cx = lens.centre().x() - half_pixel;
    fit.model.cy = lens.centre().y() - half_pixel;
    fit.model.fisheye = fisheye;
    fit.model.coefficients.assign(static_cast<std::size_t>(coefficients), 0);
    return fitted(seen, fit);
}

FittedCamera fit_camera(const FrameMap& lens, bool fisheye, double enough) {
    if (fisheye) return fit_camera(lens, true, 4);
    std::optional<FittedCamera> best;
    for (const int n : counts) {
        const FittedCamera fit = fit_camera(lens, false, n);
        if (folds(fit.model)) continue;
        if (!best || fit.largest_px < best->largest_px) best = fit;
        if (best->largest_px <= enough) break;
    }
    if (!best)
        throw input_error("No pinhole camera model follows this lens without folding; choose the fisheye model.");
    return *best;
}

std::string camera_to_text(const FittedCamera& camera, bool json, const std::string& note) {
    const CameraModel& m = camera.model;
    if (!std::isfinite(camera.rms_px) || !std::isfinite(camera.largest_px))
        throw input_error("The camera model does not follow this lens at all; choose another number of coefficients.");
    cv::FileStorage out(json ? "x.json" : "x.yml", cv::FileStorage::WRITE | cv::FileStorage::MEMORY);
    out << "written_by"
        << "Optrel " OPTREL_VERSION << "note" << note;
    out << "image_width" << m.width << "image_height" << m.height;
    out << "distortion_model" << (m.fisheye ? "fisheye" : "pinhole") << "fisheye_model" << (m.fisheye ? 1 : 0);
    out << "camera_matrix" << cv::Mat(matrix_of(m));
    out << "distortion_coefficients" << cv::Mat(m.coefficients, true);
    out << "fit_rms_px" << camera.rms_px << "fit_largest_px" << camera.largest_px;
    return out.releaseAndGetString();
}

CameraModel camera_from_text(const std::string& text, const std::string& where) {
    constexpr std::size_t largest = 4u << 20;
    if (text.size() > largest)
        throw input_error(fmt::format("{} is far larger than a camera model; choose another file.", where));
    CameraModel out;
    try {
        const cv::FileStorage in(text, cv::FileStorage::READ | cv::FileStorage::MEMORY);
        const auto need = [&](const char* key) {
            const cv::FileNode node = in[key];
            if (node.empty()) throw input_error(fmt::format("{} says no {}; it is no whole camera model.", where, key));
            return node;
        };
        out.width = static_cast<int>(need("image_width"));
        out.height = static_cast<int>(need("image_height"));
        cv::Mat matrix, coefficients;
        need("camera_matrix") >> matrix;
        need("distortion_coefficients") >> coefficients;
        if (matrix.size() != cv::Size(3, 3) || matrix.channels() != 1)
            throw input_error(fmt::format("The camera_matrix of {} is not three by three; it is damaged.", where));
        matrix.convertTo(matrix, CV_64F);
        coefficients.convertTo(coefficients, CV_64F);
        out.fx = matrix.at<double>(0, 0);
        out.fy = matrix.at<double>(1, 1);
        out.cx = matrix.at<double>(0, 2);
        out.cy = matrix.at<double>(1, 2);
        if (std::abs(matrix.at<double>(0, 1)) > 1e-9)
            throw input_error(
                fmt::format("{} has skewed pixels, which no camera has here; it cannot be taken in.", where));
        const int total = static_cast<int>(coefficients.total()) * coefficients.channels();
        const auto* c = coefficients.ptr<double>();
        if (total > 0 && coefficients.isContinuous()) out.coefficients.assign(c, c + std::min(total, 64));
        const std::string name = in["distortion_model"].isString() ? lowered(std::string(in["distortion_model"])) : "";
        static const std::vector<std::string> pinholes{"", "pinhole", "plumb_bob", "rational_polynomial"},
            fisheyes{"fisheye", "equidistant"};
        const bool named_fisheye = std::find(fisheyes.begin(), fisheyes.end(), name) != fisheyes.end();
        if (!named_fisheye && std::find(pinholes.begin(), pinholes.end(), name) == pinholes.end())
            throw input_error(fmt::format("{} names the model '{}', which is neither a pinhole nor a fisheye.", where,
                                          printable(name)));
        const cv::FileNode flag = in["fisheye_model"];
        out.fisheye = named_fisheye || (flag.isInt() && static_cast<int>(flag) == 1);
        if (out.fisheye && total != 4)
            throw input_error(fmt::format("{} has {} coefficients; a fisheye has 4.", where, total));
        if (!out.fisheye && total != 4 && std::find(std::begin(counts), std::end(counts), total) == std::end(counts))
            throw input_error(
                fmt::format("{} has {} coefficients; a pinhole camera has 4, 5, 8, 12 or 14.", where, total));
    } catch (const cv::Exception&) {
        throw input_error(
            fmt::format("{} is no camera model of OpenCV in YAML, JSON or XML, or it is damaged.", where));
    }
    const bool finite = std::all_of(out.coefficients.begin(), out.coefficients.end(),
                                    [](double v) { return std::isfinite(v) && std::abs(v) < 1e6; });
    const auto sane = [](double v, double low, double high) { return v >= low && v <= high; };
    if (!finite || !sane(out.width, 2, 200000) || !sane(out.height, 2, 200000) || !sane(out.fx, 1, 1e7) ||
        !sane(out.fy, 1, 1e7) || !sane(out.cx, -out.width, 2.0 * out.width) ||
        !sane(out.cy, -out.height, 2.0 * out.height))
        throw input_error(fmt::format("{} says a camera that cannot be; its figures are damaged.", where));
    if (folds(out))
        throw input_error(fmt::format("The lens that {} says folds back inside the picture; it is of no use.", where));
    return out;
}

namespace {

/// Converts OpenCV's coefficients to the form with the same formula.
LensModel same_form(const CameraModel& m) {
    const auto& k = m.coefficients;
    const auto at = [&](std::size_t i) { return i < k.size() ? k[i] : 0; };
    if (m.fisheye) {
        LensModel::Coefficients c = LensModel(LensModelKind::equidistant).coefficients();
        for (int i = 0; i < 4; ++i) c[i] = k[static_cast<std::size_t>(i)];
        return {LensModelKind::equidistant, c};
    }
    if (k.size() <= 5) {
        LensModel::Coefficients c = LensModel(LensModelKind::radial_tangential).coefficients();
        c[0] = at(0);
        c[1] = at(1);
        c[2] = at(4);
        c[3] = at(2);
        c[4] = at(3);
        return {LensModelKind::radial_tangential, c};
    }
    LensModel::Coefficients c = LensModel(LensModelKind::rational).coefficients();
    const std::size_t order[] = {0, 1, 4, 5, 6, 7, 2, 3};
    for (int i = 0; i < 8; ++i) c[i] = at(order[i]);
    return {LensModelKind::rational, c};
}

/// The sum of squared residuals of a model, px².
double missed(const LensModel& model, double focal, const Vec2& centre, const Sightings& seen) {
    double sum = 0;
    for (std::size_t i = 0; i < seen.places.size(); ++i) {
        const cv::Point3d& d = seen.directions[i];
        sum += (centre + focal * model.bend(Vec3(d.x, d.y, d.z)) - seen.places[i]).squaredNorm();
    }
    return std::isfinite(sum) ? sum : HUGE_VAL;
}

/// Refines focal length, centre (px) and coefficients by Gauss-Newton, from a start that is near.
void refine(LensModel& model, double& focal, Vec2& centre, const Sightings& seen) {
    const auto n = static_cast<Eigen::Index>(seen.places.size());
    const Eigen::Index terms = model.coefficients().size();
    for (int step = 0; step < 12; ++step) {
        Eigen::MatrixXd a(2 * n, 3 + terms);
        Eigen::VectorXd b(2 * n);
        for (Eigen::Index i = 0; i < n; ++i) {
            const cv::Point3d& d = seen.directions[static_cast<std::size_t>(i)];
            BendDerivatives by;
            const Vec2 bent = model.kind()->bend(model.coefficients().data(), Vec3(d.x, d.y, d.z), by);
            a.block<2, 1>(2 * i, 0) = bent;
            a.block<2, 2>(2 * i, 1).setIdentity();
            a.block(2 * i, 3, 2, terms) = focal * by.middleCols(3, terms);
            b.segment<2>(2 * i) = seen.places[static_cast<std::size_t>(i)] - (centre + focal * bent);
        }
        const Eigen::VectorXd x = least_squares(a, b);
        if (!x.allFinite()) return;
        const double better_focal = focal + x(0);
        const Vec2 better_centre = centre + x.segment<2>(1);
        const LensModel better(model.kind(), LensModel::Coefficients(model.coefficients() + x.tail(terms)));
        // Ends at a step without improvement: far from the solution, steps lead away.
        if (!(missed(better, better_focal, better_centre, seen) < missed(model, focal, centre, seen))) return;
        focal = better_focal;
        centre = better_centre;
        model = better;
        if (x.head(3).norm() < 1e-9) break;
    }
}

/// Directions over the picture of a model, px in our convention.
Sightings sightings_of(const CameraModel& m, double factor) {
    Sightings out;
    const double widest = m.fisheye ? 0.99 * M_PI : 0.48 * M_PI;
    for (int azimuth = 0; azimuth < 48; ++azimuth)
        for (int i = 0; i < 400; ++i) {
            const double angle = widest * i / 400, a = 2 * M_PI * azimuth / 48;
            const Vec3 d(std::sin(angle) * std::cos(a), std::sin(angle) * std::sin(a), std::cos(angle));
            const Vec2 at = m.place(d) + Vec2(half_pixel, half_pixel);
            if (at.x() < 0 || at.y() < 0 || at.x() > m.width || at.y() > m.height) break;
            out.directions.emplace_back(d.x(), d.y(), d.z());
            out.places.push_back(factor * at);
            out.widest = angle;
        }
    return out;
}

}  // namespace

CameraAsNode node_of_camera(const CameraModel& camera, const PictureGeometry& geometry, const std::string& where) {
    const double factor = double(geometry.width) / camera.width;
    if (std::abs(double(geometry.height) / camera.height / factor - 1) > 2e-3)
        throw input_error(fmt::format("{} is of a picture of {} × {} pixels, the frame has {} × {}: another shape.",
                                      where, camera.width, camera.height, geometry.width, geometry.height));
    CameraAsNode out;
    LensModel model = same_form(camera);
    double focal = factor * 0.5 * (camera.fx + camera.fy);
    Vec2 centre = factor * Vec2(camera.cx + half_pixel, camera.cy + half_pixel);
    const Sightings seen = sightings_of(camera, factor);
    if (seen.places.size() < 100)
        throw input_error(fmt::format("{} places too little of its picture; it is of no use.", where));
    // Different focal lengths in x and y mean pixels that are not square.
    const double aspect = std::sqrt(camera.fx / camera.fy);
    focal = factor * std::sqrt(camera.fx * camera.fy);
    if (camera.coefficients.size() > 8) {
        Sightings square = seen;
        for (Vec2& at : square.places) at = Vec2(at.x() / aspect, at.y() * aspect);
        centre = Vec2(centre.x() / aspect, centre.y() * aspect);
        refine(model, focal, centre, square);
        centre = Vec2(centre.x() * aspect, centre.y() / aspect);
    }
    if (aspect != 1) model = model.with_aspect(aspect);
    out.node.focal_mm = focal * geometry.pitch_mm();
    out.node.centre_mm = geometry.to_sensor(centre);
    out.node.model = model;
    out.node.largest_radius_mm = geometry.half_diagonal_mm();
    for (std::size_t i = 0; i < seen.places.size(); ++i) {
        const cv::Point3d& d = seen.directions[i];
        const Vec2 at = centre + focal * model.bend(Vec3(d.x, d.y, d.z));
        const double off = (at - seen.places[i]).norm();
        out.largest_px = std::isfinite(off) ? std::max(out.largest_px, off) : HUGE_VAL;
    }
    if (!(out.largest_px <= CameraAsNode::limit_px))
        throw input_error(fmt::format(
            "{} cannot be followed as a profile to better than {:.3g} px (limit {:g} px), so that it is not taken in.",
            where, out.largest_px, CameraAsNode::limit_px));
    return out;
}

}  // namespace optrel
