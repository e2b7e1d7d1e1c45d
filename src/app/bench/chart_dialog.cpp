// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/chart_dialog.h"

#include <QFileDialog>
#include <QFormLayout>
#include <QPainter>

#include "base/error.h"
#include "base/figure_text.h"
#include "theme.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {
namespace {

/// Preview of the page with the same shapes as in the file.
class SheetPreview : public QWidget {
public:
    explicit SheetPreview(const std::optional<ChartSheet>& sheet) : sheet_(sheet) {
        setMinimumSize(430, 330);
        setAccessibleName("Preview of the sheet");
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.fillRect(rect(), theme::surround);
        if (!sheet_) return;
        const double s = std::min((width() - 24) / sheet_->page.width_mm, (height() - 24) / sheet_->page.height_mm);
        p.translate((width() - s * sheet_->page.width_mm) / 2, (height() - s * sheet_->page.height_mm) / 2);
        p.scale(s, s);
        p.fillRect(QRectF(0, 0, sheet_->page.width_mm, sheet_->page.height_mm), Qt::white);
        p.setRenderHint(QPainter::Antialiasing);
        for (const SheetRect& r : sheet_->black) p.fillRect(QRectF(r.x, r.y, r.width, r.height), Qt::black);
        for (const SheetLine& l : sheet_->lines) {
            p.setPen(QPen(Qt::black, l.width));
            p.drawLine(QPointF(l.x1, l.y1), QPointF(l.x2, l.y2));
        }
        for (const SheetText& t : sheet_->texts) {
            QFont font = theme::text_font();
            font.setPixelSize(20);  // scaled, because very small fonts are drawn inaccurately
            p.save();
            p.translate(t.x, t.y);
            if (t.upwards) p.rotate(-90);
            p.scale(t.size / 20, t.size / 20);
            p.setFont(font);
            p.setPen(Qt::black);
            p.drawText(QPointF(0, 0), q(t.text));
            p.restore();
        }
    }

private:
    const std::optional<ChartSheet>& sheet_;
};

template <class Box>
Box* named(Box* box, const char* name) {
    box->setAccessibleName(name);
    return box;
}

}  // namespace

ChartDialog::ChartDialog(const ChartSpec& chart, QWidget* parent) : QDialog(parent), given_(chart) {
    setWindowTitle("Chart");
    kind_ = named(new QComboBox, "Kind of chart");
    kind_->addItems({"plain squares", "coded: every corner known"});
    kind_->setCurrentIndex(chart.kind == ChartKind::coded ? 1 : 0);
    kind_->setToolTip(
        "Markers in the white squares tell which corner is which, also where only a part of the chart is seen");
    page_ = named(new QComboBox, "Page");
    page_->setEditable(true);
    for (const char* size : {"A4", "A3", "A2", "A1", "A0"})
        for (const char* way : {"landscape", "portrait"}) page_->addItem(QString("%1 %2").arg(size, way));
    page_->setCurrentText("A2 landscape");
    page_->setToolTip("A0 to A4, or any size as WIDTHxHEIGHT in mm");
    across_ = named(new QSpinBox, "Squares across");
    down_ = named(new QSpinBox, "Squares down");
    for (QSpinBox* box : {across_, down_}) box->setRange(4, 200);
    across_->setValue(chart.squares_x);
    down_->setValue(chart.squares_y);
    square_ = named(new NumberBox, "Square");
    square_->setRange(1, 1999);
    square_->setSuffix(" mm");
    square_->setValue(chart.square_mm);
    ruler_across_ = named(new NumberBox, "Ruler across as measured");
    ruler_down_ = named(new NumberBox, "Ruler down as measured");
    for (NumberBox* box : {ruler_across_, ruler_down_}) {
        box->setRange(0, 20000);
        box->setDecimals(2);
        box->setSuffix(" mm");
    }
    lay_out();
    connect(kind_, &QComboBox::currentIndexChanged, this, &ChartDialog::update_sheet);
    connect(page_, &QComboBox::currentTextChanged, this, &ChartDialog::update_sheet);
    for (QSpinBox* box : {across_, down_}) connect(box, &QSpinBox::valueChanged, this, &ChartDialog::update_sheet);
    for (NumberBox* box : {square_, ruler_across_, ruler_down_})
        connect(box, &QDoubleSpinBox::valueChanged, this, &ChartDialog::update_sheet);
    connect(save_, &QPushButton::clicked, this, [this] {
        const QString path =
            QFileDialog::getSaveFileName(this, "Save the chart for printing", "chart.pdf", "PDF (*.pdf);;SVG (*.svg)");
        if (!path.isEmpty()) write(path);
    });
    update_sheet();
}

