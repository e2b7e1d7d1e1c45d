// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-exchange: a small profile exchange for a studio, for tests and for the demo.
#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <csignal>
#include <thread>

#include "base/error.h"
#include "exchange_server/exchange_service.h"

namespace {

void serve(const std::string& data, const std::string& host, int port) {
    using namespace optrel;
    sigset_t ends;
    sigemptyset(&ends);
    sigaddset(&ends, SIGINT);
    sigaddset(&ends, SIGTERM);
    // Before any thread starts, so that all threads leave these signals to the one that waits.
    pthread_sigmask(SIG_BLOCK, &ends, nullptr);
    ProfileRepository shelf(data);
    for (const std::string& problem : shelf.problems()) fmt::print(stderr, "{}\n", problem);
    ExchangeService service(shelf);
    const int taken = service.bind(host, port);
    fmt::print("{} profiles at http://{}:{}; Ctrl-C ends it.\n", shelf.count(), host, taken);
    std::fflush(stdout);
    std::thread waits([&] {
        int got = 0;
        sigwait(&ends, &got);
        service.stop();
    });
    service.run();
    waits.join();
}

}  // namespace

int main(int argc, char** argv) {
    CLI::App app("A profile exchange: what others measured of lenses, over HTTP", "optrel-exchange");
    std::string data, host = "127.0.0.1";
    int port = 8417;
    app.add_option("--data", data, "Folder that it keeps its profiles in")->required();
    app.add_option("--port", port, "Port to listen on; 0 for any that is free")
        ->capture_default_str()
        ->check(CLI::Range(0, 65535));
    app.add_option("--host", host, "Address to listen on; this computer alone unless another is named")
        ->capture_default_str();
    app.set_version_flag("--version", "optrel-exchange " OPTREL_VERSION);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        const int code = app.exit(error);
        return code == 0 ? 0 : 2;
    }
    try {
        serve(data, host, port);
        return 0;
    } catch (const std::exception& error) {
        fmt::print(stderr, "{}\n", error.what());
        return 1;
    }
}
