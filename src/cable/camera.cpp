// SPDX-License-Identifier: GPL-3.0-or-later
#include "cable/camera.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <gphoto2/gphoto2-camera.h>
#include <unistd.h>

#include <algorithm>
#include <functional>
#include <optional>
#include <thread>

#include "base/files.h"
#include "base/words.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

constexpr const char* folder_port = "disk:";
/// The library's own driver for folders.
constexpr const char* folder_model = "Mass Storage Camera";

template <class T, int (*make)(T**), int (*drop)(T*)>
struct Shared {
    T* it = nullptr;
    Shared() { make(&it); }
    ~Shared() { drop(it); }
    Shared(const Shared&) = delete;
    Shared& operator=(const Shared&) = delete;
};
using List = Shared<CameraList, gp_list_new, gp_list_unref>;
using Abilities = Shared<CameraAbilitiesList, gp_abilities_list_new, gp_abilities_list_free>;
using Ports = Shared<GPPortInfoList, gp_port_info_list_new, gp_port_info_list_free>;
using Device = Shared<::Camera, gp_camera_new, gp_camera_unref>;

/// Receives the library's messages during a call, and tells it to stop.
struct Context {
    GPContext* it = gp_context_new();
    std::string said;
    const Progress* progress = nullptr;

    Context() {
        gp_context_set_error_func(
            it, [](GPContext*, const char* text, void* self) { static_cast<Context*>(self)->said = text; }, this);
        gp_context_set_cancel_func(
            it,
            [](GPContext*, void* self) {
                const Progress* asked = static_cast<Context*>(self)->progress;
                return asked && asked->cancelled() ? GP_CONTEXT_FEEDBACK_CANCEL : GP_CONTEXT_FEEDBACK_OK;
            },
            this);
    }
    ~Context() { gp_context_unref(it); }
    Context(const Context&) = delete;
    Context& operator=(const Context&) = delete;
};

/// Joins path parts on a camera, which always uses slashes.
std::string below(const std::string& folder, const std::string& name) {
    return folder == "/" ? "/" + name : folder + "/" + name;
}

void load(Abilities& abilities, Context& context) {
    if (gp_abilities_list_load(abilities.it, context.it) < GP_OK || gp_abilities_list_count(abilities.it) == 0)
        throw file_error("The library for cameras (libgphoto2) finds none of its drivers; install it anew.");
}

}  // namespace

fs::path CameraSeen::folder() const {
    return port.starts_with(folder_port) ? fs::path(port.substr(std::string(folder_port).size())) : fs::path();
}

CameraSeen folder_as_camera(const fs::path& folder) { return {folder_model, folder_port + folder.string()}; }

std::vector<CameraSeen> cameras_seen(const std::vector<fs::path>& folders) {
    Context context;
    Abilities abilities;
    load(abilities, context);
    Ports ports;
    gp_port_info_list_load(ports.it);
    List found;
    std::vector<CameraSeen> out;
    if (gp_abilities_list_detect(abilities.it, ports.it, found.it, context.it) >= GP_OK)
        for (int i = 0; i < gp_list_count(found.it); ++i) {
            const char *model = nullptr, *port = nullptr;
            gp_list_get_name(found.it, i, &model);
            gp_list_get_value(found.it, i, &port);
            out.push_back({model, port});
        }
    std::error_code failed;
    for (const fs::path& folder : folders) {
        const CameraSeen camera = folder_as_camera(folder);
        if (fs::is_directory(folder, failed) && std::find(out.begin(), out.end(), camera) == out.end())
            out.push_back(camera);
    }
    return out;
}

struct Camera::Held {
    CameraSeen camera;
    Context context;
    Device device;
    CameraAbilities abilities{};
    std::optional<FileLock> alone;  ///< lock on a folder that represents a camera, which the library would share

    /// Throws the error about `what` ("CBH0001.dng", "the camera's files"): the camera is gone, or another one with the
    /// library's reason.
    [[noreturn]] void fail(int result, const std::string& what) {
        if (result == GP_ERROR_CANCEL) throw Cancelled();
        if (gone(result))
            throw CameraGone(
                fmt::format("The {} does not answer any more; look at its cable and whether it is on.", camera.model));
        const std::string reason = context.said.empty() ? gp_result_as_string(result) : context.said;
        throw file_error(fmt::format("{}: {} ({}).", camera.model, what, printable(reason)));
    }
    bool gone(int result) const {
        const fs::path folder = camera.folder();
        std::error_code failed;
        if (!folder.empty()) return !fs::is_directory(folder, failed);
        return (result <= GP_ERROR_IO && result > -100 && result != GP_ERROR_IO_LOCK) ||
               result == GP_ERROR_MODEL_NOT_FOUND || result == GP_ERROR_TIMEOUT;
    }
    void require(int result, const std::string& what) {
        if (result < GP_OK) fail(result, what);
    }
    /// Prepares the next call of the library: earlier messages are no reason any more.
    GPContext* asking() {
        context.said.clear();
        return context.it;
    }
};

