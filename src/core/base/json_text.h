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

/// The document of a text. Throws Error(input): "WHERE is no JSON (...)". `seen` as nlohmann::json::parse() takes it;
/// what it throws goes through.
nlohmann::json parse_json(const std::string& text, const std::string& where,
                          const nlohmann::json::parser_callback_t& seen = nullptr);

}  // namespace optrel
