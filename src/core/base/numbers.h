// SPDX-License-Identifier: GPL-3.0-or-later
// Conversion between numbers and text, independent of the locale: the decimal mark is always a point.
//
// Every number from a file, an option or an input field is read by these functions, so that a decimal-comma locale
// gives the same results. Texts are made by fmt, which ignores the locale.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>

namespace optrel {

/// Parses a finite number; surrounding blanks are allowed. Empty when the text is anything else.
std::optional<double> parse_number(std::string_view text);

/// Parses a whole number in the same way.
std::optional<long long> parse_integer(std::string_view text);

/// Parses two numbers with `between` in the middle, as in "1600-6400" or "15x10". Empty when the text is anything else.
std::optional<std::pair<double, double>> parse_pair(std::string_view text, char between);

/// Parses a number. Throws Error(input) that names `what` the number is for.
double number_from(std::string_view text, const std::string& what);

}  // namespace optrel
