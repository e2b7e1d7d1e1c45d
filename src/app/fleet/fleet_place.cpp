// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/fleet_place.h"

#include <QFileDialog>

#include "base/choose.h"
#include "base/files.h"
#include "base/output.h"
#include "fleet/alike_panel.h"
#include "fleet/colours_panel.h"
#include "fleet/defects_panel.h"
#include "fleet/grid_panel.h"
#include "fleet/identities_panel.h"
#include "fleet/noise_panel.h"
#include "fleet/register_files.h"
#include "fleet/register_panel.h"
#include "reach/reach_dialog.h"
#include "sharing/sharing_actions.h"

namespace optrel {

FleetPlace::FleetPlace(const Parts& parts) : PlaceWidget(theme::Place::fleet), parts_(parts) {
    auto* add = button(
        "Add frames from a folder…",
        "Reads the metadata of a folder; what the frames report of bodies and lenses is proposed under Identities",
        true);
    auto* import = button("&Import…", "Takes over a register as CSV or JSON; nothing is taken when one line is wrong");
    auto* out =
        button("&Export…", "Writes the list that is shown as CSV, or the whole register with its claims as JSON");
    connect(add, &QPushButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, "Folder with frames");
        if (!folder.isEmpty()) parts_.frames().add_folder(folder);
    });
    connect(import, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, "Import a register", "", "CSV or JSON (*.csv *.json)");
        if (!path.isEmpty()) import_from(path);
    });
    connect(out, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getSaveFileName(this, "Export the register", "bodies.csv",
                                                          "CSV (*.csv);;JSON, everything (*.json)");
        if (!path.isEmpty()) export_to(path);
    });
    auto* share = button("S&hare", "Bundles: a body or a lens with what is known of it, for another studio");
    auto* menu = new QMenu(share);
    connect(menu, &QMenu::aboutToShow, this, [this, menu] { fill_share_menu(*menu); });
    share->setMenu(menu);
    for (QPushButton* b : {share, import, out, add}) actions_->addWidget(b);
    bodies_ = new RegisterPanel(parts, RegisterPanel::Kind::bodies);
    lenses_ = new RegisterPanel(parts, RegisterPanel::Kind::lenses);
    models_ = new RegisterPanel(parts, RegisterPanel::Kind::models);
    identities_ = new IdentitiesPanel(parts);
    grid_ = new GridPanel(parts);
    tabs_ = new QTabWidget;
    tabs_->setDocumentMode(true);
    tabs_->setAccessibleName("Views of the fleet");
    tabs_->addTab(bodies_, "Bodies");
    tabs_->addTab(lenses_, "Lenses");
    tabs_->addTab(models_, "Models");
    tabs_->addTab(identities_, "Identities");
    tabs_->addTab(grid_, "Bodies by lenses");
    colours_ = new ColoursPanel(parts);
    tabs_->addTab(colours_, "Colours");
    noise_ = new NoisePanel(parts);
    tabs_->addTab(noise_, "Noise");
    defects_ = new DefectsPanel(parts);
    tabs_->addTab(defects_, "Defects");
    alike_ = new AlikePanel(parts);
    tabs_->addTab(alike_, "Alike");
    body_->addWidget(tabs_, 1);
    connect(identities_, &IdentitiesPanel::counted, this, [this](int n) {
        tabs_->setTabText(3, n ? QString("Identities (%1 unclaimed)").arg(n) : QString("Identities"));
    });
    connect(&parts_.entries(), &RegisterModel::changed, this, &FleetPlace::refresh);
    connect(&parts_.frames(), &FrameModel::changed, this, &FleetPlace::refresh);
    refresh();
}

