// SPDX-License-Identifier: GPL-3.0-or-later
// Measured figures as text, so that the window, the command line and reports show the same digits of the same figure.
#pragma once

#include <string>

namespace optrel {

/// A kind of figure: its unit and the decimals that it shows.
struct FigureKind {
    const char* unit = "";
    int decimals = 0;
    bool with_sign = false;  ///< figures above zero are shown with a plus sign
};

namespace figures {
inline constexpr FigureKind reprojection_error{"px", 4};  ///< RMS of residuals, and the uncertainty of a mapping
inline constexpr FigureKind shift{"px", 3};               ///< by which places of two mappings differ
inline constexpr FigureKind shift_along{"px", 3, true};   ///< along one axis
inline constexpr FigureKind place{"px", 1};               ///< a place or size in a picture
inline constexpr FigureKind length{"mm", 3};              ///< of a lens or a chart
inline constexpr FigureKind sensor_side{"mm", 1};         ///< or its diagonal
inline constexpr FigureKind length_change{"mm", 3, true};
inline constexpr FigureKind pitch{"µm", 2};
inline constexpr FigureKind distortion{"%", 3, true};
inline constexpr FigureKind share{"%", 0};       ///< of a picture
inline constexpr FigureKind fine_share{"%", 2};  ///< of a picture, where a hundredth of a percent counts
inline constexpr FigureKind light{"%", 1};       ///< of the light at a place
inline constexpr FigureKind falloff{"EV", 3, true};
inline constexpr FigureKind falloff_size{"EV", 3};  ///< of a difference or an uncertainty
inline constexpr FigureKind exposure{"EV", 2, true};
inline constexpr FigureKind range{"EV", 2};     ///< of light
inline constexpr FigureKind modulation{"", 3};  ///< of a spatial frequency, 0 to 1
inline constexpr FigureKind colour_difference{"dE2000", 2};
inline constexpr FigureKind lab_difference{"", 1};  ///< CIELAB 1976
inline constexpr FigureKind lab_deviation{"", 2};   ///< of CIELAB, one sigma
inline constexpr FigureKind temperature{"K", 0};
inline constexpr FigureKind warmth{"MK⁻¹", 1, true};
inline constexpr FigureKind tint{"", 1, true};
inline constexpr FigureKind angle{"°", 3};
inline constexpr FigureKind coarse_angle{"°", 0};
inline constexpr FigureKind counts{"counts", 2};
inline constexpr FigureKind duration{"s", 1};
inline constexpr FigureKind whole_counts{"counts", 0};
inline constexpr FigureKind sigmas{"sigma", 1};
inline constexpr FigureKind fingerprint{"", 0};  ///< figure of recognition by fingerprint
inline constexpr FigureKind ratio{"", 2};
inline constexpr FigureKind scale{"", 4};
inline constexpr FigureKind plotted{"", 3};  ///< read off a curve
inline constexpr FigureKind rate{"", 3};     ///< pictures a second
inline constexpr FigureKind megabytes{"MB", 1};
inline constexpr FigureKind light_change{"%", 1, true};
}  // namespace figures

/// "0.0213". Zero has no sign.
std::string number_text(const FigureKind& kind, double value);
/// "0.0213 px".
std::string figure_text(const FigureKind& kind, double value);
/// "+0.31 ± 0.02"; `sigma` is one sigma. Up to two more decimals are shown when the uncertainty would round to zero.
std::string number_text(const FigureKind& kind, double value, double sigma);
/// "+0.31 ± 0.02 EV".
std::string figure_text(const FigureKind& kind, double value, double sigma);
/// "12.52, -3.10 px".
std::string pair_text(const FigureKind& kind, double one, double other);
/// "4.20 → 1.10".
std::string change_text(const FigureKind& kind, double before, double after);

/// "0.6882 ± 0.0006": with so many decimals, at most 6, that two figures of the uncertainty (one sigma) show; with 3
/// when the uncertainty is 0.
std::string figure_with_sigma(double value, double sigma);

}  // namespace optrel
