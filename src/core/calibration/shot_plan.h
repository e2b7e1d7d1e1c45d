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
    bool flat = false;          ///< a flat field instead of a chart
    std::vector<Vec2> outline;  ///< where the chart's outline would stand in the picture, px; may reach beyond it
    Pose pose;                  ///< of the chart's middle
    bool done = false;          ///< a frame like it was taken
    double sigma_after_px = 0;  ///< largest field uncertainty with this frame added; charts that are not done
};

struct ShotPlan {
    std::vector<PlannedShot> shots;
    double sigma_px = 0;              ///< largest field uncertainty from the frames there are
    Vec2 worst_place = Vec2::Zero();  ///< where in the picture it is
    std::string worst_name;           ///< "in the lower right corner"
    int next = -1;                    ///< the chart frame that gains most; -1: all done
    int charts_done = 0, flats_done = 0;

    /// "Next: upper left corner. It would bring the largest uncertainty (in the lower right corner) from 0.041 to 0.012
    /// px."
    std::string advice() const;
};

struct PlanRequest {
    ChartSpec chart;
    PictureGeometry geometry;
    double focal_px = 0;  ///< nominal, used while there is no solution
    const LensSolution* lens = nullptr;
    double sigma_px = 0;  ///< largest field uncertainty that the solution states; the plan's figures are scaled to it
    std::vector<const View*> views;              ///< with poses, of the frames that are used
    int flats_one_way = 0, flats_other_way = 0;  ///< flat fields that were taken with the light from either side
};

ShotPlan plan_shots(const PlanRequest& request);

}  // namespace optrel
