// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/deliveries.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "base/error.h"
#include "base/words.h"
#include "store/engine.h"

namespace optrel {

std::vector<Delivery> StoredDeliveries::all() const {
    std::map<std::string, Delivery> by_name;
    for (const Delivery& r : shipped_deliveries()) by_name[lowered(r.name)] = r;
    QSqlQuery q = engine_.run("SELECT id, document FROM deliveries");
    while (q.next())
        by_name[text(q.value(0))] =
            delivery_from_json(text(q.value(1)), fmt::format("The delivery '{}' in the store", text(q.value(0))));
    std::vector<Delivery> out;
    for (auto& [name, delivery] : by_name) out.push_back(std::move(delivery));
    return out;
}

Delivery StoredDeliveries::named(const std::string& name) const { return delivery_named(all(), name); }

bool StoredDeliveries::own(const std::string& name) const {
    return engine_.run("SELECT 1 FROM deliveries WHERE id = ?", {text(lowered(trimmed(name)))}).next();
}

void StoredDeliveries::put(const Delivery& delivery) {
    Transaction transaction(engine_);
    engine_.run(upsert("deliveries", {"id", "document"}, "id"),
                {text(lowered(delivery.name)), text(delivery_to_json(delivery))});
    engine_.record({"", "", "delivery", delivery.name, "keep", "", delivery_to_json(delivery)});
    engine_.stamp("deliveries");
    transaction.commit();
}

void StoredDeliveries::remove(const std::string& name) {
    Transaction transaction(engine_);
    const Delivery there = named(name);
    if (!own(name))
        throw input_error(
            fmt::format("The delivery '{}' comes with Optrel and stays; save one of your own over it.", there.name));
    engine_.run("DELETE FROM deliveries WHERE id = ?", {text(lowered(there.name))});
    engine_.record({"", "", "delivery", there.name, "take out", delivery_to_json(there), ""});
    engine_.stamp("deliveries");
    transaction.commit();
}

const Delivery& delivery_named(const std::vector<Delivery>& deliveries, const std::string& name) {
    std::vector<std::string> names;
    for (const Delivery& r : deliveries) {
        if (lowered(r.name) == lowered(trimmed(name))) return r;
        names.push_back(r.name);
    }
    throw input_error(fmt::format("There is no delivery '{}'{}.", printable(name), nearest_clause(name, names)));
}

}  // namespace optrel
