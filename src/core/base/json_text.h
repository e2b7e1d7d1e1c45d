// SPDX-License-Identifier: GPL-3.0-or-later
// JSON that can be read back: the only way in which a document leaves the program.
#pragma once

#include <nlohmann/json.hpp>
#include <string>

namespace optrel {

/// The document as text. Throws Error(input) when it holds a number that JSON cannot say (it would become null) or a
/// text that is no UTF-8, and names the place, so that nothing is written that cannot be read back. `indent` as
/// nlohmann::json::dump() takes it.
std::string json_text(const nlohmann::json& document, int indent = -1);

/// Parses a text. Throws Error(input), in a sentence that begins with `where`, for what is no JSON and for a document
/// that is nested more than 64 levels deep. `seen` as nlohmann::json::parse() takes it; what it throws goes through.
nlohmann::json parse_json(const std::string& text, const std::string& where,
                          const nlohmann::json::parser_callback_t& seen = nullptr);

/// What a document from elsewhere may hold. A value takes up to 150 bytes of memory, though it may take two of the
/// text.
struct JsonLimits {
    int depth = 32;
    std::size_t values = 500000;  ///< numbers, texts, lists, objects and names in objects
    std::size_t text = 1u << 20;  ///< bytes of one text or name
};

/// Reads a text from elsewhere by events, so that it takes no memory, and throws Error(input) when it holds more than
/// it may. A text that is no JSON is left to parse_json().
void require_within(const JsonLimits& limits, const std::string& text, const std::string& where);

}  // namespace optrel
