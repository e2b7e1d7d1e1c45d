// SPDX-License-Identifier: GPL-3.0-or-later
#include "theme.h"

#include <QFontDatabase>
#include <QPainter>
#include <QPainterPath>
#include <QPixmap>
#include <QProxyStyle>
#include <QStyleFactory>
#include <QStyleOption>

#include "base/choose.h"

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
QTableView, QListView, QPlainTextEdit, QTextEdit { background: %paper%; alternate-background-color: %alternate%;
    border: 1px solid %rule%;
    gridline-color: %rail%; selection-background-color: %pale%; selection-color: %ink%; }
QTableView:focus, QListView:focus { border: 1px solid %mark%; }
QTableView::item { padding: 1px 5px; }
QHeaderView { background: %bench%; }
QHeaderView::section { background: %bench%; border: none; border-bottom: 1px solid %rule%;
    border-right: 1px solid %rule%; padding: 3px 4px; color: %faint%; font-size: 8.5pt; }
QPushButton, QToolButton { background: %paper%; border: 1px solid %edge%; border-radius: 2px; padding: 3px 11px;
    min-height: 18px; }
QFileDialog QToolButton { padding: 1px; min-width: 20px; min-height: 20px; }
QPushButton:hover, QToolButton:hover { border-color: %mark%; }
QPushButton:focus, QToolButton:focus, QLineEdit:focus, QCheckBox:focus { border: 1px solid %mark%; outline: none; }
QPushButton:pressed, QToolButton:pressed, QToolButton:checked, QPushButton:checked { background: %pale%;
    border-color: %mark%; }
QPushButton:disabled, QToolButton:disabled { color: %disabled%; border-color: %rule%; background: %bench%; }
QPushButton#primary { background: %mark%; color: %onmark%; border-color: %mark%; font-weight: 600; }
QPushButton#primary:disabled { background: %rule%; border-color: %rule%; color: %disabled%; }
QPushButton#primary:focus { border: 2px solid %ink%; padding: 2px 10px; }
QLineEdit { background: %paper%; border: 1px solid %edge%; border-radius: 2px; padding: 2px 6px; min-height: 19px;
    selection-background-color: %mark%; selection-color: %onmark%; }
QComboBox QAbstractItemView { background: %paper%; selection-background-color: %pale%; selection-color: %ink%; }
QTabWidget::pane { border: 1px solid %rule%; background: %paper%; }
QTabBar { qproperty-drawBase: 0; }
QTabBar::tab { background: %bench%; border: 1px solid %rule%; padding: 3px 10px; margin-right: 2px; }
QTabBar::tab:selected { background: %paper%; border-bottom-color: %paper%; font-weight: 600; }
QSplitter::handle { background: %bench%; }
QProgressBar { border: 1px solid %rule%; background: %paper%; text-align: center; max-height: 14px; font-size: 8pt; }
QProgressBar::chunk { background: %mark%; }
QListWidget#rail { background: %rail%; border: none; border-right: 1px solid %rule%; outline: none; }
QListWidget#rail::item { padding: 7px 0 6px 0; border-left: 4px solid %rail%; color: %ink%; }
QListWidget#rail::item:selected { background: %paper%; border-left: 4px solid %mark%; color: %ink%; font-weight: 600; }
QListWidget#rail:focus { border-right: 2px solid %mark%; }
QWidget#footer { background: %rail%; border-top: 1px solid %rule%; }
QWidget#footer QLabel { color: %faint%; }
QCheckBox, QRadioButton { border: 1px solid transparent; padding: 1px 3px; }
QScrollBar:vertical { background: %bench%; width: 11px; }
QScrollBar:horizontal { background: %bench%; height: 11px; }
QScrollBar::handle { background: %edge%; border-radius: 3px; min-height: 24px; min-width: 24px; margin: 2px; }
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

namespace {

struct Colours {
    QColor paper, bench, rail, ink, faint_ink, rule, edge, mark, on_mark, mark_pale, warning, serious, surround, red,
        green, blue;
};

Colours colours_on(Ground ground) {
    const auto grey = [](int v) { return QColor(v, v, v); };
    switch (ground) {
        case Ground::middle:
            return {grey(176), grey(165),     grey(156),   grey(14),        grey(46),    grey(134),
                    grey(112), {0, 54, 64},   grey(255),   {146, 176, 178}, {84, 44, 0}, {106, 8, 8},
                    grey(119), {122, 12, 12}, {0, 62, 26}, {18, 40, 116}};
        case Ground::dark:
            return {grey(40),  grey(48),        grey(56),        grey(226),      grey(172),      grey(84),
                    grey(112), {112, 198, 206}, grey(16),        {28, 60, 64},   {232, 170, 84}, {255, 142, 132},
                    grey(56),  {242, 126, 116}, {112, 204, 144}, {140, 174, 250}};
        default:
            return {grey(250), grey(238),     grey(227),     grey(34),        grey(96),     grey(203),
                    grey(174), {14, 91, 102}, grey(255),     {217, 231, 230}, {140, 82, 8}, {158, 38, 38},
                    grey(119), {176, 44, 44}, {40, 112, 66}, {44, 84, 168}};
    }
}

/// Draws check boxes and radio buttons in the colours of the theme. The outline that Fusion derives from the window's
/// colour cannot be seen on a dark background.
class GroundStyle : public QProxyStyle {
public:
    GroundStyle() : QProxyStyle(QStyleFactory::create("Fusion")) {}

