// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/hand_panel.h"

#include <QEvent>
#include <QGridLayout>
#include <QKeyEvent>
#include <QScrollArea>
#include <cmath>

#include "base/figure_text.h"
#include "theme.h"
#include "widgets/place.h"

namespace optrel {

namespace {

constexpr int rest_ms = 350;

QString caption(Field field) { return q(info(field).label); }

}  // namespace

HandPanel::HandPanel(QWidget* parent) : QWidget(parent) {
    auto* inner = new QWidget;
    inner->setObjectName("place");
    auto* down = new QVBoxLayout(inner);
    down->setContentsMargins(2, 4, 6, 4);
    down->setSpacing(4);
    auto* area = new QScrollArea;
    area->setWidget(inner);
    area->setWidgetResizable(true);
    area->setFrameShape(QFrame::NoFrame);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    outer->addWidget(area);

    QGridLayout* geometry = section("Geometry");
    add_number(geometry, Field::hand_distortion, 0.1);
    sense_ = new QLabel;
    sense_->setObjectName("faint");
    geometry->addWidget(sense_, geometry->rowCount(), 0, 1, 3);
    add_help(
        geometry, MeasuredHelp::Kind::distortion, "By the lines",
        "Proposes the distortion with which the lines that were found are straight; strike out those that are bent");
    geometry->addWidget(tool(PictureTool::bend_line, "Bend a line",
                             "Draw a line on the picture from end to end of something straight, then drag its middle "
                             "onto it: the distortion that makes it straight is set"),
                        geometry->rowCount(), 0, 1, 3);
    for (const Field f : {Field::roll, Field::pitch, Field::yaw}) add_number(geometry, f, 0.1);
    build_straightening(geometry);
    for (const Field f : {Field::shift_across, Field::shift_down}) add_number(geometry, f, 0.5);
    QGridLayout* framing = section("Framing");
    add_choice(framing, Field::border, {});
    add_number(framing, Field::border_scale, 0.01);
    add_choice(framing, Field::crop, {"largest 3:2", "largest 4:3", "largest 1:1", "at 10 10 80 80"});
    QGridLayout* colours = build_colours();
    QGridLayout* light = section("Light");
    add_number(light, Field::corner_light, 0.1);
    add_number(light, Field::corner_light_from, 0.05);
    light->addWidget(tool(PictureTool::ring, "Ring",
                          "Shows where corner light begins as a ring on the picture, which can be dragged"),
                     light->rowCount(), 0, 1, 3);
    add_help(light, MeasuredHelp::Kind::light, "Even area",
             "Then drag over an area of the picture that is evenly lit, from near the middle towards a corner");
    for (QGridLayout* grid : {geometry, framing, colours, light}) down->addLayout(grid);
    build_keeping(down);
    down->addStretch();

    rest_.setSingleShot(true);
    rest_.setInterval(rest_ms);
    connect(&rest_, &QTimer::timeout, this, &HandPanel::settle);
    show_none();
}

/// Buttons for saving manual corrections, or the correction in the file, as a profile.
void HandPanel::build_keeping(QVBoxLayout* down) {
    QPushButton* keep = button("&Keep as a profile",
                               "Publishes distortion, red and blue, and corner light as a profile of this lens, marked "
                               "as made by hand: it is only taken where somebody assigns it");
    connect(keep, &QPushButton::clicked, this, &HandPanel::keep_asked);
    down->addWidget(keep, 0, Qt::AlignLeft);
    carried_ = new QLabel;
    carried_->setWordWrap(true);
    take_carried_ = button("Com&pare what the file carries…",
                           "Tells how the correction that the file carries itself differs from the profile in use, and "
                           "can keep it as a profile of this lens, marked as embedded");
    connect(take_carried_, &QPushButton::clicked, this, &HandPanel::carried_asked);
    down->addWidget(carried_);
    down->addWidget(take_carried_, 0, Qt::AlignLeft);
    show_carried({});
}

void HandPanel::show_carried(const QString& names) {
    carried_->setText("This file carries a correction of its own: " + names + ".");
    carried_->setVisible(!names.isEmpty());
    take_carried_->setVisible(!names.isEmpty());
}

QGridLayout* HandPanel::build_colours() {
    QGridLayout* colours = section("Colours");
    for (const Field f : {Field::red_at_corner, Field::red_bow, Field::blue_at_corner, Field::blue_bow})
        add_number(colours, f, 0.1);
    add_help(colours, MeasuredHelp::Kind::neutral, "&White balance",
             "Then drag over an area of the picture that is to be grey: temperature and tint with their uncertainty");
    add_help(colours, MeasuredHelp::Kind::colours, "Measure colours",
             "Proposes red and blue from what the frame's own edges show");
    add_number(colours, Field::fringe_suppression, 5);
    add_choice(colours, Field::fringe_hues, {"260-340 80", "90-150 80"});
    add_choice(colours, Field::fringe_edges, {});
    add_help(colours, MeasuredHelp::Kind::fringes, "List fringes",
             "Searches the edges for colour that neither side has, by hue; tick those that are faults");
    fringe_list_ = new QListWidget;
    fringe_list_->setAccessibleName("Fringes by hue");
    fringe_list_->setMaximumHeight(110);
    fringe_list_->setWordWrap(true);
    fringe_list_->hide();
    colours->addWidget(fringe_list_, colours->rowCount(), 0, 1, 3);
    connect(fringe_list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (!showing_) emit fringe_ticked(fringe_list_->row(item), item->checkState() == Qt::Checked);
    });
    connect(fringe_list_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (!showing_) emit fringe_chosen(row);
    });
    return colours;
}

