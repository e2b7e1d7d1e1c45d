// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/noise_kind.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <tuple>

#include "base/error.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/words.h"
#include "measurement/json_document.h"
#include "sensor/colour_names.h"

namespace optrel {
namespace {

using nlohmann::json;

/// Checks the parts that everything below relies on.
json parsed(const std::string& document, const std::string& where) {
    const json j = parse_json(document, where);
    try {
        if (!j.is_object() || j.value("format", "") != "optrel-noise")
            throw input_error(fmt::format("{} is no noise measurement that Optrel wrote; choose such a file.", where));
        if (j.at("format_version").get<int>() > 1)
            throw input_error(fmt::format("{} has format {}, but this program reads format 1; update Optrel.", where,
                                          j["format_version"].get<int>()));
        (void)j.at("camera").get_ref<const std::string&>();
        (void)j.at("serial").get_ref<const std::string&>();
        for (const auto& [iso, setting] : j.at("iso").items()) {
            if (!(parse_number(iso).value_or(0) >= 1))
                throw input_error(fmt::format("{} has an ISO '{}', which is none.", where, printable(iso)));
            for (const char* colour : colour_names)
                for (const char* figure : {"a", "b", "gain_e_per_dn", "read_noise_e", "full_well_e", "prnu_percent"})
                    for (const char* part : {"value", "sigma"})
                        (void)setting.at(colour).at(figure).at(part).get<double>();
        }
        (void)j.at("findings").get_ref<const json::array_t&>();
        (void)j.at("frames").get_ref<const json::array_t&>();
    } catch (const json::exception&) {
        throw damaged_document(where);
    }
    return j;
}

/// ISO settings in ascending order.
std::vector<std::string> isos_of(const json& j) {
    std::vector<std::string> out;
    for (const auto& [iso, setting] : j.at("iso").items()) out.push_back(iso);
    std::sort(out.begin(), out.end(),
              [](const std::string& a, const std::string& b) { return parse_number(a) < parse_number(b); });
    return out;
}

/// The same finding at two ISO settings has two names.
std::string finding_name(const json& finding) {
    const std::string name = finding.value("name", "");
    return finding.contains("iso") && finding["iso"].is_number() ? fmt::format("{}@{}", name, finding["iso"].get<int>())
                                                                 : name;
}

std::vector<SeriousFinding> findings_of(const json& j) {
    std::vector<SeriousFinding> out;
    for (const json& f : j.at("findings")) {
        if (!f.value("serious", false)) continue;
        out.push_back({finding_name(f), f.value("text", ""), false, f.value("accepted_by", ""), f.value("reason", ""),
                       f.value("accepted", "")});
    }
    return out;
}

Measurement read(const std::string& document, const std::string& where) {
    const json j = parsed(document, where);
    Measurement out;
    out.kind = noise_kind().id;
    out.id = j.value("id", "");
    out.version = j.value("version", 0);
    const std::string camera = j["camera"], serial = j["serial"];
    out.name = "Noise of " + camera + (serial.empty() ? "" : " " + serial);
    out.subject = {serial.empty() ? MeasuredSubject::Kind::body_model : MeasuredSubject::Kind::body, camera, serial,
                   ""};
    out.taken_in = source_in(j);
    out.subject_key = body_key(camera, serial, out.taken_in);
    out.author = j.value("author", "");
    out.time = j.value("time", "");
    for (const json& frame : j["frames"])
        out.frames.emplace_back(frame.is_string() ? frame.get<std::string>() : "", "");
    for (const std::string& iso : isos_of(j)) {
        const json& green = j["iso"][iso]["green"];
        const auto figure = [&](const char* name, const char* key, const char* unit) {
            out.figures.push_back({fmt::format("{} at ISO {}, green", name, iso), green[key]["value"].get<double>(),
                                   unit, green[key]["sigma"].get<double>()});
        };
        figure("gain", "gain_e_per_dn", "electrons per count");
        figure("read noise", "read_noise_e", "electrons");
    }
    out.findings = findings_of(j);
    out.document = document;
    return out;
}

/// Limits of what sensors are: beyond them a document was not measured.
/// Levels of the pairs, where the document has them.
void require_levels(const json& setting, const std::string& iso) {
    constexpr std::size_t most = 10000;
    if (!setting.contains("levels")) return;
    const json& levels = setting["levels"];
    bool sound = levels.is_array() && levels.size() <= most;
    for (std::size_t i = 0; sound && i < levels.size(); ++i) {
        const double level = levels[i].at("level"),
                     time = levels[i].value("exposure_s", json()).is_null() ? 0 : levels[i]["exposure_s"].get<double>();
        sound = level >= -0.1 && level <= 2 && time >= 0 && time < 1e7;
    }
    if (!sound)
        throw input_error(fmt::format(
            "The noise measurement has levels of light at ISO {} that no pair of flat fields has; measure again.",
            iso));
}

void require_plausible(const std::string& document) {
    const json j = parsed(document, "The noise measurement");
    if (j["iso"].empty()) throw input_error("The noise measurement has no ISO; measure the body again.");
    for (const std::string& iso : isos_of(j)) {
        require_levels(j["iso"][iso], iso);
        for (const char* colour : colour_names) {
            const json& c = j["iso"][iso][colour];
            const auto within = [&](const char* key, double low, double high) {
                for (const char* part : {"value", "sigma"}) {
                    const double v = c[key][part];
                    if (!std::isfinite(v) || v < 0 || (part[0] == 'v' && !(v >= low && v <= high)))
                        throw input_error(fmt::format(
                            "The noise measurement has {} {:g} for {} at ISO {}, which no sensor has; measure again.",
                            key, v, colour, iso));
                }
            };
            within("gain_e_per_dn", 1e-6, 1e4);
            within("read_noise_e", 0, 1e4);
            within("full_well_e", 1, 1e8);
            within("prnu_percent", 0, 100);
            within("a", 1e-12, 1);
            within("b", 0, 1);
        }
    }
}

std::string following(const std::string& before, const std::string& document, OtherSettings others) {
    const json old = parsed(before, "the noise measurement");
    json now = parsed(document, "the noise measurement");
    std::vector<std::string> gone;
    for (const std::string& iso : isos_of(old))
        if (!now["iso"].contains(iso)) gone.push_back(iso);
    if (gone.empty() || others == OtherSettings::drop) return document;
    if (others == OtherSettings::ask)
        throw input_error(
            fmt::format("The current version has ISO {}, which this measurement does not have. Say whether the new "
                        "version keeps (--keep-settings) or drops (--drop-settings) {}.",
                        fmt::join(gone, ", "), gone.size() == 1 ? "it" : "them"));
    for (const std::string& iso : gone) now["iso"][iso] = old["iso"][iso];
    return json_text(now, 1) + "\n";
}

/// The document without id, version and source.
json content_of(const std::string& document) {
    json j = parsed(document, "the noise measurement");
    remove_number_and_source(j);
    return j;
}

std::vector<std::string> differences(const std::string& before, const std::string& after) {
    const json a = content_of(before), b = content_of(after);
    if (a == b) return {};
    std::vector<std::string> out;
    for (const std::string& iso : isos_of(a))
        if (!b["iso"].contains(iso)) out.push_back("drops ISO " + iso);
    for (const std::string& iso : isos_of(b)) {
        if (!a["iso"].contains(iso)) {
            out.push_back("adds ISO " + iso);
            continue;
        }
        for (const auto& [key, name, unit] : {std::tuple("gain_e_per_dn", "gain", "e/count"),
                                              {"read_noise_e", "read noise", "e"},
                                              {"prnu_percent", "uniformity", "percent"}}) {
            const json &x = a["iso"][iso]["green"][key], &y = b["iso"][iso]["green"][key];
            const double change = y["value"].get<double>() - x["value"].get<double>(),
                         sigma = std::hypot(x["sigma"].get<double>(), y["sigma"].get<double>());
            if (std::abs(change) > 2 * sigma)
                out.push_back(fmt::format("ISO {}: {} of green changes by {:+.3g} {} (one sigma {:.2g})", iso, name,
                                          change, unit, sigma));
        }
    }
    if (out.empty()) out.emplace_back("measures the same figures, within twice their uncertainty");
    return out;
}

}  // namespace

std::optional<std::array<double, 6>> noise_terms_at(const std::string& document, double iso) {
    const json j = parsed(document, "the noise measurement");
    const std::vector<std::string> isos = isos_of(j);
    const auto terms = [&](const std::string& at) {
        std::array<double, 6> out{};
        for (std::size_t c = 0; c < 3; ++c) {
            out[2 * c] = j["iso"][at][colour_names[c]]["a"]["value"];
            out[2 * c + 1] = j["iso"][at][colour_names[c]]["b"]["value"];
        }
        return out;
    };
    for (std::size_t i = 0; i < isos.size(); ++i) {
        const double high = *parse_number(isos[i]);
        if (high == iso) return terms(isos[i]);
        if (high < iso || i == 0) continue;
        const double low = *parse_number(isos[i - 1]);
        if (low > iso) continue;
        const double share = std::log(iso / low) / std::log(high / low);
        std::array<double, 6> out = terms(isos[i - 1]);
        const std::array<double, 6> above = terms(isos[i]);
        for (std::size_t k = 0; k < out.size(); ++k) {
            if (!(out[k] > 0 && above[k] > 0)) return std::nullopt;
            out[k] = std::exp((1 - share) * std::log(out[k]) + share * std::log(above[k]));
        }
        return out;
    }
    return std::nullopt;
}

std::string with_accepted(const std::string& document, const std::vector<Acceptance>& accepted,
                          const std::string& author, const std::string& time) {
    return reading_document("The noise measurement", [&] {
        json j = parsed(document, "The noise measurement");
        std::vector<SeriousFinding> findings = findings_of(j);
        accept_findings(findings, "The noise measurement", accepted, author, time);
        for (json& f : j["findings"])
            for (const SeriousFinding& s : findings)
                if (f.value("serious", false) && finding_name(f) == s.name && s.accepted()) {
                    f["accepted_by"] = s.accepted_by;
                    f["reason"] = s.reason;
                    f["accepted"] = s.time;
                }
        return json_text(j, 1) + "\n";
    });
}

const MeasurementKind& noise_kind() {
    static const MeasurementKind kind{
        .id = "noise",
        .one = "noise measurement",
        .many = "noise measurements",
        .id_prefix = "n",
        .publisher = "works",
        .read = [](const std::string& document,
                   const std::string& where) { return reading_document(where, [&] { return read(document, where); }); },
        .numbered =
            [](const std::string& document, const std::string& id, int version) {
                json j = parsed(document, "the noise measurement");
                set_number(j, id, version);
                return json_text(j, 1) + "\n";
            },
        .with_source =
            [](const std::string& document, const MeasurementSource& source) {
                json j = parsed(document, "the noise measurement");
                set_source(j, source);
                return json_text(j, 1) + "\n";
            },
        .require_plausible =
            [](const std::string& document) {
                reading_document("The noise measurement", [&] { require_plausible(document); });
            },
        .following =
            [](const std::string& before, const std::string& document, OtherSettings others) {
                return reading_document("The noise measurement", [&] { return following(before, document, others); });
            },
        .differences =
            [](const std::string& before, const std::string& after) {
                return reading_document("The noise measurement", [&] { return differences(before, after); });
            },
    };
    return kind;
}

}  // namespace optrel
