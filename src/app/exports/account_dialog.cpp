// SPDX-License-Identifier: GPL-3.0-or-later
#include "exports/account_dialog.h"

#include <QDialogButtonBox>
#include <QScrollArea>
#include <QVBoxLayout>

#include "widgets/place.h"

namespace optrel {

AccountDialog::AccountDialog(const Parts& parts, const std::filesystem::path& picture, QWidget* parent)
    : QDialog(parent) {
    const Account account = read_account(picture);
    setWindowTitle("What was done to " + q(picture.filename().string()));
    auto* words = new QLabel(q(in_words(account)).trimmed());
    words->setWordWrap(true);
    words->setTextInteractionFlags(Qt::TextSelectableByMouse);
    words->setAlignment(Qt::AlignTop);
    words->setAccessibleDescription("Account of the picture");
    words->setMargin(8);
    auto* scroll = new QScrollArea;
    scroll->setWidget(words);
    scroll->setWidgetResizable(true);
    since_ = new QLabel("Looking whether it is so still …");
    since_->setWordWrap(true);
    since_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    since_->setAccessibleDescription("What has changed since");
    auto* close = new QDialogButtonBox(QDialogButtonBox::Close);
    connect(close, &QDialogButtonBox::rejected, this, &QDialog::reject);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(scroll, 1);
    layout->addWidget(heading("Since then"));
    layout->addWidget(since_);
    layout->addWidget(close);
    resize(620, 520);
    latest_.start(
        parts.jobs(),
        [account, picture, source = parts.exports().source()](const Progress&) {
            std::vector<std::string> changed = changed_since(account, picture);
            const auto store = source.open_for_reading();
            for (std::string& line : changed_since(account, *store)) changed.push_back(std::move(line));
            return changed;
        },
        [this](std::optional<std::vector<std::string>> changed, const QString& problem) {
            if (!changed) return since_->setText(problem);
            QStringList lines;
            for (const std::string& line : *changed) lines << "! " + q(line);
            since_->setText(lines.isEmpty() ? QString("✓ Nothing has changed: the same picture would come of it.")
                                            : lines.join("\n"));
        });
}

}  // namespace optrel
