#include "session.h"

#include "jobs.h"

namespace optrel {

Session::Session(const std::filesystem::path& store_folder) : store_(std::make_unique<Store>(store_folder)), jobs_(std::make_unique<Jobs>()) {
    undo_.setUndoLimit(200);
    connect(jobs_.get(), &Jobs::failed, this, [this](const QString& why) { emit told(why, true); });
    frames_ = store_->frames();
    bodies_ = store_->bodies();
    lenses_ = store_->lenses();
    profiles_ = store_->profiles();
    draft_ = store_->draft();
    current_ = store_->current_revision();
    reload_sheets();
}

Session::~Session() = default;

const Sheet* Session::sheet(const std::filesystem::path& frame) const {
    const auto it = sheets_.find(frame);
    return it == sheets_.end() ? nullptr : &it->second;
}

QString Session::sheet_problem(const std::filesystem::path& frame) const {
    const auto it = sheet_problems_.find(frame);
    return it == sheet_problems_.end() ? QString() : it->second;
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

void Session::set_draft(const Revision& draft) {
    if (!attempt([&] { store_->put_draft(draft); })) return;
    draft_ = draft;
    emit baselines_changed();
}

void Session::put_body(const Body& body) {
    if (attempt([&] { store_->put_body(body); })) reload_fleet();
}

void Session::put_lens(const LensEntry& lens) {
    if (attempt([&] { store_->put_lens(lens); })) reload_fleet();
}

void Session::add_folder(const QString& folder) {
    auto fresh = std::make_shared<std::vector<FrameRecord>>();
    auto problems = std::make_shared<std::vector<std::string>>();
    const std::vector<FrameRecord> known = frames_;
    const std::filesystem::path store_folder = store_->folder();
    jobs_->run(
        "Reading metadata",
        [=](Progress& progress) {
            *fresh = index_files(frame_files(folder.toStdString()), known, *problems, progress);
            Store(store_folder).put_frames(*fresh);  // a connection of the worker's own: the window does not wait for the disk
        },
        [=, this] {
            reload_fleet();
            reload_frames();
            QString message = QString("%1 frames are new or changed in %2.").arg(fresh->size()).arg(folder);
            if (!problems->empty()) message += QString(" %1 could not be read; the first: %2").arg(problems->size()).arg(QString::fromStdString(problems->front()));
            tell(message, !problems->empty());
        });
}

void Session::save_run(const RunRecord& run) {
    jobs_->run_in_order([folder = store_->folder(), run] { Store(folder).put_run(run); });
}

void Session::save_run_frame(int run, int position, const RunFrame& frame) {
    jobs_->run_in_order([folder = store_->folder(), run, position, frame] { Store(folder).put_run_frame(run, position, frame); });
}

void Session::write_frame_sheet(const std::filesystem::path& frame, const Sheet& sheet) {
    if (!attempt([&] { write_sheet(frame, sheet); })) return;
    sheets_[frame] = sheet;
    emit sheets_changed();
}

void Session::reload_frames() {
    attempt([this] { frames_ = store_->frames(); });
    emit frames_changed();
    reload_sheets();
}

void Session::reload_fleet() {
    attempt([this] {
        bodies_ = store_->bodies();
        lenses_ = store_->lenses();
    });
    emit fleet_changed();
}

void Session::reload_profiles() {
    attempt([this] { profiles_ = store_->profiles(); });
    emit profiles_changed();
}

void Session::reload_baselines() {
    attempt([this] {
        draft_ = store_->draft();
        current_ = store_->current_revision();
    });
    emit baselines_changed();
}

void Session::reload_sheets() {
    using Problems = std::map<std::filesystem::path, QString>;
    auto sheets = std::make_shared<std::map<std::filesystem::path, Sheet>>();
    auto problems = std::make_shared<Problems>();
    std::vector<std::filesystem::path> paths;
    for (const FrameRecord& f : frames_) paths.push_back(f.path);
    jobs_->run_quietly(
        [=] {
            for (const std::filesystem::path& path : paths) try {
                    (*sheets)[path] = read_sheet(path);
                } catch (const std::exception& error) {
                    (*problems)[path] = QString::fromUtf8(error.what());
                }
        },
        [=, this] {
            sheets_ = std::move(*sheets);
            sheet_problems_ = std::move(*problems);
            emit sheets_changed();
        });
}

}  // namespace optrel
