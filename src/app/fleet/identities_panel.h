// SPDX-License-Identifier: GPL-3.0-or-later
// Reported identities: claims, and proposals for unclaimed ones.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "session/parts.h"
#include "studio/frames/knowledge.h"
#include "widgets/table.h"

namespace optrel {

class IdentitiesPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, Jobs, Messages>;
    explicit IdentitiesPanel(const Parts& parts, QWidget* parent = nullptr);

    Table& table() { return *table_; }
    QPushButton& fingerprint_button() { return *fingerprint_; }
    /// Accepts all proposals that need no choice, in one edit.
    void accept_all();

signals:
    void counted(int unclaimed);

private:
    void refresh();
    void refresh_buttons();
    const Identity* chosen() const;
    void claim_all_of(const std::vector<const Identity*>& identities, const QString& what);
    void accept_one();
    void claim_for();
    void take_back();

    Parts parts_;
    QLabel* why_;
    QPushButton *accept_, *all_, *claim_, *back_, *fingerprint_;
    Cell holder_cell(const Identity& id) const;

    TableOf<Identity>* table_;
};

}  // namespace optrel
