// SPDX-License-Identifier: GPL-3.0-or-later
// What is still to be photographed for a lens setting, and what the next frame would gain.
//
// The gain is a figure: the largest field uncertainty (one sigma, px) now, and what it would be with the frame added.
// It comes from the information that the corners of a frame carry about the lens once its pose is unknown (Schur
// complement of the normal equations), for the corners that the chart would show from there.
#pragma once

#include <string>
#include <vector>

#include "calibration/bundle.h"
#include "charts/chart.h"

namespace optrel {

/// One frame of the plan.
struct PlannedShot {
    std::string name;           ///< "upper left corner", "centre, turned about the vertical axis"
    bool flat = false;          ///< a flat field, not a chart
    std::vector<Vec2> outline;  ///< outline of the chart in the picture, px; may extend beyond it
    Pose pose;                  ///< of the middle of the chart
    bool done = false;          ///< a similar frame was taken
    double sigma_after_px = 0;  ///< largest field uncertainty with this frame added; only for charts that are not done
};

struct ShotPlan {
    std::vector<PlannedShot> shots;
    double sigma_px = 0;              ///< largest field uncertainty from the existing frames
    Vec2 worst_place = Vec2::Zero();  ///< its place in the picture
    std::string worst_name;           ///< "in the lower right corner"
    int next = -1;                    ///< the chart frame with the largest gain; -1: all done
    int charts_done = 0, flats_done = 0;

    /// "Next: upper left corner. It would bring the largest uncertainty (in the lower right corner) from 0.041 to 0.012
    /// px."
    std::string advice() const;
};

struct PlanRequest {
    ChartSpec chart;
    PictureGeometry geometry;
    double focal_px = 0;  ///< nominal; used while there is no solution
    const LensSolution* lens = nullptr;
    double sigma_px = 0;  ///< largest field uncertainty of the solution; the figures of the plan are scaled to it
    std::vector<const View*> views;              ///< with poses, of the used frames
    int flats_one_way = 0, flats_other_way = 0;  ///< flat fields that were taken with the light from either side
};

ShotPlan plan_shots(const PlanRequest& request);

}  // namespace optrel
