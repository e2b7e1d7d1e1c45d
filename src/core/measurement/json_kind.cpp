// SPDX-License-Identifier: GPL-3.0-or-later
#include "measurement/json_kind.h"

#include <fmt/format.h>

#include "base/json_text.h"

namespace optrel {

using nlohmann::json;

json parse_document(const std::string& document, const std::string& where, const std::string& format,
                    const std::string& one) {
    return reading_document(where, [&] {
        json j = parse_json(document, where);
        if (!j.is_object() || !j.contains("format") || j["format"] != format)
            throw input_error(fmt::format("{} is no {} that Optrel wrote; choose such a file.", where, one));
        if (const int version = j.at("format_version").get<int>(); version > 1)
            throw input_error(
                fmt::format("{} has format {}, but this program reads format 1; update Optrel.", where, version));
        return j;
    });
}

void take_common_parts(Measurement& out, const json& document, const std::string& text) {
    out.id = document.value("id", "");
    out.version = document.value("version", 0);
    out.taken_in = source_in(document);
    out.author = document.value("author", "");
    out.time = document.value("time", "");
    for (const json& frame : document.at("frames")) out.frames.emplace_back(frame.get<std::string>(), "");
    out.document = text;
}

MeasurementKind json_kind(const JsonKind& k) {
    const auto changed = [k](const std::string& document, const std::function<void(json&)>& change) {
        const std::string where = "The " + k.one;
        return reading_document(where, [&] {
            json j = parse_document(document, where, k.format, k.one);
            change(j);
            return json_text(j, 1) + "\n";
        });
    };
    return {
        .id = k.id,
        .one = k.one,
        .many = k.many,
        .id_prefix = k.id_prefix,
        .publisher = "works",
        .due_after_days = k.due_after_days,
        .made_again_by = k.made_again_by,
        .read =
            [k](const std::string& document, const std::string& where) {
                return reading_document(where, [&] { return k.read(document, where); });
            },
        .numbered = [changed](const std::string& document, const std::string& id,
                              int version) { return changed(document, [&](json& j) { set_number(j, id, version); }); },
        .with_source =
            [changed](const std::string& document, const MeasurementSource& source) {
                return changed(document, [&](json& j) { set_source(j, source); });
            },
        .require_plausible =
            [k](const std::string& document) {
                reading_document("The " + k.one, [&] { k.require_plausible(document); });
            },
        .following = [](const std::string&, const std::string& document, OtherSettings) { return document; },
        .differences = [k](const std::string& before, const std::string& after) -> std::vector<std::string> {
            const std::string where = "The " + k.one;
            return reading_document(where, [&]() -> std::vector<std::string> {
                json a = parse_document(before, where, k.format, k.one),
                     b = parse_document(after, where, k.format, k.one);
                remove_number_and_source(a);
                remove_number_and_source(b);
                return a == b ? std::vector<std::string>() : k.differences(before, after);
            });
        },
    };
}

}  // namespace optrel
