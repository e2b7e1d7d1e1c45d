// SPDX-License-Identifier: GPL-3.0-or-later
// Colour profiles that an X server announces for its screens, as the ICC's "ICC profiles in X" specification says:
// properties _ICC_PROFILE, _ICC_PROFILE_1 and so on of the root window.
#pragma once

#include <QAbstractNativeEventFilter>
#include <QScreen>
#include <functional>
#include <string>

namespace optrel {

/// Bytes of the profile that is announced for a screen; empty when there is none, or no X server.
std::string announced_profile(const QScreen* screen);

/// Calls back when a profile is announced anew or withdrawn. Does nothing without an X server.
class AnnouncedProfileWatch : public QAbstractNativeEventFilter {
public:
    explicit AnnouncedProfileWatch(std::function<void()> changed);
    ~AnnouncedProfileWatch() override;
    bool nativeEventFilter(const QByteArray& type, void* message, qintptr* result) override;

private:
    std::function<void()> changed_;
};

}  // namespace optrel
