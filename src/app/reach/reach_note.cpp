// SPDX-License-Identifier: GPL-3.0-or-later
#include "reach/reach_note.h"

#include <QPointer>
#include <QVBoxLayout>

#include "widgets/place.h"

namespace optrel {

struct ReachNote::Looking {
    Progress progress;
    FramesReached reached;
    QString problem;
};

ReachNote::Look ReachNote::of(FleetEdit edit) {
    return [edit = std::move(edit)](const Store& store, Progress& progress) { return reach_of(store, edit, progress); };
}

ReachNote::ReachNote(Jobs& jobs, StoreSource source, QWidget* parent)
    : QWidget(parent), jobs_(jobs), source_(std::move(source)) {
    text_ = new QLabel;
    text_->setWordWrap(true);
    text_->setAccessibleDescription("What would change");
    over_register_ = new QCheckBox;
    over_register_->setAccessibleName("Take them from the register's numbers");
    over_register_->hide();
    connect(over_register_, &QCheckBox::toggled, this, &ReachNote::changed);
    auto* down = new QVBoxLayout(this);
    down->setContentsMargins(0, 0, 0, 0);
    down->addWidget(text_);
    down->addWidget(over_register_);
}

ReachNote::~ReachNote() {
    if (looking_) looking_->progress.cancel();
}

void ReachNote::look(Look look) {
    if (looking_) looking_->progress.cancel();
    over_register_->hide();
    text_->setText("Looking what would change for the frames of this studio …");
    looking_ = std::make_shared<Looking>();
    jobs_.run_quietly(
        [look = std::move(look), source = source_, mine = looking_] {
            try {
                const auto store = source.open_for_reading();
                mine->reached = look(*store, mine->progress);
            } catch (const Cancelled&) {
                // A newer computation has replaced this one.
            } catch (const std::exception& error) {
                mine->problem = q(error.what());
            }
        },
        [mine = looking_, here = QPointer<ReachNote>(this)] {
            if (!here || here->looking_ != mine) return;
            here->looking_.reset();
            here->show_result(*mine);
            emit here->changed();
        });
    emit changed();
}

void ReachNote::show_result(const Looking& done) {
    const FramesReached& reached = done.reached;
    QStringList lines{done.problem.isEmpty() ? "What changes: " + q(reached.sentence()) + "."
                                             : "What would change could not be looked at: " + done.problem};
    for (const std::string& line : reached.folder_lines()) lines << q(line);
    text_->setText(lines.join("\n"));
    over_register_->setVisible(guards_register_ && reached.off_register > 0);
    over_register_->setChecked(false);
    over_register_->setText(QString("Take %1 frame%2 from the body or lens whose number %3 in the register")
                                .arg(reached.off_register)
                                .arg(reached.off_register == 1 ? "" : "s")
                                .arg(reached.off_register == 1 ? "it reports and that is" : "they report and that is"));
}

void ReachNote::clear() {
    if (looking_) looking_->progress.cancel();
    looking_.reset();
    over_register_->hide();
    text_->clear();
    emit changed();
}

bool ReachNote::settled() const { return !looking_ && (over_register_->isHidden() || over_register_->isChecked()); }

}  // namespace optrel
