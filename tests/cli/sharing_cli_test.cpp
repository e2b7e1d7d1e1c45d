// SPDX-License-Identifier: GPL-3.0-or-later
// Bundles, keys and the exchange as scripts see them.
#include <catch2/catch.hpp>
#include <cstdlib>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "sharing/bundle.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Commands that are run have a key of their own.
class OwnKey {
public:
    explicit OwnKey(const fs::path& folder) {
        if (const char* was = std::getenv("XDG_CONFIG_HOME")) before_ = was;
        ::setenv("XDG_CONFIG_HOME", folder.c_str(), 1);
    }
    ~OwnKey() {
        if (before_.empty())
            ::unsetenv("XDG_CONFIG_HOME");
        else
            ::setenv("XDG_CONFIG_HOME", before_.c_str(), 1);
    }

private:
    std::string before_;
};

/// Done, with this on standard output.
std::string done(const std::string& arguments) {
    const CommandResult r = cli(arguments);
    INFO(arguments << "\n" << r.err);
    REQUIRE(r.status == 0);
    return r.out;
}

void refused(const std::string& arguments, int status, const std::string& why) {
    const CommandResult r = cli(arguments);
    INFO(arguments << "\n" << r.err);
    CHECK(r.status == status);
    CHECK(r.err.find(why) != std::string::npos);
}

}  // namespace

TEST_CASE("a set travels from one store to another on the command line", "[cli][bundles]") {
    const TemporaryFolder folder;
    const OwnKey own(folder / "conf");
    const std::string a = " --store " + (folder / "a").string(), b = " --store " + (folder / "b").string(),
                      file = (folder / "job.optrel.zip").string();
    done("store begin" + a);
    done("store begin" + b);
    done("baseline sets pin" + a + " --name Fronds --field exposure --value 0.3");
    refused("bundle pack" + a + " --set Frnds --out " + file, 1, "Fronds");
    refused("bundle pack" + a + " --out " + file, 1, "Nothing was chosen");
    refused("bundle pack" + a + " --set Fronds --out " + (folder / "job.zip").string(), 2, ".optrel.zip");
    const auto packed =
        nlohmann::json::parse(done("bundle pack" + a + " --set fronds --sender Shore --json --out " + file));
    CHECK(packed["contents"] == "1 set");
    const std::string key = packed["key"];
    CHECK(done("key own") == key + "\n");
    refused("bundle pack" + a + " --set Fronds --out " + file, 1, "--overwrite");

    const auto shown = nlohmann::json::parse(done("bundle show" + b + " " + file + " --json"));
    CHECK(shown["sender"] == "Shore");
    CHECK(shown["key"] == key);
    CHECK(shown["parts"][0]["stand"] == "new");
    refused("bundle take" + b + " " + file + " --take set:Frnds", 1, "no set 'Frnds'");
    refused("bundle take" + b + " " + file + " --take sett", 1, "no part of the kind");
    refused("bundle take" + b + " " + file + " --as Fronds", 2, "OLD=NEW");
    done("bundle take" + b + " " + file + " --as \"Fronds=Their fronds\"");
    CHECK(done("baseline sets list" + b).find("Their fronds") == 0);
    done("bundle take" + b + " " + file);
    refused("bundle take" + b + " " + file, 1, "here already");
    done("baseline sets pin" + b + " --name Fronds --field exposure --value 1");
    refused("bundle take" + b + " " + file + " --take set:Fronds", 1, "would replace");
    done("bundle take" + b + " " + file + " --take set --replace");
    CHECK(done("baseline sets list" + b).find("0.30") != std::string::npos);

    done("key trust" + b + " " + key + " --name \"Shore Museum\"");
    CHECK(nlohmann::json::parse(done("bundle show" + b + " " + file + " --json"))["signer"] == "Shore Museum");
    CHECK(nlohmann::json::parse(done("key list" + b + " --json"))[0]["trusted"] == true);
    done("key distrust" + b + " " + key);
    done("key forget" + b + " " + key);
    refused("key forget" + b + " " + key, 1, "knows no key");
    refused("key trust" + b + " 3f2a", 1, "no key");

    const std::string nobody = (folder / "nobody.optrel.zip").string();
    done("bundle pack" + a + " --set Fronds --unsigned --out " + nobody);
    done("baseline sets delete" + b + " --name Fronds");
    refused("bundle take" + b + " " + nobody, 1, "is not signed");
    done("bundle take" + b + " " + nobody + " --anyway");
    std::string bytes = read_file(file);
    bytes[bytes.size() / 2] ^= 1;
    write_bytes(folder / "bad.optrel.zip", bytes);
    CHECK(cli("bundle show" + b + " " + (folder / "bad.optrel.zip").string()).status == 1);
    CHECK(done("store audit" + b).find("0 problems") != std::string::npos);
}

TEST_CASE("a bundle among frames waits until somebody looked at it", "[cli][bundles]") {
    const TemporaryFolder folder;
    const OwnKey own(folder / "conf");
    const std::string a = " --store " + (folder / "a").string(), b = " --store " + (folder / "b").string();
    done("store begin" + a);
    done("baseline sets pin" + a + " --name Fronds --field exposure --value 0.3");
    fs::create_directories(folder / "job");
    const std::string file = (folder / "job/job.optrel.zip").string();
    done("bundle pack" + a + " --set Fronds --out " + file);
    write_bytes(folder / "job/broken.optrel.zip", "no zip");
    const CommandResult r = cli("store index" + b + " " + (folder / "job").string());
    CHECK(r.status == 0);
    CHECK(r.out.find("a bundle lies there") != std::string::npos);
    CHECK(r.err.find("broken.optrel.zip") != std::string::npos);
    CHECK(done("bundle found" + b) == file + "\n");
    refused("bundle put-aside" + b + " " + file + "x", 1, "does not wait");
    done("bundle put-aside" + b + " " + file);
    CHECK(done("bundle found" + b) == "No bundle was found.\n");
    // To who packed it, it is no news.
    CHECK(done("store index" + a + " " + (folder / "job").string()).find("bundle") == std::string::npos);
}

TEST_CASE("nothing is asked of an exchange that nobody settled", "[cli][sharing]") {
    const TemporaryFolder folder;
    const OwnKey own(folder / "conf");
    const std::string s = " --store " + (folder / "a").string();
    done("store begin" + s);
    CHECK(done("exchange use" + s).find("asks no profile exchange") != std::string::npos);
    refused("exchange search" + s + " --lens x", 1, "settle one");
    refused("exchange use" + s + " example", 1, "no address");
    done("exchange use" + s + " http://127.0.0.1:9/");
    CHECK(done("exchange use" + s) == "This studio asks http://127.0.0.1:9.\n");
    refused("exchange search" + s + " --lens x", 1, "cannot be reached");
    refused("exchange search" + s + " --focal -3", 2, "--focal");
    done("exchange use" + s + " --none");
    // What would be sent is shown without any exchange.
    write_bytes(folder / "p.json", profile_to_json(sample_profile()));
    done("store publish-profile" + s + " " + (folder / "p.json").string());
    CHECK(done("exchange publish" + s + " p1").find("optrel-profile") != std::string::npos);
    refused("exchange publish" + s + " p1 --send", 1, "settle one");
    refused("exchange withdraw-key" + s + " --at http://127.0.0.1:9", 2, "cannot be undone");
}
