// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/confirm.h"

#include <fmt/format.h>
#include <unistd.h>

#include <iostream>

#include "base/error.h"

namespace optrel::cli {
namespace {

bool answered_yes() {
    fmt::print(stderr, "Go on? [y/N] ");
    std::string answer;
    std::getline(std::cin, answer);
    return answer == "y" || answer == "Y" || answer == "yes";
}

void decide(const Store& store, int frames, bool yes) {
    if (yes) return;
    if (isatty(STDIN_FILENO) && isatty(STDERR_FILENO)) {
        if (!answered_yes()) throw input_error("Nothing was done.");
        return;
    }
    const int limit = frames_without_asking(store);
    if (frames <= limit) return;
    throw input_error(fmt::format(
        "Nothing was done: it changes {} frames, and a script may change {} without saying --yes ('store limit' "
        "settles another number).",
        frames, limit));
}

}  // namespace

void add_yes_flag(CLI::App& command, bool& yes) {
    command.add_flag("--yes", yes, "Do it without asking, however many frames it changes");
}

void tell_reach(const std::string& what, const FramesReached& reach) {
    fmt::print(stderr, "{}: {}.\n", what, reach.sentence());
    for (const std::string& line : reach.folder_lines()) fmt::print(stderr, "  {}\n", line);
}

void confirm(const Store& store, const std::string& what, const FramesReached& reach, bool yes) {
    tell_reach(what, reach);
    decide(store, reach.frames, yes);
}

void confirm(const Store& store, const std::string& what, int frames, bool yes) {
    fmt::print(stderr, "{}: {} frame{}.\n", what, frames, frames == 1 ? "" : "s");
    decide(store, frames, yes);
}

}  // namespace optrel::cli
