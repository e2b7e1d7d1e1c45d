// SPDX-License-Identifier: GPL-3.0-or-later
// The look of Optrel, in one place: a light bench instrument. Colours, type, spacing, icons.
#pragma once

#include <QApplication>
#include <QColor>
#include <QFont>
#include <QIcon>

namespace optrel::theme {

/// Brightness of the window's background. Middle and dark suit rooms with less light; colours keep their meaning.
enum class Ground { light, middle, dark };
inline constexpr int ground_count = 3;
QString ground_name(Ground ground);

// Greys are neutral, because a tinted surround changes how the colours of a picture are seen. Text has a contrast
// of 4.5 to 1 at least (WCAG 2.1) on each of paper, bench, rail and mark_pale. Set by use().
inline QColor paper(250, 250, 250);  ///< of tables and plots
inline QColor bench(238, 238, 238);  ///< behind everything
inline QColor rail(227, 227, 227);   ///< of the rail and the footer
inline QColor ink(34, 34, 34);
inline QColor faint_ink(96, 96, 96);
inline QColor rule(203, 203, 203);
inline QColor edge(174, 174, 174);     ///< about what can be pressed or filled in
inline QColor mark(14, 91, 102);       ///< the one accent: what is chosen, what to press
inline QColor on_mark(255, 255, 255);  ///< text on the accent
inline QColor mark_pale(217, 231, 230);
inline QColor warning(140, 82, 8);
inline QColor serious(158, 38, 38);
/// About pictures: a fifth of white, and less on dark ground, so that the surround is no brighter than the picture
/// (after ISO 3664).
inline QColor surround(119, 119, 119);
inline QColor channel_red(176, 44, 44);
inline QColor channel_green(40, 112, 66);
inline QColor channel_blue(44, 84, 168);

// Over pictures, whatever the ground.
inline const QColor picture_mark(14, 91, 102);
inline const QColor picture_warning(150, 90, 10);

/// The colour of paper with transparency `alpha`, for labels over pictures.
QColor tag_paper(int alpha = 225);

/// Open Sans; its figures are all of one width, so columns of figures line up.
QFont text_font(double points = 9.5);
QFont figure_font(double points = 9.5);

/// Sets palette, fonts and style sheet of the whole application, on light ground.
void apply(QApplication& app);
/// Changes the ground of all windows.
void use(QApplication& app, Ground ground);
Ground ground();
/// Dark when the desktop's own palette was dark when the application started, else light.
Ground preferred_ground();

enum class Place { attention, bench, intake, lenses, fleet, baselines, rollout, inspect, exports };
inline constexpr int place_count = 9;
QString place_name(Place place);
QString place_purpose(Place place);
/// Line drawings, made for Optrel.
QIcon place_icon(Place place);
QIcon app_icon();

}  // namespace optrel::theme
