// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/register_files.h"

#include <fmt/format.h>

#include <algorithm>
#include <functional>
#include <map>
#include <nlohmann/json.hpp>
#include <unordered_map>
#include <unordered_set>

#include "base/csv.h"
#include "base/error.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/words.h"
#include "fleet/register_index.h"

namespace optrel {
namespace {

using nlohmann::json;
constexpr int format_version = 1;

/// One property of an entry: its name in files, how to write it as text, how to take it over.
template <class T>
struct Column {
    const char* name;
    std::function<std::string(const T&)> get;
    std::function<void(T&, const std::string&)> set;  ///< throws Error(input) with the reason alone
};

double number_of(const std::string& text, double low, double high) {
    if (text.empty()) return 0;
    const auto v = parse_number(text);
    if (!v) throw input_error(fmt::format("'{}' is not a number", text));
    if (!(*v >= low && *v <= high))
        throw input_error(fmt::format("{} is out of range ({:g} to {:g})", text, low, high));
    return *v;
}
std::string number_text(double v) { return v == 0 ? "" : fmt::format("{}", v); }
bool flag_of(const std::string& text) {
    if (text == "yes" || text.empty()) return true;
    if (text == "no") return false;
    throw input_error(fmt::format("'{}' is neither yes nor no", text));
}

template <class T, class M>
Column<T> text_column(const char* name, M T::*member) {
    return {name, [=](const T& t) { return t.*member; },
            [=](T& t, const std::string& v) {
                if (v.size() > 2000) throw input_error("the text is longer than 2000 characters");
                t.*member = v;
            }};
}
template <class T, class M>
Column<T> number_column(const char* name, M T::*member, double high) {
    return {name, [=](const T& t) { return number_text(t.*member); },
            [=](T& t, const std::string& v) { t.*member = static_cast<M>(number_of(v, 0, high)); }};
}
template <class T>
Column<T> flag_column(const char* name, bool T::*member) {
    return {name, [=](const T& t) { return std::string(t.*member ? "yes" : "no"); },
            [=](T& t, const std::string& v) { t.*member = flag_of(v); }};
}

const std::vector<Column<Body>>& columns(const Body*) {
    static const std::vector<Column<Body>> list{text_column("id", &Body::id),
                                                text_column("maker", &Body::maker),
                                                text_column("model", &Body::model),
                                                text_column("serial_number", &Body::serial),
                                                text_column("asset_tag", &Body::asset_tag),
                                                text_column("name", &Body::name),
                                                text_column("room", &Body::room),
                                                text_column("condition", &Body::condition),
                                                flag_column("in_service", &Body::in_service),
                                                number_column("width_px", &Body::width, 200000),
                                                number_column("height_px", &Body::height, 200000),
                                                number_column("pitch_um", &Body::pitch_um, 100),
                                                text_column("notes", &Body::notes)};
    return list;
}
const std::vector<Column<LensEntry>>& columns(const LensEntry*) {
    static const std::vector<Column<LensEntry>> list{text_column("id", &LensEntry::id),
                                                     text_column("lens", &LensEntry::lens),
                                                     text_column("serial_number", &LensEntry::serial),
                                                     text_column("asset_tag", &LensEntry::asset_tag),
                                                     text_column("name", &LensEntry::name),
                                                     flag_column("contacts", &LensEntry::contacts),
                                                     number_column("focal_min_mm", &LensEntry::focal_min_mm, 5000),
                                                     number_column("focal_max_mm", &LensEntry::focal_max_mm, 5000),
                                                     number_column("aperture_min", &LensEntry::aperture_min, 512),
                                                     number_column("aperture_max", &LensEntry::aperture_max, 512),
                                                     text_column("room", &LensEntry::room),
                                                     flag_column("in_service", &LensEntry::in_service),
                                                     text_column("notes", &LensEntry::notes)};
    return list;
}
const std::vector<Column<ModelEntry>>& columns(const ModelEntry*) {
    static const std::vector<Column<ModelEntry>> list{text_column("id", &ModelEntry::id),
                                                      text_column("maker", &ModelEntry::maker),
                                                      text_column("model", &ModelEntry::model),
                                                      number_column("width_px", &ModelEntry::width, 200000),
                                                      number_column("height_px", &ModelEntry::height, 200000),
                                                      number_column("pitch_um", &ModelEntry::pitch_um, 100),
                                                      text_column("filter", &ModelEntry::filter),
                                                      text_column("recorded_adds", &ModelEntry::recorded_adds),
                                                      text_column("notes", &ModelEntry::notes)};
    return list;
}

template <class T>
std::string csv_of(const std::vector<T>& entries) {
    std::vector<std::vector<std::string>> rows(1);
    for (const auto& c : columns(static_cast<const T*>(nullptr))) rows.front().push_back(c.name);
    for (const T& e : entries) {
        rows.emplace_back();
        for (const auto& c : columns(&e)) rows.back().push_back(c.get(e));
    }
    return write_csv(rows);
}

std::string own_id(const Body& b) { return id_for(b); }
std::string own_id(const LensEntry& l) { return id_for(l); }
std::string own_id(const ModelEntry& m) {
    Metadata metadata;
    metadata.maker = m.maker;
    metadata.model = m.model;
    return camera_name(metadata);
}

std::vector<Body>& list_of(Register& r, const Body*) { return r.bodies; }
std::vector<LensEntry>& list_of(Register& r, const LensEntry*) { return r.lenses; }
std::vector<ModelEntry>& list_of(Register& r, const ModelEntry*) { return r.models; }
/// A copy of the register that an import grows, with what finding and checking an entry needs.
struct Growing {
    explicit Growing(const Register& now) : all(now), index(now) {
        note(all.models);
        note(all.bodies);
        note(all.lenses);
    }
    template <class T>
    void note(const std::vector<T>& list) {
        for (std::size_t i = 0; i < list.size(); ++i) place.emplace(key(list[i]), i);
    }
    static std::string key(const ModelEntry& m) { return "model " + m.id; }
    static std::string key(const Body& b) { return "body " + b.id; }
    static std::string key(const LensEntry& l) { return "lens " + l.id; }

