// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/profile_curves.h"

#include <QBoxLayout>

#include "theme.h"
#include "widgets/curve_plot.h"
#include "widgets/place.h"

namespace optrel {

ProfileCurves::ProfileCurves(Qt::Orientation direction, QWidget* parent) : QWidget(parent) {
    auto* layout = new QBoxLayout(direction == Qt::Vertical ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight, this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    distortion_ = new CurvePlot("Distortion", "field height", "distortion / %");
    fringe_ = new CurvePlot("Lateral chromatic aberration", "field height", "displacement / px");
    falloff_ = new CurvePlot("Falloff", "field height", "falloff / EV");
    resolution_ = new CurvePlot("Resolution", "field height", "MTF50 / c per px");
    for (CurvePlot* plot : {distortion_, fringe_, falloff_, resolution_}) layout->addWidget(plot, 1);
    resolution_->hide();
}

namespace {

struct Look {
    QString name;
    QColor colour;
    Qt::PenStyle dash;
};

Look look_of(Channel channel, bool several) {
    switch (channel) {
        case Channel::red: return {"red", theme::channel_red, several ? Qt::DashDotLine : Qt::SolidLine};
        case Channel::blue: return {"blue", theme::channel_blue, Qt::DashLine};
        default: return {"green", several ? theme::channel_green : theme::ink, Qt::SolidLine};
    }
}

std::vector<Curve> drawn(const std::vector<LensCurve>& curves) {
    std::vector<Curve> out;
    for (const LensCurve& c : curves) {
        Look look = look_of(c.channel, curves.size() == 3);
        if (c.run)
            look = {q(to_string(*c.run)), theme::ink, *c.run == LineRun::sagittal ? Qt::SolidLine : Qt::DashLine};
        Curve curve{look.name, look.colour, look.dash, {}, {}};
        for (const CurveSample& s : c.samples) {
            curve.points.emplace_back(s.height, s.value);
            curve.sigma.push_back(s.sigma);
        }
        out.push_back(std::move(curve));
    }
    return out;
}

}  // namespace

void ProfileCurves::show_profile(const Profile& profile, const PlacedNode& node, const Overlay& other) {
    const LensCurves own = lens_curves(profile, node);
    const LensCurves over = other.profile ? lens_curves(*other.profile, other.node) : LensCurves{};
    const auto show = [&](CurvePlot* plot, std::vector<LensCurve> LensCurves::*which, double least) {
        std::vector<Curve> all = drawn(own.*which);
        for (Curve& c : drawn(over.*which)) {
            c.label += " " + other.name;
            c.dash = Qt::DotLine;
            c.sigma.clear();
            all.push_back(std::move(c));
        }
        plot->set_curves(std::move(all), 0, 1, least);
    };
    show(distortion_, &LensCurves::distortion, 0.5);
    show(fringe_, &LensCurves::fringe, 0.2);
    show(falloff_, &LensCurves::falloff, 0.5);
    show(resolution_, &LensCurves::resolution, 0.1);
    resolution_->setVisible(!own.resolution.empty());
}

void ProfileCurves::clear() {
    resolution_->hide();
    for (CurvePlot* plot : {distortion_, fringe_, falloff_, resolution_}) plot->set_curves({}, 0, 1, 1);
}

}  // namespace optrel
