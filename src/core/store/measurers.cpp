// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/measurers.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/times.h"
#include "base/words.h"
#include "store/engine.h"
#include "store/table_rows.h"

namespace optrel {
namespace {

std::string in_words(const std::optional<Measurer>& m) {
    if (!m) return "";
    if (!m->withdrawn.empty()) return fmt::format("{}, withdrawn {}", m->name, m->withdrawn);
    return m->name + (m->trusted ? ", trusted" : ", not trusted");
}

const RecordColumns<Measurer>& measurer_columns() {
    static const RecordColumns<Measurer> columns{{"key", &Measurer::key},         {"name", &Measurer::name},
                                                 {"trusted", &Measurer::trusted}, {"withdrawn", &Measurer::withdrawn},
                                                 {"author", &Measurer::author},   {"time", &Measurer::time}};
    return columns;
}

}  // namespace

Standing Measurer::standing() const {
    if (!withdrawn.empty()) return Standing::withdrawn;
    return trusted ? Standing::trusted : Standing::unknown;
}

std::vector<Measurer> StoredMeasurers::all() const {
    return read_records(engine_, "measurers", measurer_columns(), "ORDER BY name, key");
}

std::optional<Measurer> StoredMeasurers::of(const std::string& key) const {
    for (Measurer& m : all())
        if (m.key == key) return std::move(m);
    return std::nullopt;
}

void StoredMeasurers::put(const Measurer& measurer, const std::string& author) {
    Transaction transaction(engine_, "profiles");
    const std::optional<Measurer> before = of(measurer.key);
    Measurer after = measurer;
    after.name = trimmed(after.name);
    if (after.name.empty())
        throw input_error(
            "A key needs a name that this studio knows its owner by; write one, for instance the name of "
            "their studio.");
    if (before && after.withdrawn.empty()) after.withdrawn = before->withdrawn;
    if (after.trusted && !after.withdrawn.empty())
        throw input_error(
            fmt::format("The key of {} was withdrawn on {}, so it cannot be trusted; ask its owner for "
                        "the new one.",
                        after.name, after.withdrawn.substr(0, 10)));
    after.author = author;
    after.time = utc_now();
    put_row(engine_, "measurers", row_of(after, measurer_columns()));
    engine_.record(
        {"", author, "measurer", after.key, before ? "settle a key" : "know a key", in_words(before), in_words(after)});
    // The grades of imported profiles depend on it.
    engine_.stamp("profiles");
    transaction.commit();
}

void StoredMeasurers::remove(const std::string& key, const std::string& author) {
    Transaction transaction(engine_, "profiles");
    const std::optional<Measurer> before = of(key);
    if (!before) throw input_error(fmt::format("This studio knows no key '{}'.", printable(key)));
    if (!before->withdrawn.empty())
        throw input_error(
            fmt::format("The key of {} was withdrawn on {}, and stays known so that nobody trusts it again.",
                        before->name, before->withdrawn.substr(0, 10)));
    engine_.run("DELETE FROM measurers WHERE key = ?", {text(key)});
    engine_.record({"", author, "measurer", key, "forget a key", in_words(before), ""});
    engine_.stamp("profiles");
    transaction.commit();
}

}  // namespace optrel
