// SPDX-License-Identifier: GPL-3.0-or-later
// A driver of the camera library for tests: a camera that can be released from the computer and tells of new files.
// What is on it lies in the folder OPTREL_TRIAL_CAMERA; each release adds a file that holds its own name.
#include <gphoto2/gphoto2-library.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <string>
#include <thread>
#include <vector>

namespace fs = std::filesystem;

namespace {

bool news = false;

fs::path storage() {
    const char* folder = std::getenv("OPTREL_TRIAL_CAMERA");
    return folder ? folder : "";
}

int list_files(CameraFilesystem*, const char* folder, CameraList* list, void*, GPContext*) {
    std::error_code failed;
    if (!fs::is_directory(storage(), failed)) return GP_ERROR_IO_USB_FIND;
    if (std::string(folder) == "/")
        for (const auto& entry : fs::directory_iterator(storage()))
            gp_list_append(list, entry.path().filename().c_str(), nullptr);
    return GP_OK;
}

int list_folders(CameraFilesystem*, const char*, CameraList*, void*, GPContext*) { return GP_OK; }

int file_info(CameraFilesystem*, const char*, const char* name, CameraFileInfo* info, void*, GPContext*) {
    std::error_code failed;
    const auto size = fs::file_size(storage() / name, failed);
    if (failed) return GP_ERROR_FILE_NOT_FOUND;
    info->file.fields = GP_FILE_INFO_SIZE;
    info->file.size = size;
    return GP_OK;
}

int get_file(CameraFilesystem*, const char*, const char* name, CameraFileType type, CameraFile* file, void*,
             GPContext*) {
    if (type != GP_FILE_TYPE_NORMAL) return GP_ERROR_NOT_SUPPORTED;
    std::error_code failed;
    if (!fs::is_directory(storage(), failed)) return GP_ERROR_IO_USB_FIND;
    std::ifstream in(storage() / name, std::ios::binary);
    if (!in) return GP_ERROR_FILE_NOT_FOUND;
    std::vector<char> piece(65536);
    while (in.read(piece.data(), static_cast<std::streamsize>(piece.size())), in.gcount() > 0)
        gp_file_append(file, piece.data(), static_cast<unsigned long>(in.gcount()));
    return GP_OK;
}

int capture(Camera* camera, CameraCaptureType, CameraFilePath* path, GPContext* context) {
    if (std::getenv("OPTREL_TRIAL_FAILS")) {
        gp_context_error(context, "The card is full");
        return GP_ERROR_NO_SPACE;
    }
    int number = 1;
    const auto name = [&] { return "TR" + std::to_string(number) + ".dng"; };
    while (fs::exists(storage() / name())) ++number;
    std::ofstream(storage() / name()) << name();
    std::strcpy(path->folder, "/");
    std::strcpy(path->name, name().c_str());
    gp_filesystem_reset(camera->fs);
    news = true;
    return GP_OK;
}

int wait_for_event(Camera*, int timeout, CameraEventType* type, void** data, GPContext*) {
    *data = nullptr;
    *type = news ? GP_EVENT_FILE_ADDED : GP_EVENT_TIMEOUT;
    if (!news) std::this_thread::sleep_for(std::chrono::milliseconds(std::min(timeout, 20)));
    news = false;
    return GP_OK;
}

}  // namespace

extern "C" {

int camera_id(CameraText* id) {
    std::strcpy(id->text, "optrel-trial");
    return GP_OK;
}

int camera_abilities(CameraAbilitiesList* list) {
    CameraAbilities a{};
    std::strcpy(a.model, "Trial Camera");
    a.status = GP_DRIVER_STATUS_PRODUCTION;
    a.port = GP_PORT_PTPIP;
    a.operations = GP_OPERATION_CAPTURE_IMAGE;
    return gp_abilities_list_append(list, a);
}

int camera_init(Camera* camera, GPContext*) {
    if (std::getenv("OPTREL_TRIAL_HELD")) return GP_ERROR_IO_LOCK;
    camera->functions->capture = capture;
    camera->functions->wait_for_event = wait_for_event;
    static CameraFilesystemFuncs funcs{};
    funcs.file_list_func = list_files;
    funcs.folder_list_func = list_folders;
    funcs.get_info_func = file_info;
    funcs.get_file_func = get_file;
    return gp_filesystem_set_funcs(camera->fs, &funcs, nullptr);
}
}
