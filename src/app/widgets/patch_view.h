// SPDX-License-Identifier: GPL-3.0-or-later
// Patch charts side by side, each patch split: what is wanted in its upper left, what is rendered in its lower right.
#pragma once

#include <QWidget>
#include <opencv2/core.hpp>
#include <vector>

namespace optrel {

struct SplitPatch {
    QString id;
    int column = 0, row = 0;
    cv::Vec3d wanted, rendered;  ///< XYZ for D50; a perfect diffuser has Y = 1
    double de2000 = 0;
    bool used = true;
};

struct SplitChart {
    QString title, figures;
    int columns = 0, rows = 0;
    std::vector<SplitPatch> patches;
};

class PatchView : public QWidget {
    Q_OBJECT
public:
    explicit PatchView(const QString& accessible_name, QWidget* parent = nullptr);
    /// Up to four charts.
    void show_charts(std::vector<SplitChart> charts);
    void clear(const QString& why);
    int chart_count() const { return static_cast<int>(charts_.size()); }

protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;

private:
    struct Cell {
        QRectF place;
        const SplitPatch* patch;
    };
    QRectF room_of(int chart) const;
    std::vector<Cell> cells_of(int chart) const;
    void draw_chart(QPainter& p, int chart) const;

    std::vector<SplitChart> charts_;
    QString why_empty_;
};

}  // namespace optrel
