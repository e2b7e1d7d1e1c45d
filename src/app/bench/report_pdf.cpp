#include "bench/report_pdf.h"

#include <QBuffer>
#include <QPainter>
#include <QPdfWriter>

#include "base/files.h"
#include "bench/residual_panel.h"
#include "bench/run_rows.h"
#include "exchange/run_report.h"
#include "widgets/bars_view.h"
#include "widgets/frame_view.h"
#include "widgets/place.h"
#include "widgets/profile_curves.h"

namespace optrel {
namespace {

constexpr double page_width = 180, page_height = 267;  // mm inside the margins
constexpr double px_per_mm = 5;                        // at which widgets are laid out for the page
constexpr double curves_height = 145, residuals_height = 125;

QPicture recorded(QWidget& w, double width, double height) {
    w.resize(static_cast<int>(width * px_per_mm), static_cast<int>(height * px_per_mm));
    w.setAttribute(Qt::WA_DontShowOnScreen);
    w.show();
    QPicture picture;
    QPainter painter(&picture);
    w.render(&painter, QPoint(), QRegion(), QWidget::DrawChildren);
    painter.end();
    w.hide();
    return picture;
}

/// Draws down a page in mm, and goes to the next where something does not fit.
class Pages {
public:
    Pages(QPdfWriter& writer, const QString& title) : writer_(writer), painter_(&writer), title_(title) {
        painter_.scale(writer.resolution() / 25.4, writer.resolution() / 25.4);
        head();
    }
    QPainter& painter() { return painter_; }
    double y() const { return y_; }
    void move(double by) { y_ += by; }
    void room(double height) {
        if (y_ + height <= page_height) return;
        writer_.newPage();
        ++page_;
        head();
    }
    /// A line or paragraph; returns its height.
    double text(double x, double width, const QString& s, double points = 8.5, bool bold = false, const QColor& colour = theme::ink, int flags = Qt::AlignLeft) {
        painter_.save();
        QFont font = theme::text_font();
        font.setPixelSize(100);
        font.setBold(bold);
        const double k = points * 0.3528 / 100;  // points to mm, by way of large pixels that do not round
        painter_.translate(x, y_);
        painter_.scale(k, k);
        painter_.setFont(font);
        painter_.setPen(colour);
        QRectF used;
        painter_.drawText(QRectF(0, 0, width / k, 1e6), flags | Qt::AlignTop | Qt::TextWordWrap, s, &used);
        painter_.restore();
        return used.height() * k;
    }
    void heading(const QString& s) {
        room(14);
        y_ += 3;
        y_ += text(0, page_width, s, 10, true, theme::mark) + 1;
    }
    void row(const QString& name, const QString& value) {
        room(6);
        text(0, 88, name, 8.5, false, theme::faint_ink);
        y_ += std::max(4.2, text(90, 90, value)) + 0.4;
    }
    /// A drawing whose units are a fifth of a mm.
    void drawing(const QPicture& picture) {
        painter_.save();
        painter_.translate(0, y_);
        painter_.scale(1 / px_per_mm, 1 / px_per_mm);
        painter_.drawPicture(0, 0, picture);
        painter_.restore();
    }

private:
    void head() {
        y_ = 0;
        text(0, page_width, title_, 7.5, false, theme::faint_ink);
        text(0, page_width, QString("page %1").arg(page_), 7.5, false, theme::faint_ink, Qt::AlignRight);
        y_ = 7;
    }

