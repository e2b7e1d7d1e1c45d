// SPDX-License-Identifier: GPL-3.0-or-later
#include "main_window.h"

#include <QAccessible>
#include <QAction>
#include <QCloseEvent>
#include <QMenu>
#include <QScreen>
#include <QShortcut>
#include <QUrl>

#include "attention/attention_place.h"
#include "base/station.h"
#include "baselines/baselines_place.h"
#include "bench/bench_place.h"
#include "drop_handler.h"
#include "exports/account_dialog.h"
#include "exports/exports_place.h"
#include "fleet/fleet_place.h"
#include "focus_keeper.h"
#include "help_dialogs.h"
#include "inspect/inspect_place.h"
#include "intake/intake_place.h"
#include "jobs.h"
#include "lenses/lenses_place.h"
#include "rollout/rollout_place.h"
#include "screen/screen_service.h"
#include "sharing/sharing_actions.h"
#include "window_words.h"
#include "work/work_dialog.h"

namespace optrel {

namespace {

/// Address of a server for display, with its socket folder as a path.
QString shown(const std::string& address) {
    const QString text = QString::fromStdString(address);
    return is_server_address(address) ? QUrl::fromPercentEncoding(text.toUtf8()) : text;
}

/// The last part of an address: the name of a folder or of a database.
QString store_name(const std::string& address) {
    const QString whole = shown(address);
    const QString name = whole.section('/', -1, -1, QString::SectionSkipEmpty);
    return name.isEmpty() ? whole : name;
}

}  // namespace

MainWindow::MainWindow(Session& session) : session_(session) {
    new FocusKeeper(this);
    // Tells the windows of two stores or two people apart.
    setWindowTitle(QString("%1, %2 – Optrel").arg(store_name(session.source().address()), q(current_author())));
    resize(QSize(1280, 800).boundedTo(screen()->availableSize()));
    setMinimumSize(1100, 680);
    ScreenService::here().follow(this);  // first, since it chooses the ground
    build_rail();
    places_ = new QStackedWidget;
    places_->addWidget(new AttentionPlace(session));
    places_->addWidget(new BenchPlace(session));
    places_->addWidget(new IntakePlace(session));
    places_->addWidget(new LensesPlace(session));
    places_->addWidget(new FleetPlace(session));
    places_->addWidget(new BaselinesPlace(session));
    places_->addWidget(new RolloutPlace(session));
    places_->addWidget(new InspectPlace(session));
    places_->addWidget(new ExportsPlace(session));
    auto* centre = new QWidget;
    auto* across = new QHBoxLayout;
    across->setContentsMargins(0, 0, 0, 0);
    across->setSpacing(0);
    across->addWidget(rail_);
    across->addWidget(places_, 1);
    auto* down = new QVBoxLayout(centre);
    down->setContentsMargins(0, 0, 0, 0);
    down->setSpacing(0);
    down->addLayout(across, 1);
    down->addWidget(build_footer());
    setCentralWidget(centre);
    build_shortcuts();
    take_drops();
    connect(&ScreenService::here(), &ScreenService::ground_changed, this, [this] {
        for (int i = 0; i < theme::place_count; ++i)
            rail_->item(i)->setIcon(theme::place_icon(static_cast<theme::Place>(i)));
    });

    connect(rail_, &QListWidget::currentRowChanged, places_, &QStackedWidget::setCurrentIndex);
    connect(&session_.messages(), &Messages::go_to, this, [this](int p, const QString& view) {
        go_to(static_cast<theme::Place>(p));
        if (!view.isEmpty()) place(static_cast<theme::Place>(p))->show_view(view);
    });
    connect(&session_.messages(), &Messages::inspect_frame, this, [this](const QString& path) {
        go_to(theme::Place::inspect);
        static_cast<InspectPlace*>(place(theme::Place::inspect))->choose_frame(path);
    });
    rail_->setCurrentRow(!session_.frames().any() ? static_cast<int>(theme::Place::attention)
                                                  : static_cast<int>(theme::Place::bench));
}

/// Dropped files are opened by the place for their kind.
void MainWindow::take_drops() {
    const auto at = [this](theme::Place p) {
        go_to(p);
        return place(p);
    };
    DropHandler::Takers takers;
    takers.bundle = [this](const QString& path) { open_bundle(session_, this, path.toStdString()); };
    takers.profile = [this](const QString& path) { open_profile(path); };
    takers.delivery = [at](const QString& path) {
        static_cast<ExportsPlace*>(at(theme::Place::exports))->open_delivery(path);
    };
    takers.sets = [at](const QString& path) {
        static_cast<BaselinesPlace*>(at(theme::Place::baselines))->offer_sets(path);
    };
    takers.fleet = [at](const QString& path) { static_cast<FleetPlace*>(at(theme::Place::fleet))->import_from(path); };
    takers.colours = [at](const QString& path) {
        static_cast<FleetPlace*>(at(theme::Place::fleet))->open_colours(path);
    };
    takers.camera = [at](const QString& path) {
        static_cast<InspectPlace*>(at(theme::Place::inspect))->open_camera_file(path);
    };
    takers.picture = [this](const QString& path) { AccountDialog(session_, path.toStdString(), this).exec(); };
    takers.films = [this, at](const std::vector<std::filesystem::path>& films) {
        // Pictures that Optrel wrote show their account; others are offered for correction.
        if (films.size() == 1 && !film_account(films.front()).empty()) {
            AccountDialog(session_, films.front(), this).exec();
            return;
        }
        static_cast<ExportsPlace*>(at(theme::Place::exports))->open_films(films);
    };
    takers.folder = [this](const QString& folder) { session_.frames().add_folder(folder); };
    new DropHandler(*this, session_.messages(), std::move(takers));
}

void MainWindow::build_rail() {
    rail_ = new QListWidget;
    rail_->setObjectName("rail");
    rail_->setAccessibleName("Places");
    rail_->setFixedWidth(88);
    rail_->setIconSize({26, 26});
    rail_->setViewMode(QListView::IconMode);
    rail_->setFlow(QListView::TopToBottom);
    rail_->setMovement(QListView::Static);
    rail_->setWrapping(false);
    rail_->setGridSize({87, 66});
    rail_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    for (int i = 0; i < theme::place_count; ++i) {
        const auto p = static_cast<theme::Place>(i);
        auto* item = new QListWidgetItem(theme::place_icon(p), theme::place_name(p));
        item->setToolTip(QString("%1: %2 (Alt+%3)").arg(theme::place_name(p), theme::place_purpose(p)).arg(i + 1));
        item->setSizeHint({87, 64});
        rail_->addItem(item);
    }
}

QWidget* MainWindow::build_footer() {
    auto* footer = new QWidget;
    footer->setObjectName("footer");
    footer->setAttribute(Qt::WA_StyledBackground);
    auto* layout = new QHBoxLayout(footer);
    layout->setContentsMargins(10, 3, 10, 3);
    message_ = new QLabel(QString("Store: %1").arg(shown(session_.source().address())));
    message_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    message_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    message_->setAccessibleDescription("Message");
    work_ = new QLabel;
    bar_ = new QProgressBar;
    bar_->setFixedWidth(150);
    bar_->setAccessibleName("Progress");
    cancel_ = new QPushButton("Cancel");
    undo_ = new QPushButton("Undo");
    redo_ = new QPushButton("Redo");
    shared_ = new QPushButton("Shared work");
    shared_->setAccessibleName("Shared work");
    shared_->setToolTip("The work that the stations of the studio share: what waits, putting work in, helping");
    auto* help = new QPushButton("Help");
    auto* menu = new QMenu(help);
    menu->addAction("Guide to this place\tF1", this, &MainWindow::show_guide);
    menu->addAction("Keys\tShift+F1", this, &MainWindow::show_keys);
    menu->addAction("About Optrel", this, &MainWindow::show_about);
    help->setMenu(menu);
    for (QPushButton* b : {cancel_, undo_, redo_, help}) b->setAccessibleName(b->text());
    layout->addWidget(message_, 1);
    layout->addWidget(work_);
    layout->addWidget(bar_);
    layout->addWidget(cancel_);
    layout->addWidget(shared_);
    layout->addWidget(undo_);
    layout->addWidget(redo_);
    layout->addWidget(help);
    for (QWidget* w : {static_cast<QWidget*>(bar_), static_cast<QWidget*>(cancel_)}) w->hide();

    listen();
    return footer;
}

/// Footer: messages, running work, undo.
void MainWindow::listen() {
    connect(&session_.messages(), &Messages::told, this, [this](const QString& text, bool serious) {
        message_->setText((serious ? "! " : "") + text);
        serious ? passing_.stop() : passing_.start(20000);
        message_->setToolTip(text);
        // Screen readers announce the message.
        QAccessibleEvent spoken(message_, QAccessible::Alert);
        QAccessible::updateAccessibility(&spoken);
        message_->setStyleSheet(serious ? QString("color: %1; font-weight: 600").arg(theme::serious.name())
                                        : QString());
    });
    passing_.setSingleShot(true);
    connect(&passing_, &QTimer::timeout, message_, &QLabel::clear);
    Jobs& jobs = session_.jobs();
    connect(&jobs, &Jobs::progressed, this, [this](const QString& text, int done, int total) {
        work_->setText(text);
        bar_->setRange(0, total);
        bar_->setValue(done);
        bar_->show();
        cancel_->show();
    });
    connect(&jobs, &Jobs::idle, this, [this] {
        work_->clear();
        bar_->hide();
        cancel_->hide();
    });
    connect(cancel_, &QPushButton::clicked, &jobs, &Jobs::cancel);
    connect(shared_, &QPushButton::clicked, this, &MainWindow::show_shared_work);
    const auto count = [this] {
        const int open = session_.work().open();
        shared_->setText(open > 0 ? QString("Shared work: %1").arg(open) : QString("Shared work"));
    };
    connect(&session_.work(), &WorkService::changed, this, count);
    count();
    QUndoStack& stack = session_.undo();
    undo_->setEnabled(false);
    redo_->setEnabled(false);
    connect(&stack, &QUndoStack::canUndoChanged, undo_, &QPushButton::setEnabled);
    connect(&stack, &QUndoStack::canRedoChanged, redo_, &QPushButton::setEnabled);
    connect(&stack, &QUndoStack::undoTextChanged, this,
            [this](const QString& what) { undo_->setToolTip(what.isEmpty() ? "Nothing to undo" : "Undo: " + what); });
    connect(undo_, &QPushButton::clicked, &stack, &QUndoStack::undo);
    connect(redo_, &QPushButton::clicked, &stack, &QUndoStack::redo);
}

void MainWindow::build_shortcuts() {
    auto* undo = new QShortcut(QKeySequence::Undo, this);
    connect(undo, &QShortcut::activated, &session_.undo(), &QUndoStack::undo);
    auto* redo = new QShortcut(QKeySequence::Redo, this);
    connect(redo, &QShortcut::activated, &session_.undo(), &QUndoStack::redo);
    connect(new QShortcut(QKeySequence::HelpContents, this), &QShortcut::activated, this, &MainWindow::show_guide);
    connect(new QShortcut(QKeySequence("Shift+F1"), this), &QShortcut::activated, this, &MainWindow::show_keys);
    for (int i = 0; i < theme::place_count; ++i) {
        auto* jump = new QShortcut(QKeySequence(Qt::ALT | static_cast<Qt::Key>(Qt::Key_1 + i)), this);
        connect(jump, &QShortcut::activated, this, [this, i] { go_to(static_cast<theme::Place>(i)); });
    }
}

void MainWindow::show_guide() {
    if (!guide_) guide_ = new GuideDialog(this);
    guide_->show_part_of(static_cast<theme::Place>(rail_->currentRow()));
    guide_->show();
    guide_->raise();
}

void MainWindow::show_shared_work() {
    if (!work_dialog_) work_dialog_ = new WorkDialog(session_, this);
    work_dialog_->show();
    work_dialog_->raise();
}

void MainWindow::show_keys() {
    auto* dialog = new KeysDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

void MainWindow::show_about() {
    auto* dialog = new AboutDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

void MainWindow::go_to(theme::Place place) { rail_->setCurrentRow(static_cast<int>(place)); }

void MainWindow::open_profile(const QString& path) {
    go_to(theme::Place::lenses);
    static_cast<LensesPlace*>(place(theme::Place::lenses))->open_file(path);
}

PlaceWidget* MainWindow::place(theme::Place place) const {
    return static_cast<PlaceWidget*>(places_->widget(static_cast<int>(place)));
}

void MainWindow::closeEvent(QCloseEvent* event) {
    session_.jobs().cancel();
    event->accept();
}

}  // namespace optrel
