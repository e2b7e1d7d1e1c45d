// SPDX-License-Identifier: GPL-3.0-or-later
// What is told on standard output while frames arrive.
#pragma once

#include <string>

#include "studio/intake/intake.h"

namespace optrel::cli {

/// One line for each event, for people or for programs; each is there at once, also in a pipe.
class ArrivalLog {
public:
    explicit ArrivalLog(bool as_json) : json_(as_json) {}

    /// `set`: that lies on top of the frame's baseline; empty: none.
    void frame(const ArrivalResult& taken, const IntakeReport& report, const std::string& set) const;
    void say(const std::string& sentence) const;

private:
    bool json_;
};

}  // namespace optrel::cli
