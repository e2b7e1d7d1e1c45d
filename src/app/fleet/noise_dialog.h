// SPDX-License-Identifier: GPL-3.0-or-later
// Measures the noise of a body: frames are chosen, sorted and measured; the result is looked at and published.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <memory>
#include <optional>

#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

struct NoiseMeasurement;
struct IsoNoise;
struct NoiseFinding;

class NoiseDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<RegisterModel, ProfileModel, Jobs, Messages>;
    NoiseDialog(const Parts& parts, QWidget* parent);
    ~NoiseDialog() override;

    /// Adds frames; those that are named already stay once.
    void add_frames(const std::vector<std::filesystem::path>& frames);
    void measure();
    void publish();
    bool measured() const { return result_ != nullptr; }
    Table& findings() { return *findings_; }

protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    void build();
    void ask_for_frames();
    void ask_for_folder();
    /// Lists the frames of folders on a worker, and adds them.
    void add_folders(const std::vector<std::filesystem::path>& folders);
    void refresh();
    void show_result();

    Parts parts_;
    std::vector<std::filesystem::path> frames_;
    std::shared_ptr<NoiseMeasurement> result_;
    std::string document_;
    struct Running;
    std::shared_ptr<Running> running_;
    QLabel *chosen_, *said_;
    TableOf<IsoNoise>* figures_;
    TableOf<NoiseFinding>* findings_;
    QPushButton *measure_, *publish_;
};

}  // namespace optrel
