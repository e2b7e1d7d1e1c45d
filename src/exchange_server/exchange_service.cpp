// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange_server/exchange_service.h"

#include <fmt/format.h>
#include <httplib.h>

#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {
namespace {

constexpr const char* json_type = "application/json";

void refuse(httplib::Response& answer, int status, const std::string& why) {
    answer.status = status;
    answer.set_content(nlohmann::json{{"why", why}}.dump(-1, ' ', true, nlohmann::json::error_handler_t::replace),
                       json_type);
}

/// What a request asks for. A word that nobody knows is refused: a mistyped one must not look like a wide question.
ExchangeQuestion question_in(const httplib::Request& asked) {
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

}  // namespace

ExchangeService::ExchangeService(ProfileShelf& shelf) : shelf_(shelf), server_(std::make_unique<httplib::Server>()) {
    httplib::Server& s = *server_;
    s.set_payload_max_length(ProfileShelf::largest_bundle);
    s.set_read_timeout(10);
    s.set_write_timeout(10);
    s.set_keep_alive_max_count(20);
    s.Get("/v1", [this](const httplib::Request&, httplib::Response& answer) {
        answer.set_content(
            json_text({{"format", "optrel-exchange"}, {"format_version", 1}, {"profiles", shelf_.count()}}), json_type);
    });
    s.Get("/v1/profiles", [this](const httplib::Request& asked, httplib::Response& answer) {
        answer.set_content(page_to_json(shelf_.find(question_in(asked))), json_type);
    });
    s.Get("/v1/profiles/([0-9a-f]{64})", [this](const httplib::Request& asked, httplib::Response& answer) {
        const std::optional<std::string> bytes = shelf_.get(asked.matches[1]);
        if (!bytes) return refuse(answer, 404, "There is no such profile, or its key was withdrawn.");
        answer.set_content(*bytes, "application/zip");
    });
    s.Post("/v1/profiles", [this](const httplib::Request& asked, httplib::Response& answer) {
        const auto [id, added] = shelf_.put(asked.body);
        answer.status = added ? 201 : 200;
        answer.set_content(json_text({{"id", id}}), json_type);
    });
    s.Get("/v1/keys/([0-9a-f]{64})", [this](const httplib::Request& asked, httplib::Response& answer) {
        const std::optional<Withdrawal> w = shelf_.withdrawal_of(asked.matches[1]);
        nlohmann::json out = {{"withdrawal", nullptr}};
        if (w) out["withdrawal"] = nlohmann::json::parse(withdrawal_to_json(*w));
        answer.set_content(json_text(out), json_type);
    });
    s.Post("/v1/withdrawals", [this](const httplib::Request& asked, httplib::Response& answer) {
        shelf_.withdraw(withdrawal_from_json(asked.body.substr(0, 1 << 16), "The request"));
        answer.set_content(json_text({{"done", true}}), json_type);
    });
    s.set_exception_handler([](const httplib::Request&, httplib::Response& answer, const std::exception_ptr& thrown) {
        try {
            std::rethrow_exception(thrown);
        } catch (const Error& error) {
            refuse(answer, error.kind() == ErrorKind::input ? 400 : 500, error.what());
        } catch (...) {
            refuse(answer, 500, "The exchange failed; try again later.");
        }
    });
}

ExchangeService::~ExchangeService() = default;

int ExchangeService::bind(const std::string& host, int port) {
    const int taken = port == 0 ? server_->bind_to_any_port(host.c_str()) : port;
    if (taken < 0 || (port != 0 && !server_->bind_to_port(host.c_str(), port)))
        throw file_error(fmt::format("The port {} of {} cannot be had; another program may have it: name another one.",
                                     port, printable(host)));
    return taken;
}

void ExchangeService::run() { server_->listen_after_bind(); }
void ExchangeService::stop() { server_->stop(); }

}  // namespace optrel
