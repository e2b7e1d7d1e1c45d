// SPDX-License-Identifier: GPL-3.0-or-later
// The frames of the store as a list that words narrow: by name, folder, lens, body, ISO and state.
#pragma once

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>

#include "pictures/table_or_pictures.h"
#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

class FramesPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, BaselineModel, SheetModel, Jobs, Messages>;
    /// `key` names the list in what is remembered of the window, as in "inspect".
    FramesPanel(const Parts& parts, const QString& key, QWidget* parent = nullptr);

    Table& table() { return *table_; }
    TableOrPictures& view() { return *view_; }
    QLineEdit& words() { return *words_; }
    /// Without what is done to frames: to choose them only.
    void only_choose();
    /// All that the words leave.
    std::vector<std::filesystem::path> listed() const;
    /// What is known of frames or their sheets has changed.
    void refresh();
    void choose(const QString& path);
    /// The one that is shown in front.
    std::vector<const FrameRecord*> chosen_frames() const;
    const FrameRecord* chosen() const;
    /// Those before and after it in the list, as it is sorted.
    std::vector<const FrameRecord*> neighbours() const;
    /// What the next frame has to have.
    enum class Next { any, same_body, waiting };
    /// Chooses the next frame (step 1) or the previous one (-1) in the shown order. Returns false when there is none.
    bool go(int step, Next next = Next::any);

    /// The same spot of the chosen frames is wanted.
    void show_spot(bool on) { spot_->setChecked(on); }

protected:
    void showEvent(QShowEvent* event) override;

signals:
    void chosen_changed();
    void spot_asked(bool on);

private:
    Cell cell(const FrameRecord& frame, int column) const;
    Cell state_cell(const FrameRecord& frame) const;
    PictureSource pictures() const;
    QString group_of(std::size_t frame, Grouping grouping) const;
    QString body_of(std::size_t frame) const;
    bool same_body(std::size_t a, std::size_t b) const;
    std::size_t index_of(const FrameRecord& frame) const { return static_cast<std::size_t>(&frame - frames_->data()); }
    bool waits(const FrameRecord& frame) const;
    bool matches(std::size_t frame) const;
    void narrow();
    void narrow_more();
    void refresh_buttons();
    void show_rows();
    void lease_frames(Claim::Of of);
    const FrameRecord* at(int row) const;

    Parts parts_;
    Table* table_;
    TableOrPictures* view_;
    QLineEdit* words_;
    QLabel* count_;
    QPushButton *claim_body_, *assign_lens_, *spot_;
    using Frames = std::shared_ptr<const std::vector<FrameRecord>>;
    Frames frames_;          ///< those that the rows are of
    std::vector<int> rows_;  ///< which of them are shown
    /// Narrows a little at a time, so that the window stays free; what is shown stays until that is done.
    struct Narrowing {
        Frames frames;
        QStringList words;
        std::vector<int> found;
    } narrowing_;
    QTimer work_;
    std::size_t next_ = 0;  ///< the frame to look at next
    bool stale_ = false;    ///< something has changed while nobody saw it
};

}  // namespace optrel
