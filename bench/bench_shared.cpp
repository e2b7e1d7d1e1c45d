// SPDX-License-Identifier: GPL-3.0-or-later
// A store on a PostgreSQL server under the load of a studio, on a server of its own with its durable settings:
//
//   optrel-bench-shared [FRAMES] [TIERS]      default: 1000000 2000
//
//   pins      ten stations that edit at once among thirty that are connected: how long an edit takes until it is
//             acknowledged, and until another station has heard of it and read it, beside a bare INSERT and COMMIT
//   indexing  records put by four stations at once, beside the sum of what each puts alone
//   queue     portions taken and ended, beside the time of the work in them
#include <fmt/format.h>
#include <unistd.h>

#include <QCoreApplication>
#include <QObject>
#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <memory>
#include <mutex>
#include <thread>

#include "measures.h"
#include "store/engine.h"
#include "store/store.h"

using namespace optrel;

namespace {

using Clock = std::chrono::steady_clock;

double ms_since(Clock::time_point start) {
    return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

void server(const std::string& what, const std::string& folder) {
    const std::string command = fmt::format("{}/scripts/studio-server {} {} >/dev/null", OPTREL_SOURCE, what, folder);
    if (std::system(command.c_str()) != 0) std::abort();
}

std::vector<FrameRecord> records(int n, const std::string& folder) {
    std::vector<FrameRecord> out(static_cast<std::size_t>(n));
    for (int i = 0; i < n; ++i) {
        FrameRecord& f = out[static_cast<std::size_t>(i)];
        f.path = fmt::format("/shoots/{}/{:04d}/IMG_{:07d}.dng", folder, i / 1000, i);
        Metadata m = f.metadata;
        m.maker = "Brimholt";
        m.model = "Brimholt B2";
        m.body_serial = fmt::format("B2-{:04d}", i % 500);
        m.lens = "Lumenfold 35mm f/2.8";
        m.lens_serial = fmt::format("LF{:03d}", i % 120);
        m.iso = 100 << (i % 7);
        m.width = 6000;
        m.height = 4000;
        m.time = "2026:03:01 09:30:00";
        f.metadata = m;
        f.mark = ContentMark(i * 2654435761u);
        f.size = 25000000 + i;
    }
    return out;
}

void put(Store& store, const std::vector<FrameRecord>& all) {
    constexpr std::size_t portion = 500;
    for (std::size_t at = 0; at < all.size(); at += portion)
        store.frames().put({all.begin() + static_cast<std::ptrdiff_t>(at),
                            all.begin() + static_cast<std::ptrdiff_t>(std::min(all.size(), at + portion))},
                           true);
}

void tell(const char* what, std::vector<double> ms) {
    std::sort(ms.begin(), ms.end());
    fmt::print("{:<44} median {:6.1f} ms, 95 percent {:6.1f} ms, longest {:6.1f} ms\n", what, ms[ms.size() / 2],
               ms[ms.size() * 95 / 100], ms.back());
}

void begin_tiers(const StoreSource& source, int tiers) {
    Store store = source.open_for_writing();
    store.baselines().change_draft([&](Revision& r) {
        for (int i = 0; i < tiers; ++i) {
            Tier t;
            t.id = t.name = t.target = fmt::format("t{:04d}", i);
            t.scope = Scope::body;
            t.pins[Field::exposure] = Pin::constant({0.25, ""});
            r.tiers.push_back(t);
        }
    });
}

/// Ten people at work, each with a pause between two pins.
std::vector<double> pins_of_ten(const StoreSource& source, int tiers) {
    constexpr int editors = 10, edits = 20;
    std::vector<double> acknowledged;
    std::mutex mutex;
    std::vector<std::thread> stations;
    for (int e = 0; e < editors; ++e)
        stations.emplace_back([&, e] {
            Store store = source.open_for_writing();
            Revision base = store.baselines().draft();
            for (int i = 0; i < edits; ++i) {
                std::this_thread::sleep_for(std::chrono::milliseconds(200 + 7 * e));
                Revision next = base;
                next.tiers[static_cast<std::size_t>((e * edits + i) % tiers)].pins[Field::tint] =
                    Pin::constant({static_cast<double>(i), ""});
                const auto start = Clock::now();
                base = store.baselines().edit_draft(base, next).draft;
                std::lock_guard lock(mutex);
                acknowledged.push_back(ms_since(start));
            }
        });
    for (std::thread& t : stations) t.join();
    return acknowledged;
}

std::vector<double> bare_commits(const StoreSource& source) {
    Store store = source.open_for_writing();
    std::vector<double> out;
    for (int i = 0; i < 50; ++i) {
        const auto start = Clock::now();
        Transaction one(store.engine());
        store.engine().stamp("bench");
        one.commit();
        out.push_back(ms_since(start));
    }
    return out;
}

std::vector<double> pins_until_seen(const StoreSource& source) {
    Store store = source.open_for_writing(), other = source.open_for_writing();
    QObject context;
    bool heard = false;
    other.listen(context, [&] { heard = true; });
    std::vector<double> out;
    Revision base = store.baselines().draft();
    for (int i = 0; i < 20; ++i) {
        Revision next = base;
        next.tiers[0].pins[Field::tint] = Pin::constant({100.0 - i, ""});
        const auto start = Clock::now();
        base = store.baselines().edit_draft(base, next).draft;
        while (!heard) QCoreApplication::processEvents(QEventLoop::AllEvents, 1);
        if (other.baselines().draft().tiers.size() != base.tiers.size()) std::abort();
        out.push_back(ms_since(start));
        for (heard = false; QCoreApplication::processEvents(), heard;) heard = false;
    }
    return out;
}

void bench_pins(const StoreSource& source, int tiers) {
    begin_tiers(source, tiers);
    std::vector<std::unique_ptr<Store>> connected;
    for (int i = 0; i < 19; ++i) connected.push_back(std::make_unique<Store>(source.address()));
    tell(fmt::format("a pin among {} tiers, ten at once", tiers).c_str(), pins_of_ten(source, tiers));
    tell("a bare counter and COMMIT, one alone", bare_commits(source));
    tell("a pin until another station has read it", pins_until_seen(source));
}

void bench_indexing(const StoreSource& source) {
    constexpr int each = 10000;
    double alone = 0;
    for (int s = 0; s < 4; ++s) {
        const auto mine = records(each, fmt::format("alone{}", s));
        Store store = source.open_for_writing();
        const auto start = Clock::now();
        put(store, mine);
        alone += each / ms_since(start) * 1000;
    }
    std::vector<std::vector<FrameRecord>> all;
    for (int s = 0; s < 4; ++s) all.push_back(records(each, fmt::format("together{}", s)));
    const auto start = Clock::now();
    std::vector<std::thread> stations;
    for (int s = 0; s < 4; ++s)
        stations.emplace_back([&, s] {
            Store store = source.open_for_writing();
            put(store, all[static_cast<std::size_t>(s)]);
        });
    for (std::thread& t : stations) t.join();
    const double together = 4 * each / ms_since(start) * 1000;
    const double cores = std::thread::hardware_concurrency();
    fmt::print(
        "indexing: {:.0f} records a second by four stations at once, {:.0f} the sum of each alone: {:.2f}; {:.2f} of "
        "what {} cores allow, which the server and all stations share\n",
        together, alone, together / alone, together / (alone * std::min(1.0, cores / 4)), cores);
}

void bench_queue(const StoreSource& source) {
    constexpr int portions = 200, work_ms = 25;
    Store store = source.open_for_writing();
    store.queue().add("bench", "A bench", std::vector<std::string>(portions, "{}"));
    const auto start = Clock::now();
    double work = 0;
    while (const auto p = store.queue().take("bench", {"bench"}, 60)) {
        const auto begun = Clock::now();
        while (ms_since(begun) < work_ms) {
        }
        work += ms_since(begun);
        if (!store.queue().end(*p, PortionState::done, "")) std::abort();
    }
    const double overhead = (ms_since(start) - work) / portions;
    fmt::print(
        "queue: {:.2f} ms for each portion; {:.1f} percent of work that takes 300 ms (a chart frame of 24 "
        "megapixels takes longer), {:.1f} percent of {} ms\n",
        overhead, 100 * overhead / 300, 100 * overhead / work_ms, work_ms);
}

}  // namespace

int main(int argc, char** argv) {
    QCoreApplication app(argc, argv);
    const int frames = argc > 1 ? std::atoi(argv[1]) : 1000000, tiers = argc > 2 ? std::atoi(argv[2]) : 2000;
    const std::string folder = fmt::format("/tmp/optrel-bench-{}", getpid());
    server("start", folder);
    try {
        const StoreSource source(fmt::format("postgresql://keeper@%2Ftmp%2Foptrel-bench-{}/bench", getpid()));
        {
            Store store(source.address(), Access::begin);
            const auto all = records(frames, "large");
            const auto start = Clock::now();
            put(store, all);
            fmt::print("{} frames put in {:.0f} s\n", frames, ms_since(start) / 1000);
            // What a server does by itself in the quiet after so much was put in; it would share the cores with what
            // is measured.
            store.engine().run("VACUUM (ANALYZE)");
            store.engine().run("CHECKPOINT");
        }
        {
            Store store = source.open_for_writing();
            const double before = bench::memory_mb("VmRSS");
            const auto start = Clock::now();
            const std::size_t n = store.frames().all().size();
            fmt::print("{} frames read in {:.1f} s, {:.0f} MB for them\n", n, ms_since(start) / 1000,
                       bench::memory_mb("VmHWM") - before);
        }
        bench_pins(source, tiers);
        bench_indexing(source);
        bench_queue(source);
    } catch (const std::exception& error) {
        fmt::print(stderr, "{}\n", error.what());
    }
    server("stop", folder);
    std::error_code none;
    std::filesystem::remove_all(folder, none);
    return 0;
}
