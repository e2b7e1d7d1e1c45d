// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/checks/drift_json.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"

namespace optrel {
namespace {

Drift drift_named(const std::string& name) {
    for (int i = 0; i < drift_count; ++i)
        if (to_string(static_cast<Drift>(i)) == name) return static_cast<Drift>(i);
    throw input_error(
        fmt::format("This version does not know drift of the kind '{}'; use a newer one.", printable(name)));
}

}  // namespace

nlohmann::json drift_json(const Store& store, const DriftReport& report) {
    nlohmann::json findings = nlohmann::json::array();
    for (const DriftFinding& d : report.findings)
        findings.push_back({{"kind", to_string(d.kind)},
                            {"frame", store.kept(d.frame)},
                            {"moved_to", d.moved_to.empty() ? "" : store.kept(d.moved_to)},
                            {"what", printable(d.what)},
                            {"rollout", d.rollout}});
    return {{"frames", report.frames}, {"findings", findings}, {"problems", report.problems}};
}

void add_drift(DriftReport& report, const Store& store, const nlohmann::json& document) {
    report.frames += document.at("frames").get<int>();
    for (const std::string problem : document.at("problems")) report.problems.push_back(problem);
    for (const nlohmann::json& j : document.at("findings")) {
        const std::string to = j.at("moved_to");
        report.findings.push_back({drift_named(j.at("kind")), store.here(j.at("frame").get<std::string>()),
                                   to.empty() ? std::filesystem::path() : store.here(to), j.at("what"),
                                   j.at("rollout")});
    }
}

}  // namespace optrel
