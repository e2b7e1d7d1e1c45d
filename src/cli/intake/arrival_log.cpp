// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/intake/arrival_log.h"

#include <fmt/format.h>

#include <cstdio>
#include <nlohmann/json.hpp>

#include "base/times.h"
#include "base/words.h"

namespace optrel::cli {
namespace {

void put_line(const std::string& line) {
    std::printf("%s\n", line.c_str());
    std::fflush(stdout);
}

}  // namespace

void ArrivalLog::frame(const ArrivalResult& t, const IntakeReport& report, const std::string& set) const {
    const bool written = t.what == ArrivalResult::What::baseline;
    if (json_) {
        nlohmann::json line = {{"time", utc_now()}, {"event", to_string(t.what)}, {"frame", t.frame.string()}};
        if (!t.body.empty()) line["body"] = t.body;
        if (!t.why.empty()) line["why"] = t.why;
        if (written) line["revision"] = report.revision;
        if (written) line["rollout"] = report.rollout;
        if (written && !set.empty()) line["set"] = set;
        return put_line(line.dump());
    }
    std::string what = t.why;
    if (written) {
        what = fmt::format("baseline {}", report.revision);
        if (!set.empty()) what += fmt::format(", set {} on top", set);
        what += fmt::format(" ({}), rollout {}", t.body, report.rollout);
    }
    if (t.what == ArrivalResult::What::known) what = "waits: " + t.why;
    put_line(fmt::format("{}  {}  {}", utc_now(), printable(t.frame.string()), what));
}

void ArrivalLog::say(const std::string& sentence) const {
    if (json_)
        put_line(nlohmann::json({{"time", utc_now()}, {"event", "note"}, {"why", sentence}}).dump());
    else
        put_line(fmt::format("{}  {}", utc_now(), sentence));
}

}  // namespace optrel::cli
