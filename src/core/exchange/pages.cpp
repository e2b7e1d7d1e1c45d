// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/pages.h"

#include <cairo-pdf.h>
#include <fmt/format.h>

#include <cmath>
#include <memory>

#include "base/error.h"
#include "base/output.h"

namespace optrel {
namespace {

constexpr double mm_per_point = 25.4 / 72;

using Surface = std::unique_ptr<cairo_surface_t, void (*)(cairo_surface_t*)>;
using Context = std::unique_ptr<cairo_t, void (*)(cairo_t*)>;

cairo_status_t collect(void* to, const unsigned char* bytes, unsigned int length) {
    static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(bytes), length);
    return CAIRO_STATUS_SUCCESS;
}

void choose_type(cairo_t* c, double points, bool bold, bool fixed_pitch) {
    cairo_select_font_face(c, fixed_pitch ? "DejaVu Sans Mono" : "Open Sans", CAIRO_FONT_SLANT_NORMAL,
                           bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(c, points * mm_per_point);
}

void paint(cairo_t* c, const PageColour& colour) {
    cairo_set_source_rgba(c, colour.red, colour.green, colour.blue, colour.opacity);
}

void draw(cairo_t* c, const PageLine& line) {
    if (line.points.empty()) return;
    cairo_move_to(c, line.points.front().first, line.points.front().second);
    for (std::size_t i = 1; i < line.points.size(); ++i) cairo_line_to(c, line.points[i].first, line.points[i].second);
    paint(c, line.colour);
    if (line.filled) {
        cairo_close_path(c);
        line.width > 0 ? cairo_fill_preserve(c) : cairo_fill(c);
    }
    if (line.width <= 0) return;
    cairo_set_dash(c, line.dash.data(), static_cast<int>(line.dash.size()), 0);
    cairo_set_line_width(c, line.width);
    cairo_stroke(c);
}

void draw(cairo_t* c, const PageText& text) {
    choose_type(c, text.points, text.bold, text.fixed_pitch);
    paint(c, text.colour);
    cairo_save(c);
    cairo_translate(c, text.x, text.y);
    if (text.upwards) cairo_rotate(c, -std::acos(-1.0) / 2);
    cairo_move_to(c, text.to_the_left ? -text_width_mm(text.text, text.points, text.bold, text.fixed_pitch) : 0, 0);
    cairo_show_text(c, text.text.c_str());
    cairo_restore(c);
}

void draw(cairo_t* c, const PagePicture& picture) {
    const cv::Mat3b& rgb = picture.rgb;
    const Surface image(cairo_image_surface_create(CAIRO_FORMAT_RGB24, rgb.cols, rgb.rows), cairo_surface_destroy);
    unsigned char* data = cairo_image_surface_get_data(image.get());
    const int stride = cairo_image_surface_get_stride(image.get());
    for (int row = 0; row < rgb.rows; ++row) {
        auto* to = reinterpret_cast<std::uint32_t*>(data + static_cast<std::ptrdiff_t>(row) * stride);
        for (int i = 0; i < rgb.cols; ++i)
            to[i] = (std::uint32_t(rgb(row, i)[0]) << 16) | (std::uint32_t(rgb(row, i)[1]) << 8) | rgb(row, i)[2];
    }
    cairo_surface_mark_dirty(image.get());
    cairo_save(c);
    cairo_translate(c, picture.x, picture.y);
    cairo_scale(c, picture.width / rgb.cols, picture.height / rgb.rows);
    cairo_set_source_surface(c, image.get(), 0, 0);
    cairo_paint(c);
    cairo_restore(c);
}

}  // namespace

double text_width_mm(const std::string& text, double points, bool bold, bool fixed_pitch) {
    // One surface per thread for measuring text; nothing is drawn on it.
    thread_local const Surface surface(cairo_recording_surface_create(CAIRO_CONTENT_ALPHA, nullptr),
                                       cairo_surface_destroy);
    thread_local const Context context(cairo_create(surface.get()), cairo_destroy);
    // Large, so that hinting causes no rounding; widths are proportional.
    constexpr double large = 100;
    choose_type(context.get(), points * large, bold, fixed_pitch);
    cairo_text_extents_t extents;
    cairo_text_extents(context.get(), text.c_str(), &extents);
    return extents.x_advance / large;
}

std::vector<std::string> wrapped(const std::string& text, double width_mm, double points, bool bold) {
    std::vector<std::string> lines;
    std::string line;
    const auto fits = [&](const std::string& s) { return text_width_mm(s, points, bold) <= width_mm; };
    std::size_t at = 0;
    while (at < text.size()) {
        const std::size_t end = std::min(text.find(' ', at), text.size());
        std::string word = text.substr(at, end - at);
        at = end + 1;
        if (fits(line.empty() ? word : line + " " + word)) {
            line += (line.empty() ? "" : " ") + word;
            continue;
        }
        if (!line.empty()) lines.push_back(std::move(line));
        line.clear();
        while (!fits(word)) {
            std::size_t n = word.size() - 1;
            // Breaks only between characters, not within the bytes of one.
            while (n > 1 && (!fits(word.substr(0, n)) || (static_cast<unsigned char>(word[n]) & 0xc0) == 0x80)) --n;
            lines.push_back(word.substr(0, n));
            word.erase(0, n);
        }
        line = std::move(word);
    }
    if (!line.empty() || lines.empty()) lines.push_back(std::move(line));
    return lines;
}

std::string pdf_of(const std::vector<Page>& pages, const std::string& title) {
    std::string bytes;
    const Surface surface(cairo_pdf_surface_create_for_stream(collect, &bytes, PageFormat::width / mm_per_point,
                                                              PageFormat::height / mm_per_point),
                          cairo_surface_destroy);
    cairo_pdf_surface_set_metadata(surface.get(), CAIRO_PDF_METADATA_TITLE, title.c_str());
    cairo_pdf_surface_set_metadata(surface.get(), CAIRO_PDF_METADATA_CREATOR, "Optrel " OPTREL_VERSION);
    {
        const Context context(cairo_create(surface.get()), cairo_destroy);
        cairo_t* c = context.get();
        cairo_scale(c, 1 / mm_per_point, 1 / mm_per_point);
        for (const Page& page : pages) {
            for (const PagePicture& p : page.pictures) draw(c, p);
            for (const PageLine& l : page.lines) draw(c, l);
            for (const PageText& t : page.texts) draw(c, t);
            cairo_show_page(c);
        }
    }
    cairo_surface_finish(surface.get());
    if (const cairo_status_t status = cairo_surface_status(surface.get()); status != CAIRO_STATUS_SUCCESS)
        throw file_error(fmt::format("The report cannot be drawn ({}); check the memory and the fonts.",
                                     cairo_status_to_string(status)));
    return marked_pdf(std::move(bytes));
}

}  // namespace optrel
