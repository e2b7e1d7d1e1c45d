// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/spans.h"

#include <catch2/catch.hpp>
#include <cstdlib>
#include <ctime>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// The time zone of the test alone.
class InZone {
public:
    explicit InZone(const char* zone) {
        if (const char* was = std::getenv("TZ")) was_ = was;
        setenv("TZ", zone, 1);
        tzset();
    }
    ~InZone() {
        was_.empty() ? unsetenv("TZ") : setenv("TZ", was_.c_str(), 1);
        tzset();
    }
    InZone(const InZone&) = delete;
    InZone& operator=(const InZone&) = delete;

private:
    std::string was_;
};

}  // namespace

TEST_CASE("a span of numbers is written in one way everywhere", "[base]") {
    CHECK(span_from("800", "ISO").low == 800);
    CHECK(span_from("800", "ISO").high == 800);
    CHECK(span_from("100-800", "ISO").low == 100);
    CHECK(span_from("100-800", "ISO").high == 800);
    CHECK_FALSE(span_from("800-", "ISO").high);
    CHECK_FALSE(span_from("-400", "ISO").low);
    CHECK(span_from("-400", "ISO").high == 400);
    for (const char* wrong : {"", "-", "8oo", "800-100", "0-5", "1-2-3", "1e3", "1-inf", "999999999999", "800 1600"}) {
        INFO(wrong);
        CHECK(error_of([&] { span_from(wrong, "ISO"); }) == "usage");
    }
}

TEST_CASE("moments are taken as ISO 8601 writes them, with or without a zone, and as files record them", "[base]") {
    const InZone zone("CET-1CEST,M3.5.0,M10.5.0/3");
    CHECK(moment_from("2026-03-04") == "2026-03-04");
    CHECK(moment_from("2026:03:04 14:30:05") == "2026-03-04T14:30:05");
    CHECK(recorded_moment_from("2026-03-04T14:30") == "2026:03:04 14:30");
    CHECK(recorded_moment_from("2026-03") == "2026:03");
    CHECK(recorded_moment_from("2026-03-04T14:30:05Z") == "2026:03:04 15:30:05");
    CHECK(recorded_moment_from("2026-07-04T14:30:05+05:30") == "2026:07:04 11:00:05");
    CHECK(utc_moment_from("2026-03-04T14:30") == "2026-03-04T13:30:00Z");
    CHECK(utc_moment_from("2026-07-04T14:30:00Z") == "2026-07-04T14:30:00Z");
    CHECK(utc_moment_from("2026-03-04") == "2026-03-04T22:59:59Z");
    for (const char* wrong : {"", "yesterday", "2026-13-01", "2026-02-30", "2026-03-04T25:00", "2026-03:04",
                              "2026-03-04T10:00:00+99:00", "04.03.2026"}) {
        INFO(wrong);
        CHECK(error_of([&] { moment_from(wrong); }) == "usage");
    }
    CHECK(error_of([&] { utc_moment_from("2026-03"); }) == "usage");
}

TEST_CASE("a recorded time lies in a span whose shorter ends hold for all that begins with them", "[base]") {
    const std::string taken = "2026:03:04 14:30:05";
    CHECK(within_moments(taken, "2026-03-04", "2026-03-04"));
    CHECK(within_moments(taken, "2026-03-04T14:30", "2026-03"));
    CHECK_FALSE(within_moments(taken, "2026-03-04T14:31", ""));
    CHECK_FALSE(within_moments(taken, "", "2026-03-03"));
    CHECK(within_moments("", "", ""));
    CHECK_FALSE(within_moments("", "2026", ""));
}
