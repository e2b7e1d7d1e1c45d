// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange_server/http_server.h"

#include <fmt/format.h>
#include <sys/resource.h>

#include <algorithm>
#include <boost/asio/io_context.hpp>
#include <boost/asio/ip/tcp.hpp>
#include <boost/asio/strand.hpp>
#include <nlohmann/json.hpp>
#include <thread>

#include "base/error.h"
#include "base/words.h"
#include "exchange_server/http_connection.h"

namespace optrel {

namespace asio = boost::asio;
using asio::ip::tcp;

namespace {

constexpr int threads = 4;

/// Raises the limit of open files to the number of connections; when the system allows fewer, lowers the limits.
HttpLimits with_room(HttpLimits limits) {
    constexpr rlim_t for_the_rest = 64;
    rlimit files{};
    if (::getrlimit(RLIMIT_NOFILE, &files) != 0) return limits;
    const rlim_t wanted = limits.connections + for_the_rest;
    if (files.rlim_cur < wanted) {
        files.rlim_cur = std::min(files.rlim_max, wanted);
        ::setrlimit(RLIMIT_NOFILE, &files);
        ::getrlimit(RLIMIT_NOFILE, &files);
    }
    if (files.rlim_cur < wanted) {
        limits.connections = std::max<rlim_t>(files.rlim_cur, 2 * for_the_rest) - for_the_rest;
        limits.of_one_address = std::min(limits.of_one_address, limits.connections / 2);
    }
    return limits;
}

}  // namespace

struct HttpServer::Parts {
    HttpHandler handler;
    HttpLimits limits;
    // Declared before the context, because remaining connections use it until they end.
    HttpConnections connections;
    asio::io_context context{threads};
    tcp::acceptor acceptor{context};
    asio::steady_timer pause{context};

    Parts(HttpHandler answer, const HttpLimits& wanted)
        : handler(std::move(answer)), limits(with_room(wanted)), connections(limits) {}

    void accept() {
        acceptor.async_accept(
            asio::make_strand(context), [this](const boost::system::error_code& error, tcp::socket s) {
                if (!acceptor.is_open()) return;
                if (error) {
                    // For example no file descriptor is free; some will be soon.
                    pause.expires_after(std::chrono::milliseconds(50));
                    return pause.async_wait([this](const boost::system::error_code&) { accept(); });
                }
                const auto connection = std::make_shared<HttpConnection>(std::move(s), handler, limits, connections);
                connections.add(connection);
                connection->start();
                accept();
            });
    }
};

HttpServer::HttpServer(HttpHandler answer, HttpLimits limits)
    : parts_(std::make_unique<Parts>(std::move(answer), limits)) {}

HttpServer::~HttpServer() = default;

int HttpServer::bind(const std::string& host, int port) {
    try {
        const auto found = tcp::resolver(parts_->context).resolve(host, std::to_string(port));
        const tcp::endpoint end = found.begin()->endpoint();
        parts_->acceptor.open(end.protocol());
        parts_->acceptor.set_option(tcp::acceptor::reuse_address(true));
        parts_->acceptor.bind(end);
        parts_->acceptor.listen(1024);
        return parts_->acceptor.local_endpoint().port();
    } catch (const boost::system::system_error&) {
        throw file_error(fmt::format("The port {} of {} cannot be had; another program may have it: name another one.",
                                     port, printable(host)));
    }
}

void HttpServer::run() {
    parts_->accept();
    std::vector<std::thread> others;
    for (int i = 1; i < threads; ++i) others.emplace_back([this] { parts_->context.run(); });
    parts_->context.run();
    for (std::thread& t : others) t.join();
}

void HttpServer::stop() { parts_->context.stop(); }

}  // namespace optrel
