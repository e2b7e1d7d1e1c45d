// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/files.h"

#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <catch2/catch.hpp>
#include <csignal>
#include <thread>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

int files_in(const fs::path& folder) {
    return static_cast<int>(std::distance(fs::directory_iterator(folder), fs::directory_iterator()));
}

}  // namespace

TEST_CASE("a file is written whole and read back", "[base]") {
    const TemporaryFolder folder;
    const std::string bytes = random_bytes(100000, 1);
    write_atomic(folder / "a", bytes);
    CHECK(read_file(folder / "a") == bytes);
    write_atomic(folder / "a", "");
    CHECK(read_file(folder / "a").empty());
    CHECK(files_in(folder.path()) == 1);
}

TEST_CASE("reading what is not there is told in one sentence", "[base]") {
    const TemporaryFolder folder;
    const std::string missing = sentence_of([&] { read_file(folder / "none"); });
    CHECK(is_one_sentence(missing));
    CHECK(missing.find("none") != std::string::npos);
    CHECK(error_of([&] { read_file(folder.path()); }) == "file");
}

TEST_CASE("writing where nothing may be written leaves nothing behind", "[base]") {
    const TemporaryFolder folder;
    const std::string sentence = sentence_of([&] { write_atomic(folder / "no such folder" / "a", "x"); });
    CHECK(is_one_sentence(sentence));
    CHECK(files_in(folder.path()) == 0);
}

TEST_CASE("a writer that throws leaves the old file", "[base]") {
    const TemporaryFolder folder;
    write_atomic(folder / "a", "old");
    CHECK_THROWS_AS(write_atomic_with(folder / "a",
                                      [](const fs::path& part) {
                                          write_bytes(part, "half");
                                          throw file_error("The disk is gone.");
                                      }),
                    Error);
    CHECK(read_file(folder / "a") == "old");
    CHECK(files_in(folder.path()) == 1);
}

TEST_CASE("a full disk is told and the old file stays", "[base]") {
    // A limit on the size of files makes the system refuse the write half-way, as a full disk does.
    const TemporaryFolder folder;
    write_atomic(folder / "a", "old");
    const pid_t child = fork();
    REQUIRE(child >= 0);
    if (child == 0) {
        std::signal(SIGXFSZ, SIG_IGN);
        const rlimit limit{4096, 4096};
        setrlimit(RLIMIT_FSIZE, &limit);
        const std::string sentence = sentence_of([&] { write_atomic(folder / "a", std::string(100000, 'x')); });
        _exit(is_one_sentence(sentence) ? 0 : 1);
    }
    int status = 0;
    waitpid(child, &status, 0);
    CHECK(WEXITSTATUS(status) == 0);
    CHECK(read_file(folder / "a") == "old");
    CHECK(files_in(folder.path()) == 1);
}

TEST_CASE("a kill during writing leaves one of the two contents", "[base]") {
    const TemporaryFolder folder;
    const std::string first(300000, 'a'), second(300000, 'b');
    write_atomic(folder / "f", first);
    for (int round = 0; round < 8; ++round) {
        const pid_t child = fork();
        REQUIRE(child >= 0);
        if (child == 0) {
            for (;;) {
                write_atomic(folder / "f", second);
                write_atomic(folder / "f", first);
            }
        }
        usleep(3000 + 2500 * round);
        kill(child, SIGKILL);
        waitpid(child, nullptr, 0);
        const std::string now = read_file(folder / "f");
        CHECK((now == first || now == second));
    }
}

TEST_CASE("many threads may write many files at once", "[base][threads]") {
    const TemporaryFolder folder;
    std::vector<std::thread> threads;
    for (int t = 0; t < 4; ++t)
        threads.emplace_back([&, t] {
            for (int i = 0; i < 20; ++i) write_atomic(folder / std::to_string(t * 100 + i), std::to_string(i));
        });
    for (std::thread& t : threads) t.join();
    CHECK(files_in(folder.path()) == 80);
}

