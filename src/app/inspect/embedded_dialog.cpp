// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/embedded_dialog.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "widgets/answer_buttons.h"
#include "widgets/place.h"
#include "widgets/profile_curves.h"

namespace optrel {

EmbeddedDialog::EmbeddedDialog(const QString& words, const Profile& own, const Profile* in_use, const Metadata& frame,
                               QWidget* parent)
    : QDialog(parent) {
    setWindowTitle("A correction by others");
    auto* text = new QLabel(words.trimmed());
    text->setWordWrap(true);
    text->setAccessibleDescription("The correction in words");
    auto* curves = new ProfileCurves;
    const LensSetting setting{frame.focal_mm, frame.aperture, frame.distance_m};
    ProfileCurves::Overlay other;
    if (in_use) other = {in_use, node_at(*in_use, setting), "in use: " + q(in_use->name)};
    curves->show_profile(own, node_at(own, setting), other);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(text);
    layout->addWidget(curves, 1);
    layout->addWidget(answer_buttons(*this, "&Keep as a profile"));
    resize(640, 680);
}

}  // namespace optrel
