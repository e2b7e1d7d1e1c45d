// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/truth.h"

#include <nlohmann/json.hpp>

namespace optrel::rig {

std::string truth_json(const Lens& lens, const Body& body) {
    using nlohmann::json;
    const double pitch = body.pitch_um * 1e-3, focal_px = lens.focal_mm / pitch;
    const cv::Vec2d middle(body.width / 2.0, body.height / 2.0);
    const cv::Vec2d centre = middle + lens.centre_mm / pitch;
    json points = json::array();
    for (int j = 0; j < 21; ++j)
        for (int i = 0; i < 31; ++i) {
            const cv::Vec2d ideal(body.width * i / 30.0, body.height * j / 20.0);
            const cv::Vec2d xy = (ideal - centre) / focal_px;
            json point = {{"ideal", {ideal[0], ideal[1]}}};
            json gains = json::array();
            const char* names[] = {"red", "green", "blue"};
            const cv::Vec2d green = lens.find(1, xy);
            for (int c = 0; c < 3; ++c) {
                const cv::Vec2d at = middle + lens.find(c, xy) / pitch;
                point[names[c]] = {at[0], at[1]};
                gains.push_back(lens.light(c, cv::Vec2d(0, 0)) / lens.light(c, green));
            }
            point["gain"] = gains;
            points.push_back(point);
        }
    // Over the frame: the direction of the green light, which also serves fisheyes.
    json rays = json::array();
    for (int j = 0; j < 21; ++j)
        for (int i = 0; i < 31; ++i) {
            const cv::Vec2d frame(body.width * i / 30.0, body.height * j / 20.0);
            const cv::Vec3d ray = cv::normalize(lens.look(1, (frame - middle) * pitch));
            json gains = json::array();
            for (int c = 0; c < 3; ++c)
                gains.push_back(lens.light(c, cv::Vec2d(0, 0)) / lens.light(c, (frame - middle) * pitch));
            json entry = {{"frame", {frame[0], frame[1]}}, {"ray", {ray[0], ray[1], ray[2]}}, {"gain", gains}};
            for (const int c : {0, 2}) {
                const cv::Vec2d at = middle + lens.find(c, {ray[0] / ray[2], ray[1] / ray[2]}) / pitch;
                entry[c ? "blue" : "red"] = {at[0], at[1]};
            }
            rays.push_back(entry);
        }
    const json out = {{"size", {body.width, body.height}},
                      {"centre", {centre[0], centre[1]}},
                      {"focal_px", focal_px},
                      {"points", points},
                      {"rays", rays}};
    return out.dump(1) + "\n";
}

std::string sensor_truth_json(const Body& body) {
    using nlohmann::json;
    const SensorTraits& t = body.sensor;
    json hot = json::array(), dust = json::array();
    for (const HotPixel& p : hot_pixels(t, body.width, body.height)) hot.push_back({p.row, p.column, p.electrons});
    json unstable = json::array(), dead = json::array(), columns = json::array();
    for (const HotPixel& p : unstable_pixels(t, body.width, body.height))
        unstable.push_back({p.row, p.column, p.electrons});
    for (const DeadPixel& p : dead_pixels(t, body.width, body.height)) dead.push_back({p.row, p.column, p.response});
    for (const BadColumn& c : bad_columns(t, body.width, body.height))
        columns.push_back({c.column, c.first_row, c.electrons});
    for (const DustSpeck& d : dust_specks(t, body.width, body.height))
        dust.push_back({d.place[0], d.place[1], d.radius, d.depth});
    return json{{"full_well_e_at_iso_100", body.full_well},
                {"read_noise_e", body.read_noise},
                {"late_noise_e_at_iso_100", t.late_noise},
                {"prnu_percent", 100 * t.prnu},
                {"dsnu_e", t.dsnu},
                {"row_noise_e", t.row_noise},
                {"digital_above_iso", t.digital_above_iso},
                {"hot_pixels_row_column_electrons", hot},
                {"hot_at_s", t.hot_at_s},
                {"unstable_pixels_row_column_electrons", unstable},
                {"dead_pixels_row_column_response", dead},
                {"bad_columns_column_first_row_electrons", columns},
                {"dust_u_v_radius_depth", dust}}
               .dump(1) +
           "\n";
}

}  // namespace optrel::rig
