// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/picture_loader.h"

#include <QApplication>
#include <QPointer>
#include <QStandardPaths>
#include <algorithm>
#include <deque>
#include <mutex>
#include <set>

#include "base/error.h"
#include "screen/screen_image.h"
#include "window_words.h"

namespace optrel {

namespace {

constexpr std::uintmax_t disk_bytes = std::uintmax_t{512} << 20;
constexpr int memory_kb = 160 * 1024;
constexpr int workers = 2;
/// More than two screens full; older requests are for pictures that were scrolled away.
constexpr std::size_t most_waiting = 256;
/// Frames that could not be read are tried again after this time, for example when a copy was not complete.
constexpr qint64 retry_ms = 5000;

}  // namespace

/// What window and workers share.
struct PictureLoader::Shared {
    struct Request {
        QString key;
        SmallPictureCache::Of of;
        std::shared_ptr<const ScreenColours> colours;
    };
    std::mutex mutex;
    std::deque<Request> waiting;  ///< newest first
    std::set<QString> pending;    ///< waiting or being read
    int working = 0;
    Progress progress;  ///< is cancelled when the application ends
    SmallPictureCache cache{
        QStandardPaths::writableLocation(QStandardPaths::GenericCacheLocation).toStdString() + "/optrel/pictures",
        disk_bytes};

    std::optional<Request> next() {
        const std::lock_guard lock(mutex);
        if (waiting.empty() || progress.cancelled()) {
            --working;
            return std::nullopt;
        }
        Request out = std::move(waiting.front());
        waiting.pop_front();
        return out;
    }
    Found read(const Request& request) {
        try {
            return {screen_image(cache.get(request.of, progress), *request.colours), {}};
        } catch (const Cancelled&) {
            return {{}, "The program ends."};
        } catch (const Error& error) {
            return {{}, q(error.what())};
        } catch (const std::exception& error) {
            return {{}, QString("The picture cannot be made (%1).").arg(error.what())};
        }
    }
};

PictureLoader::PictureLoader() : shared_(std::make_shared<Shared>()), kept_(memory_kb) {
    pool_.setMaxThreadCount(workers);
    pool_.setThreadPriority(QThread::LowPriority);
    tell_.setSingleShot(true);
    tell_.setInterval(30);
    connect(&tell_, &QTimer::timeout, this, &PictureLoader::ready);
    connect(qApp, &QCoreApplication::aboutToQuit, this, [this] { shared_->progress.cancel(); });
}

PictureLoader::~PictureLoader() {
    shared_->progress.cancel();
    pool_.waitForDone();
}

PictureLoader& PictureLoader::here() {
    static QPointer<PictureLoader> loader;
    if (!loader) {
        loader = new PictureLoader;
        loader->setParent(qApp);
    }
    return *loader;
}

bool PictureLoader::reading() const {
    const std::lock_guard lock(shared_->mutex);
    return shared_->working > 0;
}

PictureLoader::Found PictureLoader::find(const SmallPictureCache::Of& asked,
                                         const std::shared_ptr<const ScreenColours>& colours) {
    SmallPictureCache::Of of = asked;
    of.side = side;
    const QString key = QString("%1\n%2\n%3\n%4")
                            .arg(q(of.frame.string()))
                            .arg(of.size)
                            .arg(of.modified)
                            .arg(reinterpret_cast<quintptr>(colours.get()));
    if (const Kept* kept = kept_.object(key)) {
        if (kept->found.problem.isEmpty() || kept->since.elapsed() < retry_ms) return kept->found;
        kept_.remove(key);
    }
    const std::lock_guard lock(shared_->mutex);
    if (!shared_->pending.insert(key).second) {
        // Wanted again: it goes to the front.
        const auto at = std::find_if(shared_->waiting.begin(), shared_->waiting.end(),
                                     [&](const Shared::Request& r) { return r.key == key; });
        if (at != shared_->waiting.end()) std::rotate(shared_->waiting.begin(), at, at + 1);
        return {};
    }
    shared_->waiting.push_front({key, std::move(of), colours});
    if (shared_->waiting.size() > most_waiting) {
        shared_->pending.erase(shared_->waiting.back().key);
        shared_->waiting.pop_back();
    }
    if (shared_->working < workers) {
        ++shared_->working;
        pool_.start([this, shared = shared_] {
            while (std::optional<Shared::Request> request = shared->next()) {
                Found found = shared->read(*request);
                QMetaObject::invokeMethod(
                    this,
                    [this, request = std::move(*request), found = std::move(found)] {
                        take(request.key, found, request.colours);
                    },
                    Qt::QueuedConnection);
            }
        });
    }
    return {};
}

void PictureLoader::take(const QString& key, Found found, std::shared_ptr<const ScreenColours> colours) {
    {
        const std::lock_guard lock(shared_->mutex);
        shared_->pending.erase(key);
    }
    const auto kb = static_cast<int>(found.picture.sizeInBytes() / 1024) + 1;
    auto* kept = new Kept{std::move(found), std::move(colours), {}};
    kept->since.start();
    kept_.insert(key, kept, kb);
    if (!tell_.isActive()) tell_.start();
}

}  // namespace optrel