void FleetPlace::fill_share_menu(QMenu& menu) {
    menu.clear();
    const auto offer = [&](const QString& kind, const std::string& id, const QString& label, const PackingList& list) {
        if (id.empty()) return;
        const QString what = kind + " " + label;
        connect(menu.addAction("&Pack the " + what + "…"), &QAction::triggered, this,
                [=, this] { pack_bundle(parts_, this, list, "the " + what, label); });
    };
    const auto fleet = parts_.entries().fleet();
    PackingList list;
    if (tabs_->currentWidget() == bodies_ && fleet->body(bodies_->chosen_id())) {
        list.bodies = {bodies_->chosen_id()};
        offer("body", list.bodies[0], q(fleet->body(list.bodies[0])->label()), list);
    }
    if (tabs_->currentWidget() == lenses_ && fleet->lens(lenses_->chosen_id())) {
        list.lenses = {lenses_->chosen_id()};
        offer("lens", list.lenses[0], q(fleet->lens(list.lenses[0])->label()), list);
    }
    if (const ColourFile* file = tabs_->currentWidget() == colours_ ? colours_->chosen_file() : nullptr) {
        list.colours = {file->hash};
        offer("colour file", file->hash, q(file->name), list);
    }
    if (!menu.isEmpty()) menu.addSeparator();
    connect(menu.addAction("Take a &bundle in…"), &QAction::triggered, this, [this] { ask_for_bundle(parts_, this); });
    connect(menu.addAction("&Search what others measured…"), &QAction::triggered, this,
            [this] { search_exchange(parts_, this, {}); });
    connect(menu.addAction("&Whose measurements count…"), &QAction::triggered, this,
            [this] { show_measurers(parts_, this); });
}

void FleetPlace::open_colours(const QString& path) {
    tabs_->setCurrentWidget(colours_);
    colours_->open_file(path);
}

Table& FleetPlace::bodies() { return bodies_->table(); }
Table& FleetPlace::lenses() { return lenses_->table(); }
Table& FleetPlace::models() { return models_->table(); }

void FleetPlace::refresh() {
    const Register& all = parts_.entries().fleet()->entries();
    if (parts_.frames().any() || !all.bodies.empty() || !all.lenses.empty())
        show_empty(std::nullopt);
    else
        show_empty(
            add_frames(parts_.frames(),
                       "The fleet is the studio's bodies and lenses, with what files report of them.\n\nAdd a folder "
                       "of frames: their numbers and lenses are read and proposed under "
                       "Identities, to be accepted. A register that you keep as CSV can be imported instead."));
}

RegisterImport FleetPlace::read_register(const QString& path) const {
    const std::string text = read_file(path.toStdString());
    const Register now = parts_.entries().fleet()->entries();
    return path.endsWith(".json", Qt::CaseInsensitive) ? register_from_json(text, path.toStdString(), now)
                                                       : register_from_csv(text, path.toStdString(), now);
}

void FleetPlace::import_from(const QString& path) {
    parts_.attempt([&] {
        const RegisterImport import = read_register(path);
        if (import.added + import.changed == 0) return parts_.tell("The register has all of it already.");
        const QString file = QFileInfo(path).fileName();
        const QString counts =
            QString("%1 added, %2 changed, %3 the same.").arg(import.added).arg(import.changed).arg(import.same);
        const FleetEdit edit = parts_.entries().edit_for(import);
        ask_with_reach(parts_.jobs(), parts_.entries().source(), this,
                       {.title = "A register from a file",
                        .heading = "Import " + file,
                        .text = "Entries: " + counts,
                        .verb = "&Import",
                        .look = ReachNote::of(edit)},
                       [this, file, counts, edit](const std::string&) {
                           if (parts_.entries().edit("import " + file, edit)) parts_.tell(counts);
                       });
    });
}

void FleetPlace::export_to(const QString& path) {
    parts_.attempt([&] {
        const Register& all = parts_.entries().fleet()->entries();
        const bool json = path.endsWith(".json", Qt::CaseInsensitive);
        const int tab = tabs_->currentIndex();
        std::string text = bodies_to_csv(all.bodies);
        if (json)
            text = register_to_json(all, parts_.entries().fleet()->claims());
        else if (tab == 1)
            text = lenses_to_csv(all.lenses);
        else if (tab == 2)
            text = models_to_csv(all.models);
        write_output(path.toStdString(), json ? json_output() : csv_output(), Existing::replace_ours, text);
        parts_.tell("Exported to " + path);
    });
}

void FleetPlace::show_something() {
    tabs_->setCurrentIndex(0);
    if (bodies().chosen() < 0) bodies().choose(0);
}

void FleetPlace::show_view(const QString& view) {
    tabs_->setCurrentIndex(first_of<int>({{view == "lenses", 1},
                                          {view == "models", 2},
                                          {view == "identities", 3},
                                          {view == "grid", 4},
                                          {view == "colours", 5},
                                          {view == "noise", 6},
                                          {view == "defects", 7},
                                          {view == "alike", 8}},
                                         0));
    if (view == "lenses" && lenses().chosen() < 0) lenses().choose(0);
    if (view == "noise") noise_->show_something();
    if (view == "defects") defects_->show_something();
    if (view == "alike") alike_->show_something();
}

}  // namespace optrel
