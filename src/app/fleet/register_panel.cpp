// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/register_panel.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QSplitter>
#include <QVBoxLayout>

#include "base/error.h"
#include "base/figure_text.h"
#include "fleet/register_cells.h"
#include "reach/reach_dialog.h"
#include "shared/claim_dialog.h"
#include "studio/fleet/merge.h"
#include "widgets/choose_entry.h"
#include "widgets/place.h"

namespace optrel {
namespace {

Cell text_or(const std::string& text, const char* otherwise) {
    return text.empty() ? Cell(otherwise, Cell::Tone::faint) : Cell(q(text));
}

/// Differences between two versions of an entry, for example "room: East → West".
QString what_changed(const std::string& before, const std::string& after) {
    if (before.empty()) return "new";
    if (after.empty()) return "taken out";
    QStringList out;
    for (const EntryChange& c : entry_changes(before, after))
        out << q(c.property) + ": " + q(c.before) + " → " + q(c.after);
    return out.join(", ");
}

template <class Entry>
ColumnOf<Entry> text_of(const Column& column, std::string Entry::*text, const char* otherwise) {
    return {column, [=](const Entry& e) { return text_or(e.*text, otherwise); }};
}

template <class Entry>
ColumnOf<Entry> in_service(int width) {
    return {edited_column("In service", width),
            [](const Entry& e) { return e.in_service ? Cell("yes") : Cell("no", Cell::Tone::warning); }};
}

/// Number of indexed frames of an entry.
template <class Entry>
ColumnOf<Entry> frames_of(const FrameModel& frames, std::unordered_map<std::string, int> FleetKnowledge::*seen,
                          int width) {
    return {figure_column("Frames", width), [&frames, seen](const Entry& e) {
                const auto& of = frames.knowledge().*seen;
                const auto it = of.find(e.id);
                return figure_cell(it == of.end() ? 0 : it->second);
            }};
}

/// The newest profile of this copy, otherwise of its model.
Cell newest_profile_cell(const ProfileModel& profiles, const LensEntry& l) {
    Cell profile("none", Cell::Tone::warning);
    for (const Profile& p : profiles.current()) {
        const LensTextMatch match = compare_lens_texts(p.lens, l.lens);
        if (match == LensTextMatch::different) continue;
        const bool own = match == LensTextMatch::same && !l.serial.empty() && p.lens_serial == l.serial;
        if (own || profile.tone == Cell::Tone::warning)
            profile = Cell(QString(own ? "own copy, v%1, %2" : "same model, v%1, %2")
                               .arg(p.version)
                               .arg(local_day(p.provenance.time)),
                           Cell::Tone::mark, "last measured " + full_local_time(p.provenance.time));
        if (own) break;
    }
    return profile;
}

Cell focal_cell(const LensEntry& l) {
    if (l.focal_min_mm <= 0) return {"not known", Cell::Tone::faint};
    return {l.zoom() ? QString("%1-%2").arg(l.focal_min_mm).arg(l.focal_max_mm) : QString::number(l.focal_min_mm)};
}

Cell aperture_cell(const LensEntry& l) {
    if (l.aperture_min <= 0) return {"not known", Cell::Tone::faint};
    return {l.aperture_max > 0 ? QString("%1-%2").arg(l.aperture_min).arg(l.aperture_max)
                               : QString("from %1").arg(l.aperture_min)};
}

Cell recorded_adds_cell(const ModelEntry& m) {
    QStringList adds;
    if (!m.recorded_adds.empty()) try {
            for (const auto& [field, pin] : pins_from_json(m.recorded_adds, m.id))
                adds << q(info(field).label) + " = " + q(describe(field, pin));
        } catch (const Error&) {
            adds << "cannot be read";
        }
    if (!adds.isEmpty()) return {adds.join("; ")};
    return {"nothing", Cell::Tone::faint,
            "What bodies of this model do when they record, beside what their files say; as in Luminance NR = 100: 0, "
            "6400: 40; …"};
}

}  // namespace

Table* RegisterPanel::new_bodies_table() {
    auto* table =
        new TableOf<Body>("Bodies", {text_of(edited_column("Name"), &Body::name, "unnamed"),
                                     text_of(edited_column("Asset tag", 80), &Body::asset_tag, "none"),
                                     {text_column("Model", 128), [](const Body& b) { return Cell(q(b.camera())); }},
                                     text_of(edited_column("Serial number", 104), &Body::serial, "none"),
                                     text_of(edited_column("Room", 96), &Body::room, "not said"),
                                     text_of(edited_column("Condition", 140), &Body::condition, "as made"),
                                     in_service<Body>(66),
                                     text_of(edited_column("Notes"), &Body::notes, "none"),
                                     frames_of<Body>(parts_.frames(), &FleetKnowledge::frames_of_body, 58)});
    fill_ = [this, table] { table->show_records(parts_.entries().bodies()); };
    return table;
}

Table* RegisterPanel::new_lenses_table() {
    using Lens = LensEntry;
    auto* table = new TableOf<Lens>(
        "Lenses",
        {text_of(edited_column("Name"), &Lens::name, "unnamed"),
         text_of(edited_column("Asset tag", 66), &Lens::asset_tag, "none"),
         {text_column("Lens", 170), [](const Lens& l) { return Cell(q(l.lens)); }},
         text_of(edited_column("Serial number", 94), &Lens::serial, "none"),
         {text_column("Profile", 166), [this](const Lens& l) { return newest_profile_cell(parts_.profiles(), l); }},
         {edited_column("Contacts", 58),
          [](const Lens& l) {
              return l.contacts ? Cell("yes")
                                : Cell("no", Cell::Tone::plain, "files do not report it; assign it to frames");
          }},
         {edited_figure_column("Focal / mm", 72), focal_cell},
         {edited_figure_column("f-number", 60), aperture_cell},
         text_of(edited_column("Room", 76), &Lens::room, "not said"),
         in_service<Lens>(64),
         text_of(edited_column("Notes"), &Lens::notes, "none"),
         frames_of<Lens>(parts_.frames(), &FleetKnowledge::frames_of_lens, 52)});
    fill_ = [this, table] { table->show_records(parts_.entries().lenses()); };
    return table;
}

Table* RegisterPanel::new_models_table() {
    using Model = ModelEntry;
    auto* table = new TableOf<Model>(
        "Models", {{text_column("Model", 150), [](const Model& m) { return Cell(q(m.id)); }},
                   {edited_figure_column("Sensor / px", 100),
                    [](const Model& m) {
                        return m.width ? Cell(QString("%1 × %2").arg(m.width).arg(m.height))
                                       : Cell("not known", Cell::Tone::faint);
                    }},
                   {edited_figure_column("Pitch / µm", 74),
                    [](const Model& m) {
                        return m.pitch_um > 0 ? Cell(q(number_text(figures::pitch, m.pitch_um)))
                                              : Cell("not known", Cell::Tone::faint);
                    }},
                   text_of(edited_column("Filter", 64), &Model::filter, "not known"),
                   {edited_column("Start 'as recorded' adds"), recorded_adds_cell},
                   {figure_column("Bodies", 58),
                    [this](const Model& m) {
                        const auto& all = parts_.entries().bodies();
                        return figure_cell(
                            std::count_if(all.begin(), all.end(), [&](const Body& b) { return b.camera() == m.id; }));
                    }},
                   text_of(edited_column("Notes", 220), &Model::notes, "none")});
    fill_ = [this, table] { table->show_records(parts_.entries().fleet()->entries().models); };
    return table;
}

RegisterPanel::RegisterPanel(const Parts& parts, Kind kind, QWidget* parent)
    : QWidget(parent), parts_(parts), kind_(kind) {
    if (kind == Kind::bodies) table_ = new_bodies_table();
    if (kind == Kind::lenses) table_ = new_lenses_table();
    if (kind == Kind::models) table_ = new_models_table();
    add_ = button(kind == Kind::lenses ? "Add &lens…" : "Add &body…",
                  "Enters one by hand, for instance one that files do not name");
    merge_ = button("&Merge into…",
                    "The chosen entry is another one of the list: its claims go there, and it leaves the register");
    remove_ = button("Take &out…", "Takes the chosen entry out of the register; its frames wait to be claimed again");
    for (QPushButton* b : {add_, merge_, remove_}) b->setVisible(kind != Kind::models);
    of_ = heading("");
    const QString claims_of = by_kind("Claims of the body", "Claims of the lens", "Claims");
    claims_ = new TableOf<Claim>(claims_of,
                                 {{text_column("Claimed for it"),
                                   [](const Claim& c) {
                                       // An entry without claims shows how it is identified.
                                       if (c.target.empty())
                                           return Cell("only the serial number in the register", Cell::Tone::faint);
                                       return Cell(q(describe(c)), Cell::Tone::plain, q(c.note));
                                   }},
                                  {text_column("By", 76), [](const Claim& c) { return Cell(q(c.author)); }},
                                  {text_column("When", 84), [](const Claim& c) { return day_cell(c.time); }}},
                                 this);
    claims_->setVisible(kind != Kind::models);
    history_ = new TableOf<HistoryEntry>(
        by_kind("History of the body", "History of the lens", "History of the model"),
        {{text_column("When, local", 128), [](const HistoryEntry& h) { return time_cell(h.time); }},
         {text_column("Who", 76), [](const HistoryEntry& h) { return Cell(q(h.author)); }},
         {text_column("What"), [](const HistoryEntry& h) {
              const QString what = what_changed(h.before, h.after);
              return Cell(q(h.what) + (what.isEmpty() ? "" : ": " + what), Cell::Tone::plain, what);
          }}});
    lay_out();
    give_bundles();
    connect(table_, &Table::chosen_changed, this, &RegisterPanel::refresh_detail);
    connect(table_, &Table::cell_edited, this, &RegisterPanel::edit);
    connect(add_, &QPushButton::clicked, this, &RegisterPanel::add_entry);
    connect(merge_, &QPushButton::clicked, this, &RegisterPanel::merge);
    connect(remove_, &QPushButton::clicked, this, &RegisterPanel::take_out);
    connect(claims_, &QAbstractItemView::doubleClicked, this, &RegisterPanel::open_claim);
    connect(&parts_.entries(), &RegisterModel::changed, this, &RegisterPanel::refresh);
    connect(&parts_.frames(), &FrameModel::knowledge_changed, this, &RegisterPanel::refresh);
    connect(&parts_.profiles(), &ProfileModel::changed, this, &RegisterPanel::refresh);
    refresh();
}

void RegisterPanel::give_bundles() {
    if (kind_ == Kind::models) return;
    table_->give_files([this](int row) -> std::filesystem::path {
        const Register& all = parts_.entries().fleet()->entries();
        const auto at = static_cast<std::size_t>(row);
        PackingList list;
        if (kind_ == Kind::bodies && at < all.bodies.size()) {
            list.bodies = {all.bodies[at].id};
            return parts_.sharing().packed_to_drag(list, all.bodies[at].label());
        }
        if (kind_ == Kind::lenses && at < all.lenses.size()) {
            list.lenses = {all.lenses[at].id};
            return parts_.sharing().packed_to_drag(list, all.lenses[at].label());
        }
        return {};
    });
}

/// A claim is shown and changed where it was made.
void RegisterPanel::open_claim() {
    std::vector<const Claim*> own;
    for (const Claim& c : parts_.entries().fleet()->claims())
        if (c.target == chosen_id()) own.push_back(&c);
    const int row = claims_->chosen();
    if (row < 0 || row >= static_cast<int>(own.size())) return;
    ClaimDialog dialog(parts_, *own[row], this);
    if (dialog.exec() == QDialog::Accepted) parts_.entries().edit("change a claim", dialog.edit());
}

void RegisterPanel::lay_out() {
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(of_, 1);
    for (QPushButton* b : {add_, merge_, remove_}) buttons->addWidget(b);
    auto* beneath = new QWidget;
    auto* across = new QHBoxLayout(beneath);
    across->setContentsMargins(0, 0, 0, 0);
    if (kind_ != Kind::models) across->addWidget(claims_, 2);
    across->addWidget(history_, 3);
    auto* lower = new QWidget;
    auto* lower_layout = new QVBoxLayout(lower);
    lower_layout->setContentsMargins(0, 0, 0, 0);
    lower_layout->addLayout(buttons);
    lower_layout->addWidget(beneath, 1);
    auto* down = new QSplitter(Qt::Vertical);
    down->addWidget(table_);
    down->addWidget(lower);
    down->setSizes({430, 190});
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 6, 0, 0);
    layout->addWidget(down);
}

