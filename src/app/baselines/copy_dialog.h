// SPDX-License-Identifier: GPL-3.0-or-later
// Copies the pins of a tier to other bodies, after a preview of the differences.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>

#include "baselines/draft_view.h"
#include "widgets/table.h"

namespace optrel {

class CopyDialog : public QDialog {
    Q_OBJECT
public:
    CopyDialog(DraftView& view, const Tier& from, QWidget* parent);
    /// The draft with the pins copied to the ticked bodies.
    Revision result_draft() const;

private:
    void refresh();

    DraftView& view_;
    const Tier from_;
    QListWidget* bodies_;
    TableOf<RevisionChange>* difference_;
    QPushButton* copy_;
};

/// The tier for a body with the other conditions of a given tier; created when there is none.
Tier& tier_like(Revision& revision, const Tier& model, const Body& body);

}  // namespace optrel
