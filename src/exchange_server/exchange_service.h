// SPDX-License-Identifier: GPL-3.0-or-later
// A profile exchange on the wire (HTTP), as docs/exchange.md describes it.
#pragma once

#include "exchange_server/http_server.h"
#include "exchange_server/profile_repository.h"

namespace optrel {

class ExchangeService {
public:
    explicit ExchangeService(ProfileRepository& shelf, const HttpLimits& limits = {});

    /// As those of HttpServer.
    int bind(const std::string& host, int port) { return server_.bind(host, port); }
    void run() { server_.run(); }
    void stop() { server_.stop(); }

private:
    HttpAnswer answer_to(const HttpRequest& request);

    ProfileRepository& shelf_;
    HttpServer server_;
};

}  // namespace optrel
