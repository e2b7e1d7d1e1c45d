// SPDX-License-Identifier: GPL-3.0-or-later
// Frames that are dropped on a widget, alone or in folders.
#pragma once

#include <QDropEvent>
#include <QObject>
#include <filesystem>
#include <functional>
#include <vector>

namespace optrel {

class Jobs;

/// Lists the files, and the frames of the folders and of those beneath them, off the window's thread; then calls `take`
/// unless `context` has gone. A folder that cannot be read adds nothing.
void list_frames(Jobs& jobs, const std::vector<std::filesystem::path>& files_and_folders, QObject* context,
                 std::function<void(const std::vector<std::filesystem::path>&)> take);

/// Local files and folders of a drop, which is accepted.
std::vector<std::filesystem::path> dropped_paths(QDropEvent& event);

}  // namespace optrel