TEST_CASE("a new file is made once, and removing is idempotent", "[base]") {
    const TemporaryFolder folder;
    write_new(folder / "j", "one");
    CHECK(error_of([&] { write_new(folder / "j", "two"); }) == "file");
    CHECK(read_file(folder / "j") == "one");
    CHECK(files_in(folder.path()) == 1);
    remove_durable(folder / "j");
    remove_durable(folder / "j");
    CHECK_FALSE(fs::exists(folder / "j"));
}

TEST_CASE("pipes, devices, folders and files over the limit are not read", "[base]") {
    const TemporaryFolder folder;
    REQUIRE(::mkfifo((folder / "pipe").c_str(), 0600) == 0);
    write_bytes(folder / "large", std::string(2000, 'x'));
    for (const fs::path& path : {folder / "pipe", fs::path("/dev/zero"), folder.path(), folder / "none"}) {
        CHECK(error_of([&] { read_file(path); }) == "file");
        CHECK(error_of([&] { require_regular(path); }) == "file");
    }
    CHECK(error_of([&] { read_file(folder / "large", 1999); }) == "file");
    CHECK(read_file(folder / "large", 2000).size() == 2000);
}

TEST_CASE("of many that claim a folder one gets it", "[base][threads]") {
    const TemporaryFolder folder;
    std::atomic<int> got{0};
    std::vector<std::thread> threads;
    for (int t = 0; t < 8; ++t) threads.emplace_back([&] { got += make_folder_durable(folder / "000001"); });
    for (std::thread& t : threads) t.join();
    CHECK(got == 1);
}

TEST_CASE("what killed writers left is swept, what a living one writes is not", "[base]") {
    const TemporaryFolder folder;
    char host[256] = {};
    ::gethostname(host, sizeof host - 1);
    std::string name = host;
    std::replace_if(
        name.begin(), name.end(), [](unsigned char c) { return !std::isalnum(c); }, '_');
    const pid_t child = ::fork();
    if (child == 0) ::_exit(0);
    ::waitpid(child, nullptr, 0);
    const fs::path dead = folder / (".a.xmp." + name + "-" + std::to_string(child) + "-0.part");
    const fs::path living = folder / (".a.xmp." + name + "-" + std::to_string(::getpid()) + "-0.part");
    const fs::path elsewhere = folder / ".a.xmp.another_host-77-0.part", own = folder / "mine.part";
    for (const fs::path& p : {dead, living, elsewhere, own}) write_bytes(p, "x");
    CHECK(sweep_parts(folder.path(), {"b.xmp"}) == 1);
    CHECK_FALSE(fs::exists(dead));
    CHECK(fs::exists(elsewhere));
    // Who holds the lease for a file sweeps what another machine began for it, at once, but no living writer here.
    CHECK(sweep_parts(folder.path(), {"a.xmp"}) == 1);
    CHECK_FALSE(fs::exists(elsewhere));
    CHECK(fs::exists(living));
    write_bytes(elsewhere, "x");
    fs::last_write_time(elsewhere, fs::file_time_type::clock::now() - std::chrono::hours(30));
    CHECK(sweep_parts(folder.path()) == 1);
    CHECK(fs::exists(living));
    CHECK(fs::exists(own));
}

TEST_CASE("a lock is held by one program at a time and goes with it", "[base]") {
    const TemporaryFolder folder;
    {
        const auto first = FileLock::try_own(folder / "lock");
        REQUIRE(first);
        CHECK_FALSE(FileLock::try_own(folder / "lock"));
    }
    CHECK(FileLock::try_own(folder / "lock"));
    // The same of a folder that is there, which is not written for it.
    {
        const auto first = FileLock::try_on_existing(folder.path());
        REQUIRE(first);
        CHECK(first->held());
        CHECK_FALSE(FileLock::try_on_existing(folder.path()));
    }
    CHECK(FileLock::try_on_existing(folder.path()));
    const auto nothing = FileLock::try_on_existing(folder / "not there");
    REQUIRE(nothing);
    CHECK_FALSE(nothing->held());
    CHECK_FALSE(FileLock::on_existing(folder / "none").held());
}

TEST_CASE("the hash tells contents apart", "[base]") {
    CHECK(fnv1a("") == 14695981039346656037ull);
    CHECK(fnv1a("a") == 0xaf63dc4c8601ec8cull);  // published test value
    CHECK(fnv1a("ab") != fnv1a("ba"));
}
