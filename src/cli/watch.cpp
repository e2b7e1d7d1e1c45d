// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli watch: intake without a window.
#include <fmt/format.h>

#include <chrono>
#include <csignal>
#include <map>
#include <set>

#include "base/error.h"
#include "base/files.h"
#include "base/times.h"
#include "base/words.h"
#include "cli/commands.h"
#include "studio/arrivals.h"
#include "studio/frame_sheets.h"
#include "studio/intake.h"

namespace optrel::cli {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

struct WatchOptions {
    std::string store, until;
    std::vector<std::string> folders;
    IntakeOrder order;
    double still = 1.5;
    bool once = false, json = false;
};

/// One line for each event, for people or for programs; each is there at once, also in a pipe.
class WatchLog {
public:
    explicit WatchLog(bool as_json) : json_(as_json) {}

    void frame(const Taken& t, const IntakeReport& report, const std::string& set) {
        const bool written = t.what == Taken::What::baseline;
        if (json_) {
            json line = {{"time", utc_now()}, {"event", to_string(t.what)}, {"frame", t.frame.string()}};
            if (!t.body.empty()) line["body"] = t.body;
            if (!t.why.empty()) line["why"] = t.why;
            if (written) line["revision"] = report.revision;
            if (written) line["rollout"] = report.rollout;
            if (written && !set.empty()) line["set"] = set;
            return put(line.dump());
        }
        std::string what = t.why;
        if (written) {
            what = fmt::format("baseline {}", report.revision);
            if (!set.empty()) what += fmt::format(", set {} on top", set);
            what += fmt::format(" ({}), rollout {}", t.body, report.rollout);
        }
        if (t.what == Taken::What::known) what = "waits: " + t.why;
        put(fmt::format("{}  {}  {}", utc_now(), printable(t.frame.string()), what));
    }
    void say(const std::string& sentence) {
        if (json_)
            put(json({{"time", utc_now()}, {"event", "note"}, {"why", sentence}}).dump());
        else
            put(fmt::format("{}  {}", utc_now(), sentence));
    }

private:
    static void put(const std::string& line) {
        std::printf("%s\n", line.c_str());
        std::fflush(stdout);
    }
    bool json_;
};

/// A folder of the options as it stands, so that a mistyped one is told before anything is waited for.
std::vector<fs::path> folders_of(const WatchOptions& o) {
    std::vector<fs::path> out;
    for (const std::string& folder : o.folders) {
        std::error_code failed;
        if (!fs::is_directory(folder, failed))
            throw input_error(
                fmt::format("{} is no folder; name one that is there, or make it first.", printable(folder)));
        out.push_back(fs::absolute(folder).lexically_normal());
    }
    return out;
}

/// What was done, until nothing waits any more or for ever.
class Watch {
public:
    Watch(const WatchOptions& o, Progress& progress)
        : o_(o),
          progress_(progress),
          log_(o.json),
          folders_(folders_of(o)),
          arrivals_(folders_, std::chrono::milliseconds(static_cast<int>(o.still * 1000))) {
        Store store = open_store(o.store, Access::write);
        arrivals_.know(store.frames().all());
        const Revision current = store.baselines().current();
        if (!o.order.set.empty() && current.number > 0) set_layer(current, o.order.set, 100);  // throws for none
    }

    void run() {
        using Clock = std::chrono::steady_clock;
        FolderWatch watch(folders_);
        Clock::time_point looked{}, at_work = Clock::now();
        bool soon = true;
        for (bool first = true;; first = false) {
            // Often while something is on its way; else when the system tells of it.
            const bool told = !first && watch.wait(soon ? std::chrono::milliseconds(200) : longest_sleep);
            progress_.check();
            if (!soon && !told && Clock::now() - looked < watch.patience()) continue;
            const bool busy = look();
            looked = Clock::now();
            if (busy) at_work = looked;
            if (o_.once && !first && !busy && arrivals_.waiting() == 0) return;
            if (o_.once && looked - at_work > patience_of_once()) return give_up();
            soon = busy || arrivals_.waiting() > 0 || o_.once || retry_;
        }
    }
    const std::vector<std::string>& problems() const { return problems_; }

private:
    static constexpr std::chrono::milliseconds longest_sleep{1000};  // so that it ends when it is asked to
    static constexpr std::chrono::seconds gathered{3};

    std::chrono::milliseconds patience_of_once() const {
        return std::chrono::milliseconds(static_cast<int>(o_.still * 1000)) * 4 + std::chrono::seconds(2);
    }
    void give_up() {
        for (const std::string& sentence : arrivals_.stuck(std::chrono::seconds(0))) problem(sentence);
    }
    void problem(const std::string& sentence) {
        problems_.push_back(sentence);
        log_.say(sentence);
    }

