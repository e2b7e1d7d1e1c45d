// SPDX-License-Identifier: GPL-3.0-or-later
// The curves of a profile: distortion, red and blue displacement, falloff and, where it was measured, resolution, each
// against field height with a band of one sigma.
#pragma once

#include <QWidget>

#include "optics/curves.h"

namespace optrel {

class CurvePlot;

class ProfileCurves : public QWidget {
    Q_OBJECT
public:
    /// One above the other, or side by side.
    explicit ProfileCurves(Qt::Orientation direction = Qt::Vertical, QWidget* parent = nullptr);
    /// A second lens setting of the same picture size, overlaid with dots and its name; none without a profile.
    struct Overlay {
        const Profile* profile = nullptr;
        PlacedNode node;
        QString name;
    };
    void show_profile(const Profile& profile, const PlacedNode& node) { show_profile(profile, node, Overlay()); }
    void show_profile(const Profile& profile, const PlacedNode& node, const Overlay& other);
    void clear();

private:
    CurvePlot *distortion_, *fringe_, *falloff_, *resolution_;
};

}  // namespace optrel
