// SPDX-License-Identifier: GPL-3.0-or-later
// The look of Optrel, in one place: a light bench instrument. Colours, type, spacing, icons.
#pragma once

#include <QApplication>
#include <QColor>
#include <QFont>
#include <QIcon>

namespace optrel::theme {

inline const QColor paper(250, 250, 247);  ///< of tables and plots
inline const QColor bench(238, 239, 234);  ///< behind everything
inline const QColor ink(29, 38, 43);
inline const QColor faint_ink(98, 108, 112);
inline const QColor rule(203, 206, 199);
inline const QColor mark(14, 91, 102);  ///< the one accent: what is chosen, what to press
inline const QColor mark_pale(217, 231, 230);
inline const QColor warning(150, 90, 10);
inline const QColor serious(158, 38, 38);
inline const QColor surround(119, 119, 119);  ///< mid-grey about pictures
inline const QColor channel_red(176, 44, 44);
inline const QColor channel_green(40, 120, 70);
inline const QColor channel_blue(44, 84, 168);

/// Open Sans; its figures are all of one width, so columns of figures line up.
QFont text_font(double points = 9.5);
QFont figure_font(double points = 9.5);

/// Sets palette, fonts and style sheet of the whole application.
void apply(QApplication& app);

enum class Place { attention, bench, intake, lenses, fleet, baselines, rollout, inspect, exports };
inline constexpr int place_count = 9;
QString place_name(Place place);
QString place_purpose(Place place);
/// Line drawings, made for Optrel.
QIcon place_icon(Place place);
QIcon app_icon();

}  // namespace optrel::theme
