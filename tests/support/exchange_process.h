// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-exchange as a program of its own, and what memory it takes.
#pragma once

#include <fmt/format.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <cstdio>
#include <fstream>
#include <string>

#include "support/support.h"

namespace optrel::test {

class ExchangeProcess {
public:
    ExchangeProcess() {
        int ends[2];
        REQUIRE(::pipe(ends) == 0);
        child_ = ::fork();
        REQUIRE(child_ >= 0);
        if (child_ == 0) {
            ::dup2(ends[1], 1);
            ::close(ends[0]);
            ::execl(OPTREL_EXCHANGE, OPTREL_EXCHANGE, "--port", "0", "--data", (folder_ / "ex").c_str(), nullptr);
            ::_exit(127);
        }
        ::close(ends[1]);
        std::FILE* said = ::fdopen(ends[0], "r");
        int profiles = 0;
        REQUIRE(std::fscanf(said, "%d profiles at http://127.0.0.1:%d;", &profiles, &port_) == 2);
        std::fclose(said);
    }
    ~ExchangeProcess() {
        ::kill(child_, SIGTERM);
        ::waitpid(child_, nullptr, 0);
    }
    int port() const { return port_; }
    std::string address() const { return "http://127.0.0.1:" + std::to_string(port_); }
    bool runs() const { return ::waitpid(child_, nullptr, WNOHANG) == 0; }
    /// The most that it took so far.
    double peak_mb() const {
        std::ifstream status(fmt::format("/proc/{}/status", child_));
        for (std::string word; status >> word;)
            if (word == "VmHWM:") {
                double kb = 0;
                status >> kb;
                return kb / 1024;
            }
        return 0;
    }

private:
    TemporaryFolder folder_;
    pid_t child_ = -1;
    int port_ = 0;
};

}  // namespace optrel::test
