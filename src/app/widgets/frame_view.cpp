#include "widgets/frame_view.h"

#include <QPainter>
#include <cmath>

#include "theme.h"

namespace optrel {

FrameView::FrameView(QWidget* parent) : QWidget(parent) {
    setMinimumSize(260, 180);
    setAccessibleName("Frame with corners and residuals");
}

void FrameView::set_frame(const QImage& picture, QSizeF frame_size) {
    picture_ = picture;
    size_ = frame_size;
    update();
}

void FrameView::set_corners(std::vector<CornerMark> corners) {
    corners_ = std::move(corners);
    update();
}

void FrameView::clear(const QString& why) {
    picture_ = QImage();
    corners_.clear();
    why_empty_ = why;
    update();
}

void FrameView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::surround);
    if (size_.isEmpty() || (picture_.isNull() && corners_.empty())) {
        p.setPen(Qt::white);
        p.drawText(rect().adjusted(30, 0, -30, 0), Qt::AlignCenter | Qt::TextWordWrap, why_empty_);
        return;
    }
    const double s = std::min((width() - 12) / size_.width(), (height() - 34) / size_.height());
    const QRectF to((width() - size_.width() * s) / 2, (height() - 22 - size_.height() * s) / 2, size_.width() * s, size_.height() * s);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    if (picture_.isNull())
        p.fillRect(to, QColor(210, 210, 206));
    else
        p.drawImage(to, picture_);
    p.fillRect(to, QColor(255, 255, 255, 90));  // so that the marks stand out

    std::vector<double> sizes;
    for (const CornerMark& c : corners_)
        if (c.solved && !c.rejected) sizes.push_back(std::hypot(c.residual.x(), c.residual.y()));
    double reference = 0, exaggeration = 0;
    if (!sizes.empty()) {
        std::nth_element(sizes.begin(), sizes.begin() + sizes.size() * 9 / 10, sizes.end());
        reference = std::max(1e-4, sizes[sizes.size() * 9 / 10]);
        exaggeration = 22 / (reference * s);
        const double power = std::pow(10, std::floor(std::log10(exaggeration)));
        exaggeration = exaggeration / power < 2 ? power : exaggeration / power < 5 ? 2 * power : 5 * power;
    }
    for (const CornerMark& c : corners_) {
        const QPointF at = to.topLeft() + c.place * s;
        if (c.rejected) {
            p.setPen(QPen(theme::serious, 1.6));
            p.drawLine(at + QPointF(-4, -4), at + QPointF(4, 4));
            p.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4));
            continue;
        }
        p.setPen(QPen(theme::mark, 1.1));
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(at, 2.4, 2.4);
        if (!c.solved) continue;
        const QPointF tip = at + c.residual * s * exaggeration;
        p.setPen(QPen(theme::warning, 1.4));
        p.drawLine(at, tip);
        const double length = std::hypot(tip.x() - at.x(), tip.y() - at.y());
        if (length > 4) {
            const QPointF u = (tip - at) / length, n(-u.y(), u.x());
            p.drawLine(tip, tip - 4 * u + 2.2 * n);
            p.drawLine(tip, tip - 4 * u - 2.2 * n);
        }
    }
    const QRectF strip(0, height() - 22, width(), 22);
    p.fillRect(strip, theme::bench);
    p.setPen(theme::faint_ink);
    p.setFont(theme::text_font(8.5));
    if (exaggeration > 0) {
        const double shown = std::pow(10, std::floor(std::log10(reference))) * (reference / std::pow(10, std::floor(std::log10(reference))) >= 5 ? 5 : reference / std::pow(10, std::floor(std::log10(reference))) >= 2 ? 2 : 1);
        const double length = shown * s * exaggeration;
        p.setPen(QPen(theme::warning, 2));
        p.drawLine(QPointF(10, strip.center().y()), QPointF(10 + length, strip.center().y()));
        p.setPen(theme::faint_ink);
        p.drawText(strip.adjusted(18 + length, 0, 0, 0), Qt::AlignVCenter, QString("%1 px residual, drawn × %2    ○ corner  × rejected").arg(shown).arg(exaggeration));
    } else {
        p.drawText(strip.adjusted(10, 0, 0, 0), Qt::AlignVCenter, corners_.empty() ? "no corners" : "○ measured corner; residuals appear after solving");
    }
}

}  // namespace optrel
