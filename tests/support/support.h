// SPDX-License-Identifier: GPL-3.0-or-later
// What tests share: temporary folders, the rig's frames, its truth, bad files, the command line.
#pragma once

#include <filesystem>
#include <random>
#include <string>
#include <vector>

#include "base/error.h"
#include "optics/frame_map.h"
#include "rollout/sheet.h"
#include "store/store.h"

namespace optrel::test {

namespace fs = std::filesystem;

/// A folder that is removed at the end.
class TemporaryFolder {
public:
    TemporaryFolder();
    ~TemporaryFolder();
    const fs::path& path() const { return path_; }
    fs::path operator/(const std::string& name) const { return path_ / name; }

private:
    fs::path path_;
};

/// The rig's frames: CH0001 to CH0013, FF0001 to FF0004, SP0001 to SP0008.
fs::path rig_frame(const std::string& name);
std::vector<fs::path> rig_frames(const std::string& prefix);

/// The rig's truth for a body, as it wrote it: over the ideal picture, and over the frame.
struct TruthPoint {
    Vec2 ideal, green, red, blue;
    std::array<double, 3> gain;
};
struct TruthRay {
    Vec2 frame;  ///< green
    Vec3 ray;
    Vec2 red, blue;
    std::array<double, 3> gain;
};
struct Truth {
    int width, height;
    double focal_px;
    Vec2 centre;
    std::vector<TruthPoint> points;
    std::vector<TruthRay> rays;
};
Truth read_truth(const fs::path& file);
Truth rig_truth(const std::string& body);

/// How far a map is from the truth.
struct MapError {
    double rms_px, largest_px;  ///< green over the whole frame, after the best homography (equidistant: rotation) of
                                ///< the directions
    double red_p95_px, blue_p95_px;  ///< displacement against green
    double gain_percent;             ///< largest error of the gain
    std::vector<Vec2> off;           ///< px, of green, beside the truth's rays
};
MapError compare(const Profile& profile, const Truth& truth, int node = 0);

/// As error_of() tells it.
std::string error_in_words(const Error& error);

/// The sentence of the Error that a call throws; empty when it throws nothing. Anything but an Error fails the test.
template <class Call>
std::string sentence_of(const Call& call) {
    try {
        call();
    } catch (const Error& error) {
        return error.what();
    }
    return "";
}

/// Kind of the Error that a call throws, and the code of the library behind it: "input", "file", "store",
/// "store 42501" (SQLSTATE) …; "none" when it throws nothing. Its message has to be one sentence.
template <class Call>
std::string error_of(const Call& call) {
    try {
        call();
    } catch (const Error& error) {
        return error_in_words(error);
    }
    return "none";
}

/// One sentence: begins with a capital, a figure or a path, ends with a full stop, has no line break.
bool is_one_sentence(const std::string& text);

/// Makes a draft what a test needs, whatever it was.
void put_draft(Store& store, const Revision& draft);

/// Makes a frame's sheet what a test needs, whatever it was.
void put_sheet(const fs::path& frame, const Sheet& sheet);

void write_bytes(const fs::path& path, const std::string& bytes);
std::string random_bytes(std::size_t n, unsigned seed);

struct CommandResult {
    int status;
    std::string out, err;
};
/// Runs optrel-cli with arguments as a shell would take them.
CommandResult cli(const std::string& arguments);
/// The same, and the most memory that it took, in MB.
std::pair<CommandResult, double> cli_with_memory(const std::string& arguments);

}  // namespace optrel::test
