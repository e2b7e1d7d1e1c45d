// SPDX-License-Identifier: GPL-3.0-or-later
// The namespace of Optrel's own XMP properties.
#pragma once

namespace optrel {

/// Prefix "optrel".
inline constexpr const char* xmp_namespace = "urn:optrel:sheet:1#";

}  // namespace optrel
