// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/frame_book.h"

#include <algorithm>
#include <set>

#include "base/station.h"
#include "jobs.h"
#include "studio/take_in.h"
#include "window_words.h"

namespace optrel {
namespace {

FleetKnowledge work_out_of(const std::vector<FrameRecord>& frames, const Fleet& fleet,
                           const std::vector<Profile>& profiles) {
    FleetKnowledge out;
    out.facts = facts_of(frames, fleet);
    out.index = GroupIndex(out.facts.shared_groups());
    out.bodies = fleet_bodies(fleet, frames, out.facts);
    out.habits = RecordedHabits(out.groups());
    out.identities = identities_of(frames, fleet);
    for (const FactsGroup& g : out.groups()) {
        if (g.facts.iso > 0) {
            out.lowest_iso = std::min(out.lowest_iso, std::max(g.facts.iso, 25.0));
            out.highest_iso = std::max(out.highest_iso, std::min(g.facts.iso, 102400.0));
        }
        out.frames_of_body[g.facts.body] += g.frames;
        out.frames_of_lens[g.facts.lens_copy] += g.frames;
    }
    std::set<std::string> folders;
    for (const FrameRecord& f : frames) {
        folders.insert(f.path.parent_path().string());
        if (const std::string root = RootMap::missing(f.path); !root.empty()) ++out.missing_roots[root];
    }
    out.folders.assign(folders.begin(), folders.end());
    out.lens_use = lens_use(frames, fleet, profiles);
    return out;
}

}  // namespace

FrameBook::FrameBook(Store& store, Voice& voice, Jobs& jobs, const RegisterBook& entries, const ProfileBook& profiles)
    : SessionPart(store, voice, {"frames"}),
      jobs_(jobs),
      register_(entries),
      profiles_(profiles),
      any_(store.frames().count() > 0) {
    remember();
    connect(&register_, &RegisterBook::changed, this, &FrameBook::work_out);
    connect(&profiles_, &ProfileBook::changed, this, &FrameBook::work_out);
}

void FrameBook::add_folder(const QString& folder) {
    auto problems = std::make_shared<std::vector<std::string>>();
    auto count = std::make_shared<int>(0), bundles = std::make_shared<int>(0);
    const auto known = frames_;
    const StoreSource source = store_.source();
    jobs_.run(
        "Reading metadata",
        [=](Progress& progress) {
            Store store = source.open();  // a handle of the worker's own: the window does not wait for the disk
            std::vector<std::filesystem::path> lying;
            *count = index_files(
                frame_files(folder.toStdString(), *problems, &lying), *known,
                [&](const std::vector<FrameRecord>& portion) { store.frames().put(portion); }, *problems, progress);
            *bundles = offer_bundles(store, lying, *problems);
        },
        [=, this] {
            reload();
            QString message =
                QString(*count == 1 ? "%1 frame is new or changed in %2." : "%1 frames are new or changed in %2.")
                    .arg(*count)
                    .arg(folder);
            if (*bundles > 0) message += " A bundle lies there; Attention offers it.";
            if (!problems->empty())
                message += QString(" %1 could not be read; the first: %2")
                               .arg(problems->size())
                               .arg(QString::fromStdString(problems->front()));
            voice_.tell(message, !problems->empty());
        });
}

void FrameBook::reload() {
    auto fresh = std::make_shared<Frames>();
    auto problem = std::make_shared<QString>();
    remember();
    const int reading = ++reading_;
    jobs_.run_quietly(
        [=, source = store_.source()] {
            try {
                *fresh = source.open(Access::read).frames().all();
            } catch (const std::exception& error) {
                *problem = q(error.what());
            }
        },
        [=, this] {
            if (reading != reading_) return;  // a newer reading is under way
            if (!problem->isEmpty()) return voice_.tell(*problem, true);
            frames_ = fresh;
            any_ = !frames_->empty();
            emit changed();
            work_out();
        });
}

void FrameBook::work_out() {
    const int number = ++working_;
    auto out = std::make_shared<FleetKnowledge>();
    const auto frames = frames_;
    const auto fleet = register_.fleet();
    const auto profiles = std::make_shared<std::vector<Profile>>(profiles_.current());
    jobs_.run_quietly([=] { *out = work_out_of(*frames, *fleet, *profiles); },
                      [=, this] {
                          if (number != working_) return;  // something changed meanwhile; the newer one tells
                          knowledge_ = out;
                          emit knowledge_changed();
                      });
}

void FrameBook::place_root(const std::string& root, const std::filesystem::path& folder) {
    store_.roots().put({root, this_station(), folder});
    reload();
}

}  // namespace optrel
