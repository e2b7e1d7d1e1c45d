// The three curves of a profile: distortion, red and blue displacement, falloff, each against field height.
#pragma once

#include <QWidget>

#include "optics/profile.h"

namespace optrel {

class CurvePlot;

class ProfileCurves : public QWidget {
    Q_OBJECT
public:
    explicit ProfileCurves(QWidget* parent = nullptr);
    void show_profile(const Profile& profile, const ProfileNode& node);
    void clear();

private:
    CurvePlot *distortion_, *fringe_, *falloff_;
};

}  // namespace optrel
