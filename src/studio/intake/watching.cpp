// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/intake/watching.h"

#include "base/error.h"
#include "base/paths.h"
#include "studio/baselines/frame_sheets.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

std::vector<fs::path> paths_of(const std::vector<IntakeFolder>& folders) {
    std::vector<fs::path> out;
    for (const IntakeFolder& f : folders) out.push_back(f.folder);
    return out;
}

constexpr std::chrono::seconds gathered{3};
constexpr std::chrono::milliseconds longest_sleep{1000};

}  // namespace

std::unique_ptr<StoreHold> intake_claim(const StoreSource& store) { return store.open_for_writing().hold("intake"); }

Watching::Watching(StoreSource store, std::vector<IntakeFolder> folders, std::string author, Manner manner, Told told)
    : store_(std::move(store)),
      folders_(std::move(folders)),
      author_(std::move(author)),
      manner_(manner),
      told_(std::move(told)),
      arrivals_(paths_of(folders_), manner.still),
      watch_(paths_of(folders_)) {
    Store open = store_.open_for_writing();
    arrivals_.know(open.frames().all());
    const Revision current = open.baselines().current();
    for (const IntakeFolder& f : folders_)
        if (!f.set.empty() && current.number > 0) set_layer(current, f.set, 100);  // throws for an unknown set
}

bool Watching::step(Progress& progress) {
    if (first_) {
        Store open = store_.open_for_writing();
        finish_arrivals(open, progress, told_.problem);
        arrivals_.know(open.frames().all());
    }
    // Scans often while files are incomplete; otherwise after a notification.
    const bool told = !first_ && wait(soon_ ? std::chrono::milliseconds(200) : longest_sleep, progress);
    if (!soon_ && !told && Clock::now() - looked_ < watch_.patience()) return true;
    const bool busy = look(progress);
    looked_ = Clock::now();
    if (busy) at_work_ = looked_;
    if (manner_.once && !first_ && !busy && arrivals_.waiting() == 0) return false;
    first_ = false;
    if (manner_.once && looked_ - at_work_ > manner_.still * 4 + std::chrono::seconds(2)) {
        for (const std::string& sentence : arrivals_.stuck(std::chrono::seconds(0))) told_.problem(sentence);
        return false;
    }
    soon_ = busy || arrivals_.waiting() > 0 || manner_.once || retry_;
    return true;
}

/// Waits in short steps, so that a cancellation takes effect at once.
bool Watching::wait(std::chrono::milliseconds most, const Progress& progress) {
    constexpr std::chrono::milliseconds piece{25};
    for (const auto until = Clock::now() + most; Clock::now() < until;) {
        progress.check();
        if (watch_.wait(piece)) return true;
    }
    return false;
}

bool Watching::later(const fs::path& file, Clock::time_point now) const {
    const auto at = not_before_.find(file);
    return at != not_before_.end() && now < at->second;
}

bool Watching::look(Progress& progress) {
    const auto now = Clock::now();
    // Frames that arrive in quick succession are rolled out together, so that the history stays readable.
    retry_ = !manner_.once && written_ && now - *written_ < gathered;
    if (retry_) return false;
    std::vector<fs::path> files = arrivals_.look(progress);
    std::erase_if(files, [&](const fs::path& file) { return later(file, now); });
    for (const std::string& sentence : arrivals_.problems()) told_.problem(sentence);
    if (!manner_.once)
        for (const std::string& sentence : arrivals_.stuck(std::chrono::seconds(60))) told_.problem(sentence);
    bool busy = false;
    for (const IntakeFolder& folder : folders_) {
        std::vector<fs::path> here;
        for (const fs::path& file : files)
            if (lies_within(file, folder.folder)) here.push_back(file);
        if (here.empty()) continue;
        // Outside its hours, complete files wait.
        if (folder.hours.hold_now() || manner_.once) busy = take_in(folder, here, progress) || busy;
    }
    return busy;
}

bool Watching::take_in(const IntakeFolder& folder, const std::vector<fs::path>& files, Progress& progress) {
    if (!manner_.ours())
        throw input_error(
            "Another program or station watches these folders by now, since this one was stopped for a while; end that "
            "one to watch here again.");
    IntakeReport report;
    const IntakeOrder order = order_of(folder, author_);
    try {
        Store store = store_.open_for_writing();
        std::vector<fs::path> fresh;
        // Files from a card or a camera were taken in by whoever copied them.
        for (const fs::path& file : files)
            known_as_it_stands(store, file) ? arrivals_.done(file) : fresh.push_back(file);
        report = take_in_arrivals(store, fresh, order, progress, [&](const IntakeReport& done) {
            std::vector<ArrivalRecord> log = arrivals_of(done, order, "folder");
            // A repeated failure is reported once.
            std::erase_if(log, [&](const ArrivalRecord& a) { return a.what == "failed" && told_of_.count(a.why) > 0; });
            store.intake().log(log);
        });
    } catch (const Cancelled&) {
        throw;
    } catch (const Error& error) {
        // Another rollout holds the frames, or the share is missing: try again later.
        retry_ = true;
        if (last_failure_ != error.what()) told_.problem(last_failure_ = error.what());
        return false;
    }
    last_failure_.clear();
    if (report.rollout != 0) written_ = Clock::now();
    IntakeFolder as_taken = folder;
    as_taken.set = order.set;
    for (const std::string& problem : report.problems)
        if (told_of_.insert(problem).second) told_.problem(problem);
    for (const ArrivalResult& t : report.frames) {
        if (t.what == ArrivalResult::What::failed) {
            failed(t);
        } else {
            arrivals_.done(t.frame);
            told_.frame(t, report, as_taken);
        }
    }
    return true;
}

void Watching::failed(const ArrivalResult& t) {
    if (told_of_.insert(t.why).second) told_.problem(t.why);
    // Frames in a rollout are written when it is resumed; unreadable files are tried again later.
    if (t.planned || manner_.once)
        arrivals_.done(t.frame);
    else
        not_before_[t.frame] = Clock::now() + std::chrono::seconds(60);
}

}  // namespace optrel
