// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/store.h"

#include <fmt/format.h>

#include <QStandardPaths>
#include <algorithm>
#include <cctype>

#include "base/error.h"
#include "base/words.h"
#include "kinds/measurement_kinds.h"
#include "store/engine.h"
#include "store/postgres/postgres_engine.h"
#include "store/sqlite/sqlite_engine.h"
#include "store/studio_names.h"

namespace optrel {
namespace {

/// The scheme of an address such as "server://host/name"; empty for a folder.
std::string scheme_of(const std::string& address) {
    const std::size_t at = address.find(":/");
    if (at == std::string::npos || at < 2 || address.find('/') < at) return "";
    const std::string scheme = address.substr(0, at);
    const bool sound = std::all_of(scheme.begin(), scheme.end(),
                                   [](unsigned char c) { return std::isalnum(c) || c == '+' || c == '-'; });
    return sound ? scheme : "";
}

std::unique_ptr<Engine> open_engine(const std::string& address, Access access) {
    if (postgres::is_address(address)) return std::make_unique<postgres::PostgresEngine>(address, access);
    if (const std::string scheme = scheme_of(address); !scheme.empty())
        throw input_error(
            fmt::format("'{}' is no address of a store; name a folder, or postgresql://USER@HOST/NAME for a server.",
                        printable(address)));
    return std::make_unique<sqlite::SqliteEngine>(address, access);
}

}  // namespace

std::unique_ptr<const Store> StoreSource::open_for_reading() const {
    return std::make_unique<Store>(address_, Access::read);
}

Store StoreSource::open_for_writing() const { return Store(address_, Access::write); }

Store::Store(const std::string& address, Access access)
    : source_(address_named(address)), engine_(open_engine(source_.address(), access)) {
    engine_->tell_sealed([source = source_](const HistoryMark& mark) { keep_mark(source, mark); });
}

Store::~Store() = default;

bool Store::writable() const { return engine_->writable(); }

RolloutStore& Store::rollouts() { return engine_->rollouts(); }

const RolloutStore& Store::rollouts() const { return engine_->rollouts(); }

std::map<std::string, long long> Store::stamps() const {
    std::map<std::string, long long> out;
    QSqlQuery q = engine_->run("SELECT name, value FROM counters");
    while (q.next()) out[text(q.value(0))] = q.value(1).toLongLong();
    return out;
}

std::unique_ptr<StoreHold> Store::hold(const std::string& name) { return engine_->hold(name); }

bool Store::listen(QObject& context, std::function<void()> told) { return engine_->listen(context, std::move(told)); }

void Store::reachable_again() { engine_->reachable_again(); }

std::string Store::kept(const std::filesystem::path& path) const { return text(engine_->kept(path)); }

std::filesystem::path Store::here(const std::string& kept) const { return engine_->here(text(kept)); }

void Store::read_roots() { optrel::read_roots(*engine_); }

StorePeople* Store::people() { return engine_->people(); }

const StorePeople* Store::people() const { return engine_->people(); }

std::vector<DamagedRecord> Store::damaged_records() const {
    std::vector<DamagedRecord> out = baselines_.damaged();
    for (const MeasurementKind* kind : measurement_kinds())
        for (DamagedRecord& record : measurements_.damaged(*kind)) out.push_back(std::move(record));
    return out;
}

std::string Store::now() const { return engine_->now(); }

bool store_exists(const std::string& folder) {
    return !is_server_address(folder) && sqlite::is_store(address_named(folder));
}

std::string user_in(const std::string& address) {
    const std::string meant = address_named(address);
    return postgres::is_address(meant) ? postgres::parse_address(meant).user : "";
}

bool is_server_address(const std::string& address) { return postgres::is_address(address_named(address)); }

std::string default_store_address() {
    return QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation).toStdString() + "/optrel";
}

}  // namespace optrel
