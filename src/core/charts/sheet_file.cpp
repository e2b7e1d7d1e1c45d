// SPDX-License-Identifier: GPL-3.0-or-later
#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <functional>
#include <memory>

#include "base/error.h"
#include "base/files.h"
#include "charts/sheet_layout.h"

namespace optrel {
namespace {

cairo_status_t collect(void* to, const unsigned char* bytes, unsigned int length) {
    static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(bytes), length);
    return CAIRO_STATUS_SUCCESS;
}

void paint(cairo_t* c, const ChartSheet& sheet, double units_per_mm) {
    cairo_scale(c, units_per_mm, units_per_mm);
    cairo_set_source_rgb(c, 1, 1, 1);
    cairo_paint(c);
    cairo_set_source_rgb(c, 0, 0, 0);
    for (const SheetRect& r : sheet.black) cairo_rectangle(c, r.x, r.y, r.width, r.height);
    cairo_fill(c);
    for (const SheetLine& l : sheet.lines) {
        cairo_set_line_width(c, l.width);
        cairo_move_to(c, l.x1, l.y1);
        cairo_line_to(c, l.x2, l.y2);
        cairo_stroke(c);
    }
    cairo_select_font_face(c, "Open Sans", CAIRO_FONT_SLANT_NORMAL, CAIRO_FONT_WEIGHT_NORMAL);
    for (const SheetText& t : sheet.texts) {
        cairo_save(c);
        cairo_move_to(c, t.x, t.y);
        if (t.upwards) cairo_rotate(c, -std::acos(-1.0) / 2);
        cairo_set_font_size(c, t.size);
        cairo_show_text(c, t.text.c_str());
        cairo_restore(c);
    }
}

}  // namespace

void write_sheet(const ChartSheet& sheet, const std::filesystem::path& path, Existing existing) {
    const std::string extension = lowered_extension(path);
    if (extension != ".pdf" && extension != ".svg")
        throw usage_error(fmt::format("A chart is written as .pdf or .svg, not as '{}'.", path.string()));
    const bool pdf = extension == ".pdf";
    check_output(path, pdf ? pdf_output() : svg_output(), existing);
    const double units_per_mm = pdf ? 72 / 25.4 : 1;  // PDF counts in points, the SVG in mm
    const double width = sheet.page.width_mm * units_per_mm, height = sheet.page.height_mm * units_per_mm;
    std::string bytes;
    const std::unique_ptr<cairo_surface_t, void (*)(cairo_surface_t*)> surface(
        pdf ? cairo_pdf_surface_create_for_stream(collect, &bytes, width, height)
            : cairo_svg_surface_create_for_stream(collect, &bytes, width, height),
        cairo_surface_destroy);
    if (!pdf) cairo_svg_surface_set_document_unit(surface.get(), CAIRO_SVG_UNIT_MM);
    {
        const std::unique_ptr<cairo_t, void (*)(cairo_t*)> context(cairo_create(surface.get()), cairo_destroy);
        paint(context.get(), sheet, units_per_mm);
        cairo_show_page(context.get());
    }
    cairo_surface_finish(surface.get());
    if (cairo_surface_status(surface.get()) != CAIRO_STATUS_SUCCESS)
        throw file_error(fmt::format("The chart cannot be drawn for {}: {}.", path.string(),
                                     cairo_status_to_string(cairo_surface_status(surface.get()))));
    if (pdf) return write_output(path, pdf_output(), existing, marked_pdf(std::move(bytes)));
    // A comment before the root element says who drew it.
    const std::size_t declaration = bytes.find("?>\n");
    bytes.insert(declaration == std::string::npos ? 0 : declaration + 3, "<!-- Optrel -->\n");
    write_output(path, svg_output(), existing, bytes);
}

}  // namespace optrel
