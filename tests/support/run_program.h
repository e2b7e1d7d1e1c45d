// SPDX-License-Identifier: GPL-3.0-or-later
// Runs a program as a person would in a shell.
#pragma once

#include <string>

#include "support/support.h"

namespace optrel::test {

/// `program` and `arguments` as a shell takes them, so that variables may precede the program.
CommandResult run_program(const std::string& program, const std::string& arguments);

}  // namespace optrel::test
