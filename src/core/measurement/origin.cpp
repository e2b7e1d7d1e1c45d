// SPDX-License-Identifier: GPL-3.0-or-later
#include "measurement/origin.h"

#include <fmt/format.h>

#include "base/words.h"

namespace optrel {

std::string to_string(Standing standing) {
    switch (standing) {
        case Standing::not_signed: return "not signed";
        case Standing::unknown: return "signed, not trusted here";
        case Standing::trusted: return "signed and trusted";
        default: return "its key was withdrawn";
    }
}

std::string named_source(const MeasurementSource& t) {
    const std::string from =
        t.way == "exchange" ? "the exchange " + t.source : fmt::format("the {} '{}'", t.way, t.source);
    if (t.key.empty()) return from + ", which nobody signed";
    if (t.signer.empty()) return fmt::format("{}, signed with the key {}", from, key_words(t.key));
    return fmt::format("{}, signed by {} ({})", from, t.signer, key_words(t.key));
}

std::string describe(const MeasurementSource& t) {
    switch (t.standing) {
        case Standing::not_signed: return named_source(t);
        case Standing::trusted: return named_source(t) + ", whom this studio trusts";
        case Standing::withdrawn: return named_source(t) + ", whose key was withdrawn";
        default: return named_source(t) + ", whom this studio does not know to trust";
    }
}

std::string to_string(MeasurementOrigin origin) {
    switch (origin) {
        case MeasurementOrigin::by_hand: return "by hand";
        case MeasurementOrigin::embedded: return "embedded";
        case MeasurementOrigin::calibration_file: return "calibration file";
        default: return "measured";
    }
}

}  // namespace optrel
