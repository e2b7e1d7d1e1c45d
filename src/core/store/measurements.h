// SPDX-License-Identifier: GPL-3.0-or-later
// The published measurements of a store, of every kind (kinds/measurement_kinds.h).
#pragma once

#include <string>
#include <vector>

#include "measurement/kind.h"

namespace optrel {

class Engine;
struct Measurer;

class StoredMeasurements {
public:
    explicit StoredMeasurements(Engine& engine) : engine_(engine) {}

    /// All versions of one kind with their states, ordered by name, newest first.
    std::vector<Measurement> all_versions(const MeasurementKind& kind);
    /// Current version of each; those whose versions are all withdrawn are left out.
    std::vector<Measurement> current(const MeasurementKind& kind);
    /// Documents of one kind with id and version, ordered by id, newest first.
    struct Row {
        std::string id;
        int version = 0;
        std::string document;
        std::string where;  ///< name for messages: "Profile p7 version 2 in the store"
    };
    std::vector<Row> rows(const MeasurementKind& kind);
    /// Publications, withdrawals and changes of the current version, of every kind, oldest first.
    std::vector<VersionEvent> events();

    /// Publishes a document as the next version of the measurement with the same subject; returns it with id and
    /// version. Published versions are immutable. Throws Error(input) for a serious finding that nobody accepted, for a
    /// document that is not plausible, for one that needs an approval which it does not have, and when settings would
    /// be dropped although `others` does not allow it.
    Measurement publish(const MeasurementKind& kind, const std::string& document, OtherSettings others);

    /// Withdraws a version: the newest version that is not withdrawn takes its place, or none. Throws Error(input) for
    /// an unknown or withdrawn version, and for an empty reason.
    void withdraw(const MeasurementKind& kind, const std::string& id, int version, const std::string& reason,
                  const std::string& author);
    /// Makes a version current; a withdrawal of it is undone. Throws Error(input) for an unknown version, and for the
    /// current one.
    void make_current(const MeasurementKind& kind, const std::string& id, int version, const std::string& reason,
                      const std::string& author);

private:
    Measurement required(const MeasurementKind& kind, const std::string& id, int version);
    void add_event(const MeasurementKind& kind, const VersionEvent& event);

    Engine& engine_;
};

/// Sets name and standing of the signer by the keys that the store knows.
void judge_source(MeasurementSource& source, const std::vector<Measurer>& measurers);

}  // namespace optrel
