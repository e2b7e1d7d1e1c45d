// SPDX-License-Identifier: GPL-3.0-or-later
// Exports: chosen frames, a delivery with a preview of its output, and the queue.
#pragma once

#include <QCheckBox>
#include <QLineEdit>
#include <optional>

#include "exports/delivery_form.h"
#include "latest_result.h"
#include "session/parts.h"
#include "shared/frames_panel.h"
#include "studio/exports/export_preview.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class ExportsPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, BaselineModel, SheetModel, ProfileModel, ExportService, WorkService,
                         Jobs, Messages>;
    explicit ExportsPlace(const Parts& parts);
    void show_something() override;
    /// The view is the path of a frame, which is selected.
    void show_view(const QString& view) override { frames_->choose(view); }
    /// Shows a delivery from a file in the form, to be saved.
    void open_delivery(const QString& path);
    /// Asks for facts that films do not contain, and queues the films.
    void open_films(const std::vector<std::filesystem::path>& films);
    /// Output folder.
    void set_folder(const QString& folder);

protected:
    void showEvent(QShowEvent* event) override;

private:
    Parts parts_;
    QWidget* build_frames();
    QWidget* build_deliveries();
    QWidget* build_preview();
    QWidget* build_queue();
    void refresh_deliveries(const QString& chosen);
    void refresh_buttons();
    void refresh_preview();
    void show_preview(const std::optional<ExportPreview>& preview, const QString& problem);
    void refresh_queue();
    void refresh_state();
    void choose_folder();
    void choose_films();
    void add(const std::vector<std::filesystem::path>& frames);
    void save_delivery();
    std::vector<std::filesystem::path> chosen_paths() const;

    FramesPanel* frames_;
    struct PreviewLine {
        QString what, value;
        Cell::Tone tone = Cell::Tone::plain;
    };
    TableOf<Delivery>* deliveries_;
    TableOf<PreviewLine>* preview_;
    TableOf<QueuedExport>* queue_;
    std::vector<Delivery> delivery_list_;
    DeliveryForm* form_;
    QLineEdit* folder_;
    QLabel* summary_;
    QCheckBox* any_station_;
    QPushButton *add_chosen_, *add_listed_, *add_films_, *save_, *delete_, *run_, *again_, *clear_, *drop_;
    QTimer soon_;  ///< delays the preview until changes have stopped
    LatestResult<ExportPreview> latest_;
};

}  // namespace optrel
