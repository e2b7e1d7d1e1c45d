// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/register_files.h"

#include <catch2/catch.hpp>

#include "base/csv.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Register sample_register() {
    Register r;
    Body a;
    a.maker = "Quenby";
    a.model = "Q5";
    a.serial = "1";
    a.name = "Stand \"3\", east";
    a.notes = "two\nlines";
    a.condition = "infrared-converted";
    a.in_service = false;
    a.width = 6000;
    a.height = 4000;
    a.pitch_um = 5.9;
    a.id = id_for(a);
    LensEntry l;
    l.lens = "Aldercroft 24-70mm f/4";
    l.serial = "AZ-1";
    l.contacts = false;
    l.focal_min_mm = 24;
    l.focal_max_mm = 70;
    l.id = id_for(l);
    ModelEntry m{"Quenby Q5", "Quenby", "Q5", 6000, 4000, 5.9, "RGGB", R"({"luminance_noise":"10"})", ""};
    return {{m}, {a}, {l}};
}

}  // namespace

TEST_CASE("CSV is read as RFC 4180 writes it", "[fleet]") {
    using Rows = std::vector<std::vector<std::string>>;
    const Rows rows{{"a", "b"}, {"x,y", "he said \"no\""}, {"two\nlines", ""}};
    CHECK(read_csv(write_csv(rows), "test") == rows);
    CHECK(read_csv("\xef\xbb\xbf"
                   "a,b\n1,2",
                   "test") == Rows{{"a", "b"}, {"1", "2"}});
    CHECK(read_csv("", "test").empty());
    CHECK(error_of([] { read_csv("a,\"b\nc", "Fleet.csv"); }) == "input");
    CHECK(error_of([] { read_csv(std::string("a\0b", 3), "Fleet.csv"); }) == "input");
    CHECK(error_of([] { read_csv(std::string(200002, '\n'), "Fleet.csv"); }) == "input");
}

TEST_CASE("the register goes out and comes in as CSV and JSON", "[fleet]") {
    const Register r = sample_register();
    const RegisterImport bodies = register_from_csv(bodies_to_csv(r.bodies), "test", {});
    CHECK(bodies.bodies == r.bodies);
    CHECK(bodies.added == 1);
    CHECK(register_from_csv(lenses_to_csv(r.lenses), "test", {}).lenses == r.lenses);
    CHECK(register_from_csv(models_to_csv(r.models), "test", {}).models == r.models);
    Claim c;
    c.id = "c1";
    c.target = r.bodies[0].id;
    c.serial = "00a7";
    const RegisterImport all = register_from_json(register_to_json(r, {c}), "test", {});
    CHECK(all.bodies == r.bodies);
    CHECK(all.lenses == r.lenses);
    CHECK(all.claims == std::vector<Claim>{c});
    CHECK(register_from_json(register_to_json(r, {}), "test", r).same == 3);
}

TEST_CASE("an import changes what it names and keeps the rest", "[fleet]") {
    const Register r = sample_register();
    const RegisterImport import =
        register_from_csv("maker,model,serial_number,room\nQuenby,Q5,1,West\nQuenby,Q5,2,\n", "test", r);
    CHECK(import.added == 1);
    CHECK(import.changed == 1);
    CHECK(import.bodies[0].room == "West");
    CHECK(import.bodies[0].name == r.bodies[0].name);
    CHECK(import.bodies[1].id == "Quenby Q5/2");
}

TEST_CASE("a bad register is refused with line and column, and nothing is taken", "[fleet]") {
    const Register r = sample_register();
    const auto refused = [&](const std::string& csv, const char* names) {
        const std::string sentence = sentence_of([&] { register_from_csv(csv, "Fleet.csv", r); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
        CHECK(sentence.find(names) != std::string::npos);
    };
    refused("", "empty");
    refused("maker,model,serial_number,colour\n", "colour");
    refused("maker,serial_number\nQ,1\n", "model");
    refused("maker,model,model,serial_number\n", "twice");
    refused("maker,model,serial_number\nQuenby,Q5\n", "line 2");
    refused("maker,model,serial_number\nQuenby,Q5,7\nQuenby,Q5,7\n", "line 3");
    refused("id,maker,model,serial_number\nother,Quenby,Q5,1\n", "already");
    refused("maker,model,serial_number,pitch_um\nQuenby,Q5,8,-3\n", "pitch_um");
    refused("maker,model,serial_number,pitch_um\nQuenby,Q5,8,many\n", "not a number");
    refused("maker,model,serial_number,in_service\nQuenby,Q5,8,perhaps\n", "in_service");
    refused("lens,focal_min_mm,focal_max_mm\nAldercroft 60mm,60,24\n", "focal");
    refused("maker,model,serial_number,notes\nQuenby,Q5,8," + std::string(3000, 'x') + "\n", "longer");
    for (
        const char* bad :
        {"", "{}", "[]", "null", R"({"format":"optrel-fleet","format_version":99})",
         R"({"format":"optrel-fleet","format_version":1,"bodies":[{"model":"Q5","serial_number":"1"},{"model":"Q5","serial_number":"1"}]})",
         R"({"format":"optrel-fleet","format_version":1,"bodies":7,"claims":[{"id":"a"}]})"})
        CHECK(error_of([&] { register_from_json(bad, "Fleet.json", r); }) == "input");
}
