// SPDX-License-Identifier: GPL-3.0-or-later
#include "shared/dropped_frames.h"

#include <QMimeData>
#include <QPointer>
#include <QUrl>
#include <memory>

#include "base/error.h"
#include "jobs.h"
#include "studio/intake/take_in.h"

namespace optrel {
namespace fs = std::filesystem;

void list_frames(Jobs& jobs, const std::vector<fs::path>& files_and_folders, QObject* context,
                 std::function<void(const std::vector<fs::path>&)> take) {
    if (files_and_folders.empty()) return;
    const auto found = std::make_shared<std::vector<fs::path>>();
    jobs.run_quietly(
        [files_and_folders, found] {
            for (const fs::path& path : files_and_folders) {
                std::error_code failed;
                if (!fs::is_directory(path, failed)) {
                    found->push_back(path);
                    continue;
                }
                try {
                    std::vector<std::string> problems;
                    const std::vector<fs::path> frames = frame_files(path, problems);
                    found->insert(found->end(), frames.begin(), frames.end());
                } catch (const Error&) {
                    // The folder was removed meanwhile: it adds no frames.
                }
            }
        },
        [here = QPointer<QObject>(context), found, take = std::move(take)] {
            if (here) take(*found);
        });
}

std::vector<fs::path> dropped_paths(QDropEvent& event) {
    event.acceptProposedAction();
    std::vector<fs::path> out;
    for (const QUrl& url : event.mimeData()->urls())
        if (url.isLocalFile()) out.emplace_back(url.toLocalFile().toStdString());
    return out;
}

}  // namespace optrel
