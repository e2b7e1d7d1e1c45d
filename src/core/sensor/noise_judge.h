// SPDX-License-Identifier: GPL-3.0-or-later
// Judges the pairs of a noise run: which are used, and what a technician should know about them.
#pragma once

#include <filesystem>
#include <mutex>
#include <string>
#include <vector>

#include "sensor/noise_finding.h"
#include "sensor/photon_transfer.h"

namespace optrel {

/// One measured pair with what the judgement needs.
struct MeasuredPair {
    TransferPair transfer;
    std::filesystem::path first, second;
    double exposure_s = 0, step = 0;
    LineNoise lines;
    /// Mean of both frames over a colour's blocks that are not clipped, in counts above black.
    double mean(Channel channel) const;
};

/// Name of a frame's file, for messages.
std::string file_name(const std::filesystem::path& path);

/// Collects findings from several threads.
class NoiseFindings {
public:
    void add(const char* name, bool serious, int iso, std::string text, std::string remedy);
    /// Serious ones first, then by ISO.
    std::vector<NoiseFinding> sorted();

private:
    std::mutex mutex_;
    std::vector<NoiseFinding> all_;
};

class NoiseJudge {
public:
    /// Means of two frames of a pair differ by less than this share.
    static constexpr double pair_share = 0.03;

    NoiseJudge(int iso, NoiseFindings& findings) : iso_(iso), findings_(findings) {}

    /// False when the light of the frames differs too much for a pair.
    static bool is_pair(const MeasuredPair& pair);
    // These add findings. False: the pair must not be used.
    bool accepts_flat(const MeasuredPair& pair);
    bool accepts_dark(const MeasuredPair& pair);

private:
    int iso_;
    NoiseFindings& findings_;
};

}  // namespace optrel
