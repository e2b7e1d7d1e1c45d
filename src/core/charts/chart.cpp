#include "charts/chart.h"

#include <fmt/format.h>

#include <cstdio>

#include "base/error.h"

namespace optrel {

ChartSpec ChartSpec::parse(const std::string& text) {
    ChartSpec spec;
    char rest = 0;
    const int read = std::sscanf(text.c_str(), "checker:%dx%d:%lf%c", &spec.squares_x, &spec.squares_y, &spec.square_mm, &rest);
    if (read != 3)
        throw usage_error(fmt::format("The chart '{}' is not understood; write checker:ACROSSxDOWN:MM, for instance checker:15x10:30.", text));
    if (spec.squares_x < 4 || spec.squares_y < 4 || spec.squares_x > 200 || spec.squares_y > 200 || !(spec.square_mm > 0 && spec.square_mm < 2000))
        throw usage_error(fmt::format("The chart '{}' is out of range: 4 to 200 squares each way, a square of more than 0 and less than 2000 mm.", text));
    return spec;
}

std::string ChartSpec::text() const { return fmt::format("checker:{}x{}:{:g}", squares_x, squares_y, square_mm); }

}  // namespace optrel
