// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli camera: tethered cameras.
#include "cable/camera.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/intake/arrival_log.h"
#include "cli/intake/intake_options.h"
#include "studio/intake/following.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct CameraOptions {
    std::string camera;
    std::vector<std::string> folders;
    std::string store, to, author, name = "{name}";
    IntakeFolder how;
    int count = 0;
    bool older = false, once = false, json = false;
};

std::vector<CameraSeen> seen_by(const CameraOptions& o) {
    std::vector<std::filesystem::path> folders;
    for (const std::string& folder : o.folders) {
        folders.push_back(plain_path(folder));
        std::error_code failed;
        if (!std::filesystem::is_directory(folders.back(), failed))
            throw input_error(fmt::format("{} is no folder that could stand for a camera; name one that is there.",
                                          printable(folder)));
    }
    return cameras_seen(folders);
}

std::string name_of(const CameraSeen& camera) { return fmt::format("{} at {}", camera.model, camera.port); }

/// The requested camera: the only one, or by name or port.
CameraSeen meant(const CameraOptions& o) {
    const std::vector<CameraSeen> seen = seen_by(o);
    if (seen.empty()) throw input_error("No camera answers; look at its cable and whether it is switched on.");
    std::vector<std::string> all;
    std::vector<CameraSeen> fit;
    for (const CameraSeen& camera : seen) {
        all.push_back(name_of(camera));
        const bool folder = !o.folders.empty() && o.camera.empty() && camera.folder().empty();
        if (!folder && (o.camera.empty() || o.camera == camera.model || o.camera == camera.port)) fit.push_back(camera);
    }
    if (fit.size() == 1) return fit[0];
    if (fit.empty())
        throw input_error(
            fmt::format("There is no camera '{}'; there is {}.", printable(o.camera), fmt::join(all, ", ")));
    throw input_error(fmt::format("There are several cameras ({}); name one with --camera.", fmt::join(all, ", ")));
}

void list_cameras(const CameraOptions& o) {
    json all = json::array();
    for (const CameraSeen& camera : seen_by(o)) {
        if (!o.json) fmt::print("{}\n", name_of(camera));
        all.push_back({{"model", camera.model}, {"port", camera.port}});
    }
    if (o.json) return print_json(all);
    if (all.empty()) fmt::print(stderr, "No camera answers; look at its cable and whether it is switched on.\n");
}

void list_files(const CameraOptions& o) {
    json all = json::array();
    for (const FileOnCamera& f : Camera(meant(o)).files(console_progress())) {
        if (!o.json) fmt::print("{}/{}  {} bytes\n", f.folder == "/" ? "" : f.folder, f.name, f.size);
        all.push_back({{"folder", f.folder}, {"name", f.name}, {"bytes", f.size}});
    }
    if (o.json) print_json(all);
}

void release_camera(const CameraOptions& o) {
    Camera camera(meant(o));
    if (!camera.can_release())
        throw input_error("This camera cannot be released from the computer; use its own shutter button.");
    camera.release();
}

IntakeOrder order_of_options(const CameraOptions& o) {
    const std::string author = author_or_me(o.author);
    if (!(o.how == IntakeFolder())) return order_of(o.how, author);
    const Store store = open_store(o.store, Access::read);
    return order_for(store, o.to, author);
}

void follow_camera(const CameraOptions& o) {
    require_sound(o.how);
    const StoreSource source = open_store(o.store, Access::read).source();
    const ArrivalLog log(o.json);
    const IntakeOrder how = order_of_options(o);
    std::vector<std::string> problems;
    int frames = 0;
    Following following(source, {meant(o), o.to, o.name, o.older || o.once, how},
                        {[&](const ArrivalResult& t, const IntakeReport& report) {
                             ++frames;
                             log.frame(t, report, how.set);
                         },
                         [&](const std::string& sentence) {
                             problems.push_back(sentence);
                             log.say(sentence);
                         },
                         [&](const std::string& sentence) { log.say(sentence); }});
    until_ended([&](Progress& progress) {
        if (!o.once)
            while (o.count == 0 || frames < o.count) following.step(progress);
        constexpr int most_steps = 30;
        for (int i = 0; o.once && i < most_steps && following.step(progress); ++i) continue;
        if (o.once) fail_with(problems);
    });
}

void add_which_camera(CLI::App& command, CameraOptions& o) {
    command.add_option("--folder", o.folders, "A folder that stands for a camera: a disk, or the rig's");
    command.add_option("--camera", o.camera, "Model or port, where there are several");
}

}  // namespace

void add_camera(CLI::App& app) {
    auto* command = add_command(app, "camera", "Cameras on a cable: what is there, what is on them, following one",
                                "camera follow --to /shoots/today");
    command->require_subcommand(1);
    auto o = std::make_shared<CameraOptions>();
    auto* listing = add_command(*command, "list", "The cameras that are connected", "camera list");
    listing->add_option("--folder", o->folders, "A folder that stands for a camera: a disk, or the rig's");
    auto* files = add_command(*command, "files", "What is on a camera", "camera files");
    auto* release = add_command(*command, "release", "Release a camera that can be released from the computer",
                                "camera release --camera usb:001,004");
    auto* follow = add_command(
        *command, "follow", "Copy what is new on a camera into a folder as it is taken; each frame gets its baseline",
        "camera follow --store studio --to /shoots/today --set \"Infrared leaves\"");
    for (CLI::App* sub : {files, release, follow}) add_which_camera(*sub, *o);
    add_store_option(*follow, o->store);
    follow->add_option("--to", o->to, "Folder for the copies; a watched folder decides what its frames get")
        ->required();
    add_copy_name_option(*follow, "--name", o->name);
    add_intake_options(*follow, o->how);
    follow->add_flag("--older", o->older, "Also what is on the camera already");
    auto* once = follow->add_flag("--once", o->once, "What is on the camera, then end");
    follow->add_option("--count", o->count, "End after so many frames")->check(between(1, 1000000))->excludes(once);
    follow->add_option("--author", o->author, "Who rolls out [default: the login name]");
    for (CLI::App* sub : {listing, files}) sub->add_flag("--json", o->json, "Print JSON");
    follow->add_flag("--json", o->json, "A line of JSON for each event");
    listing->callback([o] { list_cameras(*o); });
    files->callback([o] { list_files(*o); });
    release->callback([o] { release_camera(*o); });
    follow->callback([o] { follow_camera(*o); });
}

}  // namespace optrel::cli
