// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/camera_service.h"

#include <QTimer>
#include <algorithm>

#include "base/station.h"
#include "jobs.h"
#include "studio/fleet/claim.h"
#include "window_words.h"

namespace optrel {

CameraService::CameraService(const Store& store, Jobs& jobs, IntakeService& intake, FrameModel& frames,
                             Messages& messages)
    : source_(store.source()),
      writable_(store.writable()),
      jobs_(jobs),
      intake_(intake),
      frames_(frames),
      messages_(messages) {
    connect(&frames_, &FrameModel::changed, this, &CameraService::show_newest);
}

CameraService::~CameraService() {
    if (following_) following_->cancel();
    if (thread_.joinable()) thread_.join();
}

void CameraService::add_folder(const std::filesystem::path& folder) {
    if (std::find(folders_.begin(), folders_.end(), folder) == folders_.end()) folders_.push_back(folder);
    look();
}

void CameraService::look() {
    again_ = looking_;  // the request may have changed
    if (looking_) return;
    looking_ = true;
    auto found = std::make_shared<std::vector<CameraSeen>>();
    auto problem = std::make_shared<QString>();
    jobs_.run_quietly(
        [found, problem, folders = folders_] {
            try {
                *found = cameras_seen(folders);
            } catch (const std::exception& error) {
                *problem = q(error.what());
            }
        },
        [this, found, problem] {
            looking_ = false;
            if (again_) return look();
            seen_ = *found;
            if (!problem->isEmpty()) messages_.tell(*problem, true);
            emit changed();
        });
}

void CameraService::list(const CameraSeen& camera, std::function<void(const std::vector<FileOnCamera>&)> done) {
    auto files = std::make_shared<std::vector<FileOnCamera>>();
    jobs_.run(
        "Looking at the camera", [camera, files](Progress& progress) { *files = Camera(camera).files(progress); },
        [files, done = std::move(done)] { done(*files); });
}

void CameraService::follow(FollowOrder order, const std::optional<std::string>& set, bool show) {
    if (following_) return;
    if (!writable_)
        return messages_.tell("This store can only be read; a camera is followed where it can be written.", true);
    why_not_.clear();
    received_ = 0;
    model_ = QString::fromStdString(order.camera.model);
    show_ = show;
    following_ = std::make_unique<Progress>();
    thread_ = std::thread([this, order = std::move(order), set, author = current_author()]() mutable {
        run(std::move(order), set, author);
    });
    emit changed();
}

/// On the camera thread.
void CameraService::run(FollowOrder order, std::optional<std::string> set, const std::string& author) {
    const auto tell = [this](const std::string& sentence, bool serious) {
        jobs_.post([this, text = QString::fromStdString(sentence), serious] { messages_.tell(text, serious); });
    };
    try {
        {
            const auto store = source_.open_for_reading();
            order.how = order_for(*store, order.to, author);
        }
        if (set) {
            order.how = {};
            order.how.set = *set;
            order.how.author = author;
        }
        Following camera(
            source_, std::move(order),
            {[&](const ArrivalResult& t, const IntakeReport&) { jobs_.post([this, frame = t.frame] { came(frame); }); },
             [&](const std::string& sentence) { tell(sentence, true); },
             [&](const std::string& sentence) { tell(sentence, false); }});
        for (;;) {
            const bool was = connected_.exchange(camera.connected());
            const bool could = can_release_.exchange(camera.can_release());
            const int had = received_.exchange(camera.received());
            if (was != connected_ || could != can_release_ || had != received_) jobs_.post([this] { emit changed(); });
            if (release_.exchange(false)) camera.ask_to_release();
            camera.step(*following_);
        }
    } catch (const Cancelled&) {
        jobs_.post([this] { ended({}); });
    } catch (const std::exception& error) {
        jobs_.post([this, problem = q(error.what())] { ended(problem); });
    }
}

void CameraService::stop() {
    if (following_) following_->cancel();
    emit changed();
}

void CameraService::ended(const QString& problem) {
    thread_.join();  // its last message said so
    following_.reset();
    connected_ = can_release_ = release_ = false;
    why_not_ = problem;
    if (!problem.isEmpty()) messages_.tell(problem, true);
    emit changed();
}

void CameraService::release() { release_ = true; }

void CameraService::came(const std::filesystem::path& frame) {
    newest_ = frame;
    intake_.tell_of_arrivals();  // frames are read again
}

/// Queued, after all listeners for frames.
void CameraService::show_newest() {
    if (!show_ || newest_.empty()) return;
    QTimer::singleShot(0, this, [this] {
        const auto& all = frames_.all();
        const bool known = std::any_of(all.begin(), all.end(), [&](const FrameRecord& f) { return f.path == newest_; });
        if (newest_.empty() || !known) return;
        emit messages_.inspect_frame(QString::fromStdString(newest_.string()));
        newest_.clear();
    });
}

QString CameraService::state() const {
    if (!following_)
        return why_not_.isEmpty() ? QString(
                                        "Each frame that is taken while a camera is followed is copied and gets its "
                                        "baseline at once; nothing on the camera is changed.")
                                  : "Not following. " + why_not_;
    const int n = received_;
    const QString came = n == 1 ? QString("1 frame came") : QString("%1 frames came").arg(n);
    if (following_->cancelled()) return QString("Letting the %1 go; %2.").arg(model_, came);
    if (!connected_) return QString("Waiting for the %1; %2.").arg(model_, came);
    return QString("Following the %1; %2.").arg(model_, came);
}

}  // namespace optrel
