// SPDX-License-Identifier: GPL-3.0-or-later
#include "intake/camera_panel.h"

#include <QFileDialog>
#include <QFormLayout>

#include "base/figure_text.h"
#include "widgets/place.h"

namespace optrel {
namespace {

QString camera_text(const CameraSeen& camera) {
    const std::string where = camera.folder().empty() ? camera.port : "folder " + camera.folder().filename().string();
    return q(camera.model) + " — " + q(where);
}

}  // namespace

CameraPanel::CameraPanel(const Parts& parts) : parts_(parts) {
    auto* layout = stacked_in(this);
    layout->setContentsMargins(8, 8, 8, 8);
    layout->addLayout(build_form());
    follow_ = button("Follow", "Copies each frame that is taken from now on and gives it its baseline", true);
    release_ = button("Release", "Takes a picture, where the camera can be released from the computer");
    connect(follow_, &QPushButton::clicked, this,
            [this] { parts_.cameras().following() ? parts_.cameras().stop() : follow(); });
    connect(release_, &QPushButton::clicked, this, [this] { parts_.cameras().release(); });
    list_ = button("What is on it", "Lists the files on the camera");
    connect(list_, &QPushButton::clicked, this, &CameraPanel::list);
    layout->addLayout(row_of({follow_, release_, list_}));
    state_ = new QLabel;
    state_->setWordWrap(true);
    state_->setAccessibleDescription("State of the camera");
    layout->addWidget(state_);
    files_ = new TableOf<FileOnCamera>(
        "Files on the camera",
        {{text_column("File", 130), [](const FileOnCamera& f) { return Cell(q(f.name)); }},
         {text_column("Folder on the camera"), [](const FileOnCamera& f) { return Cell(q(f.folder)); }},
         {figure_column("MB", 64), [](const FileOnCamera& f) {
              const double megabytes = static_cast<double>(f.size) / 1e6;
              return f.size == 0 ? Cell() : measured_cell(figures::megabytes, megabytes);
          }}});
    layout->addWidget(files_, 1);
    connect(&parts_.cameras(), &CameraService::changed, this, &CameraPanel::refresh);
    connect(&parts_.baselines(), &BaselineModel::changed, this, &CameraPanel::refresh_sets);
    for (auto* box : {camera_, set_}) box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    connect(to_, &QLineEdit::textChanged, this, &CameraPanel::refresh);
    refresh_sets();
    refresh();
}

/// Detection loads hundreds of drivers of the library, so it runs on request only.
void CameraPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (!parts_.cameras().following()) parts_.cameras().look();
}

QLayout* CameraPanel::build_form() {
    camera_ = new QComboBox;
    camera_->setAccessibleName("Camera");
    look_ = button("Look again", "Looks which cameras are connected");
    folder_ = button("Folder…", "A folder that stands for a camera: a disk of a camera, or the rig's");
    connect(look_, &QPushButton::clicked, this, [this] { parts_.cameras().look(); });
    connect(folder_, &QPushButton::clicked, this, &CameraPanel::ask_for_folder);
    auto* which = new QHBoxLayout;
    which->addWidget(camera_, 1);
    which->addWidget(look_);
    which->addWidget(folder_);
    to_ = new QLineEdit;
    to_->setAccessibleName("Into");
    to_->setPlaceholderText("folder of the shoot");
    name_ = new QLineEdit("{name}");
    name_->setAccessibleName("Names from the camera");
    name_->setToolTip("Tokens: {name} {date} {body} {number} and others of file names; a / makes folders");
    set_ = new QComboBox;
    set_->setAccessibleName("Frames get");
    older_ = new QCheckBox("also what is on the camera already");
    show_ = new QCheckBox("show each new frame in Inspect");
    show_->setChecked(true);
    for (QCheckBox* box : {older_, show_}) box->setAccessibleName(box->text());
    auto* form = new QFormLayout;
    form->setContentsMargins(0, 0, 0, 0);
    form->addRow("Camera", which);
    form->addRow("Into", folder_row(to_, "Folder of the shoot"));
    form->addRow("Names", name_);
    form->addRow("Frames get", set_);
    form->addRow("", older_);
    form->addRow("", show_);
    return form;
}

void CameraPanel::ask_for_folder() {
    const QString folder = QFileDialog::getExistingDirectory(this, "Folder that stands for a camera");
    if (!folder.isEmpty()) parts_.cameras().add_folder(folder.toStdString());
}

const CameraSeen* CameraPanel::chosen() const {
    const int row = camera_->currentIndex();
    const auto& seen = parts_.cameras().seen();
    return row >= 0 && row < static_cast<int>(seen.size()) ? &seen[static_cast<std::size_t>(row)] : nullptr;
}

void CameraPanel::list() {
    if (!chosen()) return;
    parts_.cameras().list(*chosen(), [this](const std::vector<FileOnCamera>& files) {
        files_->show_records(files);
        state_->setText(files.empty() ? QString("There is nothing on the camera.")
                                      : QString("%1 files are on the camera.").arg(files.size()));
    });
}

void CameraPanel::follow() {
    if (!chosen()) return;
    FollowOrder order;
    order.camera = *chosen();
    order.to = to_->text().trimmed().toStdString();
    order.file_name = name_->text().toStdString();
    order.older = older_->isChecked();
    std::optional<std::string> set;
    if (set_->currentIndex() > 0) set = set_->currentData().toString().toStdString();
    parts_.cameras().follow(order, set, show_->isChecked());
}

void CameraPanel::refresh_sets() {
    const QString chosen = set_->currentText();
    set_->clear();
    set_->addItem("what the folder says");
    set_->addItem("baseline alone", QString());
    for (const PinSet& set : parts_.baselines().current().sets)
        set_->addItem("baseline + set " + q(set.name), q(set.name));
    set_->setCurrentIndex(std::max(0, set_->findText(chosen)));
}

void CameraPanel::refresh() {
    const bool following = parts_.cameras().following();
    const QString chosen = camera_->currentText();
    camera_->clear();
    for (const CameraSeen& camera : parts_.cameras().seen()) camera_->addItem(camera_text(camera));
    camera_->setCurrentIndex(std::max(0, camera_->findText(chosen)));
    camera_->setPlaceholderText("none answers");
    if (camera_->count() == 0) camera_->setCurrentIndex(-1);
    for (QWidget* w : std::initializer_list<QWidget*>{camera_, look_, folder_, to_, name_, set_, older_, show_})
        w->setEnabled(!following);
    follow_->setText(following ? "Stop fo&llowing" : "Fo&llow");
    follow_->setAccessibleName(following ? "Stop following" : "Follow");
    follow_->setEnabled(following || (camera_->count() > 0 && !to_->text().trimmed().isEmpty()));
    list_->setEnabled(!following && camera_->count() > 0);
    release_->setEnabled(following && parts_.cameras().can_release());
    state_->setText(camera_->count() == 0 && !following
                        ? QString("No camera answers. Connect one and look again; a camera that shows itself as a disk "
                                  "is named by its folder.")
                        : parts_.cameras().state());
}

}  // namespace optrel
