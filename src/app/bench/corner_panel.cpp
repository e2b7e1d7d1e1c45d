// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/corner_panel.h"

#include <QHBoxLayout>
#include <QPainter>
#include <cmath>

#include "base/figure_text.h"
#include "theme.h"
#include "widgets/place.h"

namespace optrel {
namespace {

constexpr int side = 122, gap = 5;

}  // namespace

std::array<CornerPatch, 3> cut_patches(const MeasuringPicture& picture, const ChartCorner& corner, double reach) {
    std::array<CornerPatch, 3> out;
    for (const SamplePlane& plane : picture.planes) {
        const int c = static_cast<int>(plane.channel);
        if (!corner.channel[c].ok || !out[c].samples.isNull()) continue;
        const Vec2 middle = corner.green().position;
        const int n = std::max(5, static_cast<int>(2 * reach / plane.step) | 1);
        const int left = static_cast<int>(std::lround((middle.x() - plane.u0) / plane.step)) - n / 2,
                  top = static_cast<int>(std::lround((middle.y() - plane.v0) / plane.step)) - n / 2;
        CornerPatch& patch = out[c];
        patch.samples = QImage(n, n, QImage::Format_Grayscale8);
        patch.samples.fill(128);
        patch.samples_per_px = 1 / plane.step;
        const double low = corner.channel[c].base - 1.3 * corner.channel[c].amplitude,
                     high = corner.channel[c].base + 1.3 * corner.channel[c].amplitude;
        for (int j = 0; j < n; ++j)
            for (int i = 0; i < n; ++i) {
                const int x = left + i, y = top + j;
                if (x < 0 || y < 0 || x >= plane.values.cols || y >= plane.values.rows) continue;
                const double t = high > low ? (plane.values(y, x) - low) / (high - low) : 0.5;
                patch.samples.scanLine(j)[i] = static_cast<uchar>(std::clamp(255 * t, 0.0, 255.0));
            }
        const Vec2 at = corner.channel[c].position;
        patch.corner = {(at.x() - plane.u0) / plane.step - left + 0.5, (at.y() - plane.v0) / plane.step - top + 0.5};
    }
    return out;
}

CornerPanel::CornerPanel(QWidget* parent) : QWidget(parent) {
    setAccessibleName("Magnified corner");
    setFixedHeight(side + 2 * gap);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(3 * (side + gap) + 2 * gap, gap, gap, gap);
    text_ = new QLabel;
    text_->setWordWrap(true);
    text_->setAlignment(Qt::AlignTop);
    text_->setTextFormat(Qt::RichText);
    text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    text_->setAccessibleDescription("Figures of the corner");
    drop_ = button("Drop &corner", "Leaves this corner out, or takes it back, and solves again (Delete)");
    connect(drop_, &QPushButton::clicked, this, &CornerPanel::drop_clicked);
    layout->addWidget(text_, 1);
    layout->addWidget(drop_, 0, Qt::AlignLeft);
}

void CornerPanel::show_corner(const ChartCorner& corner, const ViewPoint* point,
                              const std::array<CornerPatch, 3>& patches, bool dropped) {
    corner_ = corner;
    patches_ = patches;
    const CornerFit& g = corner.green();
    const double sigma = std::sqrt(g.covariance.trace() / 2);
    QString text =
        QString("<b>Corner %1, %2</b><br>green %3, %4<br>± %5 px")
            .arg(corner.column)
            .arg(corner.row)
            .arg(q(number_text(figures::shift, g.position.x())), q(number_text(figures::shift, g.position.y())),
                 q(number_text(figures::reprojection_error, sigma)));
    if (point) text += "<br>residual " + q(pair_text(figures::shift_along, point->residual.x(), point->residual.y()));
    text += QString("<br>edge %1 wide").arg(q(figure_text(figures::place, g.blur_px)));
    if (point && point->rejected) text += dropped ? "<br>dropped by hand" : "<br>rejected by the solve";
    text_->setText("<span style='font-size:8pt'>" + text + "</span>");
    drop_->setText(dropped ? "Restore &corner" : "Drop &corner");
    drop_->setAccessibleName(dropped ? "Restore corner" : "Drop corner");
    update();
}

void CornerPanel::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme::paper);
    p.setFont(theme::text_font(8));
    const QColor colours[] = {theme::channel_red, theme::channel_green, theme::channel_blue};
    const char* names[] = {"red", "green", "blue"};
    for (int c = 0; c < 3; ++c) {
        const QRectF to(gap + c * (side + gap), gap, side, side);
        if (patches_[c].samples.isNull()) {
            p.fillRect(to, theme::rule);
            p.setPen(theme::faint_ink);
            p.drawText(to, Qt::AlignCenter | Qt::TextWordWrap, QString("%1: not measured").arg(names[c]));
            continue;
        }
        p.setRenderHint(QPainter::SmoothPixmapTransform, false);  // unfiltered samples
        p.drawImage(to, patches_[c].samples);
        p.setRenderHint(QPainter::Antialiasing);
        const double s = side / double(patches_[c].samples.width());
        const QPointF at = to.topLeft() + patches_[c].corner * s;
        p.setClipRect(to);
        p.setPen(QPen(colours[c], 1.4));
        const CornerFit& green = corner_.green();
        for (const Vec2& e : {green.edge1, green.edge2}) {
            if (e.isZero()) continue;
            const QPointF d(e.x() * side, e.y() * side);
            p.drawLine(at - d, at + d);
        }
        p.drawEllipse(at, 5, 5);
        p.setClipping(false);
        const QRectF tag(to.left(), to.bottom() - 15, 40, 15);
        p.fillRect(tag, theme::tag_paper(220));
        p.setPen(colours[c]);
        p.drawText(tag, Qt::AlignCenter, names[c]);
    }
}

}  // namespace optrel
