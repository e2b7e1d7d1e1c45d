// SPDX-License-Identifier: GPL-3.0-or-later
// All readers of what comes from elsewhere, as functions of bytes: for the fuzzer, and for the check that replays what
// it found.
#pragma once

#include <functional>
#include <string>
#include <vector>

namespace optrel::test {

struct FuzzedReader {
    const char* name;  ///< also of the folder of its corpus
    /// Reads, and what it has read is used as its callers use it. Throws optrel::Error for what is refused; anything
    /// else that it throws is a fault.
    std::function<void(const std::string& bytes)> read;
    /// A sound input, to begin with.
    std::function<std::string()> sound;
};

const std::vector<FuzzedReader>& fuzzed_readers();

/// Reads some bytes; false where they were refused. Throws what a reader must not throw.
bool reads(const FuzzedReader& reader, const std::string& bytes);

}  // namespace optrel::test