void RegisterPanel::refresh() {
    fill_();
    refresh_detail();
}

std::string RegisterPanel::chosen_id() const {
    const int row = table_->chosen();
    const Register& r = parts_.entries().fleet()->entries();
    const auto id = [row](const auto& list) {
        return row >= 0 && row < static_cast<int>(list.size()) ? list[row].id : std::string();
    };
    return by_kind(id(r.bodies), id(r.lenses), id(r.models));
}

void RegisterPanel::refresh_detail() {
    const std::string id = chosen_id();
    const Register& all = parts_.entries().fleet()->entries();
    const std::size_t entries = by_kind(all.bodies.size(), all.lenses.size(), all.models.size());
    merge_->setEnabled(!id.empty() && entries > 1);
    remove_->setEnabled(!id.empty());
    const char* none = entries
                           ? "Choose an entry to see its claims and its history"
                           : "Nothing is registered yet. Add frames: what they report is proposed under Identities.";
    of_->setText(id.empty() ? QString(none) : q(id) + ": claims and history");
    std::vector<Claim> claims;
    std::vector<HistoryEntry> history;
    if (!id.empty()) {
        for (const Claim& c : parts_.entries().fleet()->claims())
            if (c.target == id) claims.push_back(c);
        if (claims.empty()) claims.emplace_back();
        parts_.attempt([&] { history = parts_.entries().history(by_kind("body", "lens", "model"), id, 200); });
    }
    claims_->show_records(claims);
    history_->show_records(history);
}

