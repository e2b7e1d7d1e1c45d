// SPDX-License-Identifier: GPL-3.0-or-later
// Files that are dropped on the window: each goes where things of its kind are taken in, and none is taken in silently.
#pragma once

#include <QObject>
#include <filesystem>
#include <functional>
#include <vector>

#include "session/voice.h"

namespace optrel {

class Drops : public QObject {
    Q_OBJECT
public:
    struct Takers {
        std::function<void(const QString&)> bundle, profile, delivery, sets, fleet, colours, camera, picture, folder;
        std::function<void(const std::vector<std::filesystem::path>&)> films;  ///< all of one drop
    };
    /// Listens to a window; belongs to it.
    Drops(QWidget& window, Voice& voice, Takers takers);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void take(const QString& path);

    Voice& voice_;
    Takers takers_;
};

}  // namespace optrel
