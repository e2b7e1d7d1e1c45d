// SPDX-License-Identifier: GPL-3.0-or-later
#include "screen/screen_service.h"

#include <QApplication>
#include <QPointer>
#include <QScreen>
#include <QSettings>
#include <QWindow>
#include <functional>

#include "base/error.h"
#include "base/files.h"
#include "settings_file.h"
#include "window_words.h"

namespace optrel {
namespace {

constexpr std::uintmax_t most_profile_bytes = 16 << 20;  ///< of a profile

QString screens_file() { return settings_file("screens.ini"); }

/// Percent-encoded, because a slash in the name of a screen would begin a group of the settings file.
QString key_of(const QString& screen) { return "file/" + QString::fromLatin1(screen.toUtf8().toPercentEncoding()); }

/// Keeps settings. Throws Error(file) when they cannot be written.
void keep(const std::function<void(QSettings&)>& write) {
    QSettings file(screens_file(), QSettings::IniFormat);
    write(file);
    file.sync();
    if (file.status() != QSettings::NoError)
        throw file_error("The choice cannot be kept: " + screens_file().toStdString() +
                         " cannot be written; make room, or make its folder writable.");
}

}  // namespace

ScreenService& ScreenService::here() {
    static QPointer<ScreenService> service;
    if (!service) {
        service = new ScreenService;
        service->setParent(qApp);
    }
    return *service;
}

ScreenService::ScreenService() : watch_([this] { forget(); }) {
    const QSettings file(screens_file(), QSettings::IniFormat);
    const QString intent = file.value("intent").toString();
    for (int i = 0; i < intent_count; ++i)
        if (intent == q(to_string(static_cast<Intent>(i)))) intent_ = static_cast<Intent>(i);
    black_point_ = file.value("black_point_compensation", true).toBool();
    const QString ground = file.value("ground").toString();
    for (int i = 0; i < theme::ground_count; ++i)
        if (ground == theme::ground_name(static_cast<theme::Ground>(i))) ground_ = static_cast<theme::Ground>(i);
    if (const theme::Ground wanted = ground_.value_or(theme::preferred_ground()); wanted != theme::ground())
        theme::use(*qApp, wanted);
    connect(qGuiApp, &QGuiApplication::screenAdded, this, &ScreenService::forget);
    connect(qGuiApp, &QGuiApplication::screenRemoved, this, &ScreenService::forget);
}

void ScreenService::forget() {
    known_.clear();
    emit changed();
}

ScreenService::State ScreenService::look_up(const QScreen* screen) const {
    State out;
    out.screen = screen ? screen->name() : QString("no screen");
    out.colours = ScreenColours::srgb();
    const auto take = [&](const std::string& profile, Source source, const QString& what) {
        try {
            out.colours = std::make_shared<const ScreenColours>(ScreenSettings{profile, intent_, black_point_});
            out.source = source;
            return true;
        } catch (const Error& error) {
            out.problem = what + ": " + q(error.what());
            return false;
        }
    };
    out.file = QSettings(screens_file(), QSettings::IniFormat).value(key_of(out.screen)).toString();
    if (!out.file.isEmpty()) {
        try {
            if (take(read_file(out.file.toStdString(), most_profile_bytes), Source::file, out.file)) return out;
        } catch (const Error& error) {
            out.problem = q(error.what());
        }
    }
    const std::string announced = announced_profile(screen);
    if (!announced.empty()) take(announced, Source::announced, "The profile that is announced for this screen");
    return out;
}

const ScreenService::State& ScreenService::state(const QWidget* widget) {
    const QScreen* screen = widget ? widget->screen() : QGuiApplication::primaryScreen();
    const QString name = screen ? screen->name() : QString();
    const auto found = known_.find(name);
    if (found != known_.end()) return *found;
    return *known_.insert(name, look_up(screen));
}

QString ScreenService::line(const State& s) {
    switch (s.source) {
        case Source::file: return QString("Screen: %1 (chosen file)").arg(q(s.colours->name()));
        case Source::announced: return QString("Screen: %1 (announced)").arg(q(s.colours->name()));
        default:
            return s.problem.isEmpty() ? QString("Screen: no profile known, shown as sRGB")
                                       : QString("Screen: profile cannot be used, shown as sRGB");
    }
}

void ScreenService::choose(const QString& screen, const QString& path) {
    if (!path.isEmpty()) ScreenColours({read_file(path.toStdString(), most_profile_bytes), intent_, black_point_});
    keep([&](QSettings& file) {
        if (path.isEmpty())
            file.remove(key_of(screen));
        else
            file.setValue(key_of(screen), path);
    });
    forget();
}

void ScreenService::set_rendering(Intent intent, bool black_point_compensation) {
    if (intent == intent_ && black_point_compensation == black_point_) return;
    intent_ = intent;
    black_point_ = black_point_compensation;
    forget();
    keep([&](QSettings& file) {
        file.setValue("intent", q(to_string(intent)));
        file.setValue("black_point_compensation", black_point_compensation);
    });
}

void ScreenService::set_ground(std::optional<theme::Ground> ground) {
    ground_ = ground;
    theme::use(*qApp, ground.value_or(theme::preferred_ground()));
    emit ground_changed();
    keep([&](QSettings& file) {
        if (ground)
            file.setValue("ground", theme::ground_name(*ground));
        else
            file.remove("ground");
    });
}

void ScreenService::follow(QWidget* window) {
    window->winId();  // makes the window of the platform
    connect(window->windowHandle(), &QWindow::screenChanged, this, &ScreenService::changed, Qt::UniqueConnection);
}

}  // namespace optrel