QGridLayout* HandPanel::section(const QString& title) {
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(2);
    grid->setColumnStretch(0, 1);
    grid->addWidget(heading(title), 0, 0, 1, 3);
    return grid;
}

void HandPanel::add_row(QGridLayout* grid, Field field, QWidget* editor) {
    const int row = grid->rowCount();
    auto* label = new QLabel(caption(field));
    label->setToolTip(q(info(field).meaning));
    label->setBuddy(editor);
    editor->setAccessibleName(caption(field));
    editor->setToolTip(q(info(field).meaning) + "\n\nCtrl+Backspace: back to what lies beneath");
    editor->setFixedWidth(124);
    editor->setFocusPolicy(Qt::StrongFocus);
    editor->installEventFilter(this);
    editor->setProperty("field", static_cast<int>(field));
    auto* back = new QPushButton("Drop");
    back->setToolTip("Back to what lies beneath");
    back->setAccessibleName("Drop " + caption(field));
    back->setFixedWidth(52);
    connect(back, &QPushButton::clicked, this, [this, field] { drop(field); });
    grid->addWidget(label, row, 0);
    grid->addWidget(editor, row, 1);
    grid->addWidget(back, row, 2);
    labels_[field] = label;
    backs_[field] = back;
}

void HandPanel::add_number(QGridLayout* grid, Field field, double step) {
    const FieldInfo& f = info(field);
    auto* spin = new NumberBox;
    spin->setDecimals(f.decimals);
    spin->setRange(f.low, f.high);
    spin->setSingleStep(step);
    spin->setKeyboardTracking(false);
    spin->setAlignment(Qt::AlignRight);
    if (!f.unit.empty()) spin->setSuffix(" " + q(f.unit));
    numbers_[field] = spin;
    add_row(grid, field, spin);
    connect(spin, &QDoubleSpinBox::valueChanged, this, [this, field](double v) {
        if (field == Field::hand_distortion) say_sense(v);
        turned(field, {v, ""});
    });
}

