// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/session.h"

#include <QCoreApplication>
#include <QPointer>
#include <QThreadPool>
#include <algorithm>
#include <utility>

#include "base/station.h"
#include "jobs.h"
#include "studio/namesakes.h"
#include "studio/witness.h"

namespace optrel {

namespace {

std::unique_ptr<Store> open(const std::string& address, Access access) {
    try {
        return std::make_unique<Store>(address, access);
    } catch (const Error& error) {
        if (error.kind() != ErrorKind::store) throw;
        return std::make_unique<Store>(address, Access::read);  // throws again when it cannot be read either
    }
}

/// Of a change by this station itself, or by one that left no row in the history.
const QString nobody_else = "another station";

}  // namespace

Session::Session(const std::string& store_address, Access access)
    : store_(open(store_address, access)),
      jobs_(std::make_unique<Jobs>()),
      register_(std::make_unique<RegisterBook>(*store_, voice_, undo_)),
      baselines_(std::make_unique<BaselineBook>(*store_, voice_, undo_)),
      profiles_(std::make_unique<ProfileBook>(*store_, voice_)),
      frames_(std::make_unique<FrameBook>(*store_, voice_, *jobs_, *register_, *profiles_)),
      sheets_(std::make_unique<SheetBook>(*jobs_, voice_)),
      runs_(*store_, *jobs_),
      rollouts_(*store_, *jobs_),
      exports_(*store_, *jobs_, voice_),
      intake_(*store_, *jobs_, voice_),
      cameras_(*store_, *jobs_, intake_, *frames_, voice_),
      approvals_(*store_, voice_, *jobs_),
      travel_(*store_, voice_, *jobs_),
      work_(*store_, voice_, *jobs_),
      presence_(*store_, voice_, *jobs_) {
    sign_as(user_in(store_address));
    undo_.setUndoLimit(200);
    connect(jobs_.get(), &Jobs::failed, this, [this](const QString& why) { voice_.tell(why, true); });
    connect(register_.get(), &RegisterBook::changed, baselines_.get(), &BaselineBook::reload_draft);
    connect(frames_.get(), &FrameBook::changed, this, [this] { sheets_->read(frames_->shared()); });
    connect(frames_.get(), &FrameBook::changed, &travel_, &TravelDesk::reload);
    connect(&travel_, &TravelDesk::taken, this, [this] {
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
    // What waited when the program was closed.
    exports_.reload(store_->writable());
    // What arrived meanwhile.
    connect(&intake_, &IntakeDesk::arrived, frames_.get(), &FrameBook::reload);
    voice_.attempt([this] { intake_.watch(); });
    roots_ = store_->stamps()["roots"];
    // When the window is there to show it.
    QTimer::singleShot(0, this, [this] {
        voice_.attempt([this] {
            if (const std::string why = check_witness(*store_); !why.empty())
                voice_.tell(QString::fromStdString(why), true);
            // Names of stations matter where several share a store.
            if (!store_->people() || !(store_->people()->mine() >= Role::works)) return;
            for (const std::string& why : namesakes_in_words(store_->stations().arrive()))
                voice_.tell(QString::fromStdString(why), true);
        });
    });
}

Session::~Session() = default;

void Session::listen() {
    hear_.setObjectName("hear other stations");
    hear_.setSingleShot(true);
    hear_.setInterval(50);  // several words of one change are one
    connect(&hear_, &QTimer::timeout, this, &Session::look_for_changes);
    const auto told = [this] {
        heard_ = true;
        // Its own long work writes again and again; the timer looks then.
        if (!jobs_->busy() && !hear_.isActive()) hear_.start();
    };
    if (!store_->listen(*this, told)) return;
    // What is left to ask for by itself: what was heard while the window was at work, and whether the server is there.
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
            source.open(Access::read);
            there = true;
        } catch (const std::exception&) {
            // Not yet.
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

/// Who wrote to the store last, where that was somebody else.
QString Session::who_changed() {
    std::vector<HistoryEntry> last;
    voice_.attempt([&] { last = store_->history().entries("", "", 1); });
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
        // A folder is locked for a moment; the next look will see. A server that is away is told, once.
        if (is_server_address(store_->source().address()) && !std::exchange(lost_, true))
            voice_.tell(
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
    if (std::exchange(lost_, false)) voice_.tell("The server of the store can be reached again.");
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
    // While it works by itself, what it writes into the frames would be read anew all the time.
    if (!jobs_->busy() && !frames_->changed_elsewhere(now).empty()) frames_->reload();
    if (!approvals_.changed_elsewhere(now).empty()) approvals_.reload();
    if (!travel_.changed_elsewhere(now).empty()) travel_.reload();
    if (!work_.changed_elsewhere(now).empty()) work_.reload();
    if (!presence_.changed_elsewhere(now).empty()) presence_.reload();
    intake_.take_over(intake_.changed_elsewhere(now));
    if (parts.isEmpty()) return;
    const QString who = who_changed();
    // Its own work writes as well, by a handle of its own.
    if (!jobs_->busy() || who != nobody_else)
        voice_.tell(QString("Changed by %1, and shown as it was written: %2.").arg(who, parts.join(", ")));
}

}  // namespace optrel
