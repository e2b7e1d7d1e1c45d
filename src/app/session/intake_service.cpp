// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/intake_service.h"

#include <QString>

#include "base/station.h"
#include "base/times.h"
#include "jobs.h"
#include "studio/fleet/claim.h"
#include "studio/intake/watching.h"
#include "window_words.h"

namespace optrel {

IntakeService::IntakeService(Store& store, Jobs& jobs, Messages& messages)
    : SessionPart(store, messages, {"intake", "arrivals"}), jobs_(jobs) {
    remember();
    again_.setSingleShot(true);
    again_.setInterval(5000);
    connect(&again_, &QTimer::timeout, this, [this] { messages_.attempt([this] { watch(); }); });
}

IntakeService::~IntakeService() { end(); }

void IntakeService::put(IntakeFolder folder) {
    folder.author = current_author();
    folder.time = utc_now();
    store_.intake().put(folder);
    watch();
}

void IntakeService::remove(const std::filesystem::path& folder) {
    store_.intake().remove(folder);
    watch();
}

void IntakeService::tell_of_arrivals() {
    remember("arrivals");
    emit arrived();
}

void IntakeService::take_over(const std::vector<std::string>& stamps) {
    for (const std::string& stamp : stamps)
        if (stamp == "arrivals")
            emit arrived();
        else if (watching_ || again_.isActive() || count_ == 0)
            messages_.attempt([this] { watch(); });
        else
            emit changed();  // the user stopped it
}

void IntakeService::watch() {
    end();
    remember("intake");
    why_not_.clear();
    std::vector<IntakeFolder> folders;
    for (IntakeFolder& f : store_.intake().folders())
        if (f.on) folders.push_back(std::move(f));
    count_ = static_cast<int>(folders.size());
    if (!folders.empty() && store_.writable()) {
        if (auto claim = intake_claim(store_.source())) {
            claim_ = std::move(claim);
            progress_ = std::make_unique<Progress>();
            watching_ = true;
            thread_ = std::thread([this, folders = std::move(folders), author = current_author()]() mutable {
                run(std::move(folders), author);
            });
        } else {
            why_not_ = "Another program or station watches these folders.";
            again_.start();
        }
    }
    emit changed();
}

/// Without a message.
void IntakeService::end() {
    again_.stop();
    if (progress_) progress_->cancel();
    if (thread_.joinable()) thread_.join();
    progress_.reset();
    claim_.reset();
    watching_ = false;
    waiting_ = 0;
}

void IntakeService::stop() {
    end();
    why_not_ = "Stopped; what arrives meanwhile is taken in when watching goes on.";
    emit changed();
}

/// On the watching thread.
void IntakeService::run(std::vector<IntakeFolder> folders, const std::string& author) {
    // Frames of one scan are reported together.
    bool news = false;
    const auto tell = [this](const QString& text, bool serious) {
        jobs_.post([this, text, serious] { messages_.tell(text, serious); });
    };
    try {
        Watching::Manner manner;
        manner.ours = [this] { return claim_->held(); };
        Watching watching(store_.source(), std::move(folders), author, manner,
                          {[&](const ArrivalResult&, const IntakeReport&, const IntakeFolder&) { news = true; },
                           [&](const std::string& sentence) {
                               tell(QString::fromStdString(sentence), true);
                               news = true;
                           }});
        while (watching.step(*progress_)) {
            const bool others = waiting_.exchange(watching.waiting()) != watching.waiting();
            if (news || others)
                jobs_.post([this, news] {
                    emit changed();
                    if (news) tell_of_arrivals();
                });
            news = false;
        }
    } catch (const Cancelled&) {
        return;
    } catch (const std::exception& error) {
        jobs_.post([this, problem = q(error.what())] { ended(problem); });
    }
}

void IntakeService::ended(const QString& problem) {
    end();
    why_not_ = problem;
    messages_.tell(problem, true);
    emit changed();
}

QString IntakeService::state() const {
    if (count_ == 0) return "No folder is watched.";
    if (!watching_) return "Not watching. " + why_not_;
    QString text = count_ == 1 ? QString("Watching 1 folder") : QString("Watching %1 folders").arg(count_);
    const int n = waiting_;
    if (n == 1) text += "; 1 frame is still being copied";
    if (n > 1) text += QString("; %1 frames are still being copied").arg(n);
    return text + ".";
}

}  // namespace optrel
