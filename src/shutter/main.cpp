// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-shutter: the simulated camera for demo and trials. Its pictures lie in a folder, which Optrel takes for a
// camera on a cable.
//
//   optrel-shutter FOLDER [BODY]
#include <QApplication>
#include <QLabel>
#include <QPushButton>
#include <QThreadPool>
#include <QVBoxLayout>
#include <cstdio>
#include <filesystem>

#include "rig/scenario.h"

namespace {

namespace fs = std::filesystem;

class Shutter : public QWidget {
public:
    Shutter(fs::path camera, std::string body)
        : camera_(std::move(camera)), pulled_(camera_.string() + ".pulled"), body_(std::move(body)) {
        setWindowTitle("Rig camera");
        release_ = new QPushButton("&Shutter");
        release_->setMinimumSize(220, 80);
        cable_ = new QPushButton("&Pull the cable");
        said_ = new QLabel(QString::fromStdString("A " + body_ + ", on a cable at " + camera_.string()));
        said_->setWordWrap(true);
        auto* layout = new QVBoxLayout(this);
        layout->addWidget(release_);
        layout->addWidget(cable_);
        layout->addWidget(said_);
        connect(release_, &QPushButton::clicked, this, [this] { shoot(); });
        connect(cable_, &QPushButton::clicked, this, [this] { pull(); });
    }
    ~Shutter() override {
        progress_.cancel();
        pool_.waitForDone();
        if (!fs::exists(camera_)) pull();
    }

private:
    void shoot() {
        release_->setEnabled(false);
        cable_->setEnabled(false);
        said_->setText("Exposing…");
        pool_.start([this] {
            QString said;
            try {
                const fs::path at = fs::exists(camera_) ? camera_ : pulled_;
                const fs::path file = optrel::rig::shoot(optrel::rig::demo_scenario(), body_, at, progress_);
                said = QString::fromStdString(file.filename().string() + " is on the camera.");
            } catch (const std::exception& error) {
                said = QString::fromUtf8(error.what());
            }
            QMetaObject::invokeMethod(this, [this, said] {
                said_->setText(said);
                release_->setEnabled(true);
                cable_->setEnabled(true);
            });
        });
    }
    /// Or reconnects it.
    void pull() {
        const bool in = fs::exists(camera_);
        std::error_code failed;
        in ? fs::rename(camera_, pulled_, failed) : fs::rename(pulled_, camera_, failed);
        if (failed) return said_->setText(QString::fromStdString(failed.message()));
        cable_->setText(in ? "&Plug it in" : "&Pull the cable");
        said_->setText(in ? "The cable is pulled; the shutter works all the same." : "The cable is in.");
    }

    const fs::path camera_, pulled_;
    const std::string body_;
    QPushButton *release_, *cable_;
    QLabel* said_;
    QThreadPool pool_;
    optrel::Progress progress_;
};

}  // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    const QStringList words = QApplication::arguments();
    if (words.size() < 2 || words.size() > 3 || words[1].startsWith('-')) {
        std::fprintf(stderr, "optrel-shutter FOLDER [BODY]: a simulated camera whose pictures lie in the folder.\n");
        return 2;
    }
    std::error_code failed;
    fs::create_directories(words[1].toStdString(), failed);
    if (failed) {
        std::fprintf(stderr, "optrel-shutter: %s cannot be made (%s); choose another folder.\n", qPrintable(words[1]),
                     failed.message().c_str());
        return 1;
    }
    Shutter shutter(words[1].toStdString(), words.size() == 3 ? words[2].toStdString() : "brimholt-a");
    shutter.show();
    return QApplication::exec();
}
