// SPDX-License-Identifier: GPL-3.0-or-later
// One connection of a client, and the list of all connections, which closes the one that is idle longest.
#pragma once

#include <atomic>
#include <boost/asio/steady_timer.hpp>
#include <boost/beast/core.hpp>
#include <boost/beast/http.hpp>
#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <optional>

#include "exchange_server/http_message.h"

namespace optrel {

class HttpConnection;

/// All open connections. Its functions may be called by any thread.
class HttpConnections {
public:
    explicit HttpConnections(const HttpLimits& limits) : limits_(limits) {}

    void add(const std::shared_ptr<HttpConnection>& connection);
    void remove(const HttpConnection* connection);
    /// Counts bytes of bodies in memory, positive or negative.
    void hold(std::ptrdiff_t bytes);

private:
    using Connections = std::map<const HttpConnection*, std::weak_ptr<HttpConnection>>;
    /// Selects connections: those of one address or (empty) all, optionally only those with a body.
    struct Which {
        std::string address;
        bool with_body = false;
    };
    /// Asks the selected connection that has been waited for longest to close.
    void ask_to_give_way(std::unique_lock<std::mutex> lock, const Which& which);

    const HttpLimits limits_;
    mutable std::mutex mutex_;
    Connections connections_;
    std::map<std::string, std::size_t> of_address_;
    std::size_t held_ = 0;
};

class HttpConnection : public std::enable_shared_from_this<HttpConnection> {
public:
    HttpConnection(boost::asio::ip::tcp::socket&& socket, const HttpHandler& answer, const HttpLimits& limits,
                   HttpConnections& all);
    ~HttpConnection();

    void start();
    /// Closes the connection, unless its answer is being computed. May be called by any thread.
    void give_way();

    const std::string& address() const { return address_; }
    /// Milliseconds of a steady clock; the maximum while its answer is computed.
    std::int64_t waiting_since() const { return waiting_since_; }
    std::size_t held() const { return held_; }

private:
    using Request = boost::beast::http::request_parser<boost::beast::http::string_body>;
    using Answer = boost::beast::http::response<boost::beast::http::string_body>;

    void wait_for_request();
    void take_header(const boost::beast::error_code& error);
    void read_body();
    void take_body(const boost::beast::error_code& error);
    void answer();
    void send(const HttpAnswer& answer, bool last);
    void refuse_for(const boost::beast::error_code& error);
    void discard();
    void end();
    void expect_within(std::chrono::milliseconds time, const char* late);
    void note_held();

    boost::beast::tcp_stream stream_;
    boost::asio::steady_timer deadline_;
    const HttpHandler& handler_;
    const HttpLimits& limits_;
    HttpConnections& all_;
    const std::string address_;
    boost::beast::flat_buffer buffer_;
    std::optional<Request> request_;
    std::optional<Answer> answer_;
    std::optional<HttpAnswer> instead_;  ///< replaces the answer after a timeout
    std::string rest_;
    std::atomic<std::int64_t> waiting_since_{0};
    std::atomic<std::size_t> held_{0};
    bool sending_ = false;
};

}  // namespace optrel
