// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue_work.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/parallel.h"
#include "calibration/run.h"
#include "studio/rolling.h"
#include "studio/take_in.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

using nlohmann::json;

/// Files are not to be had at this station: another one may see them.
class NotHere : public std::runtime_error {
public:
    using std::runtime_error::runtime_error;
};

/// What was found, and how it is kept: in one transaction with the end of its portion.
struct Found {
    std::string result;
    std::function<void(Store&)> keep = [](Store&) {};
};

void require_here(const fs::path& file) {
    std::error_code none;
    if (fs::exists(file, none)) return;
    const std::string root = RootMap::missing(file);
    throw NotHere(root.empty() ? fmt::format("{} is not to be had at this station.", file.string())
                               : fmt::format("The root '{}' has no folder at this station.", root));
}

Found index(Store& store, const json& what, Progress& progress) {
    std::vector<fs::path> files;
    for (const json& file : what.at("files")) files.push_back(store.here(file.get<std::string>()));
    if (!files.empty()) require_here(files.front().parent_path());
    std::vector<FrameRecord> known;
    for (const fs::path& file : files)
        if (auto f = store.frames().find(file)) known.push_back(std::move(*f));
    std::vector<std::string> problems;
    auto fresh = std::make_shared<std::vector<FrameRecord>>();
    index_files(
        files, known,
        [&](const std::vector<FrameRecord>& some) { fresh->insert(fresh->end(), some.begin(), some.end()); }, problems,
        progress);
    const bool enter = what.at("enter");
    return {json_text({{"files", files.size()}, {"fresh", fresh->size()}, {"problems", problems}}),
            [fresh, enter](Store& into) {
                if (!fresh->empty()) into.frames().put(*fresh, enter);
            }};
}

Found measure(Store& store, const json& what, Progress& progress) {
    const int run = what.at("run"), position = what.at("position");
    const RunFrame before = store.runs().frame(run, position);
    if (before.settled()) return {json_text({{"frame", before.path.filename().string()}, {"done", "before"}})};
    require_here(before.path);
    RunFrame frame =
        measure_frame(before.path, MeasureAs::automatic, ChartSpec::parse(store.runs().chart_of(run)), progress);
    frame.dropped = before.dropped;
    return {json_text({{"frame", frame.path.filename().string()}, {"problem", frame.problem}}),
            [run, position, frame](Store& into) { into.runs().put_frame(run, position, frame); }};
}

Found roll(Store& store, const json& what, Progress& progress) {
    const RolloutReport report = go_on(store, what.at("number"), true, progress);
    if (!report.failed.empty()) throw NotHere(report.failed.front());
    return {json_text({{"written", report.written}, {"kept", report.kept}})};
}

Found work_at(Store& store, const QueuedPortion& portion, Progress& progress) {
    const json what = parse_json(portion.document, fmt::format("Job {} of the queue", portion.job));
    if (portion.kind == "index") return index(store, what, progress);
    if (portion.kind == "measure") return measure(store, what, progress);
    if (portion.kind == "rollout") return roll(store, what, progress);
    throw input_error(fmt::format("This version does not know work of the kind '{}'.", portion.kind));
}

/// How long a portion whose files are not here is left to others before it is tried here again.
constexpr int put_off_seconds = 5;

}  // namespace

const std::vector<std::string>& work_kinds() {
    static const std::vector<std::string> all{"index", "measure", "rollout"};
    return all;
}

int queue_index(Store& store, const std::vector<fs::path>& folders, bool enter, std::vector<std::string>& problems) {
    constexpr std::size_t size = 200;
    std::vector<std::string> portions;
    json files = json::array();
    const auto flush = [&] {
        if (!files.empty()) portions.push_back(json_text({{"files", files}, {"enter", enter}}));
        files = json::array();
    };
    std::string title;
    for (const fs::path& folder : folders) {
        title += (title.empty() ? "" : ", ") + folder.string();
        for (const fs::path& file : frame_files(folder, problems)) {
            files.push_back(store.kept(file));
            if (files.size() == size) flush();
        }
    }
    flush();
    return portions.empty() ? 0 : store.queue().add("index", title, portions);
}

