// SPDX-License-Identifier: GPL-3.0-or-later
// Clients of an exchange that are slow, many, large or no clients at all.
#include <arpa/inet.h>
#include <sys/socket.h>
#include <unistd.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <thread>

#include "exchange_server/http_server.h"
#include "sharing/exchange_client.h"
#include "support/exchange_process.h"
#include "support/running_exchange.h"

using namespace optrel;
using namespace optrel::test;
using namespace std::chrono_literals;

namespace {

/// A connection that says what a test likes, byte by byte.
class Wire {
public:
    explicit Wire(int port) {
        socket_ = ::socket(AF_INET, SOCK_STREAM, 0);
        sockaddr_in at{};
        at.sin_family = AF_INET;
        at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        at.sin_port = htons(static_cast<std::uint16_t>(port));
        REQUIRE(::connect(socket_, reinterpret_cast<sockaddr*>(&at), sizeof at) == 0);
        const timeval patience{30, 0};
        ::setsockopt(socket_, SOL_SOCKET, SO_RCVTIMEO, &patience, sizeof patience);
        ::setsockopt(socket_, SOL_SOCKET, SO_SNDTIMEO, &patience, sizeof patience);
    }
    ~Wire() { ::close(socket_); }
    Wire(const Wire&) = delete;
    Wire& operator=(const Wire&) = delete;

    bool say(const std::string& bytes) const {
        return ::send(socket_, bytes.data(), bytes.size(), MSG_NOSIGNAL) == static_cast<ssize_t>(bytes.size());
    }
    /// All that is answered until the other side ends.
    std::string heard() const {
        std::string out;
        char piece[4096];
        for (ssize_t n = 0; (n = ::recv(socket_, piece, sizeof piece, 0)) > 0;) out.append(piece, n);
        return out;
    }

private:
    int socket_;
};

/// The status of an answer, and the reason in it.
std::pair<int, std::string> refusal_in(const std::string& answer) {
    INFO(answer);
    const std::size_t body = answer.find("\r\n\r\n");
    REQUIRE(answer.compare(0, 9, "HTTP/1.1 ") == 0);
    REQUIRE(body != std::string::npos);
    return {std::stoi(answer.substr(9, 3)), nlohmann::json::parse(answer.substr(body)).at("why").get<std::string>()};
}

/// A server of its own limits that repeats what it is asked.
class Repeating {
public:
    explicit Repeating(const HttpLimits& limits)
        : server_(
              [](const HttpRequest& r) {
                  return HttpAnswer{200, "text/plain", r.method + r.path + r.body};
              },
              limits),
          port_(server_.bind("127.0.0.1", 0)),
          thread_([this] { server_.run(); }) {}
    ~Repeating() {
        server_.stop();
        thread_.join();
    }
    int port() const { return port_; }
    bool answers() const {
        const Wire wire(port_);
        wire.say("GET /x HTTP/1.1\r\nConnection: close\r\n\r\n");
        return wire.heard().find("GET/x") != std::string::npos;
    }

private:
    HttpServer server_;
    int port_;
    std::thread thread_;
};

HttpLimits short_limits() {
    HttpLimits limits;
    limits.header = limits.request = 800ms;
    return limits;
}

/// Many bad clients at once: idle ones, ones that drip a header, a body, a chunked body, and ones that never read.
class BadClients {
public:
    BadClients(int port, int count) {
        const std::string starts[] = {"", "GET /v1 HT", "POST /v1/profiles HTTP/1.1\r\nContent-Length: 8000000\r\n\r\n",
                                      "POST /v1/profiles HTTP/1.1\r\nTransfer-Encoding: chunked\r\n\r\n",
                                      "GET /v1/profiles HTTP/1.1\r\n\r\n"};
        for (int i = 0; i < count; ++i) {
            wires_.push_back(std::make_unique<Wire>(port));
            wires_.back()->say(starts[i % 5]);
        }
        drips_ = std::thread([this] {
            const std::string drops[] = {"", "x", "x", "1\r\nx\r\n", ""};
            while (!ended_) {
                for (std::size_t i = 0; i < wires_.size(); ++i) wires_[i]->say(drops[i % 5]);
                std::this_thread::sleep_for(50ms);
            }
        });
    }
    ~BadClients() {
        ended_ = true;
        drips_.join();
    }

private:
    std::vector<std::unique_ptr<Wire>> wires_;
    std::atomic<bool> ended_{false};
    std::thread drips_;
};

}  // namespace

TEST_CASE("a good client is answered beside five hundred that are slow", "[sharing]") {
    ExchangeProcess exchange;
    const BadClients bad(exchange.port(), 500);
    const SigningKey key = SigningKey::make();
    Profile lens = measured_lens("1");
    for (int i = 0; i < 20; ++i) {
        const ExchangeClient good(exchange.address(), {5, 1u << 20, 3});
        lens.lens_serial = std::to_string(i);
        good.publish(offer_of(lens, "", key).bundle, Progress());
        CHECK(good.search({}, Progress()).total == i + 1);
    }
    CHECK(exchange.runs());
    CHECK(exchange.peak_mb() < 256);
}

