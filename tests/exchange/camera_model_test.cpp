// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/camera_model.h"

#include <catch2/catch.hpp>
#include <opencv2/calib3d.hpp>
#include <random>

#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

constexpr PictureGeometry camera_sensor{3000, 2000, 8};

ProfileNode node_with(const LensModel& model, double focal = 24, const Vec2& centre = {0.1, -0.07}) {
    ProfileNode n;
    n.focal_mm = focal;
    n.centre_mm = centre;
    n.model = model;
    n.largest_radius_mm = camera_sensor.half_diagonal_mm();
    return n;
}

FrameMap lens_of_node(const ProfileNode& n) { return {n, camera_sensor, camera_sensor}; }

std::string model_text(const std::string& coefficients, const std::string& more = "") {
    return "%YAML:1.0\n---\nimage_width: 3000\nimage_height: 2000\n" + more +
           "camera_matrix: !!opencv-matrix\n   rows: 3\n   cols: 3\n   dt: d\n"
           "   data: [ 3000., 0., 1499.5, 0., 3000., 999.5, 0., 0., 1. ]\n"
           "distortion_coefficients: !!opencv-matrix\n   rows: " +
           std::to_string(1 + std::count(coefficients.begin(), coefficients.end(), ',')) +
           "\n   cols: 1\n   dt: d\n   data: [ " + coefficients + " ]\n";
}

}  // namespace

TEST_CASE("a lens goes into the camera model of OpenCV as OpenCV itself places it", "[exchange][camera]") {
    const ProfileNode nodes[] = {
        node_with(LensModel(LensModelKind::radial_tangential, {-0.12, 0.05, -0.01, 0.0006, -0.0004, 0, 0, 0, 0, 0})),
        node_with(
            LensModel(LensModelKind::rational, {0.2, 0.05, 0.001, 0.3, 0.06, 0.002, 0.0003, 0.0002, 0, 0, 0, 0, 0})),
    };
    for (const ProfileNode& n : nodes) {
        const FrameMap lens = lens_of_node(n);
        const FittedCamera fit = fit_camera(lens, false, n.model.kind() == LensModelKind::rational ? 8 : 5);
        CHECK(fit.largest_px < 2e-3);
        CHECK(fit.model.fx == Approx(lens.focal_px()).epsilon(1e-5));
        // By OpenCV alone, half a pixel to the side.
        std::mt19937 random(4);
        std::uniform_real_distribution<double> u(-0.4, 0.4);
        for (int i = 0; i < 60; ++i) {
            const Vec2 xy(u(random), 0.7 * u(random));
            std::vector<cv::Point2d> image;
            cv::projectPoints(std::vector<cv::Point3d>{{xy.x(), xy.y(), 1}}, cv::Vec3d(), cv::Vec3d(),
                              cv::Matx33d(fit.model.fx, 0, fit.model.cx, 0, fit.model.fy, fit.model.cy, 0, 0, 1),
                              fit.model.coefficients, image);
            const Vec2 ours = lens.green(lens.centre() + lens.focal_px() * xy);
            if (camera_sensor.contains(ours)) CHECK((Vec2(image[0].x + 0.5, image[0].y + 0.5) - ours).norm() < 5e-3);
        }
    }
}

TEST_CASE("the fewest coefficients that follow are taken, and what they miss is told", "[exchange][camera]") {
    const FrameMap simple =
        lens_of_node(node_with(LensModel(LensModelKind::radial_tangential, {-0.1, 0.02, 0, 0, 0, 0, 0, 0, 0, 0})));
    CHECK(fit_camera(simple, false).model.coefficients.size() == 5);
    const FrameMap decentred = lens_of_node(node_with(LensModel(
        LensModelKind::radial_tangential, {-0.15, 0.06, -0.02, 0.002, -0.001, 0.004, -0.003, 0.002, 0.001, 0.4})));
    const FittedCamera five = fit_camera(decentred, false, 5), best = fit_camera(decentred, false);
    CHECK(best.largest_px <= five.largest_px);
    CHECK(five.largest_px > 0);
    CHECK(error_of([&] { fit_camera(simple, false, 6); }) == "input");
    CHECK(error_of([&] { fit_camera(simple, true, 5); }) == "input");
}

TEST_CASE("a fisheye goes into the fisheye model and back", "[exchange][camera]") {
    const ProfileNode n =
        node_with(LensModel(LensModelKind::equidistant, {0.02, -0.004, 0.001, -0.0001, 0, 0, 0, 0}), 8);
    const FrameMap lens = lens_of_node(n);
    const FittedCamera fit = fit_camera(lens, true);
    CHECK(fit.largest_px < 2e-3);
    CHECK(error_of([&] { fit_camera(lens, false, 5); }) == "input");  // it sees further than a pinhole
    const CameraAsNode back = node_of_camera(fit.model, camera_sensor, "it");
    CHECK(back.largest_px < 1e-6);
    for (const Vec2& at : picture_grid(camera_sensor, 9, 7))
        if (const auto ray = lens.ray(at))
            CHECK((*lens_of_node(back.node).ray(at) - *ray).norm() * lens.focal_px() < 0.01);
    // An equisolid lens is followed closely, and how closely is told.
    const FittedCamera equisolid = fit_camera(lens_of_node(node_with(LensModel(LensModelKind::equisolid), 9)), true);
    CHECK(equisolid.largest_px < 0.5);
}

