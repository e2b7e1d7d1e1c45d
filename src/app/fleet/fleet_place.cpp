#include "fleet/fleet_place.h"

#include <QFileDialog>
#include <QSplitter>

#include "widgets/edit_entry.h"

namespace optrel {
namespace {

enum BodyColumn { body_name, body_tag, body_model, body_serial, body_sensor, body_frames };
enum LensColumn { lens_name, lens_tag, lens_text, lens_serial, lens_profile, lens_frames };

}  // namespace

FleetPlace::FleetPlace(Session& session) : PlaceWidget(theme::Place::fleet, session) {
    auto* add = button("&Add frames from a folder…", "Reads the metadata of a folder; bodies and lenses that the frames name are registered", true);
    connect(add, &QPushButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, "Folder with frames");
        if (!folder.isEmpty()) session_.add_folder(folder);
    });
    actions_->addWidget(add);
    empty_ = new QLabel("No body is registered yet. Add a folder of frames: bodies and lenses are taken from what the files report.");
    empty_->setObjectName("faint");
    body_->addWidget(empty_);
    bodies_ = new Table("Bodies", {{"Name", false, true, 190}, {"Asset tag", false, true, 110}, {"Model", false, false, 0}, {"Serial number", false, false, 0}, {"Sensor", false, false, 190}, {"Frames", true, false, 70}});
    lenses_ = new Table("Lenses", {{"Name", false, true, 190}, {"Asset tag", false, true, 110}, {"Lens", false, false, 0}, {"Serial number", false, false, 0}, {"Profile", false, false, 190}, {"Frames", true, false, 70}});
    auto* down = new QSplitter(Qt::Vertical);
    down->addWidget(panel("Bodies: double-click a name or an asset tag to edit it", bodies_));
    down->addWidget(panel("Lenses", lenses_));
    body_->addWidget(down, 1);
    connect(bodies_, &Table::cell_edited, this, &FleetPlace::edit_body);
    connect(lenses_, &Table::cell_edited, this, &FleetPlace::edit_lens);
    for (const auto signal : {&Session::fleet_changed, &Session::frames_changed, &Session::profiles_changed}) connect(&session_, signal, this, &FleetPlace::refresh);
    refresh();
}

void FleetPlace::refresh() {
    std::map<std::string, int> by_body, by_lens;
    for (const FrameRecord& f : session_.frames()) {
        ++by_body[body_id(f.metadata)];
        ++by_lens[lens_id(f.metadata)];
    }
    empty_->setVisible(session_.bodies().empty());
    const auto named = [](const std::string& name) { return name.empty() ? Cell("unnamed", Cell::Tone::faint) : Cell(q(name)); };
    std::vector<Row> rows;
    for (const Body& b : session_.bodies())
        rows.push_back({named(b.name), b.asset_tag.empty() ? Cell("none", Cell::Tone::faint) : Cell(q(b.asset_tag)), Cell(q(b.camera())), Cell(q(b.serial)),
                        Cell(QString("%1 × %2, %3 µm").arg(b.width).arg(b.height).arg(b.pitch_um, 0, 'f', 2)), Cell(QString::number(by_body[b.id]), by_body[b.id])});
    bodies_->set_rows(std::move(rows));
    rows.clear();
    for (const LensEntry& l : session_.lenses()) {
        Cell profile("none", Cell::Tone::warning);
        for (const Profile& p : session_.profiles())
            if (canonical_lens_text(p.lens) == canonical_lens_text(l.lens) && profile.text != "own copy")
                profile = Cell(p.lens_serial == l.serial ? QString("own copy, version %1").arg(p.version) : QString("same model, version %1").arg(p.version), Cell::Tone::mark);
        rows.push_back({named(l.name), l.asset_tag.empty() ? Cell("none", Cell::Tone::faint) : Cell(q(l.asset_tag)), Cell(q(l.lens)), Cell(q(l.serial)), profile,
                        Cell(QString::number(by_lens[l.id]), by_lens[l.id])});
    }
    lenses_->set_rows(std::move(rows));
}

void FleetPlace::edit_body(int row, int column, const QString& text) {
    if (row < 0 || row >= static_cast<int>(session_.bodies().size())) return;
    const Body before = session_.bodies()[row];
    Body after = before;
    (column == body_name ? after.name : after.asset_tag) = text.trimmed().toStdString();
    if (after.name == before.name && after.asset_tag == before.asset_tag) return;
    session_.undo().push(new EditEntry<Body>(column == body_name ? "name a body" : "tag a body", before, after, [this](const Body& b) { session_.put_body(b); }));
}

void FleetPlace::edit_lens(int row, int column, const QString& text) {
    if (row < 0 || row >= static_cast<int>(session_.lenses().size())) return;
    const LensEntry before = session_.lenses()[row];
    LensEntry after = before;
    (column == lens_name ? after.name : after.asset_tag) = text.trimmed().toStdString();
    if (after.name == before.name && after.asset_tag == before.asset_tag) return;
    session_.undo().push(new EditEntry<LensEntry>(column == lens_name ? "name a lens" : "tag a lens", before, after, [this](const LensEntry& l) { session_.put_lens(l); }));
}

}  // namespace optrel
