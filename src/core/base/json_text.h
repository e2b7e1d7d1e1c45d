// SPDX-License-Identifier: GPL-3.0-or-later
// Writing and reading JSON safely.
#pragma once

#include <nlohmann/json.hpp>
#include <string>

namespace optrel {

/// Document as text. Throws Error(input), with the place, when the document holds a number that JSON cannot represent
/// (it would become null) or text that is not UTF-8. `indent` as in nlohmann::json::dump().
std::string json_text(const nlohmann::json& document, int indent = -1);

/// Parses a text. Throws Error(input), in a sentence that begins with `where`, for invalid JSON and for more than 64
/// nested levels. `seen` is the callback of nlohmann::json::parse(); exceptions from it are passed on.
nlohmann::json parse_json(const std::string& text, const std::string& where,
                          const nlohmann::json::parser_callback_t& seen = nullptr);

/// Limits for documents from other sources. A value can take 150 bytes of memory although it takes two bytes of text.
struct JsonLimits {
    int depth = 32;
    std::size_t values = 500000;  ///< total number of numbers, texts, lists, objects and names
    std::size_t text = 1u << 20;  ///< bytes of a single text or name
};

/// Checks a text from another source against the limits with an event parser, which needs no memory. Throws
/// Error(input) when a limit is exceeded. Syntax errors are left to parse_json().
void require_within(const JsonLimits& limits, const std::string& text, const std::string& where);

}  // namespace optrel
