// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/xmp_packet.h"

#include <catch2/catch.hpp>
#include <thread>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("properties survive a packet", "[frames]") {
    const XmpProperties p{{"format", "1"},
                          {"revision", "12"},
                          {"baseline/exposure", "0.25"},
                          {"baseline/border", "fill"},
                          {"hand/tint", "-4"}};
    const std::string text = encode_xmp(p);
    CHECK(decode_xmp(text, "x") == p);
    CHECK(encode_xmp(p) == text);
    CHECK(text.find(xmp_namespace) != std::string::npos);
}

TEST_CASE("texts of all kinds survive a packet", "[frames]") {
    const XmpProperties p{{"note", "über <tag> & \"quoted\" 'text' ☼"}, {"hand/lens_profile", "p<1>&2"}};
    CHECK(decode_xmp(encode_xmp(p), "x") == p);
}

TEST_CASE("what is not ours is refused in one sentence", "[frames]") {
    const std::string foreign =
        R"(<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" dc:format="image/tiff"/></rdf:RDF>)";
    const std::string good = encode_xmp({{"format", "1"}});
    for (const std::string& bad :
         {std::string(), std::string("hello"), std::string("<xml"), foreign, random_bytes(3000, 4),
          good.substr(0, good.size() / 2), std::string(20u << 20, 'x')}) {
        const std::string sentence = sentence_of([&] { decode_xmp(bad, "Frame.xmp"); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
        CHECK(sentence.find("Frame.xmp") != std::string::npos);
    }
    CHECK(sentence_of([&] { decode_xmp(foreign, "f"); }).find("another program") != std::string::npos);
}

TEST_CASE("packets can be made on many threads", "[frames][threads]") {
    std::vector<std::thread> threads;
    std::atomic<int> good{0};
    for (int t = 0; t < 4; ++t)
        threads.emplace_back([&, t] {
            for (int i = 0; i < 25; ++i) {
                const XmpProperties p{{"format", "1"}, {"baseline/exposure", std::to_string(t * 100 + i)}};
                good += decode_xmp(encode_xmp(p), "x") == p;
            }
        });
    for (std::thread& t : threads) t.join();
    CHECK(good == 100);
}
