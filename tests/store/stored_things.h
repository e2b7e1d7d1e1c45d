// SPDX-License-Identifier: GPL-3.0-or-later
// Small things to keep in a store.
#pragma once

#include <QSqlDatabase>
#include <QSqlQuery>
#include <QVariant>
#include <catch2/catch.hpp>

#include "store/store.h"
#include "support/support.h"

namespace optrel::test {

inline FrameRecord record(const char* name, const char* serial) {
    FrameRecord f;
    f.path = std::string("/frames/") + name;
    Metadata m = f.metadata;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.body_serial = serial;
    m.lens = "Lumenfold 35mm f/2.8";
    m.lens_serial = "LF1";
    m.iso = 800;
    m.focal_mm = 35;
    m.width = 2464;
    m.height = 1640;
    m.pitch_um = 9.4;
    f.metadata = m;
    f.size = 123;
    f.modified = 456;
    return f;
}

inline Profile profile(const char* id, const char* serial = "LF1") {
    Profile p;
    p.id = id;
    p.name = p.lens = "Lumenfold 35mm f/2.8";
    p.lens_serial = serial;
    p.camera = "Brimholt B2";
    p.geometry = {2464, 1640, 9.4};
    ProfileNode n;
    n.focal_mm = 35;
    p.nodes = {n};
    return p;
}

inline Revision draft_with(double exposure) {
    Revision r;
    Tier t;
    t.id = t.name = "studio";
    t.pins[Field::exposure] = Pin::constant({exposure, ""});
    r.tiers = {t};
    return r;
}

/// Runs SQL on a store's file, as another program would.
class Other {
public:
    explicit Other(const fs::path& folder, const std::string& file = "store.sqlite") {
        db_ = QSqlDatabase::addDatabase("QSQLITE", "other");
        db_.setDatabaseName(QString::fromStdString((folder / file).string()));
        REQUIRE(db_.open());
    }
    ~Other() {
        db_.close();
        db_ = QSqlDatabase();
        QSqlDatabase::removeDatabase("other");
    }
    void run(const char* sql) {
        QSqlQuery q(db_);
        REQUIRE(q.exec(sql));
    }
    int number(const char* sql) {
        QSqlQuery q(db_);
        REQUIRE(q.exec(sql));
        REQUIRE(q.next());
        return q.value(0).toInt();
    }

private:
    QSqlDatabase db_;
};

}  // namespace optrel::test
