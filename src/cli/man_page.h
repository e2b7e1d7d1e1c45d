// SPDX-License-Identifier: GPL-3.0-or-later
// The manual page of optrel-cli, from what --help knows.
#pragma once

#include <CLI/CLI.hpp>
#include <string>

namespace optrel::cli {

/// A page in the man macros (groff_man(7)): every command with its options, defaults and example.
std::string man_page(const CLI::App& app);

}  // namespace optrel::cli
