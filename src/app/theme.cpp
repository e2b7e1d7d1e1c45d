// SPDX-License-Identifier: GPL-3.0-or-later
#include "theme.h"

#include <QFontDatabase>
#include <QPainter>
#include <QPainterPath>
#include <QPixmap>
#include <QStyleFactory>

namespace optrel::theme {
namespace {

QString family(const QStringList& wanted, QFontDatabase::SystemFont fallback) {
    const QStringList have = QFontDatabase::families();
    for (const QString& f : wanted)
        if (have.contains(f)) return f;
    return QFontDatabase::systemFont(fallback).family();
}

QString hex(const QColor& c) { return c.name(); }

const char* sheet = R"(
* { font-family: "%text%"; font-size: 9.5pt; color: %ink%; }
QMainWindow, QDialog, QWidget#place { background: %bench%; }
QDialogButtonBox { dialogbuttonbox-buttons-have-icons: 0; }
QToolTip { background: %paper%; border: 1px solid %rule%; padding: 3px; }
QLabel#title { font-size: 13pt; font-weight: 600; }
QLabel#purpose, QLabel#faint { color: %faint%; }
QLabel#heading { font-weight: 600; padding: 2px 0; }
QLabel#figure { font-family: "%figures%"; font-size: 12pt; }
QFrame#card { background: %paper%; border: 1px solid %rule%; }
QTableView, QListView, QPlainTextEdit, QTextEdit { background: %paper%; alternate-background-color: #f2f3ee;
    border: 1px solid %rule%;
    gridline-color: #e3e5df; selection-background-color: %pale%; selection-color: %ink%; }
QTableView:focus, QListView:focus { border: 1px solid %mark%; }
QTableView::item { padding: 1px 5px; }
QHeaderView { background: %bench%; }
QHeaderView::section { background: %bench%; border: none; border-bottom: 1px solid %rule%;
    border-right: 1px solid %rule%; padding: 3px 4px; color: %faint%; font-size: 8.5pt; }
QPushButton, QToolButton { background: %paper%; border: 1px solid #aeb4ad; border-radius: 2px; padding: 3px 11px;
    min-height: 18px; }
QFileDialog QToolButton { padding: 1px; min-width: 20px; min-height: 20px; }
QPushButton:hover, QToolButton:hover { border-color: %mark%; }
QPushButton:focus, QToolButton:focus, QLineEdit:focus, QCheckBox:focus { border: 1px solid %mark%; outline: none; }
QPushButton:pressed, QToolButton:pressed, QToolButton:checked, QPushButton:checked { background: %pale%;
    border-color: %mark%; }
QPushButton:disabled, QToolButton:disabled { color: #a3a8a4; border-color: #d5d8d2; background: %bench%; }
QPushButton#primary { background: %mark%; color: white; border-color: %mark%; font-weight: 600; }
QPushButton#primary:disabled { background: #b9c4c3; border-color: #b9c4c3; color: #f4f6f4; }
QPushButton#primary:focus { border: 2px solid %ink%; padding: 2px 10px; }
QLineEdit { background: %paper%; border: 1px solid #aeb4ad; border-radius: 2px; padding: 2px 6px; min-height: 19px;
    selection-background-color: %mark%; selection-color: white; }
QComboBox QAbstractItemView { background: %paper%; selection-background-color: %pale%; selection-color: %ink%; }
QTabWidget::pane { border: 1px solid %rule%; background: %paper%; }
QTabBar::tab { background: %bench%; border: 1px solid %rule%; padding: 3px 10px; margin-right: 2px; }
QTabBar::tab:selected { background: %paper%; border-bottom-color: %paper%; font-weight: 600; }
QSplitter::handle { background: %bench%; }
QProgressBar { border: 1px solid %rule%; background: %paper%; text-align: center; max-height: 14px; font-size: 8pt; }
QProgressBar::chunk { background: %mark%; }
QListWidget#rail { background: #e3e6df; border: none; border-right: 1px solid %rule%; outline: none; }
QListWidget#rail::item { padding: 7px 0 6px 0; border-left: 4px solid #e3e6df; color: %ink%; }
QListWidget#rail::item:selected { background: %paper%; border-left: 4px solid %mark%; color: %ink%; font-weight: 600; }
QListWidget#rail:focus { border-right: 2px solid %mark%; }
QWidget#footer { background: #e3e6df; border-top: 1px solid %rule%; }
QWidget#footer QLabel { color: %faint%; }
QCheckBox, QRadioButton { border: 1px solid transparent; padding: 1px 3px; }
QScrollBar:vertical { background: %bench%; width: 11px; }
QScrollBar:horizontal { background: %bench%; height: 11px; }
QScrollBar::handle { background: #bcc1ba; border-radius: 3px; min-height: 24px; min-width: 24px; margin: 2px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
)";

/// Draws a 24 x 24 icon in the ink colour of the theme.
QIcon drawn(const std::function<void(QPainter&)>& draw) {
    QIcon icon;
    for (const QIcon::Mode mode : {QIcon::Normal, QIcon::Selected}) {
        QPixmap pixmap(72, 72);
        pixmap.fill(Qt::transparent);
        QPainter p(&pixmap);
        p.setRenderHint(QPainter::Antialiasing);
        p.scale(3, 3);
        p.setPen(QPen(mode == QIcon::Selected ? mark : ink, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        draw(p);
        p.end();
        icon.addPixmap(pixmap, mode);
    }
    return icon;
}

}  // namespace

QFont text_font(double points) {
    QFont f(family({"Open Sans", "DejaVu Sans"}, QFontDatabase::GeneralFont));
    f.setPointSizeF(points);
    return f;
}

QFont figure_font(double points) {
    QFont f(family({"Open Sans", "DejaVu Sans"}, QFontDatabase::GeneralFont));
    f.setPointSizeF(points);
    return f;
}

void apply(QApplication& app) {
    app.setStyle(QStyleFactory::create("Fusion"));
    QPalette palette;
    palette.setColor(QPalette::Window, bench);
    palette.setColor(QPalette::Base, paper);
    palette.setColor(QPalette::AlternateBase, QColor(242, 243, 238));
    palette.setColor(QPalette::Text, ink);
    palette.setColor(QPalette::WindowText, ink);
    palette.setColor(QPalette::ButtonText, ink);
    palette.setColor(QPalette::Button, paper);
    palette.setColor(QPalette::Highlight, mark_pale);
    palette.setColor(QPalette::HighlightedText, ink);
    palette.setColor(QPalette::PlaceholderText, faint_ink);
    app.setPalette(palette);
    app.setFont(text_font());
    QString style = sheet;
    for (const auto& [name, value] : {std::pair<const char*, QString>{"%text%", text_font().family()},
                                      {"%figures%", figure_font().family()},
                                      {"%ink%", hex(ink)},
                                      {"%faint%", hex(faint_ink)},
                                      {"%paper%", hex(paper)},
                                      {"%bench%", hex(bench)},
                                      {"%rule%", hex(rule)},
                                      {"%mark%", hex(mark)},
                                      {"%pale%", hex(mark_pale)}})
        style.replace(name, value);
    app.setStyleSheet(style);
    app.setWindowIcon(app_icon());
}

QString place_name(Place place) {
    static const char* names[] = {"Attention", "Bench",   "Intake",  "Lenses", "Fleet",
                                  "Baselines", "Rollout", "Inspect", "Exports"};
    return names[static_cast<int>(place)];
}

QString place_purpose(Place place) {
    static const char* texts[] = {"what needs a person, and what settles it",
                                  "chart frames and flat fields in, a lens profile out",
                                  "what comes in, what it gets, what waits",
                                  "what was measured of each lens",
                                  "bodies and lenses of the studio",
                                  "what each body starts from at each ISO, and why",
                                  "rehearse, write, take back",
                                  "one frame before and after, and its field sheet",
                                  "frames written out by deliveries, and their queue"};
    return texts[static_cast<int>(place)];
}

QIcon place_icon(Place place) {
    switch (place) {
        case Place::attention:  // a raised flag on a bench pin
            return drawn([](QPainter& p) {
                p.drawLine(QPointF(7, 3), QPointF(7, 21));
                p.drawPolygon(QPolygonF({{7, 4}, {18, 7.5}, {7, 11}}));
                p.drawLine(QPointF(4, 21), QPointF(10, 21));
            });
        case Place::bench:  // a chart seen through a bending lens
            return drawn([](QPainter& p) {
                QPainterPath a(QPointF(3, 5)), b(QPointF(3, 12)), c(QPointF(3, 19));
                a.quadTo(12, 1, 21, 5);
                b.lineTo(21, 12);
                c.quadTo(12, 23, 21, 19);
                for (const QPainterPath* path : {&a, &b, &c}) p.drawPath(*path);
                QPainterPath d(QPointF(5, 3)), e(QPointF(19, 3));
                d.quadTo(1, 12, 5, 21);
                e.quadTo(23, 12, 19, 21);
                p.drawPath(d);
                p.drawPath(e);
                p.drawLine(QPointF(12, 3), QPointF(12, 21));
            });
        case Place::intake:  // sheets that fall through a funnel onto a tray
            return drawn([](QPainter& p) {
                p.drawRect(QRectF(8.5, 1.5, 7, 5));
                p.drawPolyline(QPolygonF({{3, 7}, {10, 14}, {10, 18}}));
                p.drawPolyline(QPolygonF({{21, 7}, {14, 14}, {14, 18}}));
                p.drawLine(QPointF(4, 21.5), QPointF(20, 21.5));
            });
        case Place::lenses:  // a doublet in section with its axis
            return drawn([](QPainter& p) {
                QPainterPath l(QPointF(9, 3));
                l.quadTo(3, 12, 9, 21);
                l.quadTo(15, 12, 9, 3);
                QPainterPath r(QPointF(16, 3));
                r.quadTo(11.5, 12, 16, 21);
                r.lineTo(19, 21);
                r.lineTo(19, 3);
                r.closeSubpath();
                p.drawPath(l);
                p.drawPath(r);
                p.drawLine(QPointF(1, 12), QPointF(23, 12));
            });
        case Place::fleet:  // tags on a board
            return drawn([](QPainter& p) {
                for (const QPointF at : {QPointF(3, 4), QPointF(13, 4), QPointF(3, 14), QPointF(13, 14)}) {
                    p.drawRect(QRectF(at, QSizeF(8, 6.5)));
                    p.drawPoint(at + QPointF(2, 3.2));
                    p.drawLine(at + QPointF(4, 3.2), at + QPointF(6.5, 3.2));
                }
            });
        case Place::baselines:  // a ramp over steps
            return drawn([](QPainter& p) {
                p.drawPolyline(
                    QPolygonF({{3, 20}, {3, 16}, {9, 16}, {9, 12}, {15, 12}, {15, 8}, {21, 8}, {21, 20}, {3, 20}}));
                p.drawLine(QPointF(4, 11), QPointF(19, 3));
            });
        case Place::rollout:  // sheets handed on and back
            return drawn([](QPainter& p) {
                p.drawRect(QRectF(2, 6, 8, 12));
                p.drawRect(QRectF(14, 6, 8, 12));
                p.drawPolyline(QPolygonF({{6, 3}, {17, 3}, {15, 1.5}}));
                p.drawPolyline(QPolygonF({{18, 21}, {7, 21}, {9, 22.5}}));
            });
        case Place::exports:  // a picture that leaves its tray
            return drawn([](QPainter& p) {
                p.drawPolyline(QPolygonF({{3, 13}, {3, 21}, {21, 21}, {21, 13}}));
                p.drawRect(QRectF(7, 3, 10, 7.5));
                p.drawLine(QPointF(12, 13), QPointF(12, 18));
                p.drawPolyline(QPolygonF({{9.5, 15.5}, {12, 13}, {14.5, 15.5}}));
            });
        default:  // a picture with a loupe ring over its corner
            return drawn([](QPainter& p) {
                p.drawRect(QRectF(2, 4, 16, 12));
                p.drawEllipse(QPointF(17, 15), 5, 5);
                p.drawLine(QPointF(14.5, 15), QPointF(19.5, 15));
                p.drawLine(QPointF(17, 12.5), QPointF(17, 17.5));
            });
    }
}

QIcon app_icon() {
    // The program carries it as a resource; what is linked without one, a test for instance, does without.
    const QString path = QStringLiteral(":/optrel/icon.svg");
    return QFile::exists(path) ? QIcon(path) : QIcon();
}

}  // namespace optrel::theme
