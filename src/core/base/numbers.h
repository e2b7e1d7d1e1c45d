// SPDX-License-Identifier: GPL-3.0-or-later
// Numbers as text and back, whatever the locale: a point is the decimal mark, and nothing else is understood.
//
// Everything that reads a number from a file, an option or a field goes through here, so that a studio with a decimal
// comma gets the same figures as one without. Text is made by fmt, which ignores the locale as well.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>

namespace optrel {

/// A finite number that is the whole of the text (blanks around it are allowed); nothing otherwise.
std::optional<double> parse_number(std::string_view text);

/// A whole number that is the whole of the text.
std::optional<long long> parse_integer(std::string_view text);

/// Two numbers with `between` in the middle, as in "1600-6400" or "15x10"; nothing unless both are there and nothing
/// else is.
std::optional<std::pair<double, double>> parse_pair(std::string_view text, char between);

/// The number that a text says. Throws Error(input) that names `what` the number is for.
double number_from(std::string_view text, const std::string& what);

}  // namespace optrel
