// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/colour_dialog.h"

#include <QFormLayout>
#include <QPushButton>

#include "base/figure_text.h"
#include "base/files.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

ColourDialog::ColourDialog(const Parts& parts, ColourProfile profile, const QString& origin, QWidget* parent)
    : QDialog(parent), parts_(parts), profile_(std::move(profile)), origin_(origin) {
    setWindowTitle("A colour profile");
    const std::string hash = bytes_hash(profile_.bytes);
    const std::vector<ColourFile>& kept = parts_.profiles().references().colours;
    const bool there = std::any_of(kept.begin(), kept.end(), [&](const ColourFile& f) { return f.hash == hash; });
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(heading(q(profile_.name)));
    auto* form = new QFormLayout;
    const auto line = [&](const char* what, const QString& value) {
        auto* label = new QLabel(value);
        label->setWordWrap(true);
        form->addRow(what, label);
    };
    line("Holds", q(profile_.contents()));
    if (profile_.dng) {
        QStringList lights;
        for (const ProfileLight& l : profile_.dng->lights)
            lights << (l.kelvin > 0 ? q(figure_text(figures::temperature, l.kelvin)) : QString("not said"));
        line("For light of", lights.join(" and "));
    }
    line("For the camera", profile_.camera.empty() ? QString("not said") : q(profile_.camera));
    if (!profile_.copyright.empty()) line("Rights", q(profile_.copyright));
    line("From", origin_);
    line("In the studio", there ? QString("it is kept already") : QString("not yet"));
    difference_ = new QLabel;
    difference_->setWordWrap(true);
    difference_->setMinimumHeight(52);
    difference_->setAlignment(Qt::AlignTop);
    difference_->setAccessibleDescription("How colours move");
    form->addRow("Colours", difference_);
    layout->addLayout(form);
    layout->addStretch();
    auto* buttons = answer_buttons(*this, "&Keep in the studio", [this] { return keep(); });
    taking(*buttons)->setEnabled(!there);
    layout->addWidget(buttons);
    resize(560, 330);
    compare();
}

void ColourDialog::compare() {
    const std::filesystem::path frame = frame_to_show(parts_.frames().all(), profile_);
    if (frame.empty()) {
        difference_->setText("No raw frame of its camera is in the index, so nothing can be compared.");
        return;
    }
    difference_->setText("Comparing on " + q(frame.filename().string()) + " …");
    latest_.start(
        parts_.jobs(),
        [frame, profile = profile_, source = parts_.profiles().source()](const Progress& progress) {
            const auto store = source.open_for_reading();
            return colour_change(frame, development_from_store(*store, frame), profile, progress);
        },
        [this](std::optional<ColourChange> change, const QString& problem) {
            difference_->setText(change ? q(change->sentence()) : problem);
        });
}

bool ColourDialog::keep() {
    return parts_.attempt([&] {
        const ColourFile kept = parts_.profiles().keep_colours(profile_, origin_.toStdString());
        parts_.tell(QString("%1 is kept; write its name in the field Colours from.").arg(q(kept.name)));
    });
}

}  // namespace optrel