    QPdfWriter& writer_;
    QPainter painter_;
    QString title_;
    double y_ = 0;
    int page_ = 1;
};

void figures(Pages& page, const RunSolution& s, int node) {
    const ProfileNode& n = s.profile.nodes[node];
    const NodeQuality& k = n.quality;
    const PictureGeometry& g = s.profile.geometry;
    page.heading("Figures");
    page.row("Lens, copy", q(s.profile.lens + (s.profile.lens_serial.empty() ? ", copy not named" : ", " + s.profile.lens_serial)));
    page.row("Measured on", QString("%1, %2 × %3 px of %4 µm").arg(q(s.profile.camera)).arg(g.width).arg(g.height).arg(g.pitch_um, 0, 'f', 2));
    page.row("Lens setting", q(to_string(n.setting)));
    page.row("Model", q(to_string(n.model.kind())));
    page.row("Focal length, calibrated", QString("%1 mm (%2 px)").arg(n.focal_mm, 0, 'f', 4).arg(n.focal_mm / g.pitch_mm(), 0, 'f', 2));
    page.row("Optical centre from the middle", QString("%1, %2 mm").arg(n.centre_mm.x(), 0, 'f', 4).arg(n.centre_mm.y(), 0, 'f', 4));
    page.row("Distortion, extreme (ISO 17850)", QString("%1 %").arg(k.distortion_extreme_percent, 0, 'f', 3));
    page.row("RMS on used frames, on held-out frames", QString("%1 px, %2 px").arg(k.rms_px, 0, 'f', 4).arg(k.held_out_rms_px, 0, 'f', 4));
    page.row("Largest field uncertainty, one sigma", QString("%1 px").arg(k.max_sigma_px, 0, 'f', 4));
    page.row("Coverage, largest field height", QString("%1 %, %2").arg(100 * k.coverage, 0, 'f', 0).arg(k.largest_height, 0, 'f', 2));
    page.row("Straightness before, after correction", QString("%1 px at most, %2 px (95 %)").arg(k.straightness_before_px, 0, 'f', 2).arg(k.straightness_after_px, 0, 'f', 3));
    if (n.red && n.blue)
        page.row("Left of red, blue after correction (95 %, ISO 19084)", QString("%1 px, %2 px").arg(n.red->residual_p95_px, 0, 'f', 4).arg(n.blue->residual_p95_px, 0, 'f', 4));
    if (n.falloff) {
        QStringList ev;
        for (const double h : {0.25, 0.5, 0.75, 1.0}) ev << QString::number(falloff_ev(*n.falloff, Channel::green, h, g.half_diagonal_mm()), 'f', 3);
        page.row("Falloff at field heights 0.25, 0.5, 0.75, 1 (ISO 17957)", ev.join(", ") + QString(" EV ± %1 %").arg(n.falloff->sigma_percent, 0, 'f', 2) + (n.falloff->from_chart ? ", from the chart's white squares" : ""));
    }
    page.heading("Findings");
    const auto findings = finding_rows(s);
    if (findings.empty()) page.move(page.text(0, page_width, "Nothing to object to: coverage, tilt, sharpness and flat fields are as they should be.") + 1);
    for (const Row& row : findings) {
        page.room(10);
        page.move(page.text(0, page_width, row[0].text) + 1);
    }
}

}  // namespace

ReportDrawings draw_report(const std::vector<RunFrame>& frames, const RunSolution& solution, int node) {
    ReportDrawings out;
    ProfileCurves curves;
    curves.show_profile(solution.profile, solution.profile.nodes[node]);
    out.curves = recorded(curves, page_width * 0.75, curves_height);
    ResidualPanel residuals;
    residuals.show_solution(frames, solution, node);
    out.residuals = recorded(residuals, page_width, residuals_height);
    return out;
}

void write_report(const QString& path, const std::vector<RunFrame>& frames, const RunSolution& solution, int node, const ReportDrawings& drawings, const std::vector<QImage>& looks) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    {
        QPdfWriter writer(&buffer);
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setPageMargins(QMarginsF(15, 15, 15, 15), QPageLayout::Millimeter);
        writer.setResolution(300);
        writer.setTitle("Calibration of " + q(solution.profile.name));
        writer.setCreator("Optrel " OPTREL_VERSION);
        Pages page(writer, QString("Calibration of %1 %2, %3").arg(q(solution.profile.name), q(solution.profile.lens_serial), q(solution.profile.provenance.time)));
        page.move(page.text(0, page_width, q(solution.profile.name) + (solution.profile.nodes.size() > 1 ? ", " + q(to_string(solution.profile.nodes[node].setting)) : ""), 15, true) + 2);
        figures(page, solution, node);

        page.heading("Curves");
        page.room(curves_height + 5);
        page.drawing(drawings.curves);
        page.move(curves_height + 3);

        page.heading("Coverage and residuals");
        page.room(residuals_height + 5);
        page.drawing(drawings.residuals);
        page.move(residuals_height + 3);

        page.heading("Board frames");
        constexpr int columns = 5;
        constexpr double width = page_width / columns - 3;
        int column = 0;
        double height = 26;
        for (std::size_t i = 0; i < frames.size(); ++i) {
            const FrameOutcome& o = solution.outcomes[i];
            if (frames[i].role != RunRole::chart || (o.used && o.node != node)) continue;
            if (column == 0) page.room(height + 6);
            const double x = column * (width + 3);
            if (i < looks.size() && !looks[i].isNull()) {
                height = width * looks[i].height() / looks[i].width();
                page.painter().drawImage(QRectF(x, page.y(), width, height), looks[i]);
            }
            page.move(height + 0.5);
            page.text(x, width, q(frames[i].name()) + (o.used ? QString("  %1 px").arg(o.view.rms_px, 0, 'f', 4) : "  left out"), 6.5, false, o.used ? theme::ink : theme::serious);
            page.move(-height - 0.5);
            if (++column == columns) {
                column = 0;
                page.move(height + 5);
            }
        }
        if (column) page.move(height + 5);

        page.heading("Provenance");
        const Provenance& p = solution.profile.provenance;
        page.row("Measured by, when", q((p.author.empty() ? "not said" : p.author) + ", " + p.time));
        page.row("With, chart as measured", q(p.program + ", " + p.chart));
        for (const auto& [name, hash] : p.frames) {
            page.room(4);
            page.move(page.text(0, page_width, q(name + "  sha256 " + hash), 6, false, theme::faint_ink) + 0.2);
        }
    }
    buffer.close();
    write_atomic(path.toStdString(), bytes.toStdString());
}

}  // namespace optrel
