// SPDX-License-Identifier: GPL-3.0-or-later
#include "exports/films_dialog.h"

#include <QFormLayout>
#include <QPushButton>
#include <set>

#include "base/figure_text.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

namespace {

QString length_of(double seconds) {
    if (seconds <= 0) return "not said";
    if (seconds < 60) return q(figure_text(figures::duration, seconds));
    return QString("%1 min %2 s").arg(static_cast<int>(seconds) / 60).arg(static_cast<int>(seconds) % 60);
}

Cell picture_cell(const FilmLook& f) {
    if (!f.problem.empty()) return {q(f.problem), Cell::Tone::serious, q(f.problem)};
    return QString("%1 × %2 px, %3 a second")
        .arg(f.facts.width)
        .arg(f.facts.height)
        .arg(f.facts.frames_per_second, 0, 'g', 5);
}

Cell coding_cell(const FilmLook& f) {
    if (!f.problem.empty()) return QString();
    return {QString("%1, %2%3")
                .arg(q(f.facts.codec), q(to_string(f.facts.curve)), f.facts.curve_assumed ? " (assumed)" : ""),
            f.facts.curve_assumed ? Cell::Tone::warning : Cell::Tone::plain,
            f.facts.curve_assumed ? "The film does not say its curve" : ""};
}

NumberBox* length_box(const char* name, double most) {
    auto* box = new NumberBox;
    box->setRange(0, most);
    box->setDecimals(2);
    box->setSuffix(" mm");
    box->setSpecialValueText("not said");
    box->setAccessibleName(name);
    return box;
}

}  // namespace

FilmsDialog::FilmsDialog(const Parts& parts, std::vector<std::filesystem::path> films, const QString& folder,
                         QWidget* parent)
    : QDialog(parent), parts_(parts), films_(std::move(films)), folder_(folder) {
    setWindowTitle("Correct films");
    auto* layout = new QVBoxLayout(this);
    table_ = new TableOf<FilmLook>(
        "Films",
        {{text_column("Film", 170),
          [](const FilmLook& f) { return Cell(q(f.film.filename().string()), Cell::Tone::plain, q(f.film.string())); }},
         {text_column("Pictures", 210), picture_cell},
         {text_column("Length", 96),
          [](const FilmLook& f) { return Cell(f.problem.empty() ? length_of(f.facts.seconds) : QString()); }},
         {text_column("Coding, curve"), coding_cell}});
    table_->allow_sorting(false);
    layout->addWidget(table_, 1);
    layout->addWidget(heading("What films do not say"));
    layout->addWidget(build_facts());
    state_ = new QLabel("Looking at the films …");
    state_->setWordWrap(true);
    state_->setAccessibleDescription("State of the films");
    layout->addWidget(state_);
    auto* buttons = answer_buttons(*this, "&Queue", [this] { return queue(); });
    take_ = taking(*buttons);
    take_->setEnabled(false);
    layout->addWidget(buttons);
    resize(720, 520);
    look();
}

QWidget* FilmsDialog::build_facts() {
    auto* side = new QWidget;
    auto* form = new QFormLayout(side);
    form->setContentsMargins(0, 0, 0, 0);
    profile_ = new QComboBox;
    profile_->setAccessibleName("Lens profile");
    profile_->addItem("none", "");
    for (const Profile& p : parts_.profiles().current())
        profile_->addItem(QString("%1, %2").arg(q(p.name), q(p.lens_serial.empty() ? p.id : p.lens_serial)), q(p.id));
    focal_ = length_box("Focal length", 5000);
    area_ = length_box("Recorded width", 200);
    area_->setToolTip("How many millimetres of the sensor the film shows from left to right");
    body_ = new QLineEdit;
    body_->setAccessibleName("Body");
    body_->setPlaceholderText("for people");
    remember_ = new QComboBox;
    remember_->addItems({"these films", "all films of their folder"});
    remember_->setAccessibleName("Remembered for");
    delivery_ = new QComboBox;
    delivery_->setAccessibleName("Delivery");
    parts_.attempt([this] {
        for (const Delivery& r : parts_.exports().deliveries())
            if (r.format == ExportFormat::film) {
                deliveries_.push_back(r);
                delivery_->addItem(q(r.name) + ": " + q(described(r)));
                // A lossless codec is a safe default.
                if (r.film.codec == FilmCodec::ffv1) delivery_->setCurrentIndex(delivery_->count() - 1);
            }
    });
    form->addRow("Lens profile", profile_);
    form->addRow("Focal length", focal_);
    form->addRow("Recorded width", area_);
    form->addRow("Body", body_);
    form->addRow("Remembered for", remember_);
    form->addRow("Written as", delivery_);
    return side;
}

void FilmsDialog::look() {
    latest_.start(
        parts_.jobs(),
        [films = films_, source = parts_.exports().source()](const Progress& progress) {
            const auto store = source.open_for_reading();
            return look_at_films(*store, films, progress);
        },
        [this](std::optional<std::vector<FilmLook>> found, const QString& problem) {
            if (found)
                show_films(*found);
            else
                state_->setText(problem);
        });
}

void FilmsDialog::show_films(const std::vector<FilmLook>& films) {
    table_->show_records(films);
    const FilmLook* ruled = nullptr;
    for (const FilmLook& f : films) {
        if (!f.problem.empty()) continue;
        readable_.push_back(f.film);
        if (!ruled && f.rule) ruled = &f;
    }
    if (ruled) {
        profile_->setCurrentIndex(std::max(0, profile_->findData(q(ruled->rule->profile))));
        focal_->setValue(ruled->rule->focal_mm);
        area_->setValue(ruled->rule->area_width_mm);
        body_->setText(q(ruled->rule->body));
    }
    state_->setText(ruled ? QString("Filled in as was said for %1.").arg(q(ruled->rule->pattern))
                          : QString("Lens and settings of these films are not known yet; enter them here, and they are "
                                    "remembered."));
    take_->setEnabled(!readable_.empty() && !deliveries_.empty());
}

bool FilmsDialog::queue() {
    if (!(focal_->value() > 0) || !(area_->value() > 0)) {
        state_->setText("Say the focal length and how wide a part of the sensor was recorded, both in mm.");
        return false;
    }
    return parts_.attempt([&] {
        FilmRule rule{"",
                      profile_->currentData().toString().toStdString(),
                      focal_->value(),
                      area_->value(),
                      body_->text().trimmed().toStdString(),
                      "",
                      ""};
        std::set<std::string> patterns;
        for (const std::filesystem::path& film : readable_)
            patterns.insert(remember_->currentIndex() == 1 ? film.parent_path().string() + "/*" : film.string());
        for (const std::string& pattern : patterns) {
            rule.pattern = pattern;
            parts_.exports().remember(rule);
        }
        parts_.exports().add(readable_, deliveries_[delivery_->currentIndex()], folder_.toStdString());
    });
}

}  // namespace optrel