    Register all;
    RegisterIndex index;
    std::unordered_map<std::string, std::size_t> place;  ///< of an entry in its list
    std::unordered_set<std::string> taken;               ///< keys that this import has brought
};

void require_name(const ModelEntry& m) {
    if (trimmed(m.model).empty()) throw input_error("a model needs a name in the column model");
}
void require_name(const Body& b) {
    if (trimmed(b.model).empty()) throw input_error("a body needs the name of its model in the column model");
}
void require_name(const LensEntry& l) {
    if (trimmed(l.lens).empty()) throw input_error("a lens needs its text in the column lens");
}

/// "; the nearest is ..." among names that are spelt almost like one, but not like it.
std::string almost(const std::string& name, const std::vector<std::string>& names) {
    for (const std::string& there : nearest(name, names))
        if (there != name && !there.starts_with(name + " ") && !name.starts_with(there + " ")) return there;
    return "";
}

// What a person may have mistyped: a name that something else has, a model or a lens that is almost one that is there.
void tell_likeness(const ModelEntry& m, const Register& all, RegisterImport& import) {
    std::vector<std::string> names;
    for (const ModelEntry& other : all.models) names.push_back(other.id);
    if (const std::string near = almost(m.id, names); !near.empty())
        import.remarks.push_back(fmt::format("The model '{}' is new; '{}' is there already.", m.id, near));
}
void tell_likeness(const Body& b, const Register& all, RegisterImport& import) {
    std::vector<std::string> cameras;
    for (const Body& other : all.bodies) {
        cameras.push_back(other.camera());
        if (!b.name.empty() && lowered(other.name) == lowered(b.name))
            import.remarks.push_back(
                fmt::format("The body {} has the name '{}', which {} has, too.", b.id, b.name, other.id));
    }
    for (const ModelEntry& m : all.models) cameras.push_back(m.id);
    if (std::find(cameras.begin(), cameras.end(), b.camera()) != cameras.end()) return;
    if (const std::string near = almost(b.camera(), cameras); !near.empty())
        import.remarks.push_back(
            fmt::format("The model '{}' of the body {} is new; '{}' is there already.", b.camera(), b.id, near));
}
void tell_likeness(const LensEntry& l, const Register& all, RegisterImport& import) {
    std::vector<std::string> texts;
    for (const LensEntry& other : all.lenses) {
        texts.push_back(other.lens);
        if (!l.name.empty() && lowered(other.name) == lowered(l.name))
            import.remarks.push_back(
                fmt::format("The lens {} has the name '{}', which {} has, too.", l.id, l.name, other.id));
    }
    if (std::find(texts.begin(), texts.end(), l.lens) != texts.end()) return;
    if (const std::string near = almost(l.lens, texts); !near.empty())
        import.remarks.push_back(fmt::format("The lens '{}' is new; '{}' is there already.", l.lens, near));
}

/// Takes one entry, given by its properties, into a copy of the register, and notes what it does.
template <class T>
void take(const std::map<std::string, std::string>& values, Growing& growing, std::vector<T>& out,
          RegisterImport& import) {
    T fresh;
    const auto apply = [&](T& entry) {
        for (const auto& c : columns(&entry))
            if (const auto v = values.find(c.name);
                v != values.end() && !(std::string(c.name) == "id" && v->second.empty()))
                try {
                    c.set(entry, v->second);
                } catch (const Error& error) {
                    throw input_error(fmt::format("{} in the column {}", error.what(), c.name));
                }
    };
    apply(fresh);
    if (fresh.id.empty()) fresh.id = own_id(fresh);
    std::vector<T>& list = list_of(growing.all, &fresh);
    const std::string key = Growing::key(fresh);
    const auto found = growing.place.find(key);
    const auto it =
        found == growing.place.end() ? list.end() : list.begin() + static_cast<std::ptrdiff_t>(found->second);
    if (!growing.taken.insert(key).second) throw input_error(fmt::format("'{}' stands there twice", fresh.id));
    T next = it == list.end() ? fresh : *it;
    if (it != list.end()) {
        apply(next);
        next.id = it->id;
    }
    require_name(next);
    if (it == list.end()) tell_likeness(next, growing.all, import);
    if (it != list.end()) growing.index.take_out(*it);
    growing.index.check(next);
    growing.index.put(next);
    if (it == list.end()) {
        growing.place.emplace(key, list.size());
        list.push_back(next);
        ++import.added;
    } else if (*it == next) {
        ++import.same;
        return;
    } else {
        *it = next;
        ++import.changed;
    }
    out.push_back(next);
}

template <class T>
void take_rows(const std::vector<std::vector<std::string>>& rows, const std::string& where, Growing& all,
               std::vector<T>& out, RegisterImport& import) {
    for (std::size_t r = 1; r < rows.size(); ++r) {
        if (rows[r].size() == 1 && rows[r][0].empty()) continue;
        if (rows[r].size() != rows[0].size())
            throw input_error(fmt::format(
                "{}, line {}, has {} columns where the first line names {}; nothing was imported, mend the line.",
                where, r + 1, rows[r].size(), rows[0].size()));
        std::map<std::string, std::string> values;
        for (std::size_t c = 0; c < rows[0].size(); ++c) values[rows[0][c]] = rows[r][c];
        try {
            take(values, all, out, import);
        } catch (const Error& error) {
            throw input_error(fmt::format("{}, line {}: {}; nothing was imported, mend the line.", where, r + 1,
                                          without_stop(error.what())));
        }
    }
}

template <class T>
bool knows_all(const std::vector<std::string>& names, std::string& stranger) {
    for (const std::string& name : names) {
        const auto& list = columns(static_cast<const T*>(nullptr));
        if (std::none_of(list.begin(), list.end(), [&](const Column<T>& c) { return name == c.name; })) {
            stranger = name;
            return false;
        }
    }
    return true;
}

template <class T>
std::string names_of_columns() {
    std::vector<std::string> names;
    for (const auto& c : columns(static_cast<const T*>(nullptr))) names.push_back(c.name);
    return fmt::format("{}", fmt::join(names, ", "));
}

template <class T>
json entry_json(const T& entry) {
    json j;
    for (const auto& c : columns(&entry))
        if (const std::string v = c.get(entry); !v.empty()) j[c.name] = v;
    return j;
}

template <class T>
void take_list(const json& document, const char* key, Growing& all, std::vector<T>& out, RegisterImport& import) {
    if (!document.contains(key)) return;
    for (const json& j : document.at(key)) {
        std::map<std::string, std::string> values;
        for (const auto& [name, value] : j.items())
            values[name] = value.is_string() ? value.template get<std::string>() : value.dump();
        take(values, all, out, import);
    }
}

}  // namespace

std::string bodies_to_csv(const std::vector<Body>& bodies) { return csv_of(bodies); }
std::string lenses_to_csv(const std::vector<LensEntry>& lenses) { return csv_of(lenses); }
std::string models_to_csv(const std::vector<ModelEntry>& models) { return csv_of(models); }

RegisterImport register_from_csv(const std::string& text, const std::string& where, const Register& now) {
    if (!is_utf8(text))
        throw input_error(
            fmt::format("{} is no UTF-8 text (its umlauts or accents are in another encoding, such as Latin-1); export "
                        "it again as UTF-8.",
                        where));
    const auto rows = read_csv(text, where);
    if (rows.empty()) throw input_error(fmt::format("{} is empty; the first line has to name the columns.", where));
    const auto has = [&](const char* name) { return std::find(rows[0].begin(), rows[0].end(), name) != rows[0].end(); };
    std::unordered_set<std::string> names;
    for (const std::string& name : rows[0])
        if (!names.insert(name).second)
            throw input_error(fmt::format("{} names the column '{}' twice; give each once.", where, name));
    if (rows[0].size() == 1 && rows[0][0].find(';') != std::string::npos)
        throw input_error(fmt::format("{} separates its columns by semicolons; export it again with commas.", where));
    RegisterImport import;
    Growing all(now);
    std::string stranger;
    const auto refuse = [&](const std::string& what, const std::string& names) {
        throw input_error(fmt::format("{} has the column '{}', which a list of {} does not have; its columns are {}.",
                                      where, stranger, what, names));
    };
    if (has("lens")) {
        if (!knows_all<LensEntry>(rows[0], stranger)) refuse("lenses", names_of_columns<LensEntry>());
        take_rows(rows, where, all, import.lenses, import);
    } else if (has("serial_number") || has("asset_tag") || has("room")) {
        if (!knows_all<Body>(rows[0], stranger)) refuse("bodies", names_of_columns<Body>());
        if (!has("model") && !has("id"))
            throw input_error(
                fmt::format("{} lacks the column 'model' (or 'id'), by which bodies are known; add it.", where));
        take_rows(rows, where, all, import.bodies, import);
    } else {
        if (!knows_all<ModelEntry>(rows[0], stranger)) refuse("models", names_of_columns<ModelEntry>());
        if (!has("model") && !has("id"))
            throw input_error(fmt::format(
                "{} lacks the column 'model' (or 'id'); bodies need serial_number as well, lenses the column lens.",
                where));
        take_rows(rows, where, all, import.models, import);
    }
    return import;
}

std::string to_json(const ModelEntry& m) { return json_text(entry_json(m)); }
std::string to_json(const Body& b) { return json_text(entry_json(b)); }
std::string to_json(const LensEntry& l) { return json_text(entry_json(l)); }

namespace {

template <class T>
T entry_from_json(const std::string& text) {
    const json j = json::parse(text, nullptr, false);
    if (!j.is_object()) throw input_error("The history of this entry is damaged, so that it cannot be read back.");
    T out;
    for (const auto& c : columns(&out))
        c.set(out, j.contains(c.name) && j[c.name].is_string() ? j[c.name].template get<std::string>() : std::string());
    return out;
}

}  // namespace

Body body_from_json(const std::string& text) { return entry_from_json<Body>(text); }
LensEntry lens_from_json(const std::string& text) { return entry_from_json<LensEntry>(text); }

std::vector<EntryChange> entry_changes(const std::string& before, const std::string& after) {
    const json a = json::parse(before, nullptr, false), b = json::parse(after, nullptr, false);
    std::vector<EntryChange> out;
    if (!a.is_object() || !b.is_object()) return out;
    json keys = a;
    keys.update(b);
    for (const auto& [key, unused] : keys.items()) {
        const auto text = [&, &k = key](const json& j) {
            if (!j.contains(k) || j[k] == "") return std::string("nothing");
            return printable(j[k].is_string() ? j[k].get<std::string>() : j[k].dump());
        };
        if (text(a) == text(b)) continue;
        std::string property = printable(key);
        std::replace(property.begin(), property.end(), '_', ' ');
        out.push_back({property, text(a), text(b)});
    }
    return out;
}

std::string register_to_json(const Register& entries, const std::vector<Claim>& claims) {
    json models = json::array(), bodies = json::array(), lenses = json::array(), list = json::array();
    for (const auto& m : entries.models) models.push_back(entry_json(m));
    for (const auto& b : entries.bodies) bodies.push_back(entry_json(b));
    for (const auto& l : entries.lenses) lenses.push_back(entry_json(l));
    for (const auto& c : claims) list.push_back(json::parse(claim_to_json(c)));
    return json_text({{"format", "optrel-fleet"},
                      {"format_version", format_version},
                      {"models", models},
                      {"bodies", bodies},
                      {"lenses", lenses},
                      {"claims", list}},
                     1) +
           "\n";
}

RegisterImport register_from_json(const std::string& text, const std::string& where, const Register& now) {
    try {
        const json j = parse_json(text, "it");
        if (!j.is_object() || j.value("format", "") != "optrel-fleet")
            throw input_error("it is not a register that Optrel wrote");
        if (j.value("format_version", 0) > format_version)
            throw input_error(fmt::format("its format {} is newer than this program reads ({}); update Optrel",
                                          j.value("format_version", 0), format_version));
        RegisterImport import;
        Growing all(now);
        take_list(j, "models", all, import.models, import);
        take_list(j, "bodies", all, import.bodies, import);
        take_list(j, "lenses", all, import.lenses, import);
        if (j.contains("claims"))
            for (const json& c : j["claims"]) {
                import.claims.push_back(claim_from_json(c.dump(), where));
                check_claim(import.claims.back());
            }
        return import;
    } catch (const json::exception& error) {
        throw input_error(
            fmt::format("The register in {} cannot be read: it is damaged ({}); restore the file from a copy.", where,
                        error.what()));
    } catch (const Error& error) {
        throw input_error(fmt::format("The register in {} cannot be used: {}; nothing was imported.", where,
                                      without_stop(error.what())));
    }
}

}  // namespace optrel