void HandPanel::add_choice(QGridLayout* grid, Field field, const QStringList& more) {
    auto* box = new QComboBox;
    for (const std::string& choice : info(field).choices) box->addItem(q(choice));
    box->addItems(more);
    box->setEditable(!more.isEmpty());
    choices_[field] = box;
    add_row(grid, field, box);
    const auto chosen = [this, field, box] { turned(field, {0, box->currentText().trimmed().toStdString()}); };
    connect(box, &QComboBox::activated, this, chosen);
    if (box->isEditable()) {
        box->lineEdit()->setAccessibleName(caption(field) + " as text");
        connect(box->lineEdit(), &QLineEdit::editingFinished, this, chosen);
    }
}

void HandPanel::build_straightening(QGridLayout* grid) {
    angles_ = new QComboBox;
    angles_->addItem("roll", static_cast<int>(TurnAngles::roll));
    angles_->addItem("roll, pitch", static_cast<int>(TurnAngles::roll_pitch));
    angles_->addItem("all three", static_cast<int>(TurnAngles::roll_pitch_yaw));
    angles_->setCurrentIndex(1);
    angles_->setAccessibleName("Angles to solve");
    find_lines_ = button("Find lines",
                         "Finds straight edges of the scene and solves the angles from those that are "
                         "vertical or horizontal; a click on a line strikes it out");
    take_ = button("&Take", "Sets the angles that were found by hand");
    straightened_ = new QLabel;
    straightened_->setWordWrap(true);
    straightened_->setObjectName("faint");
    connect(find_lines_, &QPushButton::clicked, this, &HandPanel::lines_asked);
    connect(angles_, &QComboBox::activated, this, &HandPanel::angles_changed);
    connect(take_, &QPushButton::clicked, this, &HandPanel::straightening_taken);
    const int row = grid->rowCount();
    grid->addWidget(find_lines_, row, 0);
    grid->addWidget(angles_, row, 1);
    grid->addWidget(take_, row, 2);
    grid->addWidget(tool(PictureTool::scene_line, "Draw a line",
                         "Draw a line on the picture along an edge that is vertical or horizontal in the scene; it "
                         "counts with those that were found"),
                    row + 1, 0);
    grid->addWidget(tool(PictureTool::corners, "Four corners",
                         "Drag the four corners onto those of a rectangle that stands level in the scene: a sheet, a "
                         "drawer; the arrow keys move the chosen one by a pixel, page up and page down choose another"),
                    row + 1, 1, 1, 2);
    grid->addWidget(straightened_, row + 2, 0, 1, 3);
    take_->setFixedWidth(52);
    angles_->setFixedWidth(124);
}

QPushButton* HandPanel::tool(PictureTool tool, const QString& text, const QString& hint) {
    QPushButton* b = button(text, hint);
    b->setCheckable(true);
    b->setAccessibleName(QString(text).remove('&'));
    connect(b, &QPushButton::clicked, this, [this, tool](bool on) { emit tool_asked(on ? tool : PictureTool::none); });
    tools_[tool] = b;
    return b;
}

void HandPanel::show_tool(PictureTool now) {
    for (const auto& [tool, b] : tools_) b->setChecked(tool == now);
}

void HandPanel::add_help(QGridLayout* grid, MeasuredHelp::Kind kind, const QString& text, const QString& hint) {
    Help h{button(text, hint), button("Take", "Sets what is proposed by hand"), new QLabel};
    h.take->setAccessibleName("Take what " + QString(text).remove('&').toLower() + " proposes");
    h.take->setFixedWidth(52);
    h.take->setVisible(kind != MeasuredHelp::Kind::fringes);
    h.text->setWordWrap(true);
    h.text->setObjectName("faint");
    const int row = grid->rowCount();
    grid->addWidget(h.ask, row, 0, 1, 2);
    grid->addWidget(h.take, row, 2);
    grid->addWidget(h.text, row + 1, 0, 1, 3);
    connect(h.ask, &QPushButton::clicked, this, [this, kind] { emit help_asked(kind); });
    connect(h.take, &QPushButton::clicked, this, &HandPanel::help_taken);
    helps_[kind] = h;
    show_help(kind, "", false);
}

