// SPDX-License-Identifier: GPL-3.0-or-later
// What other people have open to be edited at this moment, and telling them what is open here.
#pragma once

#include <QTimer>
#include <string>
#include <vector>

#include "session/session_part.h"

namespace optrel {

class Jobs;

class PresenceService : public SessionPart {
    Q_OBJECT
public:
    PresenceService(Store& store, Messages& messages, Jobs& jobs);
    ~PresenceService() override;

    /// This window has a thing open from now on; an empty kind: nothing.
    void at(const std::string& kind, const std::string& subject);
    /// Of all other windows, as last read.
    const std::vector<Present>& others() const { return others_; }
    /// Reads them anew, off the window's thread.
    void reload();

private:
    void say();

    Jobs& jobs_;
    Present mine_;
    std::vector<Present> others_;
    QTimer again_{this};
    int readings_ = 0;
};

}  // namespace optrel