TEST_CASE("a body without end is refused once it is too large, and takes no more memory", "[sharing]") {
    ExchangeProcess exchange;
    std::vector<std::thread> clients;
    std::vector<std::string> heard(12);
    for (std::string& answer : heard)
        clients.emplace_back([&] {
            const Wire wire(exchange.port());
            wire.say("POST /v1/profiles HTTP/1.1\r\nTransfer-Encoding: chunked\r\n\r\n");
            const std::string chunk = "100000\r\n" + std::string(1u << 20, 'x') + "\r\n";
            for (int n = 0; n < 64 && wire.say(chunk); ++n) {
            }
            answer = wire.heard();
        });
    for (std::thread& t : clients) t.join();
    for (const std::string& answer : heard) {
        const auto [status, why] = refusal_in(answer);
        CHECK((status == 413 || status == 503));
        CHECK(is_one_sentence(why));
    }
    CHECK(exchange.runs());
    CHECK(exchange.peak_mb() < 256);
}

TEST_CASE("every refusal of an exchange says why", "[sharing]") {
    RunningExchange exchange;
    const int port = std::stoi(exchange.address().substr(exchange.address().rfind(':') + 1));
    const auto refused = [&](const std::string& said) {
        const Wire wire(port);
        wire.say(said);
        const auto [status, why] = refusal_in(wire.heard());
        CHECK(is_one_sentence(why));
        return status;
    };
    const std::string end = " HTTP/1.1\r\nConnection: close\r\n\r\n";
    CHECK(refused("GET /" + end) == 404);
    CHECK(refused("GET /v1/profiles/abc" + end) == 404);
    CHECK(refused("GET /v1/profiles/" + std::string(64, 'a') + end) == 404);
    CHECK(refused("DELETE /v1/profiles" + end) == 405);
    CHECK(refused("POST /v1" + end) == 405);
    CHECK(refused("GET /v1/profiles?lenz=x" + end) == 400);
    CHECK(refused("GET /v1/profiles?focal_mm=-3" + end) == 400);
    CHECK(refused("POST /v1/profiles" + end) == 400);
    CHECK(refused("POST /v1/withdrawals" + end) == 400);
    CHECK(refused("nonsense\r\n\r\n") == 400);
    CHECK(refused("GET /v1 HTTP/9.7\r\n\r\n") == 400);
    CHECK(refused("POST /v1/profiles HTTP/1.1\r\nTransfer-Encoding: chunked\r\n\r\nzz\r\n") == 400);
    CHECK(refused("GET /v1 HTTP/1.1\r\nX: " + std::string(20000, 'x') + "\r\n\r\n") == 431);
    CHECK(refused("POST /v1/profiles HTTP/1.1\r\nContent-Length: 99999999999\r\n\r\n") == 413);
}

TEST_CASE("a request has a total time, however evenly it drips", "[sharing]") {
    const Repeating server(short_limits());
    for (const std::string begin : {"GET /x HTTP/1.1\r\nX: ", "POST /x HTTP/1.1\r\nContent-Length: 1000000\r\n\r\n"}) {
        const Wire wire(server.port());
        wire.say(begin);
        std::atomic<bool> ended{false};
        std::thread drips([&] {
            while (!ended && wire.say("x")) std::this_thread::sleep_for(5ms);
        });
        const auto [status, why] = refusal_in(wire.heard());
        ended = true;
        drips.join();
        CHECK(status == 408);
        CHECK(is_one_sentence(why));
    }
    CHECK(server.answers());
}

TEST_CASE("where too many wait, whoever waited longest gives way", "[sharing]") {
    HttpLimits limits;
    limits.of_one_address = 8;
    const Repeating server(limits);
    std::vector<std::unique_ptr<Wire>> idle;
    for (int i = 0; i < 8; ++i) {
        idle.push_back(std::make_unique<Wire>(server.port()));
        std::this_thread::sleep_for(30ms);  // each is older than the next
    }
    CHECK(server.answers());
    const auto [status, why] = refusal_in(idle[0]->heard());
    CHECK(status == 503);
    CHECK(is_one_sentence(why));
    idle[7]->say("GET /y HTTP/1.1\r\nConnection: close\r\n\r\n");
    CHECK(idle[7]->heard().find("GET/y") != std::string::npos);

    // The same where unfinished bodies are too many together.
    HttpLimits small;
    small.all_bodies = 3u << 20;
    const Repeating other(small);
    std::vector<std::unique_ptr<Wire>> full;
    for (int i = 0; i < 3; ++i) {
        full.push_back(std::make_unique<Wire>(other.port()));
        full.back()->say("POST /x HTTP/1.1\r\nContent-Length: 2000000\r\n\r\n" + std::string(1500000, 'x'));
        std::this_thread::sleep_for(60ms);
    }
    CHECK(refusal_in(full[0]->heard()).first == 503);
    CHECK(other.answers());
}

TEST_CASE("a server keeps a connection, and takes a body that is asked for first", "[sharing]") {
    const Repeating server(HttpLimits{});
    const Wire wire(server.port());
    wire.say("GET /a HTTP/1.1\r\n\r\nPOST /b HTTP/1.1\r\nContent-Length: 3\r\n\r\nxyz");
    wire.say("POST /c HTTP/1.1\r\nContent-Length: 2\r\nExpect: 100-continue\r\nConnection: close\r\n\r\n");
    wire.say("uv");
    const std::string heard = wire.heard();
    INFO(heard);
    CHECK(heard.find("GET/a") != std::string::npos);
    CHECK(heard.find("POST/bxyz") != std::string::npos);
    CHECK(heard.find("100 Continue") != std::string::npos);
    CHECK(heard.find("POST/cuv") != std::string::npos);
}
