// SPDX-License-Identifier: GPL-3.0-or-later
#include "shared/noise_figures.h"

#include "base/figure_text.h"
#include "window_words.h"

namespace optrel {

TableOf<ReportedIso>* new_noise_figures(const QString& accessible_name, const std::function<int()>& channel,
                                        bool with_full_well) {
    const auto colour_in = [channel](const ReportedIso& i) -> const ReportedColour& {
        return i.colours[static_cast<std::size_t>(channel())];
    };
    const auto figure = [colour_in](MeasuredFigure ReportedColour::*which) {
        return [colour_in, which](const ReportedIso& i) {
            const MeasuredFigure& f = colour_in(i).*which;
            return Cell(q(figure_with_sigma(f.value, f.sigma)), f.value);
        };
    };
    std::vector<ColumnOf<ReportedIso>> columns{
        {figure_column("ISO", 46), [](const ReportedIso& i) { return figure_cell(i.iso); }},
        {figure_column("Gain e⁻/count", 144), figure(&ReportedColour::gain)},
        {figure_column("Read noise e⁻"), figure(&ReportedColour::read_noise)}};
    if (with_full_well) columns.push_back({figure_column("Full well e⁻"), figure(&ReportedColour::full_well)});
    columns.push_back({figure_column("Range EV", 62), [colour_in](const ReportedIso& i) {
                           const double ev = colour_in(i).dynamic_range_ev;
                           return measured_cell(figures::range, ev);
                       }});
    columns.push_back({figure_column("PRNU %", 124), figure(&ReportedColour::prnu)});
    columns.push_back({figure_column("Pairs", 44), [](const ReportedIso& i) { return figure_cell(i.pairs); }});
    columns.push_back({figure_column("Darks", 46), [](const ReportedIso& i) { return figure_cell(i.dark_frames); }});
    return new TableOf<ReportedIso>(accessible_name, columns);
}

}  // namespace optrel
