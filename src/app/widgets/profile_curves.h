// The three curves of a profile: distortion, red and blue displacement, falloff, each against field height.
#pragma once

#include <QWidget>

#include "optics/profile.h"

namespace optrel {

class CurvePlot;

class ProfileCurves : public QWidget {
    Q_OBJECT
public:
    /// One above the other, or side by side.
    explicit ProfileCurves(Qt::Orientation direction = Qt::Vertical, QWidget* parent = nullptr);
    /// `other`: a second lens setting of the same picture size, overlaid with dots and its name.
    void show_profile(const Profile& profile, const ProfileNode& node, const ProfileNode* other = nullptr, const QString& other_name = {});
    void clear();

private:
    CurvePlot *distortion_, *fringe_, *falloff_;
};

}  // namespace optrel
