// SPDX-License-Identifier: GPL-3.0-or-later
// Drawing of a noise run's shot plan: one row for each ISO, its pairs over their light, its dark frames, and what is
// still to take.
#pragma once

#include <QWidget>
#include <vector>

#include "sensor/noise_shots.h"

namespace optrel {

class NoisePlanView : public QWidget {
    Q_OBJECT
public:
    explicit NoisePlanView(QWidget* parent = nullptr);
    void show_plan(std::vector<NoiseShots> rows);
    void clear(const QString& why);
    /// The first thing that is to take, as text; empty when nothing is.
    QString next() const { return next_; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    struct Scale;
    void draw_axis(QPainter& p, const Scale& s) const;
    void draw_row(QPainter& p, const Scale& s, std::size_t row) const;
    void draw_legend(QPainter& p) const;

    std::vector<NoiseShots> rows_;
    QString why_empty_, next_;
};

}  // namespace optrel
