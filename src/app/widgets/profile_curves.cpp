#include "widgets/profile_curves.h"

#include <QVBoxLayout>
#include <cmath>

#include "optics/frame_map.h"
#include "theme.h"
#include "widgets/curve_plot.h"

namespace optrel {

ProfileCurves::ProfileCurves(QWidget* parent) : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    distortion_ = new CurvePlot("Distortion", "field height", "distortion / %");
    fringe_ = new CurvePlot("Lateral chromatic aberration", "field height", "displacement / px");
    falloff_ = new CurvePlot("Falloff", "field height", "falloff / EV");
    for (CurvePlot* plot : {distortion_, fringe_, falloff_}) layout->addWidget(plot, 1);
}

void ProfileCurves::show_profile(const Profile& profile, const ProfileNode& node) {
    const PictureGeometry& g = profile.geometry;
    const int n = 50;
    const double reach = 1.0;

    std::vector<Vec2> diagonal;
    for (int i = 0; i <= n; ++i) diagonal.push_back(g.middle() + (i / double(n)) * Vec2(g.width, g.height) / 2);
    // The uncertainty belongs to the whole picture, so the diagonal is judged together with a grid over it.
    std::vector<Vec2> points = diagonal;
    for (const Vec2& p : picture_grid(g, 15, 11)) points.push_back(p);
    const std::vector<double> sigma = field_sigma_px(node, g, points);
    Curve distortion{"green", theme::ink, Qt::SolidLine, {}, {}, false};
    const double half_px = 0.5 * std::hypot(g.width, g.height);
    for (int i = 0; i <= n; ++i) {
        const double h = reach * i / n;
        distortion.points.emplace_back(h, distortion_percent(node, g, h));
        distortion.sigma.push_back(h > 0.05 ? 100 * sigma[i] / (h * half_px) : 0);
    }
    distortion_->set_curves({distortion}, 0, reach, 0.5);

    const FrameMap map(node, g, g);
    std::vector<Curve> fringe;
    for (const auto& [channel, measured, name, colour, dash] :
         {std::tuple(Channel::red, &node.red, "red", theme::channel_red, Qt::SolidLine), std::tuple(Channel::blue, &node.blue, "blue", theme::channel_blue, Qt::DashLine)}) {
        if (!*measured) continue;
        Curve c{name, colour, dash, {}, {}, false};
        for (int i = 0; i <= n; ++i) {
            // Radial part, averaged over opposite directions so that a decentring shift does not bend the curve.
            const double r = reach * i / n * half_px;
            double radial = 0;
            for (int k = 0; k < 8; ++k) {
                const double a = k * 0.785398163;
                const Vec2 u(std::cos(a), std::sin(a)), at = map.centre() + r * u;
                radial += u.dot(map.fringe(channel, at) - at) / 8;
            }
            c.points.emplace_back(reach * i / n, radial);
            c.sigma.push_back((*measured)->residual_p95_px);
        }
        fringe.push_back(c);
    }
    fringe_->set_curves(fringe, 0, reach, 0.2);

    std::vector<Curve> falloff;
    if (node.falloff)
        for (const auto& [channel, name, colour, dash] : {std::tuple(Channel::red, "red", theme::channel_red, Qt::DashDotLine),
                                                          std::tuple(Channel::green, "green", theme::channel_green, Qt::SolidLine),
                                                          std::tuple(Channel::blue, "blue", theme::channel_blue, Qt::DashLine)}) {
            Curve c{name, colour, dash, {}, {}, false};
            for (int i = 0; i <= n; ++i) {
                const double h = reach * i / n;
                const Vec2 s = node.falloff->centre_mm + h * g.half_diagonal_mm() * Vec2(1, 0);
                c.points.emplace_back(h, std::log2(std::max(0.01, node.falloff->relative(channel, s, g.half_diagonal_mm()))));
                c.sigma.push_back(node.falloff->residual_percent[static_cast<int>(channel)] / 69.3);
            }
            falloff.push_back(c);
        }
    falloff_->set_curves(falloff, 0, reach, 0.5);
}

void ProfileCurves::clear() {
    for (CurvePlot* plot : {distortion_, fringe_, falloff_}) plot->set_curves({}, 0, 1, 1);
}

}  // namespace optrel
