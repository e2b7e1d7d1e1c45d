// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/version_actions.h"

#include "reach/reach_dialog.h"

namespace optrel {

Cell version_cell(const Measurement& m) {
    if (!m.state.withdrawn.empty())
        return {QString("× %1").arg(m.version), Cell::Tone::warning, "Withdrawn: " + q(m.state.withdrawn)};
    if (m.state.is_current()) return {QString("● %1").arg(m.version), Cell::Tone::mark, "The current version"};
    return {QString::number(m.version), Cell::Tone::faint, "Another version is current"};
}

QString measured_body(const Measurement& m) {
    return q(m.subject.name + (m.subject.serial.empty() ? "" : "  " + m.subject.serial));
}

void make_version_current(const VersionParts& parts, QWidget* parent, const Measurement& version,
                          const QString& effect) {
    ask_with_reach(parts.jobs(), parts.profiles().source(), parent,
                   {.title = "Make a version current",
                    .heading = QString("%1: version %2 is to be current").arg(q(version.name)).arg(version.version),
                    .text = effect,
                    .verb = "Make &current",
                    .note = "Why"},
                   [parts, version](const std::string& reason) {
                       parts.attempt([&] { parts.profiles().make_current(version, reason); });
                   });
}

void withdraw_version(const VersionParts& parts, QWidget* parent, const Measurement& version, const QString& effect) {
    ask_with_reach(parts.jobs(), parts.profiles().source(), parent,
                   {.title = "Withdraw a version",
                    .heading = QString("Withdraw %1 version %2").arg(q(version.name)).arg(version.version),
                    .text = effect + " “Make current” takes it back.",
                    .verb = "&Withdraw",
                    .note = "Reason",
                    .note_needed = true},
                   [parts, version](const std::string& reason) {
                       parts.attempt([&] { parts.profiles().withdraw(version, reason); });
                   });
}

}  // namespace optrel
