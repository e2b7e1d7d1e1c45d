// SPDX-License-Identifier: GPL-3.0-or-later
#include "lenses/profile_dialog.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QPushButton>

#include "base/choose.h"
#include "lenses/profile_rows.h"
#include "studio/profiles/profile_file.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"
#include "widgets/profile_curves.h"

namespace optrel {

ProfileDialog::ProfileDialog(const Parts& parts, const QString& path, QWidget* parent)
    : QDialog(parent), parts_(parts), profile_(read_profile(path.toStdString())) {
    setWindowTitle("A profile from a file");
    auto* layout = new QVBoxLayout(this);
    QString what = q(profile_.name);
    if (!profile_.lens_serial.empty()) what += ", " + q(profile_.lens_serial);
    layout->addWidget(heading(what + " on " + q(profile_.camera)));
    const Provenance& origin = profile_.provenance;
    const auto there = already_published(parts_.profiles().versions(), profile_);
    const bool one_of_ours = std::any_of(parts_.profiles().all().begin(), parts_.profiles().all().end(),
                                         [this](const Profile& p) { return same_subject(p, profile_); });
    auto* about = new QLabel(
        QString("%1: measured by %2 on %3 with %4 lens settings. %5")
            .arg(QFileInfo(path).fileName(), origin.author.empty() ? "somebody" : q(origin.author),
                 local_day(origin.time))
            .arg(profile_.nodes.size())
            .arg(first_of<QString>({{there.has_value(), "The store has it already."},
                                    {one_of_ours, "Taken in, it becomes the next version of this lens here."}},
                                   "Taken in, it becomes the first version of this lens here.")));
    about->setWordWrap(true);
    layout->addWidget(about);
    auto* across = new QHBoxLayout;
    auto* figures = new_figures_table(170);
    auto* curves = new ProfileCurves;
    across->addWidget(figures, 1);
    across->addWidget(curves, 1);
    layout->addLayout(across, 1);
    figures->show_records(profile_figures(profile_, 0));
    curves->show_profile(profile_, measured_node(profile_, 0));
    auto* buttons = answer_buttons(*this, "&Take in", [this] { return take_in(); });
    taking(*buttons)->setEnabled(!there);
    layout->addWidget(buttons);
    resize(860, 620);
}

bool ProfileDialog::take_in() {
    Profile p;
    if (!parts_.attempt([&] { p = parts_.profiles().take_in(profile_); })) return false;
    parts_.tell(QString("%1 is in the store as version %2.").arg(q(p.name)).arg(p.version));
    return true;
}

}  // namespace optrel