    /// Returns whether anything was taken in.
    bool look() {
        const auto now = std::chrono::steady_clock::now();
        // What arrives in quick succession becomes one rollout, so that the history can be read.
        retry_ = !o_.once && written_ && now - *written_ < gathered;
        if (retry_) return false;
        std::vector<fs::path> files = arrivals_.look(progress_);
        std::erase_if(files, [&](const fs::path& file) {
            const auto later = not_before_.find(file);
            return later != not_before_.end() && now < later->second;
        });
        for (const std::string& sentence : arrivals_.problems()) problem(sentence);
        if (!o_.once)
            for (const std::string& sentence : arrivals_.stuck(std::chrono::seconds(60))) problem(sentence);
        if (files.empty()) return false;
        IntakeOrder order = o_.order;
        if (!o_.until.empty() && utc_now() > o_.until) order.set.clear();
        IntakeReport report;
        try {
            Store store = open_store(o_.store, Access::write);
            report = take_in_arrivals(store, files, order, progress_);
        } catch (const Cancelled&) {
            throw;
        } catch (const Error& error) {
            // Another rollout is at work, or the share is gone: it is tried again.
            retry_ = true;
            if (last_failure_ != error.what()) problem(last_failure_ = error.what());
            return false;
        }
        last_failure_.clear();
        if (report.rollout != 0) written_ = now;
        for (const Taken& t : report.frames) {
            if (t.what == Taken::What::failed) {
                if (failed_.insert(t.why).second) problem(t.why);
                // What a rollout could not write is that rollout's to go on with; what could not be read may be later.
                if (report.rollout != 0 || o_.once)
                    arrivals_.done(t.frame);
                else
                    not_before_[t.frame] = now + std::chrono::seconds(60);
                continue;
            }
            arrivals_.done(t.frame);
            log_.frame(t, report, order.set);
        }
        return true;
    }

    const WatchOptions& o_;
    Progress& progress_;
    WatchLog log_;
    const std::vector<fs::path> folders_;
    Arrivals arrivals_;
    std::vector<std::string> problems_;
    std::set<std::string> failed_;
    std::map<fs::path, std::chrono::steady_clock::time_point> not_before_;
    std::string last_failure_;
    std::optional<std::chrono::steady_clock::time_point> written_;  ///< when the last rollout was
    bool retry_ = false;
};

void run_watch(WatchOptions& o) {
    if (!o.until.empty() && o.order.set.empty())
        throw usage_error("--set-until is for a set; name one with --set, or leave it out.");
    o.order.author = author_or_me(o.order.author);
    Progress& progress = console_progress();
    // What a service manager sends when it stops one.
    std::signal(SIGTERM, [](int) { console_progress().cancel(); });
    Watch watch(o, progress);
    try {
        watch.run();
    } catch (const Cancelled&) {
        return;  // it is asked to end; what was begun is found again
    }
    if (o.once) fail_with(watch.problems());
}

}  // namespace

void add_watch(CLI::App& app) {
    auto o = std::make_shared<WatchOptions>();
    auto* command = add_command(app, "watch", "Take in frames as they arrive in folders: each gets its baseline, once",
                                "watch --store studio --folder /shoots/today --set \"Infrared leaves\"");
    add_store_option(*command, o->store);
    command->add_option("--folder", o->folders, "Folders to watch, with those beneath them")->required();
    command->add_option("--set", o->order.set, "A set of the baseline to put on top of every frame");
    command->add_option("--set-until", o->until, "UTC, as 2026-03-01T18:00:00Z: after that the set is left out")
        ->check(CLI::Validator(
            [](std::string& text) {
                const std::string form = "dddd-dd-ddTdd:dd:ddZ";
                bool fits = text.size() == form.size();
                for (std::size_t i = 0; fits && i < form.size(); ++i)
                    fits = form[i] == 'd' ? text[i] >= '0' && text[i] <= '9' : text[i] == form[i];
                const auto part = [&](std::size_t at, std::size_t count) { return std::stoi(text.substr(at, count)); };
                if (fits) {
                    const std::chrono::year_month_day day{std::chrono::year(part(0, 4)),
                                                          std::chrono::month(static_cast<unsigned>(part(5, 2))),
                                                          std::chrono::day(static_cast<unsigned>(part(8, 2)))};
                    fits = day.ok() && part(11, 2) < 24 && part(14, 2) < 60 && part(17, 2) < 60;
                }
                return fits ? std::string() : text + " is no time; write it as 2026-03-01T18:00:00Z";
            },
            "TIME"));
    command->add_flag("--only-index", o->order.only_index, "Frames become known and wait; no baseline is written");
    command->add_flag("--raw-only", o->order.raw_only, "Rendered pictures become known and wait");
    command->add_flag("--unknown-waits", o->order.unknown_waits,
                      "Raw frames of a body that is not known wait, in place of getting what their model says");
    command->add_option("--still", o->still, "Seconds for which a file has to stand still to count as complete")
        ->check(between(0.1, 600))
        ->capture_default_str();
    command->add_option("--author", o->order.author, "Who rolls out [default: the login name]");
    command->add_flag("--once", o->once, "Take in what is there, and end");
    command->add_flag("--json", o->json, "A line of JSON for each event");
    command->callback([o] { run_watch(*o); });
}

}  // namespace optrel::cli
