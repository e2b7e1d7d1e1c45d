// SPDX-License-Identifier: GPL-3.0-or-later
// The published measurements of a store, of every kind (kinds/measurement_kinds.h).
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "base/error.h"
#include "measurement/kind.h"
#include "store/damaged_record.h"

namespace optrel {

class Engine;
struct Measurer;

class StoredMeasurements {
public:
    explicit StoredMeasurements(Engine& engine) : engine_(engine) {}

    /// All versions of one kind with their states, ordered by name, newest first. Leaves out what damaged() names,
    /// and adds it to `damaged` when given.
    std::vector<Measurement> all_versions(const MeasurementKind& kind,
                                          std::vector<DamagedRecord>* damaged = nullptr) const;
    /// Current version of each; those whose versions are all withdrawn are left out.
    std::vector<Measurement> current(const MeasurementKind& kind) const;
    /// Documents of one kind with id and version, ordered by id, newest first.
    struct Row {
        std::string id;
        int version = 0;
        std::string document;
        std::string where;  ///< name for messages: "Profile p7 version 2 in the store"
    };
    std::vector<Row> rows(const MeasurementKind& kind) const;
    /// Versions of one kind whose documents cannot be read, or name another measurement than their row.
    std::vector<DamagedRecord> damaged(const MeasurementKind& kind) const;
    /// Publications, withdrawals and changes of the current version, of every kind, oldest first.
    std::vector<VersionEvent> events() const;

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
    std::vector<Measurement> parsed(const MeasurementKind& kind, std::vector<DamagedRecord>* damaged) const;
    Measurement required(const MeasurementKind& kind, const std::string& id, int version) const;
    void add_event(const MeasurementKind& kind, const VersionEvent& event);

    Engine& engine_;
};

/// The documents of rows as `parse` reads them. Leaves out those that it cannot read and those that name another id or
/// version than their row, and adds them to `damaged`.
template <class Parse>
auto parse_rows(const std::vector<StoredMeasurements::Row>& rows, const Parse& parse,
                std::vector<DamagedRecord>* damaged = nullptr) {
    std::vector<decltype(parse(rows[0].document, rows[0].where))> out;
    for (const StoredMeasurements::Row& row : rows) {
        std::string problem;
        try {
            auto read = parse(row.document, row.where);
            if (read.id == row.id && read.version == row.version) {
                out.push_back(std::move(read));
                continue;
            }
            problem = "Its document belongs to another measurement or version.";
        } catch (const Error& e) {
            problem = e.what();
        }
        if (damaged) damaged->push_back({"", row.where, problem});
    }
    return out;
}

/// Sets name and standing of the signer by the keys that the store knows.
void judge_source(MeasurementSource& source, const std::vector<Measurer>& measurers);

}  // namespace optrel
