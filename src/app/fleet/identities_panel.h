// SPDX-License-Identifier: GPL-3.0-or-later
// Identities: what files report, who holds it, and what is proposed for what nobody holds.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "session/parts.h"
#include "studio/knowledge.h"
#include "widgets/table.h"

namespace optrel {

class IdentitiesPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameBook, RegisterBook, Jobs, Voice>;
    explicit IdentitiesPanel(const Parts& parts, QWidget* parent = nullptr);

    Table& table() { return *table_; }
    /// Accepts every proposal that needs no choice, as one edit.
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
    QPushButton *accept_, *all_, *claim_, *back_;
    Cell holder_cell(const Identity& id) const;

    TableOf<Identity>* table_;
};

}  // namespace optrel
