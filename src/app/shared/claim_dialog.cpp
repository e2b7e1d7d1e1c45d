// SPDX-License-Identifier: GPL-3.0-or-later
#include "shared/claim_dialog.h"

#include <QFormLayout>

#include "studio/fleet/claim.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

namespace {

NumberBox* number_box(const char* name, double value, double most, const char* suffix, QWidget* parent) {
    auto* box = new NumberBox(parent);
    box->setAccessibleName(name);
    box->setRange(0, most);
    box->setDecimals(1);
    box->setSuffix(suffix);
    box->setSpecialValueText("what the lens tells");
    box->setValue(value);
    return box;
}

}  // namespace

ClaimDialog::ClaimDialog(const Parts& parts, const Claim& start, QWidget* parent)
    : QDialog(parent), parts_(parts), start_(start) {
    const bool lens = start.of == Claim::Of::lens;
    setWindowTitle(lens ? "Assign a lens to frames" : "Claim frames for a body");
    build_fields(lens);
    lay_out(lens);
    resize(520, sizeHint().height());
    typed_.setSingleShot(true);
    typed_.setInterval(250);
    connect(&typed_, &QTimer::timeout, this, &ClaimDialog::look);
    connect(target_, &QComboBox::currentIndexChanged, this, &ClaimDialog::count);
    for (NumberBox* box : {focal_, aperture_}) connect(box, &NumberBox::valueChanged, this, &ClaimDialog::count);
    count();
}

void ClaimDialog::build_fields(bool lens) {
    target_ = new QComboBox(this);
    target_->setAccessibleName(lens ? "Lens" : "Body");
    if (lens)
        for (const LensEntry& l : parts_.entries().lenses())
            target_->addItem(q(l.label()) + (l.contacts ? "" : "  (no contacts)"), q(l.id));
    else
        for (const Body& b : parts_.entries().bodies()) target_->addItem(q(b.label()) + "   " + q(b.camera()), q(b.id));
    target_->setCurrentIndex(std::max(0, target_->findData(q(start_.target))));
    const auto line = [&](const char* name, const std::string& text, const char* hint) {
        auto* edit = new QLineEdit(q(text), this);
        edit->setAccessibleName(name);
        edit->setPlaceholderText(hint);
        connect(edit, &QLineEdit::textChanged, this, &ClaimDialog::count);
        return edit;
    };
    camera_ = line("Camera as reported", start_.camera, "any camera");
    serial_ = line("Body number as reported", start_.serial, "any, also none");
    lens_text_ = line("Lens as reported", start_.lens_text, "any, also none");
    lens_serial_ = line("Lens number as reported", start_.lens_serial, "any, also none");
    folder_ = line("Folder", start_.folder, "any folder");
    from_ = line("From", start_.from, "2026-03-04 or 2026-03-04 14:00");
    to_ = line("To", start_.to, "the end is included");
    note_ = line("Note", start_.note, "why");
    body_ = new QComboBox(this);
    body_->setAccessibleName("Frames of the body");
    body_->addItem("any body", "");
    for (const Body& b : parts_.entries().bodies()) body_->addItem(q(b.label()), q(b.id));
    body_->setCurrentIndex(std::max(0, body_->findData(q(start_.body))));
    connect(body_, &QComboBox::currentIndexChanged, this, &ClaimDialog::count);
    focal_ = number_box("Focal length", start_.focal_mm, 5000, " mm", this);
    aperture_ = number_box("Aperture", start_.aperture, 512, " (f-number)", this);
}

