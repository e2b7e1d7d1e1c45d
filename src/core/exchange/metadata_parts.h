// SPDX-License-Identifier: GPL-3.0-or-later
// The parts of a frame's metadata that a delivery copies or leaves out, by name.
#pragma once

#include "frames/metadata_choice.h"

namespace optrel {

struct MetadataPart {
    const char* id;    ///< in files and on the command line
    const char* name;  ///< for display
    bool MetadataChoice::*kept;
};
inline constexpr MetadataPart metadata_parts[] = {{"exposure", "exposure", &MetadataChoice::exposure},
                                                  {"serials", "serial numbers", &MetadataChoice::serials},
                                                  {"place", "place", &MetadataChoice::place},
                                                  {"rights", "rights", &MetadataChoice::rights},
                                                  {"description", "description", &MetadataChoice::description}};

}  // namespace optrel
