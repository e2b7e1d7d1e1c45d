// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/exports/account.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/path_text.h"
#include "base/times.h"
#include "base/words.h"
#include "frames/decode.h"
#include "frames/export_metadata.h"
#include "frames/picture.h"
#include "frames/picture_sketch.h"
#include "store/store.h"
#include "studio/development/film_development.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/sensor_size.h"

namespace optrel {
namespace {

using nlohmann::json;

constexpr const char* format_name = "optrel-account";
/// Format 2 uses the word delivery; format 1 used the word recipe for it.
constexpr int format_version = 2;
constexpr std::size_t largest = 1u << 20;

/// Digest of everything except itself. It detects accidental changes, not forgery.
std::string digest_of(json j) {
    j.erase("digest");
    return bytes_hash(j.dump()).substr(0, 16);
}

}  // namespace

std::string account_to_json(const Account& a) {
    json j = {{"format", format_name},
              {"version", format_version},
              {"program", a.program},
              {"time", a.time},
              {"original", {{"name", a.original}, {"sha256", a.original_hash}}},
              {"camera", a.camera},
              {"lens", a.lens},
              {"body", a.body},
              {"correction", a.correction},
              {"revision", a.revision},
              {"delivery", a.delivery.empty() ? json() : json::parse(a.delivery)},
              {"sketch", a.sketch}};
    if (!a.profile_id.empty())
        j["profile"] = {{"id", a.profile_id},
                        {"version", a.profile_version},
                        {"rms_px", a.profile_rms_px},
                        {"sigma_px", a.profile_sigma_px}};
    if (!a.accepted_findings.empty()) j["profile"]["accepted_findings"] = a.accepted_findings;
    if (a.noise) j["noise"] = *a.noise;
    if (!a.defects_id.empty()) j["defects"] = {{"id", a.defects_id}, {"version", a.defects_version}};
    if (a.film) j["film"] = {{"focal_mm", a.film->focal_mm}, {"area_width_mm", a.film->area_width_mm}};
    j["fields"] = json::array();
    for (const AccountedField& f : a.fields)
        j["fields"].push_back({{"field", info(f.field).id}, {"value", to_text(f.field, f.value)}, {"from", f.from}});
    j["digest"] = digest_of(j);
    return j.dump();
}

Account account_from_json(const std::string& text, const std::string& where) {
    if (text.size() > largest)
        throw input_error(fmt::format("The account in {} is far larger than one can be; it is not read.", where));
    const json j = parse_json(text, "The account in " + where);
    try {
        if (j.at("format") != format_name) throw input_error(fmt::format("{} carries no account of Optrel.", where));
        if (j.at("version").get<int>() > format_version)
            throw input_error(fmt::format(
                "The account in {} was written by a newer version of Optrel; explain it with that.", where));
        if (j.at("digest") != digest_of(j))
            throw input_error(
                fmt::format("The account in {} was changed after it was written, so it cannot be trusted.", where));
        Account a;
        a.program = j.at("program");
        a.time = j.at("time");
        a.original = j.at("original").at("name");
        a.original_hash = j.at("original").at("sha256");
        a.camera = j.at("camera");
        a.lens = j.at("lens");
        a.body = j.at("body");
        a.correction = j.at("correction");
        a.revision = j.at("revision");
        const json& delivery = j.at(j.contains("delivery") ? "delivery" : "recipe");
        a.delivery = delivery.is_null() ? "" : delivery.dump();
        a.sketch = j.at("sketch");
        if (const auto n = j.find("noise"); n != j.end()) a.noise = n->get<std::array<double, 6>>();
        if (const auto d = j.find("defects"); d != j.end()) {
            a.defects_id = d->at("id");
            a.defects_version = d->at("version");
        }
        if (const auto f = j.find("film"); f != j.end()) a.film = FilmSource{f->at("focal_mm"), f->at("area_width_mm")};
        if (const auto p = j.find("profile"); p != j.end()) {
            a.profile_id = p->at("id");
            a.profile_version = p->at("version");
            a.profile_rms_px = p->at("rms_px");
            a.profile_sigma_px = p->at("sigma_px");
            a.accepted_findings = p->value("accepted_findings", std::vector<std::string>());
        }
        for (const json& f : j.at("fields")) {
            const Field field = field_by_id(f.at("field"));
            a.fields.push_back({field, value_from_text(field, f.at("value").get<std::string>()), f.at("from")});
        }
        return a;
    } catch (const json::exception&) {
        throw input_error(fmt::format("The account in {} lacks what one has to say; it is damaged.", where));
    }
}

std::string in_words(const Account& a) {
    std::string out = fmt::format("Made by {} on {} from {} (SHA-256 {}…).\n", a.program, a.time,
                                  printable(path_from_text(a.original)), a.original_hash.substr(0, 12));
    if (a.film)
        out += fmt::format("A film{} at {:g} mm, recorded on {:g} mm of the sensor, as entered by a person.\n",
                           a.body.empty() ? "" : " of " + a.body, a.film->focal_mm, a.film->area_width_mm);
    else
        out += fmt::format("Taken with {}{}{}.\n", a.camera, a.body.empty() ? "" : " (" + a.body + ")",
                           a.lens.empty() ? "" : ", " + a.lens);
    if (a.profile_id.empty())
        out +=
            a.correction == "none" ? "No lens profile corrects it.\n" : fmt::format("Corrected by {}.\n", a.correction);
    else
        out += fmt::format("Corrected by {}: RMS {}, at most {} uncertain (one sigma).\n", a.correction,
                           figure_text(figures::reprojection_error, a.profile_rms_px),
                           figure_text(figures::reprojection_error, a.profile_sigma_px));
    for (const std::string& f : a.accepted_findings)
        out += fmt::format("  The profile was published with this finding accepted: {}\n", f);
    if (!a.defects_id.empty())
        out +=
            fmt::format("Defect pixels replaced by the body's map {}, version {}.\n", a.defects_id, a.defects_version);
    out += a.revision > 0 ? fmt::format("Baseline: revision {}.\n", a.revision) : "No baseline.\n";
    for (const AccountedField& f : a.fields)
        out += fmt::format("  {}: {} ({})\n", info(f.field).label, to_display(f.field, f.value), f.from);
    if (a.fields.empty()) out += "  Every field is at its neutral value.\n";
    if (!a.delivery.empty()) {
        const Delivery r = delivery_from_json(a.delivery, "the delivery of the account");
        out += fmt::format("Delivery {}: {}.\n", r.name, described(r));
    }
    return out;
}

Account read_account(const std::filesystem::path& file) {
    require_regular(file);
    const std::string text = named_as_film(file) ? film_account(file) : account_in(file);
    if (text.empty())
        throw input_error(fmt::format(
            "{} carries no account: Optrel did not write it, or its metadata were taken away; frames are taken in with "
            "their folder.",
            printable(file.string())));
    return account_from_json(text, printable(file.string()));
}

Account account_of(const std::filesystem::path& frame, const std::string& hash, const FrameDevelopment& facts,
                   const Delivery& delivery) {
    Account a;
    a.program = "Optrel " OPTREL_VERSION;
    a.time = facts.written.empty() ? utc_now() : facts.written;
    a.original = path_to_text(frame.filename().native());
    a.original_hash = hash;
    a.camera = camera_name(facts.metadata);
    a.lens = facts.metadata.lens;
    if (delivery.metadata.serials) a.body = facts.body;
    a.film = facts.film;
    a.noise = facts.sensor.noise;
    if (const auto& defects = facts.sensor.defects) {
        a.defects_id = defects->id;
        a.defects_version = defects->version;
    }
    a.correction = facts.chosen;
    a.revision = facts.revision;
    Delivery named = delivery;
    if (named.name.empty()) named.name = "plain " + to_string(delivery.format);
    a.delivery = delivery_to_json(named);
    if (facts.profile && !facts.profile_id.empty()) {
        a.profile_id = facts.profile_id;
        a.profile_version = facts.profile_version;
        a.profile_rms_px = facts.profile->node.quality.rms_px;
        a.profile_sigma_px = facts.profile->node.quality.max_sigma_px;
        a.accepted_findings = facts.accepted_findings;
    }
    for (const FieldInfo& f : all_fields()) {
        const Value& value = facts.fields[f.field].value;
        if (value == f.neutral) continue;
        const auto from = facts.sources.find(f.field);
        a.fields.push_back({f.field, value, from == facts.sources.end() ? "set for this file" : from->second});
    }
    return a;
}

std::vector<std::string> changed_since(const Account& a, const std::filesystem::path& file) {
    std::vector<std::string> out;
    // A raw copy contains the frame's own mosaic, so it needs no sketch.
    if (a.sketch.empty()) return out;
    if (sketch_difference(a.sketch, sketch_of(decode_picture(file))) > same_sketch)
        out.push_back(
            "The picture is not the one that the account was written for: it was changed, or the account was copied.");
    return out;
}

std::vector<std::string> changed_since(const Account& a, const Store& store) {
    std::vector<std::string> out;
    if (!a.profile_id.empty()) {
        int newest = 0;
        for (const Profile& p : store.profiles().all_versions())
            if (p.id == a.profile_id) newest = std::max(newest, p.version);
        if (newest == 0)
            out.push_back(fmt::format("The profile {} is not in this studio.", a.profile_id));
        else if (newest > a.profile_version)
            out.push_back(
                fmt::format("The profile has a newer version: {} in place of {}.", newest, a.profile_version));
    }
    const std::shared_ptr<const BodyMeasurements> measured = body_measurements(store);
    if (!a.defects_id.empty())
        for (const auto& d : measured->defects)
            if (d->id == a.defects_id && d->current && d->version != a.defects_version)
                out.push_back(fmt::format("The body's defect map has another current version: {} in place of {}.",
                                          d->version, a.defects_version));
    const int revision = store.baselines().current().number;
    if (a.revision > 0 && revision > a.revision)
        out.push_back(fmt::format("Revision {} is current in place of {}.", revision, a.revision));
    for (const FrameRecord& f : store.frames().all()) {
        if (path_to_text(f.path.filename().native()) != a.original || !std::filesystem::is_regular_file(f.path))
            continue;
        if (file_hash(f.path) != a.original_hash) continue;
        const FrameDevelopment now = development_from_store(store, f.path);
        for (const FieldInfo& field : all_fields()) {
            Value then = field.neutral;
            for (const AccountedField& was : a.fields)
                if (was.field == field.field) then = was.value;
            const Value& value = now.fields[field.field].value;
            if (value != then)
                out.push_back(fmt::format("{} would be {} now ({}), in place of {}.", field.label,
                                          to_display(field.field, value),
                                          now.sources.count(field.field) ? now.sources.at(field.field) : "the start",
                                          to_display(field.field, then)));
        }
        return out;
    }
    out.push_back(
        fmt::format("No frame of this studio's index has the contents of {}.", printable(path_from_text(a.original))));
    return out;
}

namespace {

void require_original(const Account& a, const std::filesystem::path& original) {
    const std::string hash = file_hash(original);
    if (hash != a.original_hash)
        throw input_error(
            fmt::format("{} is not the frame that the picture was made from (its SHA-256 begins with {}, not "
                        "with {}); name that one.",
                        original.string(), hash.substr(0, 12), a.original_hash.substr(0, 12)));
}

std::shared_ptr<const PublishedDefects> accounted_defects(const Account& a, const Store& store) {
    const std::shared_ptr<const BodyMeasurements> measured = body_measurements(store);
    for (const std::shared_ptr<const PublishedDefects>& d : measured->defects)
        if (d->id == a.defects_id && d->version == a.defects_version) return d;
    throw input_error(fmt::format(
        "The studio has no version {} of the defect map {}, by which pixels of the picture were replaced; take it in "
        "first.",
        a.defects_version, a.defects_id));
}

/// Values from the account, in place of the studio's current ones.
void take_account(const Account& a, const Profile* profile, FrameDevelopment& r) {
    r.fields = neutral_start();
    r.sources.clear();
    for (const AccountedField& f : a.fields) {
        r.fields.fields[static_cast<std::size_t>(f.field)].value = f.value;
        r.sources[f.field] = f.from;
    }
    r.profile.reset();
    r.profile_id.clear();
    r.profile_version = 0;
    if (profile) {
        r.metadata = with_pitch(r.metadata, {*profile});
        r.profile =
            AppliedProfile{node_at(*profile, {r.metadata.focal_mm, r.metadata.aperture, r.metadata.distance_m}).node,
                           profile->geometry};
        r.profile_id = profile->id;
        r.profile_version = profile->version;
    }
    r.accepted_findings = a.accepted_findings;
    r.chosen = a.correction;
    r.revision = a.revision;
    r.body = a.body;
    r.sensor = {nullptr, a.noise};
    r.written = a.time;
}

}  // namespace

FrameDevelopment development_of(const Account& a, const Store& store, const std::filesystem::path& original) {
    require_original(a, original);
    FrameDevelopment r = a.film ? film_development(store, original, "", a.film->focal_mm, a.film->area_width_mm)
                                : development_from_store(store, original);
    const std::vector<Profile> versions = store.profiles().all_versions();
    const auto p = std::find_if(versions.begin(), versions.end(), [&](const Profile& v) {
        return v.id == a.profile_id && v.version == a.profile_version;
    });
    if (!a.profile_id.empty() && p == versions.end())
        throw input_error(
            a.profile_version == 0
                ? fmt::format("The picture was corrected by the profile {} from a file, which no studio has published; "
                              "give that file again (--profile).",
                              a.profile_id)
                : fmt::format("The studio has no version {} of the profile {}, by which the picture was corrected; "
                              "take it in first.",
                              a.profile_version, a.profile_id));
    take_account(a, a.profile_id.empty() ? nullptr : &*p, r);
    r.fields.colour_file = store.colours().fetch(r.fields[Field::colour_source].value);
    if (!a.defects_id.empty()) r.sensor.defects = accounted_defects(a, store);
    return r;
}

FrameDevelopment development_of(const Account& a, const Profile& profile, const std::filesystem::path& original) {
    require_original(a, original);
    if (profile.id != a.profile_id || profile.version != a.profile_version)
        throw input_error(fmt::format(
            "The picture was corrected by the profile {} version {}, but the file that is given is {} version {}; give "
            "that one.",
            a.profile_id.empty() ? "none" : a.profile_id, a.profile_version, profile.id, profile.version));
    FrameDevelopment r = bare_development(original);
    take_account(a, &profile, r);
    return r;
}

}  // namespace optrel
