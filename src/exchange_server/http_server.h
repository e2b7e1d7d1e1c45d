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

namespace optrel {

struct HttpRequest {
    std::string method, path;
    std::vector<std::pair<std::string, std::string>> params;  ///< of the query, decoded
    std::string body;
};

struct HttpAnswer {
    int status = 200;
    std::string type = "application/json";
    std::string body;
};

/// A refusal with its reason.
HttpAnswer http_refusal(int status, const std::string& why);

struct HttpLimits {
    std::chrono::milliseconds header{10000};   ///< from the first wait for a request until its header is there
    std::chrono::milliseconds request{30000};  ///< from there until its body is there; the same again for the answer
    std::size_t header_bytes = 8192;
    std::size_t body_bytes = 8u << 20;
    std::size_t all_bodies = 48u << 20;  ///< bytes of unfinished bodies
    std::size_t connections = 1600, of_one_address = 800;
};

class HttpServer {
public:
    /// `answer` must be thread-safe. When it throws, the client gets status 500.
    using Handler = std::function<HttpAnswer(const HttpRequest&)>;
    explicit HttpServer(Handler answer, HttpLimits limits = {});
    ~HttpServer();
    HttpServer(const HttpServer&) = delete;
    HttpServer& operator=(const HttpServer&) = delete;

    /// Takes the port; 0 for any that is free. Returns it. Throws Error(file) where it cannot be had.
    int bind(const std::string& host, int port);
    /// Answers until stop(), which may be called from any thread.
    void run();
    void stop();

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

}  // namespace optrel
