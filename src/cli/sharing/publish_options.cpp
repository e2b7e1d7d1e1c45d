// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/sharing/publish_options.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/station.h"
#include "base/times.h"
#include "cli/commands.h"
#include "cli/confirm.h"
#include "measurement/findings.h"

namespace optrel::cli {

OtherSettings PublishOptions::others() const {
    if (keep_settings && drop_settings)
        throw usage_error("The other settings are either kept or dropped: give --keep-settings or --drop-settings.");
    if (keep_settings) return OtherSettings::keep;
    return drop_settings ? OtherSettings::drop : OtherSettings::ask;
}

void add_publish_options(CLI::App& command, PublishOptions& o, const std::string& condition) {
    command.add_option(
        "--accept", o.accept,
        condition + "Accept a serious finding by its name; it stays with the profile. May be given again");
    command.add_option("--reason", o.reason, condition + "Why the findings are accepted");
    command.add_flag(
        "--keep-settings", o.keep_settings,
        condition + "Keep the lens settings, or ISO settings, of the version before that this one does not have");
    command.add_flag("--drop-settings", o.drop_settings, condition + "Let them go");
    add_yes_flag(command, o.yes);
}

std::vector<Acceptance> PublishOptions::acceptances() const {
    if (accept.empty() && !reason.empty())
        throw usage_error("--reason is for findings that are accepted; name them with --accept.");
    std::vector<Acceptance> out;
    for (const std::string& name : accept) out.push_back({name, reason});
    return out;
}

void accept(Profile& profile, const PublishOptions& o) {
    accept_findings(profile.findings, profile.name, o.acceptances(), current_author(), utc_now());
}

void confirm_publishing(const Store& store, const Profile& profile, const PublishOptions& o) {
    require_accepted(profile.findings, profile.name);
    confirm(store, fmt::format("Publishing {}", profile.name),
            reach_of_versions(store, with_next_version(store.profiles().all_versions(), profile), console_progress()),
            o.yes);
}

}  // namespace optrel::cli
