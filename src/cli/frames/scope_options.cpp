// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/frames/scope_options.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/spans.h"
#include "base/words.h"

namespace optrel::cli {
void add_scope_options(CLI::App& command, ScopeOptions& o) {
    const std::string group = "Which frames [default: all]";
    const auto option = [&](const char* name, auto& value, const char* what) {
        command.add_option(name, value, what)->group(group);
    };
    option("--folder", o.folders, "In these folders and beneath them");
    command.add_flag("--folder-alone", o.alone, "Not beneath those folders")->group(group);
    option("--job", o.jobs, "With a folder of this name on their way");
    option("--body", o.bodies, "Of bodies by name, mark, serial number or camera");
    option("--lens", o.lenses, "Of lenses by name, mark, serial number or lens text");
    option("--iso", o.iso, "800, 100-800, 800- or -400");
    option("--from", o.from, "Taken then or later: 2026-03-01, 2026-03-01T14:30");
    option("--to", o.to, "Taken then or earlier");
    option("--state", o.states, "untouched, 'on baseline', hand-set or exempt");
    option("--frame", o.frames, "These frames alone");
    option("--selection", o.selection, "What was kept under this name; other options narrow it");
}

FrameScope scope_from(const ScopeOptions& o, const Store& store) {
    FrameScope scope;
    if (!o.selection.empty())
        scope = scope_from_json(store.selections().named(o.selection),
                                fmt::format("The selection '{}'", printable(o.selection)));
    const auto take = [](auto& to, const auto& from) {
        if (!from.empty()) to.assign(from.begin(), from.end());
    };
    take(scope.folders, o.folders);
    take(scope.frames, o.frames);
    take(scope.jobs, o.jobs);
    take(scope.bodies, o.bodies);
    take(scope.lenses, o.lenses);
    if (o.alone && scope.folders.empty())
        throw usage_error("--folder-alone is for folders; name one with --folder, or leave it out.");
    if (o.alone) scope.beneath = false;
    if (!o.iso.empty()) {
        const WholeSpan iso = span_from(o.iso, "ISO");
        scope.iso_from = iso.low ? std::optional(static_cast<int>(*iso.low)) : std::nullopt;
        scope.iso_to = iso.high ? std::optional(static_cast<int>(*iso.high)) : std::nullopt;
    }
    if (!o.from.empty()) scope.day_from = moment_from(o.from);
    if (!o.to.empty()) scope.day_to = moment_from(o.to);
    if (!o.states.empty()) scope.states.clear();
    for (const std::string& s : o.states) scope.states.push_back(frame_state_from(s));
    return scope;
}

}  // namespace optrel::cli
