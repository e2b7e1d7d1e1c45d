// SPDX-License-Identifier: GPL-3.0-or-later
// Finds the colour profile of each screen: the file that the person chose for it, else the profile that the X server
// announces, else sRGB. Also keeps the chosen ground of the window. Belongs to the window's thread.
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
    /// Returns the one service of the application.
    static ScreenService& here();

    enum class Source { file, announced, none };
    struct State {
        QString screen;  ///< its name
        Source source = Source::none;
        QString file;     ///< that was chosen for it
        QString problem;  ///< why a profile is not used
        std::shared_ptr<const ScreenColours> colours;
    };
    /// State of the screen that shows a widget.
    const State& state(const QWidget* widget);
    std::shared_ptr<const ScreenColours> colours(const QWidget* widget) { return state(widget).colours; }
    /// "Screen: NAME (announced)"
    static QString line(const State& state);

    /// Chooses a file for a screen, or none for an empty path. Throws Error for a file that cannot be used, and like
    /// the two functions below when the choice cannot be kept.
    void choose(const QString& screen, const QString& path);
    Intent intent() const { return intent_; }
    bool black_point_compensation() const { return black_point_; }
    void set_rendering(Intent intent, bool black_point_compensation);
    /// The chosen ground (brightness of the window); empty means that the desktop's preference applies.
    std::optional<theme::Ground> ground() const { return ground_; }
    void set_ground(std::optional<theme::Ground> ground);
    /// Emits changed() when the window moves to another screen.
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
