// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange_server/exchange_service.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {
namespace {

/// The question in a request. Unknown parameters are refused, because a mistyped one must not widen the question.
ExchangeQuestion question_in(const HttpRequest& asked) {
    ExchangeQuestion q;
    for (const auto& [name, text] : asked.params) {
        const auto figure = [&, &name = name, &text = text] {
            const std::optional<double> v = parse_number(text);
            if (!v || !(*v > 0) || *v > 1e6)
                throw input_error(fmt::format("'{}' is no figure for {}.", printable(text.substr(0, 40)), name));
            return *v;
        };
        if (name == "lens")
            q.lens = text.substr(0, 200);
        else if (name == "half_diagonal_mm")
            q.half_diagonal_mm = figure();
        else if (name == "focal_mm")
            q.setting.focal_mm = figure();
        else if (name == "aperture")
            q.setting.aperture = figure();
        else if (name == "distance_m")
            q.setting.distance_m = figure();
        else if (name == "most_rms_px")
            q.most_rms_px = figure();
        else if (name == "page")
            q.page = static_cast<int>(figure());
        else
            throw input_error(fmt::format("Nothing is searched by '{}'.", printable(name.substr(0, 40))));
    }
    return q;
}

/// The rest of a path that has this prefix and ends in the 64 digits of a hash or key; otherwise empty.
std::string digits_behind(const std::string& path, const std::string& begin) {
    if (path.size() != begin.size() + 64 || path.compare(0, begin.size(), begin) != 0) return {};
    const std::string digits = path.substr(begin.size());
    return digits.find_first_not_of("0123456789abcdef") == std::string::npos ? digits : std::string();
}

HttpAnswer with_json(const nlohmann::json& document, int status = 200) {
    return {status, "application/json", json_text(document)};
}

/// The allowed methods of a path; empty: there is no such path.
std::string methods_of(const std::string& path) {
    if (path == "/v1" || !digits_behind(path, "/v1/profiles/").empty() || !digits_behind(path, "/v1/keys/").empty())
        return "GET";
    if (path == "/v1/profiles") return "GET and POST";
    return path == "/v1/withdrawals" ? "POST" : "";
}

}  // namespace

ExchangeService::ExchangeService(ProfileRepository& shelf, const HttpLimits& limits)
    : shelf_(shelf),
      server_(
          [this](const HttpRequest& request) {
              try {
                  return answer_to(request);
              } catch (const Error& error) {
                  return http_refusal(error.kind() == ErrorKind::input ? 400 : 500, error.what());
              }
          },
          limits) {}

HttpAnswer ExchangeService::answer_to(const HttpRequest& asked) {
    const bool get = asked.method == "GET", post = asked.method == "POST";
    if (get && asked.path == "/v1")
        return with_json({{"format", "optrel-exchange"}, {"format_version", 1}, {"profiles", shelf_.count()}});
    if (get && asked.path == "/v1/profiles")
        return {200, "application/json", page_to_json(shelf_.find(question_in(asked)))};
    if (post && asked.path == "/v1/profiles") {
        const auto [id, added] = shelf_.put(asked.body);
        return with_json({{"id", id}}, added ? 201 : 200);
    }
    if (const std::string id = digits_behind(asked.path, "/v1/profiles/"); get && !id.empty()) {
        const std::optional<std::string> bytes = shelf_.get(id);
        if (!bytes) return http_refusal(404, "There is no such profile, or its key was withdrawn.");
        return {200, "application/zip", *bytes};
    }
    if (const std::string key = digits_behind(asked.path, "/v1/keys/"); get && !key.empty()) {
        const std::optional<Withdrawal> w = shelf_.withdrawal_of(key);
        nlohmann::json out = {{"withdrawal", nullptr}};
        if (w) out["withdrawal"] = nlohmann::json::parse(withdrawal_to_json(*w));
        return with_json(out);
    }
    if (post && asked.path == "/v1/withdrawals") {
        shelf_.withdraw(withdrawal_from_json(asked.body.substr(0, 1 << 16), "The request"));
        return with_json({{"done", true}});
    }
    const std::string methods = methods_of(asked.path);
    if (methods.empty()) return http_refusal(404, "The exchange has nothing of this name; see what it answers to.");
    return http_refusal(405, fmt::format("This is asked for by {}.", methods));
}

}  // namespace optrel
