// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue/queue_result.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "base/words.h"
#include "studio/checks/drift_json.h"

namespace optrel {
namespace {

using nlohmann::json;

std::string counted(long long n, const char* one, const char* many) {
    return fmt::format("{} {}", n, n == 1 ? one : many);
}

/// Results of finished portions, in order.
class Results {
public:
    Results(const QueuedJob& job, const std::vector<QueuedPortion>& portions) {
        for (const QueuedPortion& p : portions)
            if (p.state == PortionState::done)
                all_.push_back(parse_json(p.result, fmt::format("The result of job {}", job.id)));
    }
    const std::vector<json>& all() const { return all_; }
    long long sum(const char* of) const {
        long long out = 0;
        for (const json& r : all_) out += r.value(of, 0ll);
        return out;
    }
    /// Adds up the counts in an object by name.
    std::map<std::string, long long> counts(const char* of) const {
        std::map<std::string, long long> out;
        for (const json& r : all_)
            if (r.contains(of))
                for (const auto& [name, n] : r.at(of).items()) out[name] += n.get<long long>();
        return out;
    }
    void sentences(const char* of, std::vector<std::string>& lines) const {
        for (const json& r : all_)
            if (r.contains(of))
                for (const std::string line : r.at(of)) lines.push_back(line);
    }

private:
    std::vector<json> all_;
};

void tell_index(const Results& r, std::vector<std::string>& lines) {
    lines.push_back(
        fmt::format("{} looked at, {} new or changed.", counted(r.sum("files"), "file", "files"), r.sum("fresh")));
    r.sentences("problems", lines);
}

void tell_measure(const Results& r, std::vector<std::string>& lines) {
    lines.push_back(fmt::format("{} measured.", counted(static_cast<long long>(r.all().size()), "frame", "frames")));
    for (const json& one : r.all())
        if (const std::string problem = one.value("problem", ""); !problem.empty()) lines.push_back(problem);
}

void tell_rehearse(const Results& r, std::vector<std::string>& lines) {
    lines.push_back(fmt::format("{} of {} would be written, {} of them with the number of the revision alone.",
                                r.sum("writes"), counted(r.sum("frames"), "sidecar", "sidecars"),
                                r.sum("only_number")));
    for (const auto& [outcome, n] : r.counts("outcomes")) lines.push_back(fmt::format("{}: {}", outcome, n));
    for (const auto& [field, n] : r.counts("fields"))
        lines.push_back(fmt::format("{} changes in {}", field, counted(n, "frame", "frames")));
    r.sentences("unreadable", lines);
}

void tell_rollout(const Results& r, std::vector<std::string>& lines) {
    lines.push_back(fmt::format("{} written.", counted(r.sum("written"), "sidecar", "sidecars")));
    r.sentences("kept", lines);
}

void tell_export(Store& store, const Results& r, std::vector<std::string>& lines) {
    lines.push_back(fmt::format("{} written out.", counted(static_cast<long long>(r.all().size()), "frame", "frames")));
    for (const json& one : r.all()) {
        lines.push_back(printable(store.here(one.value("out", "")).string()));
        for (const std::string remark : one.value("remarks", json::array())) lines.push_back(remark);
    }
}

DriftReport drift_in(Store& store, const QueuedJob& job, const std::vector<QueuedPortion>& portions) {
    DriftReport out;
    bool looked_for = false;
    for (const QueuedPortion& p : portions) {
        if (p.state != PortionState::done) continue;
        const json result = parse_json(p.result, fmt::format("The result of job {}", job.id));
        // The last portion reports what the others found missing.
        if (p.position + 1 == job.portions) {
            std::erase_if(out.findings, [](const DriftFinding& d) { return d.kind == Drift::frame_gone; });
            looked_for = true;
        }
        add_drift(out, store, result);
    }
    if (!looked_for && job.ended()) out.problems.emplace_back("What is gone was not looked for in other folders.");
    return out;
}

void tell_check(Store& store, const QueuedJob& job, const std::vector<QueuedPortion>& portions,
                std::vector<std::string>& lines) {
    const DriftReport report = drift_in(store, job, portions);
    std::map<Drift, int> kinds;
    for (const DriftFinding& d : report.findings) ++kinds[d.kind];
    std::string found;
    for (const auto& [kind, n] : kinds) found += fmt::format("{}{} {}", found.empty() ? "" : ", ", n, to_string(kind));
    lines.push_back(fmt::format("{} looked at; {}.", counted(report.frames, "frame", "frames"),
                                found.empty() ? "nothing has drifted" : found));
    lines.insert(lines.end(), report.problems.begin(), report.problems.end());
    for (const DriftFinding& d : report.findings)
        lines.push_back(fmt::format("{}: {}{}{}", printable(d.frame.string()), to_string(d.kind),
                                    d.what.empty() ? "" : ", ", d.what));
}

}  // namespace

std::vector<std::string> result_in_words(Store& store, const QueuedJob& job,
                                         const std::vector<QueuedPortion>& portions) {
    std::vector<std::string> lines;
    const Results results(job, portions);
    if (!results.all().empty()) {
        if (job.kind == "index") tell_index(results, lines);
        if (job.kind == "measure") tell_measure(results, lines);
        if (job.kind == "rehearse") tell_rehearse(results, lines);
        if (job.kind == "rollout") tell_rollout(results, lines);
        if (job.kind == "check") tell_check(store, job, portions, lines);
        if (job.kind == "export") tell_export(store, results, lines);
    }
    for (const QueuedPortion& p : portions) {
        if (p.state == PortionState::failed)
            lines.push_back(fmt::format("Portion {} failed: {}", p.position + 1, p.result));
        if (p.state == PortionState::waiting && !p.result.empty())
            lines.push_back(fmt::format("Portion {} waits: {}", p.position + 1, p.result));
    }
    constexpr std::size_t most = 500;
    if (lines.size() > most) {
        const std::size_t more = lines.size() - most;
        lines.resize(most);
        lines.push_back(fmt::format("And {} lines more.", more));
    }
    return lines;
}

DriftReport drift_of_job(Store& store, int number) {
    const QueuedJob job = store.queue().job(number);
    if (job.kind != "check")
        throw input_error(fmt::format("Job {} is no check; 'optrel-cli queue list' tells which are.", number));
    if (!job.ended()) throw input_error(fmt::format("Job {} has not ended; wait for it.", number));
    return drift_in(store, job, store.queue().results(number));
}

}  // namespace optrel
