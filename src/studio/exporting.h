// SPDX-License-Identifier: GPL-3.0-or-later
// Exporting: frames written out by a delivery, one after the other, each whole or not there.
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "base/files.h"
#include "base/progress.h"
#include "base/station.h"
#include "exchange/delivery.h"
#include "store/store.h"
#include "studio/frame_development.h"

namespace optrel {

/// What was corrected in a frame, by what and how much, for the metadata of its export; empty: nothing was.
XmpProperties correction_note(const FrameDevelopment& frame);

/// Names within one folder and one export. Two frames of it never get one name, also where case alone tells them apart.
class ExportNames {
public:
    /// Files that are there count as taken unless they may be replaced.
    ExportNames(std::filesystem::path folder, const Delivery& delivery)
        : folder_(std::move(folder)), delivery_(delivery) {}

    /// The path for a frame, which is the `number`th. Throws Error(input) when the name needs what the frame does not
    /// say, and Error(file) when it is taken and the delivery says that it stays.
    std::filesystem::path take(const std::filesystem::path& frame, const FrameDevelopment& facts, int number);
    /// A name that was given before.
    void given(const std::filesystem::path& path);

private:
    bool taken_here(const std::filesystem::path& path) const;

    std::filesystem::path folder_;
    const Delivery& delivery_;
    std::set<std::string> given_;  ///< in lower case
};

/// How well the opcodes of a raw copy follow the correction.
struct CarriedFit {
    std::string geometry, falloff;  ///< names of the opcodes; empty: none
    double geometry_rms_px = 0, geometry_largest_px = 0, green_largest_px = 0, scale = 1;
    double falloff_rms_percent = 0, falloff_largest_percent = 0;
};

struct Exported {
    std::filesystem::path frame, out;
    std::string profile = "none";  ///< for people
    int width = 0, height = 0;     ///< as it is held
    double scale = 1;              ///< of the border
    cv::Rect kept;                 ///< pixels of the corrected picture that the crop keeps
    std::string problem;           ///< one sentence; then nothing was written
    std::vector<std::string> remarks;
    CarriedFit carried;      ///< of a raw copy
    long long pictures = 0;  ///< of a film
};

/// What is known of one before it is written: the frame's size as its metadata say it, and the profile in words.
Exported about_to_export(const std::filesystem::path& frame, const FrameDevelopment& facts,
                         const std::filesystem::path& out);

/// What a file of the format is: base/output.h.
const OutputFormat& export_output(ExportFormat format);

/// One frame to one file, which is whole or not there; folders on the way to it are made. Throws Error as reading and
/// writing do, also when the frame changed meanwhile.
Exported export_frame(const std::filesystem::path& frame, const FrameDevelopment& facts, const Delivery& delivery,
                      const std::filesystem::path& out, Existing existing, const Progress& progress);

/// The same for frames and films; a film's pictures are counted in `progress`.
Exported export_any(const std::filesystem::path& frame, const FrameDevelopment& facts, const Delivery& delivery,
                    const std::filesystem::path& out, Existing existing, Progress& progress);

/// Frames into a folder. One that cannot be exported is told in its `problem` and never stops the others. `facts` says
/// what a frame is developed with; it may throw. `done` is called after each, on the calling thread.
std::vector<Exported> export_frames(const std::vector<std::filesystem::path>& frames, const Delivery& delivery,
                                    const std::filesystem::path& folder,
                                    const std::function<FrameDevelopment(const std::filesystem::path&)>& facts,
                                    const std::function<void(const Exported&)>& done, Progress& progress);

/// Works on what is next in a station's queue, and returns it; nothing when nothing waits. The item says "writing" and
/// its file's name before the file is begun, so that one that was interrupted is made again under that name. What
/// cannot be exported is kept as failed, with its reason. Throws Cancelled, after which the item waits again, and what
/// the store throws. Only one program of a station may work on its queue (export_claim()).
std::optional<QueuedExport> export_next(Store& store, const std::string& station, Progress& progress);

/// The right to work on this station's queue of a store; nothing when another program holds it.
std::unique_ptr<StoreHold> export_claim(const StoreSource& store);

}  // namespace optrel
