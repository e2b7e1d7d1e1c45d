// SPDX-License-Identifier: GPL-3.0-or-later
// Small pictures of frames for lists, in the colours of the screen. Workers read them; the window never waits.
//
// Belongs to the window's thread.
#pragma once

#include <QCache>
#include <QElapsedTimer>
#include <QImage>
#include <QObject>
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
    /// Returns the picture of a frame's file when it is in memory; otherwise queues it for reading and emits ready()
    /// afterwards. The newest request is read first, and the oldest ones are dropped when too many wait. A frame that
    /// could not be read is tried again after some seconds.
    Found find(const SmallPictureCache::Of& of, const std::shared_ptr<const ScreenColours>& colours);
    /// Whether pictures are being read.
    bool reading() const;

signals:
    /// Pictures were read; emitted at most every 30 ms.
    void ready();

private:
    PictureLoader();
    struct Shared;
    struct Kept {
        Found found;
        /// Kept alive, because its address is part of the key.
        std::shared_ptr<const ScreenColours> colours;
        QElapsedTimer since;
    };
    void take(const QString& key, Found found, std::shared_ptr<const ScreenColours> colours);

    std::shared_ptr<Shared> shared_;  ///< with the workers
    QCache<QString, Kept> kept_;
    QThreadPool pool_;
    QTimer tell_;
};

}  // namespace optrel
