// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli queue and work: the work queue of a studio.
#include <fmt/format.h>

#include <algorithm>
#include <thread>

#include "base/error.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/exports/delivery_choice.h"
#include "cli/frames/scope_options.h"
#include "studio/queue/queue_result.h"
#include "studio/queue/worker_pool.h"
#include "studio/stations/name_conflicts.h"
#include "studio/stations/store_news.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct QueueOptions {
    std::string store, hours;
    std::string out;
    std::vector<std::string> folders, kinds, frames;
    ScopeOptions scope;
    DeliveryChoice choice;
    int number = 0, cores = 0, lease = 60;
    bool json = false, unclaimed = false, once = false, renew = false;
};

json summary(const QueuedJob& j) {
    return {{"job", j.id},          {"kind", j.kind},     {"title", j.title},         {"author", j.author},
            {"station", j.station}, {"time", j.time},     {"cancelled", j.cancelled}, {"portions", j.portions},
            {"done", j.done},       {"failed", j.failed}, {"at_work", j.at_work}};
}

void list_jobs(const QueueOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const QueuedJob& j : store.queue().jobs()) {
        out.push_back(summary(j));
        if (!o.json)
            fmt::print("{:>5}  {:<8} {:>6} of {} done, {} at work, {} failed{}  {}  {} at {}\n", j.id, j.kind, j.done,
                       j.portions, j.at_work, j.failed, j.cancelled ? ", cancelled" : "", j.title, j.author, j.station);
    }
    end_list(out, o.json, "The queue is empty.");
}

