// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/loupe_ring.h"

#include <QHBoxLayout>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "base/figure_text.h"
#include "theme.h"
#include "widgets/place.h"

namespace optrel {

namespace {

/// Size of the measured area, px; as many as are shown at 100 percent.
constexpr double patch_width = 192, patch_height = 160;
constexpr double text_height = 46, head_height = 34, ring_gap = 6;

constexpr const char* names[LoupeRing::count] = {"upper left corner", "upper edge", "upper right corner",
                                                 "left edge",         "centre",     "right edge",
                                                 "lower left corner", "lower edge", "lower right corner"};
constexpr int centre = 4;

QString changed(const FigureKind& kind, double before, double after) { return q(change_text(kind, before, after)); }

}  // namespace

LoupeRing::LoupeRing(QWidget* parent) : QWidget(parent) {
    setAccessibleName("Loupe ring");
    setMinimumSize(480, 400);
    magnify_ = new QComboBox;
    magnify_->setAccessibleName("Magnification of the loupes");
    for (const int percent : {100, 200, 300, 400, 600, 800})
        magnify_->addItem(QString("%1 %").arg(percent), percent / 100.0);
    magnify_->setCurrentIndex(1);
    verdict_ = new QLabel;
    verdict_->setWordWrap(true);
    verdict_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(ring_gap, 4, ring_gap, 0);
    head->addWidget(verdict_, 1);
    head->addWidget(magnify_);
    auto* down = new QVBoxLayout(this);
    down->setContentsMargins(0, 0, 0, 0);
    down->addLayout(head);
    down->addStretch();
    connect(magnify_, &QComboBox::activated, this, [this] { update(); });
}

void LoupeRing::set_size(const QSizeF& picture) {
    if (picture != size_) {
        size_ = picture;
        for (int i = 0; i < count; ++i) places_[i] = usual_place(i);
    }
    shown_.clear();
    verdict_->setText("Looking …");
    update();
}

QPointF LoupeRing::usual_place(int loupe) const {
    const cv::Point2d at = loupe_middle(loupe, {size_.width(), size_.height()}, {patch_width, patch_height});
    return {at.x, at.y};
}

std::vector<QRectF> LoupeRing::patches() const {
    std::vector<QRectF> out;
    if (size_.isEmpty()) return out;
    for (const QPointF& p : places_)
        out.emplace_back(std::round(p.x() - patch_width / 2), std::round(p.y() - patch_height / 2), patch_width,
                         patch_height);
    return out;
}

void LoupeRing::show_patches(const std::vector<LoupePatch>& patches) {
    if (patches.size() != count) return;
    shown_ = patches;
    std::vector<PatchPair> pairs;
    for (int i = 0; i < count; ++i) pairs.push_back({names[i], patches[i].before_figures, patches[i].after_figures});
    verdict_->setText(q(optrel::verdict(pairs)));
    update();
}

QRectF LoupeRing::cell(int loupe) const {
    const double wide = (width() - 4 * ring_gap) / 3, high = (height() - head_height - 4 * ring_gap) / 3;
    return {ring_gap + (loupe % 3) * (wide + ring_gap), head_height + ring_gap + (loupe / 3) * (high + ring_gap), wide,
            high};
}

QRectF LoupeRing::pane(int loupe, bool after) const {
    const QRectF c = cell(loupe);
    const double half = (c.width() - 2) / 2;
    return {c.left() + (after ? half + 2 : 0), c.top(), half, c.height() - text_height};
}

QString LoupeRing::figures(int loupe) const {
    if (loupe >= static_cast<int>(shown_.size())) return {};
    const PatchFigures &b = shown_[loupe].before_figures, &a = shown_[loupe].after_figures;
    QString text = "no edge to measure by";
    if (b.edges > 0 && a.edges > 0) {
        text = QString("fringe R %1, B %2 px\n")
                   .arg(changed(figures::shift, b.red_px, a.red_px), changed(figures::shift, b.blue_px, a.blue_px));
        text += b.width_px > 0 && a.width_px > 0
                    ? QString("edge %1 px").arg(changed(figures::place, b.width_px, a.width_px))
                    : QString("thin lines");
    }
    const PatchFigures &b0 = shown_[centre].before_figures, &a0 = shown_[centre].after_figures;
    if (loupe != centre && b.light > 0 && a.light > 0 && b0.light > 0 && a0.light > 0)
        text += QString(b.edges > 0 ? ", light %1 EV" : "\nlight %1 EV")
                    .arg(changed(figures::range, std::log2(b.light / b0.light), std::log2(a.light / a0.light)));
    return text.replace('-', QChar(0x2212));
}

void LoupeRing::draw(QPainter& p, int loupe) const {
    const double m = magnification() / devicePixelRatioF();
    for (const bool after : {false, true}) {
        const QRectF to = pane(loupe, after);
        p.save();
        p.setClipRect(to);
        p.fillRect(to, theme::bench);
        p.fillRect(to, QBrush(theme::faint_ink, Qt::BDiagPattern));
        if (loupe < static_cast<int>(shown_.size())) {
            const QImage& image = after ? shown_[loupe].after : shown_[loupe].before;
            const QSizeF size = QSizeF(image.size()) * m;
            p.drawImage(QRectF(to.center() - QPointF(size.width() / 2, size.height() / 2), size), image);
        }
        p.restore();
        p.setPen(theme::ink);
        QFont small = theme::text_font(8);
        p.setFont(small);
        const QRectF tag(to.left() + 3, to.top() + 3, after ? 32 : 42, 15);
        p.fillRect(tag, theme::tag_paper(210));
        p.drawText(tag, Qt::AlignCenter, after ? "after" : "before");
    }
    QRectF under = cell(loupe);
    under.setTop(under.bottom() - text_height + 1);
    p.setPen(theme::ink);
    QFont bold = theme::text_font(8.5);
    bold.setBold(true);
    p.setFont(bold);
    p.drawText(under, Qt::AlignLeft | Qt::AlignTop, QString::fromUtf8(names[loupe]));
    p.setFont(theme::figure_font(8));
    p.drawText(under.adjusted(0, 15, 0, 0), Qt::AlignLeft | Qt::AlignTop, figures(loupe));
}

void LoupeRing::paintEvent(QPaintEvent*) {
    QPainter p(this);
    for (int i = 0; i < count; ++i) draw(p, i);
}

int LoupeRing::loupe_at(const QPointF& at) const {
    for (int i = 0; i < count; ++i)
        if (pane(i, false).united(pane(i, true)).contains(at)) return i;
    return -1;
}

void LoupeRing::mousePressEvent(QMouseEvent* event) {
    dragged_ = loupe_at(event->position());
    from_ = event->position();
}

void LoupeRing::mouseMoveEvent(QMouseEvent* event) {
    if (dragged_ < 0 || !(event->buttons() & Qt::LeftButton) || size_.isEmpty()) return;
    const QPointF by = (event->position() - from_) * devicePixelRatioF() / magnification();
    from_ = event->position();
    const QPointF to = places_[dragged_] - by;
    places_[dragged_] = {std::clamp(to.x(), 0.0, size_.width()), std::clamp(to.y(), 0.0, size_.height())};
    emit moved();
}

void LoupeRing::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const int loupe = loupe_at(event->position()); loupe >= 0) {
        places_[loupe] = usual_place(loupe);
        emit moved();
    }
}

}  // namespace optrel