TEST_CASE("a camera model survives its file, as YAML and as JSON", "[exchange][camera]") {
    const FrameMap lens = lens_of_node(
        node_with(LensModel(LensModelKind::radial_tangential, {-0.1, 0.03, -0.004, 0.0004, 0.0002, 0, 0, 0, 0, 0})));
    for (const bool json : {false, true})
        for (const int coefficients : {5, 8, 12, 14}) {
            const FittedCamera fit = fit_camera(lens, false, coefficients);
            const CameraModel back = camera_from_text(camera_to_text(fit, json, "a note"), "it");
            CHECK(back.coefficients.size() == static_cast<std::size_t>(coefficients));
            CHECK(back.fx == fit.model.fx);
            CHECK_FALSE(back.fisheye);
            const CameraAsNode node = node_of_camera(back, camera_sensor, "it");
            CHECK(node.largest_px < (coefficients > 8 ? 0.02 : 1e-6));
            const FrameMap again = lens_of_node(node.node);
            // Of the very directions that the lens has, but for what the model missed of them.
            for (const Vec2& at : picture_grid(camera_sensor, 9, 7)) {
                const auto ray = lens.ray(at), ours = again.ray(at);
                REQUIRE(ours);
                CHECK((*ray - *ours).norm() * lens.focal_px() < 0.05 + fit.largest_px);
            }
        }
}

TEST_CASE("a camera model of another size of the same picture is scaled, one of another shape refused",
          "[exchange][camera]") {
    const CameraModel m = camera_from_text(model_text("-0.1, 0.02, 0.0001, 0.0002, 0."), "it");
    const CameraAsNode half = node_of_camera(m, {1500, 1000, 16}, "it");
    CHECK(half.node.focal_mm == Approx(24));
    CHECK(half.largest_px < 1e-6);
    CHECK(error_of([&] { node_of_camera(m, {2000, 2000, 8}, "/x/it.yml"); }) == "input");
}

TEST_CASE("a camera model with two focal lengths is followed exactly, however far they differ", "[exchange][camera]") {
    const CameraModel m = camera_from_text(model_text("-0.1, 0.02, 0.0001, 0.0002, 0."), "it");
    for (const double ratio : {1.00001, 1.0005, 1.001, 0.98, 1.1}) {
        CameraModel oblong = m;
        oblong.fy *= ratio;
        const CameraAsNode made = node_of_camera(oblong, camera_sensor, "it");
        INFO("fy / fx " << ratio);
        CHECK(made.largest_px < 1e-6);
        CHECK(made.node.model.aspect() == Approx(std::sqrt(1 / ratio)));
        // The way back, and what is kept of it.
        const FrameMap map(made.node, camera_sensor, camera_sensor);
        const Vec2 at(camera_sensor.width * 0.1, camera_sensor.height * 0.85);
        REQUIRE(map.ideal(at));
        CHECK((map.green(*map.ideal(at)) - at).norm() < 1e-6);
        Profile p = sample_profile();
        p.nodes = {made.node};
        CHECK(profile_from_json(profile_to_json(p), "it").nodes[0].model.aspect() == made.node.model.aspect());
    }
    // With more coefficients than any form here has.
    CameraModel many =
        camera_from_text(model_text("-0.1, 0.02, 0.0001, 0.0002, 0., 0., 0., 0., 1e-5, 0., -1e-5, 0."), "it");
    many.fy *= 1.01;
    CHECK(node_of_camera(many, camera_sensor, "it").largest_px < CameraAsNode::limit_px);
    CameraModel far = m;
    far.fy *= 1.5;
    CHECK(error_of([&] { node_of_camera(far, camera_sensor, "it"); }) == "input");
}

TEST_CASE("a profile with a value that is no finite number is not kept", "[exchange][camera]") {
    Profile p = sample_profile();
    p.nodes[0].quality.rms_px = std::nan("");
    CHECK(error_of([&] { profile_to_json(p); }) == "input");
}

TEST_CASE("calibration files that cannot be are refused in one sentence", "[exchange][camera]") {
    CHECK(camera_from_text(model_text("-0.1, 0.02, 0., 0."), "it").coefficients.size() == 4);
    CHECK(camera_from_text(model_text("0.01, 0., 0., 0.", "distortion_model: equidistant\n"), "it").fisheye);
    const std::pair<const char*, std::string> cases[] = {
        {"six coefficients", model_text("0.1, 0., 0., 0., 0., 0.")},
        {"a model of its own", model_text("0.1, 0., 0., 0., 0.", "distortion_model: wavy\n")},
        {"a fisheye with five", model_text("0.1, 0., 0., 0., 0.", "fisheye_model: 1\n")},
        {"it folds", model_text("-4., 0., 0., 0., 0.")},
        {"no size", "%YAML:1.0\n---\ncamera_matrix: 3\n"},
        {"a size of nothing",
         model_text("0., 0., 0., 0., 0.").replace(10, 40, "\n---\nimage_width: 0\nimage_height: 2000\n")},
        {"nothing", ""},
        {"words", "a camera with a lens"},
        {"JSON of something", "{\"image_width\": 3000}"},
        {"half of it", model_text("0.1, 0., 0., 0., 0.").substr(0, 200)},
    };
    for (const auto& [what, text] : cases) {
        INFO(what);
        const std::string s = sentence_of([&] { camera_from_text(text, "/x/rig.yml"); });
        INFO(s);
        CHECK(is_one_sentence(s));
        CHECK(s.find("/x/rig.yml") != std::string::npos);
    }
    const std::string whole = model_text("-0.1, 0.02, 0.0001, 0.0002, 0.");
    std::mt19937 random(5);
    for (int i = 0; i < 400; ++i) {
        std::string hurt = whole;
        for (int k = 0; k < 3; ++k) hurt[random() % hurt.size()] = static_cast<char>(random());
        try {
            camera_from_text(hurt, "/x/rig.yml");
        } catch (const Error&) {
        }
    }
}
