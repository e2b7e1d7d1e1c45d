// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/days.h"

#include <chrono>

namespace optrel {
namespace {

/// `form`: d for a digit, anything else as it stands.
bool has_form(const std::string& text, const std::string& form) {
    bool fits = text.size() == form.size();
    for (std::size_t i = 0; fits && i < form.size(); ++i)
        fits = form[i] == 'd' ? text[i] >= '0' && text[i] <= '9' : text[i] == form[i];
    return fits;
}

int number_in(const std::string& text, std::size_t at, std::size_t count) { return std::stoi(text.substr(at, count)); }

}  // namespace

bool is_day(const std::string& text) {
    if (!has_form(text, "dddd-dd-dd")) return false;
    return std::chrono::year_month_day(std::chrono::year(number_in(text, 0, 4)),
                                       std::chrono::month(static_cast<unsigned>(number_in(text, 5, 2))),
                                       std::chrono::day(static_cast<unsigned>(number_in(text, 8, 2))))
        .ok();
}

bool is_instant(const std::string& text) {
    return has_form(text, "dddd-dd-ddTdd:dd:ddZ") && is_day(text.substr(0, 10)) && number_in(text, 11, 2) < 24 &&
           number_in(text, 14, 2) < 60 && number_in(text, 17, 2) < 60;
}

}  // namespace optrel
