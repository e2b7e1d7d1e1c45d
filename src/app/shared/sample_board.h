// SPDX-License-Identifier: GPL-3.0-or-later
// Nine patches of one frame at full size, each before and after.
#pragma once

#include <QImage>
#include <QWidget>
#include <array>
#include <optional>

#include "studio/rollout/samples.h"

namespace optrel {

class SampleBoard : public QWidget {
    Q_OBJECT
public:
    explicit SampleBoard(QWidget* parent = nullptr);
    void show_sample(const Sample& sample);
    /// What is said in place of patches.
    void show_text(const QString& text);
    /// Of a patch, row by row; null where none is shown.
    const QImage& before(int patch) const { return pairs_.at(static_cast<std::size_t>(patch)).before; }
    const QImage& after(int patch) const { return pairs_.at(static_cast<std::size_t>(patch)).after; }

protected:
    void paintEvent(QPaintEvent*) override;

private:
    struct Pair {
        QImage before, after;
    };
    std::array<Pair, 9> pairs_;
    std::optional<Sample> sample_;  ///< converted again for another screen
    QString text_;
};

}  // namespace optrel
