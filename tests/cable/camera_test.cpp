// SPDX-License-Identifier: GPL-3.0-or-later
// Cameras on a cable: a folder that stands for one, and a driver of our own for what a folder cannot do.
#include "cable/camera.h"

#include <catch2/catch.hpp>

#include <cstdlib>

#include "base/files.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// The library's drivers are ours while it lives.
struct TrialCamera {
    explicit TrialCamera(const fs::path& storage) {
        ::setenv("CAMLIBS", OPTREL_TRIAL_DRIVERS, 1);
        ::setenv("OPTREL_TRIAL_CAMERA", storage.c_str(), 1);
    }
    ~TrialCamera() {
        for (const char* name : {"CAMLIBS", "OPTREL_TRIAL_CAMERA", "OPTREL_TRIAL_FAILS", "OPTREL_TRIAL_HELD"})
            ::unsetenv(name);
    }
    const CameraSeen seen{"Trial Camera", "ptpip:"};
};

}  // namespace

TEST_CASE("a folder stands for a camera: its files are listed, copied, and stay as they are", "[cable]") {
    const TemporaryFolder folder;
    const fs::path card = folder / "card";
    fs::create_directories(card / "DCIM" / "100AB");
    fs::create_directories(card / "DCIM" / "101AB");
    write_bytes(card / "DCIM" / "100AB" / "A 1.dng", std::string(300000, 'x'));
    write_bytes(card / "DCIM" / "101AB" / "A2.jpg", "two");
    const auto before = fs::last_write_time(card / "DCIM" / "101AB" / "A2.jpg");
    const std::vector<CameraSeen> seen = cameras_seen({card, folder / "none"});
    REQUIRE(std::count(seen.begin(), seen.end(), folder_as_camera(card)) == 1);
    CHECK(std::count(seen.begin(), seen.end(), folder_as_camera(folder / "none")) == 0);
    Camera camera(folder_as_camera(card));
    CHECK_FALSE(camera.can_release());
    std::vector<FileOnCamera> files = camera.files(Progress());
    REQUIRE(files.size() == 2);
    CHECK(files[0].folder == "/DCIM/100AB");
    CHECK(files[0].name == "A 1.dng");
    CHECK(files[0].size == 300000);
    camera.download(files[0], folder / "copy", Progress());
    CHECK(read_file(folder / "copy") == std::string(300000, 'x'));
    // What comes later is seen as well.
    write_bytes(card / "DCIM" / "101AB" / "A3.jpg", "three");
    CHECK(camera.wait(std::chrono::milliseconds(1)));
    files = camera.files(Progress());
    REQUIRE(files.size() == 3);
    camera.download(files[2], folder / "copy", Progress());
    CHECK(read_file(folder / "copy") == "three");
    CHECK(fs::last_write_time(card / "DCIM" / "101AB" / "A2.jpg") == before);
}

TEST_CASE("a folder that is taken away is a camera whose cable is pulled", "[cable]") {
    const TemporaryFolder folder;
    const fs::path card = folder / "card";
    fs::create_directories(card / "DCIM");
    write_bytes(card / "DCIM" / "A1.jpg", "one");
    Camera camera(folder_as_camera(card));
    const std::vector<FileOnCamera> files = camera.files(Progress());
    REQUIRE(files.size() == 1);
    fs::rename(card, folder / "pulled");
    CHECK_THROWS_AS(camera.files(Progress()), CameraGone);
    CHECK_THROWS_AS(camera.download(files[0], folder / "copy", Progress()), CameraGone);
    CHECK_THROWS_AS(Camera(folder_as_camera(card)), CameraGone);
    CHECK(error_of([&] { camera.files(Progress()); }) == "file");
    // A file alone may go; the camera is still there.
    fs::rename(folder / "pulled", card);
    fs::remove(card / "DCIM" / "A1.jpg");
    const std::string said = sentence_of([&] { camera.download(files[0], folder / "copy", Progress()); });
    CHECK(said.find("A1.jpg cannot be copied") != std::string::npos);
    CHECK(is_one_sentence(said));
    CHECK(camera.files(Progress()).empty());
}

TEST_CASE("a camera is released from the computer and tells of the picture", "[cable]") {
    const TemporaryFolder folder;
    const TrialCamera trial(folder.path());
    Camera camera(trial.seen);
    CHECK(camera.can_release());
    CHECK(camera.files(Progress()).empty());
    CHECK_FALSE(camera.wait(std::chrono::milliseconds(1)));
    camera.release();
    CHECK(camera.wait(std::chrono::milliseconds(1)));
    const std::vector<FileOnCamera> files = camera.files(Progress());
    REQUIRE(files.size() == 1);
    CHECK(files[0].name == "TR1.dng");
    TemporaryFolder out;
    camera.download(files[0], out / "copy", Progress());
    CHECK(read_file(out / "copy") == "TR1.dng");
    ::setenv("OPTREL_TRIAL_FAILS", "1", 1);
    CHECK(sentence_of([&] { camera.release(); }) == "Trial Camera: it did not release (The card is full).");
    // What it said then is no reason for anything else.
    CHECK(sentence_of([&] {
              camera.download({"/", "TR9.dng"}, out / "copy", Progress());
          }).find("card is full") == std::string::npos);
    // Its cable is pulled.
    fs::rename(folder.path(), out / "pulled");
    CHECK_THROWS_AS(camera.download(files[0], out / "copy", Progress()), CameraGone);
    fs::rename(out / "pulled", folder.path());
}

TEST_CASE("a camera that another program holds, and one that nobody knows, are told apart", "[cable]") {
    const TemporaryFolder folder;
    const TrialCamera trial(folder.path());
    ::setenv("OPTREL_TRIAL_HELD", "1", 1);
    const std::string held = sentence_of([&] { Camera camera(trial.seen); });
    CHECK(held.find("another program may hold it") != std::string::npos);
    CHECK(is_one_sentence(held));
    const std::string unknown = sentence_of([&] { Camera camera(CameraSeen{"Nobody's Camera", "ptpip:"}); });
    CHECK(unknown.find("has no driver for a Nobody's Camera") != std::string::npos);
    const std::string port = sentence_of([&] { Camera camera(CameraSeen{"Trial Camera", "carrier pigeon:"}); });
    CHECK(port.find("no port carrier pigeon:") != std::string::npos);
    ::setenv("CAMLIBS", folder.path().c_str(), 1);
    CHECK(sentence_of([&] { cameras_seen({}); }).find("finds none of its drivers") != std::string::npos);
}

TEST_CASE("a folder that stands for a camera is held by one program at a time, like a camera", "[cable]") {
    const TemporaryFolder folder;
    {
        const Camera first(folder_as_camera(folder.path()));
        const std::string said = sentence_of([&] { Camera second(folder_as_camera(folder.path())); });
        CHECK(said.find("another program may hold it") != std::string::npos);
    }
    Camera again(folder_as_camera(folder.path()));
    CHECK(again.files(Progress()).empty());
}

TEST_CASE("copying from a camera can be left in the middle", "[cable]") {
    const TemporaryFolder folder;
    const fs::path card = folder / "card";
    fs::create_directories(card);
    write_bytes(card / "A1.dng", std::string(1 << 20, 'x'));
    Camera camera(folder_as_camera(card));
    Progress progress;
    const std::vector<FileOnCamera> files = camera.files(progress);
    progress.cancel();
    CHECK_THROWS_AS(camera.files(progress), Cancelled);
    CHECK_THROWS_AS(camera.download(files.at(0), folder / "copy", progress), Cancelled);
}
