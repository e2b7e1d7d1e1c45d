// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/session.h"

#include <algorithm>
#include <set>

#include "jobs.h"
#include "session/session_edits.h"
#include "studio/claim.h"
#include "studio/knowledge.h"
#include "studio/take_in.h"

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

}  // namespace

Session::Session(const std::string& store_address, Access access)
    : store_(open(store_address, access)),
      jobs_(std::make_unique<Jobs>()),
      sheets_(std::make_unique<SheetBook>(*jobs_)),
      runs_(*store_, *jobs_),
      rollouts_(*store_, *jobs_) {
    undo_.setUndoLimit(200);
    connect(jobs_.get(), &Jobs::failed, this, [this](const QString& why) { emit told(why, true); });
    connect(sheets_.get(), &SheetBook::changed, this, &Session::sheets_changed);
    connect(sheets_.get(), &SheetBook::told, this, &Session::told);
    fleet_ = store_->registry().fleet();
    profiles_ = store_->profiles().newest();
    draft_ = store_->baselines().draft();
    current_ = store_->baselines().current();
    count_changes();
    has_frames_ = store_->frames().count() > 0;
    stamps_ = store_->stamps();
    others_.setInterval(2000);
    connect(&others_, &QTimer::timeout, this, &Session::look_for_changes);
    others_.start();
    reload_frames();
}

Session::~Session() = default;

QString Session::profile_name(const std::string& id) const {
    for (const Profile& p : profiles_)
        if (p.id == id)
            return QString::fromStdString(p.name) +
                   (p.lens_serial.empty() ? QString() : ", " + QString::fromStdString(p.lens_serial));
    return QString::fromStdString(id);
}

const Resolver& Session::current_resolver() {
    if (!current_resolver_ || resolver_of_ != current_.number) {
        current_resolver_ = std::make_unique<const Resolver>(current_);
        resolver_of_ = current_.number;
    }
    return *current_resolver_;
}

bool Session::attempt(const std::function<void()>& work) {
    try {
        work();
        return true;
    } catch (const std::exception& error) {
        emit told(QString::fromUtf8(error.what()), true);
        return false;
    }
}

Revision Session::publish_draft(const std::string& note) {
    const Revision r = store_->baselines().publish(current_author(), note, &draft_);
    reload_baselines();
    return r;
}

StoredBaselines::Returned Session::return_to(int number, const std::string& note, StoredBaselines::DraftThen then) {
    const StoredBaselines::Returned r = store_->baselines().return_to(number, current_author(), note, then);
    reload_baselines();
    return r;
}

Profile Session::publish_profile(const Profile& profile, bool keep_settings) {
    const Profile p = store_->profiles().publish(profile, keep_settings);
    reload_profiles();
    return p;
}

void Session::edit_draft(const QString& what, const Revision& after) {
    auto entry = std::make_unique<DraftEntry>(*this, what, draft_, after);
    if (!entry->empty()) undo_.push(entry.release());
}

bool Session::put_draft(const Revision& after) {
    MergedDrafts merged;
    const bool done = attempt([&] { merged = store_->baselines().edit_draft(draft_, after); });
    if (done) draft_ = std::move(merged.draft);
    stamps_["draft"] = store_->stamps()["draft"];
    count_changes();
    for (const std::string& refused : merged.refused) emit told(QString::fromStdString(refused), true);
    emit baselines_changed();
    return done;
}

void Session::edit_fleet(const QString& what, FleetEdit edit) {
    if (edit.empty()) return;
    edit.what = what.toStdString();
    undo_.push(new FleetEntry(*this, what, std::move(edit)));
}

bool Session::put_fleet(const FleetEdit& edit) {
    const bool done = attempt([&] { store_->registry().edit(edit, current_author()); });
    stamps_["fleet"] = store_->stamps()["fleet"];
    reload_fleet();
    return done;
}

void Session::add_folder(const QString& folder) {
    auto problems = std::make_shared<std::vector<std::string>>();
    auto count = std::make_shared<int>(0);
    const auto known = frames_;
    const StoreSource source = store_->source();
    jobs_->run(
        "Reading metadata",
        [=](Progress& progress) {
            Store store = source.open();  // a handle of the worker's own: the window does not wait for the disk
            *count = index_files(
                frame_files(folder.toStdString(), *problems), *known,
                [&](const std::vector<FrameRecord>& portion) { store.frames().put(portion); }, *problems, progress);
        },
        [=, this] {
            reload_frames();
            QString message = QString("%1 frames are new or changed in %2.").arg(*count).arg(folder);
            if (!problems->empty())
                message += QString(" %1 could not be read; the first: %2")
                               .arg(problems->size())
                               .arg(QString::fromStdString(problems->front()));
            tell(message, !problems->empty());
        });
}

