// SPDX-License-Identifier: GPL-3.0-or-later
// The siege for a few seconds, its checker with faults that were planted, and what people are told on a full disk.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <fstream>

#include "support/own_server.h"
#include "support/run_program.h"
#include "support/support.h"

using namespace optrel::test;
namespace fs = std::filesystem;

namespace {

/// Status, and both outputs together.
struct Ended {
    int status;
    std::string said;
};

Ended run(const std::string& program, const std::string& arguments) {
    const CommandResult result = run_program(program, arguments);
    return {result.status, result.out + result.err};
}

bool contains(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

}  // namespace

TEST_CASE("a short siege ends without a finding", "[siege][server]") {
    const std::string engine = GENERATE("folder", "server");
    const Ended siege = run(OPTREL_SIEGE, "60 11 12 --engine " + engine);
    INFO(siege.said);
    CHECK(siege.status == 0);
    CHECK(contains(siege.said, "12 events, 0 findings"));
    for (const char* kind : {" pin", " rollout", " claim", " selection"}) CHECK(contains(siege.said, kind));
}

TEST_CASE("the siege's checker finds what was planted", "[siege]") {
    const auto [fault, sentence] =
        GENERATE(table<std::string, std::string>({{"selection", "was acknowledged and is not there"},
                                                  {"sidecar", "The sidecar of frame 3 is nobody's"},
                                                  {"effect", "Portion 0 had its effect"},
                                                  {"claim", "was acknowledged and is not there"}}));
    const Ended siege = run(OPTREL_SIEGE, "60 5 4 --engine folder --plant " + fault);
    INFO(siege.said);
    CHECK(siege.status == 1);
    CHECK(contains(siege.said, sentence));
}

TEST_CASE("a full disk is told as one, with where, on both engines", "[siege][server]") {
    const bool on_server = GENERATE(false, true);
    const TemporaryFolder folder;
    // The server runs as somebody else, who may not look into the build.
    const fs::path shim = on_server ? fs::path(fmt::format("/tmp/optrel-full-{}.so", ::getpid())) : OPTREL_FULL_DISK;
    if (on_server) fs::copy_file(OPTREL_FULL_DISK, shim, fs::copy_options::overwrite_existing);
    std::unique_ptr<OwnServer> server;
    const fs::path disk =
        on_server ? fs::path(fmt::format("/tmp/optrel-fulldisk-{}/data", ::getpid())) : folder / "store";
    const std::string preload = fmt::format("LD_PRELOAD={} FULL_DISK={}", shim.string(), disk.string());
    if (on_server) server = std::make_unique<OwnServer>("fulldisk", preload);
    const std::string address = on_server ? server->address() : (folder / "store").string();
    const auto told = [&](const std::string& what) {
        return run(fmt::format("env {} {}", on_server ? "" : preload, OPTREL_CLI),
                   fmt::format("{} --store '{}'", what, address));
    };
    {
        const Ended begun = told("store begin");
        INFO(begun.said);
        REQUIRE(begun.status == 0);
    }
    std::ofstream rows(folder / "bodies.csv");
    rows << "maker,model,serial_number\n";
    for (int i = 0; i < 3000; ++i) rows << "Brimholt,B2," << i << "\n";
    rows.close();
    std::ofstream(disk.string() + ".full") << "full";
    const std::string import = fmt::format("store fleet import '{}' --yes", (folder / "bodies.csv").string());
    const Ended refused = told(import);
    INFO(refused.said);
    CHECK(refused.status != 0);
    CHECK(contains(refused.said, "is full; "));
    CHECK(contains(refused.said, on_server ? "The disk of the server of the store" : (folder / "store").string()));
    fs::remove(disk.string() + ".full");
    if (server) server->be_there();
    const Ended taken = told(import);
    INFO(taken.said);
    CHECK(taken.status == 0);
    server.reset();
    if (on_server) fs::remove(shim);
}
