// SPDX-License-Identifier: GPL-3.0-or-later
// Small pictures of frames for lists, in the colours of the screen. Workers read them; the window never waits.
//
// Belongs to the window's thread.
#pragma once

#include <QCache>
#include <QImage>
#include <QObject>
#include <QSet>
#include <QThreadPool>
#include <QTimer>
#include <memory>

#include "render/screen_colours.h"
#include "studio/development/small_picture.h"

namespace optrel {

class PictureLoader : public QObject {
    Q_OBJECT
public:
    ~PictureLoader() override;
    /// Returns the one loader of the application.
    static PictureLoader& here();

    /// Longer side of all small pictures, px: enough for a cell of a list at twice the scale.
    static constexpr int side = 320;

    struct Found {
        QImage picture;   ///< null while it is being read, and when there is none
        QString problem;  ///< why there is none; empty while it is being read
    };
    /// The picture of a frame's file, if it is in memory; otherwise it is read, and ready() follows. The pictures that
    /// were asked for last are read first; old requests are dropped.
    Found find(const SmallPictureCache::Of& of, const std::shared_ptr<const ScreenColours>& colours);
    /// Whether pictures are being read.
    bool reading() const;

signals:
    /// Pictures were read; emitted at most every 30 ms.
    void ready();

private:
    PictureLoader();
    struct Shared;
    void take(const QString& key, Found found);

    std::shared_ptr<Shared> shared_;  ///< with the workers
    QCache<QString, Found> kept_;
    QThreadPool pool_;
    QTimer tell_;
};

}  // namespace optrel
