// SPDX-License-Identifier: GPL-3.0-or-later
#include "exports/delivery_form.h"

#include "exchange/file_name.h"
#include "exchange/metadata_parts.h"
#include "widgets/number_box.h"
#include "widgets/place.h"

namespace optrel {

namespace {

QSpinBox* whole_number(int low, int high, const QString& label) {
    auto* box = new QSpinBox;
    box->setRange(low, high);
    box->setAccessibleName(label);
    return box;
}

}  // namespace

QComboBox* DeliveryForm::choice(const QString& label, const QStringList& items, const QString& hint) {
    auto* box = new QComboBox;
    box->addItems(items);
    box->setAccessibleName(label);
    box->setToolTip(hint);
    form_->addRow(label, box);
    connect(box, &QComboBox::currentIndexChanged, this, [this] {
        if (!showing_) emit edited();
    });
    return box;
}

DeliveryForm::DeliveryForm(QWidget* parent) : QWidget(parent) {
    form_ = new QFormLayout(this);
    form_->setContentsMargins(0, 0, 0, 0);
    form_->setVerticalSpacing(4);
    name_ = new QLineEdit;
    name_->setAccessibleName("Delivery name");
    form_->addRow("Name", name_);
    format_ = choice("Writes", {"TIFF", "JPEG", "PNG", "DNG, a raw copy", "OpenEXR, a map of the correction", "a film"},
                     "A raw copy keeps every sample and carries the correction beside it");
    bits_ = choice("Bits", {"8", "16"}, "Of each colour");
    QStringList spaces;
    for (int i = 0; i < colour_space_count; ++i) spaces << q(name_of(static_cast<ColourSpace>(i)));
    space_ = choice("Colour space", spaces, "Each file carries an ICC profile that says it");
    longest_ = whole_number(0, 100000, "Longest side");
    longest_->setSuffix(" px");
    longest_->setSpecialValueText("whole size");
    longest_->setSingleStep(100);
    form_->addRow("Longest side", longest_);
    add_resolution();
    quality_ = whole_number(1, 100, "Quality");
    form_->addRow("Quality", quality_);
    compressed_ = new QCheckBox("without loss");
    compressed_->setAccessibleName("Compressed");
    form_->addRow("Compressed", compressed_);
    const QStringList uses{"left out", "optional", "required"};
    geometry_ = choice("Geometry", uses, "Distortion and lateral colour: whether readers may leave them out");
    falloff_ = choice("Falloff", uses, "Whether readers may leave it out");
    QStringList codecs, containers;
    for (const std::string& name : film_codec_names()) codecs << q(name);
    for (const std::string& name : film_containers()) containers << "." + q(name);
    codec_ = choice("Coding", codecs,
                    "ffv1 loses nothing, for keeping; h264 and h265 are for showing; vc3 and h264-intra hold each "
                    "picture by itself, for going on");
    container_ = choice("Container", containers, "What the film is put into, with its sound and tags");
    original_ = new QCheckBox("inside, whole");
    original_->setAccessibleName("Original file");
    form_->addRow("Original file", original_);
    file_name_ = new QLineEdit;
    file_name_->setAccessibleName("File name");
    QStringList tokens;
    for (const std::string& token : name_tokens()) tokens << "{" + q(token) + "}";
    file_name_->setToolTip("Tokens: " + tokens.join(" ") +
                           "\n{lens|no lens}: \"no lens\" replaces a lens that the frame does not name\nA / makes a "
                           "folder");
    form_->addRow("File name", file_name_);
    taken_ = choice("Name taken", {"keep what is there", "number it", "replace an export"},
                    "A file that Optrel did not write is never replaced");
    add_metadata();
    for (QLineEdit* line : {name_, file_name_}) connect(line, &QLineEdit::textEdited, this, &DeliveryForm::edited);
    for (QSpinBox* box : {longest_, quality_})
        connect(box, &QSpinBox::valueChanged, this, [this] {
            if (!showing_) emit edited();
        });
    for (QCheckBox* box : {compressed_, original_}) connect(box, &QCheckBox::clicked, this, &DeliveryForm::edited);
    connect(format_, &QComboBox::activated, this, &DeliveryForm::take_format);
    refresh_rows();
}

void DeliveryForm::add_resolution() {
    resolution_row_ = new QWidget;
    auto* row = new QHBoxLayout(resolution_row_);
    row->setContentsMargins(0, 0, 0, 0);
    resolution_ = new NumberBox;
    resolution_->setRange(1, 10000);
    resolution_->setDecimals(2);
    resolution_->setAccessibleName("Resolution");
    resolution_->setToolTip("Resolution for printers; the number of pixels does not change");
    resolution_unit_ = new QComboBox;
    resolution_unit_->addItems({"px per inch", "px per cm"});
    resolution_unit_->setAccessibleName("Resolution unit");
    row->addWidget(resolution_, 1);
    row->addWidget(resolution_unit_);
    form_->addRow("Resolution", resolution_row_);
    const auto changed = [this] {
        if (!showing_) emit edited();
    };
    connect(resolution_, &QDoubleSpinBox::valueChanged, this, changed);
    connect(resolution_unit_, &QComboBox::currentIndexChanged, this, changed);
}

void DeliveryForm::add_metadata() {
    along_ = new QWidget;
    auto* along = new QGridLayout(along_);
    along->setContentsMargins(0, 0, 0, 0);
    for (int i = 0; i < 5; ++i) {
        metadata_[i] = new QCheckBox(metadata_parts[i].name);
        along->addWidget(metadata_[i], i / 3, i % 3);
        connect(metadata_[i], &QCheckBox::clicked, this, &DeliveryForm::edited);
    }
    form_->addRow("Goes along", along_);
}

void DeliveryForm::take_format() {
    if (format_->currentIndex() == static_cast<int>(ExportFormat::jpeg)) bits_->setCurrentIndex(0);
    refresh_rows();
    emit edited();
}

void DeliveryForm::refresh_rows() {
    const auto format = static_cast<ExportFormat>(format_->currentIndex());
    const bool raw = format == ExportFormat::dng, jpeg = format == ExportFormat::jpeg;
    const bool film = format == ExportFormat::film, picture = !raw && !film && format != ExportFormat::exr;
    const std::pair<QWidget*, bool> rows[] = {{bits_, picture && !jpeg},
                                              {space_, picture},
                                              {longest_, picture},
                                              {resolution_row_, picture},
                                              {codec_, film},
                                              {container_, film},
                                              {quality_, jpeg},
                                              {compressed_, raw || format == ExportFormat::tiff},
                                              {geometry_, raw},
                                              {falloff_, raw},
                                              {original_, raw},
                                              {along_, picture || raw}};
    for (const auto& [field, shown] : rows) {
        field->setVisible(shown);
        form_->labelForField(field)->setVisible(shown);
    }
}

void DeliveryForm::show_delivery(const Delivery& r) {
    showing_ = true;
    raw_ = r.raw;
    name_->setText(q(r.name));
    format_->setCurrentIndex(static_cast<int>(r.format));
    bits_->setCurrentIndex(r.bits == 16 ? 1 : 0);
    space_->setCurrentIndex(static_cast<int>(r.space));
    longest_->setValue(r.longest_side);
    quality_->setValue(r.quality);
    resolution_->setValue(r.resolution.pixels);
    resolution_unit_->setCurrentIndex(r.resolution.per_cm ? 1 : 0);
    compressed_->setChecked(r.format == ExportFormat::dng ? r.raw.compressed : r.compressed);
    geometry_->setCurrentIndex(static_cast<int>(r.raw.geometry));
    falloff_->setCurrentIndex(static_cast<int>(r.raw.falloff));
    original_->setChecked(r.raw.embed_original);
    codec_->setCurrentIndex(static_cast<int>(r.film.codec));
    container_->setCurrentText("." + q(r.film.container));
    file_name_->setText(q(r.file_name));
    taken_->setCurrentIndex(static_cast<int>(r.taken));
    for (int i = 0; i < 5; ++i) metadata_[i]->setChecked(r.metadata.*metadata_parts[i].kept);
    showing_ = false;
    refresh_rows();
}

Delivery DeliveryForm::delivery() const {
    Delivery r;
    r.raw = raw_;
    r.name = name_->text().trimmed().toStdString();
    r.format = static_cast<ExportFormat>(format_->currentIndex());
    const bool own_bits =
        r.format == ExportFormat::tiff || r.format == ExportFormat::jpeg || r.format == ExportFormat::png;
    r.bits = bits_->currentIndex() == 1 || !own_bits ? 16 : 8;
    r.space = static_cast<ColourSpace>(space_->currentIndex());
    r.longest_side = longest_->value();
    r.quality = quality_->value();
    if (r.format != ExportFormat::dng && own_bits)
        r.resolution = {resolution_->value(), resolution_unit_->currentIndex() == 1};
    (r.format == ExportFormat::dng ? r.raw.compressed : r.compressed) = compressed_->isChecked();
    r.raw.geometry = static_cast<OpcodeUse>(geometry_->currentIndex());
    r.raw.falloff = static_cast<OpcodeUse>(falloff_->currentIndex());
    r.raw.embed_original = original_->isChecked();
    r.film = {static_cast<FilmCodec>(codec_->currentIndex()), container_->currentText().mid(1).toStdString()};
    r.file_name = file_name_->text().toStdString();
    r.taken = static_cast<NameTaken>(taken_->currentIndex());
    for (int i = 0; i < 5; ++i) r.metadata.*metadata_parts[i].kept = metadata_[i]->isChecked();
    return r;
}

}  // namespace optrel
