// SPDX-License-Identifier: GPL-3.0-or-later
// One station of the siege: it does at random what people do in a studio, for ever.
#pragma once

#include <filesystem>
#include <string>

namespace optrel::siege {

constexpr int frame_count = 24, body_count = 8, claim_count = 400;

/// A studio's things that stations work on: bodies, portions of work, and that profiles need a second person where
/// there are people.
void furnish(const std::string& address);
std::filesystem::path frame_in(const std::filesystem::path& frames, int i);

/// Each line of its log was acknowledged before it was written: a kind, and the name of a thing. `approves`: it judges
/// what others propose, too.
[[noreturn]] void be_a_station(const std::string& address, const std::filesystem::path& frames,
                               const std::filesystem::path& log, unsigned seed, bool approves);

}  // namespace optrel::siege