namespace {

template <class T>
void edit_entry(const T& before, int column, const QString& text, std::vector<EntryEdit<T>>& edits) {
    if (const T after = edited(before, column, text); !(after == before)) edits.push_back({before, after});
}

}  // namespace

void RegisterPanel::edit(int row, int column, const QString& text) {
    const Register& r = parts_.entries().fleet()->entries();
    parts_.attempt([&] {
        FleetEdit edit;
        if (kind_ == Kind::bodies) edit_entry(r.bodies.at(row), column, text, edit.bodies);
        if (kind_ == Kind::lenses) edit_entry(r.lenses.at(row), column, text, edit.lenses);
        if (kind_ == Kind::models) edit_entry(r.models.at(row), column, text, edit.models);
        parts_.entries().edit("edit " + table_->rows_model().columns()[column].title.toLower(), edit);
    });
}

void RegisterPanel::add_entry() {
    FleetEdit edit;
    if (kind_ == Kind::bodies) {
        std::vector<std::pair<QString, QString>> models;
        for (const ModelEntry& m : parts_.entries().fleet()->entries().models) models.emplace_back(q(m.id), q(m.id));
        const QString model =
            choose_entry(this, "Add a body", "Of which model? Models come from frames, or from an import.", models);
        const ModelEntry* entry = parts_.entries().fleet()->model(model.toStdString());
        if (!entry) return;
        bool ok = false;
        const QString mark = QInputDialog::getText(
            this, "Add a body",
            "Its serial number as printed on it; or, where there is none, its asset tag with a # before it:",
            QLineEdit::Normal, "", &ok);
        if (!ok || mark.trimmed().isEmpty()) return;
        Body b;
        b.maker = entry->maker;
        b.model = entry->model;
        b.width = entry->width;
        b.height = entry->height;
        b.pitch_um = entry->pitch_um;
        (mark.startsWith('#') ? b.asset_tag : b.serial) =
            (mark.startsWith('#') ? mark.mid(1) : mark).trimmed().toStdString();
        b.id = id_for(b);
        edit.bodies.push_back({std::nullopt, b});
    } else {
        bool ok = false;
        const QString text = QInputDialog::getText(
            this, "Add a lens", "Its text, as in Aldercroft 60mm f/4 macro:", QLineEdit::Normal, "", &ok);
        if (!ok || text.trimmed().isEmpty()) return;
        const QString serial =
            QInputDialog::getText(this, "Add a lens", "Its serial number, or nothing:", QLineEdit::Normal, "", &ok);
        if (!ok) return;
        Metadata m;
        m.lens = text.trimmed().toStdString();
        m.lens_serial = serial.trimmed().toStdString();
        LensEntry l = lens_from(m);
        l.id = id_for(l);
        l.contacts = false;
        edit.lenses.push_back({std::nullopt, l});
    }
    parts_.entries().edit(kind_ == Kind::bodies ? "add a body" : "add a lens", edit);
}

