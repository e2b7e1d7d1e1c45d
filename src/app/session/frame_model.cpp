// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/frame_model.h"

#include "base/station.h"
#include "jobs.h"
#include "studio/intake/take_in.h"
#include "window_words.h"

namespace optrel {

FrameModel::FrameModel(Store& store, Messages& messages, Jobs& jobs, const RegisterModel& entries,
                       const ProfileModel& profiles)
    : SessionPart(store, messages, {"frames"}),
      jobs_(jobs),
      register_(entries),
      profiles_(profiles),
      any_(store.frames().count() > 0) {
    remember();
    connect(&register_, &RegisterModel::changed, this, &FrameModel::work_out);
    connect(&profiles_, &ProfileModel::changed, this, &FrameModel::work_out);
}

void FrameModel::add_folder(const QString& folder) {
    auto problems = std::make_shared<std::vector<std::string>>();
    auto count = std::make_shared<int>(0), bundles = std::make_shared<int>(0);
    const auto known = frames_;
    const StoreSource source = store_.source();
    jobs_.run(
        "Reading metadata",
        [=](Progress& progress) {
            Store store =
                source.open_for_writing();  // a separate handle, so that the window does not wait for the disk
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
            messages_.tell(message, !problems->empty());
        });
}

void FrameModel::reload() {
    auto fresh = std::make_shared<Frames>();
    auto problem = std::make_shared<QString>();
    remember();
    const int reading = ++reading_;
    jobs_.run_quietly(
        [=, source = store_.source()] {
            try {
                *fresh = source.open_for_reading()->frames().all();
            } catch (const std::exception& error) {
                *problem = q(error.what());
            }
        },
        [=, this] {
            if (reading != reading_) return;  // a newer reading is running
            if (!problem->isEmpty()) return messages_.tell(*problem, true);
            frames_ = fresh;
            any_ = !frames_->empty();
            emit changed();
            work_out();
        });
}

void FrameModel::work_out() {
    const int number = ++working_;
    auto out = std::make_shared<FleetKnowledge>();
    const auto frames = frames_;
    const auto fleet = register_.fleet();
    const auto profiles = std::make_shared<std::vector<Profile>>(profiles_.current());
    jobs_.run_quietly([=] { *out = fleet_knowledge(*frames, *fleet, *profiles); },
                      [=, this] {
                          if (number != working_) return;  // out of date; a newer computation is running
                          knowledge_ = out;
                          emit knowledge_changed();
                      });
}

void FrameModel::place_root(const std::string& root, const std::filesystem::path& folder) {
    store_.roots().put({root, this_station(), folder});
    reload();
}

}  // namespace optrel
