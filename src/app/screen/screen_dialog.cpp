// SPDX-License-Identifier: GPL-3.0-or-later
#include "screen/screen_dialog.h"

#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QPushButton>
#include <QVBoxLayout>

#include "base/error.h"
#include "screen/screen_service.h"
#include "theme.h"
#include "widgets/place.h"
#include "window_words.h"

namespace optrel {

ScreenDialog::ScreenDialog(QWidget* parent) : QDialog(parent) {
    setWindowTitle("Colours of the screen");
    setMinimumWidth(520);
    screen_ = new QLabel;
    profile_ = new QLabel;
    profile_->setWordWrap(true);
    problem_ = new QLabel;
    problem_->setWordWrap(true);
    problem_->setStyleSheet("color: " + theme::serious.name());
    intent_ = new QComboBox;
    for (int i = 0; i < intent_count; ++i) intent_->addItem(q(to_string(static_cast<Intent>(i))));
    intent_->setToolTip("How colours of the picture become colours of the screen (ICC.1, rendering intents)");
    black_point_ = new QCheckBox("The picture's &black becomes the screen's black");
    black_point_->setToolTip(
        "Black point compensation (ISO 18619); without it, shadows below the screen's black are lost");
    ground_ = new QComboBox;
    ground_->addItem("as the desktop prefers");
    for (int i = 0; i < theme::ground_count; ++i) ground_->addItem(theme::ground_name(static_cast<theme::Ground>(i)));
    ground_->setToolTip("What the window stands on: light for a lit room, dark for a dim one; always without a hue");
    auto* choose = button("Choose a &file…",
                          "An ICC profile that was measured for this screen; it is used in place of the announced one");
    forget_ = button("F&orget the file", "Uses the profile that the X server announces for this screen again");
    auto* files = new QHBoxLayout;
    files->addWidget(choose);
    files->addWidget(forget_);
    files->addStretch();
    auto* form = new QFormLayout;
    form->addRow("Screen", screen_);
    form->addRow("Profile", profile_);
    form->addRow("", files);
    form->addRow("&Intent", intent_);
    form->addRow("", black_point_);
    form->addRow("&Ground of the window", ground_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(form);
    layout->addWidget(problem_);
    layout->addWidget(buttons);
    ScreenService& service = ScreenService::here();
    connect(choose, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, "Profile of this screen", "/usr/share/color/icc",
                                                          "ICC profiles (*.icc *.icm);;All files (*)");
        if (!path.isEmpty()) choose_file(path);
    });
    connect(forget_, &QPushButton::clicked, this, [this] { choose_file(""); });
    const auto render = [this, &service] {
        attempt(
            [&] { service.set_rendering(static_cast<Intent>(intent_->currentIndex()), black_point_->isChecked()); });
    };
    connect(intent_, &QComboBox::activated, this, render);
    connect(black_point_, &QCheckBox::clicked, this, render);
    connect(ground_, &QComboBox::activated, this, [this, &service](int i) {
        attempt([&] { service.set_ground(i > 0 ? std::optional(static_cast<theme::Ground>(i - 1)) : std::nullopt); });
    });
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(&service, &ScreenService::changed, this, &ScreenDialog::refresh);
    refresh();
}

void ScreenDialog::choose_file(const QString& path) {
    attempt([&] { ScreenService::here().choose(ScreenService::here().state(this).screen, path); });
}

/// Makes a change, or says why it failed.
void ScreenDialog::attempt(const std::function<void()>& change) {
    try {
        change();
    } catch (const Error& error) {
        problem_->setText(q(error.what()));
    }
}

void ScreenDialog::refresh() {
    ScreenService& service = ScreenService::here();
    const ScreenService::State& s = service.state(this);
    screen_->setText(s.screen);
    QString text = ScreenService::line(s).mid(QString("Screen: ").size());
    if (s.source == ScreenService::Source::file) text += "\n" + s.file;
    profile_->setText(text);
    problem_->setText(s.problem);
    forget_->setEnabled(!s.file.isEmpty());
    intent_->setCurrentIndex(static_cast<int>(service.intent()));
    black_point_->setChecked(service.black_point_compensation());
    ground_->setCurrentIndex(service.ground() ? static_cast<int>(*service.ground()) + 1 : 0);
    black_point_->setEnabled(service.intent() != Intent::absolute_colorimetric);
}

}  // namespace optrel
