// SPDX-License-Identifier: GPL-3.0-or-later
// What is resolved over the picture: a map of MTF50, or of the modulation at a frequency, in one colour and along one
// run of lines, and its means by zone; of one measurement, or of two set against each other.
#pragma once

#include <QComboBox>
#include <QLabel>

#include "optics/resolution.h"
#include "widgets/picture_map.h"
#include "widgets/table.h"

namespace optrel {

class ResolutionView : public QWidget {
    Q_OBJECT
public:
    explicit ResolutionView(QWidget* parent = nullptr);

    /// One measurement over a picture.
    struct Field {
        QString name;
        PictureGeometry geometry;
        std::vector<ResolutionCell> cells;
        int orientation = 1;  ///< how the picture is held (Exif, 1 to 8)
    };
    /// `other` may have another size; places are compared by their share of the picture.
    void show_field(Field field, std::optional<Field> other = std::nullopt);
    void clear(const QString& why);

private:
    void refresh();
    void refresh_map();
    void refresh_table();

    std::optional<Field> field_, other_;
    /// The frequency whose modulation is shown, cycles per px; 0: MTF50.
    double frequency() const;

    QComboBox *quantity_, *plane_, *lines_, *shown_;
    PictureMap* map_;
    Table* table_;
};

}  // namespace optrel
