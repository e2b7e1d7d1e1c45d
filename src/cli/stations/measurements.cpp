// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/stations/measurements.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "base/station.h"
#include "base/times.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/confirm.h"
#include "cli/sharing/publish_options.h"
#include "kinds/measurement_kinds.h"
#include "optics/profile_kind.h"
#include "patches/body_colours.h"
#include "sensor/defect_kind.h"
#include "sensor/noise_kind.h"
#include "studio/baselines/naming.h"
#include "studio/baselines/references.h"
#include "studio/frames/measured_facts.h"
#include "studio/profiles/measurement_file.h"

namespace optrel::cli {

using nlohmann::json;

json measurement_list(const Store& store) {
    json out = json::array();
    for (const MeasurementKind* kind : measurement_kinds())
        for (const Measurement& m : store.measurements().all_versions(*kind)) {
            json figures = json::array();
            for (const QualityFigure& f : m.figures) figures.push_back(to_string(f));
            out.push_back({{"kind", m.kind},
                           {"id", m.id},
                           {"version", m.version},
                           {"name", m.name},
                           {"subject", to_string(m.subject.kind)},
                           {"serial", m.subject.serial},
                           {"author", m.author},
                           {"time", m.time},
                           {"current", m.state.is_current()},
                           {"withdrawn", m.state.withdrawn},
                           {"figures", figures}});
        }
    return out;
}

namespace {

struct MeasurementOptions {
    std::string store, noise, defects, colours, body, measurement, reason;
    PublishOptions publishing;
    bool json = false, yes = false;
};

void tell_version(const MeasurementOptions& o, const char* what, const Measurement& m) {
    if (o.json)
        print_json({{"id", m.id}, {"version", m.version}});
    else
        fmt::print("{} {} as version {} ({})\n", what, printable(m.name), m.version, m.id);
}

void publish_noise(const MeasurementOptions& o) {
    const std::string document =
        with_accepted(read_file(o.noise), o.publishing.acceptances(), current_author(), utc_now());
    const OtherSettings others = o.publishing.others();
    Store store = open_store(o.store, Access::begin);
    const Measurement proposed = noise_kind().read(document, o.noise);
    require_accepted(proposed.findings, proposed.name);
    confirm(store, "Publishing " + proposed.name, frames_measured_by(store, proposed), o.publishing.yes);
    tell_version(o, "Published", take_in_measurement(store, noise_kind(), document, others));
}

/// The map with the names that the register has for the body.
std::string of_body(const Store& store, const MeasurementOptions& o) {
    DefectMap map = defects_from_json(read_file(o.defects), o.defects);
    if (!o.body.empty()) {
        const auto fleet = store.registry().fleet();
        const Body* body = fleet->body(Naming(store).body(o.body));
        if (!body) throw input_error(fmt::format("The register has no body '{}'.", printable(o.body)));
        if (map.camera != body->camera() || (!map.serial.empty() && map.serial != body->measured_serial()))
            throw input_error(
                fmt::format("{} was measured on {} {}, not on {}.", o.defects, map.camera, map.serial, body->label()));
        map.serial = body->measured_serial();
    }
    return defects_to_json(map);
}

void publish_defects(const MeasurementOptions& o) {
    Store store = open_store(o.store, Access::begin);
    const std::string document = of_body(store, o);
    const Measurement proposed = defect_kind().read(document, o.defects);
    defect_kind().require_plausible(document);
    confirm(store, "Publishing " + proposed.name, frames_measured_by(store, proposed), o.yes);
    tell_version(o, "Published", take_in_measurement(store, defect_kind(), document, OtherSettings::drop));
}

void publish_colours(const MeasurementOptions& o) {
    Store store = open_store(o.store, Access::begin);
    const std::string document = read_file(o.colours);
    const Measurement proposed = colour_kind().read(document, o.colours);
    confirm(store, "Publishing " + proposed.name, frames_measured_by(store, proposed), o.yes);
    tell_version(o, "Published", take_in_measurement(store, colour_kind(), document, OtherSettings::drop));
}

/// The version that a command names. Profiles have commands of their own, which tell how far places move.
Measurement named(const Store& store, const MeasurementOptions& o, const char* command) {
    Measurement m = measurement_named(store, o.measurement);
    if (m.kind == lens_profile_kind().id)
        throw usage_error(fmt::format("{} is a lens profile; use 'profile {}'.", o.measurement, command));
    return m;
}

void withdraw(const MeasurementOptions& o) {
    Store store = open_store(o.store, Access::write);
    const Measurement m = named(store, o, "withdraw");
    confirm(store, fmt::format("Withdrawing {} version {}", m.name, m.version), frames_measured_by(store, m), o.yes);
    store.measurements().withdraw(*find_measurement_kind(m.kind), m.id, m.version, o.reason, current_author());
    if (!o.json) fmt::print("Withdrawn: {} version {}\n", printable(m.name), m.version);
}

void make_current(const MeasurementOptions& o) {
    Store store = open_store(o.store, Access::write);
    const Measurement m = named(store, o, "make-current");
    confirm(store, fmt::format("Making {} version {} current", m.name, m.version), frames_measured_by(store, m), o.yes);
    store.measurements().make_current(*find_measurement_kind(m.kind), m.id, m.version, o.reason, current_author());
    if (!o.json) fmt::print("Current: {} version {}\n", printable(m.name), m.version);
}

}  // namespace

void add_measurements(CLI::App& store) {
    auto o = std::make_shared<MeasurementOptions>();
    auto* noise = add_command(store, "publish-noise", "Publish the measured noise of a body as its next version",
                              "store publish-noise --store studio noise.json");
    add_store_option(*noise, o->store);
    noise->add_option("noise", o->noise, "Measurement (JSON) as the command noise wrote it")->required();
    add_publish_options(*noise, o->publishing);
    noise->add_flag("--json", o->json, "Print JSON");
    noise->callback([o] { publish_noise(*o); });
    auto* defects = add_command(store, "publish-defects",
                                "Publish the defect map of a body as its next version; from then on its pixels are "
                                "replaced in every development of the body's frames",
                                "store publish-defects --store studio defects.json");
    add_store_option(*defects, o->store);
    defects->add_option("defects", o->defects, "Map (JSON) as the command 'defects find' wrote it")->required();
    defects->add_option("--body", o->body,
                        "The body, by a name or number of the register; needed when its files report no serial number");
    add_yes_flag(*defects, o->yes);
    defects->add_flag("--json", o->json, "Print JSON");
    defects->callback([o] { publish_defects(*o); });
    auto* colours = add_command(store, "publish-colours",
                                "Publish the measured colours of a body as their next version; pins may name them",
                                "store publish-colours --store studio colours.json");
    add_store_option(*colours, o->store);
    colours->add_option("colours", o->colours, "Measurement (JSON) as 'colour measure --measurement' wrote it")
        ->required();
    add_yes_flag(*colours, o->yes);
    colours->add_flag("--json", o->json, "Print JSON");
    colours->callback([o] { publish_colours(*o); });
    const auto changing = [&](const char* name, const char* what, const char* example) {
        auto* s = add_command(store, name, what, example);
        add_store_option(*s, o->store);
        s->add_option("measurement", o->measurement, "ID@VERSION, as 'store list measurements' shows it")->required();
        add_yes_flag(*s, o->yes);
        return s;
    };
    auto* back = changing("withdraw",
                          "Withdraw a version of a noise measurement, a fingerprint, a defect map or measured colours",
                          "store withdraw n1a2b3c4@2 --reason \"The lamp flickered\"");
    back->add_option("--reason", o->reason, "Why; everybody sees it who had the version")->required();
    back->callback([o] { withdraw(*o); });
    auto* current = changing("make-current", "Make a version current; takes its withdrawal back as well",
                             "store make-current n1a2b3c4@1");
    current->add_option("--reason", o->reason, "Why");
    current->callback([o] { make_current(*o); });
}

}  // namespace optrel::cli
