// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/exchange_answer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/json_text.h"
#include "base/times.h"
#include "base/words.h"
#include "sharing/signing.h"

namespace optrel {
namespace {

using nlohmann::json;

constexpr int answer_format = 1;
constexpr std::size_t most_entries = 200;
constexpr const char* withdrawal_purpose = "optrel withdrawal";

json to_json(const ExchangeEntry& e) {
    json out = {{"id", e.id},
                {"key", e.key},
                {"measurer", e.measurer},
                {"lens", e.lens},
                {"copy", e.copy},
                {"camera", e.camera},
                {"width", e.geometry.width},
                {"height", e.geometry.height},
                {"pitch_um", e.geometry.pitch_um},
                {"focal_min_mm", e.focal_min},
                {"focal_max_mm", e.focal_max},
                {"settings", e.settings},
                {"frames", e.frames},
                {"corners", e.corners},
                {"rms_px", e.rms_px},
                {"held_out_rms_px", e.held_out_rms_px},
                {"max_sigma_px", e.max_sigma_px},
                {"coverage", e.coverage},
                {"falloff", e.falloff},
                {"measured", e.measured}};
    if (e.agreement)
        out["agreement"] = {{"others", e.agreement->others},
                            {"from_others_px", e.agreement->from_others_px},
                            {"sigma_px", e.agreement->sigma_px}};
    return out;
}

/// A text that may be shown: nothing endless, nothing that is no text.
std::string words(const json& j, const char* name) {
    const auto text = j.at(name).get<std::string>();
    if (!is_plain_line(text)) throw input_error(fmt::format("its '{}' is no text that can be shown", name));
    return text;
}

double figure(const json& j, const char* name, double low, double high) {
    const double v = j.at(name).get<double>();
    if (!(v >= low && v <= high)) throw input_error(fmt::format("its '{}' is a figure that cannot be", name));
    return v;
}

int whole(const json& j, const char* name, int low, int high) {
    if (!j.at(name).is_number_integer()) throw input_error(fmt::format("its '{}' is no whole number", name));
    return static_cast<int>(figure(j, name, low, high));
}

ExchangeEntry entry(const json& j) {
    ExchangeEntry e;
    e.id = words(j, "id");
    if (e.id.size() != 64 || e.id.find_first_not_of("0123456789abcdef") != std::string::npos)
        throw input_error("it names a profile by what is no hash");
    e.key = required_key(words(j, "key"));
    e.measurer = words(j, "measurer");
    e.lens = words(j, "lens");
    e.copy = words(j, "copy");
    e.camera = words(j, "camera");
    e.geometry = {whole(j, "width", 1, 1000000), whole(j, "height", 1, 1000000), figure(j, "pitch_um", 0.01, 1000)};
    e.focal_min = figure(j, "focal_min_mm", 0, 1e5);
    e.focal_max = figure(j, "focal_max_mm", e.focal_min, 1e5);
    e.settings = whole(j, "settings", 1, 100000);
    e.frames = whole(j, "frames", 0, 1000000);
    e.corners = whole(j, "corners", 0, 1000000000);
    e.rms_px = figure(j, "rms_px", 0, 1e5);
    e.held_out_rms_px = figure(j, "held_out_rms_px", 0, 1e5);
    e.max_sigma_px = figure(j, "max_sigma_px", 0, 1e5);
    e.coverage = figure(j, "coverage", 0, 1.0001);
    e.falloff = j.at("falloff").get<bool>();
    e.measured = words(j, "measured");
    if (j.contains("agreement")) {
        const json& a = j["agreement"];
        e.agreement = ExchangeEntry::Agreement{whole(a, "others", 1, 100000), figure(a, "from_others_px", 0, 1e6),
                                               figure(a, "sigma_px", 0, 1e6)};
    }
    return e;
}

/// Runs a reader and turns whatever it throws into one sentence about the answer.
template <class Read>
auto answer_read(const char* what, const std::string& where, const Read& read) {
    try {
        return read();
    } catch (const json::exception&) {
        throw input_error(fmt::format(
            "{} does not answer as a profile exchange does ({} is wanted); check its address.", where, what));
    } catch (const Error& error) {
        throw input_error(fmt::format("{} does not answer as a profile exchange does: {}; check its address.", where,
                                      without_stop(error.what())));
    }
}

json answer(const std::string& text, const char* format) {
    require_within({}, text, "the answer");
    const json j = parse_json(text, "the answer");
    if (!j.is_object() || j.value("format", "") != format) throw input_error(fmt::format("it is no {}", format));
    if (j.value("format_version", 0) > answer_format)
        throw input_error(fmt::format("it speaks format {}, newer than this program knows ({})",
                                      j.value("format_version", 0), answer_format));
    return j;
}

std::string withdrawn_words(const Withdrawal& w) { return w.key + "\n" + w.time + "\n" + w.reason; }

}  // namespace

ExchangeEntry entry_of(const Profile& p) {
    ExchangeEntry e;
    e.lens = p.lens;
    e.copy = p.lens_serial;
    e.camera = p.camera;
    e.geometry = p.geometry;
    std::tie(e.focal_min, e.focal_max) = focal_range(p);
    e.settings = static_cast<int>(p.nodes.size());
    e.coverage = 1;
    for (const ProfileNode& n : p.nodes) {
        e.frames += n.quality.frames_used;
        e.corners += n.quality.corners;
        e.rms_px = std::max(e.rms_px, n.quality.rms_px);
        e.held_out_rms_px = std::max(e.held_out_rms_px, n.quality.held_out_rms_px);
        e.max_sigma_px = std::max(e.max_sigma_px, n.quality.max_sigma_px);
        e.coverage = std::min(e.coverage, n.quality.coverage);
        e.falloff = e.falloff || n.falloff.has_value();
    }
    e.measured = p.provenance.time.substr(0, 10);
    return e;
}

std::string entry_to_json(const ExchangeEntry& entry) { return json_text(to_json(entry)); }

std::string page_to_json(const ExchangePage& page) {
    json entries = json::array();
    for (const ExchangeEntry& e : page.entries) entries.push_back(to_json(e));
    return json_text({{"format", "optrel-exchange-page"},
                      {"format_version", answer_format},
                      {"total", page.total},
                      {"page", page.page},
                      {"pages", page.pages},
                      {"profiles", entries}}) +
           "\n";
}

ExchangePage page_from_json(const std::string& text, const std::string& where) {
    return answer_read("a page of profiles", where, [&] {
        const json j = answer(text, "optrel-exchange-page");
        ExchangePage out;
        out.total = whole(j, "total", 0, 100000000);
        out.page = whole(j, "page", 1, 1000000);
        out.pages = whole(j, "pages", 1, 1000000);
        if (!j.at("profiles").is_array() || j["profiles"].size() > most_entries)
            throw input_error("it has more profiles on a page than a page has");
        for (const json& e : j["profiles"]) out.entries.push_back(entry(e));
        return out;
    });
}

Withdrawal withdraw_key(const SigningKey& key, const std::string& reason) {
    Withdrawal w{key.public_key(), utc_now(), reason, ""};
    w.signature = key.sign(withdrawal_purpose, withdrawn_words(w));
    return w;
}

bool holds(const Withdrawal& w) { return signed_by(w.key, withdrawal_purpose, withdrawn_words(w), w.signature); }

std::string withdrawal_to_json(const Withdrawal& w) {
    return json_text({{"format", "optrel-withdrawal"},
                      {"format_version", answer_format},
                      {"key", w.key},
                      {"time", w.time},
                      {"reason", w.reason},
                      {"signature", w.signature}}) +
           "\n";
}

Withdrawal withdrawal_from_json(const std::string& text, const std::string& where) {
    return answer_read("a withdrawal", where, [&] {
        const json j = answer(text, "optrel-withdrawal");
        const Withdrawal w{required_key(words(j, "key")), words(j, "time"), words(j, "reason"), words(j, "signature")};
        if (!holds(w)) throw input_error("it holds a withdrawal that the owner of the key did not sign");
        return w;
    });
}

}  // namespace optrel
