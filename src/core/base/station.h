// SPDX-License-Identifier: GPL-3.0-or-later
// This station among the others, and who is at it.
#pragma once

#include <string>

namespace optrel {

/// The name of this station: what the variable OPTREL_STATION says, or else the name of the computer; "station" where
/// it has none.
std::string this_station();

/// What tells this machine from another one of the same name: a figure made from the number that the system gave it at
/// its installation, or what the variable OPTREL_MACHINE says.
std::string this_machine();

/// This program among all that ever ran, on this machine and elsewhere.
std::string this_process();
/// Whether such a program ran on this machine, and runs no longer. One of another machine, or of another container with
/// processes of its own, is not known to have ended.
bool process_ended(const std::string& process);

/// Who is at it: the name that was signed in with, or else the login name.
std::string current_author();

/// From now on this program works for somebody of this name, as a server knows them. Empty: for the login name again.
void sign_as(const std::string& name);

}  // namespace optrel
