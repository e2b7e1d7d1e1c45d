// SPDX-License-Identifier: GPL-3.0-or-later
// Short names for store addresses on this machine.
//
// They are kept in optrel/studios.json in the user's configuration folder: {"north": "postgresql://iva@server/studio"}.
#pragma once

#include <map>
#include <string>

namespace optrel {

/// Throws Error(input) when the file exists and is invalid.
std::map<std::string, std::string> studio_names();

/// An empty address removes the name. Throws Error(input) for a name that could be a path, and for removing an unknown
/// name.
void name_studio(const std::string& name, const std::string& address);

/// Address for a name; other texts are returned unchanged. An existing folder of that name takes precedence.
std::string address_named(const std::string& given);

}  // namespace optrel
