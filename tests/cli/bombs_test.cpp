// SPDX-License-Identifier: GPL-3.0-or-later
// Small files and answers that would take gigabytes to read: each is refused, and takes little memory.
#include <zip.h>

#include <catch2/catch.hpp>
#include <fstream>
#include <functional>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/json_text.h"
#include "base/words.h"
#include "cli/studio_by_hand.h"
#include "optics/profile_kind.h"
#include "sharing/bundle.h"
#include "sharing/exchange_client.h"
#include "sharing/zip_parts.h"
#include "support/exchange_process.h"
#include "support/odd_server.h"
#include "support/running_exchange.h"

using namespace optrel;
using namespace optrel::test;

namespace {

std::string repeated(const std::string& piece, std::size_t bytes) {
    std::string out;
    out.reserve(bytes + piece.size());
    while (out.size() < bytes) out += piece;
    return out;
}

/// A signed bundle whose manifest is right, with one document of any kind in it.
std::string signed_with(const std::string& document) {
    static const SigningKey key = SigningKey::make();
    Bundle b;
    b.title = "Seaweeds";
    b.parts = {{BundleKind::of(lens_profile_kind()), "p", "Lumenfold", document}};
    return bundle_bytes(b, &key);
}

struct Bomb {
    const char* what;
    std::string bytes;
};

std::vector<Bomb> bombs() {
    const std::size_t mb = 1u << 20;
    std::vector<Bomb> out;
    out.push_back({"a manifest of 255 MB of brackets", zip_of({{"manifest.json", std::string(255 * mb, '[')}})});
    out.push_back({"a manifest of brackets that is not too long", zip_of({{"manifest.json", std::string(mb, '[')}})});
    out.push_back({"a manifest of empty lists", zip_of({{"manifest.json", "[" + repeated("[],", mb - 100) + "1]"}})});
    out.push_back({"a document of 60 MB of brackets", signed_with(std::string(60 * mb, '['))});
    out.push_back({"a document of 20 million empty lists", signed_with("[" + repeated("[],", 60 * mb) + "1]")});
    out.push_back({"a document of 8 million objects", signed_with("[" + repeated("{\"a\":1},", 60 * mb) + "1]")});
    out.push_back({"a document of 60 MB of one text", signed_with("\"" + std::string(60 * mb, 'x') + "\"")});
    std::vector<ZipPart> many;
    for (int i = 0; i < 19000; ++i) many.push_back({"sets/" + std::to_string(i), ""});
    out.push_back({"19,000 pieces", zip_of(many)});
    return out;
}

#ifdef __SANITIZE_ADDRESS__
constexpr double most_mb = 4096;  // it keeps a shadow of all memory, and what was given back
#else
constexpr double most_mb = 256;
#endif

/// What the command line says behind its own name.
std::string told(const CommandResult& result) {
    const std::string name = "optrel-cli: ";
    CHECK(result.err.compare(0, name.size(), name) == 0);
    return trimmed(result.err.substr(std::min(result.err.size(), name.size())));
}

}  // namespace

TEST_CASE("small files that unpack to gigabytes are refused by the command line in little memory", "[cli][bombs]") {
    const StudioByHand s;
    for (const Bomb& bomb : bombs()) {
        INFO(bomb.what << ", " << bomb.bytes.size() << " bytes");
        write_bytes(s.path("bomb.optrel.zip"), bomb.bytes);
        const std::string store = s.path("s").string();
        for (const char* command : {"bundle show", "bundle take"}) {
            const auto [result, mb] = cli_with_memory(
                fmt::format("{} '{}' --store '{}'", command, s.path("bomb.optrel.zip").string(), store));
            INFO(command << " takes " << mb << " MB: " << result.err);
            CHECK(result.status != 0);
            CHECK(is_one_sentence(told(result)));
            CHECK(mb < most_mb);
        }
        fs::create_directories(s.path("among"));
        fs::copy_file(s.path("bomb.optrel.zip"), s.path("among/bomb.optrel.zip"), fs::copy_options::overwrite_existing);
        const auto [result, mb] =
            cli_with_memory(fmt::format("store index '{}' --store '{}'", s.path("among").string(), store));
        INFO("store index takes " << mb << " MB");
        CHECK(mb < most_mb);
    }
}

