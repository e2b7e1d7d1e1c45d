// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/scope_options.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel::cli {
namespace {

/// "800", "800-3200", "800-", "-3200".
void read_iso(const std::string& text, FrameScope& scope) {
    if (text.empty()) return;
    const auto dash = text.find('-');
    const auto number = [&](const std::string& part) -> std::optional<int> {
        if (part.empty()) return std::nullopt;
        const auto n = parse_integer(part);
        if (!n || *n < 1 || *n > 100000000)
            throw usage_error(
                fmt::format("'{}' is no ISO; write --iso 800, 800-3200, 800- or -3200.", printable(text)));
        return static_cast<int>(*n);
    };
    scope.iso_from = number(text.substr(0, dash));
    scope.iso_to = dash == std::string::npos ? scope.iso_from : number(text.substr(dash + 1));
    if (!scope.iso_from && !scope.iso_to)
        throw usage_error(fmt::format("'{}' is no ISO; write --iso 800, 800-3200, 800- or -3200.", printable(text)));
}

}  // namespace

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
    option("--iso", o.iso, "800, 800-3200, 800- or -3200");
    option("--from", o.from, "Taken on this day or later: 2026-03-01");
    option("--to", o.to, "Taken on this day or earlier");
    option("--state", o.states, "untouched, 'on baseline', hand-set or exempt");
    option("--frame", o.frames, "These frames alone");
    option("--selection", o.selection, "What was kept under this name; other options narrow it");
}

FrameScope scope_from(const ScopeOptions& o, Store& store) {
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
    read_iso(o.iso, scope);
    if (!o.from.empty()) scope.day_from = o.from;
    if (!o.to.empty()) scope.day_to = o.to;
    if (!o.states.empty()) scope.states.clear();
    for (const std::string& s : o.states) scope.states.push_back(frame_state_from(s));
    return scope;
}

}  // namespace optrel::cli
