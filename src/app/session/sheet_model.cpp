// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/sheet_model.h"

#include <optional>

#include "base/error.h"
#include "jobs.h"
#include "studio/frames/sheet_reader.h"
#include "window_words.h"

namespace optrel {
namespace {

/// Reads the sheets of frames from disk.
struct SheetsRead {
    std::shared_ptr<SheetModel::Known> known = std::make_shared<SheetModel::Known>();
    std::map<int, int> open_at_revision;

    void read(const SheetModel::Frames& frames) {
        known->places = FramePlaces(frames);
        known->sheets.reserve(frames->size());
        SheetReader reader;
        for (const FrameRecord& f : *frames) try {
                const std::shared_ptr<const Sheet> sheet = reader.read(f.path);
                if (sheet->follows_baseline()) ++open_at_revision[sheet->revision];
                known->sheets.push_back(sheet);
            } catch (const std::exception& error) {
                known->sheets.emplace_back();
                known->problems.emplace(f.path.string(), q(error.what()));
            }
    }
};

}  // namespace

/// Sheets to be written, with the result for each.
struct SheetModel::Writing {
    struct One {
        std::filesystem::path frame;
        Sheet before, after;
        std::optional<Sheet> now;
        std::string problem;
    };
    std::vector<One> sheets;

    void run(Progress& progress) {
        progress.start(static_cast<int>(sheets.size()), "Writing sheets");
        for (One& w : sheets) {
            if (progress.cancelled()) return;
            try {
                SheetWrite done = replace_sheet(w.frame, w.before, w.after);
                w.now = done.sheet;
                w.problem = done.clash;
            } catch (const std::exception& error) {
                w.problem = reason_for(w.frame, error);
            }
            progress.step();
        }
    }
};

std::shared_ptr<const Sheet>& SheetModel::Known::of(const std::string& frame) {
    const std::optional<std::size_t> at = places.of(frame);
    return at ? sheets[*at] : others[frame];
}

const Sheet* SheetModel::find(const std::filesystem::path& frame) const {
    if (const std::optional<std::size_t> at = known_->places.of(frame.string())) return known_->sheets[*at].get();
    const auto it = known_->others.find(frame.string());
    return it == known_->others.end() ? nullptr : it->second.get();
}

QString SheetModel::problem(const std::filesystem::path& frame) const {
    const auto it = known_->problems.find(frame.string());
    return it == known_->problems.end() ? QString() : it->second;
}

int SheetModel::behind(int revision) const {
    int out = 0;
    for (const auto& [of, frames] : open_at_revision_)
        if (of < revision) out += frames;
    return out;
}

std::vector<NotedFrame> SheetModel::noted_otherwise(const std::set<std::string>& current) const {
    std::vector<NotedFrame> out;
    // Distinct sheets are few, and are stored beside the frames.
    if (known_->sheets.size() != frames_->size()) return out;
    for (std::size_t i = 0; i < frames_->size(); ++i) {
        const std::shared_ptr<const Sheet>& sheet = known_->sheets[i];
        if (sheet && !sheet->profile.empty() && !current.count(sheet->profile)) out.emplace_back((*frames_)[i], sheet);
    }
    return out;
}

void SheetModel::read(const Frames& frames) {
    frames_ = frames;
    auto fresh = std::make_shared<SheetsRead>();
    const int reading = ++readings_, writes = writes_;
    jobs_.run_quietly([=] { fresh->read(frames); },
                      [=, this] {
                          if (reading != readings_) return;            // a newer reading is running
                          if (writes != writes_) return read_again();  // something was written during the reading
                          jobs_.give_back(std::exchange(known_, std::move(fresh->known)));
                          open_at_revision_ = std::move(fresh->open_at_revision);
                          emit changed();
                      });
}

void SheetModel::take_written(const std::filesystem::path& frame, const Sheet& sheet) {
    std::shared_ptr<const Sheet>& known = known_->of(frame.string());
    if (!known) known = std::make_shared<const Sheet>();
    if (known->follows_baseline()) --open_at_revision_[known->revision];
    if (sheet.follows_baseline()) ++open_at_revision_[sheet.revision];
    known = std::make_shared<const Sheet>(sheet);
    ++writes_;
}

void SheetModel::take(const Writing& writing) {
    std::vector<std::string> problems;
    int left = 0;
    for (const Writing::One& w : writing.sheets) {
        if (w.now) take_written(w.frame, *w.now);
        if (!w.problem.empty()) problems.push_back(w.problem);
        left += !w.now && w.problem.empty();
    }
    if (left)
        problems.push_back(
            QString("%1 sheets were not written, because the work was cancelled; undo takes the others back.")
                .arg(left)
                .toStdString());
    if (!problems.empty()) {
        QString text = QString::fromStdString(problems.front());
        if (problems.size() > 1) text += QString(" %1 more could not be written.").arg(problems.size() - 1);
        messages_.tell(text, true);
    }
    emit changed();
}

void SheetModel::write(const Written& sheets) {
    auto writing = std::make_shared<Writing>();
    for (const auto& [frame, sheet] : sheets) {
        const Sheet* known = find(frame);
        writing->sheets.push_back({frame, known ? *known : Sheet(), sheet, {}, {}});
    }
    if (sheets.size() <= 8) {
        Progress none;
        writing->run(none);
        return take(*writing);
    }
    jobs_.run(
        "Writing sheets", [writing](Progress& progress) { writing->run(progress); },
        [this, writing] { take(*writing); });
}

}  // namespace optrel
