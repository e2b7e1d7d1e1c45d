// SPDX-License-Identifier: GPL-3.0-or-later
// What other programs put into an XMP packet that Optrel wrote: a rating, a title, keywords, namespaces of their own.
// It is carried on as it stands, byte for byte, since only its writer knows what it means.
#pragma once

#include <string>

namespace optrel {

/// The properties of a packet that are in other namespaces than Optrel's, as rdf:Description elements that stand by
/// themselves; empty: there are none. `packet` is well-formed XMP (decode_xmp says so).
std::string foreign_in_xmp(const std::string& packet);

/// The packet with such elements added.
std::string with_foreign(const std::string& packet, const std::string& foreign);

}  // namespace optrel
