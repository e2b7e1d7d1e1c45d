// The report that is filed with a lens: figures, curves, coverage, the board frames, provenance; three pages of A4.
#pragma once

#include <QImage>
#include <QString>
#include <vector>

#include "calibration/run.h"

namespace optrel {

/// Writes the PDF atomically, in the window's thread; `looks` are small pictures beside `frames`, null where there is none.
/// Throws Error(file) when it cannot be written.
void write_report(const QString& path, const std::vector<RunFrame>& frames, const RunSolution& solution, int node, const std::vector<QImage>& looks);

}  // namespace optrel
