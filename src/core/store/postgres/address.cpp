// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/postgres/address.h"

#include <fmt/format.h>

#include <QUrl>
#include <QUrlQuery>
#include <algorithm>
#include <vector>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel::postgres {
namespace {

constexpr const char* form = "write it as postgresql://USER@HOST/NAME";

/// Allowed options after the question mark.
const std::vector<std::string> known_options{"sslmode", "sslrootcert", "sslcert",         "sslkey",
                                             "service", "passfile",    "connect_timeout", "gssencmode"};

bool plain(const std::string& value) {
    return std::none_of(value.begin(), value.end(),
                        [](unsigned char c) { return c <= ' ' || c == '\'' || c == '\\' || c == ';'; });
}

std::string option_from(const std::pair<QString, QString>& item, const std::string& address) {
    const std::string key = item.first.toStdString(), value = item.second.toStdString();
    if (key == "password")
        throw input_error(
            "The address of a store names a password, which others could read; take it out, and keep it in the file "
            ".pgpass of your home folder or in a service file.");
    if (std::find(known_options.begin(), known_options.end(), key) == known_options.end())
        throw input_error(fmt::format("The address {} has the option '{}', which is not known{}.", printable(address),
                                      printable(key), nearest_clause(key, known_options)));
    if (value.empty() || !plain(value))
        throw input_error(
            fmt::format("The option {} of the address {} is empty, or has blanks or quotes in it; "
                        "correct it.",
                        key, printable(address)));
    return key + "=" + value;
}

/// Splits a text at the first occurrence of a character.
std::pair<std::string, std::string> cut(const std::string& s, char sign) {
    const std::size_t at = s.find(sign);
    return at == std::string::npos ? std::pair{s, std::string()} : std::pair{s.substr(0, at), s.substr(at + 1)};
}

std::string decoded(const std::string& s) {
    return QUrl::fromPercentEncoding(QByteArray::fromStdString(s)).toStdString();
}

int port_from(const std::string& s, const std::string& address) {
    const auto port = parse_integer(s);
    if (!port || *port < 1 || *port > 65535)
        throw input_error(fmt::format("The port '{}' in the address {} is no number from 1 to 65535; correct it.",
                                      printable(s), printable(address)));
    return static_cast<int>(*port);
}

}  // namespace

std::string Address::shown() const {
    return fmt::format("postgresql://{}{}{}{}/{}", user, user.empty() ? "" : "@", host,
                       port > 0 ? fmt::format(":{}", port) : "", name);
}

bool is_address(const std::string& text) {
    const std::string low = lowered(text);
    return low.starts_with("postgresql:") || low.starts_with("postgres:");
}

Address parse_address(const std::string& text) {
    // QUrl cannot parse a socket folder as host.
    const std::size_t at = text.find("://");
    if (at == std::string::npos)
        throw input_error(fmt::format("'{}' is no address of a store; {}.", printable(text), form));
    const auto [before, query] = cut(text.substr(at + 3), '?');
    auto [server, name] = cut(before, '/');
    Address out;
    if (const std::size_t sign = server.rfind('@'); sign != std::string::npos) {
        const std::string user = server.substr(0, sign);
        // Checked first, because other messages repeat the address.
        if (user.find(':') != std::string::npos) option_from({"password", ""}, "");
        out.user = decoded(user);
        server.erase(0, sign + 1);
    }
    // Host and port (RFC 3986): colons of IPv6 addresses are in brackets.
    const std::size_t bracket = server.starts_with('[') ? server.find(']') : std::string::npos;
    const auto [host, port] = bracket == std::string::npos
                                  ? cut(server, ':')
                                  : std::pair{server.substr(1, bracket - 1), cut(server.substr(bracket), ':').second};
    out.host = decoded(host);
    out.name = decoded(name);
    if (out.name.empty() || out.name.find('/') != std::string::npos)
        throw input_error(fmt::format("The address {} names no store on its server; {}.", printable(text), form));
    if (!port.empty()) out.port = port_from(port, text);
    for (const auto& item : QUrlQuery(QString::fromStdString(query)).queryItems(QUrl::FullyDecoded)) {
        // Options that libpq accepts in either place.
        if (item.first == "host")
            out.host = item.second.toStdString();
        else if (item.first == "port")
            out.port = port_from(item.second.toStdString(), text);
        else
            out.options += (out.options.empty() ? "" : ";") + option_from(item, text);
    }
    for (const std::string& part : {out.user, out.host, out.name})
        if (!plain(part))
            throw input_error(fmt::format("The address {} has blanks or quotes in it; {}.", printable(text), form));
    return out;
}

}  // namespace optrel::postgres
