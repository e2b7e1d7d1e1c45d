// SPDX-License-Identifier: GPL-3.0-or-later
// What a person decides when a measurement is published.
#pragma once

#include <CLI/CLI.hpp>
#include <string>
#include <vector>

#include "optics/profile.h"
#include "store/store.h"

namespace optrel::cli {

struct PublishOptions {
    std::vector<std::string> accept;
    std::string reason;
    bool keep_settings = false, drop_settings = false, yes = false;

    OtherSettings others() const;
    /// Throws Error(usage) for a reason without a finding.
    std::vector<Acceptance> acceptances() const;
};

/// `condition` begins the help of each, as in "With --publish: ".
void add_publish_options(CLI::App& command, PublishOptions& options, const std::string& condition = "");

/// Marks the findings that the options accept. Throws Error(input) for a name that the profile does not have.
void accept(Profile& profile, const PublishOptions& options);

/// Says what publishing would change, and asks as confirm() does. Throws Error(input) first where it could not be
/// published.
void confirm_publishing(const Store& store, const Profile& profile, const PublishOptions& options);

}  // namespace optrel::cli
