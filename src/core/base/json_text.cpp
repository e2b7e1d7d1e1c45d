// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/json_text.h"

#include <fmt/format.h>

#include <cmath>

#include "base/error.h"
#include "base/words.h"

namespace optrel {
namespace {

using nlohmann::json;

/// What keeps a document from being read back, and where; `at` is put together on the way out, so that sound documents
/// cost nothing.
struct Fault {
    std::string why, at;
};

std::optional<Fault> text_fault(const std::string& text) {
    if (is_utf8(text)) return std::nullopt;
    return Fault{fmt::format("the text '{}' is no UTF-8; rename what it comes from", printable(text)), ""};
}

std::optional<Fault> fault_in(const json& j) {
    if (j.is_number_float() && !std::isfinite(j.get<double>()))
        return Fault{"the value is not a finite number; check what it was made from", ""};
    if (j.is_string()) return text_fault(j.get_ref<const std::string&>());
    if (j.is_array())
        for (std::size_t i = 0; i < j.size(); ++i)
            if (auto fault = fault_in(j[i])) return Fault{fault->why, fmt::format("/{}{}", i, fault->at)};
    if (j.is_object())
        for (const auto& [key, item] : j.items()) {
            if (auto fault = text_fault(key)) return fault;
            if (auto fault = fault_in(item)) return Fault{fault->why, fmt::format("/{}{}", key, fault->at)};
        }
    return std::nullopt;
}

}  // namespace

std::string json_text(const json& document, int indent) {
    if (const auto fault = fault_in(document))
        throw input_error(fmt::format("Nothing was written, because {} could not be read back: {}.",
                                      fault->at.empty() ? "the document" : fault->at, fault->why));
    return document.dump(indent);
}

json parse_json(const std::string& text, const std::string& where, const json::parser_callback_t& seen) {
    try {
        return json::parse(text, seen);
    } catch (const json::parse_error& error) {
        throw input_error(
            fmt::format("{} is no JSON that can be read (it goes wrong at byte {}): it is damaged or another kind of "
                        "file; restore it from a copy.",
                        where, error.byte));
    }
}

}  // namespace optrel
