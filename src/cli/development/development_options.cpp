// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/development/development_options.h"

#include "base/error.h"
#include "base/files.h"

namespace optrel::cli {

void add_development_options(CLI::App& command, DevelopmentOptions& o) {
    command.add_option("--profile", o.profile, "Correct by this profile, with a neutral development");
    o.store_option = command.add_option("--store", o.store, "Develop and correct as this store says");
    command.add_option("--frame", o.frame, "The frame")->required();
    command.add_flag(
        "--anyway", o.anyway,
        "With --profile: also for another lens, another sensor, a focal length or an aperture that was not measured");
}

FrameDevelopment development_of(const DevelopmentOptions& o) {
    if (o.by_store() && !o.profile.empty()) throw usage_error("Give --profile or --store, not both.");
    require_regular(o.frame);
    if (!o.profile.empty()) return development_from_profile(o.profile, o.frame, o.anyway);
    if (!o.by_store()) return bare_development(o.frame);
    const Store store = open_store(o.store, Access::read);
    return development_from_store(store, o.frame);
}

}  // namespace optrel::cli
