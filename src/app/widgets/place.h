// What all places share: a title with its purpose, a body, and small helpers for laying things out.
#pragma once

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>

#include "session.h"
#include "theme.h"

namespace optrel {

class PlaceWidget : public QWidget {
    Q_OBJECT
public:
    PlaceWidget(theme::Place place, Session& session, QWidget* parent = nullptr);

    /// What has to be on the screen for a picture of the place, for instance a first row chosen.
    virtual void show_something() {}
    /// Names of views beside the first one that deserve a picture of their own, and showing one of them.
    virtual QStringList more_views() const { return {}; }
    virtual void show_view(const QString&) {}

protected:
    Session& session_;
    QHBoxLayout* actions_;  ///< to the right of the title
    QVBoxLayout* body_;
};

QLabel* heading(const QString& text);
QPushButton* button(const QString& text, const QString& hint, bool primary = false);
/// A line to search or filter with, with a button that clears it.
QLineEdit* search_line(const QString& accessible_name, const QString& placeholder);
/// A panel with a heading above its content.
QWidget* panel(const QString& title, QWidget* content);
QImage to_image(const cv::Mat3b& rgb);
QImage to_image(const cv::Mat3w& rgb);
QString q(const std::string& s);

}  // namespace optrel
