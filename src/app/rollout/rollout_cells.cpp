// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/rollout_cells.h"

#include "base/choose.h"
#include "widgets/place.h"

namespace optrel {

Cell outcome_cell(const RehearsedFrame& f) {
    const Cell::Tone written = f.writes && !f.changes.empty() ? Cell::Tone::mark : Cell::Tone::plain;
    return {q(to_string(f.outcome)), f.outcome == Outcome::unreadable ? Cell::Tone::serious : written};
}

Cell changes_cell(const RehearsedFrame& f) {
    if (f.outcome == Outcome::unreadable) return {q(f.reason), Cell::Tone::serious};
    if (f.writes && f.changes.empty()) return {"only the revision number", Cell::Tone::faint};
    QStringList changes;
    for (const FieldChange& c : f.changes) changes << q(info(c.field).label) + " " + q(c.before) + " → " + q(c.after);
    return {changes.join(", ")};
}

std::function<Cell(const RolloutRecord&)> unless_damaged(std::function<Cell(const RolloutRecord&)> shows) {
    return [shows = std::move(shows)](const RolloutRecord& r) {
        return r.status == RolloutStatus::damaged ? Cell() : shows(r);
    };
}

QString scope_of(const RolloutRecord& r) {
    const QString of = r.scope.empty() ? QString("all frames") : q(r.scope);
    return r.takes_back == 0 ? of : QString("takes back of %1: %2").arg(r.takes_back).arg(of);
}

Cell status_cell(const RolloutRecord& r) {
    if (r.status == RolloutStatus::damaged) return {"✕ damaged", Cell::Tone::serious, q(r.problem)};
    const bool open = r.status == RolloutStatus::writing || r.status == RolloutStatus::rolling_back ||
                      r.status == RolloutStatus::preparing;
    if (open && !r.running_at.empty())
        return {"running at " + q(r.running_at), Cell::Tone::plain,
                "The station " + q(r.running_at) + " is at work on it"};
    if (r.status == RolloutStatus::writing && !r.hours.whole_day())
        return {"! waits", Cell::Tone::warning,
                "It writes at " + q(to_string(r.hours)) + ", by itself while a window is open"};
    const char* mark = first_of<const char*>({{open, "! stopped "}, {r.status == RolloutStatus::done, "✓ "}}, "↶ ");
    return {mark + q(to_string(r.status)), open ? Cell::Tone::warning : Cell::Tone::plain};
}

}  // namespace optrel
