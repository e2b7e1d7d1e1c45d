// SPDX-License-Identifier: GPL-3.0-or-later
// The HTTP interface of a profile exchange, as described in docs/exchange.md.
#pragma once

#include "exchange_server/http_server.h"
#include "exchange_server/profile_repository.h"

namespace optrel {

class ExchangeService {
public:
    explicit ExchangeService(ProfileRepository& shelf, const HttpLimits& limits = {});

    /// Like the functions of HttpServer.
    int bind(const std::string& host, int port) { return server_.bind(host, port); }
    void run() { server_.run(); }
    void stop() { server_.stop(); }

private:
    HttpAnswer answer_to(const HttpRequest& request);

    ProfileRepository& shelf_;
    HttpServer server_;
};

}  // namespace optrel
