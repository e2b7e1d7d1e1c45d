// SPDX-License-Identifier: GPL-3.0-or-later
// A studio whose server falls over, whose connections stall and are cut, and whose disks are full, when asked to.
#pragma once

#include <sys/types.h>

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "support/own_server.h"
#include "support/support.h"

namespace optrel::siege {

/// What a fault of the disk is about.
enum class Disk { server, frames };

class FaultyStudio {
public:
    /// `engine`: "folder" or "server".
    explicit FaultyStudio(const std::string& engine);
    ~FaultyStudio();
    FaultyStudio(const FaultyStudio&) = delete;
    FaultyStudio& operator=(const FaultyStudio&) = delete;

    bool has_server() const { return server_ != nullptr; }
    std::filesystem::path frames() const { return folder_ / "frames"; }
    std::filesystem::path logs() const { return folder_ / "logs"; }
    /// By its own socket, as who keeps the studio.
    std::string address() const;
    /// As a station reaches it: by the proxy, as a person with a role.
    std::string address_of_station(int number) const;
    static bool approves(int station) { return station % 3 == 2; }

    /// Begins station `number` with this program's own executable.
    pid_t begin_station(int number, unsigned seed);
    void let_server_fall();
    /// The proxy passes nothing on until it is let go on.
    void stall();
    void go_on();
    /// All connections by the proxy end.
    void cut();
    void fill(Disk disk) const;
    /// It has space again; a server that ended meanwhile is started.
    void free_space();

private:
    void begin_proxy();
    void end_proxy();
    std::filesystem::path disk(Disk of) const;

    test::TemporaryFolder folder_;
    std::unique_ptr<test::OwnServer> server_;
    std::string proxy_folder_;
    pid_t proxy_ = 0;
    int begun_ = 0;
};

/// This process ends, and its children with it.
void end_process(pid_t process);

}  // namespace optrel::siege
