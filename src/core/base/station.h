// SPDX-License-Identifier: GPL-3.0-or-later
// This station among the others, and who is at it.
#pragma once

#include <string>

namespace optrel {

/// The name of this station: what the variable OPTREL_STATION says, or else the name of the computer; "station" where
/// it has none.
std::string this_station();

/// Who is at it: the name that was signed in with, or else the login name.
std::string current_author();

/// From now on this program works for somebody of this name, as a server knows them. Empty: for the login name again.
void sign_as(const std::string& name);

}  // namespace optrel