void show_job(const QueueOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const QueuedJob job = store.queue().job(o.number);
    const std::vector<QueuedPortion> portions = store.queue().results(o.number);
    json out = summary(job);
    out["in_words"] = result_in_words(store, job, portions);
    out["results"] = json::array();
    for (const QueuedPortion& p : portions)
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

WorkPolicy willing(const QueueOptions& o) {
    WorkPolicy out;
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

void work(const QueueOptions& o) {
    const WorkPolicy will = willing(o);
    Store store = open_store(o.store, Access::write);
    tell_problems(name_conflicts_in_words(store.stations().arrive()));
    const StoreSource source = store.source();
    const int cores = o.cores > 0 ? o.cores : static_cast<int>(std::max(1u, std::thread::hardware_concurrency()));
    until_ended([&](Progress& progress) {
        StoreNews news(source);
        WorkerPool crew(source, will, cores, progress, [&](const QueuedPortion& p) { tell(o, p); });
        for (;; crew.look()) {
            const std::vector<std::string> problems = crew.rest();
            progress.check();
            if (o.once && (!problems.empty() || !will.hours.hold_now() || !store.queue().any_waits(will.kinds)))
                return fail_with(problems);
            tell_problems(problems);  // the server may come back
            news.wait(progress);
        }
    });
}

using Options = std::shared_ptr<QueueOptions>;

CLI::App* add_to(CLI::App& queue, const Options& o, const char* name, const char* what, const char* example) {
    auto* added = add_command(queue, name, what, example);
    add_store_option(*added, o->store);
    added->add_flag("--json", o->json, "Print JSON");
    return added;
}

void add_putting_in(CLI::App& queue, const Options& o) {
    auto* indexing = add_to(queue, o, "index", "Queue the reading of metadata of all frames in folders",
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
    auto* measuring =
        add_to(queue, o, "measure", "Queue the measuring of a run's frames", "queue measure 3 --store studio");
    measuring->add_option("run", o->number, "Number of the run, as 'store list runs' tells it")->required();
    measuring->callback([o] {
        Store store = open_store(o->store, Access::write);
        tell_added(*o, queue_measure(store, o->number));
    });
    auto* rolling =
        add_to(queue, o, "rollout", "Queue the writing of a rollout that is open", "queue rollout 7 --store studio");
    rolling->add_option("number", o->number, "Number of the rollout")->required();
    rolling->callback([o] {
        Store store = open_store(o->store, Access::write);
        tell_added(*o, queue_rollout(store, o->number));
    });
}

void add_putting_in_frames(CLI::App& queue, const Options& o) {
    auto* rehearsing = add_to(queue, o, "rehearse", "Queue a rehearsal of the current revision; nothing is written",
                              "queue rehearse --body \"North 1\" --store studio");
    add_scope_options(*rehearsing, o->scope);
    rehearsing->add_flag("--renew-hand-set", o->renew, "Renew the baseline beneath hand-set fields, which stay");
    rehearsing->callback([o] {
        Store store = open_store(o->store, Access::write);
        const FrameScope scope = scope_from(o->scope, store);
        const auto frames = frames_of(scope, store.frames().all(), *store.registry().fleet(), console_progress());
        tell_added(*o, queue_rehearse(store, frames, o->renew, in_words(scope)));
    });
    add_to(queue, o, "check", "Queue a check of all sidecars for drift", "queue check --store studio")->callback([o] {
        Store store = open_store(o->store, Access::write);
        tell_added(*o, queue_check(store));
    });
    auto* exporting =
        add_to(queue, o, "export", "Queue frames to be written out by a delivery, by any station that is willing",
               "queue export --frames /mnt/shoots/a.dng --delivery Review --out /mnt/shoots/review");
    exporting->add_option("--frames", o->frames, "The frames")->required();
    exporting->add_option("--out", o->out, "Folder to write into, in a root of the studio")->required();
    add_delivery_choice(*exporting, o->choice);
    exporting->callback([o] {
        Store store = open_store(o->store, Access::write);
        const Delivery delivery = chosen_delivery(o->choice, store.deliveries().all());
        tell_added(*o, queue_export(store, {o->frames.begin(), o->frames.end()}, delivery, o->out));
    });
}

void add_looking(CLI::App& queue, const Options& o) {
    add_to(queue, o, "list", "List jobs, newest first", "queue list --store studio")->callback([o] { list_jobs(*o); });
    auto* showing = add_to(queue, o, "show", "Tell a job's portions and their results in order, as JSON",
                           "queue show 3 --store studio");
    showing->add_option("job", o->number, "Number of the job")->required();
    showing->callback([o] { show_job(*o); });
    auto* keeping = add_to(queue, o, "keep", "Say for how many days jobs that ended are listed, or tell it",
                           "queue keep 90 --store studio");
    keeping->add_option("days", o->number, "Days [default: tell how many]")->check(whole(1, 36500));
    keeping->callback([o] {
        Store store = open_store(o->store, o->number > 0 ? Access::write : Access::read);
        if (o->number > 0) store.queue().keep_for(o->number);
        fmt::print("Jobs that ended are kept for {} days.\n", store.queue().days_kept());
    });
    auto* cancelling = add_to(queue, o, "cancel", "Cancel a job; what is done stays", "queue cancel 3 --store studio");
    cancelling->add_option("job", o->number, "Number of the job")->required();
    cancelling->callback([o] { open_store(o->store, Access::write).queue().cancel(o->number); });
}

void add_work(CLI::App& app) {
    auto w = std::make_shared<QueueOptions>();
    auto* working = add_command(app, "work", "Do what the studio's queue holds, until it is ended",
                                "work --store postgresql://iva@server/studio --hours 20:00-07:00");
    add_store_option(*working, w->store);
    working->add_option("--kind", w->kinds, "Only work of this kind (may be given again): " + one_of(work_kinds()));
    working->add_option("--hours", w->hours, "Only within these hours of the day, as in 20:00-07:00");
    working->add_option("--cores", w->cores, "Cores at work [default: all]")->check(between(1, 256));
    working->add_option("--lease", w->lease, "Seconds without a word after which this station counts as dead")
        ->check(between(2, 3600));
    working->add_flag("--once", w->once, "End when nothing is left to be done, at other stations either");
    working->add_flag("--json", w->json, "Print a line of JSON for each portion");
    working->callback([w] { work(*w); });
}

}  // namespace

void add_queue(CLI::App& app) {
    auto o = std::make_shared<QueueOptions>();
    auto* queue =
        add_command(app, "queue", "Long work that the stations of a studio share", "queue list --store studio");
    queue->require_subcommand(1);
    add_putting_in(*queue, o);
    add_putting_in_frames(*queue, o);
    add_looking(*queue, o);
    add_work(app);
}

}  // namespace optrel::cli
