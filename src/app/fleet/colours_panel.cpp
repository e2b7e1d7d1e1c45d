// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/colours_panel.h"

#include <QFileDialog>

#include "fleet/colour_dialog.h"
#include "widgets/place.h"

namespace optrel {

namespace {

TableOf<EmbeddedName>* new_carried_table() {
    return new TableOf<EmbeddedName>(
        "Carried by frames",
        {{text_column("Body", 190),
          [](const EmbeddedName& c) {
              return c.body.empty() ? Cell("not known", Cell::Tone::faint) : Cell(q(c.body));
          }},
         {text_column("Colour profile"), [](const EmbeddedName& c) { return Cell(q(c.name)); }},
         {figure_column("Frames", 60), [](const EmbeddedName& c) { return figure_cell(c.frames); }},
         {text_column("For instance", 220), [](const EmbeddedName& c) {
              return Cell(q(c.example.filename().string()), Cell::Tone::faint, q(c.example.string()));
          }}});
}

}  // namespace

ColoursPanel::ColoursPanel(const Parts& parts, QWidget* parent) : QWidget(parent), parts_(parts) {
    kept_ = new TableOf<ColourFile>(
        "Colour files", {{text_column("Name", 190),
                          [](const ColourFile& f) { return Cell(q(f.name), Cell::Tone::plain, q(f.value().text)); }},
                         {text_column("Holds"), [](const ColourFile& f) { return Cell(q(f.contents)); }},
                         {text_column("For the camera", 150),
                          [](const ColourFile& f) {
                              return f.camera.empty() ? Cell("not said", Cell::Tone::faint) : Cell(q(f.camera));
                          }},
                         {figure_column("Tiers", 50),
                          [this](const ColourFile& f) {
                              const int tiers = tiers_with(f);
                              return Cell(QString::number(tiers), tiers ? Cell::Tone::plain : Cell::Tone::faint,
                                          "Tiers of the draft that pin it");
                          }},
                         {text_column("From", 200), [](const ColourFile& f) { return Cell(q(f.origin)); }},
                         {text_column("Kept by", 80), [](const ColourFile& f) { return Cell(q(f.author)); }},
                         {text_column("When", 84), [](const ColourFile& f) { return day_cell(f.time); }}});
    carried_ = new_carried_table();
    auto* take =
        button("&Take in a file…",
               "Shows an ICC input profile or a colour profile of the DNG specification, and keeps it if you wish");
    keep_ = button("&Look at it…", "Shows the profile that these frames carry, and keeps it as a file if you wish");
    hint_ = new QLabel(
        "The field <i>Colours from</i> says what renders the colours of raw frames: the camera's matrix, what a frame "
        "carries itself (carried), or one of these files, by name.");
    hint_->setWordWrap(true);
    no_files_ = new QLabel(
        "None is kept yet. An ICC input profile, or a colour profile of the DNG specification, is taken in from a file "
        "or dropped on the window; it is shown first.");
    none_carried_ = new QLabel("No frame of the index carries a colour profile of its own.");
    for (QLabel* l : {no_files_, none_carried_}) {
        l->setObjectName("faint");
        l->setWordWrap(true);
    }
    lay_out(take);
    connect(take, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, "Take in a colour file");
        if (!path.isEmpty()) open_file(path);
    });
    connect(keep_, &QPushButton::clicked, this, &ColoursPanel::open_carried);
    connect(carried_, &QAbstractItemView::doubleClicked, this, &ColoursPanel::open_carried);
    connect(carried_, &Table::chosen_changed, this, [this](int row) { keep_->setEnabled(row >= 0); });
    connect(&parts_.profiles(), &ProfileModel::changed, this, &ColoursPanel::refresh);
    connect(&parts_.frames(), &FrameModel::knowledge_changed, this, &ColoursPanel::refresh);
    connect(&parts_.baselines(), &BaselineModel::changed, this, &ColoursPanel::refresh);
    refresh();
}

void ColoursPanel::lay_out(QPushButton* take) {
    auto* above = new QHBoxLayout;
    above->addWidget(heading("Colour files of the studio"), 1);
    above->addWidget(take);
    auto* between = new QHBoxLayout;
    between->addWidget(heading("What frames carry themselves"), 1);
    between->addWidget(keep_);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 6, 0, 0);
    layout->setSpacing(4);
    layout->addWidget(hint_);
    layout->addLayout(above);
    layout->addWidget(no_files_);
    layout->addWidget(kept_, 1);
    layout->addLayout(between);
    layout->addWidget(none_carried_);
    layout->addWidget(carried_, 1);
}

int ColoursPanel::tiers_with(const ColourFile& file) const {
    int tiers = 0;
    for (const Tier& t : parts_.baselines().draft().tiers)
        if (const auto pin = t.pins.find(Field::colour_source); pin != t.pins.end())
            tiers += std::any_of(pin->second.knots.begin(), pin->second.knots.end(),
                                 [&](const auto& knot) { return knot.second == file.value(); });
    return tiers;
}

void ColoursPanel::refresh() {
    kept_->show_records(parts_.profiles().references().colours);
    carried_names_ = carried_names(parts_.frames().all(), *parts_.entries().fleet());
    carried_->show_records(carried_names_);
    keep_->setEnabled(carried_->chosen() >= 0);
    no_files_->setVisible(kept_->row_count() == 0);
    none_carried_->setVisible(carried_names_.empty());
}

const ColourFile* ColoursPanel::chosen_file() const {
    const std::vector<ColourFile>& files = parts_.profiles().references().colours;
    const int row = kept_->chosen();
    return row >= 0 && row < static_cast<int>(files.size()) ? &files[row] : nullptr;
}

void ColoursPanel::open_file(const QString& path) {
    parts_.attempt([&] { ColourDialog(parts_, read_colour_profile(path.toStdString()), path, this).exec(); });
}

void ColoursPanel::open_carried() {
    const int row = carried_->chosen();
    if (row < 0 || row >= static_cast<int>(carried_names_.size())) return;
    const EmbeddedName chosen = carried_names_[row];
    parts_.attempt([&] {
        ColourDialog(parts_, carried_profile(chosen.example, chosen.name), q(chosen.example.string()), this).exec();
    });
}

}  // namespace optrel
