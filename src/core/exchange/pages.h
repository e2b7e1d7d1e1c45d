// SPDX-License-Identifier: GPL-3.0-or-later
// Printed pages, described in millimetres: what stands where, before anything is drawn. Drawing them is cairo's.
//
// Everything that is shown is an item with a place on the page, so a page can be checked (nothing outside its margins,
// no two blocks over one another) without being looked at, and it is the same whatever screen or platform it was made
// on.
#pragma once

#include <opencv2/core.hpp>
#include <string>
#include <utility>
#include <vector>

namespace optrel {

struct PageColour {
    double red = 0, green = 0, blue = 0, opacity = 1;
};

struct PageText {
    double x, y;    ///< of the left end of the baseline, or of its right end
    double points;  ///< size
    std::string text;
    PageColour colour;
    bool bold = false, fixed_pitch = false, to_the_left = false, upwards = false;
};
struct PageLine {
    std::vector<std::pair<double, double>> points;
    double width = 0.2;  ///< 0: no outline
    PageColour colour;
    bool filled = false;
    std::vector<double> dash = {};  ///< lengths on and off, mm
};
struct PagePicture {
    double x, y, width, height;
    cv::Mat3b rgb;
};
/// An area of related items that must not overlap another one.
struct PageBlock {
    std::string name;
    double x, y, width, height;
};
struct Page {
    std::vector<PageText> texts;
    std::vector<PageLine> lines;
    std::vector<PagePicture> pictures;
    std::vector<PageBlock> blocks;
};

/// A4 with margins of 15 mm.
struct PageFormat {
    static constexpr double width = 210, height = 297, margin = 15;
    static constexpr double left = margin, right = width - margin, top = margin, bottom = height - margin;
};

/// Width of a text in mm, in the font that is drawn.
double text_width_mm(const std::string& text, double points, bool bold = false, bool fixed_pitch = false);
/// Breaks a text between words into lines of at most this width; a longer word is broken inside.
std::vector<std::string> wrapped(const std::string& text, double width_mm, double points, bool bold = false);

/// The pages as a PDF (marked as Optrel's). Throws Error(file).
std::string pdf_of(const std::vector<Page>& pages, const std::string& title);

}  // namespace optrel