int queue_measure(Store& store, int run) {
    const std::string chart = store.runs().chart_of(run);
    for (const RunRecord& r : store.runs().all()) {
        if (r.id != run) continue;
        std::vector<std::string> portions;
        for (int i = 0; i < static_cast<int>(r.frames.size()); ++i)
            if (!r.frames[static_cast<std::size_t>(i)].settled())
                portions.push_back(json_text({{"run", run}, {"position", i}}));
        return portions.empty() ? 0 : store.queue().add("measure", r.name, portions);
    }
    return 0;
}

int queue_rollout(Store& store, int number) {
    const RolloutRecord record = store.rollouts().record(number);
    if (record.status != RolloutStatus::writing)
        throw input_error(fmt::format("Rollout {} is {}, so there is nothing of it to be written.", number,
                                      to_string(record.status)));
    return store.queue().add("rollout", fmt::format("Rollout {}", number), {json_text({{"number", number}})});
}

QueueWorker::QueueWorker(const StoreSource& store, Willing willing, std::string name)
    : source_(store),
      willing_(std::move(willing)),
      name_(std::move(name)),
      store_(store.address(), Access::write),
      alive_([this] { keep_alive(); }) {}

QueueWorker::~QueueWorker() {
    {
        std::lock_guard lock(mutex_);
        over_ = true;
    }
    changed_.notify_all();
    alive_.join();
}

void QueueWorker::keep_alive() {
    std::optional<Store> own;
    std::unique_lock lock(mutex_);
    while (!over_) {
        changed_.wait_for(lock, std::chrono::milliseconds(1000 * willing_.lease_seconds / 3));
        if (over_ || !at_work_) continue;
        const QueuedPortion portion = *at_work_;
        lock.unlock();
        bool mine = true;
        try {
            if (!own) own.emplace(source_.address(), Access::write);
            mine = own->queue().renew(portion, willing_.lease_seconds);
        } catch (const std::exception&) {
            own.reset();  // the server is away; when it is back in time the lease still holds
        }
        lock.lock();
        // Somebody cancelled the job, or took it for dead.
        if (!mine && at_work_ && at_work_->job == portion.job && at_work_->position == portion.position)
            progress_->cancel();
    }
}

std::optional<QueuedPortion> QueueWorker::step(Progress& progress) {
    const OnThisThread alone;
    progress.check();
    if (!willing_.hours.hold_now()) return std::nullopt;
    std::optional<QueuedPortion> portion = store_.queue().take(name_, willing_.kinds, willing_.lease_seconds);
    if (!portion) return std::nullopt;
    Progress own([&](int, int, const std::string&) { progress.check(); });
    const auto at = [&](std::optional<QueuedPortion> now, Progress* its) {
        std::lock_guard lock(mutex_);
        at_work_ = std::move(now);
        progress_ = its;
    };
    at(portion, &own);
    try {
        const Found found = work_at(store_, *portion, own);
        at(std::nullopt, nullptr);
        Transaction together(store_.engine());
        if (store_.queue().end(*portion, PortionState::done, found.result)) {
            found.keep(store_);
            portion->state = PortionState::done;
            portion->result = found.result;
        }
        together.commit();
    } catch (const Cancelled&) {
        at(std::nullopt, nullptr);
        if (progress.cancelled()) {
            store_.queue().give_back(*portion);
            throw;
        }
    } catch (const NotHere& elsewhere) {
        at(std::nullopt, nullptr);
        portion->result = elsewhere.what();
        store_.queue().put_off(*portion, put_off_seconds, elsewhere.what());
    } catch (const Error& error) {
        at(std::nullopt, nullptr);
        if (error.kind() == ErrorKind::store) throw;
        portion->state = PortionState::failed;
        portion->result = error.what();
        store_.queue().end(*portion, PortionState::failed, error.what());
    } catch (const std::exception& error) {
        at(std::nullopt, nullptr);
        portion->state = PortionState::failed;
        portion->result = fmt::format("What is to be done in job {}, portion {} cannot be read ({}); cancel that job.",
                                      portion->job, portion->position + 1, error.what());
        store_.queue().end(*portion, PortionState::failed, portion->result);
    }
    return portion;
}

}  // namespace optrel
