#include "widgets/profile_curves.h"

#include <QBoxLayout>
#include <cmath>

#include "optics/frame_map.h"
#include "theme.h"
#include "widgets/curve_plot.h"

namespace optrel {

ProfileCurves::ProfileCurves(Qt::Orientation direction, QWidget* parent) : QWidget(parent) {
    auto* layout = new QBoxLayout(direction == Qt::Vertical ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight, this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    distortion_ = new CurvePlot("Distortion", "field height", "distortion / %");
    fringe_ = new CurvePlot("Lateral chromatic aberration", "field height", "displacement / px");
    falloff_ = new CurvePlot("Falloff", "field height", "falloff / EV");
    for (CurvePlot* plot : {distortion_, fringe_, falloff_}) layout->addWidget(plot, 1);
}

namespace {

constexpr int steps = 50;

std::vector<Curve> distortion_curves(const Profile& profile, const ProfileNode& node) {
    const PictureGeometry& g = profile.geometry;
    std::vector<Vec2> points;
    for (int i = 0; i <= steps; ++i) points.push_back(g.middle() + (i / double(steps)) * Vec2(g.width, g.height) / 2);
    // The uncertainty belongs to the whole picture, so the diagonal is judged together with a grid over it.
    for (const Vec2& p : picture_grid(g, 15, 11)) points.push_back(p);
    const std::vector<double> sigma = field_sigma_px(node, g, points);
    Curve c{"green", theme::ink, Qt::SolidLine, {}, {}, false};
    const double half_px = 0.5 * std::hypot(g.width, g.height);
    for (int i = 0; i <= steps; ++i) {
        const double h = double(i) / steps;
        c.points.emplace_back(h, distortion_percent(node, g, h));
        c.sigma.push_back(h > 0.05 && sigma[i] > 0 ? 100 * sigma[i] / (h * half_px) : 0);
    }
    return {c};
}

std::vector<Curve> fringe_curves(const Profile& profile, const ProfileNode& node) {
    const PictureGeometry& g = profile.geometry;
    const FrameMap map(node, g, g);
    const double half_px = 0.5 * std::hypot(g.width, g.height);
    std::vector<Curve> out;
    for (const auto& [channel, measured, name, colour, dash] :
         {std::tuple(Channel::red, &node.red, "red", theme::channel_red, Qt::SolidLine), std::tuple(Channel::blue, &node.blue, "blue", theme::channel_blue, Qt::DashLine)}) {
        if (!*measured) continue;
        Curve c{name, colour, dash, {}, {}, false};
        for (int i = 0; i <= steps; ++i) {
            // Radial part, averaged over opposite directions so that a decentring shift does not bend the curve.
            const double r = i * half_px / steps;
            double radial = 0;
            for (int k = 0; k < 8; ++k) {
                const double a = k * 0.785398163;
                const Vec2 u(std::cos(a), std::sin(a)), at = map.centre() + r * u;
                radial += u.dot(map.fringe(channel, at) - at) / 8;
            }
            c.points.emplace_back(double(i) / steps, radial);
            c.sigma.push_back((*measured)->residual_p95_px);
        }
        out.push_back(c);
    }
    return out;
}

std::vector<Curve> falloff_curves(const Profile& profile, const ProfileNode& node) {
    const PictureGeometry& g = profile.geometry;
    std::vector<Curve> out;
    if (!node.falloff) return out;
    for (const auto& [channel, name, colour, dash] : {std::tuple(Channel::red, "red", theme::channel_red, Qt::DashDotLine),
                                                      std::tuple(Channel::green, "green", theme::channel_green, Qt::SolidLine),
                                                      std::tuple(Channel::blue, "blue", theme::channel_blue, Qt::DashLine)}) {
        Curve c{name, colour, dash, {}, {}, false};
        for (int i = 0; i <= steps; ++i) {
            const double h = double(i) / steps;
            const Vec2 s = node.falloff->centre_mm + h * g.half_diagonal_mm() * Vec2(1, 0);
            c.points.emplace_back(h, std::log2(std::max(0.01, node.falloff->relative(channel, s, g.half_diagonal_mm()))));
            c.sigma.push_back(node.falloff->residual_percent[static_cast<int>(channel)] / 69.3);
        }
        out.push_back(c);
    }
    return out;
}

}  // namespace

void ProfileCurves::show_profile(const Profile& profile, const ProfileNode& node, const ProfileNode* other, const QString& other_name) {
    const auto show = [&](CurvePlot* plot, std::vector<Curve> (*curves)(const Profile&, const ProfileNode&), double least) {
        std::vector<Curve> all = curves(profile, node);
        if (other)
            for (Curve& c : curves(profile, *other)) {
                c.label += " " + other_name;
                c.dash = Qt::DotLine;
                c.sigma.clear();
                all.push_back(std::move(c));
            }
        plot->set_curves(std::move(all), 0, 1, least);
    };
    show(distortion_, distortion_curves, 0.5);
    show(fringe_, fringe_curves, 0.2);
    show(falloff_, falloff_curves, 0.5);
}

void ProfileCurves::clear() {
    for (CurvePlot* plot : {distortion_, fringe_, falloff_}) plot->set_curves({}, 0, 1, 1);
}

}  // namespace optrel
