#include "attention/attention_place.h"

#include <QFileDialog>

#include "jobs.h"
#include "rollout/rollout.h"

namespace optrel {

AttentionPlace::AttentionPlace(Session& session) : PlaceWidget(theme::Place::attention, session) {
    settle_ = button("&Settle", "Goes to where the chosen item is settled", true);
    connect(settle_, &QPushButton::clicked, this, [this] {
        const int row = list_->chosen();
        if (row >= 0 && row < static_cast<int>(items_.size())) items_[row].settle();
    });
    actions_->addWidget(settle_);
    calm_ = new QLabel("✓ Nothing needs you. Frames are on the current revision, every lens in use has a profile, and the draft equals what is published.");
    body_->addWidget(calm_);
    list_ = new Table("What needs attention", {{"What", false, false, 330}, {"Frames", true, false, 70}, {"Why, and what it means", false, false, 0}, {"Settle it by", false, false, 200}});
    connect(list_, &QAbstractItemView::doubleClicked, settle_, &QPushButton::click);
    connect(list_, &QAbstractItemView::activated, settle_, &QPushButton::click);
    connect(list_, &Table::chosen_changed, this, [this](int row) { settle_->setEnabled(row >= 0); });
    body_->addWidget(list_, 1);
    for (const auto signal : {&Session::frames_changed, &Session::fleet_changed, &Session::profiles_changed, &Session::baselines_changed, &Session::sheets_changed})
        connect(&session_, signal, this, &AttentionPlace::refresh);
    refresh();
}

void AttentionPlace::refresh() {
    items_.clear();
    const auto go = [this](theme::Place place) { return [this, place] { emit session_.go_to(static_cast<int>(place)); }; };
    if (session_.frames().empty())
        items_.push_back({"No frames are known", "Optrel needs a folder of frames: bodies and lenses are taken from what they report.", "choosing a folder", 0, false, [this] {
                              const QString folder = QFileDialog::getExistingDirectory(this, "Folder with frames");
                              if (!folder.isEmpty()) session_.add_folder(folder);
                          }});
    std::map<std::string, int> without_profile;
    int no_lens = 0, no_body = 0, behind = 0, unreadable = 0;
    for (const FrameRecord& f : session_.frames()) {
        if (f.metadata.lens.empty())
            ++no_lens;
        else if (!best_profile(session_.profiles(), f.metadata, geometry_of(f.metadata)).usable())
            ++without_profile[f.metadata.lens];
        if (identify_body(f.metadata, session_.bodies()).knowledge == BodyAnswer::Knowledge::unknown) ++no_body;
        if (const Sheet* sheet = session_.sheet(f.path)) {
            const FrameState state = sheet->state();
            behind += (state == FrameState::untouched || state == FrameState::on_baseline) && sheet->revision < session_.current().number;
        } else if (!session_.sheet_problem(f.path).isEmpty()) {
            ++unreadable;
        }
    }
    for (const auto& [lens, n] : without_profile)
        items_.push_back({"No profile fits " + q(lens), "Its frames are developed without correction of distortion, fringe and falloff.", "measuring it on the Bench", n, true, go(theme::Place::bench)});
    if (no_lens) items_.push_back({"Frames name no lens", "Without the lens no profile can be chosen for them.", "looking at them in Inspect", no_lens, false, go(theme::Place::inspect)});
    if (no_body) items_.push_back({"The body of some frames is unknown", "They report no serial number and the fleet has several bodies of the model, or none.", "looking at Fleet", no_body, false, go(theme::Place::fleet)});
    if (unreadable) items_.push_back({"Sidecars that cannot be read", "They are damaged or were written by something else; Optrel leaves them as they are.", "looking at them in Inspect", unreadable, true, go(theme::Place::inspect)});
    const std::size_t changes = difference(session_.current(), session_.draft()).size();
    if (changes) items_.push_back({"The draft is not published", QString(changes == 1 ? "One change waits in Baselines; no frame gets it until it is published." : "%1 changes wait in Baselines; no frame gets them until they are published.").replace("%1", QString::number(changes)), "publishing it in Baselines", 0, false, go(theme::Place::baselines)});
    for (const Conflict& c : find_conflicts(session_.draft().tiers)) items_.push_back({"Two tiers are in conflict", q(c.sentence()), "mending it in Baselines", 0, true, go(theme::Place::baselines)});
    if (behind) items_.push_back({QString("Frames behind revision %1").arg(session_.current().number), "They still have an older baseline, or none.", "rehearsing in Rollout", behind, false, go(theme::Place::rollout)});
    std::vector<RolloutRecord> rollouts;
    session_.attempt([&] { rollouts = list_rollouts(session_.store().rollouts_folder()); });
    for (const RolloutRecord& r : rollouts)
        if (r.status == RolloutStatus::writing || r.status == RolloutStatus::rolling_back)
            items_.push_back({QString("Rollout %1 was stopped half-way").arg(r.number), "Every sidecar is whole; it can go on or be taken back.", "going on in Rollout", r.frames, true, go(theme::Place::rollout)});
    std::vector<Row> rows;
    for (const Item& i : items_)
        rows.push_back({Cell((i.serious ? "! " : "· ") + i.what, i.serious ? Cell::Tone::serious : Cell::Tone::plain), i.count ? Cell(QString::number(i.count), i.count) : Cell(), Cell(i.detail), Cell(i.action, Cell::Tone::mark)});
    list_->set_rows(std::move(rows));
    calm_->setVisible(items_.empty());
    list_->setVisible(!items_.empty());
    settle_->setVisible(!items_.empty());
    if (list_->chosen() < 0) list_->choose(0);
    settle_->setEnabled(list_->chosen() >= 0);
}

}  // namespace optrel
