// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange_server/http_connection.h"

#include <QUrlQuery>
#include <boost/asio/dispatch.hpp>
#include <limits>

namespace optrel {

namespace asio = boost::asio;
namespace beast = boost::beast;
namespace http = boost::beast::http;

namespace {

constexpr std::int64_t not_waiting = std::numeric_limits<std::int64_t>::max();
constexpr std::chrono::seconds for_rest{2};
constexpr std::size_t largest_rest = 16u << 20;

std::int64_t now_ms() {
    return std::chrono::duration_cast<std::chrono::milliseconds>(std::chrono::steady_clock::now().time_since_epoch())
        .count();
}

std::string address_of(const asio::ip::tcp::socket& socket) {
    boost::system::error_code failed;
    const auto end = socket.remote_endpoint(failed);
    return failed ? std::string() : end.address().to_string();
}

HttpRequest plain(http::request<http::string_body>&& request) {
    HttpRequest out;
    out.method = std::string(request.method_string());
    std::string target(request.target());
    out.body = std::move(request.body());
    const std::size_t query = target.find('?');
    out.path = target.substr(0, query);
    if (query == std::string::npos) return out;
    QString words = QString::fromUtf8(target.substr(query + 1));
    words.replace('+', "%20");
    for (const auto& [name, value] : QUrlQuery(words).queryItems(QUrl::FullyDecoded))
        out.params.emplace_back(name.toStdString(), value.toStdString());
    return out;
}

/// The answer to an error that the client caused; empty when it is gone or cannot be answered.
std::optional<HttpAnswer> refusal_for(const beast::error_code& error, const HttpLimits& limits) {
    if (error == http::error::body_limit)
        return http_refusal(
            413, "The request has more than the " + std::to_string(limits.body_bytes >> 20) + " MB that one can have.");
    if (error == http::error::header_limit) return http_refusal(431, "The header of the request is too long.");
    const bool gone = error == http::error::end_of_stream || error == http::error::partial_message;
    if (!gone && error.category() == make_error_code(http::error::bad_method).category())
        return http_refusal(400, "This is no request in HTTP/1.1 that can be understood.");
    return std::nullopt;
}

}  // namespace

void HttpConnections::add(const std::shared_ptr<HttpConnection>& connection) {
    std::unique_lock lock(mutex_);
    connections_.emplace(connection.get(), connection);
    if (++of_address_[connection->address()] > limits_.of_one_address)
        ask_to_give_way(std::move(lock), {connection->address()});
    else if (connections_.size() > limits_.connections)
        ask_to_give_way(std::move(lock), {});
}

void HttpConnections::remove(const HttpConnection* connection) {
    const std::lock_guard lock(mutex_);
    if (connections_.erase(connection) == 0) return;
    const auto it = of_address_.find(connection->address());
    if (it != of_address_.end() && --it->second == 0) of_address_.erase(it);
}

void HttpConnections::hold(std::ptrdiff_t bytes) {
    std::unique_lock lock(mutex_);
    held_ += static_cast<std::size_t>(bytes);
    if (bytes > 0 && held_ > limits_.all_bodies) ask_to_give_way(std::move(lock), {"", true});
}

void HttpConnections::ask_to_give_way(std::unique_lock<std::mutex> lock, const Which& which) {
    // The last reference to a connection may be released here. Its destructor needs the list, so it must not run under
    // the lock.
    std::vector<std::shared_ptr<HttpConnection>> there;
    for (const auto& [key, weak] : connections_)
        if (auto c = weak.lock()) there.push_back(std::move(c));
    lock.unlock();
    HttpConnection* longest = nullptr;
    for (const auto& c : there) {
        if (c->waiting_since() == not_waiting || (which.with_body && c->held() == 0)) continue;
        if (!which.address.empty() && c->address() != which.address) continue;
        if (!longest || c->waiting_since() < longest->waiting_since()) longest = c.get();
    }
    if (longest) longest->give_way();
}

HttpConnection::HttpConnection(asio::ip::tcp::socket&& socket, const HttpHandler& answer, const HttpLimits& limits,
                               HttpConnections& all)
    : stream_(std::move(socket)),
      deadline_(stream_.get_executor()),
      handler_(answer),
      limits_(limits),
      all_(all),
      address_(address_of(stream_.socket())),
      buffer_(limits.header_bytes + (64u << 10)),
      waiting_since_(now_ms()) {}

HttpConnection::~HttpConnection() {
    all_.hold(-static_cast<std::ptrdiff_t>(held_.load()));
    all_.remove(this);
}

void HttpConnection::start() {
    asio::dispatch(stream_.get_executor(), [self = shared_from_this()] { self->wait_for_request(); });
}

void HttpConnection::give_way() {
    asio::post(stream_.get_executor(), [self = shared_from_this()] {
        if (self->waiting_since_ == not_waiting || self->instead_) return;
        self->instead_ = http_refusal(503, "There are too many requests just now; try again in a minute.");
        if (self->sending_) return self->end();
        self->stream_.cancel();
    });
}

/// Sets a deadline for everything that is read or written until the next call. It does not move when bytes arrive.
void HttpConnection::expect_within(std::chrono::milliseconds time, const char* late) {
    deadline_.expires_after(time);
    deadline_.async_wait([self = shared_from_this(), late](const beast::error_code& error) {
        if (error || self->deadline_.expiry() > std::chrono::steady_clock::now()) return;
        if (!late || self->sending_) return self->end();
        self->instead_ = http_refusal(408, late);
        self->stream_.cancel();
    });
}

void HttpConnection::wait_for_request() {
    request_.emplace();
    request_->header_limit(static_cast<std::uint32_t>(limits_.header_bytes));
    request_->body_limit(limits_.body_bytes);
    waiting_since_ = now_ms();
    expect_within(limits_.header, "The request did not come in time.");
    http::async_read_header(
        stream_, buffer_, *request_,
        [self = shared_from_this()](const beast::error_code& error, std::size_t) { self->take_header(error); });
}

void HttpConnection::take_header(const beast::error_code& error) {
    if (error || instead_) return refuse_for(error);
    expect_within(limits_.request, "The request did not come in time.");
    if (!beast::iequals(request_->get()[http::field::expect], "100-continue")) return read_body();
    answer_.emplace(http::status::continue_, request_->get().version());
    http::async_write(stream_, *answer_, [self = shared_from_this()](const beast::error_code& failed, std::size_t) {
        failed ? self->refuse_for(failed) : self->read_body();
    });
}

void HttpConnection::read_body() {
    if (request_->is_done()) return answer();
    http::async_read_some(
        stream_, buffer_, *request_,
        [self = shared_from_this()](const beast::error_code& error, std::size_t) { self->take_body(error); });
}

void HttpConnection::take_body(const beast::error_code& error) {
    if (error || instead_) return refuse_for(error);
    note_held();
    read_body();
}

void HttpConnection::note_held() {
    const std::size_t now = request_ ? request_->get().body().size() : 0;
    const std::size_t before = held_.exchange(now);
    all_.hold(static_cast<std::ptrdiff_t>(now) - static_cast<std::ptrdiff_t>(before));
}

void HttpConnection::answer() {
    waiting_since_ = not_waiting;
    const bool keep = request_->keep_alive();
    HttpAnswer said;
    try {
        said = handler_(plain(request_->release()));
    } catch (...) {
        said = http_refusal(500, "The exchange failed; try again later.");
    }
    request_.reset();
    note_held();
    waiting_since_ = now_ms();
    send(said, !keep);
}

void HttpConnection::send(const HttpAnswer& said, bool last) {
    sending_ = true;
    expect_within(limits_.request, nullptr);
    answer_.emplace(static_cast<http::status>(said.status), 11);
    answer_->set(http::field::content_type, said.type);
    answer_->keep_alive(!last);
    answer_->body() = said.body;
    answer_->prepare_payload();
    http::async_write(stream_, *answer_,
                      [self = shared_from_this(), last](const beast::error_code& error, std::size_t) {
                          self->sending_ = false;
                          self->answer_.reset();
                          if (error || self->instead_) return self->end();
                          last ? self->discard() : self->wait_for_request();
                      });
}

void HttpConnection::refuse_for(const beast::error_code& error) {
    const std::optional<HttpAnswer> said = instead_ ? instead_ : refusal_for(error, limits_);
    request_.reset();
    note_held();
    if (!said) return end();
    instead_.reset();
    send(*said, true);
}

/// Reads and drops for a moment what the client still sends. Closing a socket with unread bytes would discard the
/// answer that the client has not read yet.
void HttpConnection::discard() {
    beast::error_code failed;
    stream_.socket().shutdown(asio::ip::tcp::socket::shutdown_send, failed);
    if (failed) return end();
    expect_within(for_rest, nullptr);
    rest_.resize(16384);
    const auto read = [self = shared_from_this()](const auto& again, std::size_t so_far) -> void {
        self->stream_.async_read_some(asio::buffer(self->rest_),
                                      [self, again, so_far](const beast::error_code& error, std::size_t n) {
                                          if (error || so_far + n > largest_rest) return self->end();
                                          again(again, so_far + n);
                                      });
    };
    read(read, 0);
}

void HttpConnection::end() {
    deadline_.cancel();
    stream_.close();
}

}  // namespace optrel
