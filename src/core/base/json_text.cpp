// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/json_text.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/words.h"

namespace optrel {
namespace {

using nlohmann::json;

/// The reason why a document could not be read back, and its place. The place is built while returning, so that valid
/// documents cost nothing.
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

/// Documents of Optrel are far less nested. Recursive functions need one stack frame per level.
constexpr int deepest = 64;

[[noreturn]] void refuse_depth(const std::string& where, int depth) {
    throw input_error(
        fmt::format("{} is nested more than {} levels deep, which no file of Optrel is; it is damaged or "
                    "made to do harm, so nothing of it is taken.",
                    where, depth));
}

/// Counts the parts of a text and stops at the limits.
class Counting final : public nlohmann::json_sax<json> {
public:
    explicit Counting(const JsonLimits& limits) : limits_(limits) {}

    bool too_deep() const { return depth_ > limits_.depth; }
    bool too_many() const { return values_ > limits_.values; }
    bool too_long() const { return longest_ > limits_.text; }

    bool null() override { return one_more(); }
    bool boolean(bool) override { return one_more(); }
    bool number_integer(number_integer_t) override { return one_more(); }
    bool number_unsigned(number_unsigned_t) override { return one_more(); }
    bool number_float(number_float_t, const string_t&) override { return one_more(); }
    bool string(string_t& text) override { return text_of(text.size()); }
    bool binary(binary_t&) override { return one_more(); }
    bool key(string_t& text) override { return text_of(text.size()); }
    bool start_object(std::size_t) override { return deeper(); }
    bool start_array(std::size_t) override { return deeper(); }
    bool end_object() override { return --depth_, true; }
    bool end_array() override { return --depth_, true; }
    bool parse_error(std::size_t, const std::string&, const nlohmann::detail::exception&) override { return false; }

private:
    bool text_of(std::size_t size) {
        longest_ = std::max(longest_, size);
        return one_more() && !too_long();
    }
    bool one_more() { return ++values_, !too_many(); }
    bool deeper() { return ++depth_, one_more() && !too_deep(); }

    JsonLimits limits_;
    int depth_ = 0;
    std::size_t values_ = 0, longest_ = 0;
};

}  // namespace

std::string json_text(const json& document, int indent) {
    if (const auto fault = fault_in(document))
        throw input_error(fmt::format("Nothing was written, because {} could not be read back: {}.",
                                      fault->at.empty() ? "the document" : fault->at, fault->why));
    return document.dump(indent);
}

json parse_json(const std::string& text, const std::string& where, const json::parser_callback_t& seen) {
    const auto watched = [&](int depth, json::parse_event_t event, json& parsed) {
        const bool opens = event == json::parse_event_t::object_start || event == json::parse_event_t::array_start;
        if (opens && depth >= deepest) refuse_depth(where, deepest);
        return !seen || seen(depth, event, parsed);
    };
    try {
        return json::parse(text, watched);
    } catch (const json::parse_error& error) {
        throw input_error(
            fmt::format("{} is no JSON that can be read (it goes wrong at byte {}): it is damaged or another kind of "
                        "file; restore it from a copy.",
                        where, error.byte));
    } catch (const json::out_of_range& error) {
        constexpr int number_overflow = 406;
        if (error.id != number_overflow) throw;
        throw input_error(
            fmt::format("{} is no JSON that can be read, since it holds a number that nothing can keep; "
                        "restore it from a copy.",
                        where));
    }
}

void require_within(const JsonLimits& limits, const std::string& text, const std::string& where) {
    Counting counting(limits);
    json::sax_parse(text, &counting);
    if (counting.too_deep()) refuse_depth(where, limits.depth);
    if (counting.too_long())
        throw input_error(
            fmt::format("{} holds a text of more than {} MB, more than is taken from elsewhere; have it "
                        "made again without it.",
                        where, limits.text >> 20));
    if (counting.too_many())
        throw input_error(
            fmt::format("{} holds more than {} values, more than are taken from elsewhere; have it made "
                        "again, in parts.",
                        where, limits.values));
}

}  // namespace optrel
