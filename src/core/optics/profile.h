// SPDX-License-Identifier: GPL-3.0-or-later
// A lens profile: what was measured of one lens on one sensor size, at one or more lens settings.
//
// Lengths are millimetres on the sensor, so that a profile serves another sensor size with the same lens. Versions are
// immutable once published.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include <Eigen/Core>

#include "measurement/measurement.h"
#include "optics/coordinates.h"
#include "optics/lens_model.h"
#include "optics/lens_text.h"
#include "optics/resolution.h"

namespace optrel {

/// The setting of a lens during a measurement. 0 means that the frame did not record the value.
struct LensSetting {
    double focal_mm = 0;
    double aperture = 0;    ///< f-number
    double distance_m = 0;  ///< focus distance
};

/// "35 mm f/4 1 m"; unknown values are left out.
std::string to_string(const LensSetting& setting);
/// "35mm-f4-1m": the same without spaces and slashes, as a part of a name.
std::string compact(const LensSetting& setting);

/// Lateral chromatic aberration of one channel against green (ISO 19084): at the green position s (mm),
///     displacement = (s - centre) (c0 + c1 h^2 + c2 h^4) + shift,   h = |s - centre| / reference half-diagonal.
struct LateralChromatic {
    double c0 = 0, c1 = 0, c2 = 0;
    Vec2 shift_mm = Vec2::Zero();
    double residual_p95_px = 0;  ///< what remains after correction, 95th percentile over the picture
    /// Of (c0, c1, c2, shift x mm, shift y mm).
    Eigen::Matrix<double, 5, 5> covariance = Eigen::Matrix<double, 5, 5>::Zero();
    double misfit_px = 0;  ///< RMS per axis of the residuals beyond the noise of the corners
};

/// Falloff (ISO 17957): relative illuminance at s, for each channel,
///     P(h) = 1 + a1 h^2 + a2 h^4 + a3 h^6 + a4 h^8,   h = |s - centre| / reference half-diagonal,
/// or 1 / P(h) where `reciprocal` is set: the light of a lens that falls off with a power of the cosine is the
/// reciprocal of a short polynomial, which also goes on well into the corners. The last term is held to about zero
/// where the flat fields say little of it.
struct Falloff {
    std::array<std::array<double, 4>, 3> a{};  ///< [channel][term]
    bool reciprocal = false;
    Vec2 centre_mm = Vec2::Zero();
    std::array<double, 3> residual_percent{};  ///< RMS of the block means about the model
    double sigma_percent = 0;                  ///< one sigma of the gain of green in the corner
    /// Of (a1, a2, a3, a4) of each channel.
    std::array<Eigen::Matrix4d, 3> covariance{Eigen::Matrix4d::Zero(), Eigen::Matrix4d::Zero(),
                                              Eigen::Matrix4d::Zero()};
    std::array<double, 3> misfit_percent{};  ///< RMS of the residuals beyond the noise of the blocks
    bool centre_measured = false;            ///< false: with one light direction only, the optical centre is used
    bool from_chart = false;  ///< true: from the white squares of the chart, less accurate than a flat field

