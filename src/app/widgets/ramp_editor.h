// SPDX-License-Identifier: GPL-3.0-or-later
// A ramp as a curve over ISO in stops: knots that can be dragged, the value that resolves, and the frames beneath by
// ISO.
#pragma once

#include "widgets/plot_view.h"

namespace optrel {

class RampEditor : public PlotView {
    Q_OBJECT
public:
    explicit RampEditor(const QString& accessible_name, QWidget* parent = nullptr);

    struct Knot {
        double iso, value;
    };
    struct Bar {
        double iso;
        int frames;
    };
    /// Limits, decimals and unit of what is drawn.
    void set_scale(const QString& title, double low, double high, int decimals);
    /// The pin that can be edited; none: only the resolved curve is shown.
    void set_knots(std::vector<Knot> knots, bool editable);
    /// What resolves, drawn faint beneath the knots, with its label.
    void set_resolved(std::vector<Knot> curve, const QString& label);
    void set_frames(std::vector<Bar> bars);
    void set_hint(const QString& hint);

    const std::vector<Knot>& knots() const { return knots_; }
    QPoint place_of(double iso, double value) const { return at(plot(), iso, value).toPoint(); }
    QSize sizeHint() const override { return {420, 190}; }
    QSize minimumSizeHint() const override { return {240, 130}; }

signals:
    /// A drag has ended, a knot was added (double click) or taken out (Delete).
    void edited(const std::vector<RampEditor::Knot>& knots);

protected:
    bool empty() const override { return knots_.empty() && resolved_.empty() && bars_.empty(); }
    QString empty_text() const override;
    std::pair<PlotScale, PlotScale> scales(const QSizeF& area) const override;
    void paint_data(QPainter& painter, const PlotArea& plot) const override;
    QString hint_at(const QPointF& at) const override;
    Cells cells() const override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    void paint_bars(QPainter& painter, const PlotArea& plot) const;
    void paint_curves(QPainter& painter, const PlotArea& plot) const;
    int most_frames() const;
    static QPointF at(const PlotArea& plot, double iso, double value);
    double iso_at(const PlotArea& plot, double x) const;
    double value_at(const PlotArea& plot, double y) const;
    int knot_near(const QPointF& p) const;
    void find_range();

    QString title_, resolved_label_, hint_;
    double low_limit_ = 0, high_limit_ = 100, low_ = 0, high_ = 100;
    double first_stop_ = 0, last_stop_ = 7;  ///< log2(ISO / 100)
    int decimals_ = 0;
    std::vector<Knot> knots_, before_drag_, resolved_;
    std::vector<Bar> bars_;
    bool editable_ = false;
    int held_ = -1, chosen_ = -1;
};

}  // namespace optrel
