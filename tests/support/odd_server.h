// SPDX-License-Identifier: GPL-3.0-or-later
// A server that answers as a test likes.
#pragma once

#include <arpa/inet.h>
#include <sys/socket.h>
#include <unistd.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <functional>
#include <string>
#include <thread>

namespace optrel::test {

/// Something else than an exchange: it answers every request with what it is given, and then as it likes.
class OddServer {
public:
    explicit OddServer(std::function<void(int socket, const std::string& path)> talk) : talk_(std::move(talk)) {
        listener_ = ::socket(AF_INET, SOCK_STREAM, 0);
        sockaddr_in at{};
        at.sin_family = AF_INET;
        at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        REQUIRE(::bind(listener_, reinterpret_cast<sockaddr*>(&at), sizeof at) == 0);
        REQUIRE(::listen(listener_, 8) == 0);
        socklen_t size = sizeof at;
        ::getsockname(listener_, reinterpret_cast<sockaddr*>(&at), &size);
        port_ = ntohs(at.sin_port);
        thread_ = std::thread([this] { serve(); });
    }
    ~OddServer() {
        ended_ = true;
        ::shutdown(listener_, SHUT_RDWR);
        ::close(listener_);
        thread_.join();
    }
    std::string address() const { return "http://127.0.0.1:" + std::to_string(port_); }
    int requests() const { return requests_; }
    bool ended() const { return ended_; }
    static bool say(int socket, const std::string& bytes) {
        return ::send(socket, bytes.data(), bytes.size(), MSG_NOSIGNAL) == static_cast<ssize_t>(bytes.size());
    }
    static void answer(int socket, const std::string& body, const char* status = "200 OK") {
        say(socket, std::string("HTTP/1.1 ") + status +
                        "\r\nConnection: close\r\nContent-Length: " + std::to_string(body.size()) + "\r\n\r\n" + body);
    }

private:
    void serve() {
        while (!ended_) {
            const int socket = ::accept(listener_, nullptr, nullptr);
            if (socket < 0) return;
            char buffer[4096];
            const ssize_t n = ::recv(socket, buffer, sizeof buffer, 0);
            const std::string asked(buffer, n > 0 ? static_cast<std::size_t>(n) : 0);
            ++requests_;
            talk_(socket, asked.substr(asked.find(' ') + 1, asked.find(" HTTP") - asked.find(' ') - 1));
            ::shutdown(socket, SHUT_WR);
            ::close(socket);
        }
    }
    std::function<void(int, const std::string&)> talk_;
    int listener_ = -1, port_ = 0;
    std::atomic<int> requests_{0};
    std::atomic<bool> ended_{false};
    std::thread thread_;
};

}  // namespace optrel::test