    double relative(Channel channel, const Vec2& s, double half_diagonal_mm) const {
        const double q = (s - centre_mm).squaredNorm() / (half_diagonal_mm * half_diagonal_mm);
        const auto& p = a[static_cast<int>(channel)];
        const double value = 1 + q * (p[0] + q * (p[1] + q * (p[2] + q * p[3])));
        return reciprocal ? 1 / value : value;
    }
};

/// Figures for the quality of a node.
struct NodeQuality {
    int frames_used = 0;
    int frames_dropped = 0;
    int corners = 0;
    double rms_px = 0;
    double held_out_rms_px = 0;
    double max_sigma_px = 0;    ///< largest field uncertainty over the picture, one sigma
    double coverage = 0;        ///< share of the picture within reach of a corner, 0..1
    double largest_height = 0;  ///< largest covered field height
    double distortion_extreme_percent = 0;
    double straightness_before_px =
        0;  ///< largest distance of a corner from the straight line through its row or column, in the frame
    double straightness_after_px = 0;  ///< the same after correction, 95th percentile
};

/// One lens setting of a profile.
struct ProfileNode {
    LensSetting setting;
    double mapping_from_aperture =
        0;                ///< not 0: the mapping was measured at this aperture, only the falloff at the node's own
    double focal_mm = 0;  ///< calibrated focal length F
    Vec2 centre_mm = Vec2::Zero();  ///< optical centre from the middle of the picture
    LensModel model;
    double largest_radius_mm = 0;  ///< data reach this far from the middle
    /// Covariance of (F mm, cx mm, cy mm, model coefficients); empty when unknown.
    Eigen::MatrixXd covariance;
    double misfit_px =
        0;  ///< RMS per axis that the model leaves of the corners beyond their noise, alike in all frames
    std::optional<LateralChromatic> red, blue;
    std::optional<Falloff> falloff;
    std::vector<ResolutionCell> resolution;  ///< empty: not measured
    NodeQuality quality;
};

struct Provenance {
    std::string author;
    std::string time;     ///< ISO 8601, UTC
    std::string program;  ///< name and version
    std::string chart;    ///< as in checker:15x10:30
    std::string note;
    std::vector<std::pair<std::string, std::string>> frames;  ///< file name and content hash
};

struct Profile {
    std::string id;   ///< stable over versions
    int version = 0;  ///< 0: not published yet
    std::string name;
    std::string lens;         ///< lens text as the frames report it
    std::string lens_serial;  ///< of the copy that was measured; empty when unknown
    std::string camera;       ///< maker and model that it was measured on
    PictureGeometry geometry;
    MeasurementOrigin origin = MeasurementOrigin::measured;
    bool pitch_assumed = false;  ///< the frames did not record their pixel pitch, so lengths are only relative to it
    std::vector<ProfileNode> nodes;
    Provenance provenance;
    std::vector<SeriousFinding> findings;       ///< only serious ones
    std::optional<MeasurementSource> taken_in;  ///< empty: made in this studio
    VersionState state;                         ///< state of this version in its store; not a part of the document

    bool measured() const { return origin == MeasurementOrigin::measured; }
};

/// True when both are of one lens (in any spelling), one copy, one camera, one picture size and one origin (this
/// studio, or one signer; unsigned profiles from elsewhere never match). Versions of one profile are.
bool same_subject(const Profile& a, const Profile& b);

/// The shortest and the longest measured focal length; (0, 0) when the frames did not record it.
std::pair<double, double> focal_range(const Profile& profile);

/// Position of a lens setting relative to the measured ones.
enum class Placement {
    /// within 1 % of the focal length, a sixth of a stop and a twentieth of a dioptre of a node; where only one value
    /// was
    /// measured, within 3.5 %, half a stop and 0.7 dioptres of it
    measured,
    between,       ///< interpolated
    extrapolated,  ///< outside the measured range: the nearest edge is used
};
std::string to_string(Placement placement);

/// A node for any lens setting, and how it was obtained.
struct PlacedNode {
    ProfileNode node;
    Placement placement = Placement::measured;
    /// The nodes that were combined (indices) and their weights, which add up to 1; some may be negative.
    std::vector<std::pair<int, double>> parts;
    /// For settings that were not measured: independent errors, each a weighted sum of node values times a standard
    /// normal number (optics/placement.h).
    std::vector<std::vector<std::pair<int, double>>> doubts;
};

/// Interpolates a profile: displacements and falloff are smooth in the log of the focal length, linear in stops of the
/// aperture and in 1 / distance (optics/placement.h). Values that the setting does not know (0) are taken from the
/// nearest node. Outside the measured range the nearest edge is used and marked. Throws Error(input) for a profile
/// without nodes.
PlacedNode node_at(const Profile& profile, const LensSetting& setting);

/// Prediction of each node by its neighbours: the largest error of the mapping (px) and of the falloff (EV) over the
/// picture when the node is left out. Only nodes that lie between others have one.
struct LeftOut {
    int node;
    double rms_px, largest_px, falloff_ev;
};
std::vector<LeftOut> leave_one_out(const Profile& profile);

/// Adds the nodes of `added` to `base`, replacing nodes of the same setting; everything else is from `base`, the
/// provenance names both, and so do the findings. Throws Error(input) when lens, camera or sensor differ.
Profile merged(const Profile& base, const Profile& added);

/// The lens settings of `before` that `now` lacks.
std::vector<LensSetting> settings_missing(const Profile& before, const Profile& now);

/// JSON text as described in docs/profile.schema.json. Reading throws Error(input) with one sentence for anything else.
std::string profile_to_json(const Profile& profile);
Profile profile_from_json(const std::string& text, const std::string& where);

}  // namespace optrel
