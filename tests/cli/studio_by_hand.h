// SPDX-License-Identifier: GPL-3.0-or-later
// A store of its own with a few frames, worked on by the command line.
#pragma once

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <optional>

#include "base/files.h"
#include "support/store_place.h"
#include "support/support.h"

namespace optrel::test {

class StudioByHand {
public:
    /// `engine`: "folder" or "server".
    explicit StudioByHand(const std::string& engine = "folder") {
        if (engine == "folder")
            address_ = path("s").string();
        else
            address_ = server_.emplace(engine).address();
        fs::create_directories(folder_ / "frames");
        for (const char* name : {"SP0001", "SP0002", "SP0004", "SP0007"}) fs::copy_file(rig_frame(name), frame(name));
        good("store begin");
    }
    fs::path frame(const std::string& name) const { return folder_ / "frames" / (name + ".dng"); }
    fs::path path(const std::string& name) const { return folder_ / name; }
    CommandResult run(const std::string& command, const std::string& arguments = "") const {
        return cli(fmt::format("{} --store '{}' {}", command, address_, arguments));
    }
    std::string good(const std::string& command, const std::string& arguments = "") const {
        const CommandResult r = run(command, arguments);
        INFO(command << " " << arguments << ": " << r.err);
        REQUIRE(r.status == 0);
        return r.out;
    }
    void refused(const std::string& command, const std::string& arguments, int status = 1) const {
        const CommandResult r = run(command, arguments);
        INFO(command << " " << arguments << ": " << r.err);
        CHECK(r.status == status);
        // What it would do may have been told before; the reason is the last line.
        const std::string name = "optrel-cli: ";
        const std::size_t at = r.err.rfind(name);
        REQUIRE(at != std::string::npos);
        CHECK(is_one_sentence(r.err.substr(at + name.size(), r.err.size() - at - name.size() - 1)));
    }

private:
    TemporaryFolder folder_;
    std::optional<StorePlace> server_;
    std::string address_;
};

}  // namespace optrel::test
