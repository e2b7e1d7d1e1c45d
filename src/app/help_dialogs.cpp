// SPDX-License-Identifier: GPL-3.0-or-later
#include "help_dialogs.h"

#include <QDialogButtonBox>
#include <QFile>
#include <QHBoxLayout>
#include <QKeySequence>
#include <QLabel>
#include <QVBoxLayout>

#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {
namespace {

/// The built-in guide; a message when the program was built without it.
QString guide_text() {
    QFile file(":/optrel/guide.md");
    if (!file.open(QIODevice::ReadOnly)) return "## Guide\n\nThe guide is in docs/guide.md.";
    return QString::fromUtf8(file.readAll());
}

void add_close(QDialog& dialog, QVBoxLayout& layout) {
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    layout.addWidget(buttons);
}

struct Library {
    const char *name, *does, *licence;
};

constexpr Library libraries[] = {
    {"Qt 6", "window, drawing, SQL", "LGPL-3.0"},
    {"SQLite", "the store", "public domain"},
    {"Eigen", "linear algebra", "MPL-2.0"},
    {"Ceres Solver", "least squares", "BSD-3-Clause"},
    {"OpenCV", "pictures, markers", "Apache-2.0"},
    {"LibRaw", "raw files", "LGPL-2.1 or CDDL-1.0"},
    {"Exiv2", "metadata", "GPL-2.0-or-later"},
    {"libtiff", "TIFF files", "libtiff"},
    {"Little CMS", "colour profiles", "MIT"},
    {"FFmpeg's libraries", "moving pictures", "LGPL-2.1-or-later; GPL-2.0-or-later"},
    {"OpenEXR", "maps", "BSD-3-Clause"},
    {"Cairo", "pages and sheets", "LGPL-2.1 or MPL-1.1"},
    {"oneTBB", "work on all cores", "Apache-2.0"},
    {"Highway", "vector instructions", "Apache-2.0"},
    {"OpenSSL", "digests", "Apache-2.0"},
    {"nlohmann-json", "JSON", "MIT"},
    {"fmt", "text", "MIT"},
    {"CLI11", "the command line", "BSD-3-Clause"},
    {"Open Sans, DejaVu", "type", "Apache-2.0; Bitstream Vera"},
};

}  // namespace

GuideDialog::GuideDialog(QWidget* parent) : QDialog(parent) {
    setWindowTitle("Guide");
    resize(900, 640);
    parts_ = new QListWidget;
    parts_->setAccessibleName("Parts of the guide");
    parts_->setFixedWidth(210);
    text_ = new QTextBrowser;
    text_->setAccessibleName("Guide");
    text_->setOpenExternalLinks(true);
    for (const QString& part : guide_text().split("\n## ").mid(1)) {
        parts_->addItem(part.section('\n', 0, 0).trimmed());
        texts_ << "## " + part;
    }
    auto* across = new QHBoxLayout;
    across->addWidget(parts_);
    across->addWidget(text_, 1);
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(across, 1);
    add_close(*this, *layout);
    connect(parts_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0 && row < texts_.size()) text_->setMarkdown(texts_[row]);
    });
    parts_->setCurrentRow(0);
}

void GuideDialog::show_part_of(theme::Place place) {
    for (int row = 0; row < parts_->count(); ++row)
        if (parts_->item(row)->text().startsWith(theme::place_name(place))) return parts_->setCurrentRow(row);
    parts_->setCurrentRow(0);
}

QList<KeyHelp> all_keys() {
    QList<KeyHelp> out;
    for (int i = 0; i < theme::place_count; ++i) {
        const auto place = static_cast<theme::Place>(i);
        out << KeyHelp{QString("Alt+%1").arg(i + 1), theme::place_name(place) + ": " + theme::place_purpose(place)};
    }
    return out << KeyHelp{QKeySequence(QKeySequence::Undo).toString(), "takes the last edit back"}
               << KeyHelp{QKeySequence(QKeySequence::Redo).toString(), "does it again"}
               << KeyHelp{"F1", "the part of the guide that belongs to the place"}
               << KeyHelp{"Shift+F1", "this list of keys"} << KeyHelp{"Alt and an underlined letter", "that button"}
               << KeyHelp{"F2 in a table", "edits the chosen cell"}
               << KeyHelp{"Ctrl+Down", "Inspect: the next frame of the list"}
               << KeyHelp{"Ctrl+Up", "Inspect: the previous frame of the list"}
               << KeyHelp{"Ctrl+Shift+Down", "Inspect: the next frame of the same body"}
               << KeyHelp{"Ctrl+Shift+Up", "Inspect: the previous frame of the same body"}
               << KeyHelp{"Ctrl+Alt+Down", "Inspect: the next frame that waits for a rollout"}
               << KeyHelp{"Ctrl+Alt+Up", "Inspect: the previous frame that waits for a rollout"}
               << KeyHelp{"F11 in the picture's own window", "fills the screen, and leaves it"}
               << KeyHelp{"Space in a picture of Inspect", "swaps before and after"}
               << KeyHelp{"Arrow keys in a plot or a frame", "the next bar, knot or corner"}
               << KeyHelp{"Delete in a frame of the Bench", "drops the chosen corner, or takes it back"};
}

KeysDialog::KeysDialog(QWidget* parent) : QDialog(parent) {
    setWindowTitle("Keys");
    resize(620, 480);
    auto* table =
        new TableOf<KeyHelp>("Keys", {{text_column("Key", 210), [](const KeyHelp& k) { return Cell(k.key); }},
                                      {text_column("What it does"), [](const KeyHelp& k) { return Cell(k.does); }}});
    table->show_records(all_keys());
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(table, 1);
    add_close(*this, *layout);
}

AboutDialog::AboutDialog(QWidget* parent) : QDialog(parent) {
    setWindowTitle("About Optrel");
    resize(620, 560);
    auto* what = new QLabel(
        "<b>Optrel " OPTREL_VERSION
        "</b><br>Lens calibration, baselines and rollout for a studio's raw frames.<br>Free software under the GNU "
        "General Public License, version 3 or later; it comes without any warranty.<br>What is inside:");
    what->setWordWrap(true);
    auto* table = new TableOf<Library>(
        "Libraries", {{text_column("Library", 150), [](const Library& l) { return Cell(l.name); }},
                      {text_column("Does"), [](const Library& l) { return Cell(l.does); }},
                      {text_column("Licence", 170), [](const Library& l) { return Cell(l.licence); }}});
    table->show_records(libraries);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(what);
    layout->addWidget(table, 1);
    add_close(*this, *layout);
}

}  // namespace optrel
