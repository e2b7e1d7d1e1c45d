// SPDX-License-Identifier: GPL-3.0-or-later
// A small HTTP/1.1 server on Boost.Beast that slow, large and many clients cannot keep from answering others.
//
// A client does not cost a thread but a few kilobytes while it is waited for. Each request has a total time, however
// evenly it drips; each body and each header a size, also where the client does not say it beforehand. Where one
// address, or all of them, hold more connections than they may, or more bytes of unfinished bodies, whoever has been
// waited for longest gives way, so that the next client is always heard. Every refusal has a JSON body {"why": "one
// sentence"}.
#pragma once

#include <chrono>
#include <functional>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "exchange_server/http_message.h"

namespace optrel {

class HttpServer {
public:
    explicit HttpServer(HttpHandler answer, HttpLimits limits = {});
    ~HttpServer();
    HttpServer(const HttpServer&) = delete;
    HttpServer& operator=(const HttpServer&) = delete;

    /// Binds to a port; 0: any free one. Returns the port. Throws Error(file) when it is not available.
    int bind(const std::string& host, int port);
    /// Serves until stop(), which may be called from any thread.
    void run();
    void stop();

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

}  // namespace optrel
