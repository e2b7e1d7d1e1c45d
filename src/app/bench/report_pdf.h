// The report that is filed with a lens: figures, curves, coverage, the board frames, provenance; three pages of A4.
#pragma once

#include <QImage>
#include <QPicture>
#include <QString>
#include <vector>

#include "calibration/run.h"

namespace optrel {

/// The parts of a report that are drawn by widgets, and so in the window's thread.
struct ReportDrawings {
    QPicture curves, residuals;
};
ReportDrawings draw_report(const std::vector<RunFrame>& frames, const RunSolution& solution, int node);

/// Writes the PDF atomically; on any thread. `looks` are small pictures beside `frames`, null where there is none. Throws Error(file)
/// when it cannot be written.
void write_report(const QString& path, const std::vector<RunFrame>& frames, const RunSolution& solution, int node, const ReportDrawings& drawings, const std::vector<QImage>& looks);

}  // namespace optrel
