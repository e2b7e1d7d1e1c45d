// SPDX-License-Identifier: GPL-3.0-or-later
// Kinds of parts of a bundle: entries of the register, colour files, measurements of any kind, sets, tiers, baselines.
#pragma once

#include <compare>
#include <string>
#include <vector>

#include "measurement/kind.h"

namespace optrel {

/// Kinds are ordered as they are imported: later ones may refer to earlier ones.
class BundleKind {
public:
    static const BundleKind model, body, lens, claim, colours, set, tier, baseline;
    static BundleKind of(const MeasurementKind& kind);
    /// Throws Error(input) with the kinds there are.
    static BundleKind named(const std::string& text);
    static std::vector<BundleKind> all();

    /// The kind of the measurement; null for other parts.
    const MeasurementKind* measurement() const { return measurement_; }
    /// "colour file", "colour files".
    const std::string& one() const { return one_; }
    const std::string& many() const { return many_; }
    /// Folder within the bundle, and extension of the files in it.
    const std::string& folder() const { return folder_; }
    const std::string& ending() const { return ending_; }

    bool operator==(const BundleKind& other) const { return one_ == other.one_; }
    std::strong_ordering operator<=>(const BundleKind& other) const {
        return order_ != other.order_ ? order_ <=> other.order_ : one_ <=> other.one_;
    }

private:
    BundleKind(int order, std::string one, std::string many, std::string folder, std::string ending = "json",
               const MeasurementKind* measurement = nullptr)
        : order_(order),
          one_(std::move(one)),
          many_(std::move(many)),
          folder_(std::move(folder)),
          ending_(std::move(ending)),
          measurement_(measurement) {}

    int order_;
    std::string one_, many_, folder_, ending_;
    const MeasurementKind* measurement_;
};
/// "profile", "colour file", "baseline".
std::string to_string(const BundleKind& kind);
/// "1 profile", "3 colour files".
std::string counted(const BundleKind& kind, int count);

}  // namespace optrel