void RegisterPanel::merge() {
    const std::string id = chosen_id();
    std::vector<std::pair<QString, QString>> others;
    if (kind_ == Kind::bodies) {
        for (const Body& b : parts_.entries().bodies())
            if (b.id != id) others.emplace_back(q(b.id), q(b.label()));
    } else {
        for (const LensEntry& l : parts_.entries().lenses())
            if (l.id != id) others.emplace_back(q(l.id), q(l.label()));
    }
    const std::string into =
        choose_entry(this, "Merge", "Which entry is it really? Its numbers and claims go there:", others).toStdString();
    if (into.empty()) return;
    const Register& all = parts_.entries().fleet()->entries();
    ReachQuestion question{.title = "Merge",
                           .heading = q(id) + " is " + q(into),
                           .text = "Its numbers and claims go to " + q(into) + ", and " + q(id) +
                                   " leaves the register. Undo takes it back.",
                           .verb = "&Merge"};
    try {
        require_alike(all, of(), id, into);
    } catch (const Error& error) {
        question.doubt = q(error.what());
    }
    const bool ready = parts_.attempt(
        [&] { question.look = ReachNote::of(merge_edit(all, parts_.entries().fleet()->claims(), of(), id, into)); });
    if (ready)
        ask_with_reach(parts_.jobs(), parts_.entries().source(), this, question,
                       [this, id, into](const std::string&) { merge_into(id, into); });
}