TEST_CASE("a bundle may unpack to more than is usual when a person allows it", "[cli][bombs]") {
    const StudioByHand s;
    Bundle b;
    b.title = "Seaweeds";
    for (int i = 0; i < 3; ++i)
        b.parts.push_back({BundleKind::set, "s" + std::to_string(i), "s", std::string(30u << 20, ' ')});
    write_bytes(s.path("large.optrel.zip"), bundle_bytes(b, nullptr));
    CHECK(unpacked_size(s.path("large.optrel.zip")) > ordinary_bundle);
    const auto show = [&](const std::string& options) {
        return s.run("bundle show", fmt::format("'{}' {}", s.path("large.optrel.zip").string(), options));
    };
    const CommandResult refused = show("");
    CHECK(refused.status != 0);
    CHECK(is_one_sentence(told(refused)));
    CHECK(refused.err.find("unpacks to 91 MB") != std::string::npos);
    CHECK(show("--up-to-mb 91").status == 0);
    CHECK(show("--up-to-mb 90").status != 0);
    CHECK(show("--up-to-mb 2000").status != 0);
}

TEST_CASE("an exchange refuses small bundles that unpack to gigabytes in little memory", "[sharing][bombs]") {
    ExchangeProcess exchange;
    const ExchangeClient client(exchange.address());
    for (const Bomb& bomb : bombs()) {
        INFO(bomb.what);
        CHECK(error_of([&] { client.publish(bomb.bytes, Progress()); }) == "input");
        CHECK(exchange.runs());
    }
    CHECK(exchange.peak_mb() < most_mb);
}

TEST_CASE("an exchange that answers with gigabytes costs who asks little memory", "[sharing][bombs]") {
    const StudioByHand s;
    for (const std::string& body : {std::string(8u << 20, '['), "[" + repeated("[],", 7u << 20) + "1]",
                                    std::string(400u << 20, ' '), "{\"why\":" + std::string(7u << 20, '[')})
        for (const char* status : {"200 OK", "400 Bad Request"}) {
            const OddServer server([&](int socket, const std::string&) { OddServer::answer(socket, body, status); });
            const auto [result, mb] = cli_with_memory(
                fmt::format("exchange search --lens x --at {} --store '{}'", server.address(), s.path("s").string()));
            INFO(result.err << mb << " MB");
            CHECK(result.status != 0);
            CHECK(is_one_sentence(told(result)));
            CHECK(mb < most_mb);
        }
    const OddServer headers([&](int socket, const std::string&) {
        OddServer::say(socket, "HTTP/1.1 200 OK\r\n");
        const std::string line = "X: " + std::string(8000, 'x') + "\r\n";
        for (int i = 0; i < 100000 && OddServer::say(socket, line); ++i) {
        }
    });
    const auto [result, mb] = cli_with_memory(
        fmt::format("exchange search --lens x --at {} --store '{}'", headers.address(), s.path("s").string()));
    INFO(result.err << mb << " MB");
    CHECK(result.status != 0);
    CHECK(mb < most_mb);
}

TEST_CASE("a document from elsewhere is held to its depth and its values", "[base]") {
    const auto refusal = [](const std::string& text) { return sentence_of([&] { require_within({}, text, "It"); }); };
    const auto nested = [](int depth) { return std::string(depth, '[') + std::string(depth, ']'); };
    CHECK(refusal("\"" + std::string(1u << 20, 'x') + "\"").empty());
    CHECK(is_one_sentence(refusal("\"" + std::string(1u << 21, 'x') + "\"")));
    CHECK(refusal(nested(32)).empty());
    CHECK(is_one_sentence(refusal(nested(33))));
    CHECK(refusal("[" + repeated("1,", 2 * 499900) + "1]").empty());
    CHECK(is_one_sentence(refusal("[" + repeated("1,", 2 * 500100) + "1]")));
    CHECK(refusal("no json").empty());
    CHECK(error_of([&] { parse_json(nested(65), "It"); }) == "input");
    CHECK_NOTHROW(parse_json(nested(64), "It"));
}
