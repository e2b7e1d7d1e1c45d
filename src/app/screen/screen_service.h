// SPDX-License-Identifier: GPL-3.0-or-later
// The colours of the screens that pictures are shown on: the profile that the X server announces, or a file that the
// person chose for the screen, else sRGB. Belongs to the window's thread.
#pragma once

#include <QHash>
#include <QObject>
#include <QWidget>
#include <memory>
#include <optional>

#include "render/screen_colours.h"
#include "screen/announced_profile.h"
#include "theme.h"

namespace optrel {

class ScreenService : public QObject {
    Q_OBJECT
public:
    /// That of the application.
    static ScreenService& here();

    enum class Source { file, announced, none };
    struct State {
        QString screen;  ///< its name
        Source source = Source::none;
        QString file;     ///< that was chosen for it
        QString problem;  ///< why a profile is not used
        std::shared_ptr<const ScreenColours> colours;
    };
    /// Of the screen that a widget is on.
    const State& state(const QWidget* widget);
    std::shared_ptr<const ScreenColours> colours(const QWidget* widget) { return state(widget).colours; }
    /// "Screen: NAME (announced)"
    static QString line(const State& state);

    /// Chooses a file for a screen, or none for an empty path. Throws Error for one that cannot be used.
    void choose(const QString& screen, const QString& path);
    Intent intent() const { return intent_; }
    bool black_point_compensation() const { return black_point_; }
    void set_rendering(Intent intent, bool black_point_compensation);
    /// What the window stands on; empty: as the desktop prefers.
    std::optional<theme::Ground> ground() const { return ground_; }
    void set_ground(std::optional<theme::Ground> ground);
    /// Follows a window to other screens.
    void follow(QWidget* window);

signals:
    void changed();
    void ground_changed();

private:
    ScreenService();
    State look_up(const QScreen* screen) const;
    void forget();

    QHash<QString, State> known_;  ///< by the name of the screen
    Intent intent_ = Intent::relative_colorimetric;
    bool black_point_ = true;
    std::optional<theme::Ground> ground_;
    AnnouncedProfileWatch watch_;
};

}  // namespace optrel
