// SPDX-License-Identifier: GPL-3.0-or-later
// A published record of the store that cannot be read. Readers leave it out, so that it stops nobody.
#pragma once

#include <string>

namespace optrel {

struct DamagedRecord {
    std::string kind;     ///< "revision", or the id of its kind of measurement
    std::string name;     ///< "Revision 7", "Profile p7 version 2"
    std::string problem;  ///< a sentence
    bool operator==(const DamagedRecord&) const = default;
};

}  // namespace optrel
