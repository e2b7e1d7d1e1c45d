// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/export_service.h"

#include <QString>
#include <algorithm>

#include "base/figure_text.h"
#include "base/station.h"
#include "base/times.h"
#include "jobs.h"
#include "studio/fleet/claim.h"
#include "window_words.h"

namespace optrel {

ExportService::ExportService(Store& store, Jobs& jobs, Messages& messages)
    : store_(store), jobs_(jobs), messages_(messages) {}

void ExportService::keep(const Delivery& delivery) {
    store_.deliveries().put(delivery);
    emit deliveries_changed();
}

void ExportService::remove(const std::string& name) {
    store_.deliveries().remove(name);
    emit deliveries_changed();
}

void ExportService::remember(FilmRule rule) {
    rule.author = current_author();
    rule.time = utc_now();
    store_.film_rules().put(rule);
}

int ExportService::count(ExportState state) const {
    return static_cast<int>(
        std::count_if(queue_.begin(), queue_.end(), [=](const QueuedExport& e) { return e.state == state; }));
}

void ExportService::work(const std::function<void(Store&)>& change, bool going_on) {
    struct Answer {
        std::vector<QueuedExport> queue;
        QString problem;
    };
    auto answer = std::make_shared<Answer>();
    jobs_.run_quietly(
        [answer, change, source = store_.source()] {
            try {
                if (change) {
                    Store store = source.open_for_writing();
                    change(store);
                    answer->queue = store.exports().of(this_station());
                } else {
                    answer->queue = source.open_for_reading()->exports().of(this_station());
                }
            } catch (const std::exception& error) {
                answer->problem = q(error.what());
            }
        },
        [this, answer, going_on] {
            if (!answer->problem.isEmpty()) return messages_.tell(answer->problem, true);
            queue_ = std::move(answer->queue);
            emit changed();
            if (going_on) go_on();
        });
}

void ExportService::reload(bool going_on) { work({}, going_on); }

void ExportService::add(std::vector<std::filesystem::path> frames, const Delivery& delivery,
                        const std::filesystem::path& folder) {
    work([frames = std::move(frames), delivery,
          folder](Store& store) { store.exports().add(this_station(), frames, delivery, folder); },
         true);
}

void ExportService::try_again() {
    work([](Store& store) { store.exports().try_again(this_station()); }, true);
}
void ExportService::clear_done() {
    work([](Store& store) { store.exports().clear(this_station(), ExportState::done); }, false);
}
void ExportService::clear_waiting() {
    work([](Store& store) { store.exports().clear(this_station(), ExportState::waiting); }, false);
}

void ExportService::go_on() {
    pausing_ = false;
    if (running_ || count(ExportState::waiting) + count(ExportState::writing) == 0) return;
    if (!claim_) claim_ = export_claim(store_.source());
    if (!claim_)
        return messages_.tell(
            "Another window of this station, or a station of the same name, works on the queue of exports.", true);
    running_ = true;
    in_this_go_ = 0;
    since_.start();
    emit changed();
    next();
}

void ExportService::next() {
    // On a server, a suspended program loses the role.
    if (!claim_->held()) {
        claim_.reset();
        running_ = false;
        return go_on();
    }
    struct Answer {
        std::optional<QueuedExport> item;
        QString problem;
        bool cancelled = false;
    };
    auto answer = std::make_shared<Answer>();
    jobs_.run(
        "Exporting",
        [answer, source = store_.source()](Progress& progress) {
            try {
                Store store = source.open_for_writing();
                answer->item = export_next(store, this_station(), progress);
            } catch (const Cancelled&) {
                answer->cancelled = true;
            } catch (const std::exception& error) {
                answer->problem = q(error.what());
            }
        },
        [this, answer] {
            if (!answer->problem.isEmpty()) messages_.tell(answer->problem, true);
            took(answer->item);
            if (answer->item && !pausing_) return next();
            running_ = false;
            if (answer->cancelled || pausing_)
                messages_.tell(QString("The exports stand still; %1 wait.").arg(count(ExportState::waiting)));
            emit changed();
        });
}

void ExportService::took(const std::optional<QueuedExport>& item) {
    if (!item) return;
    ++in_this_go_;
    const auto same = std::lower_bound(queue_.begin(), queue_.end(), *item, [](const auto& a, const auto& b) {
        return std::pair(a.order, a.position) < std::pair(b.order, b.position);
    });
    if (same != queue_.end() && same->order == item->order && same->position == item->position) *same = *item;
    emit changed();
}

QString ExportService::summary() const {
    if (queue_.empty()) return "Nothing is queued.";
    const int done = count(ExportState::done), failed = count(ExportState::failed),
              waiting = static_cast<int>(queue_.size()) - done - failed;
    QString text = QString("%1 of %2 exported").arg(done).arg(queue_.size());
    if (failed > 0) text += QString(", %1 failed").arg(failed);
    if (waiting == 0) return text + ".";
    if (!running_) return text + QString(", %1 wait.").arg(waiting);
    if (in_this_go_ == 0) return text + ".";
    const double seconds = since_.elapsed() / 1000.0 / in_this_go_ * waiting;
    return text + (seconds < 90 ? QString(", about %1 s left.").arg(std::max(1L, std::lround(seconds)))
                                : QString(", about %1 min left.").arg(std::lround(seconds / 60)));
}

}  // namespace optrel
