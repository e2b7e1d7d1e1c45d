// SPDX-License-Identifier: GPL-3.0-or-later
// The words of a command line before they are parsed, and what is wrong with those that cannot be.
#pragma once

#include <CLI/CLI.hpp>
#include <string>
#include <vector>

namespace optrel::cli {

/// The words behind the program's name; commands and options that had another name once are given their present one, so
/// that scripts go on working.
std::vector<std::string> with_present_names(int argc, char** argv);

/// One sentence for a command line that was not understood: a mistyped command or option with the nearest, a value that
/// an option does not take; and the help page that tells more.
std::string what_is_wrong(const CLI::ParseError& error, const CLI::App& app, const std::vector<std::string>& words);

}  // namespace optrel::cli
