// SPDX-License-Identifier: GPL-3.0-or-later
#include "shared/sample_board.h"

#include <QPainter>
#include <algorithm>

#include "screen/screen_service.h"
#include "theme.h"
#include "widgets/place.h"

namespace optrel {

namespace {

constexpr double pair_gap = 10, middle_gap = 2, caption_height = 18;

/// The centre of a picture, unscaled, or magnified by an integer factor that fits.
void draw_middle(QPainter& p, const QRectF& to, const QImage& picture, double dpr) {
    if (picture.isNull()) return;
    const double times =
        std::max(1.0, std::floor(std::min(to.width() * dpr / picture.width(), to.height() * dpr / picture.height())));
    const QSizeF part(std::min(to.width() * dpr / times, double(picture.width())),
                      std::min(to.height() * dpr / times, double(picture.height())));
    const QRectF from(QPointF((picture.width() - part.width()) / 2, (picture.height() - part.height()) / 2), part);
    const QSizeF shown = part * (times / dpr);
    p.drawImage(QRectF(to.center() - QPointF(shown.width() / 2, shown.height() / 2), shown), picture, from);
}

}  // namespace

SampleBoard::SampleBoard(QWidget* parent) : QWidget(parent) {
    setAccessibleName("Patches before and after");
    setToolTip("Middle, edges and corners pixel for pixel, before on the left of each pair");
    setMinimumSize(360, 200);
    connect(&ScreenService::here(), &ScreenService::changed, this, [this] {
        if (const std::optional<Sample> sample = sample_) show_sample(*sample);
    });
}

void SampleBoard::show_sample(const Sample& sample) {
    sample_ = sample;
    const auto colours = ScreenService::here().colours(this);
    const auto image = [&](const cv::Mat3w& patch) {
        return patch.empty() ? QImage() : to_image(dithered(colours->encoded(patch)));
    };
    for (std::size_t i = 0; i < pairs_.size(); ++i)
        pairs_[i] = {image(sample.patches[i].before), image(sample.patches[i].after)};
    text_ = q(sample.problem);
    update();
}

void SampleBoard::show_text(const QString& text) {
    pairs_ = {};
    sample_.reset();
    text_ = text;
    update();
}

void SampleBoard::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme::surround);
    p.setPen(Qt::white);
    if (!text_.isEmpty()) {
        p.drawText(QRectF(rect()).adjusted(24, 12, -24, -12), Qt::AlignCenter | Qt::TextWordWrap, text_);
        return;
    }
    const double wide = (width() - 4 * pair_gap) / 3, high = (height() - caption_height - 4 * pair_gap) / 3;
    p.setFont(theme::text_font(9));
    for (int i = 0; i < 9; ++i) {
        const int row = i / 3, column = i % 3;
        const QRectF cell(pair_gap + column * (wide + pair_gap), caption_height + pair_gap + row * (high + pair_gap),
                          wide, high);
        const QRectF left(cell.left(), cell.top(), (wide - middle_gap) / 2, high),
            right(cell.center().x() + middle_gap / 2, cell.top(), (wide - middle_gap) / 2, high);
        draw_middle(p, left, before(i), devicePixelRatioF());
        draw_middle(p, right, after(i), devicePixelRatioF());
        if (row > 0) continue;
        p.drawText(QRectF(left.left(), 4, left.width(), caption_height), Qt::AlignCenter, "before");
        p.drawText(QRectF(right.left(), 4, right.width(), caption_height), Qt::AlignCenter, "after");
    }
}

}  // namespace optrel