void HandPanel::show_help(MeasuredHelp::Kind kind, const QString& text, bool takeable) {
    const Help& h = helps_.at(kind);
    h.text->setText(text);
    h.text->setVisible(!text.isEmpty());
    h.take->setEnabled(takeable);
}

void HandPanel::show_fringes(const std::vector<FringeFound>& fringes, const DefringingSettings& now) {
    showing_ = true;
    fringe_list_->clear();
    for (const FringeFound& f : fringes) {
        auto* item = new QListWidgetItem(q(describe(f)), fringe_list_);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(now.share(f.hue) > 0 ? Qt::Checked : Qt::Unchecked);
    }
    fringe_list_->setVisible(!fringes.empty());
    showing_ = false;
}

TurnAngles HandPanel::angles() const { return static_cast<TurnAngles>(angles_->currentData().toInt()); }

void HandPanel::show_straightened(const QString& text, bool takeable) {
    straightened_->setText(text);
    straightened_->setVisible(!text.isEmpty());
    take_->setEnabled(takeable);
}

void HandPanel::show_fields(const ResolvedFrame& fields, const Layer& by_hand) {
    showing_ = true;
    for (const auto& [field, label] : labels_) shown_[field] = fields[field].value;
    const auto settled_elsewhere = [&](Field field) { return moving_.count(field) == 0; };
    for (const auto& [field, spin] : numbers_)
        if (settled_elsewhere(field)) spin->setValue(fields[field].value.number);
    for (const auto& [field, box] : choices_)
        if (settled_elsewhere(field)) {
            const QString text = q(fields[field].value.text);
            const int at = box->findText(text);
            if (at >= 0)
                box->setCurrentIndex(at);
            else if (box->isEditable())
                box->setEditText(text);
        }
    for (const auto& [field, label] : labels_) {
        const bool hand = by_hand.count(field) > 0;
        QFont font = label->font();
        font.setBold(hand);
        label->setFont(font);
        label->setText((hand ? "✎ " : "") + caption(field));
        backs_.at(field)->setEnabled(hand);
    }
    say_sense(numbers_.at(Field::hand_distortion)->value());
    setEnabled(true);
    showing_ = false;
}

void HandPanel::show_none() {
    rest_.stop();
    moving_.clear();
    setEnabled(false);
    show_straightened("", false);
}

void HandPanel::say_sense(double distortion) {
    QString text = "Lines are taken as they are.";
    if (distortion < 0) text = QString("Barrel of %1 is undone.").arg(q(figure_text(figures::fine_share, -distortion)));
    if (distortion > 0)
        text = QString("Pincushion of %1 is undone.").arg(q(figure_text(figures::fine_share, distortion)));
    sense_->setText(text);
}

void HandPanel::turned(Field field, const Value& value) {
    // Losing focus does not count as a change.
    if (showing_ || (moving_.count(field) == 0 && value == shown_[field])) return;
    moving_[field] = value;
    emit tried(field, value);
    rest_.start();
}

void HandPanel::drop(Field field) {
    moving_.erase(field);
    emit returned(field);
}

void HandPanel::settle() {
    rest_.stop();
    const std::map<Field, Value> rested = std::move(moving_);
    moving_.clear();
    for (const auto& [field, value] : rested) emit settled(field, value);
}

bool HandPanel::eventFilter(QObject* watched, QEvent* event) {
    auto* editor = static_cast<QWidget*>(watched);
    // Scrolling the panel must not change the value under the pointer.
    if (event->type() == QEvent::Wheel && !editor->hasFocus()) {
        event->ignore();
        return true;
    }
    if (event->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(event);
        if (key->key() == Qt::Key_Backspace && key->modifiers() == Qt::ControlModifier) {
            drop(static_cast<Field>(editor->property("field").toInt()));
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

}  // namespace optrel
