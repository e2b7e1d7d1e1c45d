// SPDX-License-Identifier: GPL-3.0-or-later
// A ramp as a curve over ISO in stops: knots that can be dragged, the value that resolves, and the frames beneath by
// ISO.
#pragma once

#include <QWidget>
#include <vector>

namespace optrel {

class RampEditor : public QWidget {
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
    QPoint place_of(double iso, double value) const { return at(iso, value).toPoint(); }
    QSize sizeHint() const override { return {420, 190}; }
    QSize minimumSizeHint() const override { return {240, 130}; }

signals:
    /// A drag has ended, a knot was added (double click) or taken out (Delete).
    void edited(const std::vector<RampEditor::Knot>& knots);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

private:
    void draw_bars(QPainter& g, const QRectF& plot) const;
    void draw_scales(QPainter& g, const QRectF& plot) const;
    void draw_curves(QPainter& g, const QRectF& plot) const;
    int most_frames() const;
    QRectF plot() const;
    QPointF at(double iso, double value) const;
    double iso_at(double x) const;
    double value_at(double y) const;
    int knot_near(const QPointF& p) const;
    void find_range();
    QString as_csv() const;

    QString title_, resolved_label_, hint_;
    double low_limit_ = 0, high_limit_ = 100, low_ = 0, high_ = 100, tick_ = 25;
    double first_stop_ = 0, last_stop_ = 7;  ///< log2(ISO / 100)
    int decimals_ = 0;
    std::vector<Knot> knots_, before_drag_, resolved_;
    std::vector<Bar> bars_;
    bool editable_ = false;
    int held_ = -1, chosen_ = -1;
};

}  // namespace optrel
