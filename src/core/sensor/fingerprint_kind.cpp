// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/fingerprint_kind.h"

#include <fmt/format.h>

#include <bit>
#include <cmath>

#include "base/base64.h"
#include "base/error.h"
#include "base/json_text.h"
#include "measurement/json_kind.h"

namespace optrel {
namespace {

using nlohmann::json;

constexpr const char *fingerprint_format = "optrel-fingerprint", *fingerprint_word = "fingerprint";

Measurement read_fingerprint(const std::string& document, const std::string& where) {
    const BodyFingerprint f = fingerprint_from_json(document, where);
    Measurement out;
    take_common_parts(out, parse_document(document, where, fingerprint_format, fingerprint_word), document);
    out.kind = fingerprint_kind().id;
    out.name = "Fingerprint of " + f.camera + " " + f.serial;
    out.subject = {MeasuredSubject::Kind::body, f.camera, f.serial, ""};
    out.subject_key = body_key(f.camera, f.serial, out.taken_in);
    out.figures = {{"agreement of two halves", f.print.agreement, "sigma", {}}};
    return out;
}

/// Signs of a pattern without lines are balanced; others would match whatever is bright on one side.
void require_balanced(const std::string& document) {
    const Fingerprint f = fingerprint_from_json(document, "The fingerprint").print;
    std::size_t ones = 0;
    for (const unsigned char byte : f.signs) ones += static_cast<std::size_t>(std::popcount(byte));
    const double share = static_cast<double>(ones) / (8.0 * static_cast<double>(f.signs.size()));
    if (!(std::abs(share - 0.5) < 0.05) || !(f.agreement >= 0) || !std::isfinite(f.agreement))
        throw input_error(
            fmt::format("The fingerprint has {:.0f} % of one sign, which no sensor has; learn it again.", 100 * share));
}

std::vector<std::string> fingerprint_differences(const std::string& before, const std::string& after) {
    const double z = agreement_of(fingerprint_from_json(before, "the fingerprint").print,
                                  fingerprint_from_json(after, "the fingerprint").print);
    if (std::isnan(z)) return {"is of a sensor of another size"};
    return {z > fingerprint_threshold ? fmt::format("shows the same sensor ({:.0f} sigma)", z)
                                      : fmt::format("shows another sensor ({:.1f} sigma)", z)};
}

}  // namespace

std::string fingerprint_to_json(const BodyFingerprint& f) {
    return json_text({{"format", "optrel-fingerprint"},
                      {"format_version", 1},
                      {"body", f.body},
                      {"camera", f.camera},
                      {"serial", f.serial},
                      {"author", f.author},
                      {"time", f.time},
                      {"program", "Optrel " OPTREL_VERSION},
                      {"width", f.print.width},
                      {"height", f.print.height},
                      {"square", {f.print.left, f.print.top, f.print.side}},
                      {"agreement_sigmas", f.print.agreement},
                      {"signs", to_base64(f.print.signs)},
                      {"frames", f.frames}},
                     1) +
           "\n";
}

BodyFingerprint fingerprint_from_json(const std::string& document, const std::string& where) {
    const json j = parse_document(document, where, fingerprint_format, fingerprint_word);
    BodyFingerprint out;
    try {
        out.body = j.at("body");
        out.camera = j.at("camera");
        out.serial = j.at("serial");
        out.author = j.value("author", "");
        out.time = j.value("time", "");
        out.frames = j.at("frames").get<std::vector<std::string>>();
        Fingerprint& f = out.print;
        f.width = j.at("width");
        f.height = j.at("height");
        f.left = j.at("square").at(0);
        f.top = j.at("square").at(1);
        f.side = j.at("square").at(2);
        f.agreement = j.at("agreement_sigmas");
        const auto signs = from_base64(j.at("signs").get_ref<const std::string&>());
        const long samples = static_cast<long>(f.side) * f.side;
        if (!signs || f.side < 8 || f.side > 4096 || samples != 8 * static_cast<long>(signs->size()) || f.left < 0 ||
            f.top < 0 || f.width > 1000000 || f.height > 1000000 || f.left + f.side > f.width ||
            f.top + f.side > f.height)
            throw input_error(
                fmt::format("{} has a square that does not fit its signs or its picture; learn the "
                            "fingerprint again.",
                            where));
        f.signs = *signs;
    } catch (const json::exception&) {
        throw damaged_document(where);
    }
    return out;
}

const MeasurementKind& fingerprint_kind() {
    static const MeasurementKind kind = json_kind({.id = "fingerprint",
                                                   .one = fingerprint_word,
                                                   .many = "fingerprints",
                                                   .id_prefix = "f",
                                                   .due_after_days = 0,  // The pattern of a sensor stays.
                                                   .format = fingerprint_format,
                                                   .read = read_fingerprint,
                                                   .require_plausible = require_balanced,
                                                   .differences = fingerprint_differences});
    return kind;
}

}  // namespace optrel
