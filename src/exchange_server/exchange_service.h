// SPDX-License-Identifier: GPL-3.0-or-later
// A profile exchange on the wire (HTTP), as docs/exchange.md describes it.
#pragma once

#include <memory>
#include <string>

#include "exchange_server/profile_shelf.h"

namespace httplib {
class Server;
}

namespace optrel {

class ExchangeService {
public:
    explicit ExchangeService(ProfileShelf& shelf);
    ~ExchangeService();

    /// Takes the port; 0 for any that is free. Returns it. Throws Error(file) where it cannot be had.
    int bind(const std::string& host, int port);
    /// Answers until stop(), which may be called from any thread.
    void run();
    void stop();

private:
    ProfileShelf& shelf_;
    std::unique_ptr<httplib::Server> server_;
};

}  // namespace optrel