void Session::reload_frames() {
    auto fresh = std::make_shared<Frames>();
    auto problem = std::make_shared<QString>();
    stamps_["frames"] = store_->stamps()["frames"];
    const int reading = ++frames_reading_;
    jobs_->run_quietly(
        [=, source = store_->source()] {
            try {
                *fresh = source.open(Access::read).frames().all();
            } catch (const std::exception& error) {
                *problem = QString::fromUtf8(error.what());
            }
        },
        [=, this] {
            if (reading != frames_reading_) return;  // a newer reading is under way
            if (!problem->isEmpty()) return tell(*problem, true);
            frames_ = fresh;
            has_frames_ = !frames_->empty();
            emit frames_changed();
            sheets_->read(frames_);
            work_out();
        });
}

void Session::reload_fleet() {
    attempt([this] {
        fleet_ = store_->registry().fleet();
        draft_ = store_->baselines().draft();  // what the register adds to a start is part of it
        count_changes();
    });
    emit fleet_changed();
    work_out();
}

void Session::reload_profiles() {
    attempt([this] { profiles_ = store_->profiles().newest(); });
    stamps_["profiles"] = store_->stamps()["profiles"];
    emit profiles_changed();
    work_out();
}

void Session::reload_baselines() {
    attempt([this] {
        draft_ = store_->baselines().draft();
        current_ = store_->baselines().current();
        count_changes();
        const auto now = store_->stamps();
        for (const char* part : {"draft", "baselines"})
            if (const auto it = now.find(part); it != now.end()) stamps_[part] = it->second;
    });
    emit baselines_changed();
}

void Session::work_out() {
    const int number = ++work_number_;
    auto out = std::make_shared<FleetKnowledge>();
    const auto frames = frames_;
    const auto fleet = fleet_;
    auto profiles = std::make_shared<std::vector<Profile>>(profiles_);
    jobs_->run_quietly(
        [=] {
            out->facts = facts_of(*frames, *fleet);
            out->index = GroupIndex(group_facts(out->facts));
            out->bodies = fleet_bodies(*fleet, *frames, out->facts);
            out->habits = RecordedHabits(out->groups());
            out->identities = identities_of(*frames, *fleet);
            for (const FactsGroup& g : out->groups()) {
                if (g.facts.iso > 0) {
                    out->lowest_iso = std::min(out->lowest_iso, std::max(g.facts.iso, 25.0));
                    out->highest_iso = std::max(out->highest_iso, std::min(g.facts.iso, 102400.0));
                }
                out->frames_of_body[g.facts.body] += g.frames;
                out->frames_of_lens[g.facts.lens_copy] += g.frames;
            }
            std::set<std::string> folders;
            for (const FrameRecord& f : *frames) folders.insert(f.path.parent_path().string());
            out->folders.assign(folders.begin(), folders.end());
            out->lens_use = lens_use(*frames, *fleet, *profiles);
        },
        [=, this] {
            if (number != work_number_) return;  // something changed meanwhile; the newer one tells
            knowledge_ = out;
            emit knowledge_changed();
        });
}

void Session::look_for_changes() {
    if (jobs_->busy()) return;  // its own work writes as well
    std::map<std::string, long long> now;
    try {
        now = store_->stamps();
    } catch (const std::exception&) {
        return;  // locked for a moment; the next look will see
    }
    const auto changed = [&](const char* part) {
        const bool differs = now[part] != stamps_[part];
        stamps_[part] = now[part];
        return differs;
    };
    QStringList parts;
    if (changed("fleet")) {
        parts << "register";
        reload_fleet();
    }
    const bool draft = changed("draft"), baselines = changed("baselines");
    if (draft || baselines) {
        parts << (baselines ? "revisions" : "draft");
        reload_baselines();
    }
    if (changed("profiles")) {
        parts << "profiles";
        reload_profiles();
    }
    if (changed("frames")) reload_frames();
    if (!parts.isEmpty()) tell(QString("The %1 changed at another station and was read again.").arg(parts.join(", ")));
}

}  // namespace optrel
