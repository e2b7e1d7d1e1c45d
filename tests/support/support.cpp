// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/run_program.h"

#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cstdlib>
#include <map>
#include <nlohmann/json.hpp>

#include "base/files.h"

namespace optrel::test {

TemporaryFolder::TemporaryFolder() {
    std::string pattern = (fs::temp_directory_path() / "optrel-test-XXXXXX").string();
    path_ = mkdtemp(pattern.data());
}

TemporaryFolder::~TemporaryFolder() {
    std::error_code ignored;
    fs::permissions(path_, fs::perms::owner_all, ignored);
    fs::remove_all(path_, ignored);
}

fs::path rig_frame(const std::string& name) {
    const char* folder = name.rfind("SP", 0) == 0 ? "specimens" : "calibration";
    return fs::path(OPTREL_TEST_FRAMES) / folder / (name + ".dng");
}

std::vector<fs::path> rig_frames(const std::string& prefix) {
    std::vector<fs::path> out;
    for (const auto& entry : fs::directory_iterator(rig_frame(prefix).parent_path()))
        if (entry.path().extension() == ".dng" && entry.path().filename().string().rfind(prefix, 0) == 0)
            out.push_back(entry.path());
    std::sort(out.begin(), out.end());
    return out;
}

Truth rig_truth(const std::string& body) {
    return read_truth(fs::path(OPTREL_TEST_FRAMES) / "truth" / ("lens-on-" + body + ".json"));
}

Truth read_truth(const fs::path& file) {
    const auto j = nlohmann::json::parse(read_file(file));
    const auto vec = [](const nlohmann::json& v) { return Vec2(v.at(0).get<double>(), v.at(1).get<double>()); };
    Truth t{j.at("size").at(0), j.at("size").at(1), j.at("focal_px"), vec(j.at("centre")), {}, {}};
    for (const auto& p : j.at("points"))
        t.points.push_back({vec(p.at("ideal")), vec(p.at("green")), vec(p.at("red")), vec(p.at("blue")),
                            p.at("gain").get<std::array<double, 3>>()});
    for (const auto& p : j.at("rays")) {
        const auto& r = p.at("ray");
        t.rays.push_back({vec(p.at("frame")), Vec3(r.at(0).get<double>(), r.at(1).get<double>(), r.at(2).get<double>()),
                          vec(p.at("red")), vec(p.at("blue")), p.at("gain").get<std::array<double, 3>>()});
    }
    return t;
}

MapError compare(const Profile& profile, const Truth& truth, int node_index) {
    const PictureGeometry g{truth.width, truth.height, profile.geometry.pitch_um};
    const ProfileNode& node = profile.nodes.at(node_index);
    const FrameMap map(node, profile.geometry, g);
    const int n = static_cast<int>(truth.rays.size());
    // Where the model sends the true directions, moved by the gauge: the whole homography, or a rotation.
    const bool fisheye = node.model.kind()->angular();
    const int unknowns = fisheye ? 3 : 8;
    const auto residuals = [&](const Eigen::VectorXd& k) {
        Eigen::Matrix3d m = Eigen::Matrix3d::Identity();
        if (fisheye) {
            m << 0, -k(2), k(1), k(2), 0, -k(0), -k(1), k(0), 0;
            m = Eigen::AngleAxisd(k.norm(), k.norm() > 0 ? Vec3(k / k.norm()) : Vec3::UnitX()).toRotationMatrix();
        } else {
            m << 1 + k(0), k(1), k(2), k(3), 1 + k(4), k(5), k(6), k(7), 1;
        }
        Eigen::VectorXd r(2 * n);
        for (int i = 0; i < n; ++i)
            r.segment<2>(2 * i) =
                map.centre() + map.focal_px() * node.model.bend(Vec3(m * truth.rays[i].ray)) - truth.rays[i].frame;
        return r;
    };
    Eigen::VectorXd h = Eigen::VectorXd::Zero(unknowns);
    for (int round = 0; round < 12; ++round) {  // Gauss-Newton; the gauge is close to the identity
        const Eigen::VectorXd r = residuals(h);
        Eigen::MatrixXd jacobian(r.size(), unknowns);
        for (int k = 0; k < unknowns; ++k) {
            Eigen::VectorXd moved = h;
            moved(k) += 1e-6;
            jacobian.col(k) = (residuals(moved) - r) / 1e-6;
        }
        h -= jacobian.colPivHouseholderQr().solve(r);
    }
    const Eigen::VectorXd r = residuals(h);
    MapError out{};
    std::vector<double> red, blue;
    for (int i = 0; i < n; ++i) {
        const TruthRay& t = truth.rays[i];
        const double e = r.segment<2>(2 * i).norm();
        out.off.emplace_back(r.segment<2>(2 * i));
        out.rms_px += e * e / n;
        out.largest_px = std::max(out.largest_px, e);
        red.push_back((map.fringe(Channel::red, t.frame) - t.red).norm());
        blue.push_back((map.fringe(Channel::blue, t.frame) - t.blue).norm());
        for (int c = 0; c < 3; ++c)
            out.gain_percent =
                std::max(out.gain_percent, 100 * std::abs(map.gain(static_cast<Channel>(c), t.frame) / t.gain[c] - 1));
    }
    out.rms_px = std::sqrt(out.rms_px);
    std::sort(red.begin(), red.end());
    std::sort(blue.begin(), blue.end());
    out.red_p95_px = red[static_cast<std::size_t>(0.95 * (red.size() - 1))];
    out.blue_p95_px = blue[static_cast<std::size_t>(0.95 * (blue.size() - 1))];
    return out;
}

bool is_one_sentence(const std::string& text) {
    return text.size() > 20 && text.find('\n') == std::string::npos && text.back() == '.' &&
           !std::islower(static_cast<unsigned char>(text.front()));
}

std::string error_in_words(const Error& error) {
    static const std::map<ErrorKind, std::string> kinds{{ErrorKind::input, "input"},
                                                        {ErrorKind::file, "file"},
                                                        {ErrorKind::store, "store"},
                                                        {ErrorKind::cancelled, "cancelled"},
                                                        {ErrorKind::usage, "usage"}};
    const std::string sentence = error.what();
    if (!is_one_sentence(sentence)) return "not one sentence: " + sentence;
    return kinds.at(error.kind()) + (error.code().empty() ? "" : " " + error.code());
}

void put_draft(Store& store, const Revision& draft) {
    store.baselines().change_draft([&](Revision& there) { there = draft; });
}

void put_sheet(const fs::path& frame, const Sheet& sheet) {
    edit_sheet(frame, [&](Sheet& there) { there = sheet; });
}

void write_bytes(const fs::path& path, const std::string& bytes) { write_atomic(path, bytes); }

std::string random_bytes(std::size_t n, unsigned seed) {
    std::mt19937 random(seed);
    std::string out(n, '\0');
    for (char& c : out) c = static_cast<char>(random());
    return out;
}

CommandResult run_program(const std::string& program, const std::string& arguments) {
    const TemporaryFolder folder;
    const std::string command =
        fmt::format("{} {} >'{}' 2>'{}'", program, arguments, (folder / "out").string(), (folder / "err").string());
    const int status = std::system(command.c_str());
    return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, read_file(folder / "out"), read_file(folder / "err")};
}

CommandResult cli(const std::string& arguments) { return run_program(fmt::format("'{}'", OPTREL_CLI), arguments); }

std::pair<CommandResult, double> cli_with_memory(const std::string& arguments) {
    const TemporaryFolder folder;
    const std::string measured = (folder / "memory").string();
    const CommandResult out =
        run_program(fmt::format("'{}' '{}' '{}'", OPTREL_PEAK_MEMORY, measured, OPTREL_CLI), arguments);
    return {out, std::stod(read_file(measured))};
}

}  // namespace optrel::test
