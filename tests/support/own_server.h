// SPDX-License-Identifier: GPL-3.0-or-later
// A PostgreSQL server for one test, which may fall over without disturbing the others.
#pragma once

#include <fmt/format.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <stdexcept>
#include <string>

namespace optrel::test {

class OwnServer {
public:
    /// `name`: of its folder below /tmp, and of the database in its address. `environment`: of the server, as
    /// env(1) takes it.
    explicit OwnServer(const std::string& name, std::string environment = "")
        : environment_(std::move(environment)),
          folder_(fmt::format("/tmp/optrel-{}-{}", name, ::getpid())),
          address_(fmt::format("postgresql://keeper@%2Ftmp%2F{}/{}", folder_.filename().string(), name)) {
        run("start");
    }
    ~OwnServer() {
        run("stop");
        std::error_code none;
        std::filesystem::remove_all(folder_, none);
    }
    /// As a power cut would end it; it is started again.
    void fall_over() {
        run("crash");
        run("start");
    }
    /// Starts it where it ended by itself.
    void be_there() { run("start"); }
    const std::filesystem::path& folder() const { return folder_; }
    const std::string& address() const { return address_; }

private:
    void run(const char* what) const {
        const std::string command = fmt::format("env {} {}/scripts/studio-server {} {} >/dev/null", environment_,
                                                OPTREL_SOURCE, what, folder_.string());
        if (std::system(command.c_str()) != 0) throw std::runtime_error("It did not work: " + command);
    }
    const std::string environment_;
    const std::filesystem::path folder_;
    const std::string address_;
};

}  // namespace optrel::test
