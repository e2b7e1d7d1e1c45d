// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/intake/following.h"

#include <fmt/format.h>

#include <algorithm>
#include <thread>

#include "base/error.h"
#include "base/files.h"
#include "base/paths.h"
#include "base/words.h"
#include "frames/film_codec.h"
#include "frames/whole_file.h"
#include "studio/baselines/frame_sheets.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

constexpr std::chrono::milliseconds breath{200};
/// Cameras that send events are polled from time to time as well.
constexpr std::chrono::seconds patience{5};
/// Number of attempts before an incomplete file is reported.
constexpr int many_tries = 25;

fs::path folder_for(const FollowOrder& order) {
    fs::path to = plain_path(order.to);
    std::error_code failed;
    if (!fs::is_directory(to, failed))
        throw input_error(
            fmt::format("{} is no folder; name one that is there, or make it first.", printable(order.to.string())));
    return to;
}

}  // namespace

Following::Following(StoreSource store, FollowOrder order, Told told)
    : store_(std::move(store)), order_(std::move(order)), told_(std::move(told)), camera_(Camera(order_.camera)) {
    order_.to = folder_for(order_);
    Store open = store_.open_for_writing();
    fleet_ = open.registry().fleet();
    there_.emplace(order_.to);
    names_.emplace(order_.to, order_.file_name, fleet_.get());
    if (!order_.how.set.empty())
        set_layer(open.baselines().current(), order_.how.set, 100);  // throws for an unknown one
    sweep_parts(order_.to);
}

void Following::lost(const std::string& sentence) {
    camera_.reset();
    told_.problem(sentence + " It is followed again as soon as it is back.");
}

/// The camera may have another port now.
void Following::connect(Progress& progress) {
    const auto now = Clock::now();
    if (now - tried_ < std::chrono::seconds(1)) return std::this_thread::sleep_for(breath);
    tried_ = now;
    progress.check();
    try {
        const fs::path folder = order_.camera.folder();
        for (const CameraSeen& seen : cameras_seen({folder})) {
            if (seen.model != order_.camera.model || seen.folder() != folder) continue;
            camera_.emplace(Camera(seen));
            told_.news(fmt::format("The {} is back.", seen.model));
            looked_ = {};
            return;
        }
    } catch (const Cancelled&) {
        throw;
    } catch (const Error&) {
        // The camera is not ready yet.
    }
}

bool Following::step(Progress& progress) {
    const auto busy = [this] { return !camera_ || !tries_.empty() || !pending_.empty(); };
    if (!camera_) {
        connect(progress);
        return true;
    }
    try {
        if (release_.exchange(false)) camera_->release();
        if (!pending_.empty()) take_in({}, progress);
        if (!first_ && !camera_->wait(breath) && Clock::now() - looked_ < patience) return busy();
        look(progress);
    } catch (const CameraGone& gone) {
        lost(gone.what());
    } catch (const Cancelled&) {
        throw;
    } catch (const Error& error) {
        if (error.kind() == ErrorKind::store) throw;
        if (last_failure_ != error.what()) told_.problem(last_failure_ = error.what());
    }
    return busy();
}

void Following::look(Progress& progress) {
    looked_ = Clock::now();
    const std::vector<FileOnCamera> files = camera_->files(progress);
    std::erase_if(tries_, [&](const auto& t) { return !std::binary_search(files.begin(), files.end(), t.first); });
    std::vector<fs::path> arrived;
    Progress to_its_end;  // received files are taken in even when the camera was disconnected or the user stopped
    try {
        receive_new(files, arrived, progress);
    } catch (...) {
        take_in(arrived, to_its_end);
        throw;
    }
    first_ = false;
    take_in(arrived, to_its_end);
}

void Following::receive_new(const std::vector<FileOnCamera>& files, std::vector<fs::path>& arrived,
                            Progress& progress) {
    for (const FileOnCamera& file : files) {
        progress.check();
        if (!taken_along(file.name) || seen_.count(file) > 0) continue;
        if (first_ && !order_.older)
            seen_.insert(file);
        else
            receive(file, arrived, progress);
    }
}

/// A failed download is retried; repeated failures are reported.
void Following::later(const FileOnCamera& file, const std::string& sentence) {
    if (++tries_[file] == many_tries) told_.problem(sentence);
}

/// Renames a finished download, unless a file with the same contents exists already.
fs::path Following::keep(const fs::path& part, const std::string& name, const Progress& progress) {
    const auto hash = [&] { return file_hash(part, [&] { progress.check(); }); };
    if (const auto same = there_->same_as(part, hash)) return *same;
    std::string note;
    fs::path wanted = names_->wanted(part, name, ++number_, note);
    // Continues the numbering of the previous session.
    for (std::error_code none; fs::exists(wanted, none);) {
        const fs::path next = names_->wanted(part, name, ++number_, note);
        if (next == wanted) break;
        wanted = next;
    }
    fs::path out = names_->take(wanted, note);
    make_folders(out.parent_path());
    write_atomic_with(
        out, [&](const fs::path& named) { fs::rename(part, named); }, IfThere::fail);
    there_->add(out);
    ++received_;
    if (!note.empty()) told_.news(note);
    return out;
}

void Following::receive(const FileOnCamera& file, std::vector<fs::path>& arrived, Progress& progress) {
    const fs::path part = part_beside(order_.to / "cable");
    const auto drop = [](const fs::path* p) {
        std::error_code none;
        fs::remove(*p, none);
    };
    const std::unique_ptr<const fs::path, decltype(drop)> gone_at_the_end(&part, drop);
    try {
        camera_->download(file, part, progress);
        if (named_as_picture(file.name) && !is_whole(part)) {
            later(file,
                  fmt::format("{} on the camera is not complete; it is copied when it is.", printable(file.name)));
            return;
        }
        arrived.push_back(keep(part, file.name, progress));
        seen_.insert(file);
        tries_.erase(file);
    } catch (const CameraGone&) {
        throw;
    } catch (const Cancelled&) {
        throw;
    } catch (const std::exception& error) {
        later(file, reason_for(file.name, error));
    }
}

void Following::take_in(const std::vector<fs::path>& files, Progress& progress) {
    for (const fs::path& file : files)
        if (!named_as_film(file)) pending_.insert(file);
    if (pending_.empty()) return;
    IntakeReport report;
    try {
        Store store = store_.open_for_writing();
        std::erase_if(pending_, [&](const fs::path& file) { return known_as_it_stands(store, file); });
        report = take_in_arrivals(
            store, {pending_.begin(), pending_.end()}, order_.how, progress,
            [&](const IntakeReport& done) { store.intake().log(arrivals_of(done, order_.how, "cable")); });
    } catch (const Cancelled&) {
        throw;
    } catch (const Error& error) {
        // Another rollout holds the frames; they wait.
        if (last_failure_ != error.what()) told_.problem(last_failure_ = error.what());
        return;
    }
    last_failure_.clear();
    pending_.clear();
    for (const std::string& problem : report.problems) told_.problem(problem);
    for (const ArrivalResult& t : report.frames) {
        if (t.what == ArrivalResult::What::failed) told_.problem(t.why);
        told_.frame(t, report);
    }
}

}  // namespace optrel
