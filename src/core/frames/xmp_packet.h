// SPDX-License-Identifier: GPL-3.0-or-later
// XMP packets in Optrel's own namespace, for sidecars.
#pragma once

#include <map>
#include <string>

#include "frames/xmp_namespace.h"

namespace optrel {

/// Properties by path: "revision" is a simple property, "baseline/exposure" a field of a structure. Values are texts.
using XmpProperties = std::map<std::string, std::string>;

/// Equal properties give equal bytes.
std::string encode_xmp(const XmpProperties& properties);

/// Throws Error(input) in one sentence about `where` when the text is not XMP, or has no property of Optrel's
/// namespace.
XmpProperties decode_xmp(const std::string& text, const std::string& where);

}  // namespace optrel
