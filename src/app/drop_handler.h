// SPDX-License-Identifier: GPL-3.0-or-later
// Files dropped on the window: each kind is opened where it is imported, and nothing is imported without a question.
#pragma once

#include <QObject>
#include <filesystem>
#include <functional>
#include <vector>

#include "session/messages.h"

namespace optrel {

class DropHandler : public QObject {
    Q_OBJECT
public:
    struct Takers {
        std::function<void(const QString&)> bundle, profile, delivery, sets, fleet, colours, camera, picture, folder;
        std::function<void(const std::vector<std::filesystem::path>&)> films;  ///< files of one drop
    };
    /// Installs itself on a window, which owns it.
    DropHandler(QWidget& window, Messages& messages, Takers takers);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void take(const QString& path);

    Messages& messages_;
    Takers takers_;
};

}  // namespace optrel
