// SPDX-License-Identifier: GPL-3.0-or-later
#include "measurement/reference.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {

std::string to_string(const MeasurementReference& reference) {
    return fmt::format("{}@{}", reference.id, reference.version);
}

MeasurementReference measurement_reference(const std::string& text) {
    const std::size_t at = text.rfind('@');
    if (at != std::string::npos && at > 0) {
        const double version = parse_number(std::string_view(text).substr(at + 1)).value_or(0);
        if (version >= 1 && version < 1e9 && version == static_cast<int>(version))
            return {text.substr(0, at), static_cast<int>(version)};
    }
    throw input_error(fmt::format("'{}' names no version of a measurement; write its id and version as in p1234@2.",
                                  printable(text)));
}

}  // namespace optrel
