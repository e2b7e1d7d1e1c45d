// SPDX-License-Identifier: GPL-3.0-or-later
// Colour profiles that an X server announces for its screens, as the ICC's "ICC profiles in X" specification says:
// properties _ICC_PROFILE, _ICC_PROFILE_1 and so on of the root window.
#pragma once

#include <QAbstractNativeEventFilter>
#include <QScreen>
#include <functional>
#include <string>

namespace optrel {

/// Returns the bytes of the profile that the X server announces for a screen; empty without a profile or an X server.
std::string announced_profile(const QScreen* screen);

/// Calls `changed` whenever the X server announces another profile for a screen, or withdraws one. Without an X server
/// it is never called.
class AnnouncedProfileWatch : public QAbstractNativeEventFilter {
public:
    explicit AnnouncedProfileWatch(std::function<void()> changed);
    ~AnnouncedProfileWatch() override;
    bool nativeEventFilter(const QByteArray& type, void* message, qintptr* result) override;

private:
    std::function<void()> changed_;
};

}  // namespace optrel
