// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/compare_profiles.h"

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const PictureGeometry compared_geometry{2400, 1600, 9.5};

ProfileNode compared_lens() {
    ProfileNode n;
    n.setting = {35, 4, 1};
    n.focal_mm = 35.4;
    n.centre_mm = {0.05, -0.03};
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.2, -0.1, 1e-4, -1e-4, 0, 0});
    n.covariance = Eigen::MatrixXd::Zero(13, 13);
    n.covariance(3, 3) = 1e-8;
    Falloff f;
    for (auto& a : f.a) a = {-0.3, 0.05, -0.04, 0};
    n.falloff = f;
    return n;
}

}  // namespace

TEST_CASE("a lens agrees with itself, whatever its focal length and centre are called", "[optics]") {
    ProfileNode again = compared_lens();
    CHECK(compare_nodes(compared_lens(), again, compared_geometry).largest_px < 1e-6);
    // Another focal length with coefficients to match is the same mapping from another distance.
    again.focal_mm *= 1.01;
    LensModel::Coefficients c = again.model.coefficients();
    c[0] *= 1.01 * 1.01;
    c[1] *= std::pow(1.01, 4);
    c[2] *= std::pow(1.01, 6);
    c[3] *= 1.01;
    c[4] *= 1.01;
    again.model = LensModel(again.model.kind(), c);
    const ProfileDifference d = compare_nodes(compared_lens(), again, compared_geometry);
    CHECK(d.largest_px < 1e-4);
    CHECK(is_one_sentence(d.sentence()));
    // The mapping is the same, the focal length is not: that is told, where it is known well enough.
    CHECK(d.focal_mm == Approx(0.01 * compared_lens().focal_mm));
    CHECK(d.verdict == (d.focal_sigma_mm > 0 ? RepeatVerdict::drifted : RepeatVerdict::agrees));
}

TEST_CASE("only one copy at one setting drifts, others differ, and nothing beyond twice the uncertainty agrees",
          "[optics]") {
    ProfileNode other = compared_lens();
    LensModel::Coefficients c = other.model.coefficients();
    c[0] += 0.01;
    other.model = LensModel(other.model.kind(), c);
    const auto verdict = [&](SameLens of) { return compare_nodes(compared_lens(), other, compared_geometry, of); };
    CHECK(verdict(SameLens::one_copy).verdict == RepeatVerdict::drifted);
    for (const SameLens of :
         {SameLens::copy_unknown, SameLens::other_copy, SameLens::other_lens, SameLens::other_setting}) {
        CHECK(verdict(of).verdict == RepeatVerdict::differs);
        CHECK(verdict(of).sentence().find("rifted") == std::string::npos);
        CHECK(is_one_sentence(verdict(of).sentence()));
    }
    CHECK(verdict(SameLens::other_lens).sentence().find("Two different lenses") == 0);
    // A principal point that moved alone.
    ProfileNode a = compared_lens(), b = compared_lens();
    const auto size = 3 + a.model.coefficients().size();
    a.covariance = Eigen::MatrixXd::Identity(size, size) * 1e-8;
    b.covariance = a.covariance;
    b.centre_mm.x() += 0.02;
    const ProfileDifference moved = compare_nodes(a, b, compared_geometry);
    CHECK(moved.centre_px.x() == Approx(0.02 / compared_geometry.pitch_mm()));
    CHECK(moved.verdict != RepeatVerdict::agrees);
}

TEST_CASE("a change alike in all directions is drift, one to a side is damage", "[optics]") {
    ProfileNode drifted = compared_lens();
    LensModel::Coefficients c = drifted.model.coefficients();
    c[0] += 0.01;
    drifted.model = LensModel(drifted.model.kind(), c);
    const ProfileDifference d = compare_nodes(compared_lens(), drifted, compared_geometry);
    CHECK(d.verdict == RepeatVerdict::drifted);
    CHECK(d.rms_px > 0.05);
    ProfileNode bent = compared_lens();
    c = bent.model.coefficients();
    c[3] += 0.003;
    bent.model = LensModel(bent.model.kind(), c);
    const ProfileDifference b = compare_nodes(compared_lens(), bent, compared_geometry);
    CHECK(b.verdict == RepeatVerdict::damaged);
    CHECK(b.one_sided_px > 0.5 * b.rms_px);
    CHECK(b.sentence().find("Damaged") == 0);
    ProfileNode dark = compared_lens();
    dark.falloff->a[1][0] = -0.4;
    CHECK(compare_nodes(compared_lens(), dark, compared_geometry).verdict == RepeatVerdict::drifted);
    CHECK(compare_nodes(compared_lens(), dark, compared_geometry).largest_ev < -0.05);
}

TEST_CASE("decentring is the part that is not alike in all directions", "[optics]") {
    ProfileNode even = compared_lens();
    LensModel::Coefficients c = even.model.coefficients();
    c.tail<7>().setZero();
    even.model = LensModel(even.model.kind(), c);
    CHECK(decentring_px(even, compared_geometry) < 1e-6);
    c[3] = 0.003;
    even.model = LensModel(even.model.kind(), c);
    CHECK(decentring_px(even, compared_geometry) > 0.5);
}
