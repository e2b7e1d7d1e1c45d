// SPDX-License-Identifier: GPL-3.0-or-later
// The main window: rail of places, current place, and footer with the state of background work.
#pragma once

#include <QLabel>
#include <QListWidget>
#include <QMainWindow>
#include <QPointer>
#include <QProgressBar>
#include <QPushButton>
#include <QStackedWidget>
#include <QTimer>

#include "session/session.h"
#include "theme.h"

namespace optrel {

class GuideDialog;
class PlaceWidget;
class WorkDialog;

class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    explicit MainWindow(Session& session);

    void go_to(theme::Place place);
    PlaceWidget* place(theme::Place place) const;
    /// Shows a profile from a file in Lenses, to be imported on request.
    void open_profile(const QString& path);
    /// Text of the footer.
    QString message() const { return message_->text(); }

protected:
    void closeEvent(QCloseEvent* event) override;

private:
    void take_drops();
    void build_rail();
    QWidget* build_footer();
    void listen();
    void build_shortcuts();
    void show_guide();
    void show_shared_work();
    void show_keys();
    void show_about();

    Session& session_;
    QListWidget* rail_;
    QStackedWidget* places_;
    QLabel *message_, *work_;
    QProgressBar* bar_;
    QPushButton *cancel_, *shared_, *undo_, *redo_;
    QPointer<WorkDialog> work_dialog_;
    GuideDialog* guide_ = nullptr;
    QTimer passing_;  ///< time after which an informative message disappears
};

}  // namespace optrel
