// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli queue and work: long work that the stations of a studio share.
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <set>
#include <thread>
#include <utility>

#include "base/error.h"
#include "base/station.h"
#include "base/words.h"
#include "commands.h"
#include "studio/queue_work.h"
#include "studio/store_news.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct QueueOptions {
    std::string store, hours;
    std::vector<std::string> folders, kinds;
    int number = 0, cores = 0, lease = 60;
    bool json = false, unclaimed = false, once = false;
};

json summary(const QueuedJob& j) {
    return {{"job", j.id},          {"kind", j.kind},     {"title", j.title},         {"author", j.author},
            {"station", j.station}, {"time", j.time},     {"cancelled", j.cancelled}, {"portions", j.portions},
            {"done", j.done},       {"failed", j.failed}, {"at_work", j.at_work}};
}

void list_jobs(const QueueOptions& o) {
    Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const QueuedJob& j : store.queue().jobs()) {
        out.push_back(summary(j));
        if (!o.json)
            fmt::print("{:>5}  {:<8} {:>6} of {} done, {} at work, {} failed{}  {}  {} at {}\n", j.id, j.kind, j.done,
                       j.portions, j.at_work, j.failed, j.cancelled ? ", cancelled" : "", j.title, j.author, j.station);
    }
    if (o.json) print_json(out);
}

void show_job(const QueueOptions& o) {
    Store store = open_store(o.store, Access::read);
    json out = summary(store.queue().job(o.number));
    out["results"] = json::array();
    for (const QueuedPortion& p : store.queue().portions(o.number))
        out["results"].push_back({{"position", p.position},
                                  {"state", to_string(p.state)},
                                  {"worker", p.worker},
                                  {"tries", p.tries},
                                  {"result", p.result}});
    print_json(out);
}

void tell_added(const QueueOptions& o, int job) {
    if (o.json)
        print_json({{"job", job}});
    else if (job == 0)
        fmt::print("There is nothing to be done.\n");
    else
        fmt::print("Job {} waits for a station that is willing (optrel-cli work).\n", job);
}

Willing willing(const QueueOptions& o) {
    Willing out;
    out.hours = day_hours_from(o.hours);
    out.lease_seconds = o.lease;
    if (o.kinds.empty()) return out;
    out.kinds.clear();
    for (const std::string& kind : o.kinds) {
        if (std::find(work_kinds().begin(), work_kinds().end(), kind) == work_kinds().end())
            throw usage_error(fmt::format("There is no work of the kind '{}'{}.", printable(kind),
                                          nearest_clause(kind, work_kinds())));
        out.kinds.push_back(kind);
    }
    return out;
}

void tell(const QueueOptions& o, const QueuedPortion& p) {
    const std::string state = p.state == PortionState::waiting ? "put off" : to_string(p.state);
    if (o.json)
        fmt::print(
            "{}\n",
            json{{"job", p.job}, {"position", p.position}, {"kind", p.kind}, {"state", state}, {"result", p.result}}
                .dump());
    else
        fmt::print("job {}, portion {}: {}  {}\n", p.job, p.position + 1, state, p.result);
    std::fflush(stdout);
}

/// The cores of this station at work: each with a worker of its own that lives as long as the station works.
class Crew {
public:
    Crew(const QueueOptions& options, const StoreSource& source, int cores, Progress& progress)
        : options_(options), will_(willing(options)), source_(source), progress_(progress), busy_(cores) {
        for (int core = 0; core < cores; ++core) threads_.emplace_back([this, core] { work(core); });
    }
    ~Crew() {
        {
            std::lock_guard lock(mutex_);
            over_ = true;
        }
        changed_.notify_all();
        for (std::thread& t : threads_) t.join();
    }
    /// Until none finds anything to be done; what went wrong meanwhile, each once.
    std::vector<std::string> rest() {
        std::unique_lock lock(mutex_);
        changed_.wait(lock, [this] { return busy_ == 0; });
        const std::set<std::string> problems = std::exchange(problems_, {});
        return {problems.begin(), problems.end()};
    }
    /// There may be something to be done again.
    void look() {
        std::lock_guard lock(mutex_);
        busy_ = static_cast<int>(threads_.size());
        ++round_;
        changed_.notify_all();
    }

private:
    void work(int core) {
        std::optional<QueueWorker> worker;
        std::unique_lock lock(mutex_);
        while (!over_) {
            const int round = round_;
            lock.unlock();
            std::string problem;
            try {
                if (!worker) worker.emplace(source_, will_, fmt::format("{}/{}/{}", this_station(), getpid(), core));
                while (const auto portion = worker->step(progress_)) {
                    std::lock_guard print(print_);
                    tell(options_, *portion);
                }
            } catch (const Cancelled&) {
                // The station's progress tells it to all of them.
            } catch (const std::exception& error) {
                problem = error.what();
            }
            lock.lock();
            if (!problem.empty()) problems_.insert(problem);
            if (--busy_ == 0) changed_.notify_all();
            changed_.wait(lock, [&] { return over_ || round != round_; });
        }
    }

