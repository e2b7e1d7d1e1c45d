// SPDX-License-Identifier: GPL-3.0-or-later
#include "measurement/json_document.h"

#include <fmt/format.h>

namespace optrel {

using nlohmann::json;

Error damaged_document(const std::string& where) {
    return input_error(
        fmt::format("{} lacks a part of a measurement, or holds a value of another kind there; measure again.", where));
}

void set_number(json& document, const std::string& id, int version) {
    document.erase("id");
    document.erase("version");
    if (!id.empty()) document["id"] = id;
    if (version != 0) document["version"] = version;
}

void set_source(json& document, const MeasurementSource& source) {
    document["taken_in"] = {{"way", source.way},       {"source", source.source}, {"key", source.key},
                            {"signer", source.signer}, {"author", source.author}, {"time", source.time}};
}

std::optional<MeasurementSource> source_in(const json& document) {
    if (!document.contains("taken_in")) return std::nullopt;
    const json& t = document["taken_in"];
    MeasurementSource out;
    out.way = t.value("way", "");
    out.source = t.value("source", "");
    out.key = t.value("key", "");
    out.signer = t.value("signer", "");
    out.author = t.value("author", "");
    out.time = t.value("time", "");
    return out;
}

void remove_number_and_source(json& document) {
    for (const char* key : {"id", "version", "taken_in"}) document.erase(key);
}

std::string body_key(const std::string& camera, const std::string& serial,
                     const std::optional<MeasurementSource>& source) {
    if (source && source->key.empty()) return {};
    return fmt::format("{}:{}{}:{}{}", camera.size(), camera, serial.size(), serial, source ? source->key : "");
}

}  // namespace optrel
