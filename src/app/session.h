// What the window works on: the open store, what was read from it, and word of every change.
//
// Places ask the session and listen to it; they do not know one another.
#pragma once

#include <QObject>
#include <QUndoStack>
#include <functional>
#include <map>
#include <memory>

#include "studio/studio.h"

namespace optrel {

class Jobs;

class Session : public QObject {
    Q_OBJECT
public:
    explicit Session(const std::filesystem::path& store_folder);
    ~Session() override;

    Store& store() { return *store_; }
    Jobs& jobs() { return *jobs_; }
    QUndoStack& undo() { return undo_; }

    const std::vector<FrameRecord>& frames() const { return frames_; }
    const std::vector<Body>& bodies() const { return bodies_; }
    const std::vector<LensEntry>& lenses() const { return lenses_; }
    const std::vector<Profile>& profiles() const { return profiles_; }
    const Revision& draft() const { return draft_; }
    const Revision& current() const { return current_; }
    /// The sheet of a frame as last read; null when it was not read yet or cannot be read.
    const Sheet* sheet(const std::filesystem::path& frame) const;
    QString sheet_problem(const std::filesystem::path& frame) const;

    void set_draft(const Revision& draft);
    void put_body(const Body& body);
    void put_lens(const LensEntry& lens);
    void add_folder(const QString& folder);
    /// Saves a run that has an id, off the window's thread, in the order of the calls.
    void save_run(const RunRecord& run);
    /// The same for one frame of it, without waiting for work that is under way; nothing that is saved later is overtaken.
    void save_run_frame(int run, int position, const RunFrame& frame);
    /// Writes a frame's sheet and tells everybody.
    void write_frame_sheet(const std::filesystem::path& frame, const Sheet& sheet);

    /// Runs something that may throw, and shows the sentence when it does. True when it went well.
    bool attempt(const std::function<void()>& work);
    void tell(const QString& message, bool serious = false) { emit told(message, serious); }

public slots:
    void reload_frames();
    void reload_fleet();
    void reload_profiles();
    void reload_baselines();
    void reload_sheets();

signals:
    void frames_changed();
    void fleet_changed();
    void profiles_changed();
    void baselines_changed();
    void sheets_changed();
    void runs_changed();
    void told(const QString& message, bool serious);
    /// Somebody should look at a place, for instance by an action of Attention.
    void go_to(int place);
    void inspect_frame(const QString& path);

private:
    std::unique_ptr<Store> store_;
    std::unique_ptr<Jobs> jobs_;
    QUndoStack undo_;
    std::vector<FrameRecord> frames_;
    std::vector<Body> bodies_;
    std::vector<LensEntry> lenses_;
    std::vector<Profile> profiles_;
    Revision draft_, current_;
    std::map<std::filesystem::path, Sheet> sheets_;
    std::map<std::filesystem::path, QString> sheet_problems_;
};

}  // namespace optrel
