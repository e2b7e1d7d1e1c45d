// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-siege SECONDS [SEED [EVENTS]] [--engine folder|server] [--plant FAULT]: a shared studio under a seeded plan of
// faults, for as long as it is given.
//
// Stations pin, publish, register, propose, approve, do portions of work, roll out and take back, each at random.
// Meanwhile they are killed, or stopped for longer than their lease and let go on, the server falls over, connections
// stall or are cut, and disks are full. Each station writes down what the store acknowledged. At the end a checker
// (checker.h) holds the store and the sidecars against that. A plan that fails is run again with fewer events, and the
// shortest that still fails is printed.
//
// optrel-siege --check ADDRESS FRAMES LOGS: lets the checker look once more at what an earlier run left.
//
// --plant does one of these behind everybody's back before the checker looks, to try the checker: selection, sidecar,
// effect, claim.
#include <fmt/format.h>
#include <signal.h>

#include <CLI/CLI.hpp>
#include <QtGlobal>
#include <chrono>
#include <fstream>
#include <random>
#include <thread>

#include "rollout/rollout.h"
#include "siege/checker.h"
#include "siege/faulty_studio.h"
#include "siege/station.h"
#include "store/engine.h"
#include "store/store.h"

using namespace optrel;
using namespace optrel::siege;
using namespace std::chrono_literals;

namespace {

constexpr int station_count = 6;
constexpr auto lease = 600ms;

struct Plan {
    int seconds = 0;
    unsigned seed = std::random_device()();
    std::size_t events = 1000000;  ///< at most
    std::string engine = "server", plant;
};

class Siege {
public:
    explicit Siege(const Plan& plan) : plan_(plan), chance_(plan.seed), studio_(plan.engine) {}

    std::vector<std::string> run() {
        for (int i = 0; i < station_count; ++i) stations_.push_back(studio_.begin_station(i, chance_()));
        const auto end = std::chrono::steady_clock::now() + std::chrono::seconds(plan_.seconds);
        for (; happened_ < plan_.events && std::chrono::steady_clock::now() < end; ++happened_) event();
        for (const pid_t s : stations_) end_process(s);
        // Nobody may be taken for one who is still at work.
        std::this_thread::sleep_for(lease + 200ms);
        if (!plan_.plant.empty()) plant();
        return faults(studio_.address(), studio_.frames(), studio_.logs());
    }
    std::size_t happened() const { return happened_; }

private:
    void rest(int least_ms, unsigned more_ms) {
        std::this_thread::sleep_for(std::chrono::milliseconds(least_ms + chance_() % more_ms));
    }
    void event() {
        rest(20, 300);
        const unsigned which = chance_() % 16;
        if (which < 5) return replace(chance_() % station_count);
        if (which < 9) return stop(stations_[chance_() % station_count]);
        if (which < 11) return full(studio_.has_server() ? Disk::frames : Disk::server);
        if (!studio_.has_server()) return replace(chance_() % station_count);
        switch (which) {
            case 11: return studio_.let_server_fall();
            case 12: return full(Disk::server);
            case 13: return studio_.cut();
            default:
                studio_.stall();
                rest(100, 2000);
                return studio_.go_on();
        }
    }
    void replace(unsigned station) {
        end_process(stations_[station]);
        stations_[station] = studio_.begin_station(static_cast<int>(station), chance_());
    }
    void stop(pid_t station) {
        ::kill(station, SIGSTOP);
        rest(lease.count() / 2, 1500);
        ::kill(station, SIGCONT);
    }
    void full(Disk disk) {
        studio_.fill(disk);
        rest(50, 1000);
        studio_.free_space();
    }
    void plant() {
        Store store(studio_.address());
        if (plan_.plant == "selection")
            store.engine().direct("DELETE FROM selections");
        else if (plan_.plant == "sidecar")
            std::ofstream(sidecar_path(frame_in(studio_.frames(), 3))) << "half a sid";
        else if (plan_.plant == "effect")
            store.engine().record({"", "nobody", "effect", "0", "work", "", ""});
        else if (plan_.plant == "claim")
            store.engine().direct("DELETE FROM claims");
    }

    const Plan plan_;
    std::mt19937 chance_;
    FaultyStudio studio_;
    std::vector<pid_t> stations_;
    std::size_t happened_ = 0;
};

/// Half of the events again and again, as long as it still fails.
void make_smaller(Plan plan) {
    for (std::size_t events = plan.events / 2; events > 0; events /= 2) {
        Plan less = plan;
        less.events = events;
        if (Siege(less).run().empty()) break;
        plan.events = events;
    }
    fmt::print("The shortest that still fails: optrel-siege {} {} {} --engine {}\n", plan.seconds, plan.seed,
               plan.events, plan.engine);
}

void tell(const std::vector<std::string>& found) {
    for (const std::string& sentence : found) fmt::print("{}\n", sentence);
    std::fflush(stdout);
}

int besiege(Plan plan) {
    fmt::print("Seed {}\n", plan.seed);
    std::fflush(stdout);
    std::vector<std::string> found;
    {
        Siege siege(plan);
        found = siege.run();
        plan.events = siege.happened();
    }
    fmt::print("{} events, {} findings\n", plan.events, found.size());
    tell(found);
    if (!found.empty() && plan.plant.empty()) make_smaller(plan);
    return found.empty() ? 0 : 1;
}

}  // namespace

int main(int argc, char** argv) {
    // A server that falls over is what this is about; the library says it for each statement.
    qInstallMessageHandler([](QtMsgType, const QMessageLogContext&, const QString&) {});
    ::setenv("OPTREL_LEASE_MS", std::to_string(lease.count()).c_str(), 1);
    if (argc == 7 && std::string(argv[1]) == "--station")
        be_a_station(argv[2], argv[3], argv[4], static_cast<unsigned>(std::stoul(argv[5])),
                     std::string(argv[6]) == "approves");
    if (argc == 5 && std::string(argv[1]) == "--check") {
        const std::vector<std::string> found = faults(argv[2], argv[3], argv[4]);
        tell(found);
        return found.empty() ? 0 : 1;
    }
    CLI::App app("A shared studio under a seeded plan of faults");
    Plan plan;
    app.add_option("SECONDS", plan.seconds)->required()->check(CLI::PositiveNumber);
    app.add_option("SEED", plan.seed);
    app.add_option("EVENTS", plan.events);
    app.add_option("--engine", plan.engine)->check(CLI::IsMember({"folder", "server"}));
    app.add_option("--plant", plan.plant)->check(CLI::IsMember({"selection", "sidecar", "effect", "claim"}));
    CLI11_PARSE(app, argc, argv);
    return besiege(plan);
}
