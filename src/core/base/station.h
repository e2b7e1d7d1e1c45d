// SPDX-License-Identifier: GPL-3.0-or-later
// Identity of this station, of this machine, of this process, and of its user.
#pragma once

#include <string>

namespace optrel {

/// Name of this station: the variable OPTREL_STATION, otherwise the host name, otherwise "station".
std::string this_station();

/// Identifier of this machine, derived from its machine-id, or the variable OPTREL_MACHINE. Distinguishes machines with
/// the same name.
std::string this_machine();

/// Identifier of this process, unique across machines and restarts.
std::string this_process();
/// Whether a process of this machine has ended. False for processes of other machines or of other containers, whose
/// state is unknown.
bool process_ended(const std::string& process);

/// Name of the current user: the name set by sign_as(), otherwise the login name.
std::string current_author();

/// Sets the user name, as a server knows it. Empty: the login name again.
void sign_as(const std::string& name);

}  // namespace optrel