QLayout* ChartDialog::build_form() {
    auto* form = new QFormLayout;
    form->addRow("Kind", kind_);
    form->addRow("Squares across", across_);
    form->addRow("Squares down", down_);
    form->addRow("Square in print", square_);
    form->addRow("Page", page_);
    save_ = button("&Save for printing…", "Writes the sheet as PDF or SVG; print it at full size");
    form->addRow("", save_);
    form->addRow(heading("After printing: measure the rulers"));
    form->addRow("Ruler across", ruler_across_);
    form->addRow("Ruler down", ruler_down_);
    measured_ = new QLabel;
    measured_->setWordWrap(true);
    measured_->setAccessibleDescription("Squares as measured");
    form->addRow("Squares are", measured_);
    message_ = new QLabel;
    message_->setWordWrap(true);
    message_->setMinimumHeight(48);
    message_->setAlignment(Qt::AlignTop);
    message_->setAccessibleDescription("Chart message");
    form->addRow(message_);
    return form;
}

void ChartDialog::lay_out() {
    auto* left = new QWidget;
    left->setLayout(build_form());
    left->setFixedWidth(330);
    preview_ = new SheetPreview(sheet_);
    auto* across = new QHBoxLayout;
    across->addWidget(left);
    across->addWidget(preview_, 1);
    auto* buttons = answer_buttons(*this, "&Use this chart");
    use_ = taking(*buttons);
    use_->setToolTip("Gives the run this chart, as measured");
    use_->setObjectName("primary");
    auto* down = new QVBoxLayout(this);
    down->addLayout(across, 1);
    down->addWidget(buttons);
    resize(900, 500);
}

void ChartDialog::update_sheet() {
    QString problem;
    std::optional<ChartSheet> before = std::move(sheet_);
    sheet_.reset();
    try {
        ChartSpec spec = given_;
        spec.kind = kind_->currentIndex() == 1 ? ChartKind::coded : ChartKind::checker;
        spec.squares_x = across_->value();
        spec.squares_y = down_->value();
        spec.square_mm = spec.square_y_mm = square_->value();
        sheet_ = lay_out_sheet(ChartSpec::parse(spec.text()), PageSize::parse(page_->currentText().toStdString()));
        // A ruler of another length starts again from its nominal length.
        for (const auto& [box, now, then] :
             {std::tuple(ruler_across_, sheet_->ruler_across_mm, before ? before->ruler_across_mm : 0),
              std::tuple(ruler_down_, sheet_->ruler_down_mm, before ? before->ruler_down_mm : 0)})
            if (now != then) {
                const QSignalBlocker quiet(box);
                box->setValue(now);
            }
        const ChartSpec true_size = chart();
        measured_->setText(q(number_text(figures::length, true_size.square_mm) + " × " +
                             figure_text(figures::length, true_size.square_y_mm)));
    } catch (const Error& error) {
        problem = q(error.what());
        measured_->setText("–");
    }
    message_->setText(problem.isEmpty() ? "" : "✕ " + problem);
    message_->setStyleSheet(QString("color: %1").arg(theme::serious.name()));
    save_->setEnabled(sheet_.has_value());
    use_->setEnabled(problem.isEmpty());
    preview_->update();
}

ChartSpec ChartDialog::chart() const { return as_measured(*sheet_, ruler_across_->value(), ruler_down_->value()); }

bool ChartDialog::write(const QString& path) {
    try {
        write_sheet(*sheet_, path.toStdString(), Existing::replace_ours);
        message_->setText("Saved as " + path + ". Print it at full size, not fitted to the page.");
        message_->setStyleSheet("");
        return true;
    } catch (const Error& error) {
        message_->setText("✕ " + q(error.what()));
        return false;
    }
}

}  // namespace optrel