    void drawPrimitive(PrimitiveElement element, const QStyleOption* option, QPainter* p,
                       const QWidget* widget) const override {
        const bool box = element == PE_IndicatorCheckBox || element == PE_IndicatorItemViewItemCheck;
        if (!box && element != PE_IndicatorRadioButton) return QProxyStyle::drawPrimitive(element, option, p, widget);
        const QRectF at = QRectF(option->rect).adjusted(1, 1, -1, -1);
        const bool able = option->state & State_Enabled;
        p->save();
        p->setRenderHint(QPainter::Antialiasing);
        p->setPen(QPen(first_of<QColor>({{!able, rule}, {bool(option->state & State_HasFocus), mark}}, edge), 1.2));
        p->setBrush(able ? paper : bench);
        box ? p->drawRect(at) : p->drawEllipse(at);
        p->setPen(QPen(able ? mark : edge, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        const double w = at.width(), h = at.height();
        if (option->state & State_NoChange) {
            p->drawLine(at.topLeft() + QPointF(0.25 * w, 0.5 * h), at.topLeft() + QPointF(0.75 * w, 0.5 * h));
        } else if (option->state & State_On && box) {
            p->drawPolyline(
                QPolygonF({at.topLeft() + QPointF(0.2 * w, 0.5 * h), at.topLeft() + QPointF(0.42 * w, 0.75 * h),
                           at.topLeft() + QPointF(0.82 * w, 0.22 * h)}));
        } else if (option->state & State_On) {
            p->setBrush(able ? mark : edge);
            p->setPen(Qt::NoPen);
            p->drawEllipse(at.center(), 0.26 * w, 0.26 * h);
        }
        p->restore();
    }
};

Ground shown_ground = Ground::light, desktop_ground = Ground::light;

/// Between two colours.
QColor between(const QColor& a, const QColor& b, double share) {
    const auto mix = [&](int x, int y) { return static_cast<int>(x + share * (y - x) + 0.5); };
    return {mix(a.red(), b.red()), mix(a.green(), b.green()), mix(a.blue(), b.blue())};
}

}  // namespace

QString ground_name(Ground ground) {
    static const char* names[] = {"light", "middle", "dark"};
    return names[static_cast<int>(ground)];
}

Ground ground() { return shown_ground; }
Ground preferred_ground() { return desktop_ground; }

QColor tag_paper(int alpha) {
    QColor out = paper;
    out.setAlpha(alpha);
    return out;
}

void apply(QApplication& app) {
    desktop_ground = app.palette().color(QPalette::Window).lightness() < 100 ? Ground::dark : Ground::light;
    app.setStyle(new GroundStyle);
    app.setFont(text_font());
    app.setWindowIcon(app_icon());
    use(app, Ground::light);
}

void use(QApplication& app, Ground ground) {
    shown_ground = ground;
    const Colours c = colours_on(ground);
    paper = c.paper;
    bench = c.bench;
    rail = c.rail;
    ink = c.ink;
    faint_ink = c.faint_ink;
    rule = c.rule;
    edge = c.edge;
    mark = c.mark;
    on_mark = c.on_mark;
    mark_pale = c.mark_pale;
    warning = c.warning;
    serious = c.serious;
    surround = c.surround;
    channel_red = c.red;
    channel_green = c.green;
    channel_blue = c.blue;
    const QColor alternate = between(paper, bench, 0.6), disabled = between(faint_ink, bench, 0.45);
    QPalette palette;
    palette.setColor(QPalette::Window, bench);
    palette.setColor(QPalette::Base, paper);
    palette.setColor(QPalette::AlternateBase, alternate);
    palette.setColor(QPalette::Text, ink);
    palette.setColor(QPalette::WindowText, ink);
    palette.setColor(QPalette::ButtonText, ink);
    palette.setColor(QPalette::Button, paper);
    palette.setColor(QPalette::Highlight, mark_pale);
    palette.setColor(QPalette::HighlightedText, ink);
    palette.setColor(QPalette::PlaceholderText, faint_ink);
    palette.setColor(QPalette::ToolTipBase, paper);
    palette.setColor(QPalette::ToolTipText, ink);
    app.setPalette(palette);
    QString style = sheet;
    for (const auto& [name, value] : {std::pair<const char*, QString>{"%text%", text_font().family()},
                                      {"%figures%", figure_font().family()},
                                      {"%ink%", hex(ink)},
                                      {"%faint%", hex(faint_ink)},
                                      {"%paper%", hex(paper)},
                                      {"%bench%", hex(bench)},
                                      {"%rail%", hex(rail)},
                                      {"%alternate%", hex(alternate)},
                                      {"%disabled%", hex(disabled)},
                                      {"%rule%", hex(rule)},
                                      {"%edge%", hex(edge)},
                                      {"%mark%", hex(mark)},
                                      {"%onmark%", hex(on_mark)},
                                      {"%pale%", hex(mark_pale)}})
        style.replace(name, value);
    app.setStyleSheet(style);
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
