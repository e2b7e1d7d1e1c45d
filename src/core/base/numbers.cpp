// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/numbers.h"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "base/error.h"
#include "base/words.h"

namespace optrel {
namespace {

template <class T>
std::optional<T> whole(std::string_view given) {
    const std::string own = trimmed(given);
    std::string_view text = own;
    if (text.size() > 1 && text.front() == '+' && text[1] != '-') text.remove_prefix(1);
    T value{};
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (text.empty() || error != std::errc() || end != text.data() + text.size()) return std::nullopt;
    return value;
}

}  // namespace

std::optional<double> parse_number(std::string_view text) {
    const std::optional<double> value = whole<double>(text);
    return value && std::isfinite(*value) ? value : std::nullopt;
}

std::optional<long long> parse_integer(std::string_view text) { return whole<long long>(text); }

std::optional<std::pair<double, double>> parse_pair(std::string_view text, char between) {
    // Starts at the second character, so that the sign of the first number is not taken for the separator.
    const auto at = text.find(between, 1);
    if (text.empty() || at == std::string_view::npos) return std::nullopt;
    const auto first = parse_number(text.substr(0, at)), second = parse_number(text.substr(at + 1));
    if (!first || !second) return std::nullopt;
    return std::pair(*first, *second);
}

double number_from(std::string_view text, const std::string& what) {
    if (const auto value = parse_number(text)) return *value;
    throw input_error(
        fmt::format("{} needs a number, and '{}' is none; write it with a decimal point, as in 30.02.", what, text));
}

}  // namespace optrel
