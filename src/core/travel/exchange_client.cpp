// SPDX-License-Identifier: GPL-3.0-or-later
#include "travel/exchange_client.h"

#include <fmt/format.h>
#include <httplib.h>

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <mutex>
#include <nlohmann/json.hpp>
#include <regex>
#include <thread>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {
namespace {

/// Ends a request from outside: after its time, or when a person cancels. The library's own limits count from one piece
/// of the answer to the next, so that an answer could drip for ever.
class Watch {
public:
    Watch(httplib::Client& client, std::chrono::seconds time, const Progress& progress)
        : thread_([this, &client, time, &progress] {
              const auto end = std::chrono::steady_clock::now() + time;
              std::unique_lock lock(mutex_);
              while (!done_) {
                  ended_.wait_for(lock, std::chrono::milliseconds(20));
                  if (done_) return;
                  late_ = std::chrono::steady_clock::now() > end;
                  // Until it has ended, since it may be between two connections just now.
                  if (late_ || progress.cancelled()) client.stop();
              }
          }) {}
    ~Watch() {
        {
            const std::lock_guard lock(mutex_);
            done_ = true;
        }
        ended_.notify_all();
        thread_.join();
    }
    bool late() const { return late_; }

private:
    std::mutex mutex_;
    std::condition_variable ended_;
    bool done_ = false;
    std::atomic<bool> late_{false};
    std::thread thread_;
};

std::string query_of(const ExchangeQuestion& q) {
    httplib::Params params;
    const auto add = [&](const char* name, double value) {
        if (value > 0) params.emplace(name, fmt::format("{:.6g}", value));
    };
    if (!q.lens.empty()) params.emplace("lens", q.lens);
    add("half_diagonal_mm", q.half_diagonal_mm);
    add("focal_mm", q.setting.focal_mm);
    add("aperture", q.setting.aperture);
    add("distance_m", q.setting.distance_m);
    add("most_rms_px", q.most_rms_px);
    add("page", q.page);
    return httplib::detail::params_to_query_str(params);
}

}  // namespace

struct ExchangeClient::Request {
    std::string path;
    const std::string* body = nullptr;
    const char* type = "";
};

ExchangeClient::ExchangeClient(const std::string& address, ExchangeLimits limits)
    : address_(trimmed(address)), limits_(limits) {
    while (!address_.empty() && address_.back() == '/') address_.pop_back();
    static const std::regex shape(R"((http|https)://(\[[0-9a-fA-F:]+\]|[A-Za-z0-9.-]+)(:[0-9]{1,5})?)");
    if (!std::regex_match(address_, shape))
        throw input_error(
            fmt::format("'{}' is no address of a profile exchange; write it as http://HOST:PORT or "
                        "https://HOST.",
                        printable(address_.substr(0, 120))));
}

std::string ExchangeClient::answer_to(const Request& request, const Progress& progress) const {
    progress.check();
    httplib::Client client(address_);
    client.set_connection_timeout(std::min(limits_.seconds, 8));
    client.set_read_timeout(limits_.seconds);
    client.set_write_timeout(limits_.seconds);
    client.set_follow_location(false);
    std::string body;
    bool large = false;
    const auto take = [&](const char* data, std::size_t n) {
        large = body.size() + n > limits_.bytes;
        if (!large) body.append(data, n);
        return !large && !progress.cancelled();
    };
    int status = 0;
    bool late = false;
    {
        const Watch watch(client, std::chrono::seconds(limits_.seconds), progress);
        httplib::Request asked;
        asked.method = request.body ? "POST" : "GET";
        asked.path = request.path;
        asked.set_header("Accept", "application/json, application/zip");
        if (request.body) {
            asked.body = *request.body;
            asked.set_header("Content-Type", request.type);
        }
        asked.content_receiver = [&](const char* data, std::size_t n, std::uint64_t, std::uint64_t) {
            return take(data, n);
        };
        const httplib::Result result = client.send(asked);
        if (result) status = result->status;
        late = watch.late();
    }
    progress.check();
    if (large)
        throw input_error(
            fmt::format("{} sends more than {} MB as one answer; it is no profile exchange, or a broken "
                        "one.",
                        called(), limits_.bytes >> 20));
    if (late)
        throw input_error(fmt::format("{} did not answer within {} s; try again later.", called(), limits_.seconds));
    if (status == 0)
        throw input_error(
            fmt::format("{} cannot be reached; check the address and the network, and whether it runs.", called()));
    if (status == 200 || status == 201) return body;
    std::string why;
    if (const auto j = nlohmann::json::parse(body, nullptr, false);
        j.is_object() && j.contains("why") && j["why"].is_string())
        why = j["why"].get<std::string>();
    if (!is_plain_line(why, 400)) why.clear();
    throw input_error(
        why.empty()
            ? fmt::format("{} refuses with status {}; it is no profile exchange, or a broken one.", called(), status)
            : fmt::format("{} refuses: {}", called(), why));
}

ExchangeClient::Found ExchangeClient::search(ExchangeQuestion question, const Progress& progress) const {
    Found out;
    for (int page = 1; page <= limits_.pages; ++page) {
        question.page = page;
        const ExchangePage answer =
            page_from_json(answer_to({"/v1/profiles?" + query_of(question)}, progress), called());
        out.total = answer.total;
        for (const ExchangeEntry& e : answer.entries) {
            const bool known = std::any_of(out.entries.begin(), out.entries.end(),
                                           [&](const ExchangeEntry& o) { return o.id == e.id; });
            if (!known) out.entries.push_back(e);
        }
        if (page >= answer.pages || answer.entries.empty()) break;
    }
    return out;
}

std::string ExchangeClient::fetch(const std::string& id, const Progress& progress) const {
    std::string bytes = answer_to({"/v1/profiles/" + id}, progress);
    if (bytes_hash(bytes) != id)
        throw input_error(called() + " gave something else than the profile that it named; nothing was taken.");
    return bytes;
}

std::string ExchangeClient::publish(const std::string& bundle, const Progress& progress) const {
    answer_to({"/v1/profiles", &bundle, "application/zip"}, progress);
    return bytes_hash(bundle);
}

std::vector<Withdrawal> ExchangeClient::withdrawn(const std::vector<std::string>& keys,
                                                  const Progress& progress) const {
    std::vector<Withdrawal> out;
    for (const std::string& key : keys) {
        const std::string text = answer_to({"/v1/keys/" + required_key(key)}, progress);
        const auto j = parse_json(text, called());
        if (!j.is_object() || !j.contains("withdrawal"))
            throw input_error(called() + " does not answer as a profile exchange does; check its address.");
        if (j["withdrawal"].is_null()) continue;
        Withdrawal w = withdrawal_from_json(j["withdrawal"].dump(), called());
        if (w.key == key) out.push_back(std::move(w));
    }
    return out;
}

void ExchangeClient::withdraw(const Withdrawal& withdrawal, const Progress& progress) const {
    const std::string body = withdrawal_to_json(withdrawal);
    answer_to({"/v1/withdrawals", &body, "application/json"}, progress);
}

}  // namespace optrel
