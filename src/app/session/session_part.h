// SPDX-License-Identifier: GPL-3.0-or-later
// What the parts of a session have in common: each holds what it read from its part of the store, says when that
// changed, and tells people what happened. Parts belong to the window's thread.
#pragma once

#include <QObject>
#include <map>
#include <string>
#include <vector>

#include "session/messages.h"
#include "store/store.h"

namespace optrel {

class SessionPart : public QObject {
    Q_OBJECT
public:
    /// `stamps`: which of the store's change stamps are this part's.
    SessionPart(Store& store, Messages& messages, std::vector<std::string> stamps)
        : store_(store), messages_(messages), names_(std::move(stamps)) {}

    /// Which of the part's stamps another station has changed since the part last read or wrote; they count as seen.
    std::vector<std::string> changed_elsewhere(const std::map<std::string, long long>& now);

    /// For a worker, which opens the store for itself.
    StoreSource source() const { return store_.source(); }

signals:
    void changed();

protected:
    /// What the store says now of this stamp, or of all that are the part's, is what the part knows.
    void remember(const std::string& only = {});

    Store& store_;
    Messages& messages_;

private:
    std::vector<std::string> names_;
    std::map<std::string, long long> seen_;
};

}  // namespace optrel
