// SPDX-License-Identifier: GPL-3.0-or-later
// Fleet: bodies, lenses and models, reported identities, and profiles for each pair of body and lens.
#pragma once

#include <QTabWidget>

#include "fleet/register_files.h"
#include "session/parts.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class AlikePanel;
class ColoursPanel;
class GridPanel;
class IdentitiesPanel;
class DefectsPanel;
class NoisePanel;
class RegisterPanel;

class FleetPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts =
        SomeOf<FrameModel, RegisterModel, BaselineModel, ProfileModel, SharingService, Jobs, QUndoStack, Messages>;
    explicit FleetPlace(const Parts& parts);
    void show_something() override;
    QStringList more_views() const override {
        return {"lenses", "identities", "grid", "colours", "noise", "defects", "alike"};
    }
    void show_view(const QString& view) override;

    Table& bodies();
    Table& lenses();
    Table& models();
    IdentitiesPanel& identities() { return *identities_; }
    GridPanel& grid() { return *grid_; }
    NoisePanel& noise() { return *noise_; }
    DefectsPanel& defects() { return *defects_; }
    AlikePanel& alike() { return *alike_; }
    /// Shows a colour profile from a file, to be saved on request.
    void open_colours(const QString& path);
    /// Imports a register from a file, after showing the changes.
    void import_from(const QString& path);
    void export_to(const QString& path);

private:
    Parts parts_;
    RegisterImport read_register(const QString& path) const;
    void refresh();
    void fill_share_menu(QMenu& menu);

    QTabWidget* tabs_;
    RegisterPanel *bodies_, *lenses_, *models_;
    IdentitiesPanel* identities_;
    GridPanel* grid_;
    ColoursPanel* colours_;
    NoisePanel* noise_;
    DefectsPanel* defects_;
    AlikePanel* alike_;
};

}  // namespace optrel
