// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/session.h"

#include <QCoreApplication>
#include <QPointer>
#include <QThreadPool>
#include <algorithm>
#include <utility>

#include "base/station.h"
#include "jobs.h"
#include "studio/stations/history_check.h"
#include "studio/stations/name_conflicts.h"

namespace optrel {

namespace {

std::unique_ptr<Store> open(const std::string& address, Access access) {
    try {
        return std::make_unique<Store>(address, access);
    } catch (const Error& error) {
        if (error.kind() != ErrorKind::store) throw;
        return std::make_unique<Store>(address, Access::read);  // throws again when reading fails, too
    }
}

/// For a change by this station, or one without a history row.
const QString nobody_else = "another station";

}  // namespace

Session::Session(const std::string& store_address, Access access)
    : store_(open(store_address, access)),
      jobs_(std::make_unique<Jobs>()),
      register_(std::make_unique<RegisterModel>(*store_, messages_, undo_)),
      baselines_(std::make_unique<BaselineModel>(*store_, messages_, undo_)),
      profiles_(std::make_unique<ProfileModel>(*store_, messages_)),
      frames_(std::make_unique<FrameModel>(*store_, messages_, *jobs_, *register_, *profiles_)),
      sheets_(std::make_unique<SheetModel>(*jobs_, messages_)),
      runs_(*store_, *jobs_),
      rollouts_(*store_, *jobs_),
      exports_(*store_, *jobs_, messages_),
      intake_(*store_, *jobs_, messages_),
      cameras_(*store_, *jobs_, intake_, *frames_, messages_),
      approvals_(*store_, messages_, *jobs_),
      sharing_(*store_, messages_, *jobs_),
      work_(*store_, messages_, *jobs_),
      presence_(*store_, messages_, *jobs_) {
    sign_as(user_in(store_address));
    undo_.setUndoLimit(200);
    connect(jobs_.get(), &Jobs::failed, this, [this](const QString& why) { messages_.tell(why, true); });
    connect(register_.get(), &RegisterModel::changed, baselines_.get(), &BaselineModel::reload_draft);
    connect(frames_.get(), &FrameModel::changed, this, [this] { sheets_->read(frames_->shared()); });
    connect(frames_.get(), &FrameModel::changed, &sharing_, &SharingService::reload);
    connect(&sharing_, &SharingService::taken, this, [this] {
        register_->reload();
        baselines_->reload();
        profiles_->reload();
    });
    others_.setObjectName("look at other stations");
    others_.setInterval(2000);
    connect(&others_, &QTimer::timeout, this, &Session::look_for_changes);
    others_.start();
    listen();
    frames_->reload();
    // Exports that waited when the program was closed.
    exports_.reload(store_->writable());
    // Frames that arrived meanwhile.
    connect(&intake_, &IntakeService::arrived, frames_.get(), &FrameModel::reload);
    messages_.attempt([this] { intake_.watch(); });
    roots_ = store_->stamps()["roots"];
    // After the window is shown.
    QTimer::singleShot(0, this, [this] {
        messages_.attempt([this] {
            if (const std::string why = check_history(*store_); !why.empty())
                messages_.tell(QString::fromStdString(why), true);
            // Station names matter only for shared stores.
            if (!store_->people() || !(store_->people()->mine() >= Role::works)) return;
            for (const std::string& why : name_conflicts_in_words(store_->stations().arrive()))
                messages_.tell(QString::fromStdString(why), true);
        });
    });
}

Session::~Session() = default;

void Session::listen() {
    hear_.setObjectName("hear other stations");
    hear_.setSingleShot(true);
    hear_.setInterval(50);  // several notifications of one change count once
    connect(&hear_, &QTimer::timeout, this, &Session::look_for_changes);
    const auto told = [this] {
        heard_ = true;
        // Its own job writes repeatedly; the timer checks then.
        if (!jobs_->busy() && !hear_.isActive()) hear_.start();
    };
    if (!store_->listen(*this, told)) return;
    // The timer checks for notifications received during a job, and whether the server can be reached.
    others_.setInterval(1000);
    others_.disconnect(this);
    connect(&others_, &QTimer::timeout, this, [this] {
        constexpr int longest_quiet = 5;
        if (lost_)
            probe();
        else if (heard_ || ++quiet_ >= longest_quiet)
            look_for_changes();
    });
}

void Session::probe() {
    if (std::exchange(probing_, true)) return;
    QThreadPool::globalInstance()->start([window = QPointer<Session>(this), source = store_->source()] {
        bool there = false;
        try {
            source.open_for_reading();
            there = true;
        } catch (const std::exception&) {
            // Not yet reachable.
        }
        QMetaObject::invokeMethod(qApp, [window, there] {
            if (!window) return;
            window->probing_ = false;
            if (!there) return;
            window->store_->reachable_again();
            window->look_for_changes();
        });
    });
}

/// Author of the latest change, if it was another station.
QString Session::who_changed() {
    std::vector<HistoryEntry> last;
    messages_.attempt([&] { last = store_->history().entries("", "", 1); });
    const bool other = !last.empty() && (last[0].author != current_author() || last[0].station != this_station());
    return other ? QString("%1 at another station, %2")
                       .arg(QString::fromStdString(last[0].author), QString::fromStdString(last[0].station))
                 : nobody_else;
}

void Session::look_for_changes() {
    std::map<std::string, long long> now;
    try {
        now = store_->stamps();
    } catch (const std::exception& error) {
        // A folder store is locked for a moment; the next check will succeed. An unreachable server is reported once.
        if (is_server_address(store_->source().address()) && !std::exchange(lost_, true))
            messages_.tell(
                QString(
                    "The server of the store cannot be reached: what is shown stays, and nothing can be changed until "
                    "it is back, which is tried every second."),
                true);
        return;
    }
    heard_ = false;
    quiet_ = 0;
    if (const long long roots = now["roots"]; std::exchange(roots_, roots) != roots) {
        store_->read_roots();
        frames_->reload();
    }
    if (std::exchange(lost_, false)) messages_.tell("The server of the store can be reached again.");
    QStringList parts;
    if (!register_->changed_elsewhere(now).empty()) {
        parts << "register";
        register_->reload();
    }
    if (const std::vector<std::string> what = baselines_->changed_elsewhere(now); !what.empty()) {
        parts << (std::find(what.begin(), what.end(), "baselines") != what.end() ? "revisions" : "draft");
        baselines_->reload();
    }
    if (!profiles_->changed_elsewhere(now).empty()) {
        parts << "profiles";
        profiles_->reload();
    }
    // Frames are not read again during a job, which may write them continuously.
    if (!jobs_->busy() && !frames_->changed_elsewhere(now).empty()) frames_->reload();
    if (!approvals_.changed_elsewhere(now).empty()) approvals_.reload();
    if (!sharing_.changed_elsewhere(now).empty()) sharing_.reload();
    if (!work_.changed_elsewhere(now).empty()) work_.reload();
    if (!presence_.changed_elsewhere(now).empty()) presence_.reload();
    intake_.take_over(intake_.changed_elsewhere(now));
    if (parts.isEmpty()) return;
    const QString who = who_changed();
    // Changes by its own job are not reported.
    if (!jobs_->busy() || who != nobody_else)
        messages_.tell(QString("Changed by %1, and shown as it was written: %2.").arg(who, parts.join(", ")));
}

}  // namespace optrel
