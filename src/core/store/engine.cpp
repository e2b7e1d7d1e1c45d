// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/engine.h"

#include "base/error.h"
#include "base/words.h"

namespace optrel {
void Engine::record(HistoryEntry entry) {
    // Names may contain invalid UTF-8; the seal must cover what can be read back.
    for (std::string* said : {&entry.author, &entry.subject, &entry.what, &entry.before, &entry.after})
        if (!is_utf8(*said)) *said = printable(*said);
    Transaction own_or_joined(*this);
    told_.push_back(std::move(entry));
    own_or_joined.commit();
}

QVariant Engine::kept(const std::filesystem::path& path) const { return text(roots_.kept(path)); }

std::filesystem::path Engine::here(const QVariant& kept) const { return roots_.here(text(kept)); }

Transaction::Transaction(Engine& engine) : engine_(engine) {
    if (engine_.depth_ == 0) {
        engine_.begin();
        engine_.doomed_ = false;
    }
    ++engine_.depth_;
}

Transaction::Transaction(Engine& engine, const std::string& part) : Transaction(engine) { engine.lock_part(part); }

Transaction::Transaction(Engine& engine, Manner) : Transaction(engine) { engine.read_one_instant(); }

Transaction::~Transaction() {
    if (!open_) return;
    engine_.doomed_ = true;
    if (--engine_.depth_ > 0) return;
    engine_.told_.clear();
    ++engine_.taken_back_;
    engine_.roll_back();
}

void Transaction::commit() {
    if (engine_.doomed_) throw store_error("A part of this change was given up, so nothing of it was kept; try again.");
    if (engine_.depth_ == 1) {
        HistoryMark newest;
        for (const HistoryEntry& entry : engine_.told_) newest = write_history(engine_, entry);
        engine_.told_.clear();
        engine_.commit();
        if (newest.id > 0 && engine_.sealed_told_) engine_.sealed_told_(newest);
    }
    --engine_.depth_;
    open_ = false;
}

}  // namespace optrel
