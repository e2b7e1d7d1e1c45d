// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/resolution_view.h"

#include <QHBoxLayout>
#include <map>

#include "base/figure_text.h"
#include "frames/orientation.h"
#include "optics/resolution_zones.h"
#include "widgets/place.h"

namespace optrel {

namespace {

QString with_sign(double value, int digits) {
    const QString size = QString::number(std::abs(value), 'f', digits);
    return (value < 0 ? QString(QChar(0x2212)) : "+") + size;
}

double value_of(const ResolutionMean& m, double frequency) {
    return frequency > 0 ? m.modulation.at(frequency) : m.mtf50;
}

/// `full`: with its sigma, which otherwise is told on hover.
Cell mean_cell(const ResolutionMean& m, double frequency, bool full) {
    if (m.count == 0) return {"–", Cell::Tone::faint, "No edge of this kind was seen there"};
    if (frequency > 0) return measured_cell(figures::modulation, value_of(m, frequency));
    const QString with_sigma = q(number_text(figures::modulation, m.mtf50, m.sigma));
    Cell cell(full ? with_sigma : q(number_text(figures::modulation, m.mtf50)), m.mtf50);
    cell.hint = QString("%1 cycles per px from %2 edges; single ones differ by %3 (one sigma)")
                    .arg(with_sigma)
                    .arg(m.count)
                    .arg(q(number_text(figures::modulation, m.spread)));
    return cell;
}

Cell change_cell(const ResolutionMean& one, const ResolutionMean& other, double frequency) {
    if (one.count == 0 || other.count == 0) return {"–", Cell::Tone::faint};
    const double percent = 100 * (value_of(other, frequency) / value_of(one, frequency) - 1);
    return Cell(with_sign(percent, 1) + " %", percent);
}

/// Number of cells, or size in px, of a field in display orientation.
cv::Size parts_as_held(const ResolutionView::Field& field) {
    return size_as_held({ResolutionCells::across, ResolutionCells::down}, field.orientation);
}
cv::Size size_of(const ResolutionView::Field& field) { return {field.geometry.width, field.geometry.height}; }

/// Mean by cell in display orientation, row by row.
std::map<int, double> by_part(const ResolutionView::Field& field, Channel channel, LineRun run, double frequency) {
    const cv::Size held = size_as_held(size_of(field), field.orientation), parts = parts_as_held(field);
    const PictureGeometry as_seen{held.width, held.height, field.geometry.pitch_um};
    std::map<int, double> out;
    for (const ResolutionCell& c : field.cells) {
        if (c.channel != channel || c.run != run) continue;
        const Vec2 at = field.geometry.to_image(c.place_mm);
        const cv::Point2d seen = place_as_held({at.x(), at.y()}, size_of(field), field.orientation);
        out[as_seen.cell({seen.x, seen.y}, parts.width, parts.height)] = value_of(c.mean, frequency);
    }
    return out;
}

QComboBox* choice(const QString& accessible_name, const QStringList& items) {
    auto* box = new QComboBox;
    box->setAccessibleName(accessible_name);
    box->addItems(items);
    return box;
}

}  // namespace

ResolutionView::ResolutionView(QWidget* parent) : QWidget(parent) {
    quantity_ = choice("Quantity", {"MTF50"});
    for (const double f : {0.1, 0.2, 0.3, 0.4}) quantity_->addItem(QString("MTF at %1 c/px").arg(f), f);
    plane_ = choice("Colour", {"Red", "Green", "Blue"});
    plane_->setCurrentIndex(static_cast<int>(Channel::green));
    lines_ = choice("Lines", {"sagittal", "tangential"});
    lines_->setToolTip("Sagittal: along lines that run from the middle; tangential: along lines about the middle");
    shown_ = choice("Shown", {});
    for (QComboBox* box : {quantity_, plane_, lines_, shown_})
        connect(box, &QComboBox::activated, this, &ResolutionView::refresh);
    map_ = new PictureMap("Resolution over the picture");
    map_->setMinimumHeight(170);
    table_ = new Table("Resolution by zone",
                       {text_column("Zone"), text_column("Lines", 70), figure_column("MTF50, c/px", 112),
                        figure_column("", 112), figure_column("Change", 60)});
    table_->allow_sorting(false);
    table_->setMinimumHeight(120);
    auto* choices = new QHBoxLayout;
    for (QComboBox* box : {quantity_, plane_, lines_, shown_}) {
        box->setMinimumContentsLength(4);  // four of them stand in a narrow side as well
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        choices->addWidget(box, 1);
    }
    auto* layout = stacked_in(this, 4);
    layout->addLayout(choices);
    layout->addWidget(map_, 3);
    layout->addWidget(table_, 2);
    clear("");
}

void ResolutionView::show_field(Field field, std::optional<Field> other) {
    field_ = std::move(field);
    other_ = std::move(other);
    const int before = shown_->currentIndex();
    shown_->clear();
    shown_->addItem(field_->name);
    if (other_) shown_->addItems({other_->name, "change, %"});
    shown_->setCurrentIndex(std::clamp(before, 0, shown_->count() - 1));
    refresh();
}

void ResolutionView::clear(const QString& why) {
    field_.reset();
    other_.reset();
    shown_->clear();
    map_->clear(why);
    refresh();
}

void ResolutionView::refresh() {
    for (QComboBox* box : {quantity_, plane_, lines_}) box->setEnabled(field_.has_value());
    shown_->setVisible(other_.has_value());
    refresh_map();
    refresh_table();
}

double ResolutionView::frequency() const { return quantity_->currentData().toDouble(); }

void ResolutionView::refresh_map() {
    if (!field_) return;
    const auto channel = static_cast<Channel>(plane_->currentIndex());
    const auto run = static_cast<LineRun>(lines_->currentIndex());
    const int which = other_ ? shown_->currentIndex() : 0;
    const Field& under = which == 1 ? *other_ : *field_;
    std::map<int, double> values = by_part(under, channel, run, frequency());
    if (which == 2) {
        const std::map<int, double> then = by_part(*other_, channel, run, frequency());
        std::erase_if(values, [&](const auto& value) { return !then.count(value.first); });
        for (auto& [part, value] : values) value = 100 * (then.at(part) / value - 1);
    }
    const cv::Size grid = parts_as_held(under), held = size_as_held(size_of(under), under.orientation);
    std::vector<PictureMap::Part> parts;
    for (const auto& [part, value] : values) parts.push_back({part % grid.width, part / grid.width, value});
    if (parts.empty()) return map_->clear("No edge of this kind was seen.");
    // Smaller differences are noise.
    const QString quantity = frequency() > 0 ? quantity_->currentText() : "MTF50, cycles per px";
    PictureMap::Look look{quantity, [](double v) { return q(number_text(figures::modulation, v)); }, true, 0.03};
    if (which == 2)
        look = {"Change of " + quantity_->currentText(), [](double v) { return with_sign(v, 1) + " %"; }, true, 10};
    map_->show_parts(QSizeF(held.width, held.height), grid.width, grid.height, std::move(parts), std::move(look));
}

void ResolutionView::refresh_table() {
    for (const int column : {3, 4}) table_->setColumnHidden(column, !other_);
    if (!field_) return table_->set_rows({});
    std::vector<Column> columns = table_->rows_model().columns();
    // Modulation has no unit.
    const QString unit = frequency() > 0 ? "" : " c/px",
                  alone = frequency() > 0 ? quantity_->currentText() : "MTF50, c/px";
    columns[2].title = other_ ? field_->name + unit : alone;
    columns[3].title = other_ ? other_->name + unit : "";
    // Two stand in a narrow side as well.
    const auto width_of = [this](const QString& title) {
        return std::max(72, fontMetrics().horizontalAdvance(title) + 4);
    };
    columns[2].width = other_ ? width_of(columns[2].title) : 112;
    columns[3].width = width_of(columns[3].title);
    table_->set_columns(std::move(columns));
    std::vector<Row> rows;
    for (const ResolutionZone& zone : resolution_zones)
        for (const LineRun run : {LineRun::sagittal, LineRun::tangential}) {
            const auto mean = [&](const std::optional<Field>& f) {
                return f ? mean_of_cells(f->cells, static_cast<Channel>(plane_->currentIndex()), run, zone.low,
                                         zone.high)
                         : ResolutionMean();
            };
            const ResolutionMean one = mean(field_), two = mean(other_);
            rows.push_back({Cell(zone.name), Cell(q(to_string(run))), mean_cell(one, frequency(), !other_),
                            mean_cell(two, frequency(), false), change_cell(one, two, frequency())});
        }
    table_->set_rows(std::move(rows));
    for (const int column : {3, 4}) table_->setColumnHidden(column, !other_);
    table_->lay_columns();
}

}  // namespace optrel