Camera::Camera(const CameraSeen& camera) : held_(std::make_unique<Held>()) {
    Held& h = *held_;
    h.camera = camera;
    const std::string what = "it cannot be opened; another program may hold it";
    if (h.gone(GP_OK)) h.fail(GP_ERROR_IO, what);
    if (!camera.folder().empty()) {
        auto lock = FileLock::try_on_existing(camera.folder());
        if (!lock) throw file_error(fmt::format("{}: {}.", camera.model, what));
        h.alone.emplace(std::move(*lock));
    }
    Abilities abilities;
    load(abilities, h.context);
    Ports ports;
    gp_port_info_list_load(ports.it);
    const int model = gp_abilities_list_lookup_model(abilities.it, camera.model.c_str());
    const int port = gp_port_info_list_lookup_path(ports.it, camera.port.c_str());
    GPPortInfo info;
    if (model < GP_OK)
        throw input_error(fmt::format("The library for cameras has no driver for a {}; look for a newer one.",
                                      printable(camera.model)));
    h.require(port, fmt::format("there is no port {}", printable(camera.port)));
    gp_abilities_list_get_abilities(abilities.it, model, &h.abilities);
    h.require(gp_port_info_list_get_info(ports.it, port, &info), what);
    gp_camera_set_abilities(h.device.it, h.abilities);
    gp_camera_set_port_info(h.device.it, info);
    h.require(gp_camera_init(h.device.it, h.asking()), what);
}

Camera::~Camera() {
    if (held_) gp_camera_exit(held_->device.it, held_->context.it);
}
Camera::Camera(Camera&&) noexcept = default;
Camera& Camera::operator=(Camera&& other) noexcept {
    std::swap(held_, other.held_);
    return *this;
}

bool Camera::can_release() const { return (held_->abilities.operations & GP_OPERATION_CAPTURE_IMAGE) != 0; }

void Camera::release() {
    CameraFilePath path{};
    held_->require(gp_camera_capture(held_->device.it, GP_CAPTURE_IMAGE, &path, held_->asking()), "it did not release");
}

std::vector<FileOnCamera> Camera::files(const Progress& progress) {
    Held& h = *held_;
    // Cameras without events must be listed again.
    if (!h.camera.folder().empty()) gp_filesystem_reset(h.device.it->fs);
    std::vector<FileOnCamera> out;
    const std::function<void(const std::string&, int)> look = [&](const std::string& folder, int depth) {
        List list;
        h.require(gp_camera_folder_list_files(h.device.it, folder.c_str(), list.it, h.asking()),
                  "its files cannot be listed");
        for (int i = 0; i < gp_list_count(list.it); ++i) {
            progress.check();
            const char* name = nullptr;
            gp_list_get_name(list.it, i, &name);
            CameraFileInfo info{};
            // A file that vanishes between two calls does not exist.
            if (gp_camera_file_get_info(h.device.it, folder.c_str(), name, &info, h.asking()) < GP_OK) continue;
            const bool sized = (info.file.fields & GP_FILE_INFO_SIZE) != 0;
            const bool dated = (info.file.fields & GP_FILE_INFO_MTIME) != 0;
            out.push_back({folder, name, sized ? static_cast<long long>(info.file.size) : 0,
                           dated ? static_cast<long long>(info.file.mtime) : 0});
        }
        constexpr int deepest = 8;
        if (depth == deepest) return;
        List folders;
        h.require(gp_camera_folder_list_folders(h.device.it, folder.c_str(), folders.it, h.asking()),
                  "its folders cannot be listed");
        for (int i = 0; i < gp_list_count(folders.it); ++i) {
            const char* name = nullptr;
            gp_list_get_name(folders.it, i, &name);
            look(below(folder, name), depth + 1);
        }
    };
    look("/", 0);
    // A removed folder looks like an empty camera.
    if (h.gone(GP_OK)) h.fail(GP_ERROR_IO, "");
    std::sort(out.begin(), out.end());
    return out;
}

bool Camera::wait(std::chrono::milliseconds most) {
    Held& h = *held_;
    CameraEventType type = GP_EVENT_UNKNOWN;
    void* data = nullptr;
    const int result = gp_camera_wait_for_event(h.device.it, static_cast<int>(most.count()), &type, &data, h.asking());
    std::free(data);
    if (result == GP_ERROR_NOT_SUPPORTED) {
        std::this_thread::sleep_for(most);
        gp_filesystem_reset(h.device.it->fs);
        return true;
    }
    h.require(result, "it does not say what happens");
    return type == GP_EVENT_FILE_ADDED;
}

void Camera::download(const FileOnCamera& file, const fs::path& to, const Progress& progress) {
    Held& h = *held_;
    const std::string what = fmt::format("{} cannot be copied", printable(below(file.folder, file.name)));
    const int fd = ::open(to.c_str(), O_RDWR | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
    if (fd < 0)
        throw file_error(fmt::format("Nothing can be written to {}; look at the folder's rights and its space.",
                                     printable(to.parent_path().string())));
    ::CameraFile* target = nullptr;
    gp_file_new_from_fd(&target, fd);  // closes it
    h.context.progress = &progress;
    const int result = gp_camera_file_get(h.device.it, file.folder.c_str(), file.name.c_str(), GP_FILE_TYPE_NORMAL,
                                          target, h.asking());
    h.context.progress = nullptr;
    gp_file_unref(target);
    if (result == GP_ERROR_CANCEL) throw Cancelled();
    std::error_code failed;
    const auto size = static_cast<long long>(fs::file_size(to, failed));
    const bool whole = !failed && (file.size == 0 || size == file.size);
    // The library reports a full disk as a camera that does not answer, or not at all.
    const fs::space_info space = fs::space(to.parent_path(), failed);
    constexpr std::uintmax_t next_to_none = 1 << 20;
    if ((result < GP_OK || !whole) && !failed && space.available < next_to_none)
        throw file_error(fmt::format("{}: the disk of {} is full; free some space, it is tried again.", what,
                                     printable(to.parent_path().string())));
    h.require(result, what);
    if (!whole) throw file_error(fmt::format("{}: {} of {} bytes came; it is tried once more.", what, size, file.size));
}

}  // namespace optrel
