// SPDX-License-Identifier: GPL-3.0-or-later
// What one form of lens model is made of. Everything that differs between the forms is said here and in the form's own
// file; to add one, write such a file and name it in lens_forms() (lens_form.cpp).
//
// A form's picture is centre + F (x', y'), and it says how (x', y') follows from a direction and its coefficients: the
// radial ones first, then those of decentring. See docs/lens-models.md for the formulae.
#pragma once

#include <cmath>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "optics/coordinates.h"

namespace optrel {

constexpr int largest_coefficient_count = 13;

/// Derivatives of a bent place by the direction (3 columns), then by the coefficients.
using BendDerivatives = Eigen::Matrix<double, 2, 3 + largest_coefficient_count>;

class LensForm;

/// Circumstances in which lens models are compared.
struct TrialContext {
    double angle = 0;                 ///< the largest from the axis under which a corner was seen, radians
    const LensForm* first = nullptr;  ///< the form of the lens that was found first
    bool unexplained = false;         ///< that lens leaves residuals larger than the noise of the corners
    bool wished = false;              ///< the user asked for this form
};

/// Properties of a decentring coefficient besides its formula.
struct DecentringTerm {
    double sigma = 0;     ///< prior: normal about zero with this standard deviation
    int focal_power = 0;  ///< as in LensForm::focal_power()
};
/// Usual standard deviation of decentring: angles in radians, or shares of the focal length.
constexpr double usual_decentring = 0.002;

class LensForm {
public:
    /// Properties of a form besides its formulae.
    struct Facts {
        std::string_view name;  ///< as it stands in profiles and on the command line
        bool angular =
            false;  ///< a fisheye: the radius follows the angle, and directions beyond 90 degrees have a place
        bool designed =
            false;  ///< a projection that lenses are designed after, so that its continuation can be trusted further
        bool polynomial = false;  ///< the radius is linear in the radial coefficients k_i, which belong to the powers 2
                                  ///< i + 2 of the tangent
        int radial_count = 0;
        std::span<const DecentringTerm> decentring = {};
        int optional_count = 0;  ///< the last coefficients, which lists may leave out: they are zero then
        std::span<const int> term_choices = {};  ///< numbers of radial terms that a solve may take, ascending
        double term_sigma = 0;                   ///< prior sigma of each radial coefficient while solving; 0: none
        std::span<const double> starts = {};  ///< focal lengths over the longer side of the picture at which an unknown
                                              ///< lens is looked for; none: not at all
        int start_terms = 0;                  ///< radial terms of such a start
    };

    constexpr explicit LensForm(const Facts& facts) : facts_(facts) {}
    LensForm(const LensForm&) = delete;
    LensForm& operator=(const LensForm&) = delete;

    std::string name() const { return std::string(facts_.name); }
    bool angular() const { return facts_.angular; }
    bool designed() const { return facts_.designed; }
    bool polynomial() const { return facts_.polynomial; }
    int radial_count() const { return facts_.radial_count; }
    int coefficient_count() const { return facts_.radial_count + decentring_count(); }
    int decentring_count() const { return static_cast<int>(facts_.decentring.size()); }
    int optional_count() const { return facts_.optional_count; }
    std::span<const int> term_choices() const { return facts_.term_choices; }
    /// Prior standard deviation of each coefficient (about zero); 0: no prior.
    double prior_sigma(int k) const {
        return k < radial_count() ? facts_.term_sigma : facts_.decentring[k - radial_count()].sigma;
    }
    /// Divided by the focal length to this power, coefficient k gives displacements in mm at a place in mm that are
    /// linear in it for any focal length. Among radial coefficients this holds for polynomials of the tangent only.
    int focal_power(int k) const {
        return k < radial_count() ? 2 * (k + 1) : facts_.decentring[k - radial_count()].focal_power;
    }
    std::span<const double> starts() const { return facts_.starts; }
    int start_terms() const { return facts_.start_terms; }

    /// The formula. `c`: the coefficients; `direction`: any length, with z > 0 unless the form is angular.
    virtual Vec2 bend(const double* c, const Vec3& direction) const = 0;
    /// The same with its derivatives; columns of coefficients that the form lacks are zero.
    virtual Vec2 bend(const double* c, const Vec3& direction, BendDerivatives& by) const = 0;
    /// The bent radius about the axis without decentring, and its slope when asked for. `t`: see parameter(). A place
    /// beyond a pole has a slope below 0.
    virtual double radius(const double* c, double t, double* slope) const = 0;
    /// Upper limit of the search for the fold of radius().
    virtual double farthest() const = 0;
    /// The direction (not normalised) for a parameter t and an azimuth (unit vector), about the axis of symmetry.
    virtual Vec3 direction(const Vec2& azimuth, double t, const Vec2& axis) const = 0;
    /// The parameter of radius() for the tangent of an angle from the axis.
    virtual double parameter(double tangent) const = 0;
    /// The bent radius at t when all radial coefficients are zero.
    virtual double plain_radius(double t) const = 0;

    /// Indices of the radial coefficients that are held at zero with so many terms.
    virtual std::vector<int> held(int terms) const;
    /// The first radial coefficient that is left out with so many terms; -1 when that coefficient alone has no meaning.
    virtual int next_term(int terms) const { return terms < radial_count() ? terms : -1; }
    /// The factor of coefficient k in the linear equation r / r0 - 1 = sum of all terms, for a known ratio r / r0; q:
    /// square of r0. Used to fit one form to another.
    virtual double fit_factor(int k, double q, double ratio) const;
    /// Numbers of radial terms for which this form should be tried.
    virtual std::vector<int> worth_trying(const TrialContext& context) const = 0;
    /// True when this form with its terms is preferred to another one that predicts equally well.
    virtual bool continues(const LensForm& other, int terms, int other_terms) const;

protected:
    ~LensForm() = default;

private:
    Facts facts_;
};

/// A form as a value: compared and copied, and used like a pointer that is never null.
class LensModelKind {
public:
    static const LensModelKind radial_tangential, rational, equidistant, equisolid, stereographic;

    constexpr explicit LensModelKind(const LensForm* form) : form_(form) {}
    const LensForm* operator->() const { return form_; }
    const LensForm& operator*() const { return *form_; }
    bool operator==(const LensModelKind& other) const = default;

private:
    const LensForm* form_;
};

/// All forms, in the order in which they are offered.
std::span<const LensModelKind> lens_forms();
/// Their names for messages: "a, b or c".
std::string lens_form_names();

inline std::string to_string(LensModelKind kind) { return kind->name(); }
/// Throws Error(input) for a name that this version does not know.
LensModelKind lens_model_kind(const std::string& name);

}  // namespace optrel
