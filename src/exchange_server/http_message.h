// SPDX-License-Identifier: GPL-3.0-or-later
// Requests, answers and limits of the HTTP server.
#pragma once

#include <chrono>
#include <cstddef>
#include <functional>
#include <string>
#include <utility>
#include <vector>

namespace optrel {

struct HttpRequest {
    std::string method, path;
    std::vector<std::pair<std::string, std::string>> params;  ///< parameters of the query, decoded
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
    std::chrono::milliseconds header{10000};  ///< from the start of waiting until the header is complete
    std::chrono::milliseconds request{
        30000};  ///< from then until the body is complete; the same time again for the answer
    std::size_t header_bytes = 8192;
    std::size_t body_bytes = 8u << 20;
    std::size_t all_bodies = 48u << 20;  ///< bytes of incomplete bodies
    std::size_t connections = 1600, of_one_address = 800;
};

/// Answers a request. It must be thread-safe; when it throws, the client gets status 500.
using HttpHandler = std::function<HttpAnswer(const HttpRequest&)>;

}  // namespace optrel