    const QueueOptions& options_;
    const Willing will_;
    const StoreSource source_;
    Progress& progress_;
    std::mutex mutex_, print_;
    std::condition_variable changed_;
    std::set<std::string> problems_;
    int busy_, round_ = 0;
    bool over_ = false;
    std::vector<std::thread> threads_;
};

void work(const QueueOptions& o) {
    willing(o);  // throws for what it does not know
    const StoreSource source = open_store(o.store, Access::write).source();
    const int cores = o.cores > 0 ? o.cores : static_cast<int>(std::max(1u, std::thread::hardware_concurrency()));
    until_ended([&](Progress& progress) {
        StoreNews news(source);
        Crew crew(o, source, cores, progress);
        for (;; crew.look()) {
            const std::vector<std::string> problems = crew.rest();
            progress.check();
            if (o.once) return fail_with(problems);
            tell_problems(problems);  // a server that is away comes back
            news.wait(progress);
        }
    });
}

}  // namespace

void add_queue(CLI::App& app) {
    auto o = std::make_shared<QueueOptions>();
    auto* queue =
        add_command(app, "queue", "Long work that the stations of a studio share", "queue list --store studio");
    queue->require_subcommand(1);
    const auto command = [&](const char* name, const char* what, const char* example) {
        auto* added = add_command(*queue, name, what, example);
        add_store_option(*added, o->store);
        added->add_flag("--json", o->json, "Print JSON");
        return added;
    };
    auto* indexing = command("index", "Queue the reading of metadata of all frames in folders",
                             "queue index /mnt/shoots --store postgresql://iva@server/studio");
    indexing->add_option("folders", o->folders, "Folders with frames")->required();
    indexing->add_flag("--unclaimed", o->unclaimed, "Leave bodies and lenses with new serial numbers unclaimed");
    indexing->callback([o] {
        Store store = open_store(o->store, Access::write);
        std::vector<std::string> problems;
        const int job = queue_index(store, {o->folders.begin(), o->folders.end()}, !o->unclaimed, problems);
        tell_problems(problems);
        tell_added(*o, job);
    });
    auto* measuring = command("measure", "Queue the measuring of a run's frames", "queue measure 3 --store studio");
    measuring->add_option("run", o->number, "Number of the run, as 'store list runs' tells it")->required();
    measuring->callback([o] {
        Store store = open_store(o->store, Access::write);
        tell_added(*o, queue_measure(store, o->number));
    });
    auto* rolling = command("rollout", "Queue the writing of a rollout that is open", "queue rollout 7 --store studio");
    rolling->add_option("number", o->number, "Number of the rollout")->required();
    rolling->callback([o] {
        Store store = open_store(o->store, Access::write);
        tell_added(*o, queue_rollout(store, o->number));
    });
    command("list", "List jobs, newest first", "queue list --store studio")->callback([o] { list_jobs(*o); });
    auto* showing =
        command("show", "Tell a job's portions and their results in order, as JSON", "queue show 3 --store studio");
    showing->add_option("job", o->number, "Number of the job")->required();
    showing->callback([o] { show_job(*o); });
    auto* cancelling = command("cancel", "Cancel a job; what is done stays", "queue cancel 3 --store studio");
    cancelling->add_option("job", o->number, "Number of the job")->required();
    cancelling->callback([o] { open_store(o->store, Access::write).queue().cancel(o->number); });

    auto w = std::make_shared<QueueOptions>();
    auto* working = add_command(app, "work", "Do what the studio's queue holds, until it is ended",
                                "work --store postgresql://iva@server/studio --hours 20:00-07:00");
    add_store_option(*working, w->store);
    working->add_option("--kind", w->kinds, "Only work of this kind (may be given again): index, measure or rollout");
    working->add_option("--hours", w->hours, "Only within these hours of the day, as in 20:00-07:00");
    working->add_option("--cores", w->cores, "Cores at work [default: all]")->check(between(1, 256));
    working->add_option("--lease", w->lease, "Seconds without a word after which this station counts as dead")
        ->check(between(2, 3600));
    working->add_flag("--once", w->once, "End when nothing is left to be done");
    working->add_flag("--json", w->json, "Print a line of JSON for each portion");
    working->callback([w] { work(*w); });
}

}  // namespace optrel::cli
