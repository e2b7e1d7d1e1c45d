// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/exchange_client.h"

#include <curl/curl.h>
#include <fmt/format.h>

#include <algorithm>
#include <memory>
#include <nlohmann/json.hpp>
#include <regex>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {
namespace {

/// Of the header of one answer, in bytes.
constexpr std::size_t largest_header = 64u << 10;

/// What the library gives, with what takes it back.
template <class T, auto give_back>
struct GiveBack {
    void operator()(T* given) const { give_back(given); }
};
template <class T, auto give_back>
using Given = std::unique_ptr<T, GiveBack<T, give_back>>;

/// What comes, up to a limit; more ends the transfer.
struct ArrivalResult {
    std::size_t most;
    std::string bytes;
    bool large = false;

    static std::size_t take(char* data, std::size_t, std::size_t n, void* into) {
        auto* self = static_cast<ArrivalResult*>(into);
        self->large = self->bytes.size() + n > self->most;
        if (self->large) return 0;
        self->bytes.append(data, n);
        return n;
    }
};

/// Runs one transfer to its end, and looks often whether a person cancelled it.
CURLcode run(CURL* easy, const Progress& progress) {
    const Given<CURLM, curl_multi_cleanup> multi(curl_multi_init());
    curl_multi_add_handle(multi.get(), easy);
    CURLcode out = CURLE_OK;
    for (int running = 1; running > 0 && !progress.cancelled();) {
        if (curl_multi_perform(multi.get(), &running) != CURLM_OK) break;
        if (running > 0) curl_multi_poll(multi.get(), nullptr, 0, 20, nullptr);
        for (int left = 0; const CURLMsg* told = curl_multi_info_read(multi.get(), &left);)
            if (told->msg == CURLMSG_DONE) out = told->data.result;
    }
    curl_multi_remove_handle(multi.get(), easy);
    return out;
}

std::string query_of(const ExchangeQuestion& q) {
    std::string out;
    const auto add = [&](const char* name, const std::string& value) {
        const Given<char, curl_free> escaped(curl_easy_escape(nullptr, value.data(), static_cast<int>(value.size())));
        out += fmt::format("{}{}={}", out.empty() ? "" : "&", name, escaped.get());
    };
    const auto add_figure = [&](const char* name, double value) {
        if (value > 0) add(name, fmt::format("{:.6g}", value));
    };
    if (!q.lens.empty()) add("lens", q.lens);
    add_figure("half_diagonal_mm", q.half_diagonal_mm);
    add_figure("focal_mm", q.setting.focal_mm);
    add_figure("aperture", q.setting.aperture);
    add_figure("distance_m", q.setting.distance_m);
    add_figure("most_rms_px", q.most_rms_px);
    add_figure("page", q.page);
    return out;
}

/// What a refusal gives as its reason; empty where it gives none that can be shown.
std::string why_in(const std::string& refusal) {
    try {
        require_within({}, refusal, "The refusal");
        const std::string why = parse_json(refusal, "The refusal").at("why").get<std::string>();
        return is_plain_line(why, 400) ? why : std::string();
    } catch (const std::exception&) {
        return {};
    }
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
    const Given<CURL, curl_easy_cleanup> easy(curl_easy_init());
    if (!easy) throw file_error("The network cannot be used on this computer; try again.");
    ArrivalResult body{limits_.bytes, ""}, header{largest_header, ""};
    const auto set = [&](CURLoption option, auto value) { curl_easy_setopt(easy.get(), option, value); };
    set(CURLOPT_URL, (address_ + request.path).c_str());
    set(CURLOPT_PROTOCOLS_STR, "http,https");
    set(CURLOPT_PROXY, "");
    set(CURLOPT_NOSIGNAL, 1L);
    set(CURLOPT_CONNECTTIMEOUT, static_cast<long>(std::min(limits_.seconds, 8)));
    // For all of it: an answer may not drip for ever.
    set(CURLOPT_TIMEOUT, static_cast<long>(limits_.seconds));
    set(CURLOPT_WRITEFUNCTION, &ArrivalResult::take);
    set(CURLOPT_WRITEDATA, static_cast<void*>(&body));
    set(CURLOPT_HEADERFUNCTION, &ArrivalResult::take);
    set(CURLOPT_HEADERDATA, static_cast<void*>(&header));
    Given<curl_slist, curl_slist_free_all> said(
        curl_slist_append(nullptr, "Accept: application/json, application/zip"));
    if (request.body) {
        said.reset(curl_slist_append(said.release(), (std::string("Content-Type: ") + request.type).c_str()));
        set(CURLOPT_POST, 1L);
        set(CURLOPT_POSTFIELDSIZE_LARGE, static_cast<curl_off_t>(request.body->size()));
        set(CURLOPT_POSTFIELDS, request.body->data());
    }
    set(CURLOPT_HTTPHEADER, said.get());
    const CURLcode ended = run(easy.get(), progress);
    long status = 0;
    curl_easy_getinfo(easy.get(), CURLINFO_RESPONSE_CODE, &status);
    const bool large = body.large || header.large, late = ended == CURLE_OPERATION_TIMEDOUT;
    if (ended != CURLE_OK) status = 0;
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
    if (status == 200 || status == 201) return std::move(body.bytes);
    const std::string why = why_in(body.bytes);
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
        require_within({}, text, called());
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