void ClaimDialog::lay_out(bool lens) {
    // Rows for the other kind of claim are left out.
    serial_->setVisible(!lens);
    for (QWidget* w : std::initializer_list<QWidget*>{lens_text_, lens_serial_, body_, focal_, aperture_})
        w->setVisible(lens);
    auto* form = new QFormLayout(this);
    form->addRow(lens ? "The lens is" : "The body is", target_);
    form->addRow(heading("for frames for which all of this holds:"));
    if (start_.frames.size() == 1)
        form->addRow("Frames", new QLabel(q(std::filesystem::path(start_.frames.front()).filename().string())));
    if (start_.frames.size() > 1)
        form->addRow("Frames", new QLabel(QString("%1 chosen frames").arg(start_.frames.size())));
    form->addRow("Camera", camera_);
    if (!lens) form->addRow("Body number", serial_);
    if (lens) {
        form->addRow("Lens reported", lens_text_);
        form->addRow("Lens number", lens_serial_);
        form->addRow("Body", body_);
    }
    form->addRow("Folder", folder_row(folder_, "Folder with frames"));
    form->addRow("Time from", from_);
    form->addRow("to", to_);
    if (lens) {
        form->addRow("Focal length", focal_);
        form->addRow("Aperture", aperture_);
    }
    form->addRow("Note", note_);
    count_ = new QLabel;
    count_->setWordWrap(true);
    form->addRow(count_);
    reach_ = new ReachNote(parts_.jobs(), parts_.entries().source());
    reach_->guard_register();
    form->addRow(reach_);
    auto* buttons = answer_buttons(*this, lens ? "Assign" : "Claim", [this] {
        return parts_.attempt([this] { check_claim(with_recorded_times(claim())); });
    });
    take_ = taking(*buttons);
    take_->setAccessibleName(lens ? "Assign" : "Claim");
    form->addRow(buttons);
    connect(reach_, &ReachNote::changed, this, [this] { take_->setEnabled(reach_->settled() && !typed_.isActive()); });
}

Claim ClaimDialog::claim() const {
    const auto text = [](const QLineEdit* edit) { return edit->text().trimmed().toStdString(); };
    Claim c = start_;
    c.target = target_->currentData().toString().toStdString();
    c.camera = text(camera_);
    c.folder = text(folder_);
    c.from = text(from_);
    c.to = text(to_);
    c.note = text(note_);
    if (c.of == Claim::Of::body) {
        c.serial = text(serial_);
    } else {
        c.lens_text = text(lens_text_);
        c.lens_serial = text(lens_serial_);
        c.body = body_->currentData().toString().toStdString();
        c.focal_mm = focal_->value();
        c.aperture = aperture_->value();
    }
    return c;
}

FleetEdit ClaimDialog::edit() const {
    const Claim c = claim();
    if (start_.id.empty()) return edit_for_claim(c);
    FleetEdit edit;
    edit.claims.push_back({start_, with_recorded_times(c)});
    return edit;
}

/// An invalid claim changes nothing; the reason is shown when the user tries it.
void ClaimDialog::look() {
    try {
        check_claim(with_recorded_times(claim()));
    } catch (const Error&) {
        return reach_->clear();
    }
    reach_->look(ReachNote::of(edit()));
}

void ClaimDialog::count() {
    typed_.start();
    take_->setEnabled(false);
    Claim c = claim();
    try {
        c = with_recorded_times(c);
    } catch (const Error&) {
        count_->setText("The time is not complete; write it as 2026-03-04, or 2026-03-04 14:00.");
        return;
    }
    if (c.weight() == 0) {
        count_->setText("Name at least one condition.");
        return;
    }
    int frames = 0, kept = 0;
    const auto& facts = parts_.frames().knowledge().facts;
    for (std::size_t i = 0; i < parts_.frames().all().size(); ++i) {
        const FrameRecord& f = parts_.frames().all()[i];
        if (!claim_holds(c, f.path, f.metadata, i < facts.size() ? facts[i].body : "")) continue;
        ++frames;
        const bool named = c.of == Claim::Of::body
                               ? !f.metadata->body_serial.empty() || !f.metadata->other_serials.empty()
                               : !f.metadata->lens.empty();
        const bool says = c.of == Claim::Of::body ? !c.serial.empty() : !c.lens_text.empty() || !c.lens_serial.empty();
        kept += named && !says && c.frames.empty();
    }
    QString text = QString("It holds for %1 of %2 frames.").arg(frames).arg(parts_.frames().all().size());
    if (kept)
        text += QString(" %1 of them name %2 themselves and keep it.")
                    .arg(kept)
                    .arg(c.of == Claim::Of::body ? "a body" : "a lens");
    count_->setText(text);
}

}  // namespace optrel
