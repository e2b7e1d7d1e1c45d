// SPDX-License-Identifier: GPL-3.0-or-later
// Films to be corrected: their properties, facts that they do not contain, and the delivery.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>

#include "latest_result.h"
#include "session/parts.h"
#include "studio/exports/films.h"
#include "widgets/number_box.h"
#include "widgets/table.h"

namespace optrel {

class FilmsDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<ProfileModel, ExportService, Jobs, Messages>;
    FilmsDialog(const Parts& parts, std::vector<std::filesystem::path> films, const QString& folder,
                QWidget* parent = nullptr);

private:
    QWidget* build_facts();
    void look();
    void show_films(const std::vector<FilmLook>& films);
    bool queue();

    Parts parts_;
    const std::vector<std::filesystem::path> films_;
    const QString folder_;
    std::vector<std::filesystem::path> readable_;
    TableOf<FilmLook>* table_;
    QComboBox *profile_, *remember_, *delivery_;
    NumberBox *focal_, *area_;
    QLineEdit* body_;
    QLabel* state_;
    QPushButton* take_;
    std::vector<Delivery> deliveries_;
    LatestResult<std::vector<FilmLook>> latest_;
};

}  // namespace optrel
