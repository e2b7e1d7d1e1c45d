// SPDX-License-Identifier: GPL-3.0-or-later
// ICC input profiles of cameras, by Little CMS.
#pragma once

#include <memory>
#include <opencv2/core.hpp>
#include <optional>
#include <string>

namespace optrel {

/// True when bytes begin like an ICC profile (ICC.1:2022, 7.2).
bool is_icc_profile(const std::string& bytes);

/// Throws Error(input) for a profile that is damaged, of another device class, or without three colours.
struct IccDescription {
    std::string name, copyright;
};
IccDescription describe_icc(const std::string& bytes, const std::string& what);

/// Converts device values to linear ROMM RGB, relative colorimetric. Thread-safe.
class IccColours {
public:
    /// Throws Error(input) when the profile cannot be used.
    explicit IccColours(const std::string& bytes);
    ~IccColours();
    IccColours(IccColours&&) noexcept;

    /// `pixels` values of three floats each, in place.
    void apply(float* rgb, int pixels) const;
    /// What apply() does, where that is a matrix.
    const std::optional<cv::Matx33f>& linear() const { return linear_; }

private:
    void find_linear();
    struct Transform;
    std::unique_ptr<Transform> transform_;
    std::optional<cv::Matx33f> linear_;
};

}  // namespace optrel
