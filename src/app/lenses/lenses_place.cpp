#include "lenses/lenses_place.h"

#include <QFileDialog>
#include <QSplitter>
#include <cmath>

#include "base/files.h"
#include "optics/frame_map.h"
#include "widgets/profile_curves.h"

namespace optrel {

LensesPlace::LensesPlace(Session& session) : PlaceWidget(theme::Place::lenses, session) {
    export_ = button("&Export profile…", "Writes the chosen profile as JSON");
    connect(export_, &QPushButton::clicked, this, [this] {
        const int row = list_->chosen();
        if (row < 0) return;
        const QString path = QFileDialog::getSaveFileName(this, "Export the profile", q(profiles_[row].name).replace('/', '-') + ".json", "Profile (*.json)");
        if (!path.isEmpty()) session_.attempt([&] { write_atomic(path.toStdString(), profile_to_json(profiles_[row])); });
    });
    actions_->addWidget(export_);
    empty_ = new QLabel("No profile is published yet. Measure a lens on the Bench and publish it; every version stays here for good.");
    empty_->setObjectName("faint");
    body_->addWidget(empty_);
    list_ = new Table("Profiles", {{"Lens", false, false, 0}, {"Copy", false, false, 104}, {"Version", true, false, 60}, {"RMS px", true, false, 66}, {"Measured", false, false, 92}});
    figures_ = new Table("Figures of the profile", {{"Figure", false, false, 0}, {"Value", true, false, 150}});
    curves_ = new ProfileCurves;
    auto* left = new QSplitter(Qt::Vertical);
    left->addWidget(panel("Profiles, newest version of each lens first", list_));
    left->addWidget(panel("Figures", figures_));
    left->setSizes({230, 380});
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(left);
    across->addWidget(curves_);
    across->setSizes({620, 540});
    body_->addWidget(across, 1);
    connect(list_, &Table::chosen_changed, this, &LensesPlace::show_profile);
    connect(&session_, &Session::profiles_changed, this, &LensesPlace::refresh);
    refresh();
}

void LensesPlace::refresh() {
    session_.attempt([this] { profiles_ = session_.store().profiles(true); });
    empty_->setVisible(profiles_.empty());
    std::vector<Row> rows;
    for (const Profile& p : profiles_) {
        const double rms = p.nodes.front().quality.rms_px;
        rows.push_back({Cell(q(p.name)), Cell(p.lens_serial.empty() ? "not named" : q(p.lens_serial)), Cell(QString::number(p.version), p.version),
                        Cell(QString::number(rms, 'f', 4), rms), Cell(q(p.provenance.time.substr(0, 10)))});
    }
    list_->set_rows(std::move(rows));
    if (list_->chosen() < 0) list_->choose(0);
    show_profile(list_->chosen());
}

void LensesPlace::show_profile(int row) {
    export_->setEnabled(row >= 0);
    if (row < 0 || row >= static_cast<int>(profiles_.size())) {
        figures_->set_rows({});
        curves_->clear();
        return;
    }
    const Profile& p = profiles_[row];
    const ProfileNode& n = p.nodes.front();
    const NodeQuality& k = n.quality;
    std::vector<Row> rows;
    const auto add = [&](const QString& name, const QString& value, const QString& hint = {}) {
        Cell cell(name);
        cell.hint = hint;
        rows.push_back({cell, Cell(value)});
    };
    const auto fixed = [](double v, int digits, const char* unit) { return QString("%1 %2").arg(v, 0, 'f', digits).arg(unit); };
    add("Measured on", q(p.camera));
    add("Sensor", QString("%1 × %2, %3 µm").arg(p.geometry.width).arg(p.geometry.height).arg(p.geometry.pitch_um, 0, 'f', 2));
    add("Lens setting", QString("%1 mm f/%2 %3 m").arg(n.setting.focal_mm).arg(n.setting.aperture).arg(n.setting.distance_m));
    add("Model", q(to_string(n.model.kind())));
    add("Focal length, calibrated", fixed(n.focal_mm, 3, "mm"));
    add("Optical centre from the middle", QString("%1, %2 mm").arg(n.centre_mm.x(), 0, 'f', 3).arg(n.centre_mm.y(), 0, 'f', 3));
    add("Distortion, extreme", fixed(k.distortion_extreme_percent, 3, "%"), "ISO 17850: (distorted - ideal) / ideal radius");
    add("RMS on used frames", fixed(k.rms_px, 4, "px"));
    add("RMS on held-out frames", fixed(k.held_out_rms_px, 4, "px"), "Each frame judged by a lens solved without it");
    add("Largest field uncertainty", fixed(k.max_sigma_px, 4, "px"), "One sigma, over the whole picture");
    add("Data reach field height", fixed(k.largest_height, 2, ""));
    add("Chart frames, corners", QString("%1, %2").arg(k.frames_used).arg(k.corners));
    if (n.red) add("Red left after correction", fixed(n.red->residual_p95_px, 3, "px"), "95th percentile over the picture");
    if (n.blue) add("Blue left after correction", fixed(n.blue->residual_p95_px, 3, "px"), "95th percentile over the picture");
    if (n.falloff) {
        for (const double h : {0.5, 1.0}) {
            const Vec2 s = n.falloff->centre_mm + Vec2(h * p.geometry.half_diagonal_mm(), 0);
            add(QString("Falloff of green at field height %1").arg(h), fixed(std::log2(n.falloff->relative(Channel::green, s, p.geometry.half_diagonal_mm())), 2, "EV"));
        }
        add("Centre of the falloff", n.falloff->centre_measured ? "measured" : "taken as optical", "Apart from the lamp's gradient only when the light was turned");
    } else {
        add("Falloff", "not measured");
    }
    add("Chart", q(p.provenance.chart));
    add("Measured by", q(p.provenance.author.empty() ? "not said" : p.provenance.author));
    add("With", q(p.provenance.program));
    figures_->set_rows(std::move(rows));
    curves_->show_profile(p, n);
}

void LensesPlace::show_something() { list_->choose(0); }

}  // namespace optrel