void RegisterPanel::merge_into(const std::string& id, const std::string& into) {
    parts_.attempt([&] {
        const FleetEdit edit =
            merge_edit(parts_.entries().fleet()->entries(), parts_.entries().fleet()->claims(), of(), id, into);
        Revision draft = parts_.baselines().draft();
        move_tiers(draft, of(), id, into);
        const QString what = "merge " + q(id) + " into " + q(into);
        parts_.undo().beginMacro(what);
        const bool merged = parts_.entries().edit(what, edit);
        draft.edits = parts_.baselines().draft().edits;
        if (merged) parts_.baselines().edit(what, draft);
        parts_.undo().endMacro();
        if (merged) parts_.tell(q(id) + " is merged into " + q(into) + ".");
    });
}

void RegisterPanel::take_out() {
    const std::string id = chosen_id();
    const FleetEdit edit = take_out_edit(*parts_.entries().fleet(), of(), id);
    ask_with_reach(parts_.jobs(), parts_.entries().source(), this,
                   {.title = "Take out of the register",
                    .heading = "Take " + q(id) + " out of the register",
                    .text = "Its claims go along, and its frames wait to be claimed again. Undo takes it back.",
                    .verb = "Take &out",
                    .look = ReachNote::of(edit)},
                   [this, id, edit](const std::string&) {
                       if (parts_.entries().edit("take " + q(id) + " out of the register", edit))
                           parts_.tell(q(id) + " is out of the register.");
                   });
}

}  // namespace optrel
