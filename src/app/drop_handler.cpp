// SPDX-License-Identifier: GPL-3.0-or-later
#include "drop_handler.h"

#include <QDropEvent>
#include <QFileInfo>
#include <QMimeData>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "frames/colour_profile.h"
#include "frames/film_codec.h"
#include "frames/metadata.h"
#include "sharing/bundle.h"

namespace optrel {

namespace {

/// Whether a JSON text declares a format.
bool says(const nlohmann::json& j, const char* wanted) {
    const auto format = j.is_object() ? j.find("format") : j.end();
    return format != j.end() && *format == wanted;
}

}  // namespace

DropHandler::DropHandler(QWidget& window, Messages& messages, Takers takers)
    : QObject(&window), messages_(messages), takers_(std::move(takers)) {
    window.setAcceptDrops(true);
    window.installEventFilter(this);
}

bool DropHandler::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::DragEnter) {
        auto* enter = static_cast<QDragEnterEvent*>(event);
        if (enter->mimeData()->hasUrls()) enter->acceptProposedAction();
        return true;
    }
    if (event->type() != QEvent::Drop) return QObject::eventFilter(watched, event);
    auto* drop = static_cast<QDropEvent*>(event);
    drop->acceptProposedAction();
    std::vector<std::filesystem::path> films;
    for (const QUrl& url : drop->mimeData()->urls()) {
        if (!url.isLocalFile()) continue;
        const std::string file = url.toLocalFile().toStdString();
        if (named_as_film(file) && !QFileInfo(url.toLocalFile()).isDir())
            films.emplace_back(file);
        else
            take(url.toLocalFile());
    }
    if (!films.empty()) messages_.attempt([&] { takers_.films(films); });
    return true;
}

void DropHandler::take(const QString& path) {
    if (QFileInfo(path).isDir()) return takers_.folder(path);
    messages_.attempt([&] {
        const std::string file = path.toStdString(), extension = lowered_extension(file);
        if (named_as_bundle(file)) return takers_.bundle(path);
        if (looks_like_colours(file)) return takers_.colours(path);
        if (named_as_picture(file)) return takers_.picture(path);
        if (extension == ".yml" || extension == ".yaml" || extension == ".xml") return takers_.camera(path);
        if (extension == ".csv") return takers_.fleet(path);
        if (extension != ".json")
            throw input_error(
                file +
                " is none of what can be dropped here: a folder of frames, a bundle, a profile, a delivery, sets, a "
                "register, a colour file, a camera model, films, or a picture that Optrel wrote.");
        const nlohmann::json j = parse_json(read_file(file), file);
        if (says(j, "optrel-delivery") || says(j, "optrel-export-recipe")) return takers_.delivery(path);
        if (says(j, "optrel-sets")) return takers_.sets(path);
        if (says(j, "optrel-fleet")) return takers_.fleet(path);
        if (j.is_object() && j.contains("camera_matrix")) return takers_.camera(path);
        // Other files are passed to the reader of profiles, which reports what is wrong.
        takers_.profile(path);
    });
}

}  // namespace optrel
