// SPDX-License-Identifier: GPL-3.0-or-later
// State that the panels of Baselines share: resolver of the draft, selection, and derived facts.
#pragma once

#include <memory>
#include <optional>

#include "session/parts.h"
#include "studio/frames/knowledge.h"

namespace optrel {

/// Subject of a cell, a trace or a probe.
struct Subject {
    QString label;
    FrameFacts facts;
};

class DraftView : public QObject {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, BaselineModel, ProfileModel, ApprovalService, SharingService,
                         PresenceService, Jobs, Messages>;
    explicit DraftView(const Parts& parts);

    const Parts& parts() const { return parts_; }
    const Resolver& resolver() const { return *resolver_; }
    std::shared_ptr<const Resolver> resolver_shared() const { return resolver_; }

    Field field() const { return field_; }
    void choose_field(Field field);
    /// Selected tier of the draft; null when none is selected.
    const Tier* tier() const;
    void choose_tier(const std::string& id);
    const Subject& subject() const { return subject_; }
    void choose_subject(Subject subject);

    /// Computed by a worker after each change; may be out of date for a moment.
    struct Report {
        std::unordered_map<std::string, Reach> reach;  ///< by tier id
        std::vector<LintFinding> findings;
    };
    const Report& report() const { return *report_; }

    /// Registered bodies, then models with an unknown body; without ISO.
    std::vector<Subject> subjects() const;
    /// Facts of a body at an ISO, with the settings recorded there.
    FrameFacts facts_for(const Body& body, double iso) const {
        return optrel::facts_for(body, iso, parts_.frames().knowledge().habits);
    }
    /// Facts of a subject at an ISO, with the settings recorded there.
    Subject at_iso(Subject subject, double iso) const;
    QString text_of(Field field, const Value& value) const;
    /// Name of a tier for display; automatic names use the label of the body.
    QString name_of(const Tier& tier) const;

signals:
    void draft_changed();
    void field_changed();
    void tier_changed();
    void subject_changed();
    void report_changed();
    void lint_changed();

private:
    void refresh();
    void work_out();
    void find_lint(int number);

    Parts parts_;
    std::shared_ptr<const Resolver> resolver_;
    Field field_ = Field::luminance_noise;
    std::string tier_id_;
    Subject subject_;
    std::shared_ptr<const Report> report_ = std::make_shared<Report>();
    int work_number_ = 0;
};

}  // namespace optrel
