// SPDX-License-Identifier: GPL-3.0-or-later
// Names that the user of this machine has for stores, so that an address need not be typed.
//
// They stand in optrel/studios.json of the user's configuration: {"north": "postgresql://iva@server/studio"}.
#pragma once

#include <map>
#include <string>

namespace optrel {

/// Throws Error(input) when the file is there and cannot be read as such.
std::map<std::string, std::string> studio_names();

/// An empty address forgets the name. Throws Error(input) for a name that could be a folder's path, and for one that is
/// not there to be forgotten.
void name_studio(const std::string& name, const std::string& address);

/// The address that a name stands for; what is no name comes back as it is. A folder of that name here goes first.
std::string address_named(const std::string& given);

}  // namespace optrel
