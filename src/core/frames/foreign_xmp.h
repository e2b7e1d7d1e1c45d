// SPDX-License-Identifier: GPL-3.0-or-later
// Properties that other programs added to an XMP packet of Optrel: a rating, a title, keywords, their own namespaces.
// They are kept byte for byte, because only their program knows their meaning.
#pragma once

#include <string>

namespace optrel {

/// The properties of a packet in other namespaces than Optrel's, as self-contained rdf:Description elements; empty when
/// there are none. `packet` is well-formed XMP (see decode_xmp).
std::string foreign_in_xmp(const std::string& packet);

/// The packet with such elements added.
std::string with_foreign(const std::string& packet, const std::string& foreign);

}  // namespace optrel
